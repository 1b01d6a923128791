using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;

namespace SteadyLark.Server.Demo;

/// <summary>What the demo's drivers agreed with dispatch: who is off in the coming days, and by when they are to be home.</summary>
internal static class DemoPlan
{
    private static readonly string[] Reasons = ["vacation", "physical", "family"];

    public static async Task Write(CommandContext w)
    {
        var drivers = (await PlanViews.Ahead(w)).ConvertAll(d => d.Driver);
        Instant At(int days, int hour) => w.Today.PlusDays(days).AtMidnight().PlusHours(hour).InZoneLeniently(w.Zone).ToInstant();

        // Nobody is off whose trip would not end in time.
        var off = 0;
        foreach (var driver in drivers.Where(d => d.HomeAt is { } home && home < At(2, 0)).Take(Reasons.Length))
        {
            await FleetStore.AddTimeOff(w.Db, driver.Id, new Span(At(2 + off, 0), At(5 + off, 6)), Reasons[off]);
            await FleetStore.SetHomeBy(w.Db, driver.Id, At(1 + off, 20));
            off++;
        }

        var n = 0;
        foreach (var driver in drivers.Where(d => d.HomeAt >= At(2, 0)))
        {
            await FleetStore.SetHomeBy(w.Db, driver.Id, At(4 + (n++ % 3), 18));
        }
    }
}
