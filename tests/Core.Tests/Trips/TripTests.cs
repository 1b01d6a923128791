using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

public class ExpectationTests
{
    private static readonly Duration Drive = Some.Roads.Between(Some.Creamery.Point, Some.ColdStore.Point).DoorToDoor;

    private static IReadOnlyList<ExpectedVisit> Of(params PlannedStop[] stops) => Expectations.Of(Some.Roads, stops, Some.Now);

    [Fact]
    public void A_late_departure_is_late_before_it_arrives()
    {
        var visits = Of(
            Some.Stop(1, StopKind.Pickup, Some.Creamery, -5, arrived: -5, left: -1),
            Some.Stop(2, StopKind.Delivery, Some.ColdStore, 4)
        );
        Assert.Equal(Some.In(-1) + Drive, visits[1].Arrives);
        Assert.Equal(Outlook.Late, visits[1].Outlook);
        Assert.Equal(Some.In(-1) + Drive - Some.In(4), visits[1].Late);
    }

    [Fact]
    public void Less_than_an_hour_of_slack_is_tight_and_more_is_fine()
    {
        var hours = Drive.TotalHours;
        var left = Some.Stop(1, StopKind.Pickup, Some.Creamery, -2, arrived: -2, left: -1);
        Assert.Equal(Outlook.Tight, Of(left, Some.Stop(2, StopKind.Delivery, Some.ColdStore, hours - 1 + 0.9))[1].Outlook);
        Assert.Equal(Outlook.OnTime, Of(left, Some.Stop(2, StopKind.Delivery, Some.ColdStore, hours - 1 + 1.1))[1].Outlook);
    }

    [Fact]
    public void A_missing_update_after_the_eta_asks_for_a_call_while_the_window_is_open()
    {
        var gone = -Drive.TotalHours - 3;
        var visit = Of(
            Some.Stop(1, StopKind.Pickup, Some.Creamery, gone - 1, arrived: gone - 1, left: gone),
            Some.Stop(2, StopKind.Delivery, Some.ColdStore, -1, until: 9)
        )[1];
        Assert.Equal(Outlook.NoUpdate, visit.Outlook);
        Assert.Equal(3, visit.Silent.TotalHours, 1);
    }

    [Fact]
    public void A_trip_that_runs_late_makes_the_next_one_late_too()
    {
        var first = new[]
        {
            Some.Stop(1, StopKind.Pickup, Some.Creamery, -3, arrived: -3),
            Some.Stop(2, StopKind.Delivery, Some.ColdStore, 4),
        };
        var second = new[] { Some.Stop(3, StopKind.Pickup, Some.Creamery, 8), Some.Stop(4, StopKind.Delivery, Some.ColdStore, 20) };
        var all = Expectations.InTurn(Some.Roads, [new TruckRun(first, 2), new TruckRun(second, 2)], Some.Now, null);
        Assert.Equal(all[0][1].Leaves + Drive, all[1][0].Arrives);
        Assert.Equal(Outlook.Late, all[1][0].Outlook);
    }

    [Fact]
    public void Trucks_do_not_leave_early_to_wait_at_a_closed_gate()
    {
        var visit = Expectations.Of(
            Some.Roads,
            [Some.Stop(1, StopKind.Pickup, Some.Creamery, 30)],
            Some.Now,
            new ComingFrom(Some.ColdStore.Point, Some.In(-100))
        )[0];
        Assert.Equal(Some.In(30), visit.Arrives);
        Assert.Equal(Outlook.OnTime, visit.Outlook);
    }

    [Fact]
    public void Etas_are_in_order_after_any_events() =>
        Gen.Select(Gen.Double[-30, 30], Gen.Double[0, 40], Gen.Double[-20, 0], Gen.Bool)
            .Sample(
                (from, gap, left, gone) =>
                {
                    var visits = Of(
                        Some.Stop(1, StopKind.Pickup, Some.Creamery, from, arrived: gone ? left - 1 : null, left: gone ? left : null),
                        Some.Stop(2, StopKind.Delivery, Some.ColdStore, from + gap)
                    );
                    return visits[1].Arrives >= visits[0].Leaves
                        && visits.All(v => v.Leaves >= v.Arrives && (v.Done || v.Leaves >= Some.Now));
                }
            );

    [Fact]
    public void A_booking_runs_from_the_first_opening_to_leaving_the_last_stop()
    {
        var plan = TripPlan.Build(
            Some.Roads,
            [Some.Stop(1, StopKind.Pickup, Some.Creamery, 2, until: 6), Some.Stop(2, StopKind.Delivery, Some.ColdStore, 30)]
        );
        Assert.Equal(new Span(Some.In(2), Some.In(30) + TripPlan.ServiceTime), plan.Commitment);
    }
}

public class StopWorkTests
{
    private static readonly PlannedStop Pickup = Some.Stop(1, StopKind.Pickup, Some.Creamery, -3);
    private static readonly PlannedStop Delivery = Some.Stop(2, StopKind.Delivery, Some.ColdStore, 5);

    private static Outcome<StopChange> Say(StopEvent word, long stop, double at, bool covered = true, params PlannedStop[] stops) =>
        StopWork.Decide(stops.Length > 0 ? stops : [Pickup, Delivery], stop, word, Some.In(at), "R. Dahl", covered, Some.Now);

    [Fact]
    public void A_departure_without_an_arrival_implies_it()
    {
        var change = Say(StopEvent.Left, 1, -1).Value;
        Assert.Equal((Some.In(-1), Some.In(-1)), (change.Arrived!.Value, change.Left!.Value));
    }

    [Fact]
    public void Leaving_a_delivery_completes_it() =>
        Assert.Equal(
            Some.In(-1),
            Say(StopEvent.Left, 2, -1, true, Pickup with { Arrived = Some.In(-3), Left = Some.In(-2) }, Delivery).Value.Delivered
        );

    [Theory]
    [InlineData(StopEvent.Arrived, 2, -1.0, true, "stop.order")]
    [InlineData(StopEvent.Delivered, 1, -1.0, true, "stop.kind")]
    [InlineData(StopEvent.Arrived, 1, 1.0, true, "time.future")]
    [InlineData(StopEvent.Arrived, 1, -1.0, false, "load.uncovered")]
    [InlineData(StopEvent.Arrived, 9, -1.0, true, "stop.unknown")]
    public void Impossible_events_are_refused(StopEvent word, long stop, double at, bool covered, string code) =>
        Assert.Equal(code, Say(word, stop, at, covered).Problems[0].Code);

    [Fact]
    public void A_departure_is_never_before_the_arrival() =>
        Assert.Equal("time.order", Say(StopEvent.Left, 1, -2, true, Pickup with { Arrived = Some.In(-1) }, Delivery).Problems[0].Code);

    [Fact]
    public void Undo_reverses_exactly_the_last_event()
    {
        var done = Say(StopEvent.Left, 1, -1, true, Pickup with { Arrived = Some.In(-3) }, Delivery).Value;
        var after = Pickup with { Arrived = done.Arrived, Left = done.Left };
        var back = StopWork.Undo([after, Delivery], 1).Value;
        Assert.Equal((Some.In(-3), (Instant?)null), (back.Arrived!.Value, back.Left));
        Assert.Equal("stop.order", StopWork.Undo([after, Delivery with { Arrived = Some.In(-0.5) }], 1).Problems[0].Code);
        Assert.Equal("stop.nothing", StopWork.Undo([Pickup, Delivery], 1).Problems[0].Code);
    }

    [Fact]
    public void Times_stay_in_order_after_any_sequence_of_events() =>
        Gen.Select(Gen.Int[0, 2], Gen.Long[1, 2], Gen.Double[-10, 0])
            .List[1, 12]
            .Sample(words =>
            {
                var stops = new List<PlannedStop> { Pickup, Delivery };
                foreach (var (word, id, at) in words)
                {
                    if (StopWork.Decide(stops, id, (StopEvent)word, Some.In(at), null, true, Some.Now) is { Ok: true } summary)
                    {
                        stops[(int)id - 1] = stops[(int)id - 1] with
                        {
                            Arrived = summary.Value.Arrived,
                            Left = summary.Value.Left,
                            Delivered = summary.Value.Delivered,
                        };
                    }
                }

                return stops.All(s =>
                        (s.Left is null || s.Arrived <= s.Left)
                        && (s.Delivered is null || (s.Arrived <= s.Delivered && (s.Left is null || s.Delivered <= s.Left)))
                    ) && (stops[1].Arrived is null || stops[0].Left <= stops[1].Arrived);
            });
}

public class BoardWordTests
{
    [Theory]
    [InlineData(-2, -1, "missed by 1 h", Urgency.Now)]
    [InlineData(3, 3, "picks up in 3 h", Urgency.Now)]
    [InlineData(12, 12, "today 21:42", Urgency.Soon)]
    [InlineData(24, 24, "tomorrow 09:42", Urgency.Soon)]
    [InlineData(70, 70, "Thu 07:42", Urgency.None)]
    public void An_uncovered_load_shows_how_soon_it_picks_up(double from, double until, string summary, Urgency urgency) =>
        Assert.Equal(
            new BoardStatus(summary, urgency),
            BoardStatus.Uncovered(new Span(Some.In(from), Some.In(until)), Some.Mountain, Some.Mountain, Some.Now)
        );

    [Fact]
    public void An_unconfirmed_carrier_needs_a_call_the_day_before() =>
        Assert.Equal(
            new BoardStatus("unconfirmed", Urgency.Soon),
            BoardStatus.Carried(
                Expectations.Of(Some.Roads, [Some.Stop(1, StopKind.Pickup, Some.Creamery, 10)], Some.Now),
                false,
                Some.In(10),
                Some.Now
            )
        );

    [Theory]
    [InlineData(2, 4.0, "4 h to answer", Urgency.Now)]
    [InlineData(20, 0.5, "30 min to answer", Urgency.Soon)]
    [InlineData(72, 26.0, "26 h to answer", Urgency.None)]
    [InlineData(20, -0.1, "no answer yet", Urgency.Soon)]
    [InlineData(20, null, "no answer yet", Urgency.Soon)]
    public void A_tendered_load_says_how_long_the_carrier_has_and_is_as_urgent_as_its_pickup(
        double pickup,
        double? expires,
        string text,
        Urgency urgency
    ) =>
        Assert.Equal(
            new BoardStatus(text, urgency),
            BoardStatus.Tendered(
                expires is { } e ? Some.In(e) : null,
                new Span(Some.In(pickup), Some.In(pickup + 2)),
                Some.Mountain,
                Some.Mountain,
                Some.Now
            )
        );
}
