using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>The driver, truck and trailer of a leg.</summary>
public sealed record LegCrew(long? DriverId, long? TruckId, long? TrailerId);

/// <summary>What a handover makes of a leg.</summary>
/// <param name="MilesDone">Whole road miles of the leg that ends: from where it began, over the stops it reached, to the handover.</param>
/// <param name="MilesAhead">Whole road miles of the leg that begins: from the handover over the stops ahead.</param>
/// <param name="Booking">The time for which the new driver and truck are booked.</param>
public sealed record HandoverPlan(int MilesDone, int MilesAhead, Span Booking);

/// <summary>A load that changes to another driver or truck of ours in mid-trip: one leg ends and the next begins.</summary>
public static class Handover
{
    /// <summary>Why a load cannot be handed over; null when it can.</summary>
    /// <param name="byCarrier">Whether a carrier moves it.</param>
    /// <param name="onOurTruck">Whether a trip of ours moves it.</param>
    public static Problem? Refuses(LoadWork load, bool byCarrier, bool onOurTruck, IReadOnlyList<PlannedStop> stops)
    {
        if (onOurTruck && load.State is LoadState.Covered or LoadState.Rolling && stops.Any(s => s.Arrived is not null))
        {
            return null;
        }

        return new Problem(
            "load.state",
            byCarrier ? $"{load.Who} is assigned to this load and dispatches its own trucks. Unassign the load, or contact the carrier."
                : load.State == LoadState.Covered ? "The trip has not started: reassign the load instead."
                : $"Load {load.Number} is not rolling on one of our trucks."
        );
    }

    /// <summary>Checks the time of a handover: not in the future, and not before anything recorded at a stop.</summary>
    public static void CheckTime(Instant at, IReadOnlyList<PlannedStop> stops, Instant now, Validation validation)
    {
        if (at > now + StopWork.ClockDrift)
        {
            validation.Add("time.future", "This time is in the future: enter when it happened.", "at");
        }
        else if (at < stops.Max(s => s.Left ?? s.Delivered ?? s.Arrived ?? Instant.MinValue))
        {
            validation.Add("time.order", "A stop was recorded after that: check the time.", "at");
        }
    }

    /// <summary>Checks that the handover changes something.</summary>
    public static void CheckChange(LegCrew before, LegCrew after, Validation validation)
    {
        if (before == after)
        {
            validation.Add("same", "This driver and truck already have the load.", "driverId");
        }
    }

    /// <summary>The miles of both legs, and the time the new crew is booked for.</summary>
    /// <param name="began">Where the leg began when it was handed over itself; null when it began at the first stop.</param>
    /// <param name="place">Where the handover takes place.</param>
    /// <param name="stops">All stops of the load, as they are.</param>
    public static HandoverPlan Plan(
        IRoads roads,
        IReadOnlyList<PlannedStop> stops,
        GeoPoint? began,
        GeoPoint place,
        Instant at,
        Instant now
    )
    {
        var ahead = stops.Where(s => !s.Done).ToList();
        var reached = stops.Where(s => s.Done || s.Arrived is not null).Select(s => s.Point);
        GeoPoint[] from = began is { } point ? [point] : [];
        var visits = Expectations.Of(roads, ahead, now, new ComingFrom(place, Instant.Max(at, now)));
        return new HandoverPlan(
            roads.Along([.. from, .. reached, place]).WholeMiles,
            roads.Along([place, .. ahead.Select(s => s.Point)]).WholeMiles,
            new Span(at, visits.Count > 0 ? visits[^1].Leaves : at + TripPlan.ServiceTime)
        );
    }

    /// <summary>Why a handover cannot be undone; null when it can: nothing was recorded since, and no approved settlement includes either
    /// leg.</summary>
    /// <param name="driver">The driver who has the load now.</param>
    /// <param name="since">The place of a stop at which something was recorded after the handover, or null.</param>
    /// <param name="settled">The driver whose approved settlement includes one of the two legs, or null.</param>
    public static Problem? UndoRefuses(string? driver, string? since, string? settled) =>
        since is not null ? new Problem("stop.order", $"{driver} has since been at {since}: undo that first.")
        : settled is not null
            ? new Problem("settlement.approved", $"{settled}'s approved settlement includes this: reverse its approval first.")
        : null;

    /// <summary>Whether anything happened at a stop after <paramref name="at"/>.</summary>
    public static bool After(PlannedStop stop, Instant at) =>
        stop.Arrived > at || stop.Left > at || stop.Delivered > at || stop.Refused > at;
}
