using NodaTime;
using NodaTime.Text;

namespace SteadyLark.Server.Basics;

/// <summary>A clock that starts at a chosen moment and runs at normal speed from there. Used when <c>LARK_NOW</c> is set.</summary>
/// <param name="startsAt">What the clock reads when it is created.</param>
public sealed class ShiftedClock(Instant startsAt) : IClock
{
    private readonly long _started = System.Diagnostics.Stopwatch.GetTimestamp();

    public Instant GetCurrentInstant() => startsAt + Duration.FromTimeSpan(System.Diagnostics.Stopwatch.GetElapsedTime(_started));

    /// <summary>
    /// Reads <c>LARK_NOW</c>: an RFC 3339 instant (<c>2026-11-24T16:42:00Z</c>), or a wall-clock time in
    /// <paramref name="zone"/> (<c>2026-11-24 09:42</c>). A time that the spring change skips moves forward.
    /// </summary>
    /// <exception cref="InvalidOperationException">The text is neither.</exception>
    public static Instant Parse(string text, DateTimeZone zone)
    {
        if (InstantPattern.ExtendedIso.Parse(text) is { Success: true } instant)
        {
            return instant.Value;
        }

        if (OffsetDateTimePattern.Rfc3339.Parse(text) is { Success: true } offset)
        {
            return offset.Value.ToInstant();
        }

        foreach (var pattern in (string[])["uuuu-MM-dd HH:mm", "uuuu-MM-dd'T'HH:mm", "uuuu-MM-dd'T'HH:mm:ss"])
        {
            if (LocalDateTimePattern.CreateWithInvariantCulture(pattern).Parse(text) is { Success: true } local)
            {
                return local.Value.InZoneLeniently(zone).ToInstant();
            }
        }

        throw new InvalidOperationException(
            $"LARK_NOW must be a time such as 2026-11-24 09:42 (in {zone.Id}) or 2026-11-24T16:42:00Z, not '{text}'."
        );
    }
}
