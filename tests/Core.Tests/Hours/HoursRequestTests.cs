using SteadyLark.Core.Hours;
using Xunit;

namespace SteadyLark.Core.Tests.Hours;

/// <summary>The question of scripts and other programs: worked examples, some across the border and across a change of clocks, and what is refused.</summary>
public class HoursRequestTests
{
    private static HoursEntry Entry(string from, string until, string duty) => new(from, until, duty);

    private static HoursRequest Ask(string rules, string now, params HoursEntry[] log) => new(rules, "America/Denver", log, now);

    private static string Left(HoursRequest ask)
    {
        var left = ask.Answer().Value.Remaining;
        return $"{left.DriveMinutes} {left.WindowMinutes} {left.UntilBreakMinutes} {left.CycleMinutes}";
    }

    private static string Violations(HoursRequest ask) =>
        string.Join(", ", ask.Answer().Value.Violations.Select(v => $"{v.Rule} {v.Section} {v.From[5..16]} {v.Until[5..16]}"));

    private static string Visits(HoursAnswer answer) =>
        string.Join(", ", answer.Visits!.Select(v => $"{v.Arrives[5..16]} {v.Begins[5..16]} {v.SlackMinutes}"));

    [Fact]
    public void Driving_in_one_country_counts_in_the_other()
    {
        // Six hours in Alberta, then the border at Sweetgrass: 49 CFR 395.3 counts them, and so does SOR/2005-313.
        var log = new[]
        {
            Entry("2026-11-24T12:00:00Z", "2026-11-24T13:00:00Z", "on_duty"),
            Entry("2026-11-24T13:00:00Z", "2026-11-24T19:00:00Z", "driving"),
        };
        Assert.Equal("300 420 120 3780", Left(Ask("us-70-8", "2026-11-24T19:00:00Z", log)));
        Assert.Equal("420 540  3780", Left(Ask("ca-70-7", "2026-11-24T19:00:00Z", log)));
    }

    [Fact]
    public void The_rules_of_a_stretch_are_those_of_its_country()
    {
        // Twelve hours of driving: in Canada within 13 without a break, in the United States a rest is due after 8 hours.
        var canada = Ask("ca-70-7", "2026-11-24T12:00:00Z") with { Visits = [new HoursVisit(720, 720)] };
        Assert.Equal(["drive"], canada.Answer().Value.Plan!.Select(p => p.Kind));
        var states = canada with { Rules = "us-70-8" };
        Assert.Equal(["drive", "rest", "drive"], states.Answer().Value.Plan!.Select(p => p.Kind));

        // Nine hours in Canada, then four in the United States: nine were driven without a break, so one is due at the border, 395.3(a)(3)(ii), and two hours
        // later eleven are driven, 395.3(a)(3)(i); ten hours off at the border are both. The other way the break is due after eight hours, and thirteen are allowed after the border.
        var south = canada with { Visits = [new HoursVisit(540, 540), new HoursVisit(240, 240, Country: "US")] };
        Assert.Equal(["drive", "rest", "drive"], south.Answer().Value.Plan!.Select(p => p.Kind));
        Assert.Equal("11-24 21:00", south.Answer().Value.Plan![1].From[5..16].Replace('T', ' '));
        var north = canada with { Visits = [new HoursVisit(540, 540, Country: "US"), new HoursVisit(240, 240)] };
        var parts = north.Answer().Value.Plan!;
        Assert.Equal(["drive", "break", "drive", "drive"], parts.Select(p => p.Kind));
        Assert.Equal("2026-11-25T01:30:00Z", parts[^1].Until);
    }

    [Fact]
    public void A_day_with_a_clock_change_has_23_or_25_hours()
    {
        // Clocks go forward on March 8, 2026: ten hours by the clock are nine. Elapsed time counts, 395.3(a)(1).
        Assert.Equal(
            "drive 395.3(a)(3)(i) 03-08T11:00 03-08T12:00, window 395.3(a)(2) 03-08T11:00 03-08T12:00",
            Violations(
                Ask(
                    "us-70-8",
                    "2026-03-08T12:00:00Z",
                    // 8 h, a break, and 3 h until 19:00 Mountain Standard Time; on again at 5:00 Mountain Daylight Time.
                    Entry("2026-03-07T14:30:00Z", "2026-03-07T22:30:00Z", "driving"),
                    Entry("2026-03-07T23:00:00Z", "2026-03-08T02:00:00Z", "driving"),
                    Entry("2026-03-08T11:00:00Z", "2026-03-08T12:00:00Z", "driving")
                )
            )
        );

        // In Canada that day has 13 hours for work and ten off, 14(1); 13.5 hours of work leave 9.5, and the next day does not make up for them, section 16.
        var spring = Entry("2026-03-08T08:00:00Z", "2026-03-08T21:30:00Z", "on_duty");
        var next = Entry("2026-03-09T08:00:00Z", "2026-03-09T21:54:00Z", "on_duty");
        Assert.Equal("daily_off 14(1) 03-08T07:00 03-09T06:00", Violations(Ask("ca-70-7", "2026-03-11T18:00:00Z", spring, next)));

        // Clocks go back on November 1, 2026: a day of 25 hours has time for 14 on duty and 11 off.
        var fall = Entry("2026-11-01T08:00:00Z", "2026-11-01T22:00:00Z", "on_duty");
        Assert.Equal("", Violations(Ask("ca-70-7", "2026-11-03T18:00:00Z", fall)));
    }

    [Fact]
    public void A_plan_across_a_clock_change_rests_ten_hours()
    {
        // 12 hours of driving from 20:00 on the evening before clocks go back: the window at the end is 9:00 to 9:30 by the clock, 12.5 hours later.
        var ask = Ask("us-70-8", "2026-11-01T02:00:00Z") with { Visits = [new HoursVisit(700, 720, Service: 30)] };
        var answer = ask.Answer().Value;
        Assert.Equal("11-02T00:00 11-02T00:00 ", Visits(answer));
        Assert.Equal("2026-11-01T20:00:00Z", answer.Plan!.Single(p => p.Kind == "rest").Until);
    }

    [Fact]
    public void A_driver_with_no_hours_left_rests_first()
    {
        var ask = Ask(
            "us-70-8",
            "2026-11-24T20:00:00Z",
            Entry("2026-11-24T08:00:00Z", "2026-11-24T16:00:00Z", "driving"),
            Entry("2026-11-24T16:30:00Z", "2026-11-24T19:30:00Z", "driving")
        );
        Assert.Equal("0 120 480 3540", Left(ask));
        Assert.Equal("2026-11-25T05:30:00Z", ask.Answer().Value.Returns.Drive);
        var answer = (ask with { Visits = [new HoursVisit(60, 60, Until: "2026-11-24T23:00:00Z")] }).Answer().Value;
        Assert.Equal(["rest", "drive"], answer.Plan!.Select(p => p.Kind));
        Assert.Equal("11-25T06:30 11-25T06:30 -450", Visits(answer));
        Assert.Equal(
            "9 h 30 off: 11 h of driving are used, section 395.3(a)(3)(i)",
            answer.Plan![0].Why.Replace("10 h", "9 h 30", StringComparison.Ordinal)
        );
    }

    [Fact]
    public void A_late_plan_says_what_would_help()
    {
        // 15 hours of driving in 16: one driver is late by 9.
        var ask = Ask("us-70-8", "2026-11-24T12:00:00Z") with
        {
            Visits = [new HoursVisit(900, 900, Until: "2026-11-25T04:00:00Z", Name: "Fargo")],
        };
        var answer = ask.Answer().Value;
        Assert.Equal("11-25T13:00 11-25T13:00 -540", Visits(answer));
        Assert.Equal(
            [
                "team 540 0: Send a second driver who is rested.",
                "relay 540 0: Have another driver take over 7 h before Fargo at Tue Nov 24, 13:00.",
                "later_appointment 540 0: Ask for Wed Nov 25, 06:00 at Fargo.",
            ],
            answer.Fixes!.Select(f => $"{f.Kind} {f.GainMinutes} {f.LateMinutes}: {f.What}")
        );

        // Two drivers are on time; of a team of which one has no hours, the other drives as far as one may.
        var team = ask with { Team = true };
        Assert.Equal("11-25T03:00 11-25T03:00 60", Visits(team.Answer().Value));
        var tired = team with { Codriver = [Entry("2026-11-24T01:00:00Z", "2026-11-24T12:00:00Z", "driving")] };
        Assert.Equal(1, tired.Answer().Value.Plan![0].Driver);
        Assert.Equal("11-25T03:30 11-25T03:30 30", Visits(tired.Answer().Value));

        // A window that has closed: no driver makes it, an appointment does.
        var closed = ask with { Visits = [new HoursVisit(60, 60, Until: "2026-11-24T12:30:00Z")] };
        Assert.Equal(["later_appointment"], closed.Answer().Value.Fixes!.Select(f => f.Kind));
    }

    [Fact]
    public void Waiting_in_the_sleeper_berth_can_split_the_rest()
    {
        // Three hours at the shipper stop the 14-hour window once seven in the sleeper berth follow, 395.1(g)(1)(ii).
        var ask = Ask("us-70-8", "2026-11-24T12:00:00Z", Entry("2026-11-24T08:00:00Z", "2026-11-24T12:00:00Z", "on_duty")) with
        {
            Visits =
            [
                new HoursVisit(60, 60, "2026-11-24T17:00:00Z", null, 60),
                new HoursVisit(360, 360, Until: "2026-11-25T03:30:00Z", Service: 60),
                new HoursVisit(240, 240, Until: "2026-11-25T15:00:00Z"),
            ],
        };
        var late = ask.Answer().Value;
        Assert.Contains(late.Visits!, v => v.SlackMinutes < 0);
        var fix = late.Fixes!.First(f => f.Kind == "split_rest");
        Assert.True(fix.GainMinutes > 0);
        Assert.Equal(fix.LateMinutes, -(ask with { Split = true }).Answer().Value.Visits!.Sum(v => Math.Min(0, v.SlackMinutes ?? 0)));
    }

    [Fact]
    public void The_latest_start_still_makes_every_visit()
    {
        var ask = Ask("us-70-8", "2026-11-24T12:00:00Z") with
        {
            Visits =
            [
                new HoursVisit(300, 300, "2026-11-24T16:00:00Z", "2026-11-24T20:00:00Z", 60),
                new HoursVisit(120, 120, Until: "2026-11-24T22:30:00Z"),
            ],
        };
        Assert.Equal("2026-11-24T14:30:00Z", ask.Answer().Value.LatestStart);
        Assert.DoesNotContain((ask with { Start = "2026-11-24T14:30:00Z" }).Answer().Value.Visits!, v => v.SlackMinutes < 0);
        Assert.Contains((ask with { Start = "2026-11-24T14:31:00Z" }).Answer().Value.Visits!, v => v.SlackMinutes < 0);
    }

    [Fact]
    public void Fourteen_days_are_planned_within_the_cycle()
    {
        var visits = Enumerable.Range(0, 28).Select(i => new HoursVisit(300, 300, Service: 60)).ToList();
        var answer = (Ask("us-70-8", "2026-11-24T12:00:00Z") with { Visits = visits, Inspection = 15 }).Answer().Value;
        Assert.Contains(answer.Plan!, p => p.Kind == "restart" || p.Why.Contains("395.3(b)(2)", StringComparison.Ordinal));
        var driven = answer
            .Plan!.Where(p => p.Kind == "drive")
            .Sum(p => (DateTimeOffset.Parse(p.Until, null) - DateTimeOffset.Parse(p.From, null)).TotalHours);
        Assert.Equal(140, driven, 3);
        var log = answer
            .Plan!.Select(p =>
                Entry(
                    p.From,
                    p.Until,
                    p.Kind switch
                    {
                        "drive" => "driving",
                        "service" or "inspection" => "on_duty",
                        _ => "sleeper",
                    }
                )
            )
            .ToArray();
        Assert.Equal("", Violations(Ask("us-70-8", log[^1].Until!, log)));
    }

    [Theory]
    [InlineData("us-70-9", "America/Denver", "2026-11-24T12:00:00Z", "rules")]
    [InlineData("us-70-8", "America/Nowhere", "2026-11-24T12:00:00Z", "zone")]
    [InlineData("us-70-8", "America/Denver", "yesterday", "now")]
    [InlineData("us-70-8", "America/Denver", "9999-11-24T12:00:00Z", "now")]
    public void What_cannot_be_read_is_named(string rules, string zone, string now, string field) =>
        Assert.Contains(field, new HoursRequest(rules, zone, [], now).Answer().Problems.Select(p => p.Field));

    [Fact]
    public void Logs_that_contradict_themselves_are_refused()
    {
        var ask = Ask(
            "us-70-8",
            "2026-11-24T20:00:00Z",
            Entry("2026-11-24T08:00:00Z", "2026-11-24T12:00:00Z", "driving"),
            Entry("2026-11-24T11:00:00Z", "2026-11-24T13:00:00Z", "on_duty")
        );
        Assert.Equal(
            "Entries 1 and 2 of the log overlap: the first ends Tue Nov 24, 05:00, the other begins Tue Nov 24, 04:00.",
            ask.Answer().Problems.Single().Message
        );
        Assert.Equal(
            "log[0].until",
            Ask("us-70-8", "2026-11-24T20:00:00Z", Entry("2026-11-24T08:00:00Z", "2026-11-24T21:00:00Z", "driving"))
                .Answer()
                .Problems.Single()
                .Field
        );
        Assert.Equal(
            "codriver[0].until",
            (ask with { Log = [], Team = true, Codriver = [Entry("2026-11-24T08:00:00Z", "2026-11-24T07:00:00Z", "off")] })
                .Answer()
                .Problems.Single()
                .Field
        );
        Assert.Equal("codriver", (ask with { Log = [], Codriver = [] }).Answer().Problems.Single().Field);
        Assert.Equal(
            "log[0].duty",
            Ask("us-70-8", "2026-11-24T20:00:00Z", Entry("2026-11-24T08:00:00Z", "2026-11-24T09:00:00Z", "asleep"))
                .Answer()
                .Problems.Single()
                .Field
        );

        // Three days that nothing is recorded for are off duty: the cycle begins anew.
        Assert.Equal(
            "660 840 480 4200",
            Left(Ask("us-70-8", "2026-11-24T20:00:00Z", Entry("2026-11-20T08:00:00Z", "2026-11-20T16:00:00Z", "driving")))
        );
    }

    [Fact]
    public void Visits_that_cannot_be_are_refused()
    {
        var ask = Ask("us-70-8", "2026-11-24T12:00:00Z");
        string Field(HoursVisit visit) => string.Join(" ", (ask with { Visits = [visit] }).Answer().Problems.Select(p => p.Field));
        Assert.Equal("visits[0].minutes", Field(new HoursVisit(60, -1)));
        Assert.Equal("visits[0].service", Field(new HoursVisit(60, 60, Service: 100_000)));
        Assert.Equal("visits[0].miles", Field(new HoursVisit(-1, 60)));
        Assert.Equal("visits[0].country", Field(new HoursVisit(60, 60, Country: "MX")));
        Assert.Equal("visits[0].until", Field(new HoursVisit(60, 60, "2026-11-25T12:00:00Z", "2026-11-24T12:00:00Z")));
        Assert.Equal("visits[0].from", Field(new HoursVisit(60, 60, "2027-11-25T12:00:00Z")));
        Assert.Equal(
            "visits",
            (ask with { Visits = Enumerable.Repeat(new HoursVisit(6000, 6000), 10).ToList() }).Answer().Problems.Single().Field
        );
        Assert.Equal("start", (ask with { Start = "2026-11-23T12:00:00Z" }).Answer().Problems.Single().Field);
        Assert.Equal("inspection", (ask with { Inspection = -1 }).Answer().Problems.Single().Field);
    }
}
