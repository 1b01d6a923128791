using NodaTime;

namespace SteadyLark.Core.Documents;

/// <summary>When missing documents are asked for automatically.</summary>
public static class DocumentRequestPolicy
{
    /// <summary>How often one load is asked for by itself; after that a person calls.</summary>
    public const int Max = 3;

    /// <summary>Between one asking and the next.</summary>
    public static readonly Duration Again = Duration.FromHours(48);

    /// <param name="deliveredAt">When the load was delivered.</param>
    /// <param name="lastAsked">When it was last asked for, or null.</param>
    /// <param name="asked">How often.</param>
    /// <param name="afterHours">How long documents may take before they are asked for; 0 for never by itself.</param>
    public static bool IsDue(Instant deliveredAt, Instant? lastAsked, int asked, int afterHours, Instant now) =>
        afterHours > 0 && asked < Max && (lastAsked is { } last ? now >= last + Again : now >= deliveredAt + Duration.FromHours(afterHours));
}
