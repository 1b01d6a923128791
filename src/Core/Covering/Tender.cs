using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Covering;

/// <summary>How a tender ended without a load being hauled under it.</summary>
public enum TenderEnd
{
    /// <summary>We took it back, or unassigned the carrier.</summary>
    Withdrawn,
    Declined,
    Expired,

    /// <summary>By a revised rate confirmation, which is another one.</summary>
    Replaced,
}

/// <summary>How a carrier accepted.</summary>
public enum AcceptedVia
{
    /// <summary>Signed on the link in our email.</summary>
    Link,

    /// <summary>Told to one of us, who recorded it; the signature on the rate confirmation follows.</summary>
    Phone,
}

/// <summary>
/// A load offered to one carrier at a rate: open until the carrier accepts or declines, we withdraw it, or it expires. The load is covered
/// once it is accepted. Accepted by phone, the rate confirmation still has to be signed on the link.
/// </summary>
public sealed record Tender(
    Instant SentAt,
    Instant? ExpiresAt,
    Instant? AcceptedAt = null,
    string? AcceptedBy = null,
    Instant? SignedAt = null,
    TenderEnd? Ended = null
)
{
    /// <summary>How long a link works at most; one that waits for an answer only until the tender expires.</summary>
    public static readonly Duration LinkLifetime = Duration.FromDays(60);

    /// <summary>The shortest and longest time a carrier is given to answer.</summary>
    public static readonly Duration Shortest = Duration.FromMinutes(15);
    public static readonly Duration Longest = Duration.FromDays(7);

    /// <summary>When a tender expires by the company's setting: after so many hours, but before the pickup closes.</summary>
    /// <param name="hours">From sending it; 1 to 168.</param>
    /// <param name="pickupCloses">End of the first pickup's window.</param>
    public static Instant DefaultExpiry(Instant sent, int hours, Instant pickupCloses) =>
        Instant.Max(sent + Shortest, Instant.Min(sent + Duration.FromHours(hours), pickupCloses));

    /// <summary>The time to answer, checked; between a quarter of an hour and a week from now.</summary>
    public static void CheckExpiry(Validation validation, Instant expires, Instant now, string field)
    {
        if (expires < now + Shortest || expires > now + Longest)
        {
            validation.Add("tender.expiry", "Give the carrier between 15 minutes and 7 days to answer.", field);
        }
    }

    private bool HasExpired(Instant now) =>
        Ended == TenderEnd.Expired || now >= SentAt + LinkLifetime || (AcceptedAt is null && now >= ExpiresAt);

    /// <summary>Whether a job ends it now: nobody answered in time.</summary>
    public bool Expires(Instant now) => Ended is null && AcceptedAt is null && ExpiresAt is { } end && now >= end;

    /// <summary>Why the carrier cannot accept, sign or decline on its link; null when it can.</summary>
    public Problem? LinkRefusal(Instant now) =>
        Ended == TenderEnd.Withdrawn ? new Problem("tender.withdrawn", "This tender was withdrawn. Please call us.")
        : Ended == TenderEnd.Declined
            ? new Problem("tender.declined", "This tender was declined. Please call us if you want the load after all.")
        : Ended == TenderEnd.Replaced
            ? new Problem("tender.replaced", "This rate confirmation was revised. Please use the link in our latest email.")
        : HasExpired(now) ? new Problem("tender.expired", "This tender has expired. Please call us.")
        : SignedAt is not null ? new Problem("tender.accepted", $"This load was already accepted by {AcceptedBy}.")
        : null;

    /// <summary>Why it can no longer be declined on the link; null when it can.</summary>
    public Problem? DeclineRefusal(Instant now) =>
        LinkRefusal(now)
        ?? (AcceptedAt is null ? null : new Problem("tender.accepted", $"This load was already accepted by {AcceptedBy}. Please call us."));

    /// <summary>Why the carrier cannot enter its driver on its link; null when it can: it has accepted.</summary>
    public Problem? DispatchRefusal =>
        Ended is not null ? new Problem("tender.ended", "This load is no longer assigned to you on this link. Please call us.")
        : AcceptedAt is null ? new Problem("tender.open", "Accept the load first.")
        : null;
}
