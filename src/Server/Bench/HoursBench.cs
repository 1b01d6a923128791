using NodaTime;
using SteadyLark.Core.Hours;
using SteadyLark.Core.Hours.Planning;

namespace SteadyLark.Server.Bench;

/// <summary>Plans of drivers with a week of log behind them: ten visits over four days with windows and inspections, half of them in Canada; and 500 trips with
/// two to four visits.</summary>
internal static class HoursBench
{
    private const int Trips = 500;

    /// <param name="measure">What, limit in ms, how often, the act.</param>
    public static async Task Run(Instant now, Func<string, double, int, Func<int, Task>, Task> measure)
    {
        var random = new Random(7);
        var asks = Enumerable.Range(0, 300).Select(i => Ask(random, now, 10, i % 2 == 0 ? "US" : "CA")).ToList();
        var trips = Enumerable.Range(0, Trips).Select(i => Ask(random, now, 2 + (i % 3), i % 10 == 0 ? "CA" : "US")).ToList();
        await measure("hours: ten visits over four days", 5, 250, i => Done(() => HoursPlanner.Plan(asks[(i + asks.Count) % asks.Count])));
        await measure("hours: 500 trips", 2000, 5, _ => Done(() => trips.ForEach(t => HoursPlanner.Plan(t))));
    }

    private static Task Done(Action act)
    {
        act();
        return Task.CompletedTask;
    }

    private static HoursAsk Ask(Random random, Instant now, int visits, string country)
    {
        var log = DutyLog.Of(Week(random, now).ToList(), now, DateTimeZone.Utc).Value;
        var quarter = Duration.FromMinutes(15);
        var make = Enumerable
            .Range(0, visits)
            .Select(i => new VisitToMake(
                $"visit {i + 1}",
                [new Road(Duration.FromMinutes(random.Next(60, 360)), 0, country)],
                null,
                null,
                Duration.FromMinutes(random.Next(15, 150)),
                DateTimeZone.Utc
            ))
            .ToList();
        var ask = new HoursAsk(
            now,
            [log],
            new HoursRules(UsRules.SeventyInEight, CaRules.CycleOne),
            DateTimeZoneProviders.Tzdb["America/Denver"],
            make,
            Before: quarter,
            After: quarter
        );
        // Windows around the times at which one can be there; one visit in ten is to be made before that.
        var free = HoursPlanner.Plan(ask)!;
        return ask with
        {
            Visits = make.Zip(free.Visits, (v, p) =>
                {
                    var early = random.Next(10) == 0 ? -300 : 0;
                    return v with
                    {
                        From = p.Arrives + Duration.FromMinutes(random.Next(-240, 90) + early),
                        Until = p.Arrives + Duration.FromMinutes(random.Next(90, 360) + early),
                    };
                })
                .ToList(),
        };
    }

    private static IEnumerable<DutySpan> Week(Random random, Instant now)
    {
        for (var day = 7; day > 0; day--)
        {
            var at = now - Duration.FromDays(day);
            var parts = new[]
            {
                (60, Duty.OnDuty),
                (random.Next(180, 300), Duty.Driving),
                (30, Duty.Off),
                (210, Duty.Driving),
                (660, Duty.Sleeper),
            };
            foreach (var (minutes, duty) in parts)
            {
                var from = at;
                at += Duration.FromMinutes(minutes);
                yield return new DutySpan(from, at, duty);
            }
        }
    }
}
