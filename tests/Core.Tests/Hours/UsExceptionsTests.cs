using NodaTime;
using SteadyLark.Core.Hours;
using Xunit;

namespace SteadyLark.Core.Tests.Hours;

/// <summary>The exceptions of 49 CFR 395.1 as worked examples: each day of a log is a shift that begins at the same hour.</summary>
public class UsExceptionsTests
{
    private static readonly ShiftFacts Local = new(true, 120);
    private static readonly ShiftFacts Home = new(true, 400);
    private static readonly ShiftFacts Away = new(false);

    /// <summary>Violations, with the hour of the log at which each begins.</summary>
    /// <param name="of">The facts of each shift; the last of them of all that follow.</param>
    private static string Check(string log, params ShiftFacts[] of)
    {
        var (worked, _) = UsHoursTests.At(log);
        var began = new List<Instant>();
        ShiftFacts Facts(Instant at)
        {
            if (!began.Contains(at))
            {
                began.Add(at);
            }

            return of[Math.Min(began.IndexOf(at), of.Length - 1)];
        }

        return string.Join(
            ", ",
            UsHours
                .Check(worked, UsRules.SeventyInEight, DateTimeZone.Utc, Facts)
                .Select(v => $"{v.Rule} {UsHoursTests.Hour(v.From)}-{UsHoursTests.Hour(v.Until)}")
        );
    }

    [Fact]
    public void Short_haul_needs_no_break()
    {
        // 395.1(e)(1): within 150 air miles, back and released within 14 hours.
        Assert.Equal("", Check("6 o1 d9 o1", Local));
        Assert.Equal("", Check("6 o1 d9 o1", Local with { AirMiles = 150 }));
        Assert.Equal("break 15-16", Check("6 o1 d9 o1", Local with { AirMiles = 150.1m }));
        Assert.Equal("break 15-16", Check("6 o1 d9 o1", Local with { AirMiles = null }));
        Assert.Equal("break 15-16", Check("6 o1 d9 o1", Local with { AtHome = false }));
        Assert.Equal("", Check("6 o1 d9 o4", Local));
        Assert.Equal("break 15-16", Check("6 o1 d9 o4.25", Local));
        // Eleven hours are eleven hours.
        Assert.Equal("drive 18-18.5", Check("6 o1 d11.5 o1", Local));
    }

    [Fact]
    public void Trucks_that_need_no_commercial_license_have_sixteen_hours_on_two_days_of_seven()
    {
        var local = Local with { NoCdl = true };
        // 395.1(e)(2)(iv): driving from 20:00 to 21:30, after 14 hours, on the first two days and not on the third.
        const string Day = "o12 d1 o1 d1.5 off10.5";
        Assert.Equal("", Check($"6 {Day} {Day}", local));
        Assert.Equal("window 72-73.5", Check($"6 {Day} {Day} {Day}", local));
        // Seven days after the first of them there is one left.
        Assert.Equal("", Check($"6 {Day} {Day} off120 {Day}", local));
        Assert.Equal("window 22-22.5", Check("6 o12 d1 o1 d2.5", local));
        // With a license, or farther away, fourteen.
        Assert.Equal("window 20-21.5", Check($"6 {Day}", Local));
        Assert.Equal("window 20-21.5", Check($"6 {Day}", local with { AirMiles = 151 }));
        // No break.
        Assert.Equal("", Check("6 o1 d9 o1", local));
    }

    [Fact]
    public void Once_in_seven_days_sixteen_hours_for_drivers_who_come_home()
    {
        // 395.1(o): five shifts that ended at home, then one of 15.5 hours.
        const string Five = "o1 d5 off18 o1 d5 off18 o1 d5 off18 o1 d5 off18 o1 d5 off18";
        const string Long = "o12 d2 o1 d0.5";
        Assert.Equal("", Check($"6 {Five} {Long}", Home));
        Assert.Equal("window 141-141.5", Check($"6 {Five} {Long}", Away));
        // One of the five ended elsewhere; only four are known.
        Assert.Equal("window 141-141.5", Check($"6 {Five} {Long}", Home, Home, Away, Home));
        Assert.Equal("window 117-117.5", Check($"6 o1 d5 off18 o1 d5 off18 o1 d5 off18 o1 d5 off18 {Long}", Home));
        // Not released within 16 hours.
        Assert.Equal("window 140-141.5", Check($"6 {Five} o12 d3.5 o1", Home));
        // A second one two days later; after 34 hours off it is allowed again, (o)(3).
        Assert.Equal("window 191-191.5", Check($"6 {Five} {Long} off10.5 o1 d5 off18 {Long}", Home));
        Assert.Equal("", Check($"6 {Five} {Long} off34 {Long}", Home));
    }

    [Fact]
    public void Adverse_conditions_allow_two_hours_more()
    {
        // 395.1(b)(1).
        var adverse = Away with { Adverse = true };
        Assert.Equal("", Check("6 d7 off0.5 d6", adverse));
        Assert.Equal("drive 19.5-20", Check("6 d7 off0.5 d6.5", adverse));
        Assert.Equal("", Check("6 o5 d5 o1 d5", adverse));
        Assert.Equal("window 22-22.5", Check("6 o5 d5 o1 d5.5", adverse));
        // In that shift only.
        Assert.Equal("drive 41-43", Check("6 d7 off0.5 d6 off10 d7 off0.5 d6", adverse, Away));
        Assert.Equal("break 14-14.5", Check("6 d8.5", adverse));
    }

    [Fact]
    public void The_exceptions_of_a_log_are_named()
    {
        var (log, _) = UsHoursTests.At("6 o1 d5 off18 o1 d5 off18 o1 d5 off18 o1 d5 off18 o1 d5 off18 o12 d3");
        var of = UsExceptions.Of(log, UsRules.SeventyInEight, DateTimeZone.Utc, at =>
            at < UsHoursTests.Midnight + Duration.FromHours(24) ? Local : Home
        );
        Assert.Equal(
            [UsException.ShortHaul, UsException.None, UsException.None, UsException.None, UsException.None, UsException.LongDay],
            of.Select(s => s.Exception)
        );
    }
}
