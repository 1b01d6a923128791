using NodaTime;

namespace SteadyLark.Core.Hours;

/// <summary>Hours of service in Canada, south of latitude 60° N. Days go from midnight to midnight at the home terminal.</summary>
public static class CaHours
{
    /// <summary>Off duty on a day, as the rules of the day see it.</summary>
    /// <param name="Longest">The longest rest that reaches into it.</param>
    private sealed record Day(Instant From, Instant Until, Duration Off, Duration Driven, Duration Longest, bool Worked, bool Split);

    /// <summary>Driving that was not allowed, and days with too little time off duty, by when they began.</summary>
    /// <param name="zone">Of the driver's home terminal.</param>
    public static IReadOnlyList<HoursViolation> Check(DutyLog log, CaRules rules, DateTimeZone zone)
    {
        var violations = new List<HoursViolation>();
        var split = new List<Rest>();
        foreach (var work in Shift.Of(log, rules.Shift))
        {
            var stretches = work.Best(rules.Shift);
            violations.AddRange(stretches.SelectMany(s => s.Violations(rules.Shift.Limits)));
            split.AddRange(stretches.Select(s => s.After).OfType<Rest>());
        }

        violations.AddRange(Daily(log, rules, zone));
        violations.AddRange(TooLittleOff(Days(log, split, zone), rules));
        violations.AddRange(WithoutDayOff(log, rules));
        violations.AddRange(rules.Cycles.SelectMany(c => c.Violations(log, zone)));
        return HoursViolation.Joined(violations);
    }

    /// <summary>What a driver may still do now: driving by the shift, the day and the time on duty, which bounds it; the window is what remains of the
    /// elapsed hours. No interruption of driving is required.</summary>
    public static HoursLeft Remaining(DutyLog log, CaRules rules, DateTimeZone zone, Instant now)
    {
        var shift = Shift.Current(log, rules.Shift);
        var today = Between(log, zone.AtStartOfDay(now.InZone(zone).Date).ToInstant(), now);
        Duration Used(Counted what) => Duration.Max(shift.Used(what), today.Used(what));
        return new HoursLeft(
            HoursLeft.Of(Duration.Min(rules.Drive - Used(Counted.Driving), rules.OnDuty - Used(Counted.OnDuty))),
            HoursLeft.Of(rules.Elapsed - shift.Used(Counted.Elapsed)),
            null,
            HoursLeft.Of(rules.Cycles.Select(c => c.Most - c.Used(log, zone, now)).Min())
        );
    }

    /// <summary>When hours come back for a driver who is off duty from now on: of a shift after a rest of eight hours.</summary>
    public static HoursBack Returns(DutyLog log, CaRules rules, DateTimeZone zone, Instant now)
    {
        var resting = log.RestingSince(now);
        var open = log.Spans.Any(s => s.Works) && now - resting < rules.Rest;
        return new HoursBack(open ? resting + rules.Rest : null, null, rules.Cycles.Select(c => c.Back(log, zone, now, resting)).Max());
    }

    /// <summary>13 hours of driving and 14 on duty in a day: section 12.</summary>
    private static IEnumerable<HoursViolation> Daily(DutyLog log, CaRules rules, DateTimeZone zone) =>
        Midnights(log, zone).SelectMany(d => Between(log, d.From, d.Until).Violations(rules.Daily));

    /// <summary>What was done between two instants.</summary>
    private static Stretch Between(DutyLog log, Instant from, Instant until) =>
        new(
            [],
            log.Spans.Where(s => s.Within(from, until) > Duration.Zero)
                .Select(s => s with { From = Instant.Max(s.From, from), Until = Instant.Min(s.Until, until) })
                .ToList(),
            null
        );

    /// <summary>Days that are over with less than ten hours off duty (section 14), but for those that defer up to two hours to the next day (section 16) and
    /// those on which the rest is split in the sleeper berth (sections 18 and 19).</summary>
    private static IEnumerable<HoursViolation> TooLittleOff(IReadOnlyList<Day> days, CaRules rules)
    {
        for (var i = 0; i < days.Count; i++)
        {
            var day = days[i];
            if (!day.Worked || day.Split || day.Off >= rules.DailyOff)
            {
                continue;
            }

            // The next day has to have the hours that are deferred to it.
            var deferred =
                i + 1 < days.Count
                && day.Off >= rules.Rest
                && !days[i + 1].Split
                && day.Off + days[i + 1].Off >= rules.DeferredOff
                && day.Driven + days[i + 1].Driven <= rules.Drive + rules.Drive
                && days[i + 1].Longest >= rules.Rest + (rules.DailyOff - day.Off);
            if (!deferred)
            {
                yield return new HoursViolation("daily_off", "14(1)", day.From, day.Until);
            }
        }
    }

    /// <summary>Driving without 24 hours off in the 14 days before: section 25.</summary>
    private static IEnumerable<HoursViolation> WithoutDayOff(DutyLog log, CaRules rules)
    {
        if (log.Spans.Count == 0)
        {
            yield break;
        }

        foreach (var drive in log.Spans.Where(s => s.Duty == Duty.Driving))
        {
            var latest = DayOffBy(log, rules, drive.From);
            if (latest < drive.Until)
            {
                yield return new HoursViolation("day_off", "25", Instant.Max(latest, drive.From), drive.Until);
            }
        }
    }

    /// <summary>Until when driving is allowed without another 24 hours off: 14 days hold the last ones. Before the log begins the driver is rested.</summary>
    internal static Instant DayOffBy(DutyLog log, CaRules rules, Instant at) =>
        Rest.Of(log)
            .Where(r => r.Length >= rules.DayOff && r.Until <= at)
            .Select(r => r.Until)
            .Append(log.Spans.Count == 0 ? at : log.Spans[0].From)
            .Max()
        - rules.DayOff
        + rules.DayOffWithin;

    private static List<Day> Days(DutyLog log, IReadOnlyList<Rest> split, DateTimeZone zone)
    {
        var rests = Rest.Of(log);
        // A day that is not over may still get its hours off; before and after the log the driver is off duty.
        return Midnights(log, zone)
            .Where(d => d.Until <= log.Spans[^1].Until)
            .Select(d =>
            {
                var day = Between(log, d.From, d.Until);
                var worked = day.Used(Counted.OnDuty);
                return new Day(
                    d.From,
                    d.Until,
                    d.Until - d.From - worked,
                    day.Used(Counted.Driving),
                    rests
                        .Where(r => r.From < d.Until && r.Until > d.From)
                        .Select(r => r.Length)
                        .DefaultIfEmpty(worked > Duration.Zero ? Duration.Zero : d.Until - d.From)
                        .Max(),
                    worked > Duration.Zero,
                    split.Any(r => r.From < d.Until && r.Until > d.From)
                );
            })
            .ToList();
    }

    private static IEnumerable<(Instant From, Instant Until)> Midnights(DutyLog log, DateTimeZone zone)
    {
        if (log.Spans.Count == 0)
        {
            yield break;
        }

        for (var day = log.Spans[0].From.InZone(zone).Date; ; day = day.PlusDays(1))
        {
            var from = zone.AtStartOfDay(day).ToInstant();
            if (from >= log.Spans[^1].Until)
            {
                yield break;
            }

            yield return (from, zone.AtStartOfDay(day.PlusDays(1)).ToInstant());
        }
    }
}
