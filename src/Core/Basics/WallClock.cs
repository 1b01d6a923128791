using System.Globalization;
using NodaTime;
using NodaTime.TimeZones;

namespace SteadyLark.Core.Basics;

/// <summary>An appointment window in the place's wall-clock time. Both ends are equal for an appointment at one time.</summary>
/// <param name="From">Wall-clock time at the place.</param>
/// <param name="Until">Wall-clock time at the place, not before <paramref name="From"/>.</param>
public readonly record struct TimeWindow(LocalDateTime From, LocalDateTime Until)
{
    public bool IsAppointment => From == Until;
}

/// <summary>A window as two instants.</summary>
public readonly record struct Span(Instant From, Instant Until)
{
    public bool Overlaps(Span other) => From < other.Until && other.From < Until;

    public Duration Length => Until - From;
}

/// <summary>Converts between wall-clock times and instants by the tz database.</summary>
public static class WallClock
{
    /// <summary>Finds a zone by its tz database name, such as <c>America/Denver</c>; null when there is none.</summary>
    public static DateTimeZone? Zone(string? name) => name is null ? null : DateTimeZoneProviders.Tzdb.GetZoneOrNull(name);

    /// <summary>
    /// The instant of a wall-clock time. A time skipped in spring is a problem. Of a time repeated in fall, an opening is the earlier one
    /// and a closing the later one, so that nobody is early or late who arrives in that hour.
    /// </summary>
    /// <param name="closing">Whether it ends a window.</param>
    public static Outcome<Instant> Resolve(LocalDateTime local, DateTimeZone zone, string field, bool closing = false)
    {
        var mapping = zone.MapLocal(local);
        if (mapping.Count > 0)
        {
            return (closing ? mapping.Last() : mapping.First()).ToInstant();
        }

        var (stop, go) = (mapping.EarlyInterval.IsoLocalEnd, mapping.LateInterval.IsoLocalStart);
        var gap = Period.Between(stop, go, PeriodUnits.Minutes);
        return new Problem(
            "time.skipped",
            $"{local.Format()} does not exist there: clocks move forward from {Clock(stop)} to {Clock(go)} ({zone.Id}). Use {Clock(local - gap)} or {Clock(local + gap)}.",
            field
        );

        static string Clock(LocalDateTime at) => at.ToString("HH:mm", CultureInfo.InvariantCulture);
    }

    /// <summary>The instant of a wall-clock time, moved forward over a gap; for computed times.</summary>
    public static Instant ResolveLeniently(LocalDateTime local, DateTimeZone zone) =>
        local.InZone(zone, Resolvers.LenientResolver).ToInstant();

    /// <summary>Formats a date and time: <c>Tue Nov 24, 14:30</c>.</summary>
    public static string Format(this LocalDateTime local) => local.ToString("ddd MMM d, HH:mm", CultureInfo.InvariantCulture);

    public static string Format(this Instant at, DateTimeZone zone) => at.InZone(zone).LocalDateTime.Format();

    /// <summary>Formats a duration: <c>1 h 40</c>, <c>35 min</c>, <c>2 d 4 h</c>.</summary>
    public static string Format(this Duration length)
    {
        var minutes = (long)Math.Round(Math.Abs(length.TotalMinutes));
        return minutes switch
        {
            < 60 => $"{minutes} min",
            < 48 * 60 => minutes % 60 == 0 ? $"{minutes / 60} h" : $"{minutes / 60} h {minutes % 60:00}",
            _ => $"{minutes / 1440} d {minutes % 1440 / 60} h",
        };
    }
}
