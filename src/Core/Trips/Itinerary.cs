using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips.Loading;

namespace SteadyLark.Core.Trips;

/// <summary>A leg on a trip: what the trip's truck does for it.</summary>
/// <param name="Number">The load's number.</param>
/// <param name="Stops">What the truck does for this leg, in order (<see cref="LoadPath.OfLeg"/>); at least one. Its freight counts as on board from the
/// first to the last.</param>
/// <param name="Towns">The towns of these, in order, as are their <paramref name="Zones"/>.</param>
/// <param name="Own">The truck's own stop, which is all such a leg has: it carries nothing and is of no load; null for a load's leg.</param>
/// <param name="Empty">Whether it is a move of an empty trailer: its miles are empty ones.</param>
/// <param name="TrailerId">The trailer its freight is in; null for the one the trip is assigned.</param>
public sealed record TripLeg(
    long LegId,
    long LoadId,
    string Number,
    IReadOnlyList<PlannedStop> Stops,
    IReadOnlyList<string> Towns,
    IReadOnlyList<DateTimeZone> Zones,
    IReadOnlyList<CargoLine> Cargo,
    TripStop? Own = null,
    bool Empty = false,
    long? TrailerId = null
)
{
    /// <summary>Whether its freight waits in its trailer where it begins, so that the truck hooks that trailer there.</summary>
    public bool HooksTrailer { get; init; }

    /// <summary>Whether its freight is left in its trailer where it ends, so that the truck drops that trailer there.</summary>
    public bool DropsTrailer { get; init; }

    /// <summary>Whether it carries a load's freight.</summary>
    public bool Carries => Own is null;
}

/// <summary>A visit of a trip: a stop, or a transfer where one of its legs begins or ends.</summary>
/// <param name="At">Which of its leg's stops, from 0.</param>
public sealed record Visit(TripLeg Leg, int At)
{
    public PlannedStop Stop => Leg.Stops[At];
    public string Town => Leg.Towns[At];
    public DateTimeZone Zone => Leg.Zones[At];

    /// <summary>Whether the leg's freight comes on board here.</summary>
    public bool Begins => At == 0 && Leg.Carries;

    /// <summary>Whether the leg's freight leaves the truck here for good.</summary>
    public bool Ends => At == Leg.Stops.Count - 1 && Leg.Carries;

    /// <summary>Whether something happened here already.</summary>
    public bool Reached => Stop.Arrived is not null || Stop.Done;
}

/// <summary>A leg's part of its trip. The parts of all legs add up to the trip.</summary>
/// <param name="Miles">Of the loaded miles; whole miles.</param>
/// <param name="EmptyMiles">Of the miles with nothing on board; whole miles.</param>
/// <param name="TollMiles">Of both, on toll roads.</param>
/// <param name="Days">Of the trip's days, in hundredths; above 0.</param>
public sealed record LegPart(int Miles, int EmptyMiles, double TollMiles, decimal Days);

/// <summary>What a truck does in order when it carries several legs at a time.</summary>
public static class Itinerary
{
    /// <summary>At most so many legs on one trip.</summary>
    public const int MostLegs = 20;

    /// <summary>
    /// The visits of a trip: its legs' stops in the chosen order. Each leg's own order always holds, what was reached comes first in the order in
    /// which it was, and a stop that the order does not name comes right after the one before it. A stop of the truck's own before one that was
    /// reached was passed by, and is left out.
    /// </summary>
    /// <param name="order">Ids of stops, and transfers below zero, as in <see cref="PlannedStop.Id"/>; others are ignored.</param>
    public static IReadOnlyList<Visit> Of(IReadOnlyList<TripLeg> legs, IReadOnlyList<long> order)
    {
        var place = order.Select((id, i) => (id, i)).GroupBy(x => x.id).ToDictionary(g => g.Key, g => (double)g.First().i);
        var keyed = new List<(Visit Visit, bool Planned, Instant Reached, double Key, int Leg)>();
        for (var l = 0; l < legs.Count; l++)
        {
            // A first stop without a place comes before the leg's first one that has one, or at the end.
            var key = legs[l].Stops.Select(s => place.GetValueOrDefault(s.Id, double.MaxValue)).DefaultIfEmpty(double.MaxValue).Min();
            var reached = Instant.MinValue;
            for (var i = 0; i < legs[l].Stops.Count; i++)
            {
                var visit = new Visit(legs[l], i);
                key = Math.Max(key, place.GetValueOrDefault(visit.Stop.Id, key));
                reached = Instant.Max(
                    reached,
                    visit.Stop.Arrived ?? visit.Stop.Left ?? visit.Stop.Delivered ?? visit.Stop.Refused ?? Instant.MinValue
                );
                keyed.Add((visit, !visit.Reached, reached, key, l));
            }
        }

        var latest = keyed.Where(k => !k.Planned).Select(k => k.Key).DefaultIfEmpty(double.MinValue).Max();
        return keyed
            .Where(k => k.Visit.Leg.Carries || !k.Planned || k.Key >= latest)
            .OrderBy(k => k.Planned)
            .ThenBy(k => k.Planned ? Instant.MinValue : k.Reached)
            .ThenBy(k => k.Key)
            .ThenBy(k => k.Leg)
            .ThenBy(k => k.Visit.At)
            .Select(k => k.Visit)
            .ToList();
    }

    /// <summary>The legs that carry loads, in the order of their first visit.</summary>
    public static IReadOnlyList<TripLeg> Carried(IReadOnlyList<Visit> visits) =>
        visits.Select(v => v.Leg).Where(l => l.Carries).Distinct().ToList();

    /// <summary>From the first visit of a load to the last one: Great Falls MT to Spokane WA.</summary>
    public static string Lane(IReadOnlyList<Visit> visits) =>
        $"{visits.First(v => v.Leg.Carries).Town} to {visits.Last(v => v.Leg.Carries).Town}";

    /// <summary>Ids of visits, as <see cref="Of"/> takes them.</summary>
    public static IReadOnlyList<long> Order(IEnumerable<Visit> visits) => visits.Select(v => v.Stop.Id).ToList();

    /// <summary>What the truck reaches in order. A route override is for the way from the load's own stop before, and counts only when the truck comes
    /// from there. A stop of the truck's own before the first pickup is made in time for that; any other one, and all of them when the trip
    /// is set to start at a time, when the truck gets there.</summary>
    public static IReadOnlyList<PlannedStop> Points(IRoads roads, IReadOnlyList<Visit> visits)
    {
        var points = visits
            .Select((v, i) => i > 0 && visits[i - 1].Leg.LegId == v.Leg.LegId ? v.Stop : v.Stop with { SetMiles = null, Via = null })
            .ToList();
        var first = visits.TakeWhile(v => !v.Leg.Carries).Count();
        for (var i = first - 1; first < visits.Count && i >= 0; i--)
        {
            var takes = roads.Between(points[i].Point, points[i + 1].Point).DoorToDoor + points[i].ServiceTime;
            var next = points[i + 1].Window;
            points[i] = points[i] with { Window = new Span(next.From - takes, next.Until - takes) };
        }

        if (first < visits.Count && TripStops.StartsAt(visits) is { } starts)
        {
            for (var i = 0; i < first; i++)
            {
                var from = i == 0 ? starts : Instant.MinValue;
                points[i] = points[i] with { Window = new Span(from, Instant.Max(from, points[i].Window.Until)) };
            }
        }

        return points;
    }

    /// <summary>The same for a booking from now on: freight that waits at a transfer is taken, and a stop of the truck's own made, no earlier than
    /// now.</summary>
    public static IReadOnlyList<PlannedStop> Ahead(IRoads roads, IReadOnlyList<Visit> visits, Instant now)
    {
        var points = Points(roads, visits);
        return !visits[0].Reached && (!visits[0].Leg.Carries || points[0] is { Id: < 0, Kind: StopKind.Pickup })
            ? TripPlan.NotBefore(points, now)
            : points;
    }

    /// <summary>The legs whose freight is on board after each visit, in the order in which they were picked up.</summary>
    public static IReadOnlyList<IReadOnlyList<TripLeg>> Aboard(IReadOnlyList<Visit> visits)
    {
        var now = new List<TripLeg>();
        var after = new List<IReadOnlyList<TripLeg>>(visits.Count);
        foreach (var v in visits)
        {
            if (v.Begins && !v.Leg.Empty)
            {
                now.Add(v.Leg);
            }

            if (v.Ends)
            {
                now.Remove(v.Leg);
            }

            after.Add(now.ToList());
        }

        return after;
    }

    /// <summary>Why the trailers cannot carry what is on board after some visit ahead: at the first visit at which one is not hooked or cannot;
    /// or why its compartments or decks do not take all of it.</summary>
    /// <param name="loaded">Where freight on board is.</param>
    /// <param name="known">Answers for legs on board together, which fill while several orders are tried; null for a single one.</param>
    public static Problems Overloaded(
        IReadOnlyList<Visit> visits,
        Rig rig,
        IReadOnlyList<LoadedAt>? loaded = null,
        Dictionary<string, Problems>? known = null
    )
    {
        if (TripTrailers.Refuses(visits, rig) is { } away)
        {
            return new Problems([away]);
        }

        var aboard = Aboard(visits);
        foreach (var trailer in rig.Trailers.DefaultIfEmpty(null))
        {
            var problems = Overloaded(visits, aboard, rig, trailer, loaded, known);
            if (problems.Any)
            {
                return problems;
            }
        }

        return rig.Trailers.Count > 1 ? TooHeavy(visits, aboard, rig) : new Problems([]);
    }

    private static Problems Overloaded(
        IReadOnlyList<Visit> visits,
        IReadOnlyList<IReadOnlyList<TripLeg>> aboard,
        Rig rig,
        TripTrailer? trailer,
        IReadOnlyList<LoadedAt>? loaded,
        Dictionary<string, Problems>? known
    )
    {
        var (limits, unit) = (rig.Limits(trailer), trailer?.Unit ?? "");
        for (var i = 0; i < visits.Count; i++)
        {
            if (visits[i].Reached || !visits[i].Begins || aboard[i].Count < 2 || rig.Of(visits[i].Leg) != trailer)
            {
                continue;
            }

            var inside = aboard[i].Where(l => rig.Of(l) == trailer).ToList();
            var problems = Known($"{unit}: {string.Join(' ', inside.Select(l => l.LegId))}", () =>
                Capacity.Check(inside, limits, unit, visits[i].Town)
            );
            if (problems.Any)
            {
                return problems;
            }
        }

        return TrailerLoading.Key(visits, l => rig.Of(l) == trailer) is not { } order
            ? new Problems([])
            : Known($"{unit}: {order}", () => TrailerLoading.Of(visits, rig, trailer, loaded).Problems);

        Problems Known(string key, Func<Problems> check)
        {
            if (known is null || !known.TryGetValue(key, out var problems))
            {
                problems = check();
                known?.Add(key, problems);
            }

            return problems;
        }
    }

    /// <summary>Why the truck with all trailers behind it and what is in them is over the gross weight; none when it is not. Each trailer alone was
    /// checked.</summary>
    private static Problems TooHeavy(IReadOnlyList<Visit> visits, IReadOnlyList<IReadOnlyList<TripLeg>> aboard, Rig rig)
    {
        var hooked = TripTrailers.Hooked(visits, rig);
        for (var i = 0; i < visits.Count; i++)
        {
            if (
                !visits[i].Reached
                && hooked[i].Count > 1
                && Capacity.GrossRefuses(aboard[i], hooked[i], rig.TruckTareLb, visits[i].Town) is { } heavy
            )
            {
                return new Problems([heavy]);
            }
        }

        return new Problems([]);
    }

    /// <summary>Deliveries behind other freight: what was picked up later stands between it and the doors, in words.</summary>
    public static IReadOnlyList<string> BehindOthers(IReadOnlyList<Visit> visits)
    {
        var aboard = Aboard(visits);
        var found = new List<string>();
        for (var i = 0; i < visits.Count; i++)
        {
            var v = visits[i];
            if (
                !v.Reached
                && v.Ends
                && !v.Begins
                && aboard[i - 1].Where(l => l.TrailerId == v.Leg.TrailerId).ToList() is { Count: > 1 } before
                && before.Contains(v.Leg)
                && before[^1] != v.Leg
                && before.All(l => l.Cargo.All(c => c.Bulk is null && c.Vehicle is null))
            )
            {
                var front = before.SkipWhile(l => l != v.Leg).Skip(1).Select(l => l.Number);
                found.Add(
                    $"In {v.Town}, load {v.Leg.Number} is behind {string.Join(" and ", front)}: plan time to move that freight first."
                );
            }
        }

        return found;
    }

    /// <summary>
    /// Each leg's part of the trip: loaded miles are shared equally by the legs on board, empty miles count for the leg picked up next or, after the
    /// last delivery, for the one delivered there, tolls where they are paid, and days by all its miles.
    /// </summary>
    /// <param name="legs">Those of loads.</param>
    /// <param name="from">Where the truck comes from; null when unknown.</param>
    /// <param name="days">The trip's, in quarters of a day.</param>
    /// <returns>In the order of the legs.</returns>
    public static IReadOnlyList<LegPart> Parts(
        IRoads roads,
        IReadOnlyList<TripLeg> legs,
        IReadOnlyList<Visit> visits,
        GeoPoint? from,
        decimal days
    )
    {
        var at = legs.Select((l, i) => (l.LegId, i)).ToDictionary(x => x.LegId, x => x.i);
        var (loaded, empty, tolls) = (new double[legs.Count], new double[legs.Count], new double[legs.Count]);
        var (points, aboard) = (Points(roads, visits), Aboard(visits));
        for (var i = 0; i < visits.Count; i++)
        {
            var drive =
                i > 0 ? roads.To(points[i - 1].Point, points[i])
                : from is { } start ? roads.Between(start, points[0].Point)
                : default;
            IReadOnlyList<TripLeg> carried = i == 0 ? [] : aboard[i - 1];
            foreach (var leg in carried)
            {
                loaded[at[leg.LegId]] += drive.Miles / carried.Count;
                tolls[at[leg.LegId]] += drive.TollMiles / carried.Count;
            }

            if (carried.Count == 0)
            {
                var leg = at[(visits.Skip(i).FirstOrDefault(v => v.Leg.Carries) ?? visits.Last(v => v.Leg.Carries)).Leg.LegId];
                empty[leg] += drive.Miles;
                tolls[leg] += drive.TollMiles;
            }
        }

        var miles = Whole(loaded);
        var without = Whole(empty);
        // Every leg gets at least a hundredth of a day.
        var least = 0.01m;
        var share = Apportion.Of(Math.Max(0, days - (least * legs.Count)), miles.Zip(without, (m, e) => m + e).ToList(), 2);
        return legs.Select((_, i) => new LegPart((int)miles[i], (int)without[i], tolls[i], share[i] + least)).ToList();

        static IReadOnlyList<decimal> Whole(double[] parts) =>
            Apportion.Of(new Drive(parts.Sum(), 0).WholeMiles, parts.Select(p => Math.Round((decimal)p, 6)).ToList(), 0);
    }

    /// <summary>The same visits in an order that names each of them.</summary>
    public static IReadOnlyList<Visit> InOrder(IReadOnlyList<Visit> visits, IReadOnlyList<long> order) =>
        order.Select(id => visits.First(v => v.Stop.Id == id)).ToList();

    /// <summary>Why visits cannot be put in an order; null when they can. Each has to be named once, each leg's own in their order, and those reached
    /// stay first.</summary>
    /// <param name="order">Ids as in <see cref="PlannedStop.Id"/>.</param>
    public static Problem? OrderRefuses(IReadOnlyList<Visit> visits, IReadOnlyList<long> order)
    {
        if (!order.Order().SequenceEqual(Order(visits).Order()))
        {
            return new Problem("order.visits", "The trip has changed: the order has to name each of its visits once.", "order");
        }

        var wanted = InOrder(visits, order);
        for (var i = 0; i < wanted.Count; i++)
        {
            var v = wanted[i];
            if (i < visits.Count(x => x.Reached) && v != visits[i])
            {
                return new Problem(
                    "order.reached",
                    $"The truck has been in {visits[i].Town} already: that visit stays where it is.",
                    "order"
                );
            }

            if (wanted.Skip(i).FirstOrDefault(x => x.Leg == v.Leg && x.At < v.At) is { } first)
            {
                return new Problem(
                    "order.load",
                    $"Load {v.Leg.Number} stops in {first.Town} before {v.Town}: choose another place in the order.",
                    "order"
                );
            }
        }

        return TripStops.OrderRefuses(wanted);
    }

    /// <summary>Visits that are reached after their window ends, in words, unless they were reached as late before.</summary>
    /// <param name="before">How late each visit was before a change, by its id; empty for a new trip.</param>
    public static IReadOnlyList<string> Late(
        IReadOnlyList<Visit> visits,
        IReadOnlyList<ExpectedVisit> expected,
        IReadOnlyDictionary<long, Duration> before
    ) =>
        visits
            .Zip(expected)
            .Where(v => v.First.Leg.Carries && !v.First.Reached && v.Second.Late > before.GetValueOrDefault(v.First.Stop.Id))
            .Select(v =>
                $"{v.First.Town}, load {v.First.Leg.Number}, is reached {v.Second.Late.Format()} late: {v.Second.Arrives.Format(v.First.Zone)} instead of {v.First.Stop.Window.Until.Format(v.First.Zone)}."
            )
            .ToList();
}
