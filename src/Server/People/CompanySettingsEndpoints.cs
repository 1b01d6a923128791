using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.People;

/// <summary>Company settings to change; omitted ones stay as they are.</summary>
/// <param name="GeofenceMiles">Default geofence radius, 0.02 to 50 miles.</param>
/// <param name="MinimumPerMile">Dollars per mile.</param>
/// <param name="RateStep">Minimum rates are rounded up to a multiple of this many dollars.</param>
/// <param name="SecondFactor">Whether every office user needs a second factor.</param>
/// <param name="SoleLimit">The most dollars one person may pay out alone; 0 for no limit.</param>
/// <param name="DefaultCreditLimit">Dollars, for customers without a credit limit of their own; 0 for no limit.</param>
/// <param name="PayrollTaxPercent">Employer payroll tax in percent of wages, 0 to 40.</param>
/// <param name="MinimumWage">Dollars per hour, 0 to 100.</param>
/// <param name="EscrowPercent">Interest on owner-operators' escrow, percent per year, 0 to 20.</param>
/// <param name="TenderHours">Hours a carrier has to answer a tender, 1 to 168.</param>
/// <param name="MinLiability">The least liability insurance of a carrier, in dollars; 0 for the legal minimum.</param>
/// <param name="MinCargo">The least cargo insurance of a carrier, in dollars; 0 for none.</param>
/// <param name="AgreementRequired">Whether carriers must have signed our agreement.</param>
/// <param name="RefuseConditional">Whether carriers with a conditional safety rating are refused.</param>
/// <param name="CarrierFreeMinutes">Free minutes of a carrier at each stop, 0 to 2,880.</param>
/// <param name="CarrierDetention">Dollars per hour after that; 0 for none offered.</param>
/// <param name="CarrierDetentionCap">The most per stop, in dollars; 0 for no limit.</param>
/// <param name="PastDueHoldDays">Days past due after which a customer's new loads are held; 0 for never.</param>
public sealed record CompanySettingsRequest(
    bool? TwoPeople = null,
    int? RequestAfterHours = null,
    decimal? GeofenceMiles = null,
    decimal? MinimumPerMile = null,
    decimal? RateStep = null,
    decimal? MilesPerGallon = null,
    decimal? FuelPrice = null,
    decimal? DriverPerMile = null,
    decimal? FixedPerMile = null,
    decimal? FixedPerDay = null,
    decimal? TollPerMile = null,
    ClockStyle? Clock = null,
    DateOrder? DateOrder = null,
    bool? SecondFactor = null,
    decimal? SoleLimit = null,
    decimal? DefaultCreditLimit = null,
    int? PastDueHoldDays = null,
    decimal? PayrollTaxPercent = null,
    decimal? MinimumWage = null,
    decimal? EscrowPercent = null,
    int? TenderHours = null,
    decimal? MinLiability = null,
    decimal? MinCargo = null,
    bool? AgreementRequired = null,
    bool? RefuseConditional = null,
    int? CarrierFreeMinutes = null,
    decimal? CarrierDetention = null,
    decimal? CarrierDetentionCap = null
);

/// <summary>Our own company, as shown on documents and emails.</summary>
/// <param name="Logo">A PNG, base64.</param>
public sealed record CompanyIdentity(
    string? Name,
    string? Address,
    string? Phone,
    string? Email,
    string? Usdot,
    string? McNumber,
    string? Zone,
    string? Logo
);

/// <summary>Company settings.</summary>
public static class CompanySettingsEndpoints
{
    public static void MapCompanySettings(this RouteGroupBuilder api)
    {
        api.MapGet("/company-settings", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await CompanySettingsStore.Read(db);
            })
            .Needs(Right.CompaniesSee)
            .WithName("getCompanySettings");

        api.MapPut("/company-settings", (CompanySettingsRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Change(w, request))
            )
            .Needs(Right.SetupEdit)
            .Confirmed()
            .WithName("changeCompanySettings");

        api.MapGet("/company", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return View((await Business.ReadForPrint(db))!);
            })
            .Needs(Right.CompaniesSee)
            .WithName("getOurCompany");

        api.MapPut("/company", (CompanyIdentity request, HttpContext http, Commands commands, BusinessZone zone) =>
                commands.Run(http, w => ChangeIdentity(w, request, zone))
            )
            .Needs(Right.SetupEdit)
            .Confirmed()
            .WithName("changeOurCompany");

        api.MapGet("/company/payment-details", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return (await Business.Read(db))!.Payment;
            })
            .Needs(Right.SetupEdit)
            .WithName("getPaymentDetails");

        api.MapPut("/company/payment-details", (PaymentDetails request, HttpContext http, Commands commands) =>
                commands.Run(http, w => ChangePayment(w, request))
            )
            .Needs(Right.SetupEdit)
            .Confirmed()
            .WithName("changePaymentDetails");
    }

    private static async Task<Outcome<PaymentDetails>> ChangePayment(CommandContext w, PaymentDetails request)
    {
        var validation = new Validation();
        var details = request.Check(validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var before = (await Business.Read(w.Db))!.Payment;
        await Business.WritePayment(w.Db, details);
        w.Record(EventKinds.SetupPaymentChanged, 0, "Our remit-to, tax ID or bank account changed", before: before, after: details);
        return details;
    }

    private static CompanyIdentity View(Business b) =>
        new(b.Name, b.Address, b.Phone, b.Email, b.Usdot, b.McNumber, b.Zone, b.Logo is null ? null : Convert.ToBase64String(b.Logo));

    private static async Task<Outcome<CompanyIdentity>> ChangeIdentity(CommandContext w, CompanyIdentity r, BusinessZone zone)
    {
        var validation = new Validation();
        var draft = CompanyRules.Check(new CompanyDraft(r.Name, r.Address, r.Phone, r.Email, r.Usdot, r.McNumber, r.Zone), validation);
        var logo = CompanyLogo.Read(r.Logo, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var before = (await Business.Read(w.Db))!;
        var after = before with
        {
            Name = draft.Name!,
            Address = draft.Address!,
            Phone = draft.Phone!,
            Email = draft.Email!,
            Usdot = draft.Usdot,
            McNumber = draft.McNumber,
            Zone = draft.Zone!,
            Logo = logo,
        };
        await Business.Change(w.Db, after);
        w.Record(
            EventKinds.SetupCompanyChanged,
            0,
            "Company name, address or numbers changed",
            before: View(before),
            after: View(after) with
            {
                Logo = null,
            }
        );
        zone.Zone = WallClock.Zone(after.Zone)!;
        return View(after);
    }

    private static async Task<Outcome<CompanySettings>> Change(CommandContext w, CompanySettingsRequest r)
    {
        var validation = new Validation();
        Within(r.RequestAfterHours, 0, 720, "requestAfterHours", "Document requests go out after 1 to 720 hours, or never with 0.");
        Within(r.GeofenceMiles, 0.02m, 50, "geofenceMiles", "A geofence radius must be 0.02 to 50 miles.");
        Within(r.MinimumPerMile, 0, 100, "minimumPerMile", "The minimum rate must be 0 to 100 dollars per mile.");
        Within(r.RateStep, 0.01m, 1000, "rateStep", "The rounding step must be 0.01 to 1,000 dollars.");
        Within(r.MilesPerGallon, 1, 50, "milesPerGallon", "Fuel economy must be 1 to 50 miles per gallon.");
        Within(r.FuelPrice, 0, 50, "fuelPrice", "The fuel price must be 0 to 50 dollars per gallon.");
        Within(r.DriverPerMile, 0, 50, "driverPerMile", "Driver cost must be 0 to 50 dollars per mile.");
        Within(r.FixedPerMile, 0, 50, "fixedPerMile", "Fixed cost must be 0 to 50 dollars per mile.");
        Within(r.FixedPerDay, 0, 100_000, "fixedPerDay", "Fixed cost must be 0 to 100,000 dollars per day.");
        Within(r.TollPerMile, 0, 50, "tollPerMile", "Tolls must be 0 to 50 dollars per mile.");
        Within(r.SoleLimit, 0, Money.Limit, "soleLimit", "The limit must be 0 to 99,999,999.99 dollars; 0 is no limit.");
        Within(
            r.DefaultCreditLimit,
            0,
            Money.Limit,
            "defaultCreditLimit",
            "The credit limit must be 0 to 99,999,999.99 dollars; 0 is no limit."
        );
        PayrollTerms.Check(r.PayrollTaxPercent, r.MinimumWage, validation);
        Escrow.CheckPercent(r.EscrowPercent, validation);
        Within(r.PastDueHoldDays, 0, 365, "pastDueHoldDays", "New loads are held after 1 to 365 days past due, or never with 0.");
        Within(r.TenderHours, 1, 168, "tenderHours", "Carriers have 1 to 168 hours to answer a tender.");
        Within(r.MinLiability, 0, Money.Limit, "minLiability", "The liability insurance must be 0 to 99,999,999.99 dollars.");
        Within(r.MinCargo, 0, Money.Limit, "minCargo", "The cargo insurance must be 0 to 99,999,999.99 dollars; 0 for none.");
        Within(r.CarrierFreeMinutes, 0, 2880, "carrierFreeMinutes", "Free time must be 0 to 2,880 minutes.");
        Within(r.CarrierDetention, 0, 1000, "carrierDetention", "Detention must be 0 to 1,000 dollars per hour; 0 for none.");
        Within(r.CarrierDetentionCap, 0, 100_000, "carrierDetentionCap", "The most per stop must be 0 to 100,000 dollars; 0 for no limit.");
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var b = await CompanySettingsStore.Read(w.Db);
        var k = b.CarrierRequirements;
        var c = b.Costs;
        await CompanySettingsStore.Write(
            w.Db,
            new CompanySettings(
                r.TwoPeople ?? b.TwoPeople,
                r.RequestAfterHours ?? b.RequestAfterHours,
                r.GeofenceMiles ?? b.GeofenceMiles,
                r.MinimumPerMile ?? b.MinimumPerMile,
                r.RateStep ?? b.RateStep,
                new CostFigures(
                    r.MilesPerGallon ?? c.MilesPerGallon,
                    r.FuelPrice ?? c.FuelPrice,
                    r.DriverPerMile ?? c.DriverPerMile,
                    r.FixedPerMile ?? c.FixedPerMile,
                    r.FixedPerDay ?? c.FixedPerDay,
                    r.TollPerMile ?? c.TollPerMile
                ),
                r.Clock ?? b.Clock,
                r.DateOrder ?? b.DateOrder,
                r.SecondFactor ?? b.SecondFactor,
                Limit(r.SoleLimit, b.SoleLimit),
                Limit(r.DefaultCreditLimit, b.DefaultCreditLimit),
                r.PastDueHoldDays is not { } days ? b.PastDueHoldDays
                    : days == 0 ? null
                    : days,
                r.PayrollTaxPercent ?? b.PayrollTaxPercent,
                r.MinimumWage ?? b.MinimumWage,
                r.TenderHours ?? b.TenderHours,
                new CarrierRequirements(
                    Limit(r.MinLiability, k.Liability),
                    Limit(r.MinCargo, k.Cargo),
                    r.AgreementRequired ?? k.Agreement,
                    r.RefuseConditional ?? k.RefuseConditional
                ),
                new DetentionTerms(
                    r.CarrierFreeMinutes ?? b.Detention.FreeMinutes,
                    Limit(r.CarrierDetention, b.Detention.PerHour),
                    Limit(r.CarrierDetentionCap, b.Detention.Cap)
                ),
                r.EscrowPercent ?? b.EscrowPercent
            )
        );
        var after = await CompanySettingsStore.Read(w.Db);
        if (after.Costs != b.Costs || after.PayrollTaxPercent != b.PayrollTaxPercent)
        {
            await LegCosts.Open(w);
        }

        w.Record(
            EventKinds.SetupCompanyChanged,
            0,
            $"Company settings changed: {(after.TwoPeople ? "approval and payment need two people" : "one person may approve and pay")}; documents requested {(after.RequestAfterHours == 0 ? "manually only" : $"after {after.RequestAfterHours} hours")}; minimum rate ${after.MinimumPerMile:0.00} per mile",
            before: b,
            after: after
        );
        return after;

        // Zero is no limit, and omitted stays as it is.
        static Money? Limit(decimal? asked, Money? now) =>
            asked is not { } limit ? now
            : limit == 0 ? null
            : Money.Usd(limit);

        void Within(decimal? value, decimal min, decimal max, string field, string message)
        {
            if (value < min || value > max)
            {
                validation.Add("out.of.range", message, field);
            }
        }
    }
}
