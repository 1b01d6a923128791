using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips.Loading;

namespace SteadyLark.Core.Trips;

/// <summary>A leg put on a trip where it costs least.</summary>
/// <param name="Visits">The trip with it.</param>
/// <param name="AddedMiles">Whole miles more than without it; below zero only by rounding.</param>
/// <param name="AddedTime">How much later the trip ends.</param>
/// <param name="Late">How many visits become later than their window, or later than they were.</param>
/// <param name="LateBefore">How late each visit was without it, by id.</param>
/// <param name="NotBeside">Why it cannot ride where it would add even fewer miles; none when it does.</param>
/// <param name="Refused">Why it cannot ride at all: the trailer's compartments or decks do not take it in any order; none when it can.</param>
public sealed record Inserted(
    IReadOnlyList<Visit> Visits,
    IReadOnlyList<ExpectedVisit> Expected,
    int AddedMiles,
    Duration AddedTime,
    int Late,
    IReadOnlyDictionary<long, Duration> LateBefore,
    Problems NotBeside,
    Problems Refused
);

/// <summary>A trip to which legs may be added.</summary>
/// <param name="Begins">Where its truck comes from and when it is free; null when unknown.</param>
public sealed record OpenTrip(IReadOnlyList<Visit> Visits, Rig Rig, ComingFrom? Begins, ComingFrom? Seen, Instant Now)
{
    /// <summary>Where freight on board was loaded, in compartments or on decks.</summary>
    public IReadOnlyList<LoadedAt> Loaded { get; init; } = [];

    /// <summary>Above so many ways the stops of a leg are placed one after the other, each where it costs least.</summary>
    private const int MostWays = 4_000;

    /// <summary>When each visit is expected.</summary>
    public IReadOnlyList<ExpectedVisit> Expect(IRoads roads, IReadOnlyList<Visit> visits) =>
        Expectations.Of(roads, Itinerary.Points(roads, visits), Now, Begins, Seen);

    /// <summary>Miles of the trip, from where its truck comes from.</summary>
    public double Miles(IRoads roads, IReadOnlyList<Visit> visits)
    {
        var points = Itinerary.Points(roads, visits);
        return points.Count == 0
            ? 0
            : (Begins is { } from ? roads.Between(from.Point, points[0].Point).Miles : 0) + roads.Through(points).Miles;
    }

    /// <summary>Whole miles that the trip has more with other visits; below zero when fewer.</summary>
    public int AddedMiles(IRoads roads, IReadOnlyList<Visit> visits) => Added(Miles(roads, visits), Miles(roads, Visits));

    private static int Added(double miles, double before) => (int)Math.Round(miles - before, MidpointRounding.AwayFromZero);

    /// <summary>How late each visit is, by id.</summary>
    public static IReadOnlyDictionary<long, Duration> Late(IEnumerable<ExpectedVisit> now) => now.ToDictionary(v => v.StopId, v => v.Late);

    /// <summary>
    /// Puts a leg on the trip where it adds the fewest miles: first among the places where nothing becomes late and every delivery is at the doors,
    /// then without regard to the doors, then where the fewest visits are late. No trailer is overloaded.
    /// </summary>
    public Inserted Insert(IRoads roads, TripLeg leg) => Insert(roads, leg, [leg.TrailerId]);

    /// <summary>The same, in whichever of some trailers is best; in the first of them that are equal.</summary>
    /// <param name="trailers">At least one; null for the one the trip is assigned.</param>
    public Inserted Insert(IRoads roads, TripLeg leg, IReadOnlyList<long?> trailers) =>
        Best(roads, trailers.SelectMany(t => Ways(roads, leg with { TrailerId = t })));

    /// <summary>The shortest of several ways to drive the trip, in the order of preference that <see cref="Insert(IRoads, TripLeg)"/> has.</summary>
    private Inserted Best(IRoads roads, IEnumerable<IReadOnlyList<Visit>> ways)
    {
        var now = Expect(roads, Visits);
        var (late, miles) = (Late(now), Miles(roads, Visits));
        var known = new Dictionary<string, Problems>();
        Problems? notBeside = null;
        Problems? unwashed = null;
        (int Rank, Inserted How)? best = null;
        IReadOnlyList<Visit>? shortest = null;
        foreach (var (visits, all) in ways.Select(v => (v, Miles(roads, v))).OrderBy(w => w.Item2))
        {
            shortest ??= visits;
            var overloaded = Itinerary.Overloaded(visits, Rig, Loaded, known);
            if (overloaded.Any)
            {
                notBeside ??= best is null ? overloaded : null;
                unwashed ??= overloaded.Any(p => p.Code == "tank.wash") ? overloaded : null;
                continue;
            }

            var expected = Expect(roads, visits);
            var worse = visits.Zip(expected).Count(v => !v.First.Reached && v.Second.Late > late.GetValueOrDefault(v.First.Stop.Id));
            var rank =
                worse > 0 ? 1 + worse
                : Itinerary.BehindOthers(visits).Count > 0 ? 1
                : 0;
            if (best is null || rank < best.Value.Rank)
            {
                var time = expected[^1].Leaves - (now.Count > 0 ? now[^1].Leaves : expected[0].Arrives);
                best = (
                    rank,
                    new Inserted(visits, expected, Added(all, miles), time, worse, late, notBeside ?? new Problems([]), new Problems([]))
                );
            }

            if (rank == 0)
            {
                break;
            }
        }

        return best?.How
            // A wash is what can be done about it.
            ?? new Inserted(shortest!, Expect(roads, shortest!), 0, Duration.Zero, 0, late, new Problems([]), unwashed ?? notBeside!);
    }

    /// <summary>
    /// The same legs in a better order, preferred as in <see cref="Insert(IRoads, TripLeg)"/>: the shortest of all orders when there are few; otherwise the trip is
    /// built anew, and one leg after the other is taken out and put back, as long as that makes fewer visits late or the trip shorter. What was reached
    /// stays.
    /// </summary>
    public OpenTrip Ordered(IRoads roads)
    {
        // Stops of the trip's own are put where they add the fewest miles afterwards; where several trailers are hooked and dropped decides what can be
        // picked up between.
        if (Rig.Trailers.Count < 2 && Visits.Where(v => !v.Reached && !v.Leg.Carries).ToList() is { Count: > 0 } stops)
        {
            return stops.Aggregate((this with { Visits = Visits.Except(stops).ToList() }).Ordered(roads), (trip, stop) =>
                trip with
                {
                    Visits = TripStops.Insert(roads, trip, stop.Leg.Own!),
                }
            );
        }

        var ahead = Visits.Where(v => !v.Reached).ToList();
        var orders = 1d;
        var n = 0;
        foreach (var own in ahead.GroupBy(v => v.Leg.LegId))
        {
            for (var i = 1; i <= own.Count(); i++)
            {
                orders *= (double)++n / i;
            }
        }

        if (orders <= MostWays)
        {
            var reached = Visits.Where(v => v.Reached).ToList();
            var ordered = Orders(ahead).Select(o => (IReadOnlyList<Visit>)[.. reached, .. o]).Where(o => TripStops.OrderRefuses(o) is null);
            return this with { Visits = Best(roads, ordered).Visits };
        }

        if (Rig.Trailers.Count > 1)
        {
            return this;
        }

        var legs = ahead.Where(v => v.Begins).Select(v => v.Leg).ToList();
        var onBoard = this with { Visits = Visits.Where(v => !legs.Contains(v.Leg)).ToList() };
        return new[] { legs, legs.AsEnumerable().Reverse() }
            .Select(start => start.Aggregate(onBoard, (trip, leg) => trip with { Visits = trip.Insert(roads, leg).Visits }))
            .Prepend(this)
            .Select(trip => trip.Improved(roads, legs))
            .MinBy(trip => trip.Cost(roads))!;
    }

    /// <summary>All orders of visits in which each leg's own are in its order.</summary>
    private static IEnumerable<IReadOnlyList<Visit>> Orders(IReadOnlyList<Visit> left)
    {
        if (left.Count == 0)
        {
            yield return [];
        }

        foreach (var first in left.GroupBy(v => v.Leg.LegId).Select(own => own.MinBy(v => v.At)!).ToList())
        {
            foreach (var rest in Orders(left.Where(v => v != first).ToList()))
            {
                yield return [first, .. rest];
            }
        }
    }

    private OpenTrip Improved(IRoads roads, IReadOnlyList<TripLeg> legs)
    {
        var best = this;
        var cost = best.Cost(roads);
        for (var better = legs.Count > 1; better; )
        {
            better = false;
            foreach (var leg in legs)
            {
                var without = best with { Visits = best.Visits.Where(v => v.Leg.LegId != leg.LegId).ToList() };
                var tried = best with { Visits = without.Insert(roads, leg).Visits };
                var now = tried.Cost(roads);
                if (now.Late < cost.Late || (now.Late == cost.Late && now.Miles < cost.Miles - 0.05))
                {
                    (best, cost, better) = (tried, now, true);
                }
            }
        }

        return best;
    }

    /// <summary>How many visits are late, and the miles. Liquids and vehicles that the trailer does not take in this order
    /// count as later than anything; other freight is never put where it does not fit.</summary>
    private (int Late, double Miles) Cost(IRoads roads) =>
        (
            TrailerLoading.Key(Visits) is not null && Itinerary.Overloaded(Visits, Rig, Loaded).Any
                ? int.MaxValue
                : Expect(roads, Visits).Count(v => v.Late > Duration.Zero),
            Miles(roads, Visits)
        );

    /// <summary>The ways to place a leg's stops among the visits ahead, in its order, after the trailer is hooked and before it is dropped; one of
    /// them after all others.</summary>
    private IEnumerable<IReadOnlyList<Visit>> Ways(IRoads roads, TripLeg leg)
    {
        var (first, last) = TripStops.ForLoads(Visits, Rig, leg);
        var ways = 1d;
        for (var i = 1; i <= leg.Stops.Count; i++)
        {
            ways *= (double)(last - first + i) / i;
        }

        if (ways <= MostWays)
        {
            return All(Visits, first, 0);
        }

        IReadOnlyList<Visit> so = Visits;
        var from = first;
        for (var at = 0; at < leg.Stops.Count; at++)
        {
            var visit = new Visit(leg, at);
            (so, var place) = Enumerable
                .Range(from, last + at - from + 1)
                .Select(i => (With(so, i, visit), i))
                .MinBy(w => Miles(roads, w.Item1))!;
            from = place + 1;
        }

        return [so, [.. Visits.Take(last), .. leg.Stops.Select((_, at) => new Visit(leg, at)), .. Visits.Skip(last)]];

        IEnumerable<IReadOnlyList<Visit>> All(IReadOnlyList<Visit> visits, int begin, int at)
        {
            if (at == leg.Stops.Count)
            {
                yield return visits;
                yield break;
            }

            for (var i = begin; i <= last + at; i++)
            {
                foreach (var way in All(With(visits, i, new Visit(leg, at)), i + 1, at + 1))
                {
                    yield return way;
                }
            }
        }

        static IReadOnlyList<Visit> With(IReadOnlyList<Visit> visits, int at, Visit visit) =>
            [.. visits.Take(at), visit, .. visits.Skip(at)];
    }
}

/// <summary>Which loads are worth trying on a trip, and what they add to its profit.</summary>
public static class TripOffers
{
    /// <summary>A pickup further than so many miles, in a straight line, from every visit ahead is not worth the detour.</summary>
    public const double FarthestMiles = 120;

    /// <summary>How long before a trip begins or after it ends a pickup may be.</summary>
    public static readonly Duration Around = Duration.FromHours(24);

    /// <summary>Whether a leg's pickup falls in the time of a trip, or just before or after it.</summary>
    public static bool CanMeet(Instant from, Instant until, TripLeg leg) =>
        leg.Stops[0].Window.Until >= from - Around && leg.Stops[0].Window.From <= until + Around;

    /// <summary>The legs whose pickup is near the way ahead, nearest first.</summary>
    /// <param name="most">At most so many.</param>
    public static IReadOnlyList<T> Near<T>(OpenTrip trip, IEnumerable<T> candidates, Func<T, TripLeg> leg, int most)
    {
        var ahead = trip.Visits.Where(v => v.Leg.Carries && !v.Stop.Done).ToList();
        if (ahead.Count == 0)
        {
            return [];
        }

        var (from, until) = (ahead.Min(v => v.Stop.Window.From), ahead.Max(v => v.Stop.Window.Until));
        // A pickup may be on the way between two visits.
        var way = ahead.Select(v => v.Stop.Point).Prepend(trip.Seen?.Point ?? trip.Begins?.Point ?? ahead[0].Stop.Point).ToList();
        return candidates
            .Where(c => CanMeet(Instant.Max(from, trip.Now), until, leg(c)))
            .Select(c => (c, Miles: way.Skip(1).Zip(way, (b, a) => Away(a, b, leg(c).Stops[0].Point)).Min()))
            .Where(x => x.Miles <= FarthestMiles)
            .OrderBy(x => x.Miles)
            .Take(most)
            .Select(x => x.c)
            .ToList();
    }

    /// <summary>Whether a load shares the trip's way: it adds at most seven tenths of the miles it would be hauled alone. What adds more is the next
    /// trip, not a part of this one. An assumption.</summary>
    /// <param name="own">The leg's own miles.</param>
    public static bool SharesTheWay(int addedMiles, int own) => addedMiles <= own * 0.7m;

    /// <summary>The order of offers: first what makes nothing late, then what adds most.</summary>
    public static (bool, decimal) Rank(int late, Money adds) => (late > 0, -adds.Amount);

    /// <summary>Half the detour from one point to another by way of a third, in a straight line.</summary>
    private static double Away(GeoPoint a, GeoPoint b, GeoPoint by) =>
        (GreatCircle.Miles(a, by) + GreatCircle.Miles(by, b) - GreatCircle.Miles(a, b)) / 2;

    /// <summary>Its revenue less what the added miles and time cost by the company's figures: fuel, driver and truck by the mile, the truck by the
    /// day.</summary>
    /// <param name="revenue">The leg's share, in US dollars.</param>
    /// <example>$900 for 60 miles and 3 hours at 6.5 mpg and $3.90, $0.62, $0.21 and $148 a day adds $795.70.</example>
    public static Money Adds(Money revenue, int miles, Duration time, CostFigures figures)
    {
        var mile = (figures.FuelPrice / figures.MilesPerGallon) + figures.DriverPerMile + figures.FixedPerMile;
        return revenue - Money.Usd((Math.Max(0, miles) * mile) + ((decimal)Math.Max(0, time.TotalDays) * figures.FixedPerDay)).ToCents();
    }
}
