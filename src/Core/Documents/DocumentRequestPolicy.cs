using NodaTime;

namespace SteadyLark.Core.Documents;

/// <summary>When missing documents are requested automatically.</summary>
public static class DocumentRequestPolicy
{
    /// <summary>Automatic requests for one load; after that a person calls.</summary>
    public const int Max = 3;

    /// <summary>Time between two requests.</summary>
    public static readonly Duration Again = Duration.FromHours(48);

    /// <param name="deliveredAt">When the load was delivered.</param>
    /// <param name="lastAsked">When they were last requested, or null.</param>
    /// <param name="asked">Number of requests so far.</param>
    /// <param name="afterHours">Hours after delivery before documents are requested; 0 for never automatically.</param>
    public static bool IsDue(Instant deliveredAt, Instant? lastAsked, int asked, int afterHours, Instant now) =>
        afterHours > 0
        && asked < Max
        && (lastAsked is { } last ? now >= last + Again : now >= deliveredAt + Duration.FromHours(afterHours));
}
