using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>How freight passes from one truck to the next.</summary>
public enum TransferMethod
{
    /// <summary>The loaded trailer is dropped, and the next truck hooks it.</summary>
    Drop,

    /// <summary>Two trucks swap trailers.</summary>
    Swap,

    /// <summary>The freight is moved to another trailer.</summary>
    Transload,
}

/// <summary>Where a leg ends and the next one begins.</summary>
/// <param name="AfterStops">How many of the load's stops come before it.</param>
/// <param name="PlannedAt">When the next truck is to take the freight; null for a handover nobody planned, which has both times.</param>
/// <param name="LeftAt">When the truck before left the freight there; null until it did.</param>
/// <param name="TakenAt">When the next truck took it; null until it did.</param>
public sealed record Transfer(
    long Id,
    int AfterStops,
    GeoPoint Point,
    string Town,
    Instant? PlannedAt,
    Instant? LeftAt,
    Instant? TakenAt,
    TransferMethod Method
)
{
    /// <summary>Half an hour to drop, hook or swap a trailer, an hour to move the freight to another one.</summary>
    public Duration ServiceTime => Method == TransferMethod.Transload ? TripPlan.ServiceTime : Duration.FromMinutes(30);

    /// <summary>When the freight is there for the next truck: as planned until it was left, then since it was left.</summary>
    public Instant Ready => LeftAt ?? PlannedAt!.Value;

    /// <summary>Whether the freight is there and no truck has it.</summary>
    public bool Waiting => LeftAt is not null && TakenAt is null;
}

/// <summary>A load's stops and the transfers between its legs: what one truck after the other drives.</summary>
/// <param name="Stops">In order.</param>
/// <param name="Transfers">In order; leg i, from 0, ends at transfer i and the next one begins there.</param>
public sealed record LoadPath(IReadOnlyList<PlannedStop> Stops, IReadOnlyList<Transfer> Transfers)
{
    public int Legs => Transfers.Count + 1;

    /// <summary>The leg in progress, from 0: the first whose freight was not left at its end.</summary>
    public int Current => Transfers.TakeWhile(t => t.LeftAt is not null).Count();

    /// <summary>The transfer at which a leg begins; null for the first.</summary>
    public Transfer? Begin(int leg) => leg == 0 ? null : Transfers[leg - 1];

    /// <summary>The transfer at which a leg ends; null for the last.</summary>
    public Transfer? End(int leg) => leg == Transfers.Count ? null : Transfers[leg];

    /// <summary>A leg's own stops: those between its transfers.</summary>
    public IReadOnlyList<PlannedStop> StopsOf(int leg)
    {
        var from = Begin(leg)?.AfterStops ?? 0;
        return Stops.Skip(from).Take((End(leg)?.AfterStops ?? Stops.Count) - from).ToList();
    }

    /// <summary>
    /// What a leg's truck does: it takes the freight at the transfer where the leg begins, makes its stops, and leaves the freight at the
    /// transfer where it ends. The freight can be taken from when it is there until it is too late for the next point.
    /// </summary>
    public IReadOnlyList<PlannedStop> OfLeg(IRoads roads, int leg)
    {
        var points = DrivenStops(leg).ToList();
        if (End(leg) is { } end)
        {
            var due = end.LeftAt ?? end.PlannedAt!.Value;
            points.Add(
                new PlannedStop(
                    -end.Id,
                    StopKind.Delivery,
                    end.Point,
                    // A trailer is dropped whenever the truck gets there; for anything else the next truck has to be there.
                    new Span(end.Method == TransferMethod.Drop ? Instant.MinValue : due, due),
                    end.LeftAt,
                    end.LeftAt,
                    Service: end.ServiceTime
                )
            );
        }

        if (Begin(leg) is { } begin)
        {
            var latest =
                points.Count > 0
                    ? points[0].Window.Until - roads.Between(begin.Point, points[0].Point).DoorToDoor - begin.ServiceTime
                    : begin.Ready;
            points.Insert(
                0,
                new PlannedStop(
                    -begin.Id,
                    StopKind.Pickup,
                    begin.Point,
                    new Span(begin.Ready, Instant.Max(begin.Ready, latest)),
                    begin.TakenAt,
                    begin.TakenAt,
                    Service: begin.ServiceTime
                )
            );
        }

        return points;
    }

    /// <summary>A leg as it is planned now: freight that waits at a transfer is taken no earlier than now.</summary>
    public IReadOnlyList<PlannedStop> Ahead(IRoads roads, int leg, Instant now)
    {
        var points = OfLeg(roads, leg);
        return Begin(leg) is null ? points : TripPlan.NotBefore(points, now);
    }

    /// <summary>Everything the freight passes, for ETAs: its stops, and each transfer as a point that is done once the next truck has
    /// it.</summary>
    public IReadOnlyList<PlannedStop> Whole
    {
        get
        {
            var points = new List<PlannedStop>();
            for (var leg = 0; leg < Legs; leg++)
            {
                points.AddRange(DrivenStops(leg));
                if (End(leg) is { } t)
                {
                    var due = t.PlannedAt ?? t.LeftAt!.Value;
                    points.Add(
                        new PlannedStop(-t.Id, StopKind.Delivery, t.Point, new Span(due, due), t.LeftAt, t.TakenAt, Service: t.ServiceTime)
                    );
                }
            }

            return points;
        }
    }

    /// <summary>What the truck of a leg does: of the leg in progress with everything that the freight passes, for ETAs at all stops; of one
    /// ahead, only its own part.</summary>
    public TruckRun RunOf(IRoads roads, int leg)
    {
        var drops = End(leg)?.Method == TransferMethod.Drop;
        if (leg != Current)
        {
            var own = OfLeg(roads, leg);
            return new TruckRun(own, own.Count, drops);
        }

        return new TruckRun(Whole, (End(leg)?.AfterStops ?? Stops.Count) + Math.Min(leg + 1, Transfers.Count), drops);
    }

    /// <summary>ETAs for a leg whose truck carries other freight too: of the leg in progress at everything that the freight passes, of one ahead at
    /// its own points.</summary>
    /// <param name="trip">ETAs at the trip's visits, by id.</param>
    public IReadOnlyList<ExpectedVisit> Expect(IRoads roads, int leg, IReadOnlyDictionary<long, ExpectedVisit> trip, Instant now)
    {
        if (leg != Current)
        {
            return OfLeg(roads, leg).Select(s => trip[s.Id]).ToList();
        }

        var points = Whole.ToList();
        var (first, last) = (points.FindIndex(p => trip.ContainsKey(p.Id)), points.FindLastIndex(p => trip.ContainsKey(p.Id)));
        return
        [
            .. Expectations.Of(roads, points[..first], now),
            .. points[first..(last + 1)].Select(p => trip[p.Id]),
            .. Expectations.Of(roads, points[(last + 1)..], now, new ComingFrom(points[last].Point, trip[points[last].Id].Leaves)),
        ];
    }

    /// <summary>Whole road miles of a leg.</summary>
    public int Miles(IRoads roads, int leg) => roads.Through(OfLeg(roads, leg)).WholeMiles;

    /// <summary>With another transfer, at which a leg now ends.</summary>
    public LoadPath With(int leg, Transfer transfer) =>
        this with
        {
            Transfers = [.. Transfers.Take(leg), transfer, .. Transfers.Skip(leg)],
        };

    /// <summary>With a transfer in the place of the one that ended a leg.</summary>
    public LoadPath Changed(int leg, Transfer transfer) =>
        this with
        {
            Transfers = [.. Transfers.Take(leg), transfer, .. Transfers.Skip(leg + 1)],
        };

    /// <summary>Without the transfer at which a leg ends.</summary>
    public LoadPath Without(int leg) => this with { Transfers = [.. Transfers.Take(leg), .. Transfers.Skip(leg + 1)] };

    /// <summary>A leg's own stops as its truck drives to them. A route override is for the whole stretch between two stops, not for the part from a
    /// transfer.</summary>
    private IEnumerable<PlannedStop> DrivenStops(int leg) =>
        StopsOf(leg).Select((s, i) => i == 0 && leg > 0 ? s with { SetMiles = null, Via = null } : s);
}
