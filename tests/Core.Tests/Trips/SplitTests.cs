using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

/// <summary>A load from Great Falls to Spokane, split at planned transfers.</summary>
public class SplitTests
{
    private static readonly GeoPoint Missoula = new(46.8721, -113.994);
    private static readonly GeoPoint Helena = new(46.5891, -112.0391);
    private static readonly List<string> Towns = ["Great Falls MT", "Spokane WA"];
    private static readonly LegHolder Nobody = new(null, LegCover.Open, false, true);
    private static readonly LegHolder Ruth = new("Ruth Begaye", LegCover.Covered, false, true);

    /// <summary>Picks up in 5 hours, delivers between 30 and 32 hours from now.</summary>
    private static LoadPath Whole(double? left = null) =>
        new(
            [
                Some.Stop(1, StopKind.Pickup, Some.Creamery, left ?? 5, left is null ? 8 : null, left, left),
                Some.Stop(2, StopKind.Delivery, Some.ColdStore, 30, 32),
            ],
            []
        );

    private static SplitOrder At(double hours, GeoPoint? point = null, int? after = null, TransferMethod method = TransferMethod.Drop) =>
        new(point ?? Missoula, point is null ? "Missoula MT" : "Helena MT", after, Some.In(hours), method, Some.Mountain);

    private static LoadPath Split(LoadPath path, int leg, SplitOrder order) =>
        path.With(leg, Splits.Split(Some.Roads, path, Towns, leg, order).Value with { Id = leg + 7 });

    private static Problem? Refused(Outcome<Transfer> outcome) => outcome.Ok ? null : outcome.Problems[0];

    [Fact]
    public void A_split_gives_each_leg_its_own_points_miles_and_window()
    {
        var path = Split(Whole(), 0, At(20));
        Assert.Equal(2, path.Legs);
        var (first, second) = (path.OfLeg(Some.Roads, 0), path.OfLeg(Some.Roads, 1));
        Assert.Equal([1, -7], first.Select(s => s.Id));
        Assert.Equal([-7, 2], second.Select(s => s.Id));
        Assert.Equal(Some.Roads.Between(Some.Creamery.Point, Missoula).WholeMiles, path.Miles(Some.Roads, 0));
        Assert.Equal(Some.Roads.Between(Missoula, Some.ColdStore.Point).WholeMiles, path.Miles(Some.Roads, 1));

        // From when the trailer stands there until it is too late for the delivery.
        var drive = Some.Roads.Between(Missoula, Some.ColdStore.Point).DoorToDoor;
        Assert.Equal(new Span(Some.In(20), Some.In(32) - drive - Duration.FromMinutes(30)), second[0].Window);
        Assert.Equal(second[0].Window.Until, Splits.Deadline(Some.Roads, path, 1));
        Assert.True(TripPlan.Build(Some.Roads, first).Commitment.Until < Some.In(20));
    }

    [Theory]
    [InlineData(TransferMethod.Drop, 30, false)]
    [InlineData(TransferMethod.Swap, 30, true)]
    [InlineData(TransferMethod.Transload, 60, true)]
    public void A_dropped_trailer_waits_alone_and_anything_else_takes_two_trucks(TransferMethod method, int minutes, bool waits)
    {
        var path = Split(Whole(), 0, At(20, method: method));
        var there = TripPlan.Build(Some.Roads, path.OfLeg(Some.Roads, 0)).Stops[^1];
        Assert.Equal((waits ? Some.In(20) : there.Arrives) + Duration.FromMinutes(minutes), there.Leaves);
    }

    [Theory]
    [InlineData(20, 2, "split.place", "The freight is delivered in Spokane WA: choose a place before that.")]
    [InlineData(20, 0, "split.place", "The freight is already past that: choose a place after Great Falls MT.")]
    [InlineData(32, null, "time.order", "The freight is due in Spokane WA by Tue Nov 24, 17:42: enter an earlier time.")]
    [InlineData(5, null, "time.order", "The freight leaves Great Falls MT after Mon Nov 23, 14:42: enter a later time.")]
    public void A_split_beyond_the_delivery_or_before_the_pickup_is_refused(double hours, int? after, string code, string message)
    {
        var problem = Refused(Splits.Split(Some.Roads, Whole(), Towns, 0, At(hours, after: after)))!;
        Assert.Equal((code, message), (problem.Code, problem.Message));
    }

    [Fact]
    public void A_load_is_not_split_where_it_stops_anyway() =>
        Assert.Equal("same", Refused(Splits.Split(Some.Roads, Whole(), Towns, 0, At(20, Some.ColdStore.Point)))!.Code);

    [Fact]
    public void A_place_without_a_position_goes_where_it_adds_the_fewest_miles()
    {
        var path = new LoadPath(
            [
                Some.Stop(1, StopKind.Pickup, Some.Creamery, 1, 4),
                Some.Stop(2, StopKind.Delivery, Some.ColdStore, 20, 24),
                Some.Stop(3, StopKind.Delivery, Some.Creamery with { Point = new GeoPoint(45.52, -122.68) }, 40, 44),
            ],
            []
        );
        List<string> towns = [.. Towns, "Portland OR"];
        Assert.Equal(1, Splits.Split(Some.Roads, path, towns, 0, At(12)).Value.AfterStops);
        Assert.Equal(2, Splits.Split(Some.Roads, path, towns, 0, At(30, new GeoPoint(46.07, -118.33))).Value.AfterStops);
    }

    [Fact]
    public void A_leg_that_was_driven_stays_and_one_ahead_can_be_split_again()
    {
        var path = Split(Whole(left: -6), 0, At(20));
        path = path.Changed(0, path.Transfers[0] with { LeftAt = Some.In(-1) });
        Assert.Equal(1, path.Current);
        Assert.Equal("leg.done", Splits.Refuses(LoadState.Rolling, "6151", path, 0, Ruth)!.Code);
        Assert.Null(Splits.Refuses(LoadState.Rolling, "6151", path, 1, Nobody));
        Assert.Equal(
            "The leg to Missoula MT was driven, and stays: only legs ahead can be joined.",
            Splits.JoinRefuses(LoadState.Rolling, "6151", path, 0, Ruth, Nobody)!.Message
        );
    }

    [Theory]
    [InlineData(LoadState.Draft, "load.state")]
    [InlineData(LoadState.Delivered, "load.state")]
    [InlineData(LoadState.Billed, "load.state")]
    [InlineData(LoadState.Covered, null)]
    public void Only_a_load_ahead_is_split(LoadState state, string? code) =>
        Assert.Equal(code, Splits.Refuses(state, "6151", Whole(), 0, Ruth)?.Code);

    [Fact]
    public void Who_has_a_leg_decides_whether_it_can_be_joined_or_split()
    {
        var path = Split(Whole(), 0, At(20));
        var carrier = new LegHolder("Two Forks Trucking", LegCover.Tendered, true, false);
        Assert.Equal("leg.carrier", Splits.Refuses(LoadState.Tendered, "6151", path, 0, carrier)!.Code);
        Assert.Equal(
            "Ruth Begaye is assigned to the leg from Missoula MT: unassign it first.",
            Splits.JoinRefuses(LoadState.Booked, "6151", path, 0, Nobody, Ruth)!.Message
        );
        Assert.Null(Splits.JoinRefuses(LoadState.Covered, "6151", path, 0, Ruth, Nobody));
    }

    /// <summary>A trailer that is dropped loaded is the one the next truck hooks, whichever of the two is assigned first.</summary>
    [Fact]
    public void A_dropped_trailer_goes_on()
    {
        var path = Split(Whole(), 0, At(20));
        Assert.Equal(new RequiredTrailer(5307, "5307", "Missoula MT"), Splits.Trailer(path, 1, [(5307, "5307"), null]));
        Assert.Equal(new RequiredTrailer(5306, "5306", "Missoula MT"), Splits.Trailer(path, 0, [null, (5306, "5306")]));
        Assert.Null(Splits.Trailer(path, 1, [null, null]));
        Assert.Null(Splits.Trailer(Split(Whole(), 0, At(20, method: TransferMethod.Transload)), 1, [(5307, "5307"), null]));
        foreach (
            var (trailer, message) in new[]
            {
                (5306L, "The freight changes trucks in Missoula MT in trailer 5307: choose that one."),
                (5307L, null),
            }
        )
        {
            var validation = new Validation();
            Splits.CheckTrailer(new RequiredTrailer(5307, "5307", "Missoula MT"), trailer, validation);
            Assert.Equal(message, validation.Problems.SingleOrDefault()?.Message);
        }
    }

    [Fact]
    public void Two_drivers_of_ours_swap_and_nobody_else()
    {
        var kai = Ruth with { Who = "Kai Voss" };
        var carrier = new LegHolder("Two Forks Trucking", LegCover.Covered, true, true);
        Assert.Null(Splits.RelayRefuses("6151", Ruth, "6152", kai));
        Assert.Equal("relay.same", Splits.RelayRefuses("6151", Ruth, "6151", Ruth)!.Code);
        Assert.Equal("relay.same", Splits.RelayRefuses("6151", Ruth, "6152", Ruth)!.Code);
        Assert.Equal("relay.own", Splits.RelayRefuses("6151", Nobody, "6152", kai)!.Code);
        Assert.All([null, carrier, Nobody], other => Assert.Equal("relay.other", Splits.RelayRefuses("6151", Ruth, "6152", other)!.Code));
    }

    [Theory]
    [InlineData("2025-11-23", true)]
    [InlineData("2027-11-23", true)]
    [InlineData("2025-11-22", false)]
    [InlineData("9999-12-31", false)]
    public void A_transfer_is_planned_within_a_year(string day, bool ok)
    {
        var validation = new Validation();
        var date = NodaTime.Text.LocalDatePattern.Iso.Parse(day).Value;
        Splits.CheckDate(date + new LocalTime(23, 59), Some.Today, validation);
        Assert.Equal(ok, validation.Ok);
    }

    /// <summary>What is recorded at a transfer, in order; each step refuses what cannot have happened.</summary>
    [Fact]
    public void Freight_is_left_and_taken_in_order()
    {
        LegHolder[] legs = [Ruth, new("Two Forks Trucking", LegCover.Covered, true, false)];
        var path = Split(Whole(), 0, At(20));
        Assert.Equal("stop.order", Refused(Record(TransferEvent.Left, -1))!.Code);
        path = Split(Whole(left: -6), 0, At(20));
        Assert.Equal("time.order", Refused(Record(TransferEvent.Left, -7))!.Code);
        Assert.Equal("time.future", Refused(Record(TransferEvent.Left, 1))!.Code);
        Assert.NotNull(Splits.StopRefuses(path, 1, Some.Now));
        var left = Record(TransferEvent.Left, -2).Value;
        Assert.True(left.Waiting);
        path = path.Changed(0, left);
        Assert.Equal(
            "Enter Two Forks Trucking’s driver, phone and truck before it takes the freight.",
            Refused(Record(TransferEvent.Taken, -1))!.Message
        );
        legs[1] = legs[1] with { Cover = LegCover.Tendered };
        Assert.Equal("leg.tendered", Refused(Record(TransferEvent.Taken, -1))!.Code);
        legs[1] = Nobody;
        Assert.Equal(
            "The leg from Missoula MT is not covered: assign a driver or carrier first.",
            Refused(Record(TransferEvent.Taken, -1))!.Message
        );
        legs[1] = Ruth;
        Assert.Equal("time.order", Refused(Record(TransferEvent.Taken, -3))!.Code);
        path = path.Changed(0, Record(TransferEvent.Taken, -1).Value);
        Assert.Null(Splits.StopRefuses(path, 1, Some.Now));
        Assert.Equal("time.order", Splits.StopRefuses(path, 1, Some.In(-1.5))!.Code);
        Assert.Equal("stop.order", Splits.StopRefuses(path, 0, null)!.Code);
        Assert.Equal("transfer.done", Refused(Record(TransferEvent.Left, -1))!.Code);

        Outcome<Transfer> Record(TransferEvent what, double hours) => Splits.Record(path, Towns, legs, 0, what, Some.In(hours), Some.Now);
    }

    [Fact]
    public void What_was_recorded_last_is_undone_first()
    {
        var path = Split(Whole(left: -6), 0, At(20));
        Assert.Equal("transfer.none", Refused(Splits.Undo(path, Towns, 0))!.Code);
        var both = path.Changed(0, path.Transfers[0] with { LeftAt = Some.In(-2), TakenAt = Some.In(-1) });
        var left = Splits.Undo(both, Towns, 0).Value;
        Assert.Equal((Some.In(-2), null), (left.LeftAt, left.TakenAt));
        Assert.Null(Splits.Undo(path.Changed(0, left), Towns, 0).Value.LeftAt);

        // Taken as it was left, as when trailers are swapped: one report, one undo.
        var swapped = path.Changed(0, path.Transfers[0] with { LeftAt = Some.In(-1), TakenAt = Some.In(-1) });
        Assert.Null(Splits.Undo(swapped, Towns, 0).Value.LeftAt);
        var there = both with { Stops = [both.Stops[0], both.Stops[1] with { Arrived = Some.Now }] };
        Assert.Equal("The freight has since been in Spokane WA: undo that first.", Refused(Splits.Undo(there, Towns, 0))!.Message);
        var handover = both.Changed(0, both.Transfers[0] with { PlannedAt = null });
        Assert.Equal("transfer.handover", Refused(Splits.Undo(handover, Towns, 0))!.Code);
    }

    /// <summary>A later truck takes dropped freight when it is planned to, however early it was dropped, and the driver who dropped it is
    /// free at once.</summary>
    [Fact]
    public void The_eta_counts_the_wait_at_a_transfer_and_the_next_trip_does_not()
    {
        var path = Split(Whole(left: -1), 0, At(20));
        var next = new[] { Some.Stop(3, StopKind.Pickup, Some.Creamery, 1, 50) };
        var all = Expectations.InTurn(Some.Roads, [path.RunOf(Some.Roads, 0), new TruckRun(next, 1)], Some.Now, null);
        Assert.Equal([1L, -7L, 2L], all[0].Select(v => v.StopId));
        var (there, drive) = (all[0][1], Some.Roads.Between(Missoula, Some.ColdStore.Point).DoorToDoor);
        Assert.True(there.Arrives < Some.In(10));
        Assert.Equal(Some.In(20.5) + drive, all[0][2].Arrives);
        Assert.Equal(
            there.Arrives + Duration.FromMinutes(30) + Some.Roads.Between(Missoula, Some.Creamery.Point).DoorToDoor,
            all[1][0].Arrives
        );

        // A run ahead is only its own part.
        Assert.Equal([-7L, 2L], path.RunOf(Some.Roads, 1).Points.Select(s => s.Id));
    }

    [Fact]
    public void Freight_that_waits_is_as_urgent_as_the_time_it_must_leave()
    {
        Assert.Equal(new BoardStatus("waiting 5 h", Urgency.Now), BoardStatus.Waiting(Some.In(-5), Some.In(7), Some.Now));
        Assert.Equal(new BoardStatus("waiting 1 h 30", Urgency.Soon), BoardStatus.Waiting(Some.In(-1.5), Some.In(70), Some.Now));

        // With a truck assigned it waits as planned, until that time has passed.
        Assert.Equal(Urgency.None, BoardStatus.Waiting(Some.In(-5), Some.In(1), Some.In(7), Some.Now).Urgency);
        Assert.Equal(Urgency.Now, BoardStatus.Waiting(Some.In(-5), Some.In(-1), Some.In(7), Some.Now).Urgency);
    }

    /// <summary>A leg is booked for its driver from the transfer on, and while under way from when it began.</summary>
    [Fact]
    public void A_booking_follows_its_leg()
    {
        var path = Split(Whole(), 0, At(20));
        var second = path.OfLeg(Some.Roads, 1);
        Assert.Equal(Some.In(20), Availability.Rebook(Some.Roads, second, null, [], Some.Now, Some.Mountain).Value.From);
        var busy = new Commitment(CommitmentKind.Driver, 3, "Ruth Begaye", "T-1", "6150", new Span(Some.In(19), Some.In(22)));
        Assert.Equal(Some.In(22), Availability.Rebook(Some.Roads, second, null, [busy], Some.Now, Some.Mountain).Value.From);

        // Freight that has waited is taken from now on.
        var waiting = path.Changed(0, path.Transfers[0] with { LeftAt = Some.In(-4) });
        Assert.Equal(Some.Now, waiting.Ahead(Some.Roads, 1, Some.Now)[0].Window.From);
        Assert.Equal(waiting.OfLeg(Some.Roads, 1)[0].Window.Until, waiting.Ahead(Some.Roads, 1, Some.Now)[0].Window.Until);
        Assert.Equal(path.OfLeg(Some.Roads, 0), path.Ahead(Some.Roads, 0, Some.In(9)));
        var started = new Span(Some.In(-3), Some.In(40));
        Assert.Equal(
            Some.In(-3),
            Availability.Rebook(Some.Roads, path.OfLeg(Some.Roads, 0), started, [], Some.Now, Some.Mountain).Value.From
        );
        Assert.Equal(
            "driver.busy",
            Availability.Rebook(Some.Roads, second, new Span(Some.In(18), Some.In(19)), [busy], Some.Now, Some.Mountain).Problems[0].Code
        );
    }

    private sealed record Step(int Kind, double Latitude, double Longitude, double Hours, int Leg);

    /// <summary>Whatever is split, moved, joined and recorded: the legs have every stop once and in order, each begins where the one before
    /// ends, and all miles are driven by somebody.</summary>
    [Fact]
    public void Legs_cover_the_load_whatever_is_done() =>
        Gen.Select(Gen.Int[0, 3], Gen.Double[45, 49], Gen.Double[-119, -108], Gen.Double[-2, 60], Gen.Int[0, 5])
            .Select((k, a, b, h, l) => new Step(k, a, b, h, l))
            .List[1, 15]
            .Sample(steps =>
            {
                var path = new LoadPath(
                    [
                        Some.Stop(1, StopKind.Pickup, Some.Creamery, -3, -2, -3, -2),
                        Some.Stop(2, StopKind.Pickup, Some.Creamery with { Point = Helena }, 4, 10),
                        Some.Stop(3, StopKind.Delivery, Some.ColdStore, 50, 60),
                    ],
                    []
                );
                List<string> towns = ["Great Falls MT", "Helena MT", "Spokane WA"];
                var id = 10;
                foreach (var step in steps)
                {
                    var leg = step.Leg % path.Legs;
                    var holders = Enumerable.Repeat(Ruth, path.Legs).ToList();
                    var order = At(step.Hours, new GeoPoint(step.Latitude, step.Longitude));
                    if (step.Kind == 0 && Splits.Refuses(LoadState.Rolling, "1", path, leg, Nobody) is null)
                    {
                        var split = Splits.Split(Some.Roads, path, towns, leg, order);
                        path = split.Ok ? path.With(leg, split.Value with { Id = id++ }) : path;
                    }
                    else if (path.Transfers.Count > 0)
                    {
                        var index = step.Leg % path.Transfers.Count;
                        var recorded =
                            step.Kind == 1 ? Splits.Record(path, towns, holders, index, TransferEvent.Left, Some.In(-1), Some.Now)
                            : step.Kind == 2 ? Splits.Record(path, towns, holders, index, TransferEvent.Taken, Some.In(-1), Some.Now)
                            : Splits.Undo(path, towns, index);
                        path =
                            recorded.Ok ? path.Changed(index, recorded.Value)
                            : step.Kind == 3 && Splits.JoinRefuses(LoadState.Rolling, "1", path, index, Ruth, Nobody) is null
                                ? path.Without(index)
                            : path;
                    }

                    Assert.Equal([1L, 2L, 3L], Enumerable.Range(0, path.Legs).SelectMany(path.StopsOf).Select(s => s.Id));
                    Assert.True(path.Transfers.Zip(path.Transfers.Skip(1)).All(p => p.First.AfterStops <= p.Second.AfterStops));
                    Assert.True(
                        path.Transfers.Zip(path.Transfers.Skip(1)).All(p => p.Second.LeftAt is null || p.First.TakenAt is not null)
                    );
                    var legs = Enumerable.Range(0, path.Legs).Select(i => path.OfLeg(Some.Roads, i)).ToList();
                    Assert.All(legs.Zip(legs.Skip(1)), pair => Assert.Equal(pair.First[^1].Point, pair.Second[0].Point));
                    Assert.Equal(Some.Roads.Through(path.Whole).Miles, legs.Sum(points => Some.Roads.Through(points).Miles), 6);
                }
            });
}
