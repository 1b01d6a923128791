using CsCheck;
using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Loads;

public class LoadStateTests
{
    private static readonly StopFacts Ahead = new(StopKind.Pickup, false, false, false);
    private static readonly StopFacts Loaded = new(StopKind.Pickup, true, true, false);
    private static readonly StopFacts Drop = new(StopKind.Delivery, false, false, false);
    private static readonly StopFacts Dropped = new(StopKind.Delivery, true, false, true);

    private static LoadFacts Facts(StopFacts[] stops, bool covered = true, bool onInvoice = false, bool paid = false, bool moverPaid = false, bool draft = false, bool cancelled = false) =>
        new(draft, false, cancelled, stops, [covered], onInvoice, paid, moverPaid);

    [Fact]
    public void Follows_the_life_of_a_load_from_the_call_to_the_last_payment()
    {
        LoadFacts[] life =
        [
            Facts([Ahead, Drop], covered: false, draft: true),
            Facts([Ahead, Drop], covered: false),
            Facts([Ahead, Drop]),
            Facts([Ahead with { Arrived = true }, Drop]),
            Facts([Loaded, Drop]),
            Facts([Loaded, Dropped]),
            Facts([Loaded, Dropped], onInvoice: true),
            Facts([Loaded, Dropped], onInvoice: true, paid: true),
            Facts([Loaded, Dropped], onInvoice: true, paid: true, moverPaid: true),
        ];
        Assert.Equal(
            [LoadState.Draft, LoadState.Booked, LoadState.Covered, LoadState.Covered, LoadState.Rolling, LoadState.Delivered, LoadState.Billed, LoadState.Billed, LoadState.Closed],
            life.Select(LoadStates.Derive));
    }

    [Fact]
    public void One_delivery_of_two_leaves_it_rolling() => Assert.Equal(LoadState.Rolling, LoadStates.Derive(Facts([Loaded, Dropped, Drop])));

    [Fact]
    public void Two_legs_are_covered_only_when_both_have_someone() =>
        Assert.Equal(LoadState.Booked, LoadStates.Derive(new LoadFacts(false, false, false, [Ahead, Drop], [true, false], false, false, false)));

    [Fact]
    public void Cancelled_beats_everything() => Assert.Equal(LoadState.Cancelled, LoadStates.Derive(Facts([Loaded, Dropped], onInvoice: true, cancelled: true)));
}

public class BookingTests
{
    [Fact]
    public void A_whole_order_is_booked_with_instants_in_the_places_own_zones()
    {
        var load = Some.Book(Some.Order()).Value;
        Assert.Equal(Instant.FromUtc(2026, 11, 24, 13, 0), load.Stops[0].At!.Value.From);
        Assert.Equal(Instant.FromUtc(2026, 11, 25, 1, 0), load.Stops[1].At!.Value.From);
        Assert.InRange(load.Miles!.Value, 330, 360);
        Assert.Empty(load.Warnings);
    }

    [Fact]
    public void An_empty_order_names_every_field_that_is_missing()
    {
        var refused = Some.Book(new LoadOrder(null, null, null, [], [], [], null, false));
        Assert.Superset(
            new HashSet<string?> { "customerId", "equipment", "stops", "freight[0].description", "charges[0].amount" },
            refused.Problems.Select(p => p.Field).ToHashSet());
        Assert.All(refused.Problems, p => Assert.EndsWith(".", p.Message));
    }

    [Fact]
    public void A_draft_needs_nothing() => Assert.True(Some.Book(new LoadOrder(null, null, null, [], [], [], null, true)).Ok);

    [Theory]
    [InlineData("delivery before pickup", "stops[1].from")]
    [InlineData("window backwards", "stops[1].until")]
    [InlineData("unknown place", "stops[1].placeId")]
    [InlineData("pickup last", "stops[1].kind")]
    [InlineData("part cents", "charges[0].amount")]
    [InlineData("negative", "charges[0].amount")]
    [InlineData("too heavy", "freight[0].weightLb")]
    [InlineData("far year", "stops[0].from")]
    [InlineData("long words", "instructions")]
    public void What_cannot_be_is_refused_by_its_field(string what, string field)
    {
        var order = Some.Order();
        var (first, last) = (order.Stops[0], order.Stops[1]);
        order = what switch
        {
            "delivery before pickup" => order with { Stops = [first, last with { From = Some.Today + new LocalTime(8, 0) }] },
            "window backwards" => order with { Stops = [first, last with { Until = last.From!.Value.PlusHours(-1) }] },
            "unknown place" => order with { Stops = [first, last with { PlaceId = 99 }] },
            "pickup last" => order with { Stops = [first, last with { Kind = StopKind.Pickup }] },
            "part cents" => order with { Charges = [new ChargeOrder(ChargeKind.LineHaul, null, 10.005m)] },
            "negative" => order with { Charges = [new ChargeOrder(ChargeKind.LineHaul, null, -10m)] },
            "too heavy" => order with { Freight = [order.Freight[0] with { WeightLb = 9_000_000 }] },
            "far year" => order with { Stops = [first with { From = new LocalDateTime(1926, 11, 24, 6, 0) }, last] },
            _ => order with { Instructions = new string('x', 10_000) },
        };
        Assert.Contains(Some.Book(order).Problems, p => p.Field == field);
    }

    [Fact]
    public void What_cannot_be_reached_in_time_is_warned_of_and_still_booked()
    {
        var order = Some.Order();
        var booked = Some.Book(order with { Stops = [order.Stops[0], order.Stops[1] with { From = Some.Today.PlusDays(1) + new LocalTime(9, 0) }] });
        Assert.StartsWith("Spokane would be", Assert.Single(booked.Value.Warnings).Message);
    }

    [Fact]
    public void Never_throws_whatever_is_typed()
    {
        var text = Gen.OneOf(Gen.Int[0, 0].Select(_ => (string?)null), Gen.String.Select(s => (string?)s));
        var when = Gen.OneOf(Gen.Int[0, 0].Select(_ => (LocalDateTime?)null), Gen.Int[-5000, 5000].Select(h => (LocalDateTime?)(Some.Today + LocalTime.Midnight).PlusHours(h)));
        var stop = Gen.Select(Gen.Int[-1, 1], Gen.Long[0, 3], when, when, text, (k, p, f, u, n) => new StopOrder(k < 0 ? null : (StopKind)k, p == 0 ? null : p, f, u, n));
        var charge = Gen.Select(Gen.Int[-1, 7], text, Gen.Decimal, (k, d, a) => new ChargeOrder(k < 0 ? null : (ChargeKind)k, d, a));
        Gen.Select(stop.List[0, 5], charge.List[0, 4], text, Gen.Bool).Sample((stops, charges, reference, draft) =>
        {
            var outcome = Some.Book(new LoadOrder(7, reference, Equipment.Van, stops, [], charges, reference, draft));
            return outcome.Ok || outcome.Problems.All(p => p.Message.Length > 0);
        }, iter: 2000);
    }
}
