using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>A stop with its window and what has happened at it.</summary>
/// <param name="Told">The reported ETA, while it is still ahead.</param>
/// <param name="Refused">When the receiver refused the freight: the stop is done, and nothing was delivered.</param>
/// <param name="SetMiles">Manual miles from the stop before, instead of the road miles.</param>
/// <param name="Via">Via points between the stop before and this one.</param>
/// <param name="Service">Usual time to load or unload there; <see cref="TripPlan.ServiceTime"/> when the place has no figure of its
/// own.</param>
public sealed record PlannedStop(
    long Id,
    StopKind Kind,
    GeoPoint Point,
    Span Window,
    Instant? Arrived = null,
    Instant? Left = null,
    Instant? Delivered = null,
    Instant? Told = null,
    Instant? Refused = null,
    double? SetMiles = null,
    IReadOnlyList<GeoPoint>? Via = null,
    Duration? Service = null
)
{
    public Duration ServiceTime => Service ?? TripPlan.ServiceTime;

    public bool Done => Left is not null || (Kind == StopKind.Delivery && (Delivered is not null || Refused is not null));
}

/// <summary>Planned arrival and departure at a stop.</summary>
public sealed record PlannedVisit(long StopId, Instant Arrives, Instant Leaves);

/// <summary>Plans a trip's times before it begins.</summary>
public sealed record TripSchedule(IReadOnlyList<PlannedVisit> Stops)
{
    /// <summary>How long a driver, truck and trailer are booked: from the first stop's opening to leaving the last.</summary>
    public Span Commitment => new(Stops[0].Arrives, Stops[^1].Leaves);
}

public static class TripPlan
{
    /// <summary>Default time at a stop to load or unload: one hour.</summary>
    public static readonly Duration ServiceTime = Duration.FromHours(1);

    /// <summary>The drive to a stop from the one before it: through its via points, with any manual miles.</summary>
    public static Drive To(this IRoads roads, GeoPoint before, PlannedStop stop) =>
        roads.Stretch(before, stop.Via, stop.Point, stop.SetMiles);

    /// <summary>The drive from the first stop to the last, through all of them.</summary>
    public static Drive Through(this IRoads roads, IReadOnlyList<PlannedStop> stops) =>
        stops.Skip(1).Zip(stops, (stop, before) => roads.To(before.Point, stop)).Aggregate(default(Drive), (sum, d) => sum + d);

    /// <summary>The drive between two consecutive stops: through via points, with any manual miles.</summary>
    public static Drive Stretch(this IRoads roads, GeoPoint from, IReadOnlyList<GeoPoint>? via, GeoPoint to, double? set) =>
        (via is { Count: > 0 } ? roads.Along([from, .. via, to]) : roads.Between(from, to)).Set(set);

    /// <summary>The same stops with the first one no earlier than an instant.</summary>
    public static IReadOnlyList<PlannedStop> NotBefore(IReadOnlyList<PlannedStop> stops, Instant earliest) =>
        stops[0].Window.From >= earliest
            ? stops
            : [stops[0] with { Window = new Span(earliest, Instant.Max(earliest, stops[0].Window.Until)) }, .. stops.Skip(1)];

    /// <summary>The earliest schedule through all stops: at the first when it opens, driving by road, waiting where early.</summary>
    /// <param name="begins">When the crew is at the first stop instead, if later than its opening.</param>
    public static TripSchedule Build(IRoads roads, IReadOnlyList<PlannedStop> stops, Instant? begins = null)
    {
        var visits = new List<PlannedVisit>(stops.Count);
        for (var i = 0; i < stops.Count; i++)
        {
            var arrives =
                i == 0
                    ? Instant.Max(stops[0].Window.From, begins ?? stops[0].Window.From)
                    : visits[i - 1].Leaves + roads.To(stops[i - 1].Point, stops[i]).DoorToDoor;
            var served = Instant.Max(arrives, stops[i].Window.From);
            visits.Add(new PlannedVisit(stops[i].Id, arrives, served + stops[i].ServiceTime));
        }

        return new TripSchedule(visits);
    }
}
