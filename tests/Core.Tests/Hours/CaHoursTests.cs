using CsCheck;
using NodaTime;
using SteadyLark.Core.Hours;
using Xunit;
using static SteadyLark.Core.Tests.Hours.UsHoursTests;

namespace SteadyLark.Core.Tests.Hours;

/// <summary>Hours of service in Canada: worked examples of SOR/2005-313, and the second checker.</summary>
public class CaHoursTests
{
    private static readonly DateTimeZone Utc = DateTimeZone.Utc;

    private static string Violations(string text, CaRules? rules = null) =>
        string.Join(
            ", ",
            CaHours.Check(At(text).Log, rules ?? CaRules.CycleOne, Utc).Select(v => $"{v.Rule} {Hour(v.From)}-{Hour(v.Until)} {v.Section}")
        );

    private static string Days(int count, string day) => string.Join(' ', Enumerable.Repeat(day, count));

    [Theory]
    // Sections 12 and 13: 13 hours of driving and 14 on duty, in a day and between two rests of eight hours.
    [InlineData("6 o1 d13", "")]
    [InlineData("6 d13.5", "drive 19-19.5 12(1), drive 19-19.5 13(1)")]
    [InlineData("6 o3 d11.5", "on_duty 20-20.5 12(2), on_duty 20-20.5 13(2)")]
    [InlineData("6 o3 d11 o2", "")]
    // 13(3): no driving after 16 hours have elapsed.
    [InlineData("6 d4 off3 d4 off2 d3", "")]
    [InlineData("6 d4 off3 d4 off2 d4", "elapsed 22-23 13(3)")]
    // Eight hours off begin a new shift, seven do not; the day goes on.
    [InlineData("12 d6 off8 d10", "")]
    [InlineData("12 d6 off7 d10", "elapsed 28-35 13(3), drive 32-35 13(1), on_duty 33-35 13(2)")]
    [InlineData("0 d7 off8 d7", "drive 21-22 12(1)")]
    // Personal use is off duty, a yard move is on duty: 13 hours of work leave one of driving.
    [InlineData("6 y13 d1.5", "on_duty 20-20.5 12(2), on_duty 20-20.5 13(2)")]
    [InlineData("12 d6 off4 p1 off3 d10", "")]
    public void A_day_and_a_shift_have_limits(string log, string violations) => Assert.Equal(violations, Violations(log));

    [Theory]
    // Section 14: ten hours off in a day; work after the fourteenth hour takes them.
    [InlineData("0 d8 o6 off10", "")]
    [InlineData("0 d8 o7 off9 off2 o2", "daily_off 0-24 14(1)")]
    // Section 16: up to two of them are deferred, with 20 in two days, and added to the eight of the second day.
    [InlineData("0 d8 o8 off8 off4 d6 o6 off8", "")]
    [InlineData("0 d8 o8 off8 off3 d6 o7 off8", "daily_off 0-24 14(1)")]
    // Not the mandatory eight.
    [InlineData("0 d8 o8.5 off7.5 off5 d6 o5 off8", "daily_off 0-24 14(1)")]
    // A day that is not over may still have them.
    [InlineData("0 d8 o8 off4", "")]
    public void A_day_has_ten_hours_off(string log, string violations) => Assert.Equal(violations, Violations(log));

    [Fact]
    public void Two_rests_in_the_sleeper_berth_are_worth_a_whole_one()
    {
        // Section 18: two hours at least each and ten together.
        Assert.Equal("", Violations("0 d6 s5 d6 s6 d6"));
        Assert.Equal("", Violations("4 d6 s2 d6 s8 d6"));
        Assert.Equal("drive 24-29 13(1), elapsed 16-17 13(3), elapsed 23-29 13(3)", Sorted("0 d6 off5 d6 off6 d6"));
        // Until the second is taken, the first one counts: 18(2).
        Assert.Equal("elapsed 16-17 13(3)", Violations("0 d6 s5 d6"));
        // Section 19: a team has four at least each and eight together.
        var team = CaRules.CycleOne.For(true);
        Assert.Equal("", Violations("7 d6 s4 d6 s4 d6", team));
        Assert.NotEqual("", Violations("7 d6 s4 d6 s4 d6"));
        Assert.NotEqual("", Violations("0 d6 s3 d6 s5 d6", team));

        static string Sorted(string log) =>
            string.Join(
                ", ",
                Violations(log)
                    .Split(", ")
                    .Where(v => !v.Contains("12(", StringComparison.Ordinal) && !v.Contains("13(2)", StringComparison.Ordinal))
                    .Order(StringComparer.Ordinal)
            );
    }

    [Fact]
    public void Seventy_hours_in_seven_days_or_a_hundred_and_twenty_in_fourteen()
    {
        var five = $"0 {Days(5, "o14 off10")}";
        // Section 26, and 28(1)(a): 36 hours off begin the cycle anew, 35 do not.
        Assert.Equal("cycle 120-121 26", Violations($"{five} d1"));
        Assert.Equal("", Violations($"{five} off26 d1"));
        Assert.Equal("cycle 145-146 26", Violations($"{five} off25 d1"));
        // Section 27(b): 70 hours without 24 off.
        Assert.Equal("cycle 120-121 27(b)", Violations($"{five} d1", CaRules.CycleTwo));
        Assert.Equal("", Violations($"{five} off14 d1", CaRules.CycleTwo));
        // Section 27(a) and 28(1)(b): 120 hours, and 72 off.
        var nine = $"{five} off14 {Days(4, "o14 off10")}";
        Assert.Equal("cycle 230-231 27(a)", Violations($"{nine} d1", CaRules.CycleTwo));
        Assert.Equal("", Violations($"{nine} off62 d1", CaRules.CycleTwo));
        // Section 25: 24 hours off in the 14 days before.
        Assert.Equal("day_off 312-314 25", Violations($"0 {Days(13, "d2 off22")} d2"));
        Assert.Equal("", Violations($"0 {Days(12, "d2 off22")} off24 d2"));
    }

    [Fact]
    public void What_is_left_and_when_it_comes_back()
    {
        string Left(string text, CaRules? rules = null)
        {
            var (log, end) = At(text);
            var left = CaHours.Remaining(log, rules ?? CaRules.CycleOne, Utc, end);
            Assert.Null(left.UntilBreak);
            return $"{left.Drive.TotalHours} {left.Window.TotalHours} {left.Cycle.TotalHours}";
        }

        // Driving is bounded by the time on duty.
        Assert.Equal("8 10 64", Left("6 d4 o2"));
        Assert.Equal("6 9 63", Left("6 d7"));
        // A new shift in the same day has what the day leaves; the next day has all.
        Assert.Equal("6 16 63", Left("6 d7 off8"));
        Assert.Equal("13 16 63", Left("6 d7 off12"));
        // 70 without 24 hours off come before 120.
        Assert.Equal("8 10 64", Left("6 d4 o2", CaRules.CycleTwo));
        var (worked, now) = At("6 d7");
        Assert.Equal(
            ("21", "49"),
            (
                Hour(CaHours.Returns(worked, CaRules.CycleOne, Utc, now).Drive!.Value),
                Hour(CaHours.Returns(worked, CaRules.CycleOne, Utc, now).Cycle!.Value)
            )
        );
    }

    [Fact]
    public void The_second_checker_finds_the_same_minutes_of_driving_that_are_not_allowed()
    {
        Gen.Select(UsHoursTests.Days, Gen.Bool)
            .Sample(
                (days, team) =>
                {
                    var log = LogOf(days);
                    var judged = Judge.CheckCanada(Minutes(log), team);
                    var found = CaHours.Check(log, CaRules.CycleOne.For(team), Utc).ToLookup(v => v.Section);
                    Assert.Equal(judged.Day, MinutesOf(found["12(1)"].Concat(found["12(2)"])).Order());
                    Assert.Equal(judged.Cycle, MinutesOf(found["26"]).Order());
                    Assert.Equal(judged.Shift.Count == 0, !found["13(1)"].Concat(found["13(2)"]).Concat(found["13(3)"]).Any());
                },
                iter: 300
            );
    }
}
