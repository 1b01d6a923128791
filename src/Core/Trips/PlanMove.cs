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

    /// <summary>A trip goes to another driver.</summary>
    Reassign,

    /// <summary>A trip is dissolved, and its loads are open.</summary>
    Dissolve,

    /// <summary>Legs leave their trips and are open.</summary>
    Unassign,
}

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
    public static PlanMoveKind? KindOf(int legs, bool trip, bool driver) =>
        (legs > 0, trip, driver) switch
        {
            (true, false, true) => PlanMoveKind.Assign,
            (true, true, false) => PlanMoveKind.Add,
            (true, false, false) => PlanMoveKind.Unassign,
            (false, true, true) => PlanMoveKind.Reassign,
            (false, true, false) => PlanMoveKind.Dissolve,
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
