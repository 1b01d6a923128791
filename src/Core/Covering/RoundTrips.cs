using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Covering;

/// <summary>A load as part of a round trip.</summary>
/// <param name="PickupUntil">The latest time it can be picked up.</param>
/// <param name="Begins">The earliest pickup time.</param>
/// <param name="Lasts">Estimated time from pickup to last delivery.</param>
/// <param name="Left">Its revenue less driver pay.</param>
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
/// <param name="PerDay">Margin of both loads per day of the round trip.</param>
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
        GeoPoint home
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
            var left = load.Left + (back?.Left ?? Money.Zero());
            return new RoundTrip(
                sets,
                ends,
                back,
                backBegins,
                backEnds,
                (before + between + homeward).WholeMiles,
                at,
                Money.Usd(left.Amount / (decimal)days).ToCents()
            );
        }
    }
}
