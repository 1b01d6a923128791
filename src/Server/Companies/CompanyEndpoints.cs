using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Ledger;

namespace SteadyLark.Server.Companies;

/// <param name="Liability">Limit of its liability insurance, in dollars.</param>
/// <param name="Cargo">Limit of its cargo insurance, in dollars.</param>
/// <param name="AgreementOn">When it signed our broker-carrier agreement.</param>
public sealed record CarrierFileRequest(
    string? Usdot,
    bool AuthorityActive,
    LocalDate? LiabilityUntil,
    LocalDate? CargoUntil,
    string? DoNotUse,
    Money? Liability = null,
    Money? Cargo = null,
    SafetyRating Safety = SafetyRating.None,
    LocalDate? AgreementOn = null
);

/// <param name="IsVendor">Whether it is a vendor other than a carrier.</param>
/// <param name="PayDays">Days from its bill to the due date; 30 when omitted.</param>
/// <param name="QuickPayPercent">Percent it gives up to be paid early; omitted when it offers no quick pay.</param>
/// <param name="QuickPayDays">Days from the approval in which quick pay is paid; 1 when omitted.</param>
/// <param name="PayWhenPaid">Whether its bills are paid once the customer has paid.</param>
/// <param name="CreditLimit">The most it may owe us; no limit when omitted.</param>
/// <param name="Currency">What it is billed and paid in; US dollars when omitted.</param>
/// <param name="Version">Of the company that was edited; omitted for a new one.</param>
public sealed record CompanyRequest(
    string? Name,
    string? Phone,
    string? Email,
    string? Address,
    string? Town,
    string? Region,
    bool IsCustomer,
    bool IsCarrier,
    int? TermsDays,
    string? Note,
    CarrierFileRequest? Carrier,
    int? Version,
    Money? CreditLimit = null,
    bool IsVendor = false,
    int? PayDays = null,
    decimal? QuickPayPercent = null,
    int? QuickPayDays = null,
    bool PayWhenPaid = false,
    Currency? Currency = null
);

public sealed record CompanyView(CompanyRow Company, CompanyBalances Balances);

public static class CompanyEndpoints
{
    public static void MapCompanies(this RouteGroupBuilder api)
    {
        api.MapGet(
                "/companies",
                async (
                    string? q,
                    bool? customers,
                    bool? carriers,
                    bool? vendors,
                    string? after,
                    int? limit,
                    CallerReads reads,
                    IClock clock,
                    BusinessZone zone
                ) =>
                {
                    var today = clock.GetCurrentInstant().InZone(zone.Zone).Date;
                    var max = Math.Clamp(limit ?? 50, 1, 500);
                    await using var db = await reads.Open();
                    var required = (await CompanySettingsStore.Read(db)).CarrierRequirements;
                    if (!string.IsNullOrWhiteSpace(q))
                    {
                        var found = await CompanyStore.Like(db, q.Trim(), customers, carriers, max, vendors);
                        return new Page<CompanyRow>(found.ConvertAll(c => CompanyStore.Judged(c, required, today)), null);
                    }

                    var rows = await CompanyStore.List(db, customers, carriers, after, max, vendors);
                    return new Page<CompanyRow>(
                        rows.ConvertAll(c => CompanyStore.Judged(c, required, today)),
                        rows.Count == max ? rows[^1].Name : null
                    );
                }
            )
            .Needs(Right.CompaniesSee)
            .WithName("listCompanies");

        api.MapGet("/companies/{id:long}", async Task<IResult> (long id, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                await using var db = await reads.Open();
                var today = clock.GetCurrentInstant().InZone(zone.Zone).Date;
                return await CompanyStore.Get(db, id) is { } company
                    ? TypedResults.Ok(
                        new CompanyView(
                            CompanyStore.Judged(company, (await CompanySettingsStore.Read(db)).CarrierRequirements, today),
                            await CompanyStore.Balances(db, id, today)
                        )
                    )
                    : Answers.NotFound("This company");
            })
            .Needs(Right.CompaniesSee)
            .Produces<CompanyView>()
            .ProducesProblem(404)
            .WithName("getCompany");

        api.MapPost("/companies", (CompanyRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Write(w, null, request))
            )
            .Needs(Right.CompaniesEdit)
            .WithName("addCompany");

        api.MapPut("/companies/{id:long}", (long id, CompanyRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Write(w, id, request))
            )
            .Needs(Right.CompaniesEdit)
            .WithName("changeCompany");
    }

    /// <summary>Creates or edits a company.</summary>
    public static async Task<Outcome<CompanyRow>> Write(CommandContext w, long? id, CompanyRequest r)
    {
        var validation = new Validation();
        var name = validation.Text(r.Name, "name", "The name", 120, required: true);
        var email = validation.Text(r.Email, "email", "The email address", 200);
        if (email is not null && !Eml.IsAddress(email))
        {
            validation.Add("mail.address", "This is not an email address. Use the form name@company.example.", "email");
        }

        Terms.Check(r.TermsDays, validation, "termsDays");
        Terms.Check(r.PayDays, validation, "payDays");
        VendorTerms.Check(r.QuickPayPercent, r.QuickPayDays, validation);
        if (!r.IsCustomer && !r.IsCarrier && !r.IsVendor)
        {
            validation.Add("missing", "Choose a role: customer, carrier or vendor.", "isCustomer");
        }

        var row = new CompanyRow(
            id ?? 0,
            name ?? "",
            validation.Text(r.Phone, "phone", "The phone number", 40),
            email,
            validation.Text(r.Address, "address", "The address"),
            validation.Text(r.Town, "town", "The town", 80),
            validation.Text(r.Region, "region", "The state or province", 2)?.ToUpperInvariant(),
            r.IsCustomer,
            r.IsCarrier,
            r.TermsDays ?? 30,
            validation.Text(r.Note, "note", "The note", 2000),
            r.Version ?? 0,
            r.IsCarrier
                ? new CarrierFile(
                    validation.Text(r.Carrier?.Usdot, "carrier.usdot", "The USDOT number", 12),
                    r.Carrier?.AuthorityActive ?? false,
                    r.Carrier?.LiabilityUntil,
                    r.Carrier?.CargoUntil,
                    validation.Text(r.Carrier?.DoNotUse, "carrier.doNotUse", "The reason", 200),
                    r.Carrier?.Liability,
                    r.Carrier?.Cargo,
                    r.Carrier?.Safety ?? SafetyRating.None,
                    r.Carrier?.AgreementOn
                )
                : null,
            r.CreditLimit,
            r.IsVendor,
            r.PayDays ?? 30,
            r.QuickPayPercent,
            r.QuickPayDays ?? 1,
            r.PayWhenPaid,
            r.Currency ?? Currency.USD
        );
        validation.Dollars(r.CreditLimit, "creditLimit", "The credit limit", required: false, above: false, row.Currency);
        validation.Dollars(r.Carrier?.Liability, "carrier.liability", "The liability insurance", required: false);
        validation.Dollars(r.Carrier?.Cargo, "carrier.cargo", "The cargo insurance", required: false);
        validation.Date(r.Carrier?.AgreementOn, w.Today, "carrier.agreementOn", "The date of the agreement", required: false);
        if (row.Carrier?.Usdot is { } dot && !dot.All(char.IsAsciiDigit))
        {
            validation.Add("usdot", "A USDOT number contains digits only.", "carrier.usdot");
        }

        if (!await ExchangeStore.HasRate(w.Db, row.Currency))
        {
            validation.Add(
                "rate.missing",
                $"Enter an exchange rate for {row.Currency.Format()} first, in Ledger under Exchange rates.",
                "currency"
            );
        }

        if (name is not null && await CompanyStore.NameTaken(w.Db, name, id))
        {
            validation.Add("name.taken", $"{name} is already in the address book.", "name");
        }

        var before = id is { } known ? await CompanyStore.Get(w.Db, known) : null;
        if (id is not null && before is null)
        {
            return Problem.Missing("This company");
        }

        if (
            before is not null
            && ((before.IsCustomer && !r.IsCustomer) || (before.IsCarrier && !r.IsCarrier) || (before.IsVendor && !r.IsVendor))
        )
        {
            validation.Add("company.kind", "A role with history cannot be removed; mark the carrier do not use instead.", "isCustomer");
        }

        validation.AddRange(
            CompanyChanges.Refuses(
                w.Actor.May,
                before?.CreditLimit != row.CreditLimit,
                (before?.Carrier ?? CarrierFile.None) != (row.Carrier ?? CarrierFile.None)
            )
        );
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        if (before is null)
        {
            var made = await CompanyStore.Add(w.Db, row);
            w.Record(EventKinds.CompanyAdded, made, $"{name} added to the address book", after: row);
            return (await CompanyStore.Get(w.Db, made))!;
        }

        if (before.Currency != row.Currency && await CompanyStore.HasDocuments(w.Db, row.Id))
        {
            return new Problem(
                "currency.used",
                $"{before.Name} has loads or documents in {before.Currency.Format()}: add it again under another name to trade in {row.Currency.Format()}.",
                "currency"
            );
        }

        if (!await CompanyStore.Change(w.Db, row))
        {
            return Versions.Changed(before.Name);
        }

        w.Record(EventKinds.CompanyChanged, before.Id, $"{name} changed", before: before, after: row);
        return (await CompanyStore.Get(w.Db, before.Id))!;
    }
}
