using NodaTime;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's team: the longest trip ahead with one load has two drivers.</summary>
internal static class DemoTeam
{
    public static async Task Write(CommandContext w, DemoCast cast)
    {
        var desk = w.At(w.Now, cast.Staff["ines"]);
        var drivers = (await PlanViews.Ahead(w)).ConvertAll(d => d.Driver);
        var trips = drivers
            .SelectMany(d => d.Trips)
            .Where(t => t.StartedAt is null && t.Visits.Count == 2)
            .OrderByDescending(t => t.Miles)
            .ToList();
        foreach (var trip in trips)
        {
            // Those whose own trips leave them the time.
            foreach (var driver in drivers.Where(d => d.Trips.All(t => t.Ends < trip.SetsOut - Duration.FromHours(10))))
            {
                if ((await TeamCommands.Set(desk, trip.Id, new CodriverRequest(driver.Id, null))).Ok)
                {
                    return;
                }
            }
        }
    }
}
