using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;

namespace SteadyLark.Store.Basics;

/// <summary>Company settings and cost assumptions.</summary>
/// <param name="TwoPeople">Whether approval and payment need two different people.</param>
/// <param name="RequestAfterHours">Hours after delivery when missing documents are requested automatically; 0 for never.</param>
/// <param name="GeofenceMiles">Default geofence radius in miles, for places without their own.</param>
/// <param name="MinimumPerMile">Minimum rate in dollars per mile, empty miles included.</param>
/// <param name="RateStep">Dollars to which minimum rates are rounded up.</param>
/// <param name="Clock">Default clock style for users without their own.</param>
/// <param name="DateOrder">Default date order for users without their own.</param>
/// <param name="SecondFactor">Whether every office user needs a second factor.</param>
/// <param name="SoleLimit">The most one person may pay out alone; null for no limit.</param>
/// <param name="DefaultCreditLimit">For customers without a credit limit of their own; null for none.</param>
/// <param name="PayrollTaxPercent">Employer payroll tax in percent of wages.</param>
/// <param name="MinimumWage">Dollars per hour.</param>
/// <param name="TenderHours">Hours a carrier has to answer a tender, unless it is tendered with another time.</param>
/// <param name="Carriers">What every carrier must have.</param>
/// <param name="CarrierDetention">Detention as our rate confirmations offer it.</param>
/// <param name="PastDueHoldDays">Days past due after which a customer's new loads are held; null for never.</param>
public sealed record CompanySettings(
    bool TwoPeople,
    int RequestAfterHours,
    decimal GeofenceMiles,
    decimal MinimumPerMile,
    decimal RateStep,
    CostFigures Costs,
    ClockStyle Clock = ClockStyle.TwentyFourHour,
    DateOrder DateOrder = DateOrder.MonthFirst,
    bool SecondFactor = false,
    Money? SoleLimit = null,
    Money? DefaultCreditLimit = null,
    int? PastDueHoldDays = null,
    decimal PayrollTaxPercent = 7.65m,
    decimal MinimumWage = 7.25m,
    int TenderHours = 4,
    CarrierRequirements? Carriers = null,
    DetentionTerms? CarrierDetention = null,
    decimal EscrowPercent = 0
)
{
    /// <summary>What every carrier must have; the law's when the company sets nothing.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public CarrierRequirements CarrierRequirements => Carriers ?? CarrierRequirements.Legal;

    [System.Text.Json.Serialization.JsonIgnore]
    public DetentionTerms Detention => CarrierDetention ?? DetentionTerms.None;
}

public static class CompanySettingsStore
{
    public static async Task<CompanySettings> Read(NpgsqlConnection db) =>
        (
            await db.Row("select * from business", r => new CompanySettings(
                r.Bool("two_person_approval"),
                r.Int("document_request_hours"),
                r.Decimal("fence_miles"),
                r.Decimal("min_rate_per_mile"),
                r.Decimal("rate_step"),
                new CostFigures(
                    r.Decimal("miles_per_gallon"),
                    r.Decimal("fuel_price"),
                    r.Decimal("driver_per_mile"),
                    r.Decimal("fixed_per_mile"),
                    r.Decimal("fixed_per_day"),
                    r.Decimal("toll_per_mile")
                ),
                r.Enum<ClockStyle>("clock"),
                r.Enum<DateOrder>("date_order"),
                r.Bool("second_factor"),
                r.UsdOrNull("one_person_limit"),
                r.UsdOrNull("default_credit_limit"),
                r.IntOrNull("past_due_hold_days"),
                r.Decimal("payroll_tax_percent"),
                r.Decimal("minimum_wage"),
                r.Int("tender_hours"),
                new CarrierRequirements(
                    r.UsdOrNull("min_liability"),
                    r.UsdOrNull("min_cargo"),
                    r.Bool("agreement_required"),
                    r.Bool("refuse_conditional")
                ),
                new DetentionTerms(r.Int("carrier_free_minutes"), r.UsdOrNull("carrier_detention"), r.UsdOrNull("carrier_detention_cap")),
                r.Decimal("escrow_percent")
            ))
        )!;

    public static Task Write(NpgsqlConnection db, CompanySettings h) =>
        db.Run(
            """
            update business set two_person_approval = @two, document_request_hours = @hours, fence_miles = @fence, min_rate_per_mile =
                @least, rate_step = @step,
                miles_per_gallon = @mpg, fuel_price = @fuel, driver_per_mile = @driver, fixed_per_mile = @perMile, fixed_per_day = @perDay,
                    toll_per_mile = @toll,
                clock = @clock, date_order = @order, second_factor = @second, one_person_limit = @sole,
                default_credit_limit = @credit, past_due_hold_days = @pastDue,
                payroll_tax_percent = @tax, minimum_wage = @wage, tender_hours = @tenderHours, min_liability = @liability,
                min_cargo = @cargo, agreement_required = @agreement, refuse_conditional = @conditional,
                carrier_free_minutes = @free, carrier_detention = @detention, carrier_detention_cap = @detentionCap, escrow_percent = @escrow
            """,
            ("two", h.TwoPeople),
            ("hours", h.RequestAfterHours),
            ("fence", h.GeofenceMiles),
            ("least", h.MinimumPerMile),
            ("step", h.RateStep),
            ("mpg", h.Costs.MilesPerGallon),
            ("fuel", h.Costs.FuelPrice),
            ("driver", h.Costs.DriverPerMile),
            ("perMile", h.Costs.FixedPerMile),
            ("perDay", h.Costs.FixedPerDay),
            ("toll", h.Costs.TollPerMile),
            ("clock", h.Clock),
            ("order", h.DateOrder),
            ("second", h.SecondFactor),
            ("sole", h.SoleLimit),
            ("credit", h.DefaultCreditLimit),
            ("pastDue", h.PastDueHoldDays),
            ("tax", h.PayrollTaxPercent),
            ("wage", h.MinimumWage),
            ("tenderHours", h.TenderHours),
            ("liability", h.CarrierRequirements.Liability),
            ("cargo", h.CarrierRequirements.Cargo),
            ("agreement", h.CarrierRequirements.Agreement),
            ("conditional", h.CarrierRequirements.RefuseConditional),
            ("free", h.Detention.FreeMinutes),
            ("detention", h.Detention.PerHour),
            ("detentionCap", h.Detention.Cap),
            ("escrow", h.EscrowPercent)
        );
}
