using Npgsql;
using SteadyLark.Core.Trips;

namespace SteadyLark.Store.Basics;

/// <summary>The rules of the house, and what it reckons with.</summary>
/// <param name="TwoPeople">What one approved another pays.</param>
/// <param name="RequestAfterHours">Hours after a delivery at which missing papers are asked for by themselves; 0 for never.</param>
/// <param name="GeofenceMiles">Radius of the fence of a place that has none of its own.</param>
/// <param name="MinimumPerMile">Dollars a mile under which no load is hauled, empty miles counted.</param>
/// <param name="RateStep">Dollars to which least rates are rounded up.</param>
public sealed record CompanySettings(bool TwoPeople, int RequestAfterHours, decimal GeofenceMiles, decimal MinimumPerMile, decimal RateStep, CostFigures Costs);

public static class CompanySettingsStore
{
    public static async Task<CompanySettings> Read(NpgsqlConnection db) =>
        (await db.Row("select * from business", r => new CompanySettings(
            r.Bool("two_people"), r.Int("ask_after_hours"), r.Decimal("fence_miles"), r.Decimal("least_per_mile"), r.Decimal("rate_step"),
            new CostFigures(r.Decimal("miles_per_gallon"), r.Decimal("fuel_price"), r.Decimal("driver_per_mile"), r.Decimal("fixed_per_mile"), r.Decimal("fixed_per_day"), r.Decimal("toll_per_mile")))))!;

    public static Task Write(NpgsqlConnection db, CompanySettings h) =>
        db.Run(
            """
            update business set two_people = @two, ask_after_hours = @hours, fence_miles = @fence, least_per_mile = @least, rate_step = @step,
                miles_per_gallon = @mpg, fuel_price = @fuel, driver_per_mile = @driver, fixed_per_mile = @perMile, fixed_per_day = @perDay, toll_per_mile = @toll
            """,
            ("two", h.TwoPeople), ("hours", h.RequestAfterHours), ("fence", h.GeofenceMiles), ("least", h.MinimumPerMile), ("step", h.RateStep),
            ("mpg", h.Costs.MilesPerGallon), ("fuel", h.Costs.FuelPrice), ("driver", h.Costs.DriverPerMile), ("perMile", h.Costs.FixedPerMile), ("perDay", h.Costs.FixedPerDay), ("toll", h.Costs.TollPerMile));
}
