using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>A stop with its promise and what has happened at it so far.</summary>
/// <param name="Told">When the truck is expected there by what somebody said, while it is still ahead.</param>
/// <param name="Refused">When the receiver refused the freight: the stop is passed, and nothing was delivered.</param>
/// <param name="SetMiles">Miles from the stop before as a person set them, instead of the roads' own.</param>
/// <param name="Via">Points that the way from the stop before leads through.</param>
/// <param name="Service">Usual time to load or unload there; <see cref="TripPlan.ServiceTime"/> when the place has no figure of its own.</param>
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
    Duration? Service = null)
{
    public Duration ServiceTime => Service ?? TripPlan.ServiceTime;

    public bool Done => Left is not null || (Kind == StopKind.Delivery && (Delivered is not null || Refused is not null));
}

/// <summary>When one expects to come and go at a stop.</summary>
public sealed record PlannedVisit(long StopId, Instant Arrives, Instant Leaves);

/// <summary>A trip laid out on the line of time before it begins.</summary>
public sealed record TripSchedule(IReadOnlyList<PlannedVisit> Stops)
{
    /// <summary>For how long a driver, truck and trailer are promised: from the first stop's opening to leaving the last.</summary>
    public Span Commitment => new(Stops[0].Arrives, Stops[^1].Leaves);
}

public static class TripPlan
{
    /// <summary>Time at a stop to load or unload, until a place has its own figure: one hour.</summary>
    public static readonly Duration ServiceTime = Duration.FromHours(1);

    /// <summary>The drive to a stop from the one before it: through its shaping points, and of the miles that a person set.</summary>
    public static Drive To(this IRoads roads, GeoPoint before, PlannedStop stop) => roads.Stretch(before, stop.Via, stop.Point, stop.SetMiles);

    /// <summary>The drive between two stops in turn: through points that the way is led over, and of the miles that a person set.</summary>
    public static Drive Stretch(this IRoads roads, GeoPoint from, IReadOnlyList<GeoPoint>? via, GeoPoint to, double? set) =>
        (via is { Count: > 0 } ? roads.Along([from, .. via, to]) : roads.Between(from, to)).Set(set);

    /// <summary>The earliest way through all stops: there when the first opens, driving by road, waiting where one is early.</summary>
    public static TripSchedule Build(IRoads roads, IReadOnlyList<PlannedStop> stops)
    {
        var visits = new List<PlannedVisit>(stops.Count);
        for (var i = 0; i < stops.Count; i++)
        {
            var arrives = i == 0
                ? stops[0].Window.From
                : visits[i - 1].Leaves + roads.To(stops[i - 1].Point, stops[i]).DoorToDoor;
            var begins = Instant.Max(arrives, stops[i].Window.From);
            visits.Add(new PlannedVisit(stops[i].Id, arrives, begins + stops[i].ServiceTime));
        }

        return new TripSchedule(visits);
    }
}
