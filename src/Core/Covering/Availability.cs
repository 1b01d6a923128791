using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Covering;

/// <summary>A driver, truck or trailer, which is booked for one trip at a time.</summary>
public enum CommitmentKind
{
    Driver,
    Truck,
    Trailer,
}

/// <summary>A booking that stands.</summary>
public sealed record Commitment(CommitmentKind Kind, long Id, string Name, string TripNumber, string LoadNumber, Span Span);

public static class Availability
{
    /// <summary>Why a driver, truck or trailer cannot be booked for <paramref name="wanted"/>: one problem per overlapping
    /// booking.</summary>
    /// <param name="outlook">Existing bookings of these three.</param>
    /// <param name="wanted">The time they are wanted for.</param>
    /// <param name="zone">Zone in which times are shown.</param>
    public static Problems Check(IEnumerable<Commitment> outlook, Span wanted, DateTimeZone zone) =>
        new(
            outlook
                .Where(p => p.Span.Overlaps(wanted))
                .OrderBy(p => p.Kind)
                .Select(p => new Problem(
                    $"{p.Kind.ToString().ToLowerInvariant()}.busy",
                    $"{p.Name} is assigned to load {p.LoadNumber} (trip {p.TripNumber}) from {p.Span.From.Format(zone)} to {p.Span.Until.Format(zone)}. Choose another {p.Kind.ToString().ToLowerInvariant()}.",
                    $"{p.Kind.ToString().ToLowerInvariant()}Id"
                ))
        );
}
