using NodaTime;

namespace SteadyLark.Core.Hours;

/// <summary>A rest: consecutive time off duty, in the sleeper berth or with the truck in personal use.</summary>
/// <param name="Sleeper">The longest time in the sleeper berth without a break.</param>
internal sealed record Rest(Instant From, Instant Until, Duration Sleeper)
{
    public Duration Length => Until - From;

    /// <summary>All rests of a log.</summary>
    public static List<Rest> Of(DutyLog log)
    {
        var rests = new List<Rest>();
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
}

/// <summary>What a limit counts.</summary>
internal enum Counted
{
    Driving,
    OnDuty,

    /// <summary>All time since the shift began, but for rests that are half of a whole one.</summary>
    Elapsed,
}

/// <summary>A limit after which driving is not allowed in a shift.</summary>
internal sealed record ShiftLimit(string Rule, string Section, Counted What, Duration Most);

/// <summary>How shifts are counted.</summary>
/// <param name="Whole">The rest after which a shift begins.</param>
/// <param name="Halves">The rests of a log of which two may be worth a whole one.</param>
/// <param name="Pairs">Whether two of them are.</param>
/// <param name="Alone">Whether one of them counts while the other is still to come.</param>
internal sealed record ShiftRules(
    Duration Whole,
    Func<DutyLog, IEnumerable<Rest>> Halves,
    Func<Rest, Rest, bool> Pairs,
    Func<Rest, bool> Alone,
    IReadOnlyList<ShiftLimit> Limits
);

/// <summary>
/// Work between two whole rests. Two rests in between can be worth a whole one, and then the hours are counted from the end of the first of them, without the rests
/// themselves. Which rests are paired is the driver's choice: the one with the least driving that is not allowed counts.
/// </summary>
/// <param name="Rests">Those in it that may be half of a whole one.</param>
/// <param name="Open">Whether no whole rest has followed.</param>
internal sealed record Shift(IReadOnlyList<DutySpan> Spans, IReadOnlyList<Rest> Rests, bool Open)
{
    /// <summary>From one whole rest to the next. Before the log begins the driver is rested.</summary>
    public static IEnumerable<Shift> Of(DutyLog log, ShiftRules rules)
    {
        if (log.Spans.Count == 0)
        {
            yield break;
        }

        var halves = rules.Halves(log).ToList();
        var begins = log.Spans[0].From;
        foreach (var end in Rest.Of(log).Where(r => r.Length >= rules.Whole).Append(null))
        {
            var until = end?.From ?? log.Spans[^1].Until;
            var spans = log.Spans.Where(s => s.From >= begins && s.Until <= until).SkipWhile(s => !s.Works).ToList();
            if (spans.Count > 0)
            {
                yield return new Shift(spans, halves.Where(r => r.From > spans[0].From && r.Until <= until).ToList(), end is null);
            }

            begins = end?.Until ?? until;
        }
    }

    /// <summary>What is counted now in a shift that is not over; nothing after a whole rest.</summary>
    public static Stretch Current(DutyLog log, ShiftRules rules) =>
        OpenIn(log, rules) is { } open ? open.Best(rules)[^1] : new Stretch([], [], null);

    /// <summary>What may be counted by now in the open shift of a log, what leaves most first, each with whether it waits for another rest.</summary>
    /// <param name="promised">Whether also what counts only once another rest follows.</param>
    public static IEnumerable<(Stretch Stretch, bool Promised)> Ways(DutyLog log, ShiftRules rules, bool promised) =>
        OpenIn(log, rules) is not { } open ? []
        : open.Rests.Count == 0 ? [(open.Best(rules)[^1], false)]
        : open.Others(rules, promised).Prepend((open.Best(rules)[^1], false));

    private static Shift? OpenIn(DutyLog log, ShiftRules rules) => Of(log, rules).LastOrDefault() is { Open: true } open ? open : null;

    /// <summary>The stretches that are counted, for the choice of rests with the least driving that is not allowed; of choices that are equal, for the
    /// one that leaves most.</summary>
    public IReadOnlyList<Stretch> Best(ShiftRules rules)
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
            if (at < 0 || before >= 0 || rules.Alone(Rests[at]))
            {
                ways.Add(Choice.Of(Until(before, at, null), null, rules));
            }

            for (var next = at + 1; next < Rests.Count; next++)
            {
                if ((at < 0 || rules.Pairs(Rests[at], Rests[next])) && From(at, next) is { } then)
                {
                    ways.Add(Choice.Of(Until(before, at, Rests[next]), then, rules));
                }
            }

            return known[(before, at)] = ways.OrderBy(w => w.Cost).ThenByDescending(w => w.Stretches[^1].Left(rules)).FirstOrDefault();
        }
    }

    /// <summary>What else may be counted by now than what leaves most: from the beginning, or from one of its rests, where that was driven legally.</summary>
    /// <param name="promised">Whether also rests that count only once another one follows.</param>
    private IEnumerable<(Stretch Stretch, bool Promised)> Others(ShiftRules rules, bool promised)
    {
        for (var at = -1; at < Rests.Count; at++)
        {
            var waits = at >= 0 && !rules.Alone(Rests[at]);
            var (before, since) = (Until(-1, -1, at < 0 ? null : Rests[at]), Until(-1, at, null));
            if ((!waits || promised) && before.Cost(rules) + since.Cost(rules) == Duration.Zero)
            {
                yield return (since, waits);
            }
        }
    }

    private sealed record Choice(Duration Cost, IReadOnlyList<Stretch> Stretches)
    {
        public static Choice Of(Stretch first, Choice? then, ShiftRules rules) =>
            new(first.Cost(rules) + (then?.Cost ?? Duration.Zero), [first, .. then?.Stretches ?? []]);
    }

    /// <summary>What is counted after a rest, up to another one: the work since the rest before it, and since itself.</summary>
    private Stretch Until(int before, int at, Rest? next)
    {
        var begins = before < 0 ? Spans[0].From : Rests[before].Until;
        var ends = next?.From ?? Spans[^1].Until;
        return at < 0
            ? new Stretch([], Work(Spans[0].From, ends), null)
            : new Stretch(Work(begins, Rests[at].From), Work(Rests[at].Until, ends), Rests[at]);
    }

    private List<DutySpan> Work(Instant from, Instant until) => Spans.Where(s => s.From >= from && s.Until <= until).ToList();
}

/// <summary>Time that is counted together.</summary>
/// <param name="Before">What was done before the rest at which it begins; empty at the beginning of a shift.</param>
/// <param name="Since">What was done since.</param>
/// <param name="After">That rest.</param>
internal sealed record Stretch(IReadOnlyList<DutySpan> Before, IReadOnlyList<DutySpan> Since, Rest? After)
{
    /// <summary>What is used of a limit at the end.</summary>
    public Duration Used(Counted what) => Sum(Before.Concat(Since), what);

    public Duration Cost(ShiftRules rules) => Violations(rules.Limits).Aggregate(Duration.Zero, (sum, v) => sum + (v.Until - v.From));

    /// <summary>The least that any limit leaves; below zero when one is exceeded.</summary>
    public Duration Left(ShiftRules rules) => rules.Limits.Select(l => l.Most - Used(l.What)).Min();

    public IEnumerable<HoursViolation> Violations(IReadOnlyList<ShiftLimit> limits)
    {
        foreach (var limit in limits)
        {
            var used = Sum(Before, limit.What);
            foreach (var span in Since)
            {
                var begins = span.From + Duration.Max(limit.Most - used, Duration.Zero);
                if (span.Duty == Duty.Driving && begins < span.Until)
                {
                    yield return new HoursViolation(limit.Rule, limit.Section, begins, span.Until);
                }

                used += Counts(span, limit.What) ? span.Length : Duration.Zero;
            }
        }
    }

    private static Duration Sum(IEnumerable<DutySpan> spans, Counted what) =>
        spans.Where(s => Counts(s, what)).Aggregate(Duration.Zero, (sum, s) => sum + s.Length);

    private static bool Counts(DutySpan span, Counted what) =>
        what switch
        {
            Counted.Driving => span.Duty == Duty.Driving,
            Counted.OnDuty => span.Works,
            _ => true,
        };
}

/// <summary>Time on duty in so many days, each from midnight to midnight at the driver's home terminal.</summary>
/// <param name="Most">After which driving is not allowed.</param>
/// <param name="Days">Today included.</param>
/// <param name="Restart">Off duty for so long, it begins anew.</param>
internal sealed record CycleLimit(string Section, Duration Most, int Days, Duration Restart)
{
    /// <summary>On duty in these days up to an instant, from the end of the last restart on.</summary>
    public Duration Used(DutyLog log, DateTimeZone zone, Instant at)
    {
        var first = zone.AtStartOfDay(at.InZone(zone).Date.PlusDays(1 - Days)).ToInstant();
        var from = Rest.Of(log).Where(r => r.Length >= Restart && r.Until <= at).Select(r => r.Until).Append(first).Max();
        return log.Spans.Where(s => s.Works).Aggregate(Duration.Zero, (sum, s) => sum + s.Within(from, at));
    }

    public IEnumerable<HoursViolation> Violations(DutyLog log, DateTimeZone zone)
    {
        foreach (var drive in log.Spans.Where(s => s.Duty == Duty.Driving))
        {
            for (var from = drive.From; from < drive.Until; )
            {
                var midnight = zone.AtStartOfDay(from.InZone(zone).Date.PlusDays(1)).ToInstant();
                var until = Instant.Min(drive.Until, midnight);
                var begins = from + Duration.Max(Duration.Zero, Most - Used(log, zone, from));
                if (begins < until)
                {
                    yield return new HoursViolation("cycle", Section, begins, until);
                }

                from = until;
            }
        }
    }

    /// <summary>When the first hours of it come back for a driver who is off duty from now on; null when none are used.</summary>
    /// <param name="resting">Since when they are.</param>
    public Instant? Back(DutyLog log, DateTimeZone zone, Instant now, Instant resting)
    {
        var used = Used(log, zone, now);
        if (used == Duration.Zero)
        {
            return null;
        }

        var today = now.InZone(zone).Date;
        return Enumerable
            .Range(1, Days)
            .Select(d => zone.AtStartOfDay(today.PlusDays(d)).ToInstant())
            .Where(day => Used(log, zone, day) < used)
            .Append(Instant.Max(resting + Restart, now))
            .Min();
    }
}
