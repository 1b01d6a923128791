using NodaTime;

namespace SteadyLark.Core.Hours.Planning;

/// <summary>What a driver has used of the hours of Canada: of a shift, of the day, of the cycle, and since 24 hours off.</summary>
internal sealed class CaClock : HoursClock
{
    private readonly CaRules rules;
    private readonly HomeDays days;

    /// <summary>On duty that has to remain in a day when driving ends: for the inspection after it.</summary>
    private readonly long reserve;

    private (long Before, long Since) drive;
    private (long Before, long Since) onDuty;

    private int day;
    private long driveToday;
    private long onDutyToday;
    private long dayOffBy;
    private CycleClock[] cycles = [];

    private CaClock(CaRules rules, HomeDays days, long reserve)
    {
        this.rules = rules;
        this.days = days;
        this.reserve = reserve;
    }

    public override long Whole => Seconds(rules.Rest);
    public override (long Left, long Most) Driving => (Seconds(rules.Drive) - drive.Before - drive.Since, Seconds(rules.Drive));

    private long Elapsed16 => Seconds(rules.Elapsed);

    /// <summary>The hours a log leaves, the rest in progress included.</summary>
    /// <param name="work">Seconds on duty that are planned.</param>
    public static IReadOnlyList<CaClock> Of(DutyLog log, CaRules rules, HomeDays days, Instant now, long work, bool split, long reserve)
    {
        var resting = log.RestingSince(now);
        var worked = log.Before(resting);
        var today = days.Of(0);
        var clock = new CaClock(rules, days, reserve)
        {
            day = today,
            cycles = rules.Cycles.Select(c => CycleClock.Of(c, log, days, work)).OfType<CycleClock>().ToArray(),
            dayOffBy = days.Seconds(CaHours.DayOffBy(log, rules, now)),
        };
        clock.Rested(log, resting);
        var midnight = days.At(days.Start(today));
        clock.driveToday = Sum(worked.Spans.Where(s => s.Duty == Duty.Driving), midnight, now);
        clock.onDutyToday = Sum(worked.Spans.Where(s => s.Works), midnight, now);
        if (worked.Spans.Count == 0 || clock.Run >= clock.Whole)
        {
            return [clock];
        }

        (clock.Open, clock.Inspected) = (true, true);
        return Shift.Ways(worked, rules.Shift, split).Select(way => clock.Counting(way.Stretch, way.Promised)).ToList();
    }

    public override long Drivable(long at, long want)
    {
        var can = Math.Min(want, Seconds(rules.Drive) - drive.Before - drive.Since);
        can = Math.Min(can, Seconds(rules.OnDuty) - onDuty.Before - onDuty.Since);
        can = Math.Min(can, Math.Min(Elapsed16 - Elapsed(at), dayOffBy - at));
        can = can <= 0 ? 0 : DrivableByDay(at, can);
        foreach (var cycle in cycles)
        {
            can = can <= 0 ? 0 : cycle.Drivable(at, can);
        }

        return can;
    }

    public override IEnumerable<string> Bound(long at)
    {
        if (drive.Before + drive.Since >= Seconds(rules.Drive))
        {
            yield return $"{Hours(rules.Drive)} h of driving are used, section 13(1)";
        }

        if (onDuty.Before + onDuty.Since >= Seconds(rules.OnDuty))
        {
            yield return $"{Hours(rules.OnDuty)} h on duty are used, section 13(2)";
        }

        if (Elapsed(at) >= Elapsed16)
        {
            yield return $"{Hours(rules.Elapsed)} h have passed since the last rest, section 13(3)";
        }

        if (DrivableByDay(at, 60) <= 0)
        {
            yield return "the day's driving or time on duty is used, section 12";
        }

        if (dayOffBy <= at)
        {
            yield return "24 h off are due within 14 days, section 25";
        }

        foreach (var cycle in cycles.Where(c => c.Drivable(at, 60) <= 0))
        {
            yield return cycle.Why;
        }
    }

    public override bool CanWork(long at, long seconds)
    {
        for (var (d, from) = (days.Of(at), at); from < at + seconds && d + 1 < days.Count; d++)
        {
            var until = Math.Min(at + seconds, days.Start(d + 1));
            if ((d == day ? onDutyToday : 0) + until - from > LessOff(d))
            {
                return false;
            }

            from = until;
        }

        return true;
    }

    public override HoursClock Drive(long at, long seconds)
    {
        var next = (CaClock)Begin(at);
        next.InspectedAfter = false;
        next.Count(at, seconds, true);
        next.Owes = next.Owes || (next.Promised && next.Elapsed(at + seconds) + next.FirstHalf > Elapsed16);
        return next;
    }

    public override HoursClock Work(long at, long seconds)
    {
        var next = (CaClock)Begin(at);
        next.Count(at, seconds, false);
        return next;
    }

    public override HoursClock? Rest(long at, long seconds, bool sleeper)
    {
        var next = (CaClock)Copy();
        next.Rested(seconds, sleeper);
        if (next.Run >= Whole && next.Open)
        {
            if (Owes || OwedBefore)
            {
                return null;
            }

            (next.Open, next.Inspected, next.Promised) = (false, false, false);
            (next.drive, next.onDuty, next.ElapsedBefore, next.FirstHalf) = ((0, 0), (0, 0), 0, 0);
        }
        else if (Taken)
        {
            (next.FirstHalf, next.Began) = (next.Run, at + seconds);
        }

        if (next.Run >= Seconds(rules.DayOff))
        {
            next.dayOffBy = at + seconds - Seconds(rules.DayOff) + Seconds(rules.DayOffWithin);
        }

        if (cycles.Any(c => Run < c.Restart && next.Run >= c.Restart))
        {
            next.cycles = Array.ConvertAll(cycles, c => Run < c.Restart && next.Run >= c.Restart ? c.Restarted() : c);
        }

        return next;
    }

    public override HoursClock? Half(long at)
    {
        // A half is all in the sleeper berth.
        if (
            !Open
            || Taken
            || LongestAsleep < Run
            || Run < Seconds(rules.Split.Each)
            || (Splitting && FirstHalf + Run < Seconds(rules.Split.Both))
        )
        {
            return null;
        }

        var next = (CaClock)Copy();
        next.ElapsedBefore = at - Run - Began;
        next.drive = (drive.Since, 0);
        next.onDuty = (onDuty.Since, 0);
        next.Began = at;
        next.FirstHalf = Run;
        next.Promised = !Splitting;
        (next.Taken, next.OwedBefore, next.Owes) = (true, Owes, false);
        return next;
    }

    public override void Choices(long at, bool split, long work, long end, List<RestChoice> into)
    {
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

        var today = days.Of(at);
        if (today == day && onDutyToday > 0 && today + 1 < days.Count)
        {
            into.Add(new RestChoice(days.Start(today + 1) - at, PlannedKind.Rest, false));
        }

        if (Run < Seconds(rules.DayOff) && dayOffBy < end)
        {
            into.Add(new RestChoice(Seconds(rules.DayOff) - Run, PlannedKind.Rest, false));
        }

        foreach (var cycle in cycles.Where(c => Run < c.Restart && c.Binds(today, work)))
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
        var o = (CaClock)other;
        var wait = otherAt - at;
        for (var i = 0; i < cycles.Length; i++)
        {
            if (!cycles[i].NoWorseThan(o.cycles[i], days.Of(at), days.Of(otherAt)))
            {
                return false;
            }
        }

        var (mine, others) = (Today(at), o.Today(otherAt));
        if (mine.Driven > others.Driven || mine.Worked > others.Worked || dayOffBy < o.dayOffBy || Run + wait < o.Run)
        {
            return false;
        }

        return !Open
            || (
                o.Open
                && drive.Before + drive.Since <= o.drive.Before + o.drive.Since
                && onDuty.Before + onDuty.Since <= o.onDuty.Before + o.onDuty.Since
                && Began - ElapsedBefore >= o.Began - o.ElapsedBefore
                && (Inspected || !o.Inspected)
                && (InspectedAfter || !o.InspectedAfter)
                && ((!split && !o.Splitting && !Promised) || NoWorseSplit(o))
            );
    }

    private bool NoWorseSplit(CaClock o) => drive.Since <= o.drive.Since && onDuty.Since <= o.onDuty.Since && NoWorseHalf(o);

    // The limits of each day: so much driving, so much on duty, and what the hours off leave of it.
    private long DrivableByDay(long at, long want)
    {
        long driven = 0;
        for (var d = days.Of(at); driven < want; d++)
        {
            var left = Math.Min(
                Seconds(rules.Drive) - (d == day ? driveToday : 0),
                Math.Min(Seconds(rules.OnDuty), LessOff(d)) - reserve - (d == day ? onDutyToday : 0)
            );
            var midnight = d + 1 < days.Count ? days.Start(d + 1) : long.MaxValue;
            var today = Math.Min(at + want, midnight) - (at + driven);
            if (left < today)
            {
                return driven + Math.Max(0, left);
            }

            driven += today;
        }

        return driven;
    }

    // A day without the hours off.
    private long LessOff(int d) => days.Start(d + 1) - days.Start(d) - Seconds(rules.DailyOff);

    private void Count(long at, long seconds, bool driving)
    {
        for (var (d, from) = (days.Of(at), at); from < at + seconds; d++)
        {
            var until = d + 1 < days.Count ? Math.Min(at + seconds, days.Start(d + 1)) : at + seconds;
            (driveToday, onDutyToday) = d == day ? (driveToday, onDutyToday) : (0, 0);
            day = d;
            driveToday += driving ? until - from : 0;
            onDutyToday += until - from;
            from = until;
        }

        drive.Since += driving ? seconds : 0;
        onDuty.Since += seconds;
        cycles = Array.ConvertAll(cycles, c => c.Work(at, at + seconds));
    }

    private (long Driven, long Worked) Today(long at) => days.Of(at) == day ? (driveToday, onDutyToday) : (0, 0);

    private IEnumerable<long> Halves(bool split)
    {
        var (each, both) = (Seconds(rules.Split.Each), Seconds(rules.Split.Both));
        var least = Splitting ? Math.Max(each, both - FirstHalf) : each;
        for (var length = least; (Splitting || split) && length <= Math.Max(least, both - each); length += 3600)
        {
            yield return length;
        }
    }

    private CaClock Counting(Stretch stretch, bool promised)
    {
        var next = (CaClock)Copy();
        next.drive = (Sum(stretch.Before, s => s.Duty == Duty.Driving), Sum(stretch.Since, s => s.Duty == Duty.Driving));
        next.onDuty = (Sum(stretch.Before, s => s.Works), Sum(stretch.Since, s => s.Works));
        next.Counting(stretch, promised, days, Elapsed16);
        return next;
    }

    private static long Sum(IEnumerable<DutySpan> spans, Instant from, Instant until) => spans.Sum(s => Seconds(s.Within(from, until)));
}
