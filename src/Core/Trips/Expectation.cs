using NodaTime;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>How a stop or a load stands against its promise.</summary>
public enum Outlook
{
    OnTime,

    /// <summary>In time, but with less than <see cref="Expectations.ThinSlack"/> to spare.</summary>
    Tight,

    /// <summary>Should have come by our estimate more than <see cref="Expectations.Patience"/> ago, and nobody has said so.</summary>
    NoUpdate,

    /// <summary>Expected after the promise ends.</summary>
    Late,
}

/// <summary>When one is expected at a stop, as of now.</summary>
/// <param name="Arrives">Expected, or the actual arrival where there is one.</param>
/// <param name="Late">How far past the end of the window; zero when in time.</param>
/// <param name="Slack">Time to spare; null for a stop that is reached or whose arrival is only assumed.</param>
/// <param name="Silent">How long ago it should have come by the estimate without word; zero otherwise.</param>
public sealed record ExpectedVisit(long StopId, Instant Arrives, Instant Leaves, Duration Late, Duration? Slack, Duration Silent, bool Done)
{
    public Outlook Outlook =>
        Done ? Outlook.OnTime
        : Late > Duration.Zero ? Outlook.Late
        : Silent > Expectations.Patience ? Outlook.NoUpdate
        : Slack < Expectations.ThinSlack ? Outlook.Tight
        : Outlook.OnTime;
}

/// <summary>Where a truck will come from, and when it is free to.</summary>
public sealed record ComingFrom(GeoPoint Point, Instant Free);

public static class Expectations
{
    /// <summary>Less than an hour to spare needs a look.</summary>
    public static readonly Duration ThinSlack = Duration.FromHours(1);

    /// <summary>How long after an estimated arrival silence is worth a call.</summary>
    public static readonly Duration Patience = Duration.FromHours(2);

    /// <summary>A truck whose freight was taken sets out within half an hour, though nobody says so.</summary>
    public static readonly Duration SetsOutAfter = Duration.FromMinutes(30);

    /// <summary>
    /// Walks the stops in order from what has happened to what must follow, by road. An estimate: it knows neither weather nor the hours a driver has
    /// already used.
    /// </summary>
    /// <param name="stops">In order, with what happened so far.</param>
    /// <param name="now">The present.</param>
    /// <param name="from">Where the truck is before the first stop and when it is free, or null when unknown: then one is assumed at the first stop in time.</param>
    /// <param name="seen">Where the truck was last seen on the way and when, or null: newer than the stop before, it counts more than an estimate from there.</param>
    public static IReadOnlyList<ExpectedVisit> Of(IRoads roads, IReadOnlyList<PlannedStop> stops, Instant now, ComingFrom? from = null, ComingFrom? seen = null)
    {
        var visits = new List<ExpectedVisit>(stops.Count);
        GeoPoint? at = from?.Point;
        var free = from?.Free ?? now;
        for (var i = 0; i < stops.Count; i++)
        {
            var stop = stops[i];
            ExpectedVisit visit;
            if (stop.Done)
            {
                var done = stop.Left ?? stop.Delivered ?? stop.Refused!.Value;
                var arrived = stop.Arrived ?? done;
                var gone = stop.Left ?? done + SetsOutAfter;
                visit = new ExpectedVisit(stop.Id, arrived, gone, After(arrived, stop.Window.Until), null, Duration.Zero, true);
            }
            else if (stop.Arrived is { } arrived)
            {
                var leaves = Instant.Max(now, Instant.Max(arrived, stop.Window.From) + stop.ServiceTime);
                visit = new ExpectedVisit(stop.Id, arrived, leaves, After(arrived, stop.Window.Until), null, Duration.Zero, false);
            }
            else
            {
                var ratio = i > 0 && roads.Between(stops[i - 1].Point, stop.Point).Miles is > 0 and var own ? roads.To(stops[i - 1].Point, stop).Miles / own : 1;
                if (i > 0 && stops[i - 1].Done && seen is { } on && on.Free > (stops[i - 1].Left ?? stops[i - 1].Delivered ?? Instant.MinValue))
                {
                    (at, free) = (on.Point, on.Free);
                }

                visit = Coming(roads, stop, at, ratio, free, now, first: i == 0);
            }

            visits.Add(visit);
            at = stop.Point;
            free = visit.Leaves;
        }

        return visits;
    }

    /// <summary>
    /// Expectations over what one truck does in turn: each trip begins where and when the one before it is expected to end.
    /// </summary>
    /// <param name="trips">In the order they are promised, each with its stops in order.</param>
    /// <param name="now">The present.</param>
    /// <param name="from">Where it was last, or null when unknown.</param>
    /// <param name="seen">Where it was last seen on the first of them.</param>
    public static IReadOnlyList<IReadOnlyList<ExpectedVisit>> InTurn(IRoads roads, IEnumerable<IReadOnlyList<PlannedStop>> trips, Instant now, ComingFrom? from, ComingFrom? seen = null)
    {
        var all = new List<IReadOnlyList<ExpectedVisit>>();
        foreach (var stops in trips)
        {
            var visits = Of(roads, stops, now, from, seen);
            seen = null;
            all.Add(visits);
            if (stops.Count > 0)
            {
                from = new ComingFrom(stops[^1].Point, visits[^1].Leaves);
            }
        }

        return all;
    }

    /// <summary>The worst standing among stops, for the whole load.</summary>
    public static Outlook Worst(IEnumerable<ExpectedVisit> visits) => visits.Select(v => v.Outlook).DefaultIfEmpty(Outlook.OnTime).Max();

    /// <param name="ratio">The factor by which a manual route or manual miles lengthen or shorten the rest of the route.</param>
    private static ExpectedVisit Coming(IRoads roads, PlannedStop stop, GeoPoint? at, double ratio, Instant free, Instant now, bool first)
    {
        var assumed = at is null;
        var route = assumed ? default : roads.Between(at!.Value, stop.Point);
        var byRoad = assumed ? stop.Window.From : free + route.Set(route.Miles * ratio).DoorToDoor;
        if (first)
        {
            // Nobody sets out so as to stand before a closed gate.
            assumed = assumed || byRoad <= stop.Window.From;
            byRoad = Instant.Max(byRoad, stop.Window.From);
        }

        if (stop.Told is { } told)
        {
            // What a person said counts more than our estimate, until it is over.
            assumed = false;
            byRoad = told;
        }

        var arrives = Instant.Max(byRoad, now);
        var silent = After(now, byRoad);
        var leaves = Instant.Max(arrives, stop.Window.From) + stop.ServiceTime;
        Duration? slack = assumed ? null : Duration.Max(Duration.Zero, stop.Window.Until - arrives);
        return new ExpectedVisit(stop.Id, arrives, leaves, After(arrives, stop.Window.Until), slack, silent, false);
    }

    private static Duration After(Instant at, Instant limit) => Duration.Max(Duration.Zero, at - limit);
}
