using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>Why a truck stops where it neither picks up nor delivers.</summary>
public enum TripStopKind
{
    /// <summary>A trailer is hooked where it stands.</summary>
    Hook,

    /// <summary>A trailer is dropped, and stays there.</summary>
    Drop,
    Fuel,
    Scale,
    Wash,
    Yard,
    Border,

    /// <summary>A point the truck only passes, without stopping.</summary>
    Waypoint,

    /// <summary>Where the trip starts, and when if that is set: always its first visit.</summary>
    Start,

    /// <summary>Where the trip ends: always its last visit.</summary>
    End,
}

/// <summary>A stop of the truck's own on a trip, which is of no load.</summary>
/// <param name="Id">From the same numbers as those of loads' stops.</param>
/// <param name="Place">The name of the place.</param>
/// <param name="Town">Its town, with the state.</param>
/// <param name="Service">How long it takes; as is usual for its kind when null.</param>
/// <param name="Left">When the truck left again; never without <paramref name="Arrived"/>.</param>
/// <param name="Planned">When the trip is to start there; null for as early as its first pickup needs, and at other stops.</param>
/// <param name="TrailerId">The trailer that is hooked or dropped; null for the one the trip is assigned, and at other stops.</param>
/// <param name="Trailer">Its unit number; null at other stops.</param>
public sealed record TripStop(
    long Id,
    TripStopKind Kind,
    GeoPoint Point,
    string Place,
    string Town,
    DateTimeZone Zone,
    Duration? Service,
    Instant? Arrived,
    Instant? Left,
    string? Note = null,
    Instant? Planned = null,
    long? TrailerId = null,
    string? Trailer = null
)
{
    /// <summary>What the truck does there: hook trailer 5312, fuel.</summary>
    public string Does => TripStops.Does(Kind, Trailer);

    /// <summary>At most so many on one trip.</summary>
    public const int Most = 20;

    /// <summary>How long a stop takes at most.</summary>
    public static readonly Duration Longest = Duration.FromHours(24);

    /// <summary>As a leg of a trip that carries nothing.</summary>
    public TripLeg OnTrip() =>
        new(
            -Id,
            0,
            "",
            [
                new PlannedStop(
                    Id,
                    StopKind.Pickup,
                    Point,
                    new Span(Instant.MinValue, Instant.MaxValue),
                    Arrived,
                    Left,
                    Service: Service ?? TripStops.Usual(Kind)
                ),
            ],
            [Town],
            [Zone],
            [],
            this
        );
}

/// <summary>What holds for the stops of a truck's own.</summary>
public static class TripStops
{
    /// <summary>How long a stop usually takes, when nobody entered it. Assumptions, not a rule.</summary>
    public static Duration Usual(TripStopKind kind) =>
        kind switch
        {
            TripStopKind.Hook or TripStopKind.Drop => Duration.FromMinutes(20),
            TripStopKind.Fuel => Duration.FromMinutes(30),
            TripStopKind.Scale or TripStopKind.Yard => Duration.FromMinutes(15),
            TripStopKind.Wash => Duration.FromMinutes(90),
            TripStopKind.Border => Duration.FromMinutes(45),
            _ => Duration.Zero,
        };

    /// <summary>Whether a trailer is hooked or dropped there.</summary>
    public static bool OfTrailer(TripStopKind kind) => kind is TripStopKind.Hook or TripStopKind.Drop;

    /// <summary>Whether a trip has at most one such stop.</summary>
    private static bool Once(TripStopKind kind) => kind is TripStopKind.Start or TripStopKind.End;

    /// <summary>What the truck does there: hook trailer 5312, fuel.</summary>
    /// <param name="trailer">The unit number of the trailer that is hooked or dropped; null at other stops.</param>
    internal static string Does(TripStopKind kind, string? trailer) =>
        kind switch
        {
            TripStopKind.Hook => $"hook trailer {trailer}",
            TripStopKind.Drop => $"drop trailer {trailer}",
            TripStopKind.Fuel => "fuel",
            TripStopKind.Scale => "scale",
            TripStopKind.Wash => "wash",
            TripStopKind.Yard => "yard",
            TripStopKind.Border => "border",
            TripStopKind.Start => "start",
            TripStopKind.End => "end",
            _ => "waypoint",
        };

    /// <summary>Where a stop may be among a trip's visits: a start first and an end last; where a trailer may be hooked and dropped depends on what is in
    /// it (<see cref="TripTrailers.Refuses(IReadOnlyList{Visit}, Rig)"/>).</summary>
    /// <returns>The first place and the last, from 0 for before the first visit.</returns>
    public static (int First, int Last) Range(IReadOnlyList<Visit> visits, TripStopKind kind)
    {
        var reached = visits.Count(v => v.Reached);
        var first = Math.Max(reached, Index(visits, TripStopKind.Start) + 1);
        var last = Index(visits, TripStopKind.End) is >= 0 and var end ? end : visits.Count;
        return kind switch
        {
            TripStopKind.Start => (reached, reached),
            TripStopKind.End => (visits.Count, visits.Count),
            _ => (first, Math.Max(first, last)),
        };
    }

    /// <summary>Where a leg's stops may be added among a trip's visits: after what was reached, its start, and where its trailer is hooked; before
    /// that is dropped, and the trip's end.</summary>
    /// <returns>The first place and the last, from 0 for before the first visit.</returns>
    public static (int First, int Last) ForLoads(IReadOnlyList<Visit> visits, Rig rig, TripLeg leg)
    {
        var (first, last) = Range(visits, TripStopKind.Fuel);
        (first, last) = TripTrailers.Range(visits, rig, leg, first, last);
        return (first, Math.Max(first, last));
    }

    private static int Index(IReadOnlyList<Visit> visits, TripStopKind kind) => visits.ToList().FindIndex(v => v.Leg.Own?.Kind == kind);

    /// <summary>When a trip is set to start; null when no time is set.</summary>
    public static Instant? StartsAt(IReadOnlyList<Visit> visits) => visits.Count > 0 ? visits[0].Leg.Own?.Planned : null;

    /// <summary>A trip's visits when it is to start at a time: at its start, or where its first visit is.</summary>
    /// <param name="at">Null for no set time; a start that only says when is then left out.</param>
    /// <param name="id">That of the start if one is added.</param>
    public static IReadOnlyList<Visit> StartingAt(IReadOnlyList<Visit> visits, Instant? at, long id)
    {
        var first = visits[0];
        if (first.Leg.Own is { Kind: TripStopKind.Start } start)
        {
            return at is null && visits.Count > 1 && visits[1].Stop.Point == start.Point
                ? visits.Skip(1).ToList()
                : [new Visit((start with { Planned = at }).OnTrip(), 0), .. visits.Skip(1)];
        }

        return at is null
            ? visits
            :
            [
                new Visit(
                    new TripStop(
                        id,
                        TripStopKind.Start,
                        first.Stop.Point,
                        first.Town,
                        first.Town,
                        first.Zone,
                        null,
                        null,
                        null,
                        Planned: at
                    ).OnTrip(),
                    0
                ),
                .. visits,
            ];
    }

    /// <summary>When a trip starts, in a sentence without its period.</summary>
    public static string Starts(string trip, Instant? at, DateTimeZone zone) =>
        at is { } time ? $"Trip {trip} starts {time.Format(zone)}" : $"Trip {trip} has no set start";

    /// <summary>Why a trip is not set to start at a time; null when it is.</summary>
    public static Problem? StartRefuses(string trip, IReadOnlyList<Visit> visits, Instant? at, Instant now) =>
        Started(trip, visits, "startsAt")
        ?? (at < now ? new Problem("time.past", "This time has passed: choose a later start.", "startsAt") : null);

    private static Problem? Started(string trip, IReadOnlyList<Visit> visits, string field) =>
        visits.Any(v => v.Reached)
            ? new Problem("stop.started", $"Trip {trip} is under way: it has started in {visits[0].Town}.", field)
            : null;

    /// <summary>The trip with the stop where it adds the fewest miles; of places that add the same, the last one. A trailer is hooked where no freight needs
    /// it before, as long as there is such a place, and dropped after everything that is done with it.</summary>
    public static IReadOnlyList<Visit> Insert(IRoads roads, OpenTrip trip, TripStop stop)
    {
        var (first, last) = Range(trip.Visits, stop.Kind);
        if (stop.Kind == TripStopKind.Drop)
        {
            first = Math.Clamp(TripTrailers.LastUse(trip.Visits, trip.Rig, stop.TrailerId) + 1, first, last);
        }

        var visit = new Visit(stop.OnTrip(), 0);
        return Enumerable
            .Range(first, last - first + 1)
            .Reverse()
            .Select(i => (IReadOnlyList<Visit>)[.. trip.Visits.Take(i), visit, .. trip.Visits.Skip(i)])
            .MinBy(v => (OfTrailer(stop.Kind) && TripTrailers.Refuses(v, trip.Rig) is not null, Math.Round(trip.Miles(roads, v), 1)))!;
    }

    /// <summary>Why a trip does not get a stop of its truck's own; null when it does.</summary>
    /// <param name="over">When the trip ended or was canceled; null while it is not over.</param>
    /// <param name="stands">Where the trailer is that is hooked; null when unknown.</param>
    /// <param name="zone">Zone in which times are shown.</param>
    public static Problem? Refuses(
        string trip,
        Instant? over,
        IReadOnlyList<Visit> visits,
        TripStop stop,
        UnitStand? stands,
        Instant now,
        DateTimeZone zone
    )
    {
        if (over is not null || visits.Count == 0)
        {
            return new Problem("trip.over", $"Trip {trip} is over: its stops can no longer be changed.");
        }

        if (visits.Count(v => !v.Leg.Carries) >= TripStop.Most)
        {
            return new Problem("stop.most", $"Trip {trip} has {TripStop.Most} stops of its own, which is the most a trip takes.", "kind");
        }

        if (OfTrailer(stop.Kind) && stop.Trailer is null)
        {
            return new Problem("stop.trailer", $"Trip {trip} has no trailer: assign one first.", "kind");
        }

        if (Once(stop.Kind) && visits.Any(v => v.Leg.Own?.Kind == stop.Kind))
        {
            return new Problem("stop.twice", $"Trip {trip} has a stop to {stop.Does} already.", "kind");
        }

        if (stop.Kind == TripStopKind.Start)
        {
            return Started(trip, visits, "kind");
        }

        if (stop.Kind != TripStopKind.Hook)
        {
            return null;
        }

        return stands is { } at && !at.IsAt(stop.Point)
            ? new Problem(
                "stop.elsewhere",
                $"Trailer {stop.Trailer} is not in {stop.Town}: it {at.Says(now, zone)}. Hook it there, or choose another trailer.",
                "placeId"
            )
            : null;
    }

    /// <summary>That the truck has to hook its trailer somewhere else first; null when the trip does, or the trailer comes with the truck.</summary>
    /// <param name="trailer">Its unit number; null without one.</param>
    /// <param name="stands">Where it is before the trip; null when unknown.</param>
    /// <param name="begins">Where the truck comes from; null when unknown.</param>
    public static string? TrailerAway(
        IReadOnlyList<Visit> visits,
        string? trailer,
        UnitStand? stands,
        GeoPoint? begins,
        Instant now,
        DateTimeZone zone
    ) =>
        trailer is null
        || stands is not { } at
        || visits.Count == 0
        || visits.Any(v => v.Reached || v.Leg.Own is { Kind: TripStopKind.Hook } hook && hook.Trailer == trailer)
        || at.IsAt(visits[0].Stop.Point)
        || (begins is { } from && at.IsAt(from))
            ? null
            : $"Trailer {trailer} {at.Says(now, zone)}: add a stop to hook it, or assign another trailer.";

    /// <summary>Why a trip's trailer is not changed that is hooked or dropped on the way; null when it is.</summary>
    public static Problem? TrailerChangeRefuses(string trip, IReadOnlyList<TripStop> stops, bool changes) =>
        changes && stops.FirstOrDefault(s => OfTrailer(s.Kind)) is { } stop
            ? new Problem(
                "stop.trailer",
                $"Trip {trip} has a stop in {stop.Town} to {stop.Does}: remove that stop before you change the trailer.",
                "trailerId"
            )
            : null;

    /// <summary>Why a stop of a trip cannot be removed; null when it can.</summary>
    /// <param name="over">When the trip ended or was canceled; null while it is not over.</param>
    public static Problem? RemoveRefuses(string trip, Instant? over, TripStop stop) =>
        over is not null ? new Problem("trip.over", $"Trip {trip} is over: its stops can no longer be changed.")
        : stop.Arrived is { } arrived
            ? new Problem("stop.reached", $"The truck was in {stop.Town} on {arrived.Format(stop.Zone)}: undo that first.")
        : null;

    /// <summary>What is recorded at a stop: an arrival, or a departure, which is an arrival as well when none was recorded.</summary>
    /// <param name="leaves">Whether the truck left.</param>
    public static Outcome<TripStop> Record(TripStop stop, bool leaves, Instant at, Instant now)
    {
        if (at > now)
        {
            return new Problem("time.ahead", "This time is in the future: enter when it happened.", "at");
        }

        if (leaves ? stop.Left is not null : stop.Arrived is not null)
        {
            return new Problem("stop.recorded", $"This is recorded already: {(stop.Left ?? stop.Arrived)!.Value.Format(stop.Zone)}.", "at");
        }

        return leaves && stop.Arrived > at
            ? new Problem(
                "time.order",
                $"The truck arrived in {stop.Town} on {stop.Arrived.Value.Format(stop.Zone)}: enter a later time.",
                "at"
            )
            : stop with
            {
                Arrived = stop.Arrived ?? at,
                Left = leaves ? at : null,
            };
    }

    /// <summary>A stop without the last thing recorded at it.</summary>
    public static Outcome<TripStop> Undo(TripStop stop) =>
        stop switch
        {
            { Arrived: null } => new Problem("stop.nothing", $"Nothing is recorded in {stop.Town}."),
            { Left: not null } when stop.Left != stop.Arrived => stop with { Left = null },
            _ => stop with { Left = null, Arrived = null },
        };

    /// <summary>Why a trip's visits cannot be in an order: a start is first and an end last.</summary>
    internal static Problem? OrderRefuses(IReadOnlyList<Visit> wanted)
    {
        return Index(wanted, TripStopKind.Start) > 0
                ? new Problem("order.start", "The trip begins at its start: choose another place in the order.", "order")
            : Index(wanted, TripStopKind.End) is >= 0 and var end && end < wanted.Count - 1
                ? new Problem("order.end", "The trip is over at its end: choose another place in the order.", "order")
            : null;
    }
}
