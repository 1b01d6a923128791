using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>A trip as it is planned.</summary>
/// <param name="Visits">In order; at least one.</param>
/// <param name="Drops">Whether it drops its trailer at the last of them, and is free without waiting for the next truck.</param>
/// <param name="Known">For its co-driver, the trip as planned for its driver: it runs as the truck does. Null to plan it here.</param>
public sealed record TripAhead(long TripId, string Number, IReadOnlyList<Visit> Visits, bool Drops, PlannedTrip? Known = null);

/// <summary>A trip in the sequence of its driver's trips.</summary>
/// <param name="Expected">ETAs at its visits, in order.</param>
/// <param name="Empty">The empty drive to its first visit; null when nobody knows where the truck comes from.</param>
public sealed record PlannedTrip(TripAhead Trip, IReadOnlyList<ExpectedVisit> Expected, Drive? Empty)
{
    /// <summary>When the truck leaves for the first visit, so as to be there as expected.</summary>
    public Instant SetsOut => Expected[0].Arrives - (Empty?.DoorToDoor ?? Duration.Zero);

    /// <summary>When the truck is free.</summary>
    public Instant Ends =>
        Trip.Drops && !Trip.Visits[^1].Stop.Done ? Expected[^1].Arrives + Trip.Visits[^1].Stop.ServiceTime : Expected[^1].Leaves;

    public GeoPoint Point => Trip.Visits[^1].Stop.Point;

    /// <summary>Miles from the first visit to the last.</summary>
    public double Miles(IRoads roads) => roads.Through(Itinerary.Points(roads, Trip.Visits)).Miles;
}

/// <summary>The empty drive home after the last trip.</summary>
public sealed record WayHome(Drive Drive, Instant At);

/// <summary>What a driver has agreed with dispatch.</summary>
/// <param name="Name">As shown.</param>
/// <param name="Off">Time off ahead.</param>
/// <param name="HomeBy">By when they are to be home; null when nothing was agreed.</param>
public sealed record DriverAgreed(string Name, IReadOnlyList<Span> Off, Instant? HomeBy);

/// <summary>A driver's trips in the order in which they are driven: when each begins and ends, and what does not work.</summary>
public static class DriverPlan
{
    /// <summary>The trips with their ETAs, each after the one before it.</summary>
    /// <param name="inTurn">The one under way first, then by begin.</param>
    /// <param name="from">Where and when the driver was free before the first; null when unknown.</param>
    /// <param name="seen">Where the truck was last seen on the first.</param>
    public static IReadOnlyList<PlannedTrip> Of(
        IRoads roads,
        IReadOnlyList<TripAhead> inTurn,
        Instant now,
        ComingFrom? from,
        ComingFrom? seen = null
    )
    {
        var runs = inTurn.Select(t => new TruckRun(Itinerary.Points(roads, t.Visits), t.Visits.Count, t.Drops, t.Known?.Expected));
        var expected = Expectations.InTurn(roads, runs, now, from, seen);
        var planned = new List<PlannedTrip>(inTurn.Count);
        var at = from?.Point;
        for (var i = 0; i < inTurn.Count; i++)
        {
            var trip = inTurn[i];
            var first = trip.Visits[0].Stop.Point;
            planned.Add(trip.Known ?? new PlannedTrip(trip, expected[i], at is { } point ? roads.Between(point, first) : null));
            at = trip.Visits[^1].Stop.Point;
        }

        return planned;
    }

    /// <summary>The way home after the last trip; null without one.</summary>
    /// <param name="home">Where the driver lives; null when unknown.</param>
    public static WayHome? Home(IRoads roads, IReadOnlyList<PlannedTrip> trips, GeoPoint? home)
    {
        if (trips.Count == 0 || home is not { } to)
        {
            return null;
        }

        var drive = roads.Between(trips[^1].Point, to);
        return new WayHome(drive, trips[^1].Ends + drive.DoorToDoor);
    }

    /// <summary>Margin per day of the trips, from leaving for the first one to the end of the last, at least one day; null without trips.</summary>
    public static Money? PerDay(IReadOnlyList<PlannedTrip> trips, Money margin) =>
        trips.Count == 0 ? null : Money.Usd(margin.Amount / (decimal)Math.Max(1, (trips[^1].Ends - trips[0].SetsOut).TotalDays)).ToCents();

    /// <summary>Trailers that are elsewhere when their trip begins, in sentences.</summary>
    /// <param name="from">Where the truck was before the first trip; null when unknown.</param>
    /// <param name="trailer">The unit number of a trip's trailer, and where it is before the trip; nulls when unknown.</param>
    public static IReadOnlyList<string> TrailersAway(
        IReadOnlyList<PlannedTrip> trips,
        GeoPoint? from,
        Func<long, (string? Unit, UnitStand? Stands)> trailer,
        Instant now,
        DateTimeZone zone
    ) =>
        trips
            .Select(
                (t, i) =>
                    TripStops.TrailerAway(
                        t.Trip.Visits,
                        trailer(t.Trip.TripId).Unit,
                        trailer(t.Trip.TripId).Stands,
                        i == 0 ? from : trips[i - 1].Point,
                        now,
                        zone
                    )
            )
            .OfType<string>()
            .ToList();

    /// <summary>What does not work in a driver's plan, in sentences: visits reached late, trips over time off, a way home that is too late.</summary>
    public static IReadOnlyList<string> Warnings(DriverAgreed driver, IReadOnlyList<PlannedTrip> trips, WayHome? home, DateTimeZone zone)
    {
        var warnings = new List<string>();
        foreach (var trip in trips)
        {
            warnings.AddRange(Itinerary.Late(trip.Trip.Visits, trip.Expected, new Dictionary<long, Duration>()));
            foreach (
                var off in driver.Off.Where(o =>
                    o.Overlaps(new Span(trip.SetsOut, Instant.Max(trip.Ends, trip.SetsOut + TripPlan.ServiceTime)))
                )
            )
            {
                warnings.Add(
                    $"{driver.Name} is off from {off.From.Format(zone)} to {off.Until.Format(zone)}, and trip {trip.Trip.Number} runs from {trip.SetsOut.Format(zone)} to {trip.Ends.Format(zone)}."
                );
            }
        }

        if (home is not null && driver.HomeBy is { } by && home.At > by)
        {
            warnings.Add(
                $"{driver.Name} is to be home by {by.Format(zone)} and gets there {home.At.Format(zone)}, {(home.At - by).Format()} late."
            );
        }

        return warnings;
    }
}

/// <summary>What a driver's plan adds up to.</summary>
/// <param name="EmptyMiles">Before the trips and home after the last one.</param>
/// <param name="Late">How late each visit is, by its id.</param>
/// <param name="Margin">Of the trips whose cost is known.</param>
public sealed record PlanTotals(double EmptyMiles, IReadOnlyDictionary<long, Duration> Late, Money Margin, IReadOnlyList<string> Warnings)
{
    public static readonly PlanTotals None = new(0, new Dictionary<long, Duration>(), Money.Zero(), []);

    /// <summary>Of one driver.</summary>
    public static PlanTotals Of(IReadOnlyList<PlannedTrip> trips, WayHome? home, Money margin, IReadOnlyList<string> warnings) =>
        new(
            trips.Sum(t => t.Trip.Visits.Any(v => v.Reached) ? 0 : t.Empty?.Miles ?? 0) + (home?.Drive.Miles ?? 0),
            Latest(
                trips
                    .SelectMany(t => t.Trip.Visits.Zip(t.Expected))
                    .Where(v => v.First.Leg.Carries && !v.First.Reached)
                    .Select(v => (v.First.Stop.Id, v.Second.Late))
            ),
            margin,
            warnings
        );

    /// <summary>Of several drivers together.</summary>
    public static PlanTotals Sum(IEnumerable<PlanTotals> all)
    {
        var list = all.ToList();
        return new PlanTotals(
            list.Sum(t => t.EmptyMiles),
            Latest(list.SelectMany(t => t.Late).Select(l => (l.Key, l.Value))),
            Money.Sum(list.Select(t => t.Margin)),
            list.SelectMany(t => t.Warnings).ToList()
        );
    }

    /// <summary>At a transfer two trips meet: the later of them counts.</summary>
    private static Dictionary<long, Duration> Latest(IEnumerable<(long Visit, Duration Late)> visits) =>
        visits.GroupBy(v => v.Visit).ToDictionary(g => g.Key, g => g.Max(v => v.Late));
}

/// <summary>What a change of the plan does.</summary>
/// <param name="EmptyMiles">Whole empty miles more; below zero when fewer.</param>
/// <param name="Margin">How much more the trips of these drivers leave.</param>
/// <param name="Late">Visits that become late, or later than they were, by id.</param>
/// <param name="Warnings">What does not work after the change and did work before it, in sentences.</param>
public sealed record PlanEffect(int EmptyMiles, Money Margin, IReadOnlySet<long> Late, IReadOnlyList<string> Warnings)
{
    public static PlanEffect Of(PlanTotals before, PlanTotals after) =>
        new(
            (int)Math.Round(after.EmptyMiles - before.EmptyMiles, MidpointRounding.AwayFromZero),
            after.Margin - before.Margin,
            after.Late.Where(l => l.Value > before.Late.GetValueOrDefault(l.Key)).Select(l => l.Key).ToHashSet(),
            after.Warnings.Except(before.Warnings).ToList()
        );

    /// <summary>Why a change is not made that makes visits late; null when it is.</summary>
    public Problem? LateRefuses(bool allowed) =>
        allowed || Late.Count == 0 ? null : new Problem("plan.late", string.Join(' ', Warnings), "allowLate");
}
