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
            violations.AddRange(stretches.SelectMany(s => s.Violations(rules.Shift)));
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
        var last = Shift.Of(log, rules.Shift).LastOrDefault() is { Open: true } open ? open.Best(rules.Shift)[^1] : null;
        Duration Used(Counted what) => last?.Used(what) ?? Duration.Zero;
        var midnight = zone.AtStartOfDay(now.InZone(zone).Date).ToInstant();
        var today = log.Spans.Select(s => (Span: s, Length: s.Within(midnight, now))).ToList();
        var (driven, worked) = (Sum(today.Where(t => t.Span.Duty == Duty.Driving)), Sum(today.Where(t => t.Span.Works)));
        var onDuty = rules.OnDuty - Duration.Max(worked, Used(Counted.OnDuty));
        return new HoursLeft(
            Least(Duration.Min(rules.Drive - Duration.Max(driven, Used(Counted.Driving)), onDuty)),
            Least(rules.Elapsed - Used(Counted.Elapsed)),
            null,
            Least(rules.Cycles.Select(c => c.Most - c.Used(log, zone, now)).Min())
        );

        static Duration Least(Duration d) => Duration.Max(d, Duration.Zero);
        static Duration Sum(IEnumerable<(DutySpan, Duration Length)> all) => all.Aggregate(Duration.Zero, (sum, x) => sum + x.Length);
    }

    /// <summary>When hours come back for a driver who is off duty from now on: of a shift after a rest of eight hours.</summary>
    public static HoursBack Returns(DutyLog log, CaRules rules, DateTimeZone zone, Instant now)
    {
        var resting = log.Spans.Reverse().TakeWhile(s => !s.Works).LastOrDefault()?.From ?? now;
        var open = log.Spans.Any(s => s.Works) && now - resting < rules.Rest;
        return new HoursBack(
            open ? resting + rules.Rest : null,
            null,
            rules.Cycles.Select(c => c.Back(log, zone, now, resting)).OfType<Instant>().Select(i => (Instant?)i).Max()
        );
    }

    /// <summary>13 hours of driving and 14 on duty in a day: section 12.</summary>
    private static IEnumerable<HoursViolation> Daily(DutyLog log, CaRules rules, DateTimeZone zone)
    {
        foreach (var (from, until) in Midnights(log, zone))
        {
            var (driven, worked) = (Duration.Zero, Duration.Zero);
            foreach (var span in log.Spans.Where(s => s.Works && s.Within(from, until) > Duration.Zero))
            {
                var (begins, ends) = (Instant.Max(span.From, from), Instant.Min(span.Until, until));
                if (span.Duty == Duty.Driving)
                {
                    var (drive, onDuty) = (begins + Over(rules.Drive - driven), begins + Over(rules.OnDuty - worked));
                    if (drive < ends)
                    {
                        yield return new HoursViolation("drive", "12(1)", drive, ends);
                    }

                    if (onDuty < ends)
                    {
                        yield return new HoursViolation("on_duty", "12(2)", onDuty, ends);
                    }

                    driven += ends - begins;
                }

                worked += ends - begins;
            }
        }

        static Duration Over(Duration left) => Duration.Max(left, Duration.Zero);
    }

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

            // The day before may have deferred hours to this one only if it has them.
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

        // Rested before the log begins.
        var until = log.Spans[0].From + rules.DayOffWithin - rules.DayOff;
        var off = Rest.Of(log).Where(r => r.Length >= rules.DayOff).ToList();
        foreach (var drive in log.Spans.Where(s => s.Duty == Duty.Driving))
        {
            var latest = off.Where(r => r.Until <= drive.From).Select(r => r.Until - rules.DayOff + rules.DayOffWithin).Append(until).Max();
            if (latest < drive.Until)
            {
                yield return new HoursViolation("day_off", "25", Instant.Max(latest, drive.From), drive.Until);
            }
        }
    }

    private static List<Day> Days(DutyLog log, IReadOnlyList<Rest> split, DateTimeZone zone)
    {
        var rests = Rest.Of(log);
        // A day that is not over may still get its hours off; before and after the log the driver is off duty.
        return Midnights(log, zone)
            .Where(d => d.Until <= log.Spans[^1].Until)
            .Select(d =>
            {
                var works = log.Spans.Where(s => s.Works).Select(s => (s.Duty, Length: s.Within(d.From, d.Until))).ToList();
                return new Day(
                    d.From,
                    d.Until,
                    d.Until - d.From - works.Aggregate(Duration.Zero, (sum, w) => sum + w.Length),
                    works.Where(w => w.Duty == Duty.Driving).Aggregate(Duration.Zero, (sum, w) => sum + w.Length),
                    rests
                        .Where(r => r.From < d.Until && r.Until > d.From)
                        .Select(r => r.Length)
                        .DefaultIfEmpty(works.Any(w => w.Length > Duration.Zero) ? Duration.Zero : d.Until - d.From)
                        .Max(),
                    works.Any(w => w.Length > Duration.Zero),
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
