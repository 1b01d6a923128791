using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using Xunit;
using static SteadyLark.Core.Tests.Trips.ItineraryTests;

namespace SteadyLark.Core.Tests.Trips;

/// <summary>Stops of a trip's own, on the way from Great Falls by Helena and Missoula to Spokane.</summary>
public class TripStopTests
{
    internal static TripStop Stop(
        long id,
        TripStopKind kind,
        GeoPoint at,
        double? minutes = null,
        double? arrived = null,
        double? left = null,
        double? starts = null,
        string? trailer = "5307"
    ) =>
        new(
            id,
            kind,
            at,
            "Yard",
            Town(at),
            Some.Mountain,
            minutes is { } m ? Duration.FromMinutes(m) : null,
            arrived is { } a ? Some.In(a) : null,
            left is { } l ? Some.In(l) : null,
            Planned: starts is { } s ? Some.In(s) : null,
            Trailer: TripStops.OfTrailer(kind) ? trailer : null
        );

    private static OpenTrip With(OpenTrip trip, params TripStop[] stops) =>
        stops.Aggregate(trip, (t, s) => t with { Visits = TripStops.Insert(Some.Roads, t, s) });

    private static UnitStand Stands(GeoPoint at, double hours = -20) => new(at, Town(at), Some.In(hours), StandSource.Trip, "412", 1);

    private static string? Refused(OpenTrip trip, TripStop stop, UnitStand? stands = null, Instant? over = null) =>
        TripStops.Refuses("413", over, trip.Visits, stop, stands, Some.Now, Some.Mountain)?.Message;

    [Fact]
    public void A_stop_is_put_where_it_adds_the_fewest_miles()
    {
        var trip = Trip(Load(1, GreatFalls, Missoula), Load(2, Missoula, Spokane));
        Assert.Equal([11, 90, 12, 21, 22], Ids(With(trip, Stop(90, TripStopKind.Fuel, Helena)).Visits));
        // In a town where the truck stops anyway it comes after that.
        Assert.Equal([11, 12, 21, 22, 90], Ids(With(trip, Stop(90, TripStopKind.Fuel, Spokane)).Visits));
        // Never before what was reached.
        var underWay = Trip(Load(1, GreatFalls, Missoula, left: -1), Load(2, Missoula, Spokane));
        Assert.Equal([11, 90, 12, 21, 22], Ids(With(underWay, Stop(90, TripStopKind.Scale, GreatFalls)).Visits));
    }

    [Fact]
    public void The_trailer_is_hooked_before_the_first_pickup_and_dropped_after_the_last_delivery()
    {
        var trip = With(
            Trip(Load(1, GreatFalls, Missoula), Load(2, Missoula, Spokane)),
            Stop(90, TripStopKind.Hook, Missoula),
            Stop(91, TripStopKind.Drop, Helena),
            Stop(92, TripStopKind.Fuel, Helena)
        );
        Assert.Equal(90, trip.Visits[0].Stop.Id);
        Assert.Equal(91, trip.Visits.Last(v => v.Leg.Own?.Kind != TripStopKind.Fuel).Stop.Id);
        var ids = Ids(trip.Visits.Where(v => v.Stop.Id != 92));
        Assert.Equal([90, 11, 12, 21, 22, 91], ids);
        Assert.Equal(
            "Load 8841 is assigned to trailer 5307, which is not hooked in Great Falls MT: hook it first, or change the order of the stops.",
            Refused(With(Trip(Load(1, GreatFalls, Missoula)), Stop(90, TripStopKind.Hook, Helena)), 11, 90, 12)
        );
        Assert.Equal(
            "Load 8841 is in trailer 5307 in Helena MT: deliver it before dropping the trailer.",
            Refused(With(Trip(Load(1, GreatFalls, Missoula)), Stop(91, TripStopKind.Drop, Helena)), 11, 91, 12)
        );

        static string Refused(OpenTrip trip, params long[] order) =>
            Itinerary.Overloaded(Itinerary.InOrder(trip.Visits, order), trip.Rig).Single().Message;
    }

    [Fact]
    public void A_trip_that_hooks_its_trailer_first_begins_in_time_for_the_pickup()
    {
        var trip = With(Trip(Load(1, GreatFalls, Spokane, pickup: (10, 14), delivery: (10, 60))), Stop(90, TripStopKind.Hook, Helena));
        var takes = Some.Roads.Between(Helena, GreatFalls).DoorToDoor + Duration.FromMinutes(20);
        var points = Itinerary.Points(Some.Roads, trip.Visits);
        Assert.Equal(new Span(Some.In(10) - takes, Some.In(14) - takes), points[0].Window);
        var booked = Availability.Book(Some.Roads, points, [], Some.Mountain).Value;
        Assert.Equal(Some.In(10) - takes, booked.From);
        // A later stop is made when the truck gets there, and has no appointment to be late for.
        var fueled = With(trip, Stop(91, TripStopKind.Fuel, Missoula, minutes: 300));
        var expected = fueled.Expect(Some.Roads, fueled.Visits);
        Assert.Equal([90, 11, 91, 12], expected.Select(v => v.StopId));
        Assert.Equal((Duration.Zero, null), (expected[2].Late, expected[2].Slack));
        Assert.Equal(Duration.FromMinutes(300), expected[2].Leaves - expected[2].Arrives);
        // When it is too late for that, it is made at once.
        var late = Itinerary.Ahead(Some.Roads, trip.Visits, Some.In(12));
        Assert.Equal(Some.In(12), late[0].Window.From);
    }

    [Fact]
    public void Miles_to_a_stop_count_for_the_freight_on_board_or_the_next_pickup()
    {
        var load = Load(1, Helena, Missoula);
        var trip = With(Trip(load), Stop(90, TripStopKind.Hook, GreatFalls), Stop(91, TripStopKind.Drop, Spokane));
        var part = Itinerary.Parts(Some.Roads, [load], trip.Visits, Missoula, 1m).Single();
        Assert.Equal(Some.Roads.Between(Helena, Missoula).WholeMiles, part.Miles);
        var empty =
            Some.Roads.Between(Missoula, GreatFalls).Miles
            + Some.Roads.Between(GreatFalls, Helena).Miles
            + Some.Roads.Between(Missoula, Spokane).Miles;
        Assert.Equal(new Drive(empty, 0).WholeMiles, part.EmptyMiles);
        // What is on board does not change at such a stop.
        Assert.Equal(["", "8841", "", ""], Itinerary.Aboard(trip.Visits).Select(a => string.Join(' ', a.Select(l => l.Number))));
        Assert.Equal("Helena MT to Missoula MT", Itinerary.Lane(trip.Visits));
    }

    [Fact]
    public void A_stop_that_was_passed_by_is_left_out()
    {
        TripLeg[] Legs(double? delivered, double? fueled) =>
            [
                Load(1, GreatFalls, Missoula, left: -6, delivered: delivered),
                Load(2, Helena, Spokane, left: -8),
                Stop(90, TripStopKind.Fuel, Helena, arrived: fueled, left: fueled).OnTrip(),
            ];

        Assert.Equal([21, 11, 90, 12, 22], Ids(Itinerary.Of(Legs(null, null), [21, 11, 90, 12, 22])));
        Assert.Equal([21, 11, 12, 22], Ids(Itinerary.Of(Legs(-1, null), [21, 11, 90, 12, 22])));
        Assert.Equal([21, 11, 90, 12, 22], Ids(Itinerary.Of(Legs(-1, -2), [21, 11, 90, 12, 22])));
        // It is made after the stop that was reached instead, when the order says so.
        Assert.Equal([21, 11, 12, 90, 22], Ids(Itinerary.Of(Legs(-1, null), [21, 11, 12, 90, 22])));
    }

    [Fact]
    public void A_trailer_is_hooked_where_it_is()
    {
        var trip = Trip(Load(1, GreatFalls, Spokane, pickup: (10, 14)));
        Assert.Null(Refused(trip, Stop(0, TripStopKind.Hook, Helena), stands: Stands(Helena)));
        Assert.Null(Refused(trip, Stop(0, TripStopKind.Hook, new GeoPoint(46.62, -112.08)), stands: Stands(Helena)));
        Assert.Null(Refused(trip, Stop(0, TripStopKind.Hook, Missoula)));
        Assert.Equal(
            "Trailer 5307 is not in Missoula MT: it was left in Helena MT by trip 412 on Sun Nov 22, 13:42. Hook it there, or choose another trailer.",
            Refused(trip, Stop(0, TripStopKind.Hook, Missoula), stands: Stands(Helena))
        );
        Assert.Equal(
            "Trailer 5307 is not in Missoula MT: it comes to Helena MT with trip 412 on Mon Nov 23, 13:42. Hook it there, or choose another trailer.",
            Refused(trip, Stop(0, TripStopKind.Hook, Missoula), stands: Stands(Helena, 4))
        );
        Assert.Equal(
            "Trailer 5307 is not in Missoula MT: it was in Helena MT on Mon Nov 23, 08:42. Hook it there, or choose another trailer.",
            Refused(
                trip,
                Stop(0, TripStopKind.Hook, Missoula),
                stands: Stands(Helena, -1) with
                {
                    Source = StandSource.Person,
                    Trip = null,
                }
            )
        );
        Assert.Equal("Trip 413 has no trailer: assign one first.", Refused(trip, Stop(0, TripStopKind.Drop, Helena, trailer: null)));
        Assert.Null(Refused(trip, Stop(0, TripStopKind.Fuel, Helena)));
        Assert.Equal(
            "Trip 413 has a stop in Helena MT to hook trailer 5307: remove that stop before you change the trailer.",
            TripStops.TrailerChangeRefuses("413", [Stop(90, TripStopKind.Hook, Helena)], true)!.Message
        );
        Assert.Null(TripStops.TrailerChangeRefuses("413", [Stop(90, TripStopKind.Fuel, Helena)], true));
        Assert.Equal(
            "Trip 413 is over: its stops can no longer be changed.",
            Refused(trip, Stop(0, TripStopKind.Fuel, Helena), over: Some.In(-1))
        );
        var full = With(trip, [.. Enumerable.Range(0, TripStop.Most).Select(i => Stop(900 + i, TripStopKind.Fuel, Helena))]);
        Assert.Equal(
            "Trip 413 has 20 stops of its own, which is the most a trip takes.",
            Refused(full, Stop(0, TripStopKind.Scale, Helena))
        );
    }

    [Fact]
    public void A_trip_says_when_its_trailer_is_elsewhere()
    {
        var trip = Trip(Load(1, GreatFalls, Spokane, pickup: (10, 14)));
        string? Said(OpenTrip t, UnitStand? stands, GeoPoint? from, string? trailer = "5307") =>
            TripStops.TrailerAway(t.Visits, trailer, stands, from, Some.Now, Some.Mountain);

        Assert.Equal(
            "Trailer 5307 was left in Helena MT by trip 412 on Sun Nov 22, 13:42: add a stop to hook it, or assign another trailer.",
            Said(trip, Stands(Helena), Missoula)
        );
        Assert.NotNull(Said(trip, Stands(Helena), null));
        // The truck comes from there, the freight is there, the trip hooks it, it is under way, or nobody knows.
        Assert.Null(Said(trip, Stands(Helena), Helena));
        Assert.Null(Said(trip, Stands(GreatFalls), Missoula));
        Assert.Null(Said(With(trip, Stop(90, TripStopKind.Hook, Helena)), Stands(Helena), Missoula));
        Assert.Null(Said(Trip(Load(1, GreatFalls, Spokane, left: -1)), Stands(Helena), Missoula));
        Assert.Null(Said(trip, null, Missoula));
        Assert.Null(Said(trip, Stands(Helena), Missoula, trailer: null));
    }

    [Fact]
    public void Loads_are_added_and_ordered_between_start_and_end_and_while_the_trailer_is_hooked()
    {
        var towns = Gen.Int[0, 3].Select(i => new[] { GreatFalls, Helena, Missoula, Spokane }[i]);
        Gen.Select(Gen.Select(towns, towns).List[1, 5], towns, towns, towns, Gen.Shuffle(new[] { 0, 1, 2, 3, 4 }))
            .Sample(
                (loads, hook, drop, fuel, turn) =>
                {
                    var own = new[]
                    {
                        Stop(90, TripStopKind.Drop, drop),
                        Stop(91, TripStopKind.Hook, hook),
                        Stop(92, TripStopKind.Fuel, fuel),
                        Stop(93, TripStopKind.Start, fuel, starts: 4),
                        Stop(94, TripStopKind.End, hook),
                    };
                    // In whatever order they are added.
                    var trip = With(Trip(Load(1, loads[0].Item1, loads[0].Item2)), [.. turn.Select(i => own[i])]);
                    foreach (var ((from, to), i) in loads.Select((l, i) => (l, i)).Skip(1))
                    {
                        trip = trip with { Visits = trip.Insert(Some.Roads, Load(i + 1, from, to)).Visits };
                    }

                    foreach (var visits in new[] { trip.Visits, trip.Ordered(Some.Roads).Visits })
                    {
                        Assert.Equal((2 * loads.Count) + 5, visits.Distinct().Count());
                        Assert.Equal((93, 94), (visits[0].Stop.Id, visits[^1].Stop.Id));
                        Assert.Null(Itinerary.OrderRefuses(visits, Ids(visits)));
                        Assert.Empty(Itinerary.Aboard(visits)[^1]);
                    }
                },
                iter: 200
            );
    }

    [Fact]
    public void What_is_recorded_at_a_stop_is_in_order_and_undone_one_by_one()
    {
        var stop = Stop(90, TripStopKind.Fuel, Helena);
        var there = TripStops.Record(stop, false, Some.In(-3), Some.Now).Value;
        Assert.Equal((Some.In(-3), null), (there.Arrived, there.Left));
        Assert.Equal(
            "This is recorded already: Mon Nov 23, 06:42.",
            TripStops.Record(there, false, Some.In(-2), Some.Now).Problems[0].Message
        );
        Assert.Equal(
            "The truck arrived in Helena MT on Mon Nov 23, 06:42: enter a later time.",
            TripStops.Record(there, true, Some.In(-4), Some.Now).Problems[0].Message
        );
        Assert.Equal("time.ahead", TripStops.Record(there, true, Some.In(1), Some.Now).Problems[0].Code);
        var gone = TripStops.Record(there, true, Some.In(-2), Some.Now).Value;
        Assert.Equal(there, TripStops.Undo(gone).Value);
        Assert.Equal(stop, TripStops.Undo(there).Value);
        Assert.Equal("Nothing is recorded in Helena MT.", TripStops.Undo(stop).Problems[0].Message);
        // Recorded as left only, it is undone at once.
        Assert.Equal(stop, TripStops.Undo(TripStops.Record(stop, true, Some.In(-2), Some.Now).Value).Value);
        Assert.Equal(
            "The truck was in Helena MT on Mon Nov 23, 06:42: undo that first.",
            TripStops.RemoveRefuses("413", null, there)!.Message
        );
        Assert.Equal("Trip 413 is over: its stops can no longer be changed.", TripStops.RemoveRefuses("413", Some.In(-1), stop)!.Message);
        Assert.Null(TripStops.RemoveRefuses("413", null, stop));
    }

    [Fact]
    public void A_trip_that_is_set_to_start_later_reaches_everything_later_and_is_booked_from_then()
    {
        var trip = Trip(Load(1, GreatFalls, Spokane, pickup: (10, 20), delivery: (10, 60)));
        TripSchedule Planned(IReadOnlyList<Visit> visits) => TripPlan.Build(Some.Roads, Itinerary.Points(Some.Roads, visits));

        var asap = Planned(trip.Visits);
        Assert.Equal(Some.In(10), asap.Commitment.From);
        var later = TripStops.StartingAt(trip.Visits, Some.In(14.5), 90);
        Assert.Equal((90, Some.In(14.5)), (later[0].Stop.Id, TripStops.StartsAt(later)!.Value));
        Assert.Equal(
            (Some.In(14.5), asap.Commitment.Until + Duration.FromHours(4.5)),
            (Planned(later).Commitment.From, Planned(later).Commitment.Until)
        );
        // So it is expected, too, and no earlier by being free earlier.
        var expected = Expectations.Of(Some.Roads, Itinerary.Points(Some.Roads, later), Some.Now, new ComingFrom(GreatFalls, Some.Now));
        Assert.Equal(Some.In(14.5), expected[1].Arrives);
        // Another time replaces it, and without one the start that only said when is gone.
        Assert.Equal([90, 11, 12], Ids(TripStops.StartingAt(later, Some.In(12), 91)));
        Assert.Equal(Ids(trip.Visits), Ids(TripStops.StartingAt(later, null, 91)));
        Assert.Same(trip.Visits, TripStops.StartingAt(trip.Visits, null, 91));

        // A start elsewhere is kept, and what comes before the pickup is done on the way to it.
        var yard = With(trip, Stop(90, TripStopKind.Start, Missoula, starts: 2), Stop(91, TripStopKind.Hook, Helena));
        var schedule = Planned(yard.Visits);
        Assert.Equal(
            (Some.In(2), Some.In(2) + Some.Roads.Between(Missoula, Helena).DoorToDoor),
            (schedule.Stops[0].Arrives, schedule.Stops[1].Arrives)
        );
        Assert.True(schedule.Stops[2].Arrives < Some.In(10));
        Assert.Equal([90, 91, 11, 12], Ids(TripStops.StartingAt(yard.Visits, null, 92)));
        Assert.Null(TripStops.StartsAt(TripStops.StartingAt(yard.Visits, null, 92)));
        // Without a time it is made in time for the pickup, as ever.
        var hooked = Planned(TripStops.StartingAt(yard.Visits, null, 92));
        Assert.Equal(Some.In(10), hooked.Stops[2].Arrives);
    }

    [Fact]
    public void A_start_is_first_and_an_end_last()
    {
        var trip = With(
            Trip(Load(1, GreatFalls, Spokane)),
            Stop(94, TripStopKind.End, Missoula),
            Stop(93, TripStopKind.Start, Helena),
            Stop(92, TripStopKind.Fuel, Missoula)
        );
        Assert.Equal([93, 11, 12, 92, 94], Ids(trip.Visits));
        string? Wanted(params long[] order) => Itinerary.OrderRefuses(trip.Visits, order)?.Code;
        Assert.Equal("order.start", Wanted(11, 93, 12, 92, 94));
        Assert.Equal("order.end", Wanted(93, 11, 12, 94, 92));
        Assert.Null(Wanted(93, 92, 11, 12, 94));

        Assert.Equal("Trip 413 has a stop to start already.", Refused(trip, Stop(0, TripStopKind.Start, Helena)));
        Assert.Equal("Trip 413 has a stop to end already.", Refused(trip, Stop(0, TripStopKind.End, Helena)));
        Assert.Null(Refused(Trip(Load(1, GreatFalls, Spokane)), Stop(0, TripStopKind.Start, Helena)));
        var underWay = Trip(Load(1, GreatFalls, Spokane, left: -1));
        Assert.Equal("Trip 413 is under way: it has started in Great Falls MT.", Refused(underWay, Stop(0, TripStopKind.Start, Helena)));
        Assert.Null(Refused(underWay, Stop(0, TripStopKind.End, Helena)));
        string? Starting(OpenTrip t, double? at) =>
            TripStops.StartRefuses("413", t.Visits, at is { } h ? Some.In(h) : null, Some.Now)?.Message;

        Assert.Equal("This time has passed: choose a later start.", Starting(trip, -1));
        Assert.Equal("Trip 413 is under way: it has started in Great Falls MT.", Starting(underWay, 1));
        Assert.Null(Starting(trip, 1) ?? Starting(trip, null));
    }

    [Fact]
    public void A_copied_start_keeps_its_time_of_day_over_a_clock_change()
    {
        // On October 30 the clocks in Montana are an hour ahead of those on November 2, 2026 (first Sunday of November).
        var stop = Stop(90, TripStopKind.Start, Helena) with { Planned = Instant.FromUtc(2026, 10, 30, 12, 0) };
        Assert.Equal(Instant.FromUtc(2026, 11, 2, 13, 0), TripCopy.StartsAt(stop, 3));
        Assert.Null(TripCopy.StartsAt(stop with { Planned = null }, 3));
    }
}
