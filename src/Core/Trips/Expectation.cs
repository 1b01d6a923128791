using NodaTime;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>How a stop or load stands against its appointment.</summary>
public enum Outlook
{
    OnTime,

    /// <summary>On time, but with less than <see cref="Expectations.ThinSlack"/> of slack.</summary>
    Tight,

    /// <summary>Past its ETA by more than <see cref="Expectations.Patience"/>, without an update.</summary>
    NoUpdate,

    /// <summary>Expected after the window ends.</summary>
    Late,
}

/// <summary>The ETA at a stop, as of now.</summary>
/// <param name="Arrives">The ETA, or the actual arrival once there is one.</param>
/// <param name="Late">How far past the end of the window; zero when on time.</param>
/// <param name="Slack">Slack; null for a stop that is reached or whose arrival is only assumed.</param>
/// <param name="Silent">Time since the ETA without an update; zero otherwise.</param>
public sealed record ExpectedVisit(long StopId, Instant Arrives, Instant Leaves, Duration Late, Duration? Slack, Duration Silent, bool Done)
{
    public Outlook Outlook =>
        Done ? Outlook.OnTime
        : Late > Duration.Zero ? Outlook.Late
        : Silent > Expectations.Patience ? Outlook.NoUpdate
        : Slack < Expectations.ThinSlack ? Outlook.Tight
        : Outlook.OnTime;
}

/// <summary>Where a truck comes from, and when it is free.</summary>
public sealed record ComingFrom(GeoPoint Point, Instant Free);

/// <summary>What a truck does for a load, and what the freight does after it.</summary>
/// <param name="Points">Stops and transfers in order.</param>
/// <param name="Reach">How many of them the truck itself reaches; the rest of the way another truck has the freight.</param>
/// <param name="Drops">Whether it drops its trailer at the last of these, and is free without waiting for the next truck.</param>
/// <param name="Known">The ETAs of a team's trip in its co-driver's sequence: it runs as its driver's truck does. Null to compute them.</param>
public sealed record TruckRun(IReadOnlyList<PlannedStop> Points, int Reach, bool Drops = false, IReadOnlyList<ExpectedVisit>? Known = null);

public static class Expectations
{
    /// <summary>Less than an hour of slack needs a look.</summary>
    public static readonly Duration ThinSlack = Duration.FromHours(1);

    /// <summary>How long after an ETA a missing update is worth a call.</summary>
    public static readonly Duration Patience = Duration.FromHours(2);

    /// <summary>A truck that loaded is assumed to leave within half an hour, even without an update.</summary>
    public static readonly Duration SetsOutAfter = Duration.FromMinutes(30);

    /// <summary>
    /// Computes ETAs stop by stop from what has happened, by road. An estimate: it knows neither weather nor the hours a driver has
    /// already used.
    /// </summary>
    /// <param name="stops">In order, with what has happened so far.</param>
    /// <param name="now">The present.</param>
    /// <param name="from">Where the truck is before the first stop and when it is free, or null when unknown: then it is assumed to reach
    /// the first stop on time.</param>
    /// <param name="seen">The truck's last known position and time, or null: when newer than the stop before, the ETA is computed from
    /// it.</param>
    public static IReadOnlyList<ExpectedVisit> Of(
        IRoads roads,
        IReadOnlyList<PlannedStop> stops,
        Instant now,
        ComingFrom? from = null,
        ComingFrom? seen = null
    )
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
                var ratio =
                    i > 0 && roads.Between(stops[i - 1].Point, stop.Point).Miles is > 0 and var own
                        ? roads.To(stops[i - 1].Point, stop).Miles / own
                        : 1;
                if (
                    i > 0
                    && stops[i - 1].Done
                    && seen is { } on
                    && on.Free > (stops[i - 1].Left ?? stops[i - 1].Delivered ?? Instant.MinValue)
                )
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
    /// ETAs for what one truck does in sequence: each trip begins where and when the truck's part of the one before is expected to end.
    /// </summary>
    /// <param name="trips">In the order of their bookings.</param>
    /// <param name="now">The present.</param>
    /// <param name="from">Its last known place, or null when unknown.</param>
    /// <param name="seen">Its last known position on the first trip.</param>
    public static IReadOnlyList<IReadOnlyList<ExpectedVisit>> InTurn(
        IRoads roads,
        IEnumerable<TruckRun> trips,
        Instant now,
        ComingFrom? from,
        ComingFrom? seen = null
    )
    {
        var all = new List<IReadOnlyList<ExpectedVisit>>();
        foreach (var trip in trips)
        {
            var visits = trip.Known ?? Of(roads, trip.Points, now, from, seen);
            seen = null;
            all.Add(visits);
            if (trip.Reach > 0)
            {
                var (point, visit) = (trip.Points[trip.Reach - 1], visits[trip.Reach - 1]);
                from = new ComingFrom(point.Point, trip.Drops ? visit.Arrives + point.ServiceTime : visit.Leaves);
            }
        }

        return all;
    }

    /// <summary>The worst status among a load's stops.</summary>
    public static Outlook Worst(IEnumerable<ExpectedVisit> visits) => visits.Select(v => v.Outlook).DefaultIfEmpty(Outlook.OnTime).Max();

    /// <param name="ratio">Factor by which a route override lengthens or shortens the rest of the route.</param>
    private static ExpectedVisit Coming(IRoads roads, PlannedStop stop, GeoPoint? at, double ratio, Instant free, Instant now, bool first)
    {
        var assumed = at is null;
        var route = assumed ? default : roads.Between(at!.Value, stop.Point);
        var byRoad = assumed ? stop.Window.From : free + route.Set(route.Miles * ratio).DoorToDoor;
        if (first)
        {
            // A truck leaves so as not to wait at a closed gate.
            assumed = assumed || byRoad <= stop.Window.From;
            byRoad = Instant.Max(byRoad, stop.Window.From);
        }

        if (stop.Told is { } told)
        {
            // A reported ETA overrides the estimate until it has passed.
            assumed = false;
            byRoad = told;
        }

        var arrives = Instant.Max(byRoad, now);
        var silent = After(now, byRoad);
        var leaves = Instant.Max(arrives, stop.Window.From) + stop.ServiceTime;
        Duration? slack =
            assumed || stop.Window.Until == Instant.MaxValue ? null : Duration.Max(Duration.Zero, stop.Window.Until - arrives);
        return new ExpectedVisit(stop.Id, arrives, leaves, After(arrives, stop.Window.Until), slack, silent, false);
    }

    private static Duration After(Instant at, Instant limit) => Duration.Max(Duration.Zero, at - limit);
}
