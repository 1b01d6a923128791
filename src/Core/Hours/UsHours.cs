using NodaTime;

namespace SteadyLark.Core.Hours;

/// <summary>Driving that a rule did not allow.</summary>
/// <param name="Rule"><c>drive</c>, <c>window</c>, <c>break</c> or <c>cycle</c>.</param>
/// <param name="Section">Of 49 CFR.</param>
public sealed record HoursViolation(string Rule, string Section, Instant From, Instant Until);

/// <summary>What a driver may still do if they drive on from now.</summary>
/// <param name="Drive">Until the driving of the shift is used up; as are the others, zero at least.</param>
/// <param name="Window">Until the shift's window ends.</param>
/// <param name="UntilBreak">Driving until an interruption is required; null when none is.</param>
/// <param name="Cycle">On duty until the cycle is used up.</param>
public sealed record HoursLeft(Duration Drive, Duration Window, Duration? UntilBreak, Duration Cycle)
{
    /// <summary>How long the driver may drive without doing anything else.</summary>
    public Duration Now => new[] { Drive, Window, Cycle, UntilBreak ?? Drive }.Min();
}

/// <summary>When hours come back for a driver who rests from now on; null where nothing is used.</summary>
/// <param name="Drive">All of the driving and the window, after a whole rest.</param>
/// <param name="Break">After an interruption.</param>
/// <param name="Cycle">The first hours of the cycle: at the end of a day whose hours no longer count, or after a restart.</param>
public sealed record HoursBack(Instant? Drive, Instant? Break, Instant? Cycle);

/// <summary>
/// Hours of service in the United States. A shift goes from one whole rest to the next; two rests in between can be worth a whole one, and then the hours are
/// counted from the end of the first of them, without the rests themselves. Which rests are paired is the driver's choice: the one with the least driving that is
/// not allowed counts.
/// </summary>
public static class UsHours
{
    /// <summary>A rest: consecutive time off duty, in the sleeper berth or with the truck in personal use.</summary>
    /// <param name="Sleeper">The longest time in the sleeper berth without a break.</param>
    private sealed record Rest(Instant From, Instant Until, Duration Sleeper)
    {
        public Duration Length => Until - From;
    }

    /// <summary>Driving that was not allowed, by when it began.</summary>
    /// <param name="zone">Of the driver's home terminal: its days are those of the cycle.</param>
    public static IReadOnlyList<HoursViolation> Check(DutyLog log, UsRules rules, DateTimeZone zone)
    {
        var violations = new List<HoursViolation>();
        foreach (var shift in Shifts(log, rules))
        {
            violations.AddRange(shift.Best(rules).SelectMany(s => s.Violations(rules)));
        }

        violations.AddRange(WithoutBreak(log, rules));
        violations.AddRange(BeyondCycle(log, rules, zone));
        return Joined(violations.OrderBy(v => v.From).ThenBy(v => v.Rule, StringComparer.Ordinal));
    }

    /// <summary>Violations of one rule that follow each other without a gap become one.</summary>
    private static List<HoursViolation> Joined(IEnumerable<HoursViolation> violations)
    {
        var joined = new List<HoursViolation>();
        foreach (var v in violations)
        {
            var at = joined.FindIndex(j => j.Rule == v.Rule && j.Until == v.From);
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

    /// <summary>What a driver may still do now.</summary>
    public static HoursLeft Remaining(DutyLog log, UsRules rules, DateTimeZone zone, Instant now)
    {
        var shifts = Shifts(log, rules).ToList();
        var (drive, window) = (rules.Drive, rules.Window);
        if (shifts.Count > 0 && shifts[^1].Open)
        {
            var last = shifts[^1].Best(rules)[^1];
            (drive, window) = (rules.Drive - last.Driven, rules.Window - last.Elapsed);
        }

        var since = SinceBreak(log, rules);
        return new HoursLeft(
            Least(drive),
            Least(window),
            rules.DriveBeforeBreak is { } most ? Least(most - since) : null,
            Least(rules.Cycle - Counted(log, rules, zone, now))
        );

        static Duration Least(Duration d) => Duration.Max(d, Duration.Zero);
    }

    /// <summary>When hours come back for a driver who is off duty from now on.</summary>
    public static HoursBack Returns(DutyLog log, UsRules rules, DateTimeZone zone, Instant now)
    {
        var resting = log.Spans.Reverse().TakeWhile(s => !s.Works).LastOrDefault()?.From ?? now;
        var worked = log.Spans.Any(s => s.Works);
        var open = worked && now - resting < rules.Rest;
        var idle = log.Spans.Reverse().TakeWhile(s => s.Duty != Duty.Driving).LastOrDefault()?.From ?? now;
        return new HoursBack(
            open ? resting + rules.Rest : null,
            rules.DriveBeforeBreak is not null && SinceBreak(log, rules) > Duration.Zero ? idle + rules.Break : null,
            CycleBack(log, rules, zone, now, resting)
        );
    }

    private static Instant? CycleBack(DutyLog log, UsRules rules, DateTimeZone zone, Instant now, Instant resting)
    {
        var counted = Counted(log, rules, zone, now);
        if (counted == Duration.Zero)
        {
            return null;
        }

        var restart = Instant.Max(resting + rules.Restart, now);
        var today = now.InZone(zone).Date;
        return Enumerable
            .Range(1, rules.CycleDays)
            .Select(d => zone.AtStartOfDay(today.PlusDays(d)).ToInstant())
            .Where(day => Counted(log, rules, zone, day) < counted)
            .Append(restart)
            .Min();
    }

    /// <summary>On duty in the days of the cycle up to an instant, from the end of the last restart on.</summary>
    private static Duration Counted(DutyLog log, UsRules rules, DateTimeZone zone, Instant at)
    {
        var first = zone.AtStartOfDay(at.InZone(zone).Date.PlusDays(1 - rules.CycleDays)).ToInstant();
        var from = Rests(log).Where(r => r.Length >= rules.Restart && r.Until <= at).Select(r => r.Until).Append(first).Max();
        return log.Spans.Where(s => s.Works).Aggregate(Duration.Zero, (sum, s) => sum + Within(s, from, at));
    }

    private static IEnumerable<HoursViolation> BeyondCycle(DutyLog log, UsRules rules, DateTimeZone zone)
    {
        foreach (var drive in log.Spans.Where(s => s.Duty == Duty.Driving))
        {
            for (var from = drive.From; from < drive.Until; )
            {
                var midnight = zone.AtStartOfDay(from.InZone(zone).Date.PlusDays(1)).ToInstant();
                var until = Instant.Min(drive.Until, midnight);
                var begins = from + Duration.Max(Duration.Zero, rules.Cycle - Counted(log, rules, zone, from));
                if (begins < until)
                {
                    yield return new HoursViolation("cycle", rules.CycleSection, begins, until);
                }

                from = until;
            }
        }
    }

    /// <summary>Driving since the last interruption.</summary>
    private static Duration SinceBreak(DutyLog log, UsRules rules)
    {
        var (driven, idle) = (Duration.Zero, Duration.Zero);
        foreach (var span in log.Spans)
        {
            (driven, idle) = span.Duty == Duty.Driving ? (driven + span.Length, Duration.Zero) : (driven, idle + span.Length);
            driven = idle >= rules.Break ? Duration.Zero : driven;
        }

        return driven;
    }

    private static IEnumerable<HoursViolation> WithoutBreak(DutyLog log, UsRules rules)
    {
        if (rules.DriveBeforeBreak is not { } most)
        {
            yield break;
        }

        var (driven, idle) = (Duration.Zero, Duration.Zero);
        foreach (var span in log.Spans)
        {
            if (span.Duty != Duty.Driving)
            {
                idle += span.Length;
                driven = idle >= rules.Break ? Duration.Zero : driven;
                continue;
            }

            idle = Duration.Zero;
            var begins = span.From + Duration.Max(Duration.Zero, most - driven);
            driven += span.Length;
            if (begins < span.Until)
            {
                yield return new HoursViolation("break", "395.3(a)(3)(ii)", begins, span.Until);
            }
        }
    }

    private static List<Rest> Rests(DutyLog log)
    {
        var rests = new List<Rest>();
        var sleeping = Duration.Zero;
        DutySpan? before = null;
        foreach (var span in log.Spans)
        {
            if (!span.Works)
            {
                var sleeper = span.Duty == Duty.Sleeper ? span.Length : Duration.Zero;
                if (before is { Works: false })
                {
                    rests[^1] = rests[^1] with { Until = span.Until, Sleeper = Duration.Max(rests[^1].Sleeper, sleeper) };
                }
                else
                {
                    rests.Add(new Rest(span.From, span.Until, sleeper));
                }
            }

            before = span;
        }

        return rests;
    }

    /// <summary>From one whole rest to the next. Before the log begins the driver is rested.</summary>
    private static IEnumerable<Shift> Shifts(DutyLog log, UsRules rules)
    {
        var rests = Rests(log);
        var whole = rests.Where(r => r.Length >= rules.Rest).ToList();
        var begins = log.Spans.Count == 0 ? Instant.MinValue : log.Spans[0].From;
        foreach (var end in whole.Append(null))
        {
            var until = end?.From ?? (log.Spans.Count == 0 ? begins : log.Spans[^1].Until);
            var spans = log.Spans.Where(s => s.From >= begins && s.Until <= until).SkipWhile(s => !s.Works).ToList();
            if (spans.Count > 0)
            {
                yield return new Shift(
                    spans,
                    rests.Where(r => r.From > spans[0].From && r.Until <= until && r.Length >= rules.ShortSplit).ToList(),
                    end is null
                );
            }

            begins = end?.Until ?? until;
        }
    }

    /// <summary>Work between two whole rests.</summary>
    /// <param name="Rests">Those in it that may be half of a whole one.</param>
    /// <param name="Open">Whether no whole rest has followed.</param>
    private sealed record Shift(IReadOnlyList<DutySpan> Spans, IReadOnlyList<Rest> Rests, bool Open)
    {
        /// <summary>The stretches that are counted, for the choice of rests with the least driving that is not allowed; of choices that are equal, for the
        /// one that leaves most.</summary>
        public IReadOnlyList<Stretch> Best(UsRules rules)
        {
            var known = new Dictionary<(int, int), Choice?>();
            return From(-1, -1)!.Stretches;

            // What follows when rest `at` is one of the choice and `before` the one before it, -1 for the beginning of the shift; null when none can
            // follow and it cannot be the last.
            Choice? From(int before, int at)
            {
                if (known.TryGetValue((before, at), out var found))
                {
                    return found;
                }

                var ways = new List<Choice>();
                // One that is not paired yet counts when it is the longer half: the shorter one is still to come.
                if (at < 0 || before >= 0 || Rests[at].Sleeper >= rules.LongSplit)
                {
                    ways.Add(Choice.Of(Until(before, at, null), null, rules));
                }

                for (var next = at + 1; next < Rests.Count; next++)
                {
                    if ((at < 0 || Pairs(Rests[at], Rests[next], rules)) && From(at, next) is { } then)
                    {
                        ways.Add(Choice.Of(Until(before, at, Rests[next]), then, rules));
                    }
                }

                return known[(before, at)] = ways.OrderBy(w => w.Cost).ThenByDescending(w => w.Stretches[^1].Left(rules)).FirstOrDefault();
            }
        }

        private sealed record Choice(Duration Cost, IReadOnlyList<Stretch> Stretches)
        {
            public static Choice Of(Stretch first, Choice? then, UsRules rules) =>
                new(first.Cost(rules) + (then?.Cost ?? Duration.Zero), [first, .. then?.Stretches ?? []]);
        }

        private static bool Pairs(Rest a, Rest b, UsRules rules) =>
            a.Length + b.Length >= rules.Rest && Duration.Max(a.Sleeper, b.Sleeper) >= rules.LongSplit;

        /// <summary>What is counted after a rest, up to another one: the work since the rest before it, and since itself.</summary>
        private Stretch Until(int before, int at, Rest? next)
        {
            var begins = before < 0 ? Spans[0].From : Rests[before].Until;
            var ends = next?.From ?? Spans[^1].Until;
            return at < 0
                ? new Stretch([], Work(Spans[0].From, ends))
                : new Stretch(Work(begins, Rests[at].From), Work(Rests[at].Until, ends));
        }

        private List<DutySpan> Work(Instant from, Instant until) => Spans.Where(s => s.From >= from && s.Until <= until).ToList();
    }

    /// <summary>Time that is counted together.</summary>
    /// <param name="Before">What was done before the rest at which it begins; empty at the beginning of a shift.</param>
    /// <param name="Since">What was done since.</param>
    private sealed record Stretch(IReadOnlyList<DutySpan> Before, IReadOnlyList<DutySpan> Since)
    {
        public Duration Driven => Sum(Before.Concat(Since).Where(s => s.Duty == Duty.Driving));

        public Duration Elapsed => Sum(Before.Concat(Since));

        public Duration Cost(UsRules rules) => Violations(rules).Aggregate(Duration.Zero, (sum, v) => sum + (v.Until - v.From));

        public Duration Left(UsRules rules) => Duration.Min(rules.Drive - Driven, rules.Window - Elapsed);

        public IEnumerable<HoursViolation> Violations(UsRules rules)
        {
            var (driven, elapsed) = (Sum(Before.Where(s => s.Duty == Duty.Driving)), Sum(Before));
            foreach (var span in Since)
            {
                if (span.Duty == Duty.Driving)
                {
                    var (drive, window) = (span.From + Over(rules.Drive - driven), span.From + Over(rules.Window - elapsed));
                    if (drive < span.Until)
                    {
                        yield return new HoursViolation("drive", "395.3(a)(3)(i)", drive, span.Until);
                    }

                    if (window < span.Until)
                    {
                        yield return new HoursViolation("window", "395.3(a)(2)", window, span.Until);
                    }

                    driven += span.Length;
                }

                elapsed += span.Length;
            }

            static Duration Over(Duration left) => Duration.Max(left, Duration.Zero);
        }

        private static Duration Sum(IEnumerable<DutySpan> spans) => spans.Aggregate(Duration.Zero, (sum, s) => sum + s.Length);
    }

    private static Duration Within(DutySpan span, Instant from, Instant until) =>
        Duration.Max(Duration.Zero, Instant.Min(span.Until, until) - Instant.Max(span.From, from));
}
