using NodaTime;

namespace SteadyLark.Core.Hours.Planning;

/// <summary>
/// The earliest legal schedule for visits in order: with the least lateness in all, of those the one that is done first. From the start on, it follows every
/// schedule that may still become the best. At each visit, and where driving has to end, each rest that gives hours back is tried; a rest between two such
/// points never helps, because it can be taken later. A schedule that is at the same visit, or farther, no later and with no less hours left, replaces another.
/// With split rests, which may help anywhere, each full hour of driving is such a point, too.
/// </summary>
public static class HoursPlanner
{
    /// <summary>A known place this close before driving has to end is taken instead of the shoulder of the road.</summary>
    public static readonly Duration NearPlace = Duration.FromHours(1);

    /// <summary>The plan; null when no schedule makes all visits within the days that are looked at.</summary>
    public static HoursPlan? Plan(HoursAsk ask)
    {
        // Where resting at known places makes a visit late, the shoulder may not, and neither may split rests.
        var best = new Search(ask with { Split = false }, true).Best();
        if (best is null || best.Late > Duration.Zero)
        {
            best = ask.Visits.Any(v => v.Roads.Any(r => r.Places is { Count: > 0 })) ? Better(ask with { Split = false }, best) : best;
        }

        return ask.Split ? Better(ask, best) : best;
    }

    private static HoursPlan? Better(HoursAsk ask, HoursPlan? than) => new Search(ask, false, than).Best() ?? than;

    /// <summary>The latest start, to the minute, with which no visit is later than in a plan; null when it is as early as can be.</summary>
    public static Instant? LatestStart(HoursAsk ask, HoursPlan plan)
    {
        if (ask.Visits.All(v => v.Until is null))
        {
            return null;
        }

        var last = ask.Visits.Zip(plan.Visits, (v, p) => v.Until is { } until ? Instant.Max(until, p.Begins) : Instant.MaxValue).Min();
        var (good, bad) = (ask.Start ?? ask.Now, last + Duration.FromMinutes(1));
        while (bad - good > Duration.FromMinutes(1))
        {
            var half = good + Duration.FromMinutes(Math.Floor((bad - good).TotalMinutes / 2));
            (good, bad) = Plan(ask with { Start = half }) is { } later && later.Late <= plan.Late ? (half, bad) : (good, half);
        }

        return good;
    }
}
