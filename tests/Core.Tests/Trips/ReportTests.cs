using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

public class ReportTests
{
    private static readonly PlannedStop Ahead = Some.Stop(1, StopKind.Pickup, Some.Creamery, 2);
    private static readonly PlannedStop Picked = Some.Stop(1, StopKind.Pickup, Some.Creamery, -8, arrived: -8, left: -7);
    private static readonly PlannedStop Drop = Some.Stop(2, StopKind.Delivery, Some.ColdStore, 3);
    private static readonly string[] Towns = ["Great Falls", "Spokane"];

    private static Outcome<Report> Decide(
        PlannedStop[] stops,
        ReportKind? kind,
        string? words = "snow",
        long? stop = null,
        double? expected = null,
        int? pieces = null,
        bool covered = true
    ) =>
        Reports.Decide(
            stops,
            Towns,
            new ReportOrder(kind, stop, words, expected is { } hours ? Some.In(hours) : null, pieces),
            covered,
            Some.Now
        );

    [Fact]
    public void A_delay_is_for_the_next_stop_ahead_and_a_refusal_for_the_delivery()
    {
        Assert.Equal(1, Decide([Ahead, Drop], ReportKind.Delay).Value.StopId);
        Assert.Equal(2, Decide([Picked, Drop], ReportKind.Breakdown, expected: 9).Value.StopId);
        Assert.Equal(2, Decide([Picked, Drop with { Arrived = Some.In(-1) }], ReportKind.Refused).Value.StopId);
        Assert.Equal(1, Decide([Picked, Drop], ReportKind.Damaged, "a corner").Value.StopId);
        Assert.Null(Decide([Picked, Drop], ReportKind.Note).Value.StopId);
    }

    [Theory]
    [InlineData(ReportKind.Refused, null, "Refused in Spokane: too warm")]
    [InlineData(ReportKind.Short, 3, "3 short in Spokane: too warm")]
    [InlineData(ReportKind.Damaged, 1200, "1,200 damaged in Spokane: too warm")]
    public void Refused_short_and_damaged_freight_holds_billing(ReportKind kind, int? pieces, string hold) =>
        Assert.Equal(hold, Decide([Picked, Drop with { Arrived = Some.In(-1) }], kind, "too warm", 2, pieces: pieces).Value.Claim);

    [Theory]
    [InlineData("nothing said", "kind")]
    [InlineData("no words", "note")]
    [InlineData("past time", "expectedAt")]
    [InlineData("time of a note", "expectedAt")]
    [InlineData("pieces of a delay", "pieces")]
    [InlineData("no pieces", "pieces")]
    [InlineData("unknown stop", "stopId")]
    [InlineData("late for what is reached", "stopId")]
    [InlineData("refused at a pickup", "stopId")]
    [InlineData("refused before it came", "stopId")]
    [InlineData("nobody carries it", "kind")]
    public void Impossible_input_is_refused_by_its_field(string what, string field)
    {
        var refused = what switch
        {
            "nothing said" => Decide([Picked, Drop], null),
            "no words" => Decide([Picked, Drop], ReportKind.Delay, " "),
            "past time" => Decide([Picked, Drop], ReportKind.Delay, expected: -1),
            "time of a note" => Decide([Picked, Drop], ReportKind.Note, expected: 2),
            "pieces of a delay" => Decide([Picked, Drop], ReportKind.Delay, pieces: 2),
            "no pieces" => Decide([Picked, Drop with { Arrived = Some.In(-1) }], ReportKind.Short, pieces: 0),
            "unknown stop" => Decide([Picked, Drop], ReportKind.Delay, stop: 9),
            "late for what is reached" => Decide([Picked, Drop], ReportKind.Delay, stop: 1),
            "refused at a pickup" => Decide([Ahead with { Arrived = Some.In(-1) }, Drop], ReportKind.Refused, stop: 1),
            "refused before it came" => Decide([Picked, Drop], ReportKind.Refused),
            _ => Decide([Ahead, Drop], ReportKind.Delay, covered: false),
        };
        Assert.Contains(refused.Problems, p => p.Field == field);
        Assert.All(refused.Problems, p => Assert.EndsWith(".", p.Message));
    }

    [Fact]
    public void A_reported_eta_counts_until_arrival()
    {
        var told = Expectations.Of(Some.Roads, [Picked, Drop with { Told = Some.In(20) }], Some.Now);
        Assert.Equal((Some.In(20), Outlook.Late, Duration.FromHours(17)), (told[1].Arrives, told[1].Outlook, told[1].Late));
        var earlier = Expectations.Of(Some.Roads, [Picked, Drop with { Told = Some.In(1) }], Some.Now);
        Assert.Equal((Some.In(1), Duration.FromHours(2)), (earlier[1].Arrives, earlier[1].Slack));
    }

    [Fact]
    public void A_refused_delivery_is_done_without_being_delivered()
    {
        var refused = Drop with { Arrived = Some.In(-1), Refused = Some.Now };
        Assert.True(refused.Done);
        Assert.Equal(
            "stop.refused",
            StopWork.Decide([Picked, refused], 2, StopEvent.Delivered, Some.Now, null, true, Some.Now).Problems.Single().Code
        );
        var gone = StopWork.Decide([Picked, refused], 2, StopEvent.Left, Some.Now, null, true, Some.Now).Value;
        Assert.Equal((Some.Now, null), (gone.Left, gone.Delivered));
        StopFacts[] facts = [new(StopKind.Pickup, true, true, false), new(StopKind.Delivery, true, true, false, Refused: true)];
        Assert.Equal(
            LoadState.Rolling,
            LoadStates.Derive(new LoadFacts(false, false, false, facts, [LegCover.Covered], false, false, false))
        );
        Assert.Equal(
            LoadState.Delivered,
            LoadStates.Derive(
                new LoadFacts(
                    false,
                    false,
                    false,
                    [.. facts, new(StopKind.Delivery, true, false, true)],
                    [LegCover.Covered],
                    false,
                    false,
                    false
                )
            )
        );
    }

    [Fact]
    public void A_truck_that_delivered_is_assumed_to_leave()
    {
        var drop = Drop with { Arrived = Some.In(-5), Delivered = Some.In(-4) };
        var next = Some.Stop(3, StopKind.Delivery, Some.Creamery, 10);
        Assert.Equal(Some.In(-4) + Expectations.SetsOutAfter, Expectations.Of(Some.Roads, [Picked, drop, next], Some.Now)[1].Leaves);
    }

    [Fact]
    public void Never_throws_for_any_report() =>
        Gen.Select(Gen.Int[-1, 5], Gen.String, Gen.Int[0, 4], Gen.Int[-100, 3000], Gen.Int[-5, 2_000_000], Gen.Bool)
            .Sample(
                (kind, words, stop, hours, pieces, covered) =>
                    Decide(
                        [Picked, Drop with { Arrived = hours % 2 == 0 ? Some.In(-1) : null }],
                        kind < 0 ? null : (ReportKind)kind,
                        words,
                        stop == 0 ? null : stop,
                        hours % 3 == 0 ? null : hours,
                        pieces % 2 == 0 ? null : pieces,
                        covered
                    )
                        is { } o
                    && (o.Ok || o.Problems.All(p => p.Message.Length > 5))
            );
}
