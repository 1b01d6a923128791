using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;
using NodaTime.Text;

namespace SteadyLark.Core.Basics;

/// <summary>A span of days, both ends included; null for an open end.</summary>
public sealed partial record DateSpan(LocalDate? From, LocalDate? Until)
{
    /// <summary>
    /// Reads a date (2026-11-23), two dates (2026-11-01 to 2026-11-15) or a period relative to today: today, yesterday, tomorrow; this,
    /// last or next week, month,
    /// quarter or year; last 30 days, next 7 days; older than 30 days; month to date, year to date. Weeks begin on Monday, quarters are of
    /// the calendar year.
    /// </summary>
    /// <param name="today">In the company's time zone.</param>
    /// <returns>Null when it is none of these.</returns>
    /// <example>On November 24, 2026, last month is October 1 through 31, and older than 30 days is through October 24.</example>
    public static DateSpan? Parse(string text, LocalDate today)
    {
        var words = Spaces().Replace(text.Trim().ToLowerInvariant(), " ");
        if (Day(words) is { } day)
        {
            return new DateSpan(day, day);
        }

        if (words.Split(" to ") is [var first, var last] && Day(first) is { } from && Day(last) is { } until)
        {
            return from <= until ? new DateSpan(from, until) : null;
        }

        return words switch
        {
            "today" => new DateSpan(today, today),
            "yesterday" => new DateSpan(today.PlusDays(-1), today.PlusDays(-1)),
            "tomorrow" => new DateSpan(today.PlusDays(1), today.PlusDays(1)),
            "month to date" => new DateSpan(Start("month", today), today),
            "quarter to date" => new DateSpan(Start("quarter", today), today),
            "year to date" => new DateSpan(Start("year", today), today),
            _ => Relative(words, today),
        };
    }

    private static DateSpan? Relative(string words, LocalDate today)
    {
        if (Unit().Match(words) is { Success: true } unit)
        {
            var shift = unit.Groups["which"].Value switch
            {
                "this" => 0,
                "last" => -1,
                _ => 1,
            };
            var start = Start(unit.Groups["unit"].Value, today);
            return new DateSpan(
                Move(start, unit.Groups["unit"].Value, shift),
                Move(start, unit.Groups["unit"].Value, shift + 1).PlusDays(-1)
            );
        }

        if (
            Days().Match(words) is { Success: true } days
            && int.Parse(days.Groups["n"].Value, CultureInfo.InvariantCulture) is > 0 and <= 3660 and var n
        )
        {
            return days.Groups["which"].Value switch
            {
                "last" => new DateSpan(today.PlusDays(1 - n), today),
                "next" => new DateSpan(today, today.PlusDays(n - 1)),
                _ => new DateSpan(null, today.PlusDays(-n - 1)),
            };
        }

        return null;
    }

    private static LocalDate? Day(string text) =>
        LocalDatePattern.Iso.Parse(text) is { Success: true, Value.Year: > 1900 and < 2200 } day ? day.Value : null;

    private static LocalDate Start(string unit, LocalDate day) =>
        unit switch
        {
            "week" => day.PlusDays(1 - (int)day.DayOfWeek),
            "month" => new LocalDate(day.Year, day.Month, 1),
            "quarter" => new LocalDate(day.Year, ((day.Month - 1) / 3 * 3) + 1, 1),
            _ => new LocalDate(day.Year, 1, 1),
        };

    private static LocalDate Move(LocalDate start, string unit, int by) =>
        unit switch
        {
            "week" => start.PlusWeeks(by),
            "month" => start.PlusMonths(by),
            "quarter" => start.PlusMonths(3 * by),
            _ => start.PlusYears(by),
        };

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();

    [GeneratedRegex("^(?<which>this|last|next) (?<unit>week|month|quarter|year)$")]
    private static partial Regex Unit();

    [GeneratedRegex("^(?<which>last|next|older than) (?<n>[0-9]{1,4}) days?$")]
    private static partial Regex Days();
}
