using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips;

/// <summary>How far a trip is, once it is over: closed when everything on it is decided, archived when nobody needs to see it any more.</summary>
/// <param name="Ended">Whether its last stop is made.</param>
/// <param name="Canceled">Whether it was dissolved.</param>
public sealed record TripClosing(string Number, bool Ended, bool Canceled, bool Closed, bool Archived)
{
    /// <summary>Why it cannot be closed or archived, or be open again; null when it can.</summary>
    /// <param name="closed">Whether it is to be closed.</param>
    /// <param name="archived">Whether it is to be archived.</param>
    /// <param name="undecided">How many of its expenses are not approved or declined.</param>
    public Problem? Refusal(bool closed, bool archived, int undecided) =>
        closed && Canceled ? new Problem("trip.canceled", $"Trip {Number} is canceled: archive it instead.", "closed")
        : closed && !Ended ? new Problem("trip.open", $"Trip {Number} is not over: it is closed once its last stop is made.", "closed")
        : closed && !Closed && undecided > 0
            ? new Problem(
                "trip.expenses",
                undecided == 1
                    ? $"An expense of trip {Number} is neither approved nor declined: decide it first."
                    : $"{undecided} expenses of trip {Number} are neither approved nor declined: decide them first.",
                "closed"
            )
        : archived && !closed && !Canceled
            ? new Problem("trip.open", $"Trip {Number} is not closed: close it before it is archived.", "archived")
        : null;

    /// <summary>What a change did, as the history says it.</summary>
    public string Done(bool closed, bool archived) =>
        archived != Archived ? (archived ? $"Trip {Number} archived" : $"Trip {Number} is out of the archive")
        : closed ? $"Trip {Number} closed"
        : $"Trip {Number} reopened";
}
