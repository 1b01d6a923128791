using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

/// <summary>Several loads on one truck, westbound from Great Falls to Spokane.</summary>
public class ItineraryTests
{
    internal static readonly GeoPoint GreatFalls = Some.Creamery.Point;
    internal static readonly GeoPoint Helena = new(46.5891, -112.0391);
    internal static readonly GeoPoint Missoula = new(46.8721, -113.994);
    internal static readonly GeoPoint Spokane = Some.ColdStore.Point;
    internal static readonly TripLimits Reefer = new(TrailerSize.Typical(Equipment.Reefer), TripLimits.TypicalTruckTareLb);

    internal static string Town(GeoPoint p) =>
        p == GreatFalls ? "Great Falls MT"
        : p == Helena ? "Helena MT"
        : p == Missoula ? "Missoula MT"
        : "Spokane WA";

    internal static CargoLine Pallets(int pallets, int pounds, int? temperature = null, string? hazard = null, string? group = null) =>
        new(null, pallets, pounds, temperature, null, null, null, false, hazard is null ? null : new HazardousLine(hazard, group));

    /// <summary>A load from one town to another; its stops are 10 × id + 1 and + 2.</summary>
    internal static TripLeg Load(
        int id,
        GeoPoint from,
        GeoPoint to,
        CargoLine? cargo = null,
        (double From, double Until)? pickup = null,
        (double From, double Until)? delivery = null,
        double? left = null,
        double? delivered = null
    )
    {
        var (p, d) = (pickup ?? (0, 200), delivery ?? (0, 200));
        return new TripLeg(
            id,
            id,
            $"{8840 + id}",
            [At((id * 10) + 1, StopKind.Pickup, from, p, left), At((id * 10) + 2, StopKind.Delivery, to, d, delivered)],
            [Town(from), Town(to)],
            [Some.Mountain, Some.Mountain],
            [cargo ?? Pallets(4, 6_000)]
        );
    }

    internal static PlannedStop At(long id, StopKind kind, GeoPoint point, (double From, double Until) window, double? left) =>
        new(
            id,
            kind,
            point,
            new Span(Some.In(window.From), Some.In(window.Until)),
            left is { } a ? Some.In(a) : null,
            left is { } l ? Some.In(l) : null,
            kind == StopKind.Delivery && left is { } d ? Some.In(d) : null
        );

    internal static OpenTrip Trip(params TripLeg[] legs) =>
        new(Itinerary.Of(legs, legs.SelectMany(l => l.Stops.Select(s => s.Id)).ToList()), Rig(Reefer, "5307"), null, null, Some.Now);

    /// <summary>A truck with one trailer.</summary>
    internal static Rig Rig(TripLimits limits, string unit) =>
        new(limits.TruckTareLb, [new TripTrailer(1, unit, Equipment.Reefer, limits.Trailer, limits.Layout, [])]);

    internal static IReadOnlyList<long> Ids(IEnumerable<Visit> visits) => Itinerary.Order(visits);

    [Fact]
    public void The_chosen_order_holds_within_what_each_load_allows()
    {
        TripLeg[] legs = [Load(1, GreatFalls, Spokane), Load(2, Helena, Missoula)];
        Assert.Equal([11, 21, 22, 12], Ids(Itinerary.Of(legs, [11, 21, 22, 12])));
        // A delivery named before its pickup waits for it.
        Assert.Equal([11, 12, 21, 22], Ids(Itinerary.Of(legs, [11, 22, 12, 21])).OrderBy(i => i));
        Assert.True(
            Ids(Itinerary.Of(legs, [22, 21, 12, 11])).ToList() is var ids
                && ids.IndexOf(21) < ids.IndexOf(22)
                && ids.IndexOf(11) < ids.IndexOf(12)
        );
        // What the order does not name follows its load's stop before; a load it does not name comes last.
        Assert.Equal([11, 12, 21, 22], Ids(Itinerary.Of(legs, [11])));
        Assert.Equal([21, 22, 11, 12], Ids(Itinerary.Of(legs, [21, 99])));
    }

    [Fact]
    public void What_was_reached_comes_first_as_it_was_reached()
    {
        TripLeg[] legs = [Load(1, GreatFalls, Spokane, left: -5), Load(2, Helena, Missoula, left: -8), Load(3, GreatFalls, Missoula)];
        Assert.Equal([21, 11, 31, 22, 12, 32], Ids(Itinerary.Of(legs, [11, 21, 31, 22, 12, 32])));
    }

    [Fact]
    public void Aboard_is_known_after_every_visit_and_a_delivery_behind_other_freight_is_said()
    {
        TripLeg[] legs = [Load(1, GreatFalls, Missoula), Load(2, Helena, Spokane)];
        var visits = Itinerary.Of(legs, [11, 21, 12, 22]);
        Assert.Equal(["8841", "8841 8842", "8842", ""], Itinerary.Aboard(visits).Select(a => string.Join(' ', a.Select(l => l.Number))));
        Assert.Equal(["In Missoula MT, load 8841 is behind 8842: plan time to move that freight first."], Itinerary.BehindOthers(visits));
        Assert.Empty(Itinerary.BehindOthers(Itinerary.Of(legs, [11, 21, 22, 12])));
    }

    [Fact]
    public void Freight_that_is_too_heavy_too_long_or_cannot_ride_together_is_refused_at_the_visit()
    {
        string? Refused(CargoLine a, CargoLine b) =>
            Itinerary.Overloaded(
                Itinerary.Of([Load(1, GreatFalls, Spokane, a), Load(2, Helena, Spokane, b)], [11, 21, 12, 22]),
                Rig(Reefer, "5307")
            )
                is { Any: true } p
                ? p[0].Message
                : null;

        Assert.Null(Refused(Pallets(12, 20_000), Pallets(14, 23_000)));
        Assert.Equal(
            "After Helena MT, 8841 and 8842 weigh 43,001 lb together: 1 lb more than trailer 5307 may carry.",
            Refused(Pallets(10, 20_000), Pallets(10, 23_001))
        );
        // 30 pallets of 48 by 40 stand two across in 15 rows of 40 inches: 600 of 630. A pallet of another load needs a row of its own.
        Assert.Equal(
            "After Helena MT, 8841 and 8842 need 53 ft 4 in of floor: 10 in more than trailer 5307 has.",
            Refused(Pallets(30, 20_000), Pallets(1, 1_000))
        );
        Assert.Equal(
            "Load 8842 takes the whole trailer, as it has no pallets or dimensions: enter them to haul it with 8841.",
            Refused(Pallets(4, 5_000), new CargoLine(null, null, 5_000, null, null, null, null, false, null))
        );
        Assert.Equal(
            "Load 8841 needs 34 °F and load 8842 -10 °F: a trailer has one temperature.",
            Refused(Pallets(4, 5_000, 34), Pallets(4, 5_000, -10))
        );
        Assert.Null(Refused(Pallets(4, 5_000, 34), Pallets(4, 5_000, 38)));
        Assert.Null(Refused(Pallets(4, 5_000, 34), Pallets(4, 5_000)));
        Assert.Equal(
            "Load 8841 (class 8) and load 8842 (class 4.2) may not ride on one trailer (49 CFR 177.848).",
            Refused(Pallets(4, 5_000, hazard: "8"), Pallets(4, 5_000, hazard: "4.2"))
        );
    }

    [Fact]
    public void Gross_weight_limits_a_light_trailer_behind_a_heavy_truck()
    {
        var limits = new TripLimits(TrailerSize.Typical(Equipment.Van), 22_000);
        Assert.Equal(80_000 - 22_000 - 14_800, limits.MostLb);
        Assert.Equal(45_000, new TripLimits(TrailerSize.Typical(Equipment.Van), 18_500).MostLb);
    }

    [Fact]
    public void A_load_is_put_where_it_adds_the_fewest_miles_with_the_next_delivery_at_the_doors()
    {
        var trip = Trip(Load(1, GreatFalls, Spokane));
        var added = trip.Insert(Some.Roads, Load(2, Helena, Missoula));
        Assert.Equal([11, 21, 22, 12], Ids(added.Visits));
        Assert.Equal(0, added.Late);
        Assert.False(added.NotBeside.Any);
        var direct = Some.Roads.Between(GreatFalls, Spokane).Miles;
        var around =
            Some.Roads.Between(GreatFalls, Helena).Miles
            + Some.Roads.Between(Helena, Missoula).Miles
            + Some.Roads.Between(Missoula, Spokane).Miles;
        Assert.Equal((int)Math.Round(around - direct), added.AddedMiles);
        Assert.True(added.AddedTime >= Duration.FromHours(2));
    }

    [Fact]
    public void A_load_that_makes_another_late_or_is_too_heavy_beside_it_says_so()
    {
        var tight = Some.Roads.Between(GreatFalls, Spokane).DoorToDoor.TotalHours + 1.5;
        var trip = Trip(Load(1, GreatFalls, Spokane, pickup: (1, 1), delivery: (1, 1 + tight)));
        var late = trip.Insert(Some.Roads, Load(2, Helena, Missoula, pickup: (2, 9), delivery: (2, 9)));
        Assert.Equal(1, late.Late);
        Assert.Contains("is reached", Itinerary.Late(late.Visits, late.Expected, late.LateBefore).Single());
        // Too heavy to ride beside the other, it is hauled after it.
        var heavy = trip.Insert(Some.Roads, Load(3, GreatFalls, Spokane, Pallets(4, 40_000)));
        Assert.Equal([11, 12, 31, 32], Ids(heavy.Visits));
        Assert.Equal("capacity.weight", heavy.NotBeside[0].Code);
    }

    [Fact]
    public void An_order_is_refused_that_delivers_before_it_picks_up_or_moves_what_was_reached()
    {
        var visits = Itinerary.Of([Load(1, GreatFalls, Spokane, left: -1), Load(2, Helena, Missoula)], [11, 21, 22, 12]);
        Assert.Null(Itinerary.OrderRefuses(visits, [11, 21, 12, 22]));
        Assert.Equal(
            "Load 8842 stops in Helena MT before Missoula MT: choose another place in the order.",
            Itinerary.OrderRefuses(visits, [11, 22, 21, 12])!.Message
        );
        Assert.Equal(
            "The truck has been in Great Falls MT already: that visit stays where it is.",
            Itinerary.OrderRefuses(visits, [21, 11, 22, 12])!.Message
        );
        Assert.Equal("order.visits", Itinerary.OrderRefuses(visits, [11, 21, 22])!.Code);
        Assert.Equal("order.visits", Itinerary.OrderRefuses(visits, [11, 21, 22, 22])!.Code);
    }

    [Fact]
    public void The_parts_of_the_legs_add_up_to_the_trip()
    {
        var towns = Gen.Int[0, 3].Select(i => new[] { GreatFalls, Helena, Missoula, Spokane }[i]);
        Gen.Select(Gen.Select(towns, towns).List[1, 6], towns.List[0, 3], Gen.Int[0, 99], Gen.Int[1, 40], Gen.Bool)
            .Sample(
                (pairs, fuel, seed, quarters, comes) =>
                {
                    var legs = pairs.Select((p, i) => Load(i + 1, p.Item1, p.Item2)).ToList();
                    var all = legs.Concat(fuel.Select((at, i) => TripStopTests.Stop(900 + i, TripStopKind.Fuel, at).OnTrip())).ToList();
                    var random = new Random(seed);
                    var visits = Itinerary.Of(all, all.SelectMany(l => l.Stops.Select(s => s.Id)).OrderBy(_ => random.Next()).ToList());
                    Assert.Equal(all.Sum(l => l.Stops.Count), visits.Distinct().Count());
                    Assert.Null(Itinerary.OrderRefuses(visits, Itinerary.Order(visits)));
                    var aboard = Itinerary.Aboard(visits);
                    Assert.Empty(aboard[^1]);

                    GeoPoint? from = comes ? Helena : null;
                    var parts = Itinerary.Parts(Some.Roads, legs, visits, from, quarters * 0.25m);
                    double Miles(bool loaded) =>
                        Enumerable
                            .Range(1, visits.Count - 1)
                            .Where(i => aboard[i - 1].Count > 0 == loaded)
                            .Sum(i => Some.Roads.Between(visits[i - 1].Stop.Point, visits[i].Stop.Point).Miles);
                    Assert.Equal(new Drive(Miles(true), 0).WholeMiles, parts.Sum(p => p.Miles));
                    Assert.Equal(
                        new Drive(Miles(false) + (from is { } f ? Some.Roads.Between(f, visits[0].Stop.Point).Miles : 0), 0).WholeMiles,
                        parts.Sum(p => p.EmptyMiles)
                    );
                    Assert.Equal(quarters * 0.25m, parts.Sum(p => p.Days));
                    Assert.All(parts, p => Assert.True(p is { Miles: >= 0, EmptyMiles: >= 0, Days: > 0 }));
                }
            );
    }

    [Fact]
    public void A_load_alone_on_its_trip_has_all_of_it()
    {
        var leg = Load(1, GreatFalls, Spokane);
        var part = Itinerary.Parts(Some.Roads, [leg], Itinerary.Of([leg], []), Helena, 1.25m).Single();
        Assert.Equal(Some.Roads.Through(leg.Stops).WholeMiles, part.Miles);
        Assert.Equal(Some.Roads.Between(Helena, GreatFalls).WholeMiles, part.EmptyMiles);
        Assert.Equal(1.25m, part.Days);
    }

    [Fact]
    public void Random_insertions_keep_the_order_of_what_was_there_and_never_overload_the_trailer()
    {
        var towns = Gen.Int[0, 3].Select(i => new[] { GreatFalls, Helena, Missoula, Spokane }[i]);
        Gen.Select(towns, towns, Gen.Int[1, 14], Gen.Int[500, 20_000])
            .List[2, 5]
            .Sample(loads =>
            {
                var trip = Trip();
                foreach (var ((from, to, pallets, pounds), i) in loads.Select((l, i) => (l, i)))
                {
                    var added = trip.Insert(Some.Roads, Load(i + 1, from, to, Pallets(pallets, pounds)));
                    Assert.Equal(Ids(trip.Visits), Ids(added.Visits.Where(v => v.Leg.LegId != i + 1)));
                    Assert.All(Itinerary.Aboard(added.Visits).Where(a => a.Count > 1), a =>
                        Assert.True(Capacity.Of(a, Reefer) is { RoomLb: >= 0, RoomIn: >= 0 })
                    );
                    trip = trip with { Visits = added.Visits };
                }
            });
    }

    [Fact]
    public void What_a_load_adds_is_its_revenue_less_the_added_miles_and_time()
    {
        var figures = new CostFigures(6.5m, 3.90m, 0.62m, 0.21m, 148m, 0.18m);
        Assert.Equal(Money.Usd(795.70m), TripOffers.Adds(Money.Usd(900), 60, Duration.FromHours(3), figures));
        Assert.Equal(Money.Usd(900), TripOffers.Adds(Money.Usd(900), -1, Duration.Zero, figures));
    }
}

/// <summary>The segregation table of 49 CFR 177.848(d).</summary>
public class SegregationTests
{
    private static readonly string[] All =
    [
        "1.1",
        "1.3",
        "1.4",
        "1.5",
        "1.6",
        "2.1",
        "2.2",
        "2.3",
        "3",
        "4.1",
        "4.2",
        "4.3",
        "5.1",
        "5.2",
        "6.1",
        "7",
        "8",
        "9",
    ];

    [Theory]
    [InlineData("3", "5.1", Segregated.Apart)]
    [InlineData("3", "8", Segregated.Together)]
    [InlineData("8", "4.2", Segregated.Never)]
    [InlineData("8", "5.1", Segregated.Apart)]
    [InlineData("2.1", "7", Segregated.Apart)]
    [InlineData("2.3", "3", Segregated.Never)]
    [InlineData("1.1D", "3", Segregated.Never)]
    [InlineData("1.4S", "2.2", Segregated.Together)]
    [InlineData("3 (8)", "4.2", Segregated.Never)]
    [InlineData("9", "1.1", Segregated.Together)]
    public void Examples_of_the_table(string a, string b, Segregated expected) =>
        Assert.Equal(expected, Segregation.Between(a, "I", b, "I"));

    [Fact]
    public void The_table_reads_the_same_both_ways_and_poisons_count_by_their_group()
    {
        Assert.All(All, a => Assert.All(All, b => Assert.Equal(Segregation.Between(a, "I", b, "I"), Segregation.Between(b, "I", a, "I"))));
        Assert.Equal(Segregated.Never, Segregation.Between("6.1", "I", "3", "II"));
        Assert.Equal(Segregated.Together, Segregation.Between("6.1", "III", "3", "II"));
        Assert.Equal(Segregated.Together, Segregation.Between(null, null, "3", "II"));
    }
}
