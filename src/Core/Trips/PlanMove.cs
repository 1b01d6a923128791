using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips;

/// <summary>What a move on the plan does.</summary>
public enum PlanMoveKind
{
    /// <summary>Open legs become a new trip of a driver.</summary>
    Assign,

    /// <summary>Open legs are added to a trip.</summary>
    Add,

    /// <summary>A trip goes to another driver, and starts at another time if one is named.</summary>
    Reassign,

    /// <summary>A trip starts at another time.</summary>
    Reschedule,

    /// <summary>A trip is dissolved, and its loads are open.</summary>
    Dissolve,

    /// <summary>Legs leave their trips and are open.</summary>
    Unassign,

    /// <summary>A leg is split, and the rest of it goes to a driver or a trip, or is open.</summary>
    Split,

    /// <summary>Two legs are joined at a transfer: the driver of the first keeps both.</summary>
    Join,
}

/// <summary>What a move names.</summary>
/// <param name="Legs">How many legs.</param>
/// <param name="Time">Whether it says when the trip starts, or that it has no set time any more.</param>
/// <param name="Split">Whether it says where a leg is split.</param>
/// <param name="Join">Whether it names a transfer at which legs are joined.</param>
public sealed record PlanMoveNames(int Legs, bool Trip, bool Driver, bool Time = false, bool Split = false, bool Join = false);

/// <summary>A trip that may be moved to another driver.</summary>
/// <param name="Started">When its truck reached the first visit; null before.</param>
/// <param name="Over">When it ended or was canceled.</param>
public sealed record MovableTrip(string Number, string Driver, long DriverId, Instant? Started, Instant? Over);

/// <summary>Moves on the plan.</summary>
public static class PlanMoves
{
    /// <summary>At most so many moves at once.</summary>
    public const int Most = 20;

    /// <summary>What a move does, by what it names; null when that makes no sense.</summary>
    public static PlanMoveKind? KindOf(PlanMoveNames names) =>
        names switch
        {
            { Legs: 0, Trip: false, Driver: false, Time: false, Split: false, Join: true } => PlanMoveKind.Join,
            { Join: true } => null,
            { Legs: 0, Time: false, Split: true } => names is { Trip: true, Driver: true } ? null : PlanMoveKind.Split,
            { Split: true } => null,
            { Legs: > 0, Trip: false, Driver: true, Time: false } => PlanMoveKind.Assign,
            { Legs: > 0, Trip: true, Driver: false, Time: false } => PlanMoveKind.Add,
            { Legs: > 0, Trip: false, Driver: false, Time: false } => PlanMoveKind.Unassign,
            { Legs: 0, Trip: true, Driver: true } => PlanMoveKind.Reassign,
            { Legs: 0, Trip: true, Driver: false, Time: true } => PlanMoveKind.Reschedule,
            { Legs: 0, Trip: true, Driver: false } => PlanMoveKind.Dissolve,
            _ => null,
        };

    /// <summary>Why a trip cannot go to another driver; null when it can, as far as the trip goes.</summary>
    /// <param name="was">The driver it had when the caller looked; null when they did not say.</param>
    public static Problem? Refuses(MovableTrip trip, long? was, DateTimeZone zone) =>
        trip.Over is not null ? new Problem("trip.over", $"Trip {trip.Number} is over.", "tripId")
        : trip.Started is { } started
            ? new Problem(
                "trip.started",
                $"Trip {trip.Number} is under way since {started.Format(zone)}: hand its loads over to another truck instead.",
                "tripId"
            )
        : was is { } driver && driver != trip.DriverId
            ? new Problem(
                "plan.changed",
                $"Another user has just moved trip {trip.Number} to {trip.Driver}: look at the plan again.",
                "tripId"
            )
        : null;

    /// <summary>The truck or trailer of a driver who was given none: the one that was used last, when it fits.</summary>
    /// <param name="chosen">As chosen; null when nothing was.</param>
    /// <param name="required">The trailer the freight is in; null when any will do.</param>
    /// <param name="last">What the driver has had last.</param>
    /// <param name="fits">Whether that one will do, and nobody else has it then.</param>
    /// <param name="current">What the trip has had until now.</param>
    public static long? Unit(long? chosen, long? required, long? last, bool fits, long? current) =>
        chosen ?? required ?? (last is not null && fits ? last : current);
}
