using SteadyLark.Core.Hours;

namespace SteadyLark.Core.Tests.Hours;

/// <summary>The rules of 49 CFR 395.1(g) and 395.3, and of SOR/2005-313 sections 12, 13, 18, 19 and 26, once more, minute by minute and by trying
/// everything: slow, and plain enough to be read against the text.</summary>
internal static class Judge
{
    private const int Hour = 60;

    /// <summary>How shifts are counted, in minutes.</summary>
    /// <param name="Whole">The rest between two.</param>
    /// <param name="Asleep">Whether only time in the sleeper berth is half of one.</param>
    /// <param name="Each">Each half at least.</param>
    /// <param name="Both">Two of them at least.</param>
    /// <param name="Long">The longer one in the sleeper berth; also alone, when it is not 0.</param>
    /// <param name="Worked">Time on duty; null for no limit.</param>
    private sealed record Rules(int Whole, bool Asleep, int Each, int Both, int Long, int Driven, int? Worked, int Elapsed);

    private static readonly Rules Us = new(10 * Hour, false, 2 * Hour, 10 * Hour, 7 * Hour, 11 * Hour, null, 14 * Hour);

    /// <summary>Minutes in Canada: of shifts, and of days with more than 13 hours of driving or 14 on duty.</summary>
    /// <param name="team">Whether two drivers share the truck.</param>
    public static (List<int> Shift, List<int> Day, List<int> Cycle) CheckCanada(IReadOnlyList<Duty> duty, bool team)
    {
        var rules = team
            ? new Rules(8 * Hour, true, 4 * Hour, 8 * Hour, 0, 13 * Hour, 14 * Hour, 16 * Hour)
            : new Rules(8 * Hour, true, 2 * Hour, 10 * Hour, 0, 13 * Hour, 14 * Hour, 16 * Hour);
        var day = new List<int>();
        for (var m = 0; m < duty.Count; m++)
        {
            var today = Enumerable.Range(m - (m % (24 * Hour)), (m % (24 * Hour)) + 1).Select(x => duty[x]).ToList();
            if (duty[m] == Duty.Driving && (today.Count(d => d == Duty.Driving) > 13 * Hour || today.Count(Works) > 14 * Hour))
            {
                day.Add(m);
            }
        }

        return (Shifts(duty, rules), day, Cycle(duty, 70, 7, 36));
    }

    /// <summary>Minutes of driving that are not allowed, by rule.</summary>
    /// <param name="duty">What the driver does in each minute from midnight of the first day on; rested before it.</param>
    /// <param name="cycleHours">On duty in <paramref name="cycleDays"/> days.</param>
    public static Dictionary<string, List<int>> Check(IReadOnlyList<Duty> duty, int cycleHours, int cycleDays)
    {
        return new Dictionary<string, List<int>>
        {
            ["shift"] = Shifts(duty, Us),
            ["break"] = Break(duty),
            ["cycle"] = Cycle(duty, cycleHours, cycleDays, 34),
        };
    }

    private static List<int> Shifts(IReadOnlyList<Duty> duty, Rules rules)
    {
        var wrong = new List<int>();
        for (var from = duty.TakeWhile(d => !Works(d)).Count(); from < duty.Count; )
        {
            var until = EndOfShift(duty, from, rules);
            wrong.AddRange(Shift(duty, from, until, rules));
            from = until;
            while (from < duty.Count && !Works(duty[from]))
            {
                from++;
            }
        }

        return wrong;
    }

    private static bool Works(Duty d) => d is Duty.Driving or Duty.OnDuty or Duty.Yard;

    /// <summary>The minute at which a whole rest begins.</summary>
    private static int EndOfShift(IReadOnlyList<Duty> duty, int from, Rules rules)
    {
        for (var at = from; at < duty.Count; at++)
        {
            if (Enumerable.Range(at, rules.Whole).All(m => m < duty.Count && !Works(duty[m])))
            {
                return at;
            }
        }

        return duty.Count;
    }

    /// <summary>The minutes beyond the limits, for the choice of rests with the fewest of them.</summary>
    private static List<int> Shift(IReadOnlyList<Duty> duty, int from, int until, Rules rules)
    {
        var rests = new List<(int From, int Until)>();
        for (var at = from; at < until; at++)
        {
            var end = at;
            while (end < until && (rules.Asleep ? duty[end] == Duty.Sleeper : !Works(duty[end])))
            {
                end++;
            }

            if (end - at >= rules.Each && at > from)
            {
                rests.Add((at, end));
            }

            at = Math.Max(at, end);
        }

        List<int>? best = null;
        var fewest = int.MaxValue;
        for (var choice = 0; choice < 1 << rests.Count; choice++)
        {
            var chosen = rests.Where((_, i) => (choice & (1 << i)) != 0).ToList();
            if (!Allowed(chosen))
            {
                continue;
            }

            // A minute counts once for each limit it is beyond.
            var (wrong, cost) = (new List<int>(), 0);
            for (var m = from; m < until; m++)
            {
                if (duty[m] != Duty.Driving)
                {
                    continue;
                }

                var before = chosen.Where(r => r.Until <= m).ToList();
                var begins = before.Count < 2 ? from : before[^2].Until;
                var counted = Enumerable.Range(begins, m - begins + 1).Where(x => !before.Any(r => x >= r.From && x < r.Until)).ToList();
                var beyond =
                    (counted.Count(x => duty[x] == Duty.Driving) > rules.Driven ? 1 : 0)
                    + (counted.Count(x => Works(duty[x])) > (rules.Worked ?? int.MaxValue) ? 1 : 0)
                    + (counted.Count > rules.Elapsed ? 1 : 0);
                cost += beyond;
                if (beyond > 0)
                {
                    wrong.Add(m);
                }
            }

            if (cost < fewest)
            {
                (best, fewest) = (wrong, cost);
            }
        }

        return best!;

        bool Allowed(List<(int From, int Until)> chosen) =>
            chosen.Count == 0
            || (chosen.Count == 1 && rules.Long > 0 && Sleeper(chosen[0]) >= rules.Long)
            || (
                chosen.Count > 1
                && chosen
                    .Zip(chosen.Skip(1))
                    .All(p =>
                        p.First.Until - p.First.From + p.Second.Until - p.Second.From >= rules.Both
                        && Math.Max(Sleeper(p.First), Sleeper(p.Second)) >= rules.Long
                    )
            );

        int Sleeper((int From, int Until) rest)
        {
            var (longest, now) = (0, 0);
            for (var m = rest.From; m < rest.Until; m++)
            {
                now = duty[m] == Duty.Sleeper ? now + 1 : 0;
                longest = Math.Max(longest, now);
            }

            return longest;
        }
    }

    private static List<int> Break(IReadOnlyList<Duty> duty)
    {
        var wrong = new List<int>();
        var (driven, idle) = (0, 0);
        for (var m = 0; m < duty.Count; m++)
        {
            idle = duty[m] == Duty.Driving ? 0 : idle + 1;
            driven = idle >= 30 ? 0 : driven + (duty[m] == Duty.Driving ? 1 : 0);
            if (duty[m] == Duty.Driving && driven > 8 * Hour)
            {
                wrong.Add(m);
            }
        }

        return wrong;
    }

    private static List<int> Cycle(IReadOnlyList<Duty> duty, int hours, int days, int restart)
    {
        var wrong = new List<int>();
        var worked = new int[duty.Count + 1];
        var (off, restarted) = (0, 0);
        for (var m = 0; m < duty.Count; m++)
        {
            worked[m + 1] = worked[m] + (Works(duty[m]) ? 1 : 0);
            restarted = off >= restart * Hour ? m : restarted;
            off = Works(duty[m]) ? 0 : off + 1;
            var from = Math.Max(restarted, Math.Max(0, ((m / (24 * Hour)) - days + 1) * 24 * Hour));
            if (duty[m] == Duty.Driving && worked[m + 1] - worked[from] > hours * Hour)
            {
                wrong.Add(m);
            }
        }

        return wrong;
    }
}
