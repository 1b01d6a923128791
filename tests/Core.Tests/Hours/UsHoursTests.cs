using CsCheck;
using NodaTime;
using SteadyLark.Core.Hours;
using Xunit;

namespace SteadyLark.Core.Tests.Hours;

/// <summary>Hours of service in the United States: worked examples of 49 CFR 395.1 and 395.3, and a second checker.</summary>
public class UsHoursTests
{
    private static readonly DateTimeZone Utc = DateTimeZone.Utc;
    internal static readonly Instant Midnight = Instant.FromUtc(2026, 11, 22, 0, 0);

    /// <summary>A log from text, one word for each status: d driving, o on duty, off, s sleeper, p personal, y yard, each with hours:
    /// <c>6:off o1 d7 off0.5 d4</c>. It begins at the hour of the first day that comes first.</summary>
    private static DutyLog Log(string text, DateTimeZone? zone = null) => At(text, zone).Log;

    internal static (DutyLog Log, Instant End) At(string text, DateTimeZone? zone = null)
    {
        var words = text.Split(' ');
        var at = Midnight + Duration.FromHours(double.Parse(words[0], System.Globalization.CultureInfo.InvariantCulture));
        var spans = new List<DutySpan>();
        foreach (var word in words.Skip(1))
        {
            var letters = new string(word.TakeWhile(char.IsLetter).ToArray());
            var length = Duration.FromMinutes(
                Math.Round(60 * double.Parse(word[letters.Length..], System.Globalization.CultureInfo.InvariantCulture))
            );
            spans.Add(
                new DutySpan(
                    at,
                    at + length,
                    letters switch
                    {
                        "d" => Duty.Driving,
                        "o" => Duty.OnDuty,
                        "s" => Duty.Sleeper,
                        "p" => Duty.Personal,
                        "y" => Duty.Yard,
                        _ => Duty.Off,
                    }
                )
            );
            at += length;
        }

        return (DutyLog.Of(spans, at, zone ?? Utc).Value, at);
    }

    private static string Violations(string text, UsRules? rules = null) =>
        string.Join(
            ", ",
            UsHours
                .Check(Log(text), rules ?? UsRules.SeventyInEight, Utc)
                .Select(v => $"{v.Rule} {Hour(v.From)}-{Hour(v.Until)} {v.Section}")
        );

    /// <summary>Hours from midnight of the first day.</summary>
    internal static string Hour(Instant at) =>
        (at - Midnight).TotalHours.ToString("0.##", System.Globalization.CultureInfo.InvariantCulture);

    private static string Left(string text, UsRules? rules = null)
    {
        var (log, end) = At(text);
        var left = UsHours.Remaining(log, rules ?? UsRules.SeventyInEight, Utc, end);
        string Hours(Duration? d) => d is { } x ? x.TotalHours.ToString("0.##", System.Globalization.CultureInfo.InvariantCulture) : "none";
        return $"{Hours(left.Drive)} {Hours(left.Window)} {Hours(left.UntilBreak)} {Hours(left.Cycle)}";
    }

    [Theory]
    // 395.3(a)(2): on duty at 6:00 after ten hours off, no driving after 20:00, whatever was done in between.
    [InlineData("6 o1 d4 o5 d4", "")]
    [InlineData("6 o1 d4 o5 d4.5", "window 20-20.5 395.3(a)(2)")]
    [InlineData("6 o1 d4 off5 d5", "window 20-21 395.3(a)(2)")]
    // Other work is allowed after it.
    [InlineData("6 o1 d4 o5 d4 o3", "")]
    // 395.3(a)(3)(i): driving from 7:00 to 14:00, half an hour off, and four hours more.
    [InlineData("6 o1 d7 off0.5 d4", "")]
    [InlineData("6 o1 d7 off0.5 d4.25", "drive 18.5-18.75 395.3(a)(3)(i)")]
    // 395.3(a)(3)(ii): eight hours of driving, then half an hour of anything else; driving counts, not time on duty.
    [InlineData("6 d8", "")]
    [InlineData("6 d8.5", "break 14-14.5 395.3(a)(3)(ii)")]
    [InlineData("6 d4 o0.5 d7", "")]
    [InlineData("6 d4 o0.25 off0.25 d7", "")]
    [InlineData("6 d4 off0.25 d5", "break 14.25-15.25 395.3(a)(3)(ii)")]
    [InlineData("6 d4 y0.5 d7", "")]
    [InlineData("6 o5 d8.5", "break 19-19.5 395.3(a)(3)(ii)")]
    // 395.3(a)(1): nine hours off are no rest, ten are; personal use of the truck is off duty, a yard move is not.
    [InlineData("6 d8 off0.5 d3 off9 d1", "drive 26.5-27.5 395.3(a)(3)(i), window 26.5-27.5 395.3(a)(2)")]
    [InlineData("6 d8 off0.5 d3 off10 d8", "")]
    [InlineData("6 d8 off0.5 d3 off5 p0.5 off4.5 d8", "")]
    [InlineData("6 d8 off0.5 d3 off5 y0.5 off4.5 d1", "drive 27.5-28.5 395.3(a)(3)(i), window 27.5-28.5 395.3(a)(2)")]
    // A combination of sleeper and off duty is ten hours, 395.1(g)(1)(i)(C).
    [InlineData("6 d8 off0.5 d3 off2 s8 d8", "")]
    public void A_shift_is_driven_within_eleven_and_fourteen_hours(string log, string violations) =>
        Assert.Equal(violations, Violations(log));

    [Theory]
    // 395.1(g)(1)(ii): seven hours in the sleeper and three off; each pair is counted from the end of the first.
    [InlineData("0 d5 s7 d6 off3 d5", "")]
    [InlineData("0 d5 s7 d6 off3 d5.5", "drive 26-26.5 395.3(a)(3)(i)")]
    [InlineData("0 d5 off3 d6 s7 d5 off3 d6", "")]
    // Eight and two.
    [InlineData("0 d6 s8 d5 off2 d6", "")]
    [InlineData("0 d6 off2 d5 s8 d6", "")]
    // Six hours in the sleeper are too short, and so are nine hours in all.
    [InlineData("0 d5 s6 d6 off4 d1", "window 14-17 395.3(a)(2), drive 21-22 395.3(a)(3)(i), window 21-22 395.3(a)(2)")]
    [InlineData("0 d5 s7 d6 off2 d1", "drive 20-21 395.3(a)(3)(i)")]
    // Off duty is not the sleeper berth.
    [InlineData("0 d5 off7 d6 off3 d1", "window 14-18 395.3(a)(2), drive 21-22 395.3(a)(3)(i), window 21-22 395.3(a)(2)")]
    // Neither rest counts in the window: four hours of work, three off, ten of work, seven in the sleeper.
    [InlineData("0 o2 d2 off3 o6 d4 s7 d4", "")]
    [InlineData("0 o2 d2 off3 o6 d4.5 s7 d3.5", "window 17-17.5 395.3(a)(2)")]
    // The longer rest counts before the shorter one is taken.
    [InlineData("0 o2 d5 s7 d6 o1", "")]
    // The shorter one does not until it is paired.
    [InlineData("0 o6 d4 off3 d3", "window 14-16 395.3(a)(2)")]
    [InlineData("0 o6 d4 off3 d3 s7 d6", "")]
    public void Two_rests_in_the_sleeper_berth_are_worth_a_whole_one(string log, string violations) =>
        Assert.Equal(violations, Violations(log));

    [Fact]
    public void Seventy_hours_in_eight_days_and_sixty_in_seven()
    {
        // 395.3(b)(2), the guide's example: 0, 10, 8.5, 12.5, 9, 10, 12 and 5 hours are 67, so three are left.
        const string week = "24 o10 off14 o8.5 off15.5 o12.5 off11.5 o9 off15 o10 off14 o12 off12 o5";
        Assert.Equal("11 9 8 3", Left(week));
        Assert.Equal("", Violations(week + " off0.5 d2.5 d0.5"));
        Assert.Equal("cycle 176-177 395.3(b)(2)", Violations(week + " o1 d3"));
        // The ninth day does not have the first one's hours: nothing of Sunday; the day after, Monday's ten come back, less three worked meanwhile.
        Assert.Equal("11 14 8 3", Left(week + " off19"));
        Assert.Equal("11 14 8 10", Left(week + " off19 o3 off21"));
        // 395.3(b)(1): sixty in seven.
        Assert.Equal("11 9 8 0", Left(week, UsRules.SixtyInSeven));
        Assert.Equal("395.3(b)(1)", UsHours.Check(Log(week + " d1"), UsRules.SixtyInSeven, Utc).Single().Section);
        // 395.3(c): 34 hours off begin it anew; 33 do not.
        Assert.Equal("11 14 8 70", Left(week + " off34"));
        Assert.Equal("11 14 8 3", Left(week + " off18.5"));
        // Working beyond it is allowed, driving is not.
        Assert.Equal("", Violations(week + " o6"));
    }

    [Fact]
    public void Exceptions_give_more()
    {
        // 395.1(b)(1): two hours more of both.
        Assert.Equal("", Violations("6 d8 off0.5 d5", UsRules.SeventyInEight.InAdverseConditions()));
        Assert.Equal("window 22-23 395.3(a)(2)", Violations("6 o4 d1 o8 d4", UsRules.SeventyInEight.InAdverseConditions()));
        // 395.1(e)(1): no interruption.
        Assert.Equal("", Violations("6 d11", UsRules.SeventyInEight.ForShortHaul()));
        Assert.Equal("6 9 none 65", Left("6 d5", UsRules.SeventyInEight.ForShortHaul()));
        // 395.1(o): sixteen hours once a week, with eleven of driving.
        Assert.Equal("", Violations("6 o5 d8 off0.5 d2.5", UsRules.SeventyInEight.ForLongDay()));
    }

    [Fact]
    public void Hours_come_back()
    {
        HoursBack Back(string text)
        {
            var (log, end) = At(text);
            return UsHours.Returns(log, UsRules.SeventyInEight, Utc, end);
        }

        var back = Back("6 o1 d7");
        Assert.Equal(("24", "14.5"), (Hour(back.Drive!.Value), Hour(back.Break!.Value)));
        // The first hours of the cycle come back when the first day is the ninth, or after a restart, whichever is first.
        Assert.Equal(Midnight + Duration.FromHours(14 + 34), back.Cycle);
        Assert.Equal(
            Midnight + Duration.FromHours(8 * 24),
            Back("6 o1 d7 off9 o1 off9 o1 off30 o1 off30 o1 off30 o1 off30 o1 off8 o1").Cycle
        );
        // Rested, nothing is to come back but the cycle.
        Assert.Equal((null, null), (Back("6 o1 d7 off10").Drive, Back("6 o1 d7 off10").Break));
        Assert.Equal(new HoursBack(null, null, null), Back("6 off40"));
    }

    [Fact]
    public void A_log_is_read_with_its_gaps_and_without_overlaps()
    {
        DutySpan Entry(double from, double until, Duty duty) =>
            new(Midnight + Duration.FromHours(from), Midnight + Duration.FromHours(until), duty);
        var now = Midnight + Duration.FromHours(100);
        // A gap of three days is off duty, and so is the time since the last entry.
        var log = DutyLog.Of([Entry(80, 81, Duty.OnDuty), Entry(6, 8, Duty.Driving)], now, Utc).Value;
        Assert.Equal(
            [(Duty.Driving, 2d), (Duty.Off, 72d), (Duty.OnDuty, 1d), (Duty.Off, 19d)],
            log.Spans.Select(s => (s.Duty, s.Length.TotalHours))
        );
        Assert.Equal(
            ["log.overlap log[1].from", "log.order log[2].until", "log.ahead log[3].until"],
            DutyLog
                .Of([Entry(6, 8, Duty.Driving), Entry(7, 9, Duty.OnDuty), Entry(10, 10, Duty.Off), Entry(90, 101, Duty.Off)], now, Utc)
                .Problems.OrderBy(p => p.Field, StringComparer.Ordinal)
                .Select(p => $"{p.Code} {p.Field}")
        );
        Assert.Empty(DutyLog.Of([], now, Utc).Value.Spans);
        Assert.Equal(
            "11 14 8 70",
            string.Join(
                ' ',
                new[] { UsHours.Remaining(DutyLog.Of([], now, Utc).Value, UsRules.SeventyInEight, Utc, now) }.Select(l =>
                    $"{l.Drive.TotalHours} {l.Window.TotalHours} {l.UntilBreak!.Value.TotalHours} {l.Cycle.TotalHours}"
                )
            )
        );
        Assert.Equal([(Duty.Driving, 1d)], log.Before(Midnight + Duration.FromHours(7)).Spans.Select(s => (s.Duty, s.Length.TotalHours)));
    }

    /// <summary>Days of a driver who does not care for the rules.</summary>
    internal static readonly Gen<List<(Duty Duty, int Quarters)>> Days = Gen.OneOf(
        Gen.Select(Gen.Const(Duty.Driving), Gen.Int[1, 30]),
        Gen.Select(Gen.Const(Duty.OnDuty), Gen.Int[1, 20]),
        Gen.Select(Gen.OneOf(Gen.Const(Duty.Off), Gen.Const(Duty.Sleeper), Gen.Const(Duty.Personal)), Gen.Int[1, 16]),
        Gen.Select(Gen.OneOf(Gen.Const(Duty.Off), Gen.Const(Duty.Sleeper)), Gen.Int[26, 46]),
        Gen.Select(Gen.Const(Duty.Off), Gen.Int[130, 150])
    ).List[3, 22];

    internal static DutyLog LogOf(IEnumerable<(Duty Duty, int Quarters)> days)
    {
        var at = Midnight;
        var spans = new List<DutySpan>();
        foreach (var (duty, quarters) in days)
        {
            spans.Add(new DutySpan(at, at + Duration.FromMinutes(15 * quarters), duty));
            at = spans[^1].Until;
        }

        return DutyLog.Of(spans, at, Utc).Value;
    }

    internal static IReadOnlyList<Duty> Minutes(DutyLog log) =>
        log.Spans.SelectMany(s => Enumerable.Repeat(s.Duty, (int)s.Length.TotalMinutes)).ToList();

    internal static HashSet<int> MinutesOf(IEnumerable<HoursViolation> violations) =>
        violations
            .SelectMany(v => Enumerable.Range((int)(v.From - Midnight).TotalMinutes, (int)(v.Until - v.From).TotalMinutes))
            .ToHashSet();

    [Fact]
    public void The_second_checker_finds_the_same_minutes_of_driving_that_are_not_allowed()
    {
        Days.Sample(
            days =>
            {
                var log = LogOf(days);
                var judged = Judge.Check(Minutes(log), 70, 8);
                var found = UsHours.Check(log, UsRules.SeventyInEight, Utc).ToLookup(v => v.Rule);
                Assert.Equal(judged["break"], MinutesOf(found["break"]).Order());
                Assert.Equal(judged["cycle"], MinutesOf(found["cycle"]).Order());
                // Choices of rests that are equally bad may blame other minutes.
                Assert.Equal(judged["shift"].Count == 0, !found["drive"].Any() && !found["window"].Any());
            },
            iter: 300
        );
    }

    [Fact]
    public void What_remains_can_be_driven_and_a_quarter_of_an_hour_more_cannot()
    {
        Days.Sample(
            days =>
            {
                var log = LogOf(days);
                var end = log.Spans[^1].Until;
                var left = UsHours.Remaining(log, UsRules.SeventyInEight, Utc, end);
                if (MinutesOf(UsHours.Check(log, UsRules.SeventyInEight, Utc)).Count > 0)
                {
                    return;
                }

                DutyLog Driving(Duration more) => more == Duration.Zero ? log : log.With([new DutySpan(end, end + more, Duty.Driving)]);
                Assert.Empty(UsHours.Check(Driving(left.Now), UsRules.SeventyInEight, Utc));
                var midnight = Utc.AtStartOfDay(end.InUtc().Date.PlusDays(1)).ToInstant();
                // A new day can give hours of the cycle back.
                if (end + left.Now < midnight)
                {
                    Assert.NotEmpty(UsHours.Check(Driving(left.Now + Duration.FromMinutes(15)), UsRules.SeventyInEight, Utc));
                }
            },
            iter: 500
        );
    }
}
