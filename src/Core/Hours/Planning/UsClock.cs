using NodaTime;

namespace SteadyLark.Core.Hours.Planning;

/// <summary>What a driver has used of the hours of the United States.</summary>
internal sealed class UsClock : HoursClock
{
    private readonly UsRules rules;
    private readonly HomeDays days;

    // Driving before the half of a split rest at which hours are counted, and since; elapsed before it, and when the time since began.
    private long driveBefore;
    private long driveSince;
    private long elapsedBefore;
    private long began;

    // That half and the time in it in the sleeper berth; 0 when there is none.
    private long half;
    private long halfAsleep;

    // Whether it counts only once a longer one follows, and whether the driver has relied on that.
    private bool promised;
    private bool owes;

    private long sinceBreak;
    private long idle;
    private CycleClock? cycle;

    private UsClock(UsRules rules, HomeDays days)
    {
        this.rules = rules;
        this.days = days;
    }

    public override long Whole => Seconds(rules.Rest);
    public override bool Settled => !owes;
    public override bool Splitting => half > 0;
    public override (long Left, long Most) Driving => (Seconds(rules.Drive) - driveBefore - driveSince, Seconds(rules.Drive));

    private long Window => Seconds(rules.Window);
    private long Break => Seconds(rules.Break);

    /// <summary>The hours a log leaves, the rest in progress included; with <paramref name="split"/> also those for each earlier rest of the shift taken as
    /// the first half of a split one.</summary>
    /// <param name="work">Seconds on duty that are planned.</param>
    public static IReadOnlyList<UsClock> Of(DutyLog log, UsRules rules, HomeDays days, Instant now, long work, bool split)
    {
        var resting = log.RestingSince(now);
        var worked = log.Before(resting);
        var clock = new UsClock(rules, days) { cycle = CycleClock.Of(rules.CycleLimit, log, days, work), idle = Seconds(now - resting) };
        foreach (var span in log.Spans.SkipWhile(s => s.From < resting))
        {
            clock.Rested(Seconds(span.Length), span.Duty == Duty.Sleeper);
        }

        if (worked.Spans.Count == 0 || clock.Run >= clock.Whole)
        {
            return [clock];
        }

        clock.sinceBreak = now - resting >= rules.Break ? 0 : Seconds(UsHours.SinceBreak(worked, rules));
        clock.Open = true;
        clock.Inspected = true;
        if (worked.Spans[^1] is { Duty: not Duty.Driving })
        {
            clock.idle += Seconds(
                worked.Spans.Reverse().TakeWhile(s => s.Duty != Duty.Driving).Aggregate(Duration.Zero, (sum, s) => sum + s.Length)
            );
        }

        var all = new List<UsClock> { clock.Counting(Shift.Current(worked, rules.Shift), false) };
        if (Shift.Of(worked, rules.Shift).LastOrDefault() is { Open: true, Rests.Count: > 0 } shift)
        {
            all.AddRange(shift.Others(rules.Shift, split).Select(o => clock.Counting(o.Stretch, o.Promised)));
        }

        return all;
    }

    public override long Drivable(long at, long want)
    {
        var can = Math.Min(want, Seconds(rules.Drive) - driveBefore - driveSince);
        can = Math.Min(can, Window - Elapsed(at));
        can = rules.DriveBeforeBreak is { } most ? Math.Min(can, Seconds(most) - sinceBreak) : can;
        return can <= 0 ? 0
            : cycle is null ? can
            : cycle.Drivable(at, can);
    }

    public override IEnumerable<string> Bound(long at)
    {
        if (driveBefore + driveSince >= Seconds(rules.Drive))
        {
            yield return $"{Hours(rules.Drive)} h of driving are used, section 395.3(a)(3)(i)";
        }

        if (Elapsed(at) >= Window)
        {
            yield return $"the {Hours(rules.Window)}-hour window has ended, section 395.3(a)(2)";
        }

        if (rules.DriveBeforeBreak is { } most && sinceBreak >= Seconds(most))
        {
            yield return $"{Hours(most)} h of driving without a break, section 395.3(a)(3)(ii)";
        }

        if (cycle is not null && cycle.Drivable(at, 60) <= 0)
        {
            yield return cycle.Why;
        }
    }

    public override bool CanWork(long at, long seconds) => true;

    public override HoursClock Drive(long at, long seconds)
    {
        var next = Begin(at);
        next.InspectedAfter = false;
        next.driveSince += seconds;
        next.sinceBreak += seconds;
        next.idle = 0;
        next.owes = next.owes || (next.promised && next.Elapsed(at + seconds) + next.half > Window);
        next.cycle = cycle?.Work(at, at + seconds);
        return next;
    }

    public override HoursClock Work(long at, long seconds)
    {
        var next = Begin(at);
        next.Idle(seconds);
        next.cycle = cycle?.Work(at, at + seconds);
        return next;
    }

    public override HoursClock? Rest(long at, long seconds, bool sleeper)
    {
        var next = (UsClock)Copy();
        next.Rested(seconds, sleeper);
        next.Idle(seconds);
        if (next.Run >= Whole && next.Open)
        {
            if (owes || OwedBefore)
            {
                return null;
            }

            (next.Open, next.Inspected, next.promised) = (false, false, false);
            (next.driveBefore, next.driveSince, next.elapsedBefore, next.half, next.halfAsleep) = (0, 0, 0, 0, 0);
        }
        else if (Taken)
        {
            (next.half, next.halfAsleep, next.began) = (next.Run, next.LongestAsleep, at + seconds);
        }

        if (cycle is not null && Run < cycle.Restart && next.Run >= cycle.Restart)
        {
            next.cycle = cycle.Restarted();
        }

        return next;
    }

    public override HoursClock? Half(long at)
    {
        var fits =
            Open
            && !Taken
            && Run >= Seconds(rules.ShortSplit)
            && (!Splitting || (half + Run >= Whole && Math.Max(halfAsleep, LongestAsleep) >= Seconds(rules.LongSplit)));
        if (!fits)
        {
            return null;
        }

        var next = (UsClock)Copy();
        (next.driveBefore, next.elapsedBefore) = (driveSince, at - Run - began);
        (next.driveSince, next.began) = (0, at);
        (next.half, next.halfAsleep) = (Run, LongestAsleep);
        next.promised = !Splitting && LongestAsleep < Seconds(rules.LongSplit);
        (next.Taken, next.OwedBefore, next.owes) = (true, owes, false);
        return next;
    }

    public override void Choices(long at, bool split, long work, long end, List<RestChoice> into)
    {
        if (sinceBreak > 0 && idle < Break)
        {
            into.Add(new RestChoice(Break - idle, PlannedKind.Break, false));
        }

        if (Open)
        {
            into.Add(new RestChoice(Whole - Run, PlannedKind.Rest, false));
            foreach (var length in Halves(split))
            {
                if (!Taken && length > Run && length < Whole)
                {
                    into.Add(new RestChoice(length - Run, PlannedKind.Rest, true));
                }
            }
        }

        if (cycle is not null && Run < cycle.Restart && cycle.Binds(days.Of(at), work))
        {
            into.Add(new RestChoice(cycle.Restart - Run, PlannedKind.Restart, false));
            if (cycle.Drivable(at, 60) <= 0 && cycle.MoreAt(at) is { } more)
            {
                into.Add(new RestChoice(more - at, PlannedKind.Rest, false));
            }
        }
    }

    public override bool NoWorseThan(HoursClock other, long at, long otherAt, bool split)
    {
        var o = (UsClock)other;
        var wait = otherAt - at;
        if (cycle is not null && (Run + wait < o.Run || !cycle.NoWorseThan(o.cycle!, days.Of(at), days.Of(otherAt))))
        {
            return false;
        }

        if (!Open)
        {
            return true;
        }

        var broken = sinceBreak <= o.sinceBreak && (sinceBreak == 0 || idle + wait >= o.idle);
        return o.Open
            && driveBefore + driveSince <= o.driveBefore + o.driveSince
            && began - elapsedBefore >= o.began - o.elapsedBefore
            && broken
            && Run + wait >= o.Run
            && (Inspected || !o.Inspected)
            && (InspectedAfter || !o.InspectedAfter)
            && ((!split && !o.Splitting && !promised) || NoWorseSplit(o));
    }

    private bool NoWorseSplit(UsClock o) =>
        driveSince <= o.driveSince
        && began >= o.began
        && (half > 0) == (o.half > 0)
        && half >= o.half
        && halfAsleep >= o.halfAsleep
        && (!promised || o.promised)
        && (!owes || o.owes)
        && Taken == o.Taken
        && (!OwedBefore || o.OwedBefore)
        && LongestAsleep >= o.LongestAsleep;

    private long Elapsed(long at) => Open ? elapsedBefore + at - began : 0;

    private UsClock Begin(long at)
    {
        var next = (UsClock)Copy();
        next.Rise();
        (next.began, next.Open) = Open ? (began, true) : (at, true);
        return next;
    }

    private void Idle(long seconds)
    {
        idle += seconds;
        sinceBreak = idle >= Break ? 0 : sinceBreak;
    }

    // How long a rest has to be to be half of one.
    private IEnumerable<long> Halves(bool split)
    {
        var (shorter, longer) = (Seconds(rules.ShortSplit), Seconds(rules.LongSplit));
        if (Splitting)
        {
            yield return Math.Max(halfAsleep >= longer ? shorter : longer, Whole - half);
            yield return Math.Max(longer, Whole - half);
        }
        else if (split)
        {
            yield return shorter;
            yield return Whole - longer;
            yield return longer;
            yield return Whole - shorter;
        }
    }

    private UsClock Counting(Stretch stretch, bool isPromised)
    {
        var next = (UsClock)Copy();
        long Driven(IEnumerable<DutySpan> spans) => spans.Where(s => s.Duty == Duty.Driving).Sum(s => Seconds(s.Length));
        next.driveBefore = Driven(stretch.Before);
        next.driveSince = Driven(stretch.Since);
        next.elapsedBefore = stretch.Before.Sum(s => Seconds(s.Length));
        next.began = days.Seconds(stretch.After?.Until ?? stretch.Since[0].From);
        (next.half, next.halfAsleep) = (Seconds(stretch.After?.Length ?? Duration.Zero), Seconds(stretch.After?.Sleeper ?? Duration.Zero));
        next.promised = isPromised;
        next.owes = next.promised && next.Elapsed(days.Seconds(stretch.Since[^1].Until)) + next.half > Window;
        return next;
    }
}
