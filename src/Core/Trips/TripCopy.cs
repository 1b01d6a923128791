using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips;

/// <summary>Copies of trips: the same loads in the same order on another day.</summary>
public static class TripCopy
{
    /// <summary>Why a trip cannot be copied; null when it can.</summary>
    /// <param name="loads">Numbers of its loads, each with whether it has other legs, and whether it is a move.</param>
    /// <param name="first">The day on which it begins.</param>
    /// <param name="on">The day on which the copy begins.</param>
    /// <param name="today">In the company's zone.</param>
    /// <param name="changesTrailers">Whether the copy is a trip, and this one hooks other trailers on the way.</param>
    public static Problem? Refusal(
        string number,
        IReadOnlyList<(string Number, bool IsSplit, bool IsMove)> loads,
        LocalDate first,
        LocalDate? on,
        LocalDate today,
        bool changesTrailers = false
    ) =>
        loads.Count == 0 ? new Problem("copy.empty", $"Trip {number} has no loads to copy.")
        : loads.FirstOrDefault(l => l.IsMove) is { Number: { } move }
            ? new Problem(
                "copy.move",
                $"{move} is a move, which depends on where its trailer is: plan it anew instead of copying trip {number}."
            )
        : loads.FirstOrDefault(l => l.IsSplit) is { Number: { } split }
            ? new Problem("copy.split", $"Load {split} is split over several trips: copy the load and split the copy.")
        : changesTrailers
            ? new Problem(
                "copy.trailers",
                $"Trip {number} uses several trailers: copy its loads as open loads, and assign trailers anew.",
                "assign"
            )
        : on is null ? new Problem("missing", "Choose the day on which the copy begins.", "on")
        : on == first ? new Problem("copy.day", "Choose another day than that of the trip itself.", "on")
        : on < today.PlusDays(-365) || on > today.PlusDays(365) ? new Problem("date", "Choose a day within a year from today.", "on")
        : null;

    /// <summary>The order of the copy's visits: as the trip's, with what has no counterpart left out.</summary>
    /// <param name="order">Of the trip: ids of stops.</param>
    /// <param name="counterparts">The copy's stop for each of the trip's.</param>
    public static IReadOnlyList<long> Order(IReadOnlyList<long> order, IReadOnlyDictionary<long, long> counterparts) =>
        order.Where(counterparts.ContainsKey).Select(id => counterparts[id]).ToList();

    /// <summary>When the copy starts: at the same time of day, so many days later; null when the trip had no set start.</summary>
    public static Instant? StartsAt(TripStop stop, int days) =>
        stop.Planned is { } at ? WallClock.ResolveLeniently(at.InZone(stop.Zone).LocalDateTime.PlusDays(days), stop.Zone) : null;
}
