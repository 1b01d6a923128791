using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips;

/// <summary>What can be done with a trip that carries several loads.</summary>
public static class SharedTrips
{
    /// <summary>Why a load cannot be added to a trip; null when it can, as far as the trip goes.</summary>
    /// <param name="legs">How many it has; none for a trip of nothing, which is over.</param>
    /// <param name="over">When it ended or was canceled; null while it is not over.</param>
    /// <param name="hasLoad">Whether another leg of the load is on it.</param>
    public static Problem? Refuses(string trip, int legs, Instant? over, bool hasLoad, string load) =>
        over is not null || legs == 0 ? new Problem("trip.over", $"Trip {trip} is over: choose another.", "tripId")
        : hasLoad ? new Problem("trip.load", $"Load {load} is on trip {trip} already.", "tripId")
        : legs >= Itinerary.MostLegs ? new Problem("trip.full", $"Trip {trip} has {legs} loads, which is the most a trip takes.", "tripId")
        : null;

    /// <summary>Why a trip is not changed that would make visits late; null when it is.</summary>
    /// <param name="before">How late each visit was before, by its id.</param>
    /// <param name="allowed">Whether somebody accepted that.</param>
    /// <param name="notBeside">Why a load cannot ride beside the others, when it was put after them instead.</param>
    public static Problem? LateRefuses(
        IReadOnlyList<Visit> visits,
        IReadOnlyList<ExpectedVisit> expected,
        IReadOnlyDictionary<long, Duration> before,
        bool allowed,
        Problems? notBeside
    )
    {
        var late = allowed ? [] : Itinerary.Late(visits, expected, before);
        return late.Count == 0
            ? null
            : new Problem("trip.late", string.Join(' ', (notBeside?.Select(p => p.Message) ?? []).Concat(late)), "allowLate");
    }
}
