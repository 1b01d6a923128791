using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Covering;

/// <summary>A load as a part of a round.</summary>
/// <param name="PickupUntil">The last moment at which it is picked up.</param>
/// <param name="Begins">When it is picked up at the earliest.</param>
/// <param name="Lasts">From its pickup to its last delivery, by estimate.</param>
/// <param name="Left">What is left of its revenue when its driver is paid.</param>
public sealed record RoundTripLoad(long LoadId, string Number, string Lane, GeoPoint From, GeoPoint To, Instant Begins, Instant PickupUntil, Duration Lasts, Money Left);

/// <summary>A way out and back: the empty miles before, the load, the empty miles between, the load back, the way home.</summary>
/// <param name="Sets">When they set out.</param>
/// <param name="OutEnds">When the load out is delivered.</param>
/// <param name="Back">The load back, or null when none fits.</param>
/// <param name="BackBegins">When it is picked up.</param>
/// <param name="EmptyMiles">All empty miles of the round, the way home with them.</param>
/// <param name="HomeAt">When they are home, by estimate.</param>
/// <param name="PerDay">What is left of both loads, for a day of the round.</param>
public sealed record RoundTrip(Instant Sets, Instant OutEnds, RoundTripLoad? Back, Instant? BackBegins, Instant? BackEnds, int EmptyMiles, Instant HomeAt, Money PerDay);

/// <summary>The best load is not the best price but the best round: a poor load out is paid for by the load back.</summary>
public static class RoundTrips
{
    /// <summary>How long they may wait for a load back.</summary>
    private static readonly Duration MaxWaiting = Duration.FromHours(36);

    /// <summary>The round of a load with the load back that leaves the most for a day, home counted; without a load back when none pays for its time.</summary>
    /// <param name="freeAt">When they are free, not before now.</param>
    /// <param name="open">Loads that nobody has, of what their trailer carries.</param>
    /// <param name="home">Where they live.</param>
    public static RoundTrip Best(IRoads roads, Instant freeAt, GeoPoint from, RoundTripLoad load, IEnumerable<RoundTripLoad> open, GeoPoint home)
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
            return new RoundTrip(sets, ends, back, backBegins, backEnds, (before + between + homeward).WholeMiles, at, Money.Usd(left.Amount / (decimal)days).ToCents());
        }
    }
}
