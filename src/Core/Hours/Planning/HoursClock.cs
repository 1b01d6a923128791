using NodaTime;

namespace SteadyLark.Core.Hours.Planning;

/// <summary>The days of the home terminal, in seconds from the start of a plan.</summary>
internal sealed class HomeDays
{
    /// <summary>Days before the start that are kept: those of the longest cycle.</summary>
    private const int Before = 14;

    private readonly long[] starts;

    /// <param name="ahead">Days after the start.</param>
    public HomeDays(Instant origin, DateTimeZone zone, int ahead)
    {
        Origin = origin;
        var today = origin.InZone(zone).Date;
        starts = Enumerable
            .Range(-Before, Before + ahead + 2)
            .Select(d => (long)(zone.AtStartOfDay(today.PlusDays(d)).ToInstant() - origin).TotalSeconds)
            .ToArray();
    }

    public Instant Origin { get; }
    public int Count => starts.Length - 1;

    /// <summary>The last second that belongs to a day.</summary>
    public long End => starts[^1];

    public long Start(int day) => starts[day];

    public int Of(long at)
    {
        var day = Math.Clamp(Before + (int)Math.Floor((at - starts[Before]) / 86_400.0), 0, Count - 1);
        while (day > 0 && starts[day] > at)
        {
            day--;
        }

        while (day < Count - 1 && starts[day + 1] <= at)
        {
            day++;
        }

        return day;
    }

    public Instant At(long seconds) => Origin + Duration.FromSeconds(seconds);

    public long Seconds(Instant at) => (long)Math.Round((at - Origin).TotalSeconds);
}

/// <summary>The time on duty that a cycle counts, in seconds by day. Immutable.</summary>
internal sealed class CycleClock
{
    private readonly HomeDays days;
    private readonly CycleLimit limit;
    private readonly int[] worked;

    private CycleClock(HomeDays days, CycleLimit limit, int[] worked)
    {
        this.days = days;
        this.limit = limit;
        this.worked = worked;
        Most = Seconds(limit.Most);
        Restart = Seconds(limit.Restart);
    }

    public long Most { get; }
    public long Restart { get; }
    public string Why => $"{limit.Most.TotalHours:0} h on duty in {limit.Days} days, section {limit.Section}";

    /// <summary>What a log leaves of a cycle; null when a plan with so much work cannot use it up.</summary>
    public static CycleClock? Of(CycleLimit limit, DutyLog log, HomeDays days, long work)
    {
        var restarted = Rest.Of(log).Where(r => r.Length >= limit.Restart).Select(r => r.Until).DefaultIfEmpty(Instant.MinValue).Max();
        var worked = new int[days.Count];
        foreach (var span in log.Spans.Where(s => s.Works && s.Until > restarted))
        {
            Add(worked, days, days.Seconds(Instant.Max(span.From, restarted)), days.Seconds(span.Until));
        }

        return worked.Sum() + work <= Seconds(limit.Most) ? null : new CycleClock(days, limit, worked);
    }

    public long Used(int day)
    {
        long used = 0;
        for (var d = Math.Max(0, day - limit.Days + 1); d <= day; d++)
        {
            used += worked[d];
        }

        return used;
    }

    /// <summary>How long one can drive without a stop before it is used up; at most <paramref name="want"/>.</summary>
    public long Drivable(long at, long want)
    {
        long driven = 0;
        for (var day = days.Of(at); driven < want; day++)
        {
            var left = Most - Used(day) - DrivenSince(day, at, driven);
            var until = Math.Min(at + want, day + 1 < days.Count ? days.Start(day + 1) : long.MaxValue);
            var today = until - (at + driven);
            if (left < today)
            {
                return driven + Math.Max(0, left);
            }

            driven += today;
        }

        return driven;
    }

    public CycleClock Work(long from, long until)
    {
        var more = (int[])worked.Clone();
        Add(more, days, from, until);
        return new CycleClock(days, limit, more);
    }

    /// <summary>Whether so much work may use it up from a day on.</summary>
    public bool Binds(int day, long work) => Used(day) + work > Most;

    public CycleClock Restarted() => new(days, limit, new int[worked.Length]);

    /// <summary>The next midnight after which more is allowed than before; null within the plan's days.</summary>
    public long? MoreAt(long at)
    {
        var today = days.Of(at);
        for (var day = today + 1; day < days.Count; day++)
        {
            if (Used(day) < Used(today))
            {
                return days.Start(day);
            }
        }

        return null;
    }

    /// <summary>Whether it leaves no less than another one: on its own day, and on the other's and those that follow.</summary>
    public bool NoWorseThan(CycleClock other, int own, int day)
    {
        if (Used(own) > other.Used(day))
        {
            return false;
        }

        long mine = 0;
        long others = 0;
        for (var d = day; d > Math.Max(-1, day - limit.Days); d--)
        {
            mine += worked[d];
            others += other.worked[d];
            if (mine > others)
            {
                return false;
            }
        }

        return true;
    }

    // What of the driving now being counted falls in the cycle that ends with a day: earlier days drop out.
    private long DrivenSince(int day, long at, long driven)
    {
        var first = Math.Max(0, day - limit.Days + 1);
        return Math.Max(0, at + driven - Math.Max(at, days.Start(first)));
    }

    private static void Add(int[] worked, HomeDays days, long from, long until)
    {
        for (var (at, day) = (Math.Max(from, days.Start(0)), days.Of(from)); at < until && day < worked.Length; day++)
        {
            var end = Math.Min(until, days.Start(day + 1));
            worked[day] += (int)Math.Max(0, end - at);
            at = Math.Max(at, end);
        }
    }

    private static long Seconds(Duration d) => (long)d.TotalSeconds;
}

/// <summary>A rest worth trying.</summary>
/// <param name="Seconds">More rest than was taken already.</param>
/// <param name="Half">Whether it is half of a split one.</param>
internal readonly record struct RestChoice(long Seconds, PlannedKind Kind, bool Half);

/// <summary>What a driver has used of one country's hours at an instant, in seconds. Immutable: each method returns what it is afterwards.</summary>
internal abstract class HoursClock
{
    /// <summary>Whether anything was done since the last whole rest.</summary>
    public bool Open { get; protected set; }

    /// <summary>Whether the truck was inspected in this shift.</summary>
    public bool Inspected { get; protected set; }

    /// <summary>Whether it was inspected since it was driven.</summary>
    public bool InspectedAfter { get; protected set; }

    /// <summary>The rest in progress.</summary>
    public long Run { get; protected set; }

    /// <summary>Of it, in the sleeper berth until now; the longest time there.</summary>
    protected long Asleep { get; set; }

    /// <inheritdoc cref="Asleep"/>
    protected long LongestAsleep { get; set; }

    /// <summary>Whether the rest in progress is counted as half of a split one.</summary>
    protected bool Taken { get; set; }

    /// <summary>Whether a half was still to come when it was, so that it may not become a whole one.</summary>
    protected bool OwedBefore { get; set; }

    /// <summary>When the time that is counted began: with the shift, or after the half of a split rest at which hours are counted.</summary>
    protected long Began { get; set; }

    /// <summary>Elapsed before that half.</summary>
    protected long ElapsedBefore { get; set; }

    /// <summary>That half; 0 when there is none.</summary>
    protected long FirstHalf { get; set; }

    /// <summary>Whether it counts only once another one follows, and whether the driver has relied on that.</summary>
    protected bool Promised { get; set; }

    /// <inheritdoc cref="Promised"/>
    protected bool Owes { get; set; }

    /// <summary>The rest that makes it fresh.</summary>
    public abstract long Whole { get; }

    /// <summary>Whether what was driven is allowed as it stands; not while a second half of a split rest has to follow.</summary>
    public bool Settled => !Owes;

    /// <summary>Whether hours are counted from the first half of a split rest.</summary>
    public bool Splitting => FirstHalf > 0;

    /// <summary>Driving before the next whole rest, at most: by now, and in a shift.</summary>
    public abstract (long Left, long Most) Driving { get; }

    /// <summary>How long one can drive without a stop; at most <paramref name="want"/>.</summary>
    public abstract long Drivable(long at, long want);

    /// <summary>The rules by which one cannot drive on, in words with their sections.</summary>
    public abstract IEnumerable<string> Bound(long at);

    /// <summary>Whether work that is not driving leaves the day enough time off.</summary>
    public abstract bool CanWork(long at, long seconds);

    public abstract HoursClock Drive(long at, long seconds);
    public abstract HoursClock Work(long at, long seconds);

    /// <summary>Null when a half of a split rest is still to come and this would be a whole one.</summary>
    public abstract HoursClock? Rest(long at, long seconds, bool sleeper);

    /// <summary>The rest that has just ended as half of a split one; null when it cannot be.</summary>
    public abstract HoursClock? Half(long at);

    /// <summary>Rests worth trying.</summary>
    /// <param name="split">Whether a rest may be split that is not split yet.</param>
    /// <param name="work">Still to be done on duty, at most.</param>
    /// <param name="end">When the plan will be over, at the latest.</param>
    public abstract void Choices(long at, bool split, long work, long end, List<RestChoice> into);

    /// <summary>Whether waiting until another one's time leaves no less than that one.</summary>
    /// <param name="at">Not after <paramref name="otherAt"/>.</param>
    public abstract bool NoWorseThan(HoursClock other, long at, long otherAt, bool split);

    public HoursClock Inspect(long at, long seconds)
    {
        var next = Work(at, seconds);
        (next.Inspected, next.InspectedAfter) = (true, true);
        return next;
    }

    protected HoursClock Copy() => (HoursClock)MemberwiseClone();

    protected long Elapsed(long at) => Open ? ElapsedBefore + at - Began : 0;

    /// <summary>After a rest, or on with work: a copy in which the shift is open.</summary>
    protected HoursClock Begin(long at)
    {
        var next = Copy();
        next.Rise();
        (next.Began, next.Open) = Open ? (Began, true) : (at, true);
        return next;
    }

    /// <summary>The rest in progress of a log.</summary>
    protected void Rested(DutyLog log, Instant resting)
    {
        foreach (var span in log.Spans.SkipWhile(s => s.From < resting))
        {
            Rested(Seconds(span.Length), span.Duty == Duty.Sleeper);
        }
    }

    /// <summary>Hours that are counted in a stretch.</summary>
    /// <param name="most">Elapsed, without the half it begins after.</param>
    protected void Counting(Stretch stretch, bool promised, HomeDays days, long most)
    {
        ElapsedBefore = Sum(stretch.Before, _ => true);
        Began = days.Seconds(stretch.After?.Until ?? stretch.Since[0].From);
        FirstHalf = Seconds(stretch.After?.Length ?? Duration.Zero);
        Promised = promised;
        Owes = promised && Elapsed(days.Seconds(stretch.Since[^1].Until)) + FirstHalf > most;
    }

    /// <summary>What every country's clock needs to leave no less than another one when rests are split.</summary>
    protected bool NoWorseHalf(HoursClock o) =>
        Began >= o.Began
        && Splitting == o.Splitting
        && FirstHalf >= o.FirstHalf
        && (!Promised || o.Promised)
        && (!Owes || o.Owes)
        && Taken == o.Taken
        && (!OwedBefore || o.OwedBefore)
        && LongestAsleep >= o.LongestAsleep;

    protected static long Sum(IEnumerable<DutySpan> spans, Func<DutySpan, bool> counts) => spans.Where(counts).Sum(s => Seconds(s.Length));

    /// <summary>Rest added to the one in progress.</summary>
    protected void Rested(long seconds, bool sleeper)
    {
        Run += seconds;
        Asleep = sleeper ? Asleep + seconds : 0;
        LongestAsleep = Math.Max(LongestAsleep, Asleep);
    }

    protected void Rise() => (Run, Asleep, LongestAsleep, Taken, OwedBefore) = (0, 0, 0, false, false);

    protected static long Seconds(Duration d) => (long)d.TotalSeconds;

    protected static string Hours(Duration d) => d.TotalHours.ToString("0.##", System.Globalization.CultureInfo.InvariantCulture);
}
