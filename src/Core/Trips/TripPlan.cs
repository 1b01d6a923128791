using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>A stop with its promise and what has happened at it so far.</summary>
/// <param name="Told">When the truck is expected there by what somebody said, while it is still ahead.</param>
/// <param name="Refused">When the receiver refused the freight: the stop is passed, and nothing was delivered.</param>
public sealed record PlannedStop(
    long Id,
    StopKind Kind,
    GeoPoint Point,
    Span Window,
    Instant? Arrived = null,
    Instant? Left = null,
    Instant? Delivered = null,
    Instant? Told = null,
    Instant? Refused = null)
{
    public bool Done => Left is not null || (Kind == StopKind.Delivery && (Delivered is not null || Refused is not null));
}

/// <summary>When one expects to come and go at a stop.</summary>
public sealed record PlannedVisit(long StopId, Instant Arrives, Instant Leaves);

/// <summary>A trip laid out on the line of time before it begins.</summary>
public sealed record LaidPlan(IReadOnlyList<PlannedVisit> Stops)
{
    /// <summary>For how long a driver, truck and trailer are promised: from the first stop's opening to leaving the last.</summary>
    public Span Promise => new(Stops[0].Arrives, Stops[^1].Leaves);
}

public static class TripPlan
{
    /// <summary>Time at a stop to load or unload, until a place has its own figure: one hour.</summary>
    public static readonly Duration ServiceTime = Duration.FromHours(1);

    /// <summary>The earliest way through all stops: there when the first opens, driving by <see cref="RoadEstimate"/>, waiting where one is early.</summary>
    public static LaidPlan Lay(IReadOnlyList<PlannedStop> stops)
    {
        var visits = new List<PlannedVisit>(stops.Count);
        for (var i = 0; i < stops.Count; i++)
        {
            var arrives = i == 0
                ? stops[0].Window.From
                : visits[i - 1].Leaves + RoadEstimate.DoorToDoor(RoadEstimate.Miles(stops[i - 1].Point, stops[i].Point));
            var begins = Instant.Max(arrives, stops[i].Window.From);
            visits.Add(new PlannedVisit(stops[i].Id, arrives, begins + ServiceTime));
        }

        return new LaidPlan(visits);
    }
}
