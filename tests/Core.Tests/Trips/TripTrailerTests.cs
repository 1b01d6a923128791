using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Core.Trips.Loading;
using Xunit;
using static SteadyLark.Core.Tests.Trips.ItineraryTests;

namespace SteadyLark.Core.Tests.Trips;

/// <summary>Trailers that change on the way from Great Falls by Helena and Missoula to Spokane, and two at a time.</summary>
public class TripTrailerTests
{
    private const int TruckLb = 17_000;

    private static TripTrailer Long(long id, Equipment equipment = Equipment.Van, params string[] features) =>
        new(id, $"53{id:00}", equipment, TrailerSize.Typical(equipment), TrailerLayout.None, features);

    /// <summary>A 28-foot pup, which holds 14 pallets and 22,500 lb.</summary>
    private static TripTrailer Pup(long id) =>
        new(id, $"28{id:00}", Equipment.Van, new TrailerSize(336, 98, 108, 22_500, 7_000), TrailerLayout.None, []);

    private static TripStop Stop(long id, TripStopKind kind, GeoPoint at, TripTrailer trailer) =>
        TripStopTests.Stop(id, kind, at, trailer: trailer.Unit) with
        {
            TrailerId = trailer.Id,
        };

    private static OpenTrip Trip(TripTrailer[] trailers, params TripLeg[] legs) =>
        ItineraryTests.Trip(legs) with
        {
            Rig = new Rig(TruckLb, trailers),
        };

    private static OpenTrip With(OpenTrip trip, TripStop stop) => trip with { Visits = TripStops.Insert(Some.Roads, trip, stop) };

    private static string? Refused(OpenTrip trip, params long[] order) =>
        Itinerary.Overloaded(order.Length == 0 ? trip.Visits : Itinerary.InOrder(trip.Visits, order), trip.Rig) is { Any: true } p
            ? p[0].Message
            : null;

    private static string Behind(OpenTrip trip) =>
        string.Join(
            ", ",
            TripTrailers.Hooked(trip.Visits, trip.Rig).Select(t => t.Count == 0 ? "none" : string.Join('+', t.Select(x => x.Unit)))
        );

    [Fact]
    public void A_trailer_is_dropped_and_another_hooked_between_two_loads()
    {
        var (one, two) = (Long(1), Long(2));
        var trip = Trip([one], Load(1, GreatFalls, Missoula));
        trip = With(trip, Stop(90, TripStopKind.Drop, Missoula, one));
        trip = With(trip with { Rig = trip.Rig.With(two) }, Stop(91, TripStopKind.Hook, Missoula, two));
        Assert.Equal([11, 12, 90, 91], Ids(trip.Visits));
        Assert.Equal("5301, 5301, none, 5302", Behind(trip));

        // The next load goes in the trailer that is hooked then; an earlier one in the one before.
        var later = trip.Insert(Some.Roads, Load(2, Missoula, Spokane), [null, 2]);
        Assert.Equal([11, 12, 90, 91, 21, 22], Ids(later.Visits));
        Assert.Equal(2, later.Visits[^1].Leg.TrailerId);
        var both = (trip with { Visits = later.Visits }).Insert(Some.Roads, Load(3, GreatFalls, Helena), [null, 2]);
        Assert.Null(both.Visits.First(v => v.Leg.LegId == 3).Leg.TrailerId);
        Assert.Equal("5301", trip.Rig.Of(both.Visits[0].Leg)!.Unit);

        // Each is booked for its own part of the trip.
        var planned = trip with { Visits = later.Visits };
        var booked = new Span(Some.In(0), Some.In(40));
        var times = TripPlan.Build(Some.Roads, Itinerary.Points(Some.Roads, planned.Visits), booked.From).Stops;
        var parts = TripTrailers.Parts(Some.Roads, planned.Visits, planned.Rig, booked, Some.Now);
        Assert.Equal(
            [new TrailerPart(one, null, times[2].Leaves, null, null), new TrailerPart(two, times[3].Arrives, null, null, null)],
            parts
        );
        Assert.Equal(new Span(booked.From, times[2].Leaves), parts[0].Of(booked));
        Assert.Equal(new Span(times[3].Arrives, booked.Until), parts[1].Of(booked));
        Assert.True(parts[0].Of(booked).Until <= parts[1].Of(booked).From);

        // A trailer that nothing is in and no stop hooks is none of the trip's any more.
        Assert.Equal(
            [one],
            TripTrailers
                .Parts(Some.Roads, ItineraryTests.Trip(Load(1, GreatFalls, Missoula)).Visits, planned.Rig, booked, Some.Now)
                .Select(p => p.Trailer)
        );
    }

    [Fact]
    public void What_happened_ends_a_trailers_part_and_begins_the_next_ones()
    {
        var (one, two) = (Long(1), Long(2));
        var done = TripStops.Record(Stop(90, TripStopKind.Drop, Missoula, one), true, Some.In(-1), Some.Now).Value;
        var there = TripStops.Record(Stop(91, TripStopKind.Hook, Missoula, two), false, Some.In(-0.5), Some.Now).Value;
        var visits = Itinerary.Of(
            [
                Load(1, GreatFalls, Missoula, left: -9, delivered: -2),
                done.OnTrip(),
                there.OnTrip(),
                Load(2, Missoula, Spokane) with
                {
                    TrailerId = 2,
                },
            ],
            [11, 12, 90, 91, 21, 22]
        );
        var parts = TripTrailers.Parts(Some.Roads, visits, new Rig(TruckLb, [one, two]), new Span(Some.In(-10), Some.In(20)), Some.Now);
        Assert.Equal((null, Some.In(-1)), (parts[0].Hooked, parts[0].Dropped!.Value));
        Assert.Equal((Some.In(-0.5), null), (parts[1].Hooked!.Value, parts[1].Dropped));
        // Freight on board does not go in another trailer, and a trailer with it is not hooked again.
        Assert.Equal(
            "Load 8841 is already loaded: it cannot change trailers.",
            TripTrailers.ChangeRefuses("413", visits[0].Leg, two, true)!.Message
        );
        Assert.Equal("Choose one of the trailers of trip 413.", TripTrailers.ChangeRefuses("413", visits[0].Leg, null, false)!.Message);
        Assert.Null(TripTrailers.ChangeRefuses("413", visits[^1].Leg, one, false));
        var loaded = Trip([one], Load(1, GreatFalls, Spokane, left: -1));
        Assert.Equal(
            "Trailer 5301 is already hooked in Helena MT: drop it first.",
            Refused(With(loaded, Stop(90, TripStopKind.Hook, Helena, one)))
        );
    }

    [Fact]
    public void What_trailers_cannot_do_is_said_in_words()
    {
        var (one, two, three) = (Long(1), Long(2), Long(3));
        var trip = Trip([one, two, three], Load(1, GreatFalls, Missoula));
        Assert.Equal(
            "Trailer 5301 is 53 ft long: in doubles each trailer may be up to 28 ft 6 in without a permit (23 CFR 658.13). Drop 5301 before hooking 5302 in Helena MT.",
            Refused(With(trip, Stop(90, TripStopKind.Hook, Helena, two)))
        );
        Assert.Equal(
            "Load 8841 is in trailer 5301 in Helena MT: deliver it before dropping the trailer.",
            Refused(With(trip, Stop(90, TripStopKind.Drop, Helena, one)), 11, 90, 12)
        );
        Assert.Equal(
            "Trailer 5302 is not hooked in Helena MT: hook it first, or change the order of the stops.",
            Refused(With(trip, Stop(90, TripStopKind.Drop, Helena, two)))
        );
        Assert.Equal(
            "Load 8841 is assigned to trailer 5302, which is not hooked in Great Falls MT: hook it first, or change the order of the stops.",
            Refused(Trip([one, two], Load(1, GreatFalls, Missoula) with { TrailerId = 2 }))
        );
        // A trailer that the trip dropped is hooked again where it dropped it.
        var dropped = With(trip, Stop(90, TripStopKind.Drop, Missoula, one));
        Assert.Null(Refused(With(dropped, Stop(91, TripStopKind.Hook, Missoula, one))));
        Assert.Equal(
            "Trailer 5301 is dropped in Missoula MT: hook it there.",
            Refused(dropped with { Visits = [.. dropped.Visits, new Visit(Stop(91, TripStopKind.Hook, Spokane, one).OnTrip(), 0)] })
        );
        Assert.Equal("5301, 5301, none, 5301", Behind(With(dropped, Stop(91, TripStopKind.Hook, Missoula, one))));

        var pups = With(
            With(Trip([Pup(1), Pup(2), Pup(3)], Load(1, GreatFalls, Missoula)), Stop(90, TripStopKind.Hook, GreatFalls, Pup(2))),
            Stop(91, TripStopKind.Hook, Helena, Pup(3))
        );
        Assert.Equal("The truck already pulls trailers 2801 and 2802 in Helena MT: drop one before hooking 2803.", Refused(pups));

        Assert.Equal("Choose one of our trailers.", TripTrailers.HookRefuses(two, false, null)!.Message);
        Assert.Equal(
            "Trailer 5302 stands loaded with load 6155: assign the next leg of that load instead.",
            TripTrailers.HookRefuses(two, true, "6155")!.Message
        );
        Assert.Null(TripTrailers.HookRefuses(two, true, null));
        Assert.Equal("Choose one of the trailers of trip 413.", TripTrailers.NotOnTrip("413").Message);
    }

    [Fact]
    public void A_trailer_is_hooked_where_it_is_before_the_trip_or_again_where_the_trip_dropped_it()
    {
        var (one, two) = (Long(1), Long(2));
        var stands = new UnitStand(Helena, "Helena MT", Some.In(-20), StandSource.Person, null, 1);
        var trip = Trip([one, two], Load(1, GreatFalls, Missoula));
        long? Again(OpenTrip t, TripTrailer trailer, GeoPoint? where, UnitStand? before) =>
            TripTrailers.HookedAgainAt(t.Visits, t.Rig, trailer, where, before)?.Stop.Id;

        Assert.Null(Again(trip, one, Helena, stands));
        var dropped = With(trip, Stop(90, TripStopKind.Drop, Missoula, one));
        // The trip has not hooked it yet: where it stands comes first, unless it is to be hooked where it is dropped.
        Assert.Null(Again(dropped, one, null, stands));
        Assert.Null(Again(dropped, one, Helena, stands));
        Assert.Equal(90, Again(dropped, one, Missoula, stands));
        Assert.Equal(90, Again(dropped, one, null, null));
        Assert.Null(Again(dropped, two, Missoula, stands));
        // Hooked by the trip and dropped, it is only there.
        var both = With(dropped, Stop(91, TripStopKind.Hook, GreatFalls, one));
        Assert.Equal(90, Again(both, one, Helena, stands));
        // Freight that is left in its trailer is not hooked again by the trip that left it.
        Assert.Null(Again(Trip([one], Load(1, GreatFalls, Helena) with { DropsTrailer = true }), one, Helena, null));
    }

    [Fact]
    public void Freight_that_changes_trucks_in_its_trailer_hooks_and_drops_it()
    {
        var (one, two) = (Long(1), Long(2));
        // Load 8841 is left in trailer 5301 in Helena; load 8842 waits there in 5302.
        var leaves = Load(1, GreatFalls, Helena) with { DropsTrailer = true };
        var takes = Load(2, Helena, Spokane) with { TrailerId = 2, HooksTrailer = true };
        var trip = Trip([one, two], leaves, takes);
        Assert.Null(Refused(trip));
        Assert.Equal("5301, none, 5302, 5302", Behind(trip));
        Assert.Equal(
            [true, true],
            TripTrailers.Parts(Some.Roads, trip.Visits, trip.Rig, new Span(Some.In(0), Some.In(30)), Some.Now).Select(p => !p.IsWhole)
        );
        Assert.Equal(
            "Trailer 5301 is 53 ft long: in doubles each trailer may be up to 28 ft 6 in without a permit (23 CFR 658.13). Drop 5301 before hooking 5302 in Helena MT.",
            Refused(trip, 11, 21, 12, 22)
        );
        Assert.Equal(
            "Load 8842 changes trucks in its trailer, so it stays in it.",
            TripTrailers.ChangeRefuses("413", takes, one, false)!.Message
        );
        // Other freight in that trailer has to be out before.
        Assert.Equal(
            "Load 8843 is in trailer 5301 in Helena MT: deliver it before dropping the trailer.",
            Refused(Trip([one], leaves, Load(3, GreatFalls, Spokane)), 11, 31, 12, 32)
        );
        // A trip of one such leg hooks its own trailer where the freight waits.
        var alone = Trip([two], takes with { TrailerId = null });
        Assert.Equal("5302, 5302", Behind(alone));
        Assert.Null(Refused(alone));
        Assert.False(TripTrailers.Parts(Some.Roads, alone.Visits, alone.Rig, new Span(Some.In(0), Some.In(30)), Some.Now)[0].IsWhole);
    }

    [Fact]
    public void Two_pups_take_what_one_cannot_up_to_the_gross_weight()
    {
        var pups = With(
            Trip([Pup(1), Pup(2)], Load(1, GreatFalls, Spokane, Pallets(14, 20_000))),
            Stop(90, TripStopKind.Hook, GreatFalls, Pup(2))
        );
        Assert.Null(Refused(pups));
        // 14 pallets of 48 by 40 fill a pup: seven rows of two are 280 of 336 inches, and another row leaves 16.
        var second = pups.Insert(Some.Roads, Load(2, GreatFalls, Spokane, Pallets(14, 20_000)), [null, 2]);
        Assert.Equal((false, 2L), (second.Refused.Any, second.Visits.First(v => v.Leg.LegId == 2).Leg.TrailerId!.Value));
        var full = pups with { Visits = second.Visits };
        // A third load rides when one of them is delivered.
        Assert.Equal([31, 32], Ids(full.Insert(Some.Roads, Load(3, Spokane, Missoula, Pallets(6, 1_000)), [null, 2]).Visits.TakeLast(2)));

        // Truck 17,000, pups 7,000 each, freight 40,000: 71,000. The gross weight leaves 9,000 lb.
        var after = Capacity.Behind(Itinerary.Aboard(full.Visits)[2], TripTrailers.Hooked(full.Visits, full.Rig)[2], full.Rig);
        Assert.Equal([("2801", 20_000), ("2802", 20_000)], after.Select(t => (t.Unit, t.On.WeightLb)));
        Assert.Equal(
            9_000,
            Capacity.Together(Itinerary.Aboard(full.Visits)[2], TripTrailers.Hooked(full.Visits, full.Rig)[2], full.Rig).RoomLb
        );
        string? Heavy(int one, int two) =>
            Refused(
                With(
                    Trip(
                        [Pup(1) with { Size = Pup(1).Size with { PayloadLb = 30_000 } }, Pup(2)],
                        Load(1, GreatFalls, Spokane, Pallets(10, one)),
                        Load(2, GreatFalls, Spokane, Pallets(10, two)) with
                        {
                            TrailerId = 2,
                        }
                    ),
                    Stop(90, TripStopKind.Hook, GreatFalls, Pup(2))
                ),
                90,
                11,
                21,
                12,
                22
            );
        Assert.Null(Heavy(27_000, 22_000));
        Assert.Equal(
            "After Great Falls MT, the truck with trailers 2801 and 2802 and loads 8841 and 8842 weighs 80,001 lb: 1 lb over the gross limit of 80,000 lb.",
            Heavy(27_001, 22_000)
        );
        Assert.Equal("capacity.weight", Itinerary.Overloaded(Together(22_501), new Rig(TruckLb, [Pup(1)])).Single().Code);

        static IReadOnlyList<Visit> Together(int pounds) =>
            ItineraryTests.Trip(Load(1, GreatFalls, Spokane, Pallets(2, pounds - 1)), Load(2, GreatFalls, Spokane, Pallets(2, 1))).Visits
                is { } v
                ? Itinerary.InOrder(v, [11, 21, 12, 22])
                : [];
    }

    [Fact]
    public void What_may_not_share_a_trailer_rides_in_two()
    {
        string? Refused(CargoLine a, CargoLine b, long? second) =>
            TripTrailerTests.Refused(
                With(
                    Trip([Pup(1), Pup(2)], Load(1, GreatFalls, Spokane, a), Load(2, GreatFalls, Spokane, b) with { TrailerId = second }),
                    Stop(90, TripStopKind.Hook, GreatFalls, Pup(2))
                ),
                90,
                11,
                21,
                12,
                22
            );

        Assert.Equal(
            "Load 8841 needs 34 °F and load 8842 -10 °F: a trailer has one temperature.",
            Refused(Pallets(2, 900, 34), Pallets(2, 900, -10), null)
        );
        Assert.Null(Refused(Pallets(2, 900, 34), Pallets(2, 900, -10), 2));
        Assert.Contains(
            "177.848",
            Refused(Pallets(2, 900, hazard: "2.3", group: null), Pallets(2, 900, hazard: "3", group: "II"), null) ?? "",
            StringComparison.Ordinal
        );
        Assert.Null(Refused(Pallets(2, 900, hazard: "2.3", group: null), Pallets(2, 900, hazard: "3", group: "II"), 2));
        // A delivery is behind only what is in its own trailer.
        var visits = Itinerary.Of([Load(1, GreatFalls, Missoula), Load(2, Helena, Spokane) with { TrailerId = 2 }], [11, 21, 12, 22]);
        Assert.Empty(Itinerary.BehindOthers(visits));
        // A load finds the trailers that haul it.
        var rig = new Rig(TruckLb, [Long(1), Long(2, Equipment.Reefer), Long(3, Equipment.Van, "liftgate")]);
        var matches = new EquipmentMatches([new EquipmentMatch(Equipment.Reefer, Equipment.Van)]);
        Assert.Equal([null, 2, 3], TripTrailers.For(rig, Equipment.Van, [], matches));
        Assert.Equal([3], TripTrailers.For(rig, Equipment.Van, ["liftgate"], matches));
        Assert.Equal([2], TripTrailers.For(rig, Equipment.Reefer, [], matches));
    }

    [Fact]
    public void However_trailers_and_loads_are_added_every_load_is_behind_the_truck_and_within_all_limits()
    {
        var towns = Gen.Int[0, 3].Select(i => new[] { GreatFalls, Helena, Missoula, Spokane }[i]);
        var fleet = new[] { Pup(1), Pup(2), Long(3) };
        Gen.Select(Gen.Int[0, 5], towns, towns, Gen.Int[0, 2], Gen.Int[1, 16], Gen.Int[500, 24_000])
            .List[3, 9]
            .Sample(
                steps =>
                {
                    var trip = Trip([fleet[0]], Load(1, GreatFalls, Spokane, Pallets(4, 5_000)));
                    var id = 1;
                    foreach (var (what, from, to, unit, pallets, pounds) in steps)
                    {
                        id++;
                        var rig = trip.Rig;
                        IReadOnlyList<Visit> visits;
                        if (what < 3)
                        {
                            var stop = Stop(900 + id, what == 0 ? TripStopKind.Drop : TripStopKind.Hook, from, fleet[unit]);
                            rig = rig.With(fleet[unit]);
                            visits = TripStops.Insert(Some.Roads, trip with { Rig = rig }, stop);
                        }
                        else
                        {
                            var added = trip.Insert(
                                Some.Roads,
                                Load(id, from, to, Pallets(pallets, pounds)),
                                [.. rig.Trailers.Select(t => TripTrailers.Named(rig, t.Id))]
                            );
                            visits = added.Refused.Any ? trip.Visits : added.Visits;
                        }

                        if (!Itinerary.Overloaded(visits, rig).Any)
                        {
                            trip = trip with { Visits = visits, Rig = rig };
                        }
                    }

                    Judge(trip.Visits, trip.Rig);
                    Judge(trip.Ordered(Some.Roads).Visits, trip.Rig);
                    var booked = new Span(Some.In(0), Some.In(90));
                    Assert.All(TripTrailers.Parts(Some.Roads, trip.Visits, trip.Rig, booked, Some.Now), p =>
                        Assert.True(
                            p.Of(booked).From >= booked.From
                                && p.Of(booked).Until <= booked.Until
                                && p.Of(booked).From <= p.Of(booked).Until
                        )
                    );
                },
                iter: 400
            );

        // Written down once more, visit by visit, with nothing but facts.
        static void Judge(IReadOnlyList<Visit> visits, Rig rig)
        {
            var behind = new List<TripTrailer>();
            if (visits.Select(v => v.Leg.Own).FirstOrDefault(o => o?.TrailerId == 1)?.Kind != TripStopKind.Hook)
            {
                behind.Add(rig.Trailers[0]);
            }

            var aboard = new List<TripLeg>();
            foreach (var v in visits)
            {
                if (v.Leg.Own is { } own)
                {
                    var trailer = rig.Trailers.Single(t => t.Id == own.TrailerId);
                    Assert.Equal(own.Kind == TripStopKind.Drop, behind.Contains(trailer));
                    if (own.Kind == TripStopKind.Hook)
                    {
                        behind.Add(trailer);
                    }
                    else
                    {
                        Assert.DoesNotContain(aboard, l => rig.Of(l) == trailer);
                        behind.Remove(trailer);
                    }

                    Assert.InRange(behind.Count, 0, 2);
                    Assert.True(behind.Count < 2 || behind.All(t => t.Size.LengthIn <= 342));
                    continue;
                }

                Assert.Contains(rig.Of(v.Leg), behind);
                if (v.At == 0)
                {
                    aboard.Add(v.Leg);
                }
                else
                {
                    aboard.Remove(v.Leg);
                }

                Assert.All(behind, t =>
                {
                    var inside = aboard.Where(l => rig.Of(l) == t).SelectMany(l => l.Cargo).ToList();
                    Assert.True(inside.Count < 2 || inside.Sum(c => c.WeightLb) <= t.Size.PayloadLb);
                    Assert.True(inside.Count < 2 || inside.Sum(c => c.Pallets) * 20 <= t.Size.LengthIn + 40);
                });
                Assert.True(aboard.Count < 2 || TruckLb + behind.Sum(t => t.Size.TareLb) + aboard.Sum(l => l.Cargo[0].WeightLb) <= 80_000);
            }

            Assert.Empty(aboard);
        }
    }
}
