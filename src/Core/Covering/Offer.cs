using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Covering;

/// <summary>A tender of a load to one carrier, as found by its link.</summary>
public sealed record Offer(Instant SentAt, Instant? AcceptedAt, string? AcceptedBy, Instant? WithdrawnAt)
{
    /// <summary>How long a tender's link can be used to accept.</summary>
    public static readonly Duration ValidFor = Duration.FromDays(14);

    /// <summary>Why the tender cannot be accepted now; null when it can. A link that was used, withdrawn or has expired is
    /// invalid.</summary>
    public Problem? Closed(Instant now) =>
        WithdrawnAt is not null ? new Problem("tender.withdrawn", "This offer was withdrawn. Please call us.")
        : AcceptedAt is not null ? new Problem("tender.accepted", $"This offer was already accepted by {AcceptedBy}.")
        : now > SentAt + ValidFor ? new Problem("tender.expired", "This offer has expired. Please call us.")
        : null;
}
