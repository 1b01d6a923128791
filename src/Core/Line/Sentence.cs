using NodaTime;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Line;

/// <summary>A caller's sentence, parsed.</summary>
/// <param name="Event">What happened at a stop, or null.</param>
/// <param name="Report">An exception or a note; null when there is none.</param>
/// <param name="Time">The wall-clock time given for <paramref name="Event"/>, or null for now.</param>
/// <param name="MinutesAgo">For "20 min ago"; null otherwise.</param>
/// <param name="ReceivedBy">Who signed, if given.</param>
/// <param name="Seal">The seal number, if given.</param>
/// <param name="Pieces">How many pieces are short or damaged, if given.</param>
/// <param name="LateBy">Minutes late, if given.</param>
/// <param name="NewTime">The new wall-clock arrival time, if given.</param>
/// <param name="NewDay">Days from today to <paramref name="NewTime"/>; null when no day was given.</param>
/// <param name="NewWeekday">The weekday of <paramref name="NewTime"/>, if given: the next one of that name, today's while its time is still
/// ahead.</param>
/// <param name="Reason">The reason, or the note's text; null when none was given.</param>
/// <param name="AtWord">In "6179 at tacoma": the word after "at", which is a stop's town or nothing; null once an event was
/// recognized.</param>
/// <param name="Words">The remaining numbers and words, which identify the load.</param>
public sealed record Sentence(
    StopEvent? Event,
    ReportKind? Report,
    LocalTime? Time,
    int? MinutesAgo,
    string? ReceivedBy,
    string? Seal,
    int? Pieces,
    int? LateBy,
    LocalTime? NewTime,
    int? NewDay,
    IsoDayOfWeek? NewWeekday,
    string? Reason,
    IReadOnlyList<string> Words,
    string? AtWord = null
)
{
    /// <summary>When the event happened: the latest past instant with that wall-clock time at the stop; now when no time was
    /// given.</summary>
    public Instant When(Instant now, DateTimeZone zone)
    {
        if (MinutesAgo is { } minutes)
        {
            return now - Duration.FromMinutes(minutes);
        }

        if (Time is not { } time)
        {
            return now;
        }

        var today = now.InZone(zone).Date;
        var at = Basics.WallClock.ResolveLeniently(today + time, zone);
        return at <= now + StopWork.ClockDrift ? at : Basics.WallClock.ResolveLeniently(today.PlusDays(-1) + time, zone);
    }

    /// <summary>The new ETA: the next instant of the new time at the stop, or the appointment plus the minutes late; null when neither was
    /// given.</summary>
    /// <param name="promised">End of the stop's appointment window.</param>
    public Instant? ExpectedAt(Instant promised, Instant now, DateTimeZone zone)
    {
        if (NewTime is { } time)
        {
            var today = now.InZone(zone).Date;
            var days = NewWeekday is { } weekday ? ((int)weekday - (int)today.DayOfWeek + 7) % 7 : NewDay ?? 0;
            var at = Basics.WallClock.ResolveLeniently(today.PlusDays(days) + time, zone);
            return NewDay is null && at <= now
                ? Basics.WallClock.ResolveLeniently(today.PlusDays(NewWeekday is null ? 1 : 7) + time, zone)
                : at;
        }

        return LateBy is { } minutes ? promised + Duration.FromMinutes(minutes) : null;
    }
}
