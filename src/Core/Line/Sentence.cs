using NodaTime;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Line;

/// <summary>What a caller said, taken apart.</summary>
/// <param name="Event">What happened at a stop, or null when nothing was said to have happened there.</param>
/// <param name="Report">What went otherwise than planned, or a note; null when nothing was said of it.</param>
/// <param name="Time">The wall-clock time that was said for <paramref name="Event"/>, or null for now.</param>
/// <param name="MinutesAgo">For "20 min ago"; null otherwise.</param>
/// <param name="ReceivedBy">Who signed, when it was said.</param>
/// <param name="Seal">The seal's number, when it was said.</param>
/// <param name="Pieces">How many are short or damaged, when it was said.</param>
/// <param name="LateBy">By how many minutes it will be late, when it was said so.</param>
/// <param name="NewTime">The wall-clock time at which it will be there now, when it was said so.</param>
/// <param name="NewDay">Days after today of <paramref name="NewTime"/>; null when no day was said.</param>
/// <param name="NewWeekday">The weekday of <paramref name="NewTime"/>, when one was said: the next of its name, today's own while its time is still to come.</param>
/// <param name="Reason">Why, or the note's words; null when nothing was said.</param>
/// <param name="AtWord">In "6179 at tacoma": the word after "at", which is a stop's town or nothing; null once an event was said.</param>
/// <param name="Words">What is left: numbers and words that tell which load is meant.</param>
public sealed record Sentence(
    StopEvent? Event, ReportKind? Report, LocalTime? Time, int? MinutesAgo, string? ReceivedBy, string? Seal, int? Pieces, int? LateBy, LocalTime? NewTime, int? NewDay, IsoDayOfWeek? NewWeekday, string? Reason, IReadOnlyList<string> Words, string? AtWord = null)
{
    /// <summary>When the stop's word happened: the latest past moment with that wall-clock time at the stop; now when no time was said.</summary>
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

    /// <summary>When the truck is expected now: the new time's next coming at the stop, or as much later than promised as was said; null when neither was.</summary>
    /// <param name="promised">Until when the stop was promised.</param>
    public Instant? ExpectedAt(Instant promised, Instant now, DateTimeZone zone)
    {
        if (NewTime is { } time)
        {
            var today = now.InZone(zone).Date;
            var days = NewWeekday is { } weekday ? ((int)weekday - (int)today.DayOfWeek + 7) % 7 : NewDay ?? 0;
            var at = Basics.WallClock.ResolveLeniently(today.PlusDays(days) + time, zone);
            return NewDay is null && at <= now ? Basics.WallClock.ResolveLeniently(today.PlusDays(NewWeekday is null ? 1 : 7) + time, zone) : at;
        }

        return LateBy is { } minutes ? promised + Duration.FromMinutes(minutes) : null;
    }
}
