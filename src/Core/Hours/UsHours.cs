using NodaTime;

namespace SteadyLark.Core.Hours;

/// <summary>Driving that a rule did not allow.</summary>
/// <param name="Rule"><c>drive</c>, <c>cycle</c>; in the United States <c>window</c>, <c>break</c>; in Canada <c>on_duty</c>, <c>elapsed</c>,
/// <c>daily_off</c>, <c>day_off</c>.</param>
/// <param name="Section">Of 49 CFR, or of SOR/2005-313.</param>
public sealed record HoursViolation(string Rule, string Section, Instant From, Instant Until)
{
    /// <summary>By when they begin; those of one rule and section that follow each other without a gap become one.</summary>
    internal static IReadOnlyList<HoursViolation> Joined(IEnumerable<HoursViolation> violations)
    {
        var joined = new List<HoursViolation>();
        foreach (
            var v in violations
                .OrderBy(v => v.From)
                .ThenBy(v => v.Rule, StringComparer.Ordinal)
                .ThenBy(v => v.Section, StringComparer.Ordinal)
        )
        {
            var at = joined.FindIndex(j => j.Rule == v.Rule && j.Section == v.Section && j.Until == v.From);
            if (at >= 0)
            {
                joined[at] = joined[at] with { Until = v.Until };
            }
            else
            {
                joined.Add(v);
            }
        }

        return joined;
    }
}

/// <summary>What a driver may still do if they drive on from now.</summary>
/// <param name="Drive">Until the driving of the shift is used up; as are the others, zero at least.</param>
/// <param name="Window">Until the shift's window ends.</param>
/// <param name="UntilBreak">Driving until an interruption is required; null when none is.</param>
/// <param name="Cycle">On duty until the cycle is used up.</param>
public sealed record HoursLeft(Duration Drive, Duration Window, Duration? UntilBreak, Duration Cycle)
{
    /// <summary>What remains of a limit: never below zero.</summary>
    internal static Duration Of(Duration left) => Duration.Max(left, Duration.Zero);

    /// <summary>How long the driver may drive without doing anything else.</summary>
    public Duration Now => new[] { Drive, Window, Cycle, UntilBreak ?? Drive }.Min();
}

/// <summary>When hours come back for a driver who rests from now on; null where nothing is used.</summary>
/// <param name="Drive">All of the driving and the window, after a whole rest.</param>
/// <param name="Break">After an interruption.</param>
/// <param name="Cycle">The first hours of the cycle: at the end of a day whose hours no longer count, or after a restart.</param>
public sealed record HoursBack(Instant? Drive, Instant? Break, Instant? Cycle);

/// <summary>Hours of service in the United States.</summary>
public static class UsHours
{
    /// <summary>Driving that was not allowed, by when it began.</summary>
    /// <param name="zone">Of the driver's home terminal: its days are those of the cycle.</param>
    /// <param name="facts">Of the shift that began at an instant, for the exceptions of 395.1; without them none applies.</param>
    public static IReadOnlyList<HoursViolation> Check(
        DutyLog log,
        UsRules rules,
        DateTimeZone zone,
        Func<Instant, ShiftFacts>? facts = null
    )
    {
        var violations = new List<HoursViolation>();
        var shifts = UsExceptions.Of(log, rules, zone, facts ?? (_ => new ShiftFacts(false)));
        foreach (var (work, shift) in Shift.Of(log, rules.Shift).Zip(shifts))
        {
            violations.AddRange(work.Best(shift.Rules.Shift).SelectMany(s => s.Violations(shift.Rules.Shift.Limits)));
        }

        violations.AddRange(WithoutBreak(log, shifts));
        violations.AddRange(rules.CycleLimit.Violations(log, zone));
        return HoursViolation.Joined(violations);
    }

    /// <summary>What a driver may still do now.</summary>
    public static HoursLeft Remaining(DutyLog log, UsRules rules, DateTimeZone zone, Instant now)
    {
        var shift = Shift.Current(log, rules.Shift);
        return new HoursLeft(
            HoursLeft.Of(rules.Drive - shift.Used(Counted.Driving)),
            HoursLeft.Of(rules.Window - shift.Used(Counted.Elapsed)),
            rules.DriveBeforeBreak is { } most ? HoursLeft.Of(most - SinceBreak(log, rules)) : null,
            HoursLeft.Of(rules.Cycle - rules.CycleLimit.Used(log, zone, now))
        );
    }

    /// <summary>When hours come back for a driver who is off duty from now on.</summary>
    public static HoursBack Returns(DutyLog log, UsRules rules, DateTimeZone zone, Instant now)
    {
        var resting = log.RestingSince(now);
        var worked = log.Spans.Any(s => s.Works);
        var open = worked && now - resting < rules.Rest;
        return new HoursBack(
            open ? resting + rules.Rest : null,
            rules.DriveBeforeBreak is not null && SinceBreak(log, rules) > Duration.Zero ? log.IdleSince(now) + rules.Break : null,
            rules.CycleLimit.Back(log, zone, now, resting)
        );
    }

    /// <summary>Driving since the last interruption.</summary>
    internal static Duration SinceBreak(DutyLog log, UsRules rules) =>
        log.Spans.Count == 0 ? Duration.Zero : Uninterrupted(log, rules).Last().Driven;

    private static IEnumerable<HoursViolation> WithoutBreak(DutyLog log, IReadOnlyList<UsShift> shifts)
    {
        if (shifts.Count == 0)
        {
            yield break;
        }

        foreach (var (span, driven) in Uninterrupted(log, shifts[0].Rules).Where(u => u.Span.Duty == Duty.Driving))
        {
            var rules = shifts.Last(s => s.Began <= span.From).Rules;
            var begins = rules.DriveBeforeBreak is { } most ? Instant.Max(span.From, span.Until - (driven - most)) : span.Until;
            if (begins < span.Until)
            {
                yield return new HoursViolation("break", "395.3(a)(3)(ii)", begins, span.Until);
            }
        }
    }

    /// <summary>Each part of a log with the driving since the last interruption, at its end.</summary>
    private static IEnumerable<(DutySpan Span, Duration Driven)> Uninterrupted(DutyLog log, UsRules rules)
    {
        var (driven, idle) = (Duration.Zero, Duration.Zero);
        foreach (var span in log.Spans)
        {
            (driven, idle) = span.Duty == Duty.Driving ? (driven + span.Length, Duration.Zero) : (driven, idle + span.Length);
            driven = idle >= rules.Break ? Duration.Zero : driven;
            yield return (span, driven);
        }
    }
}
