using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Covering;

/// <summary>A time a driver is booked for, or off.</summary>
/// <param name="LoadNumber">The load they are booked for; null when it is hidden from the reader.</param>
public sealed record DriverBooking(Span Span, string? LoadNumber, bool Off = false);

/// <summary>Whether a driver can take a load, and how candidates are ranked.</summary>
public static class DriverFit
{
    /// <summary>Why a driver cannot take a load, as a few words for a list; null when they can.</summary>
    /// <param name="bookings">Their bookings, earliest first.</param>
    /// <param name="wanted">From arriving at the pickup to leaving the last stop, by when they arrive.</param>
    /// <param name="pickup">The pickup's window.</param>
    /// <param name="freeAt">When they are free; null when they have no work on file, so now.</param>
    /// <param name="empty">The drive from where they are free to the pickup; null when that is unknown.</param>
    /// <param name="zone">Zone in which times are shown.</param>
    public static string? Blocked(
        IEnumerable<DriverBooking> bookings,
        Func<Instant, Span> wanted,
        Span pickup,
        Instant? freeAt,
        Drive? empty,
        Instant now,
        DateTimeZone zone
    )
    {
        var all = bookings.ToList();
        if (
            Availability.Earliest(all.Select(b => b.Span).ToList(), wanted, pickup.From, pickup.Until) is null
            && all.FirstOrDefault(b => b.Span.Overlaps(wanted(pickup.From))) is { } busy
        )
        {
            return busy.Off
                ? $"off until {busy.Span.Until.Format(zone)}"
                : $"assigned to {busy.LoadNumber ?? "another load"} until {busy.Span.Until.Format(zone)}";
        }

        var there = empty is { } drive ? Instant.Max(freeAt ?? now, now) + drive.DoorToDoor : (Instant?)null;
        return there > pickup.Until ? $"would miss pickup by {(there.Value - pickup.Until).Format()}" : null;
    }

    /// <summary>Candidates, best first: those who can take it, by margin per day of their round trip, then by empty miles (unknown last),
    /// then by name.</summary>
    /// <param name="rank">What a candidate is ranked by.</param>
    public static IReadOnlyList<T> Rank<T>(IEnumerable<T> candidates, Func<T, DriverRank> rank) =>
        candidates
            .Select(c => (Candidate: c, Rank: rank(c)))
            .OrderBy(c => !c.Rank.Available)
            .ThenByDescending(c => c.Rank.PerDay?.Amount ?? 0)
            .ThenBy(c => c.Rank.EmptyMiles ?? int.MaxValue)
            .ThenBy(c => c.Rank.Name, StringComparer.Ordinal)
            .Select(c => c.Candidate)
            .ToList();
}

/// <summary>What a driver is ranked by for a load.</summary>
/// <param name="PerDay">Margin per day of the round trip; null when it cannot be calculated.</param>
/// <param name="EmptyMiles">To the pickup; null when unknown.</param>
public sealed record DriverRank(bool Available, Money? PerDay, int? EmptyMiles, string Name);

/// <summary>What a carrier is ranked by for a load.</summary>
/// <param name="Eligible">Whether nothing in its file keeps it from having the load.</param>
/// <param name="LoadsRun">Loads it ran on the lane.</param>
public sealed record CarrierRank(bool Eligible, int LoadsRun, string Name)
{
    /// <summary>Carriers, best first: eligible ones, by loads run on the lane, then by name.</summary>
    public static IReadOnlyList<T> Order<T>(IEnumerable<T> carriers, Func<T, CarrierRank> rank) =>
        carriers
            .Select(c => (Carrier: c, Rank: rank(c)))
            .OrderBy(c => !c.Rank.Eligible)
            .ThenByDescending(c => c.Rank.LoadsRun)
            .ThenBy(c => c.Rank.Name, StringComparer.Ordinal)
            .Select(c => c.Carrier)
            .ToList();
}
