using System.Globalization;
using CsCheck;
using NodaTime;
using SteadyLark.Core.Hours;
using SteadyLark.Core.Hours.Planning;
using Xunit;

namespace SteadyLark.Core.Tests.Hours;

/// <summary>Plans: worked examples, the second checker, and exhaustive search on small cases.</summary>
public class HoursPlanTests
{
    private static readonly HoursRules Rules = new(UsRules.SeventyInEight, CaRules.CycleOne);
    private static readonly Instant Midnight = UsHoursTests.Midnight;

    private static Duration Hours(double h) => Duration.FromMinutes(Math.Round(60 * h));

    private static Instant At(double hour) => Midnight + Hours(hour);

    /// <summary>Visits from text: <c>d7 w18-20 o2</c> is seven hours of driving, a window and two hours of service, from midnight of the first day;
    /// <c>ca6</c> drives six hours in Canada. Visits are divided by commas.</summary>
    internal static IReadOnlyList<VisitToMake> Visits(string text) =>
        text.Split(", ")
            .Select(
                (visit, i) =>
                {
                    var roads = new List<Road>();
                    (Instant?, Instant?) window = (null, null);
                    var service = Duration.Zero;
                    foreach (var word in visit.Split(' '))
                    {
                        double Number(string s) => double.Parse(s, CultureInfo.InvariantCulture);
                        switch (word)
                        {
                            case ['w', .. var times]:
                                var both = times.Split('-');
                                window = (both[0].Length > 0 ? At(Number(both[0])) : null, both[1].Length > 0 ? At(Number(both[1])) : null);
                                break;
                            case ['o', .. var hours]:
                                service = Hours(Number(hours));
                                break;
                            case ['c', 'a', .. var hours]:
                                roads.Add(new Road(Hours(Number(hours)), 0, "CA"));
                                break;
                            case ['d', .. var hours]:
                                roads.Add(new Road(Hours(Number(hours)), 0));
                                break;
                        }
                    }

                    return new VisitToMake($"visit {i + 1}", roads, window.Item1, window.Item2, service, DateTimeZone.Utc);
                }
            )
            .ToList();

    private static HoursAsk Ask(string log, string visits)
    {
        var (worked, end) = UsHoursTests.At(log);
        return new HoursAsk(end, [worked], Rules, DateTimeZone.Utc, Visits(visits));
    }

    /// <summary>As text: kind and length of each part.</summary>
    private static string Text(HoursPlan plan) =>
        string.Join(
            " ",
            plan.Spans.Select(s =>
                $"{s.Kind.ToString().ToLowerInvariant()}{s.Length.TotalHours.ToString("0.##", CultureInfo.InvariantCulture)}{(s.Driver > 0 && s.Kind == PlannedKind.Drive ? "b" : "")}"
            )
        );

    [Theory]
    // Fresh at 6:00: eleven hours with a break after eight, 395.3(a)(3).
    [InlineData("0 off6", "d11", "drive8 break0.5 drive3")]
    // Ten hours off instead of a break when the day is not enough anyway: half an hour is saved.
    [InlineData("0 off6", "d12", "drive8 rest10 drive4")]
    [InlineData("0 off6", "d17", "drive8 break0.5 drive3 rest10 drive6")]
    // Service interrupts driving, but runs down the window.
    [InlineData("0 off6", "d5 o1, d6", "drive5 service1 drive6")]
    [InlineData("0 off6", "d5 o5, d6", "drive5 service5 drive4 rest10 drive2")]
    // Work is allowed after the window has ended.
    [InlineData("0 off6", "d5 o5, d4 o3", "drive5 service5 drive4 service3")]
    // Used already: what is left of the shift, then ten hours off.
    [InlineData("6 d8 off0.5 d2", "d3", "drive1 rest10 drive2")]
    // The rest in progress counts.
    [InlineData("6 d8 off0.5 d3 off6", "d3", "rest4 drive3")]
    [InlineData("6 d8 off0.25", "d3", "break0.25 drive3")]
    // Seven hours in the sleeper berth were taken: three more hours off are worth ten.
    [InlineData("0 d5 s7 d6", "d4", "rest3 drive4")]
    // Early: a wait of ten hours is a rest.
    [InlineData("0 off6", "d5 w18- o1, d6", "wait7 drive5 service1 drive6")]
    [InlineData("0 off6", "d5 w22- o1, d6", "drive5 rest11 service1 drive6")]
    // 70 hours in 8 days, 395.3(b)(2): 69 are used, and those of the first day no longer count from midnight on.
    [InlineData(
        "0 o8.75 off15.25 o8.75 off15.25 o8.75 off15.25 o8.75 off15.25 o8.75 off15.25 o8.75 off15.25 o8.75 off15.25 o7.75 off10",
        "d3",
        "wait5.25 drive3"
    )]
    // 69 hours in six days: a restart of 34 hours, of which 12.5 are over, is sooner than the first day's hours, 395.3(c).
    [InlineData("0 o11.5 off12.5 o11.5 off12.5 o11.5 off12.5 o11.5 off12.5 o11.5 off12.5 o11.5 off12.5", "d3", "restart21.5 drive3")]
    public void The_earliest_legal_schedule(string log, string visits, string expected)
    {
        var ask = Ask(log, visits);
        var plan = HoursPlanner.Plan(ask)!;
        Assert.Equal(expected, Text(plan));
        Assert.Empty(UsHours.Check(plan.After(ask.Drivers[0]), UsRules.SeventyInEight, DateTimeZone.Utc));
    }

    // Rules for a day of a few hours, so that everything can be tried.
    private static readonly UsRules Small = new("small", Duration.FromHours(70), 8)
    {
        Drive = Hours(4),
        Window = Hours(6),
        DriveBeforeBreak = Hours(3),
        Break = Hours(1),
        Rest = Hours(4),
        LongSplit = Hours(3),
        ShortSplit = Hours(1),
    };

    private static readonly CaRules SmallCanada = CaRules.CycleOne with
    {
        Drive = Hours(4),
        OnDuty = Hours(5),
        Elapsed = Hours(6),
        Rest = Hours(3),
        Split = (Hours(1), Hours(4)),
    };

    // Duties of the hours before, and visits: driving, service, window.
    private static readonly Gen<(int[] Log, (int Drive, int Service, int Opens, int Open)[] Visits)> Cases = Gen.Select(
        Gen.Int[0, 2].Array[0, 6],
        Gen.Select(Gen.Int[1, 4], Gen.Int[0, 2], Gen.Int[-6, 12], Gen.Int[0, 8]).Array[1, 3]
    );

    private static HoursAsk Ask(
        int[] log,
        (int Drive, int Service, int Opens, int Open)[] visits,
        HoursRules rules,
        string country,
        bool split
    )
    {
        var now = At(20);
        var spans = log.Select(
                (d, i) =>
                    new DutySpan(
                        now - Hours(log.Length - i),
                        now - Hours(log.Length - i - 1),
                        d switch
                        {
                            0 => Duty.Driving,
                            1 => Duty.OnDuty,
                            _ => Duty.Sleeper,
                        }
                    )
            )
            .ToList();
        return new HoursAsk(
            now,
            [DutyLog.Of(spans, now, DateTimeZone.Utc).Value],
            rules,
            DateTimeZone.Utc,
            visits
                .Select(
                    (v, i) =>
                        new VisitToMake(
                            $"visit {i + 1}",
                            [new Road(Hours(v.Drive), 0, country)],
                            v.Opens < 0 ? null : now + Hours(v.Opens),
                            v.Opens < 0 ? null : now + Hours(v.Opens + v.Open),
                            Hours(v.Service),
                            DateTimeZone.Utc
                        )
                )
                .ToList(),
            Split: split
        );
    }

    /// <summary>The least lateness and the earliest end of all schedules in whole hours, by trying each of them; null when none is legal in so many.</summary>
    private static (int Late, int Done)? Exhaustive(HoursAsk ask, Func<DutyLog, bool> legal, int most)
    {
        // What is to be done hour by hour, with the visit whose service begins with it.
        var work = new List<(Duty Duty, int Visit)>();
        for (var i = 0; i < ask.Visits.Count; i++)
        {
            var v = ask.Visits[i];
            work.AddRange(Enumerable.Repeat((Duty.Driving, -1), (int)v.Roads[0].Drive.TotalHours));
            work.AddRange(Enumerable.Range(0, (int)v.Service.TotalHours).Select(h => (Duty.OnDuty, h == 0 ? i : -1)));
        }

        (int, int)? best = null;
        for (var hours = work.Count; hours <= most; hours++)
        {
            for (var rests = 0; rests < 1 << hours; rests++)
            {
                // The last hour is not a rest.
                if (int.PopCount(rests) != hours - work.Count || (rests >> (hours - 1) & 1) != 0)
                {
                    continue;
                }

                var (late, at, early) = (0, 0, false);
                var spans = new List<DutySpan>();
                for (var h = 0; h < hours; h++)
                {
                    var rest = (rests >> h & 1) != 0;
                    // Service is not interrupted.
                    early = early || (rest && work[at] is { Duty: Duty.OnDuty, Visit: < 0 });
                    var (duty, visit) = rest ? (Duty.Sleeper, -1) : work[at++];
                    var begins = ask.Now + Hours(h);
                    spans.Add(new DutySpan(begins, begins + Hours(1), duty));
                    if (visit >= 0 && ask.Visits[visit] is { From: { } from, Until: { } until })
                    {
                        early = early || begins < from;
                        late += Math.Max(0, (int)(begins - until).TotalHours);
                    }
                }

                if (!early && (best is null || (late, hours).CompareTo(best.Value) < 0) && legal(ask.Drivers[0].With(spans)))
                {
                    best = (late, hours);
                }
            }
        }

        return best;
    }

    private static int Violations(DutyLog log, string country) =>
        country == "CA" ? CaHours.Check(log, SmallCanada, DateTimeZone.Utc).Count : UsHours.Check(log, Small, DateTimeZone.Utc).Count;

    private static (int Late, int Done) Of(HoursAsk ask, HoursPlan plan) =>
        ((int)plan.Late.TotalHours, (int)(plan.Done - ask.Now).TotalHours);

    /// <summary>Asks whose logs are legal; visits with a window have service.</summary>
    private static Gen<HoursAsk> Asks(string country, bool split) =>
        Cases
            .Select(c =>
                Ask(
                    c.Log,
                    c.Visits.Select(v => v with { Service = Math.Max(v.Service, v.Opens < 0 ? 0 : 1) }).ToArray(),
                    new HoursRules(Small, SmallCanada),
                    country,
                    split
                )
            )
            .Where(ask => Violations(ask.Drivers[0], country) == 0);

    [Theory]
    [InlineData("US")]
    [InlineData("CA")]
    public void No_legal_schedule_is_earlier(string country)
    {
        Asks(country, false)
            .Sample(
                ask =>
                {
                    var plan = HoursPlanner.Plan(ask)!;
                    Assert.True(Violations(plan.After(ask.Drivers[0]), country) == 0, Text(plan));
                    // Without split rests: those of the exhaustive search may be, and are looked at below.
                    if (Exhaustive(ask, log => Violations(log, country) == 0 && Whole(ask, log, country), 11) is { } best)
                    {
                        Assert.True(Of(ask, plan).CompareTo(best) <= 0, $"{Text(plan)}: late and done {Of(ask, plan)}, not {best}");
                    }
                },
                iter: 400
            );
    }

    /// <summary>Whether a schedule is legal without a split rest that begins in the plan.</summary>
    private static bool Whole(HoursAsk ask, DutyLog log, string country)
    {
        var never = Duration.FromHours(1000);
        return country == "CA"
            ? CaHours.Check(log, SmallCanada with { Split = (never, never) }, DateTimeZone.Utc).Count == 0
            : UsHours.Check(log, Small with { ShortSplit = never, LongSplit = never }, DateTimeZone.Utc).Count == 0;
    }

    /// <summary>With split rests, so many schedules are possible that only some are followed: at most one case in a hundred is not the earliest.</summary>
    [Theory]
    [InlineData("US")]
    [InlineData("CA")]
    public void Hardly_any_schedule_with_split_rests_is_earlier(string country)
    {
        var (all, worse) = (0, 0);
        Asks(country, true)
            .Sample(
                ask =>
                {
                    var plan = HoursPlanner.Plan(ask)!;
                    Assert.True(Violations(plan.After(ask.Drivers[0]), country) == 0, Text(plan));
                    Assert.False(HoursPlanner.Plan(ask with { Split = false })!.Beats(plan));
                    if (Exhaustive(ask, log => Violations(log, country) == 0, 11) is { } best)
                    {
                        Interlocked.Increment(ref all);
                        worse += Of(ask, plan).CompareTo(best) > 0 ? 1 : 0;
                    }
                },
                iter: 400,
                threads: 1
            );
        Assert.True(all > 100 && worse * 100 <= all, $"{worse} of {all}");
    }

    private static readonly Gen<(string Log, string Visits)> Weeks = Gen.Select(
            Gen.Select(Gen.Double[0.5, 3], Gen.Double[3, 6], Gen.Double[2, 5], Gen.Double[10, 14]).Array[1, 6],
            Gen.Select(Gen.Double[0.5, 14], Gen.Double[0, 3], Gen.Int[-20, 70], Gen.Int[0, 12]).Array[1, 6]
        )
        .Select(
            (days, visits) =>
                (
                    "0 "
                        + string.Join(
                            " ",
                            days.Select(d =>
                                FormattableString.Invariant($"o{d.Item1:0.0} d{d.Item2:0.0} off0.5 d{d.Item3:0.0} s{d.Item4:0.0}")
                            )
                        ),
                    string.Join(
                        ", ",
                        visits.Select(v =>
                            FormattableString.Invariant($"d{v.Item1:0.0} o{v.Item2:0.0}")
                            + (
                                v.Item3 < 0
                                    ? ""
                                    : FormattableString.Invariant(
                                        $" w{v.Item3 + (24 * days.Length)}-{v.Item3 + (24 * days.Length) + v.Item4}"
                                    )
                            )
                        )
                    )
                )
        );

    [Fact]
    public void The_second_checker_finds_no_violation_in_a_plan() =>
        Weeks.Sample(
            c =>
            {
                var ask = Ask(c.Log, c.Visits) with { Before = Hours(0.25), After = Hours(0.25) };
                List<Duty> Minutes(DutyLog log) =>
                    log.Spans.SelectMany(s => Enumerable.Repeat(s.Duty, (int)(s.Until - s.From).TotalMinutes)).ToList();
                var before = Judge.Check(Minutes(ask.Drivers[0]), 70, 8);
                if (before.Values.Sum(v => v.Count) > 0)
                {
                    return;
                }

                var plan = HoursPlanner.Plan(ask)!;
                Assert.Equal(0, Judge.Check(Minutes(plan.After(ask.Drivers[0])), 70, 8).Values.Sum(v => v.Count));
                // Each visit is driven to, served for as long as it takes, and not before it opens.
                foreach (var (visit, planned, i) in ask.Visits.Zip(plan.Visits, Enumerable.Range(0, ask.Visits.Count)))
                {
                    Duration Of(PlannedKind kind) =>
                        plan.Spans.Where(s => s.Visit == i && s.Kind == kind).Aggregate(Duration.Zero, (sum, s) => sum + s.Length);
                    Assert.Equal((visit.Roads[0].Drive, visit.Service), (Of(PlannedKind.Drive), Of(PlannedKind.Service)));
                    Assert.True(planned.Begins >= (visit.From ?? planned.Begins) && planned.Leaves - planned.Begins == visit.Service);
                }

                // Each part says how far it is on the way to its visit.
                var driven = new Duration[ask.Visits.Count];
                foreach (var span in plan.Spans)
                {
                    driven[span.Visit] += span.Kind == PlannedKind.Drive ? span.Length : Duration.Zero;
                    Assert.Equal(driven[span.Visit], span.Driven);
                }

                // Without gaps.
                Assert.All(plan.Spans.Zip(plan.Spans.Skip(1)), s => Assert.Equal(s.First.Until, s.Second.From));
            },
            iter: 60
        );

    [Fact]
    public void More_hours_a_wider_window_or_a_shorter_way_never_make_it_later() =>
        // A split rest that has begun may be gone on with, and then not every schedule is followed.
        Gen.Select(Asks("US", false).Where(ask => ask.Drivers[0].Spans.SkipLast(1).All(s => s.Duty != Duty.Sleeper)), Gen.Int[0, 2])
            .Sample(
                (ask, visit) =>
                {
                    var at = visit % ask.Visits.Count;
                    VisitToMake Change(VisitToMake v, Func<VisitToMake, VisitToMake> by) => v == ask.Visits[at] ? by(v) : v;
                    HoursAsk With(Func<VisitToMake, VisitToMake> by) =>
                        ask with
                        {
                            Visits = ask.Visits.Select(v => Change(v, by)).ToList(),
                        };
                    var plan = HoursPlanner.Plan(ask)!;
                    // Of lateness that cannot be avoided, not every division among the visits is looked at.
                    if (plan.Late > Duration.Zero)
                    {
                        return;
                    }

                    foreach (
                        var easier in new[]
                        {
                            ask with
                            {
                                Drivers = [DutyLog.Empty],
                            },
                            ask with
                            {
                                Rules = ask.Rules with { Us = Small with { Drive = Hours(5) } },
                            },
                            ask with
                            {
                                Rules = ask.Rules with { Us = Small with { Window = Hours(7) } },
                            },
                            With(v => v with { From = v.From - Hours(1), Until = v.Until + Hours(1) }),
                            With(v => v with { Roads = [v.Roads[0] with { Drive = v.Roads[0].Drive - Hours(0.5) }] }),
                            With(v => v with { Service = v.Service == Duration.Zero ? v.Service : v.Service - Hours(0.5) }),
                        }
                    )
                    {
                        var other = HoursPlanner.Plan(easier)!;
                        Assert.False(
                            plan.Beats(other),
                            $"{string.Join(" ", ask.Drivers[0].Spans.Select(s => $"{s.Duty}{s.Length.TotalHours}"))} visits {string.Join(", ", easier.Visits)}: {Text(plan)} is earlier than {Text(other)}"
                        );
                    }
                },
                iter: 400
            );

    [Fact]
    public void Each_of_a_team_is_legal_and_two_are_never_later_than_one() =>
        Weeks.Sample(
            c =>
            {
                var ask = Ask(c.Log, c.Visits);
                if (UsHours.Check(ask.Drivers[0], UsRules.SeventyInEight, DateTimeZone.Utc).Count > 0)
                {
                    return;
                }

                var team = ask with { Drivers = [ask.Drivers[0], DutyLog.Empty] };
                var plan = HoursPlanner.Plan(team)!;
                Assert.Empty(UsHours.Check(plan.After(team.Drivers[0], 0), UsRules.SeventyInEight, DateTimeZone.Utc));
                Assert.Empty(UsHours.Check(plan.After(team.Drivers[1], 1), UsRules.SeventyInEight, DateTimeZone.Utc));
                Assert.True(plan.Late <= HoursPlanner.Plan(ask)!.Late);
            },
            iter: 40
        );

    [Fact]
    public void A_known_place_to_rest_is_taken_before_the_shoulder()
    {
        // Driving ends after eight hours; there is a truck stop 40 minutes before, and the visit can wait.
        var visit = Visits("d12 o1")[0];
        var road = visit.Roads[0] with { Places = [new RestPlace(Hours(3), "Billings"), new RestPlace(Hours(7.333), "Miles City")] };
        var ask = Ask("0 off6", "d12 o1") with { Visits = [visit with { Roads = [road] }] };
        var rest = HoursPlanner.Plan(ask)!.Spans.Single(s => s.Kind == PlannedKind.Rest);
        Assert.Equal(("Miles City", At(6 + 7.333)), (rest.Place, rest.From));
        // Not where that makes the visit late: after eleven hours driving ends on the shoulder, 40 minutes farther.
        var tight = ask with { Visits = [visit with { Roads = [road with { Drive = Hours(18.9) }], Until = At(6 + 29.4) }] };
        Assert.Equal(Duration.Zero, HoursPlanner.Plan(tight)!.Late);
    }
}
