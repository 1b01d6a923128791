using NodaTime;

namespace SteadyLark.Core.Hours.Planning;

/// <summary>What a driver has used of the hours of the United States.</summary>
internal sealed class UsClock : HoursClock
{
    private readonly UsRules rules;
    private readonly HomeDays days;

    // Driving before the half of a split rest at which hours are counted, and since; the time in that half in the sleeper berth.
    private long driveBefore;
    private long driveSince;
    private long halfAsleep;

    private long sinceBreak;
    private long idle;
    private CycleClock? cycle;

    private UsClock(UsRules rules, HomeDays days)
    {
        this.rules = rules;
        this.days = days;
    }

    public override long Whole => Seconds(rules.Rest);
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
        var clock = new UsClock(rules, days)
        {
            cycle = CycleClock.Of(rules.CycleLimit, log, days, work),
            idle = Seconds(now - log.IdleSince(now)),
            sinceBreak = Seconds(UsHours.SinceBreak(log, rules)),
        };
        clock.Rested(log, resting);
        if (worked.Spans.Count == 0 || clock.Run >= clock.Whole)
        {
            return [clock];
        }

        (clock.Open, clock.Inspected) = (true, true);
        return Shift.Ways(worked, rules.Shift, split).Select(way => clock.Counting(way.Stretch, way.Promised)).ToList();
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
        var next = (UsClock)Begin(at);
        next.InspectedAfter = false;
        next.driveSince += seconds;
        next.sinceBreak += seconds;
        next.idle = 0;
        next.Owes = next.Owes || (next.Promised && next.Elapsed(at + seconds) + next.FirstHalf > Window);
        next.cycle = cycle?.Work(at, at + seconds);
        return next;
    }

    public override HoursClock Work(long at, long seconds)
    {
        var next = (UsClock)Begin(at);
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
            if (Owes || OwedBefore)
            {
                return null;
            }

            (next.Open, next.Inspected, next.Promised) = (false, false, false);
            (next.driveBefore, next.driveSince, next.ElapsedBefore, next.FirstHalf, next.halfAsleep) = (0, 0, 0, 0, 0);
        }
        else if (Taken)
        {
            (next.FirstHalf, next.halfAsleep, next.Began) = (next.Run, next.LongestAsleep, at + seconds);
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
            && (!Splitting || (FirstHalf + Run >= Whole && Math.Max(halfAsleep, LongestAsleep) >= Seconds(rules.LongSplit)));
        if (!fits)
        {
            return null;
        }

        var next = (UsClock)Copy();
        (next.driveBefore, next.ElapsedBefore) = (driveSince, at - Run - Began);
        (next.driveSince, next.Began) = (0, at);
        (next.FirstHalf, next.halfAsleep) = (Run, LongestAsleep);
        next.Promised = !Splitting && LongestAsleep < Seconds(rules.LongSplit);
        (next.Taken, next.OwedBefore, next.Owes) = (true, Owes, false);
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
            && Began - ElapsedBefore >= o.Began - o.ElapsedBefore
            && broken
            && Run + wait >= o.Run
            && (Inspected || !o.Inspected)
            && (InspectedAfter || !o.InspectedAfter)
            && ((!split && !o.Splitting && !Promised) || NoWorseSplit(o));
    }

    private bool NoWorseSplit(UsClock o) => driveSince <= o.driveSince && halfAsleep >= o.halfAsleep && NoWorseHalf(o);

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
            yield return Math.Max(halfAsleep >= longer ? shorter : longer, Whole - FirstHalf);
            yield return Math.Max(longer, Whole - FirstHalf);
        }
        else if (split)
        {
            yield return shorter;
            yield return Whole - longer;
            yield return longer;
            yield return Whole - shorter;
        }
    }

    private UsClock Counting(Stretch stretch, bool promised)
    {
        var next = (UsClock)Copy();
        next.driveBefore = Sum(stretch.Before, s => s.Duty == Duty.Driving);
        next.driveSince = Sum(stretch.Since, s => s.Duty == Duty.Driving);
        next.halfAsleep = Seconds(stretch.After?.Sleeper ?? Duration.Zero);
        next.Counting(stretch, promised, days, Window);
        return next;
    }
}
