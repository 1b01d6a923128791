using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.People;

/// <param name="TwoPeople">What one approved another pays.</param>
/// <param name="AskAfterHours">Hours after a delivery at which missing papers are asked for by themselves; 0 for never.</param>
public sealed record HouseRules(bool TwoPeople, int AskAfterHours);

public sealed record HouseRulesRequest(bool TwoPeople, int? AskAfterHours);

/// <summary>The rules of the house.</summary>
public static class HouseEndpoints
{
    public static void MapHouse(this RouteGroupBuilder api)
    {
        api.MapGet("/house", async (NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await Read(db);
        }).Needs(Right.CompaniesSee).WithName("getHouseRules");

        api.MapPut("/house", (HouseRulesRequest request, HttpContext http, Commands commands) => commands.Run(http, async w =>
        {
            if (request.AskAfterHours is < 0 or > 720)
            {
                return (Outcome<HouseRules>)new Problem("out.of.range", "Papers are asked for after 1 to 720 hours, or never with 0.", "askAfterHours");
            }

            var before = await Read(w.Db);
            var after = new HouseRules(request.TwoPeople, request.AskAfterHours ?? before.AskAfterHours);
            await w.Db.Run("update business set two_people = @two, ask_after_hours = @hours", ("two", after.TwoPeople), ("hours", after.AskAfterHours));
            await Events.Add(w, "setup.house_changed", "business", 0, $"{(after.TwoPeople ? "What one approves another pays" : "One person may approve and pay")}; papers are asked for {(after.AskAfterHours == 0 ? "by hand only" : $"after {after.AskAfterHours} hours")}", before: before);
            return after;
        })).Needs(Right.SetupEdit).WithName("changeHouseRules");
    }

    private static async Task<HouseRules> Read(NpgsqlConnection db) =>
        (await db.Row("select two_people, ask_after_hours from business", r => new HouseRules(r.Bool("two_people"), r.Int("ask_after_hours"))))!;
}
