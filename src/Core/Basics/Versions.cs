namespace SteadyLark.Core.Basics;

/// <summary>Optimistic concurrency: a change names the version it is based on, and is refused when the record has moved on.</summary>
public static class Versions
{
    /// <summary>The code of the refusal; answered as 409 (RFC 9110, section 15.5.10).</summary>
    public const string Stale = "stale";

    /// <param name="what">The record in a sentence, such as <c>this load</c>.</param>
    public static Problem Changed(string what) => new(Stale, $"Someone else changed {what}: review the changes and try again.");
}
