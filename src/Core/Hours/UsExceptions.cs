using NodaTime;

namespace SteadyLark.Core.Hours;

/// <summary>What is known of a shift beside its log.</summary>
/// <param name="AtHome">Whether the driver reported for work at their normal work reporting location, came back there and was released there.</param>
/// <param name="AirMiles">The farthest from there, in air miles (nautical); null when that is not known.</param>
/// <param name="NoCdl">Whether the truck may be driven without a commercial driver's license.</param>
/// <param name="Adverse">Whether weather, roads or traffic that could not be known before took more time: 49 CFR 395.2.</param>
public sealed record ShiftFacts(bool AtHome, decimal? AirMiles = null, bool NoCdl = false, bool Adverse = false);

/// <summary>An exception under which a shift was worked.</summary>
public enum UsException
{
    None,

    /// <summary>49 CFR 395.1(e)(1): no break is required.</summary>
    ShortHaul,

    /// <summary>395.1(e)(2), for trucks that need no commercial driver's license: nor is it, and on two days of seven the window is 16 hours.</summary>
    ShortHaulNoCdl,

    /// <summary>395.1(o): the window is 16 hours.</summary>
    LongDay,
}

/// <summary>A shift with the rules that apply to it.</summary>
/// <param name="Ended">When its last work did.</param>
public sealed record UsShift(Instant Began, Instant Ended, UsException Exception, UsRules Rules);

/// <summary>Which exceptions of 49 CFR 395.1 the shifts of a log fall under.</summary>
public static class UsExceptions
{
    /// <summary>Of both short-haul exceptions: 395.1(e)(1)(i) and (2)(ii).</summary>
    public const decimal ShortHaulAirMiles = 150;

    /// <summary>Shifts that were ended at the normal work reporting location, before one of 16 hours: 395.1(o)(1).</summary>
    private const int ReturnsBefore = 5;

    /// <summary>The shifts of a log, in order.</summary>
    /// <param name="facts">Of the shift that began at an instant.</param>
    public static IReadOnlyList<UsShift> Of(DutyLog log, UsRules rules, DateTimeZone zone, Func<Instant, ShiftFacts> facts)
    {
        var shifts = new List<UsShift>();
        var home = new List<bool>();
        foreach (var work in Shift.Of(log, rules.Shift))
        {
            var (began, ended) = (work.Spans[0].From, work.Spans.Last(s => s.Works).Until);
            var known = facts(began);
            var exception = Applies(known, ended - began, rules, home, DaysSince(began, UsException.LongDay));
            var of = exception is UsException.ShortHaul or UsException.ShortHaulNoCdl ? rules.ForShortHaul() : rules;
            // Without a commercial license no driving after 14 hours on five days of seven, and none after 16 on two: (e)(2)(iv).
            of =
                exception == UsException.LongDay || (exception == UsException.ShortHaulNoCdl && LongDays(began) < 2) ? of.ForLongDay() : of;
            shifts.Add(new UsShift(began, ended, exception, known.Adverse ? of.InAdverseConditions() : of));
            home.Add(known.AtHome);
        }

        return shifts;

        // Days of the home terminal since a shift under an exception, or null: none since the last restart.
        int? DaysSince(Instant began, UsException exception)
        {
            var restarted = Rest.Of(log)
                .Where(r => r.Length >= rules.Restart && r.Until <= began)
                .Select(r => r.Until)
                .DefaultIfEmpty(Instant.MinValue)
                .Max();
            return shifts.LastOrDefault(s => s.Exception == exception && s.Began >= restarted) is { } last ? Days(last.Began, began) : null;
        }

        // Shifts of the six days before in which the driver drove after 14 hours.
        int LongDays(Instant began) =>
            shifts.Count(s =>
                Days(s.Began, began) < 7
                && log.Spans.Any(d => d.Duty == Duty.Driving && d.From < s.Ended && d.Until > s.Began + rules.Window && d.From >= s.Began)
            );

        int Days(Instant from, Instant until) => Period.DaysBetween(from.InZone(zone).Date, until.InZone(zone).Date);
    }

    private static UsException Applies(ShiftFacts known, Duration length, UsRules rules, List<bool> home, int? sinceLongDay)
    {
        var local = known is { AtHome: true, AirMiles: <= ShortHaulAirMiles };
        // A driver under (e)(2) may not use (e)(1) and (o).
        return local && known.NoCdl ? UsException.ShortHaulNoCdl
            // Released within 14 hours: (e)(1)(iii)(A).
            : local && length <= rules.Window ? UsException.ShortHaul
            // Released at home within 16 hours, as after the five shifts before, and not within the last six days: (o)(1) to (3).
            : known.AtHome
            && length > rules.Window
            && length <= rules.ForLongDay().Window
            && home.Count >= ReturnsBefore
            && home.TakeLast(ReturnsBefore).All(h => h)
            && sinceLongDay is not < 7
                ? UsException.LongDay
            : UsException.None;
    }
}
