using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

/// <summary>A driver's coming days: trips one after the other, the way home, time off, and what a change does.</summary>
public class DriverPlanTests
{
    private static readonly GeoPoint GreatFalls = Some.Creamery.Point;
    private static readonly GeoPoint Spokane = Some.ColdStore.Point;
    private static readonly GeoPoint Missoula = new(46.8721, -113.994);

    private static TripAhead Trip(
        int id,
        GeoPoint from,
        GeoPoint to,
        (double From, double Until) pickup,
        (double From, double Until)? delivery = null,
        double? left = null,
        bool drops = false
    )
    {
        var (p, d) = (pickup, delivery ?? (0, 300));
        PlannedStop At(long stop, StopKind kind, GeoPoint point, (double From, double Until) window, double? gone) =>
            new(
                stop,
                kind,
                point,
                new Span(Some.In(window.From), Some.In(window.Until)),
                gone is { } a ? Some.In(a - 1) : null,
                gone is { } l ? Some.In(l) : null,
                null
            );
        var leg = new TripLeg(
            id,
            id,
            $"{8840 + id}",
            [At((id * 10) + 1, StopKind.Pickup, from, p, left), At((id * 10) + 2, StopKind.Delivery, to, d, null)],
            ["from", "to"],
            [Some.Mountain, Some.Mountain],
            []
        );
        return new TripAhead(id, $"{600 + id}", Itinerary.Of([leg], []), drops);
    }

    [Fact]
    public void Trips_follow_each_other_with_the_empty_way_between_them()
    {
        var plan = DriverPlan.Of(
            Some.Roads,
            [Trip(1, GreatFalls, Spokane, (2, 10)), Trip(2, Missoula, GreatFalls, (0, 40))],
            Some.Now,
            new ComingFrom(GreatFalls, Some.In(1))
        );
        Assert.Equal(0, plan[0].Empty!.Value.Miles, 3);
        Assert.Equal(Some.Roads.Between(Spokane, Missoula).Miles, plan[1].Empty!.Value.Miles, 3);
        // The second begins where and when the first ends.
        Assert.Equal(plan[0].Ends, plan[1].SetsOut);
        Assert.Equal(plan[0].Ends + Some.Roads.Between(Spokane, Missoula).DoorToDoor, plan[1].Expected[0].Arrives);

        var home = DriverPlan.Home(Some.Roads, plan, Missoula)!;
        Assert.Equal(plan[1].Ends + Some.Roads.Between(GreatFalls, Missoula).DoorToDoor, home.At);
        Assert.Null(DriverPlan.Home(Some.Roads, plan, null));
        Assert.Null(DriverPlan.Home(Some.Roads, [], Missoula));

        // Where a truck comes from is unknown for the first trip of all.
        Assert.Null(DriverPlan.Of(Some.Roads, [Trip(1, GreatFalls, Spokane, (2, 10))], Some.Now, null)[0].Empty);
    }

    [Fact]
    public void A_dropped_trailer_frees_the_truck_as_it_arrives()
    {
        var delivery = (40d, 60d);
        var waits = DriverPlan.Of(Some.Roads, [Trip(1, GreatFalls, Spokane, (0, 1), delivery)], Some.Now, null)[0];
        var drops = DriverPlan.Of(Some.Roads, [Trip(1, GreatFalls, Spokane, (0, 1), delivery, drops: true)], Some.Now, null)[0];
        Assert.Equal(Some.In(40) + TripPlan.ServiceTime, waits.Ends);
        Assert.Equal(drops.Expected[^1].Arrives + TripPlan.ServiceTime, drops.Ends);
        Assert.True(drops.Ends < waits.Ends);
    }

    [Fact]
    public void Per_day_counts_at_least_a_day()
    {
        var plan = DriverPlan.Of(Some.Roads, [Trip(1, GreatFalls, Spokane, (0, 1))], Some.Now, null);
        var span = (plan[0].Ends - plan[0].SetsOut).TotalDays;
        Assert.True(span < 1);
        Assert.Equal(Money.Usd(420m), DriverPlan.PerDay(plan, Money.Usd(420m)));
        var two = DriverPlan.Of(Some.Roads, [plan[0].Trip, Trip(2, Spokane, GreatFalls, (60, 61))], Some.Now, null);
        var days = (decimal)(two[1].Ends - two[0].SetsOut).TotalDays;
        Assert.Equal(Money.Usd(900m / days).ToCents(), DriverPlan.PerDay(two, Money.Usd(900m)));
        Assert.Null(DriverPlan.PerDay([], Money.Usd(1m)));
    }

    [Fact]
    public void What_does_not_work_is_said_with_times()
    {
        var plan = DriverPlan.Of(Some.Roads, [Trip(1, GreatFalls, Spokane, (0, 1), (1, 2))], Some.Now, null);
        var home = DriverPlan.Home(Some.Roads, plan, GreatFalls);
        var off = new Span(Some.In(5), Some.In(30));
        var said = DriverPlan.Warnings(new DriverAgreed("Kai Voss", [off], Some.In(10)), plan, home, Some.Mountain);
        Assert.Collection(
            said,
            s => Assert.Matches(@"^to, load 8841, is reached \d+ h \d\d late: ", s),
            s =>
                Assert.StartsWith(
                    "Kai Voss is off from Mon Nov 23, 14:42 to Tue Nov 24, 15:42, and trip 601 runs from ",
                    s,
                    StringComparison.Ordinal
                ),
            s => Assert.Matches(@"^Kai Voss is to be home by Mon Nov 23, 19:42 and gets there .*, \d+ h \d\d late\.$", s)
        );
        Assert.Empty(
            DriverPlan.Warnings(
                new DriverAgreed("Kai Voss", [new Span(Some.In(200), Some.In(220))], Some.In(100)),
                DriverPlan.Of(Some.Roads, [Trip(1, GreatFalls, Spokane, (0, 1))], Some.Now, null),
                home,
                Some.Mountain
            )
        );
    }

    [Fact]
    public void A_change_is_told_by_what_it_adds_and_makes_late()
    {
        PlanTotals Of(IReadOnlyList<PlannedTrip> trips, decimal margin)
        {
            var home = DriverPlan.Home(Some.Roads, trips, GreatFalls);
            return PlanTotals.Of(
                trips,
                home,
                Money.Usd(margin),
                DriverPlan.Warnings(new DriverAgreed("K. Voss", [], null), trips, home, Some.Mountain)
            );
        }

        var from = new ComingFrom(GreatFalls, Some.Now);
        var one = DriverPlan.Of(Some.Roads, [Trip(1, GreatFalls, Spokane, (0, 4))], Some.Now, from);
        var both = DriverPlan.Of(Some.Roads, [one[0].Trip, Trip(2, Spokane, Missoula, (0, 4))], Some.Now, from);
        var effect = PlanEffect.Of(Of(one, 300m), Of(both, 520m));
        Assert.Equal(Money.Usd(220m), effect.Margin);
        // The way home is from Missoula then, not from Spokane.
        var (far, near) = (Some.Roads.Between(Spokane, GreatFalls).Miles, Some.Roads.Between(Missoula, GreatFalls).Miles);
        Assert.Equal((int)Math.Round(near - far, MidpointRounding.AwayFromZero), effect.EmptyMiles);
        Assert.Equal([21L], effect.Late);
        Assert.Single(effect.Warnings);
        Assert.Equal("allowLate", effect.LateRefuses(false)!.Field);
        Assert.Null(effect.LateRefuses(true));
        // Taken back, nothing becomes late.
        Assert.Empty(PlanEffect.Of(Of(both, 520m), Of(one, 300m)).Late);
        // The totals of two drivers are those of each together.
        var sum = PlanTotals.Sum([Of(one, 300m), PlanTotals.None]);
        Assert.Equal(Of(one, 300m).EmptyMiles, sum.EmptyMiles);
    }

    [Fact]
    public void A_move_is_what_it_names()
    {
        PlanMoveKind? Kind(int legs, bool trip, bool driver, bool time = false, bool split = false, bool join = false) =>
            PlanMoves.KindOf(new PlanMoveNames(legs, trip, driver, time, split, join));

        Assert.Equal(PlanMoveKind.Assign, Kind(2, false, true));
        Assert.Equal(PlanMoveKind.Add, Kind(1, true, false));
        Assert.Equal(PlanMoveKind.Unassign, Kind(1, false, false));
        Assert.Equal(PlanMoveKind.Reassign, Kind(0, true, true));
        Assert.Equal(PlanMoveKind.Reassign, Kind(0, true, true, time: true));
        Assert.Equal(PlanMoveKind.Reschedule, Kind(0, true, false, time: true));
        Assert.Equal(PlanMoveKind.Dissolve, Kind(0, true, false));
        // The rest of a split leg is open, or goes to a driver or a trip.
        Assert.Equal(PlanMoveKind.Split, Kind(0, false, false, split: true));
        Assert.Equal(PlanMoveKind.Split, Kind(0, false, true, split: true));
        Assert.Equal(PlanMoveKind.Split, Kind(0, true, false, split: true));
        Assert.Equal(PlanMoveKind.Join, Kind(0, false, false, join: true));
        Assert.Null(Kind(0, false, true));
        Assert.Null(Kind(1, true, true));
        Assert.Null(Kind(1, false, true, time: true));
        Assert.Null(Kind(0, true, true, split: true));
        Assert.Null(Kind(1, false, false, split: true));
        Assert.Null(Kind(0, true, false, join: true));
        Assert.Null(Kind(0, false, false, split: true, join: true));

        var trip = new MovableTrip("603", "Lena Haugen", 7, null, null);
        Assert.Null(PlanMoves.Refuses(trip, null, Some.Mountain));
        Assert.Null(PlanMoves.Refuses(trip, 7, Some.Mountain));
        Assert.Equal("plan.changed", PlanMoves.Refuses(trip, 8, Some.Mountain)!.Code);
        Assert.Contains("Mon Nov 23, 09:42", PlanMoves.Refuses(trip with { Started = Some.Now }, 7, Some.Mountain)!.Message);
        Assert.Equal("trip.over", PlanMoves.Refuses(trip with { Over = Some.Now }, 7, Some.Mountain)!.Code);

        // A trailer: as chosen, the one the freight is in, the driver's last one if it fits, the trip's.
        Assert.Equal(1, PlanMoves.Unit(1, 2, 3, true, 4));
        Assert.Equal(2, PlanMoves.Unit(null, 2, 3, true, 4));
        Assert.Equal(3, PlanMoves.Unit(null, null, 3, true, 4));
        Assert.Equal(4, PlanMoves.Unit(null, null, 3, false, 4));
        Assert.Null(PlanMoves.Unit(null, null, null, true, null));
    }

    [Fact]
    public void Time_off_is_a_booking_until_a_trip_is_under_way()
    {
        PlannedStop[] stops = [.. Trip(1, GreatFalls, Spokane, (2, 30)).Visits.Select(v => v.Stop)];
        var off = new Commitment(CommitmentKind.Driver, 3, "K. Voss", null, "", new Span(Some.In(0), Some.In(9)));
        // The pickup is open long enough: booked from the end of the time off.
        Assert.Equal(Some.In(9), Availability.Book(Some.Roads, stops, [off], Some.Mountain).Value.From);
        var long_ = off with { Span = new Span(Some.In(0), Some.In(60)) };
        var refused = Availability.Book(Some.Roads, stops, [long_], Some.Mountain).Problems[0];
        Assert.Equal(("driver.off", "driverId"), (refused.Code, refused.Field));
        Assert.Equal(
            "K. Voss is off from Mon Nov 23, 09:42 to Wed Nov 25, 21:42. Choose another driver, or change the time off.",
            refused.Message
        );
        Assert.True(Availability.Rebook(Some.Roads, stops, new Span(Some.In(-2), Some.In(20)), [long_], Some.Now, Some.Mountain).Ok);

        var validation = new Validation();
        Assert.Equal(
            new Span(Some.In(1), Some.In(5)),
            TimeOff.Check(validation, Some.In(1), Some.In(5), [new Span(Some.In(5), Some.In(9))], Some.Now, Some.Mountain)
        );
        Assert.True(validation.Ok);
        foreach (
            var (from, until, field) in new (double?, double?, string)[]
            {
                (null, 4, "from"),
                (4, null, "until"),
                (4, 4, "until"),
                (4, 10_000, "until"),
                (8, 12, "from"),
                (-200_000, -199_999, "from"),
            }
        )
        {
            var bad = new Validation();
            _ = TimeOff.Check(
                bad,
                from is { } f ? Some.In(f) : null,
                until is { } u ? Some.In(u) : null,
                [new Span(Some.In(9), Some.In(20))],
                Some.Now,
                Some.Mountain
            );
            Assert.Equal(field, Assert.Single(bad.Problems).Field);
        }
    }

    [Fact]
    public void The_order_of_a_few_loads_is_the_shortest_with_the_next_delivery_at_the_doors()
    {
        Gen.Select(Gen.Double[45.6, 48.4], Gen.Double[-117.5, -108.5], (lat, lon) => new GeoPoint(lat, lon))
            .Array[6]
            .Sample(
                points =>
                {
                    var legs = Enumerable.Range(0, 3).Select(i => Leg(i + 1, points[2 * i], points[(2 * i) + 1])).ToList();
                    var begins = new ComingFrom(GreatFalls, Some.Now);
                    OpenTrip Of(IReadOnlyList<long> order) =>
                        new(
                            Itinerary.Of(legs, order),
                            ItineraryTests.Rig(new TripLimits(TrailerSize.Typical(Equipment.Van), TripLimits.TypicalTruckTareLb), "1"),
                            begins,
                            null,
                            Some.Now
                        );
                    var first = Of([11, 12, 21, 22, 31, 32]);
                    var ordered = first.Ordered(Some.Roads);
                    Assert.Equal(first.Visits.Select(v => v.Stop.Id).Order(), ordered.Visits.Select(v => v.Stop.Id).Order());
                    Assert.Null(Itinerary.OrderRefuses(first.Visits, Itinerary.Order(ordered.Visits)));
                    var (was, now) = (first.Miles(Some.Roads, first.Visits), ordered.Miles(Some.Roads, ordered.Visits));
                    Assert.True(now <= was + 0.1, $"{now} after {was}");
                    // The next delivery is at the doors, as in the order that is sought.
                    var best = Orders([11, 12, 21, 22, 31, 32])
                        .Select(o => Of(o))
                        .Where(t => Itinerary.BehindOthers(t.Visits).Count == 0)
                        .Min(t => t.Miles(Some.Roads, t.Visits));
                    Assert.Equal(best, now, 3);
                },
                iter: 60,
                seed: "0N0XIzNsQ0O2"
            );

        // Of six loads not every order is tried; the result is still never longer.
        Gen.Select(Gen.Double[45.6, 48.4], Gen.Double[-117.5, -108.5], (lat, lon) => new GeoPoint(lat, lon))
            .Array[12]
            .Sample(
                points =>
                {
                    var legs = Enumerable.Range(0, 6).Select(i => Leg(i + 1, points[2 * i], points[(2 * i) + 1])).ToList();
                    var first = new OpenTrip(
                        Itinerary.Of(legs, [.. legs.SelectMany(l => l.Stops.Select(s => s.Id))]),
                        ItineraryTests.Rig(new TripLimits(TrailerSize.Typical(Equipment.Van), TripLimits.TypicalTruckTareLb), "1"),
                        new ComingFrom(GreatFalls, Some.Now),
                        null,
                        Some.Now
                    );
                    var ordered = first.Ordered(Some.Roads);
                    Assert.Null(Itinerary.OrderRefuses(first.Visits, Itinerary.Order(ordered.Visits)));
                    Assert.True(ordered.Miles(Some.Roads, ordered.Visits) <= first.Miles(Some.Roads, first.Visits) + 0.1);
                },
                iter: 8
            );

        static TripLeg Leg(int id, GeoPoint from, GeoPoint to) =>
            new(
                id,
                id,
                $"{id}",
                [Stop((id * 10) + 1, StopKind.Pickup, from), Stop((id * 10) + 2, StopKind.Delivery, to)],
                ["a", "b"],
                [Some.Mountain, Some.Mountain],
                [new CargoLine(null, 2, 2_000, null, null, null, null, false, null)]
            );

        static PlannedStop Stop(long id, StopKind kind, GeoPoint at) =>
            new(id, kind, at, new Span(Some.In(0), Some.In(500)), null, null, null);

        static IEnumerable<IReadOnlyList<long>> Orders(List<long> left)
        {
            if (left.Count == 0)
            {
                yield return [];
            }

            foreach (var id in left.Where(i => i % 10 == 1 || !left.Contains(i - 1)).ToList())
            {
                foreach (var rest in Orders([.. left.Where(i => i != id)]))
                {
                    yield return [id, .. rest];
                }
            }
        }
    }
}
