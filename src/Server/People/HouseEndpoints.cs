using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.People;

/// <summary>What is to change of the rules of the house; what is left out stays.</summary>
/// <param name="FenceMiles">Radius in miles of the fence of a place that has none of its own, 0.02 to 50.</param>
/// <param name="LeastPerMile">Dollars a mile.</param>
/// <param name="RateStep">Dollars to which least rates are rounded up.</param>
public sealed record HouseRulesRequest(
    bool? TwoPeople = null, int? AskAfterHours = null, decimal? FenceMiles = null, decimal? LeastPerMile = null, decimal? RateStep = null,
    decimal? MilesPerGallon = null, decimal? FuelPrice = null, decimal? DriverPerMile = null, decimal? FixedPerMile = null, decimal? FixedPerDay = null, decimal? TollPerMile = null);

/// <summary>The rules of the house.</summary>
public static class HouseEndpoints
{
    public static void MapHouse(this RouteGroupBuilder api)
    {
        api.MapGet("/house", async (NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await HouseStore.Read(db);
        }).Needs(Right.CompaniesSee).WithName("getHouseRules");

        api.MapPut("/house", (HouseRulesRequest request, HttpContext http, Commands commands) => commands.Run(http, w => Change(w, request))).Needs(Right.SetupEdit).WithName("changeHouseRules");
    }

    private static async Task<Outcome<House>> Change(Work w, HouseRulesRequest r)
    {
        var checks = new Checks();
        Within(r.AskAfterHours, 0, 720, "askAfterHours", "Papers are asked for after 1 to 720 hours, or never with 0.");
        Within(r.FenceMiles, 0.02m, 50, "fenceMiles", "A fence has a radius of 0.02 to 50 miles.");
        Within(r.LeastPerMile, 0, 100, "leastPerMile", "The least rate is 0 to 100 dollars a mile.");
        Within(r.RateStep, 0.01m, 1000, "rateStep", "Rates are rounded up to 0.01 to 1,000 dollars.");
        Within(r.MilesPerGallon, 1, 50, "milesPerGallon", "A truck makes 1 to 50 miles on a gallon.");
        Within(r.FuelPrice, 0, 50, "fuelPrice", "A gallon costs 0 to 50 dollars.");
        Within(r.DriverPerMile, 0, 50, "driverPerMile", "A driver costs 0 to 50 dollars a mile.");
        Within(r.FixedPerMile, 0, 50, "fixedPerMile", "Fixed cost is 0 to 50 dollars a mile.");
        Within(r.FixedPerDay, 0, 100_000, "fixedPerDay", "Fixed cost is 0 to 100,000 dollars a day.");
        Within(r.TollPerMile, 0, 50, "tollPerMile", "Tolls are 0 to 50 dollars a mile.");
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var b = await HouseStore.Read(w.Db);
        var c = b.Costs;
        await HouseStore.Write(w.Db, new House(
            r.TwoPeople ?? b.TwoPeople, r.AskAfterHours ?? b.AskAfterHours, r.FenceMiles ?? b.FenceMiles, r.LeastPerMile ?? b.LeastPerMile, r.RateStep ?? b.RateStep,
            new CostFigures(
                r.MilesPerGallon ?? c.MilesPerGallon, r.FuelPrice ?? c.FuelPrice, r.DriverPerMile ?? c.DriverPerMile, r.FixedPerMile ?? c.FixedPerMile, r.FixedPerDay ?? c.FixedPerDay, r.TollPerMile ?? c.TollPerMile)));
        var after = await HouseStore.Read(w.Db);
        await Events.Add(w, "setup.house_changed", "business", 0, $"{(after.TwoPeople ? "What one approves another pays" : "One person may approve and pay")}; papers are asked for {(after.AskAfterHours == 0 ? "by hand only" : $"after {after.AskAfterHours} hours")}; no load under ${after.LeastPerMile:0.00} a mile", before: b);
        return after;

        void Within(decimal? value, decimal least, decimal most, string field, string message)
        {
            if (value < least || value > most)
            {
                checks.Add("out.of.range", message, field);
            }
        }
    }
}
