using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Covering;

/// <summary>A load as part of a round trip.</summary>
/// <param name="PickupUntil">The latest time it can be picked up.</param>
/// <param name="Begins">The earliest pickup time.</param>
/// <param name="Lasts">Estimated time from pickup to last delivery.</param>
/// <param name="Left">Its revenue less driver, payroll tax, fuel and truck by the mile: what its own miles leave, before empty miles and
/// truck days.</param>
public sealed record RoundTripLoad(
    long LoadId,
    string Number,
    string Lane,
    GeoPoint From,
    GeoPoint To,
    Instant Begins,
    Instant PickupUntil,
    Duration Lasts,
    Money Left
);

/// <summary>A round trip: empty miles to the load, the load, empty miles to the load back, the load back, the way home.</summary>
/// <param name="Sets">When they leave.</param>
/// <param name="OutEnds">When the outbound load is delivered.</param>
/// <param name="Back">The load back, or null when none fits.</param>
/// <param name="BackBegins">When it is picked up.</param>
/// <param name="EmptyMiles">All empty miles of the round trip, including the way home.</param>
/// <param name="HomeAt">Estimated time they are home.</param>
/// <param name="PerDay">Margin of both loads per day of the round trip, after empty miles and the truck's days.</param>
public sealed record RoundTrip(
    Instant Sets,
    Instant OutEnds,
    RoundTripLoad? Back,
    Instant? BackBegins,
    Instant? BackEnds,
    int EmptyMiles,
    Instant HomeAt,
    Money PerDay
);

/// <summary>What a round trip costs besides the loaded miles.</summary>
/// <param name="EmptyMile">An empty mile: fuel and truck, and driver pay by the empty mile with its payroll tax.</param>
/// <param name="Day">A day of the truck, with per diem.</param>
public sealed record RoundTripCosts(Money EmptyMile, Money Day)
{
    /// <summary>Of a driver: what an empty mile more costs them and their truck.</summary>
    /// <param name="perEmptyMile">The driver's rate for empty miles.</param>
    public static RoundTripCosts Of(CostFigures figures, DriverCost driver, decimal perEmptyMile)
    {
        Money Of(int empty) =>
            LegCost
                .Of(
                    figures with
                    {
                        FixedPerDay = 0,
                    },
                    new TruckWork(0, empty, 0, Duration.Zero),
                    driver with
                    {
                        ByLeg = driver.ByLeg is null ? null : Money.Usd(empty * perEmptyMile),
                        PerDiem = 0,
                    },
                    KnownCosts.None
                )
                .Total;
        // Of a thousand miles, so that rounding to cents does not matter.
        return new RoundTripCosts(
            Of(1000) * 0.001m,
            Money.Usd((driver.Worker == WorkerKind.OwnerOperator ? 0 : figures.FixedPerDay) + (driver.ByLeg is null ? 0 : driver.PerDiem))
        );
    }

    /// <summary>What a load's own miles leave: see <see cref="RoundTripLoad"/>.</summary>
    public static Money Left(CostFigures figures, Money revenue, TruckWork work, DriverCost driver) =>
        revenue
        - LegCost.Of(figures with { FixedPerDay = 0 }, work with { EmptyMiles = 0 }, driver with { PerDiem = 0 }, KnownCosts.None).Total;

    public static readonly RoundTripCosts None = new(Money.Zero(), Money.Zero());
}

/// <summary>The best load is the one with the best round trip, not the best rate: the load back can make up for a cheap load out.</summary>
public static class RoundTrips
{
    /// <summary>How long a driver may wait for a load back.</summary>
    private static readonly Duration MaxWaiting = Duration.FromHours(36);

    /// <summary>The round trip of a load with the load back that has the highest margin per day, until home; without a load back when none
    /// is worth its time.</summary>
    /// <param name="freeAt">When they are free, not before now.</param>
    /// <param name="open">Uncovered loads their trailer can haul.</param>
    /// <param name="home">Where they live.</param>
    public static RoundTrip Best(
        IRoads roads,
        Instant freeAt,
        GeoPoint from,
        RoundTripLoad load,
        IEnumerable<RoundTripLoad> open,
        GeoPoint home,
        RoundTripCosts costs
    )
    {
        var before = roads.Between(from, load.From);
        var begins = Instant.Max(freeAt + before.DoorToDoor, load.Begins);
        var sets = Instant.Max(freeAt, begins - before.DoorToDoor);
        var ends = begins + load.Lasts;
        var straight = Make(null, default);
        return open.Where(o => o.LoadId != load.LoadId)
            .Select(o => (Load: o, Between: roads.Between(load.To, o.From)))
            .Where(x => ends + x.Between.DoorToDoor <= x.Load.PickupUntil && x.Load.Begins <= ends + x.Between.DoorToDoor + MaxWaiting)
            .Select(x => Make(x.Load, x.Between))
            .Append(straight)
            .MaxBy(r => r.PerDay.Amount)!;

        RoundTrip Make(RoundTripLoad? back, Drive between)
        {
            var backBegins = back is null ? (Instant?)null : Instant.Max(ends + between.DoorToDoor, back.Begins);
            var backEnds = backBegins + (back?.Lasts ?? Duration.Zero);
            var last = back?.To ?? load.To;
            var homeward = roads.Between(last, home);
            var at = (backEnds ?? ends) + homeward.DoorToDoor;
            var days = Math.Max(0.5, (at - sets).TotalDays);
            var empty = (before + between + homeward).WholeMiles;
            var left = load.Left + (back?.Left ?? Money.Zero()) - (costs.EmptyMile * empty) - (costs.Day * (decimal)days);
            return new RoundTrip(sets, ends, back, backBegins, backEnds, empty, at, Money.Usd(left.Amount / (decimal)days).ToCents());
        }
    }
}
