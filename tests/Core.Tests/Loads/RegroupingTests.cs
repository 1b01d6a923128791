using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Loads;

public class RegroupingTests
{
    private static readonly LocalDateTime Monday = new(2026, 11, 30, 8, 0);

    private static readonly LoadWork Booked = new(LoadState.Booked, "6151");

    private static StopOrder Stop(StopKind kind, long place, int hours, int length = 4) =>
        new(kind, place, Monday.PlusHours(hours), Monday.PlusHours(hours + length), null);

    private static FreightOrder Line(string what, int? pallets, int? pieces, int? pounds) => new(what, pieces, pallets, pounds, null);

    /// <summary>Butter and cheese for two receivers, with a purchase order for each.</summary>
    private static readonly LoadOrder Order = new(
        4,
        "PO 77",
        Equipment.Reefer,
        [Stop(StopKind.Pickup, 1, 0), Stop(StopKind.Delivery, 2, 10), Stop(StopKind.Delivery, 3, 14)],
        [Line("butter", 10, 400, 8_000), Line("cheese", 4, null, 5_000)],
        [
            new(ChargeKind.LineHaul, null, 1_000.01m),
            new(ChargeKind.FuelSurcharge, null, null, ChargeBasis.PerMile, 0.42m),
            new(ChargeKind.Discount, "volume", 10m),
        ],
        "Call ahead.",
        false
    )
    {
        References =
        [
            new(ReferenceKind.Seal, "S1"),
            new(ReferenceKind.DeliveryNumber, "D2", 2),
            new(ReferenceKind.DeliveryNumber, "D3", 3),
        ],
        Features = ["liftgate"],
    };

    private static DividedPart Part(int[] stops, params decimal[] amounts) => new(stops, amounts);

    [Fact]
    public void A_load_for_two_receivers_becomes_two_loads_with_their_share_of_freight_charges_and_numbers()
    {
        var parts = Regrouping.Divide(Booked, false, Order, [Part([1, 2], 7, 0), Part([1, 3], 3, 4)]).Value;
        Assert.Equal(["PO 77", "PO 77"], parts.Select(p => p.Reference));
        Assert.Equal(
            [
                [1L, 2L],
                [1L, 3L],
            ],
            parts.Select(p => p.Stops.Select(s => s.PlaceId!.Value))
        );
        Assert.Equal(
            [
                [("butter", 7, 280, 5_600)],
                [("butter", 3, 120, 2_400), ("cheese", 4, null, 5_000)],
            ],
            parts.Select(p => p.Freight.Select(f => (f.Description!, f.Pallets!.Value, f.Pieces, f.WeightLb!.Value)))
        );
        // 5,600 of 13,000 lb.
        Assert.Equal([430.77m, 569.24m], parts.Select(p => p.Charges[0].Amount!.Value));
        Assert.Equal([4.31m, 5.69m], parts.Select(p => p.Charges[2].Amount!.Value));
        Assert.Equal([0.42m, 0.42m], parts.Select(p => p.Charges[1].Rate!.Value));
        Assert.Equal(
            [
                [("S1", null), ("D2", 2)],
                [("S1", null), ("D3", (int?)2)],
            ],
            parts.Select(p => p.References.Select(r => (r.Value!, r.Stop)))
        );
        Assert.All(parts, p => Assert.Equal(["liftgate"], p.Features));
        Assert.Equal("6151-2", Regrouping.NumberOf("6151", 2));
    }

    [Fact]
    public void Gallons_divide_as_gallons_and_a_vehicle_goes_whole()
    {
        var order = Order with
        {
            Freight =
            [
                new("syrup", null, null, 60_000, null, Bulk: new BulkOrder(1, 5_000.5m)),
                new("wagon", 1, null, 3_700, null, Vehicle: new VehicleOrder(2019, null, null, null, "wagon")),
            ],
        };
        var parts = Regrouping.Divide(Booked, false, order, [Part([1, 2, 3], 2_000.25m, 0), Part([1, 2, 3], 3_000.25m, 1)]).Value;
        Assert.Equal([2_000.25m, 3_000.25m], parts.Select(p => p.Freight[0].Bulk!.Volume!.Value));
        Assert.Single(parts, p => p.Freight.Any(f => f.Vehicle is not null));
        Assert.Contains(
            "Wagon: whole pieces only",
            Regrouping.Divide(Booked, false, order, [Part([1, 2, 3], 2_000m, 0.5m), Part([1, 2, 3], 3_000.5m, 0.5m)]).Problems[0].Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_division_that_does_not_work_is_refused_in_words()
    {
        string Refused(DividedPart[] parts, LoadOrder? order = null, LoadWork? work = null, bool split = false) =>
            Regrouping.Divide(work ?? Booked, split, order ?? Order, parts).Problems[0].Message;
        DividedPart[] good = [Part([1, 2], 7, 0), Part([1, 3], 3, 4)];
        Assert.Equal("Butter: 10 pallets to divide, and the new loads have 9.", Refused([Part([1, 2], 6, 0), good[1]]));
        Assert.Equal("Stop 3 is on none of the new loads.", Refused([good[0], Part([1, 2], 3, 4)]));
        Assert.Equal("New load 1 needs a pickup and a delivery after it.", Refused([Part([2, 3], 7, 0), good[1]]));
        Assert.Equal("New load 2: name the load’s stops in their order.", Refused([good[0], Part([3, 1], 3, 4)]));
        Assert.Equal("New load 2: name the load’s stops in their order.", Refused([good[0], Part([1, 4], 3, 4)]));
        Assert.Equal("New load 1 has no freight.", Refused([Part([1, 2], 0, 0), Part([1, 3], 10, 4)]));
        Assert.Equal("New load 1: an amount is below zero.", Refused([Part([1, 2], -1, 0), Part([1, 3], 11, 4)]));
        Assert.Equal("A load is divided into 2 to 12 loads.", Refused([good[0]]));
        Assert.Contains("cash on delivery", Refused(good, Order with { Cod = 400 }), StringComparison.Ordinal);
        Assert.Contains("is a move", Refused(good, Order with { Move = new MoveOf(null) }), StringComparison.Ordinal);
        Assert.Contains("assigned to Moses", Refused(good, work: new(LoadState.Covered, "6151", "Moses")), StringComparison.Ordinal);
        Assert.Contains("join its legs", Refused(good, split: true), StringComparison.Ordinal);
        Assert.Equal(
            "Tools has no quantity: it can go on one load only.",
            Refused([Part([1, 2], 1), Part([1, 3], 1)], Order with { Freight = [Line("tools", null, null, null)] })
        );
    }

    /// <summary>Whatever the parts are, nothing is lost and nothing is added: pallets, pieces, pounds and cents.</summary>
    [Fact]
    public void A_division_conserves_everything() =>
        Gen.Select(Gen.Int[0, 30].Array[2, 6], Gen.Int[0, 9].Array[6, 6], Gen.Int[1, 3_000], Gen.Int[1, 40_000], Gen.Int[0, 500_000])
            .Where(x => x.Item1.Sum() > 0)
            .Sample(x =>
            {
                var (pallets, others, pieces, pounds, cents) = x;
                // Each part has something of the second line.
                var second = pallets.Select((_, i) => others[i] + 1).ToList();
                var order = Order with
                {
                    Freight = [Line("a", pallets.Sum(), pieces, pounds), Line("b", null, second.Sum(), null)],
                    Charges = [new(ChargeKind.LineHaul, null, cents / 100m)],
                };
                var made = Regrouping.Divide(Booked, false, order, pallets.Select((p, i) => Part([1, 2, 3], p, second[i])).ToList()).Value;
                var first = made.SelectMany(m => m.Freight.Where(f => f.Description == "a")).ToList();
                Assert.Equal(
                    (pallets.Sum(), pieces, pounds, second.Sum(), cents / 100m),
                    (
                        first.Sum(f => f.Pallets ?? 0),
                        first.Sum(f => f.Pieces ?? 0),
                        first.Sum(f => f.WeightLb ?? 0),
                        made.Sum(m => m.Freight.Single(f => f.Description == "b").Pieces!.Value),
                        made.Sum(m => m.Charges[0].Amount!.Value)
                    )
                );
                Assert.All(made, m => Assert.True(m.Charges[0].Amount >= 0));
            });

    private static CombinedLoad Load(string number, LoadOrder order, params decimal[] amounts) =>
        new(
            number,
            new LoadWork(LoadState.Booked, number),
            false,
            order,
            order.Stops.Select(s => s.From!.Value.InUtc().ToInstant()).ToList(),
            amounts.Select(a => Money.Usd(a)).ToList()
        );

    private static LoadOrder Simple(string reference, int pickup, int delivery, long from = 1, long to = 2) =>
        Order with
        {
            Reference = reference,
            Stops = [Stop(StopKind.Pickup, from, pickup), Stop(StopKind.Delivery, to, delivery)],
            Freight = [Line(reference, 2, null, 900)],
            Charges = [new(ChargeKind.LineHaul, null, null, ChargeBasis.PerMile, 2.5m)],
            References = [new(ReferenceKind.Seal, $"S {reference}", 2)],
        };

    [Fact]
    public void Orders_that_go_the_same_way_become_one_load_with_the_numbers_and_amounts_of_each()
    {
        var combined = Regrouping
            .Combine([Load("6151", Simple("PO 1", 0, 12), 300), Load("6152", Simple("PO 2", 2, 12, to: 3), 310.55m)])
            .Value;
        // One pickup, at the time that suits both, then the two deliveries.
        Assert.Equal(
            [(1L, 10, 12), (2L, 20, 0), (3L, 20, 0)],
            combined.Stops.Select(s => (s.PlaceId!.Value, s.From!.Value.Hour, s.Until!.Value.Hour))
        );
        Assert.Equal("PO 1", combined.Reference);
        Assert.Equal(
            [(ReferenceKind.OrderNumber, "PO 2", 3), (ReferenceKind.Seal, "S PO 1", 2), (ReferenceKind.Seal, "S PO 2", 3)],
            combined.References.Select(r => (r.Kind!.Value, r.Value!, r.Stop!.Value))
        );
        Assert.Equal([("load 6151", 300m), ("load 6152", 310.55m)], combined.Charges.Select(c => (c.Description!, c.Amount!.Value)));
        Assert.All(combined.Charges, c => Assert.Equal((ChargeBasis.Flat, null), (c.Basis, c.Rate)));
        Assert.Equal(["PO 1", "PO 2"], combined.Freight.Select(f => f.Description));
        Assert.Equal("Call ahead.", combined.DriverInstructions);
    }

    [Fact]
    public void Only_open_loads_that_are_billed_alike_and_need_one_trailer_are_combined()
    {
        var (one, two) = (Load("6151", Simple("PO 1", 0, 12), 300), Load("6152", Simple("PO 2", 2, 12), 310));
        string Refused(params CombinedLoad[] loads) => Regrouping.Combine(loads).Problems[0].Message;
        CombinedLoad Other(Func<LoadOrder, LoadOrder> change) => two with { Order = change(two.Order) };
        Assert.Contains("Choose 2 to 12 loads", Refused(one), StringComparison.Ordinal);
        Assert.Contains("differ in their customer", Refused(one, Other(o => o with { CustomerId = 5 })), StringComparison.Ordinal);
        Assert.Contains("differ in their bill-to", Refused(one, Other(o => o with { BillToId = 5 })), StringComparison.Ordinal);
        Assert.Contains(
            "differ in their equipment",
            Refused(one, Other(o => o with { Equipment = Equipment.Van })),
            StringComparison.Ordinal
        );
        Assert.Contains("differ in their currency", Refused(one, Other(o => o with { Currency = Currency.CAD })), StringComparison.Ordinal);
        Assert.Contains("is a draft", Refused(one, two with { Work = new(LoadState.Draft, "6152") }), StringComparison.Ordinal);
        Assert.Contains(
            "assigned to Prairie Freight",
            Refused(one, two with { Work = new(LoadState.Tendered, "6152", "Prairie Freight") }),
            StringComparison.Ordinal
        );
        // Cash on delivery of each is collected together.
        Assert.Equal(500m, Regrouping.Combine([one, Other(o => o with { Cod = 500 })]).Value.Cod);
    }

    /// <summary>However the windows lie, each load's stops keep their order, and every charge its amount.</summary>
    [Fact]
    public void A_combination_keeps_the_order_of_each_load_and_all_amounts() =>
        Gen.Select(Gen.Int[0, 20], Gen.Int[1, 20], Gen.Int[1, 4], Gen.Int[1, 100_000])
            .Array[2, 5]
            .Sample(loads =>
            {
                var parts = loads
                    .Select(
                        (l, i) =>
                            Load($"{i}", Simple($"PO {i}", l.Item1, l.Item1 + l.Item2, from: l.Item3, to: 10 + l.Item3), l.Item4 / 100m)
                    )
                    .ToList();
                var combined = Regrouping.Combine(parts).Value;
                Assert.Equal(loads.Sum(l => l.Item4 / 100m), combined.Charges.Sum(c => c.Amount!.Value));
                Assert.Equal((StopKind.Pickup, StopKind.Delivery), (combined.Stops[0].Kind!.Value, combined.Stops[^1].Kind!.Value));
                Assert.All(parts, p =>
                {
                    var seal = combined.References.Single(r => r.Value == p.Order.References[0].Value);
                    var delivery = combined.Stops[seal.Stop!.Value - 1];
                    Assert.Equal(p.Order.Stops[1].PlaceId, delivery.PlaceId);
                    var pickup = combined
                        .Stops.Select((s, i) => (s, i))
                        .First(x => x.s.PlaceId == p.Order.Stops[0].PlaceId && x.s.From >= p.Order.Stops[0].From)
                        .i;
                    Assert.True(pickup < seal.Stop - 1);
                    Assert.True(delivery.From >= p.Order.Stops[1].From && delivery.Until <= p.Order.Stops[1].Until);
                });
            });

    [Fact]
    public void Loads_are_restored_until_a_truck_has_what_replaced_them()
    {
        (LoadWork, bool) New(LoadState state, string? who = null, bool split = false) => (new(state, "6160", who), split);
        Assert.Null(Regrouping.RestoreRefusal("6151", [New(LoadState.Booked), New(LoadState.Draft)]));
        Assert.Contains("was not divided", Regrouping.RestoreRefusal("6151", [])!.Message, StringComparison.Ordinal);
        Assert.Contains(
            "assigned to Moses: unassign it first",
            Regrouping.RestoreRefusal("6151", [New(LoadState.Covered, "Moses")])!.Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "6160 is canceled",
            Regrouping.RestoreRefusal("6151", [New(LoadState.Cancelled)])!.Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "is split",
            Regrouping.RestoreRefusal("6151", [New(LoadState.Booked, split: true)])!.Message,
            StringComparison.Ordinal
        );
    }
}
