using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
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

    private static LoadFacts Facts(
        StopFacts[] stops,
        bool covered = true,
        bool onInvoice = false,
        bool paid = false,
        bool moverPaid = false,
        bool draft = false,
        bool cancelled = false
    ) => new(draft, false, cancelled, stops, [covered ? LegCover.Covered : LegCover.Open], onInvoice, paid, moverPaid);

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
            [
                LoadState.Draft,
                LoadState.Booked,
                LoadState.Covered,
                LoadState.Covered,
                LoadState.Rolling,
                LoadState.Delivered,
                LoadState.Billed,
                LoadState.Billed,
                LoadState.Closed,
            ],
            life.Select(LoadStates.Derive)
        );
    }

    [Fact]
    public void One_delivery_of_two_leaves_it_rolling() =>
        Assert.Equal(LoadState.Rolling, LoadStates.Derive(Facts([Loaded, Dropped, Drop])));

    /// <summary>The state is that of the leg that moves next; what has no truck yet is said beside it.</summary>
    [Theory]
    [InlineData(LoadState.Booked, 0, LegCover.Open)]
    [InlineData(LoadState.Tendered, 0, LegCover.Tendered)]
    [InlineData(LoadState.Covered, null, LegCover.Covered)]
    [InlineData(LoadState.Covered, 1, LegCover.Covered, LegCover.Open)]
    [InlineData(LoadState.Covered, 1, LegCover.Covered, LegCover.Tendered)]
    [InlineData(LoadState.Booked, 0, LegCover.Open, LegCover.Covered)]
    [InlineData(LoadState.Tendered, 0, LegCover.Tendered, LegCover.Open)]
    [InlineData(LoadState.Covered, 2, LegCover.Covered, LegCover.Covered, LegCover.Open)]
    public void The_leg_that_moves_next_decides(LoadState state, int? toCover, params LegCover[] legs)
    {
        var derived = LoadStates.Derive(new LoadFacts(false, false, false, [Ahead, Drop], legs, false, false, false));
        Assert.Equal((state, toCover), (derived, LoadStates.ToCover(derived, legs)));
        Assert.Equal([LoadState.Booked, LoadState.Tendered], Enum.GetValues<LoadState>().Where(s => s.IsOpen()));
    }

    [Fact]
    public void Freight_that_waits_for_a_truck_is_rolling_and_to_be_covered()
    {
        LegCover[] legs = [LegCover.Open];
        var state = LoadStates.Derive(new LoadFacts(false, false, false, [Loaded, Drop], legs, false, false, false));
        Assert.Equal((LoadState.Rolling, 0), (state, LoadStates.ToCover(state, legs)));
        Assert.Null(LoadStates.ToCover(LoadState.Delivered, legs));
    }

    /// <summary>A leg alone has the state of its load, and one of several its own.</summary>
    [Theory]
    [InlineData(LoadState.Rolling, LegCover.Covered, true, false, LoadState.Rolling)]
    [InlineData(LoadState.Rolling, LegCover.Open, false, false, LoadState.Booked)]
    [InlineData(LoadState.Covered, LegCover.Tendered, false, false, LoadState.Tendered)]
    [InlineData(LoadState.Rolling, LegCover.Covered, false, false, LoadState.Covered)]
    [InlineData(LoadState.Rolling, LegCover.Covered, true, true, LoadState.Delivered)]
    [InlineData(LoadState.Billed, LegCover.Covered, true, true, LoadState.Billed)]
    public void A_leg_has_the_state_of_a_load_with_only_it(LoadState load, LegCover cover, bool begun, bool ended, LoadState leg) =>
        Assert.Equal(leg, LoadStates.OfLeg(load, cover, begun, ended));

    [Fact]
    public void Cancelled_beats_everything() =>
        Assert.Equal(LoadState.Cancelled, LoadStates.Derive(Facts([Loaded, Dropped], onInvoice: true, cancelled: true)));
}

public class BookingTests
{
    [Fact]
    public void A_complete_order_is_booked_with_instants_in_each_places_zone()
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
            refused.Problems.Select(p => p.Field).ToHashSet()
        );
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
    [InlineData("long words", "driverInstructions")]
    public void Impossible_input_is_refused_by_its_field(string what, string field)
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
            _ => order with { DriverInstructions = new string('x', 10_000) },
        };
        Assert.Contains(Some.Book(order).Problems, p => p.Field == field);
    }

    [Fact]
    public void An_unreachable_appointment_warns_and_still_books()
    {
        var order = Some.Order();
        var booked = Some.Book(
            order with
            {
                Stops = [order.Stops[0], order.Stops[1] with { From = Some.Today.PlusDays(1) + new LocalTime(9, 0) }],
            }
        );
        Assert.StartsWith("Spokane would be", Assert.Single(booked.Value.Warnings).Message);
    }

    [Fact]
    public void Never_throws_for_any_input()
    {
        var text = Gen.OneOf(Gen.Int[0, 0].Select(_ => (string?)null), Gen.String.Select(s => (string?)s));
        var when = Gen.OneOf(
            Gen.Int[0, 0].Select(_ => (LocalDateTime?)null),
            Gen.Int[-5000, 5000].Select(h => (LocalDateTime?)(Some.Today + LocalTime.Midnight).PlusHours(h))
        );
        var stop = Gen.Select(Gen.Int[-1, 1], Gen.Long[0, 3], when, when, text, (k, p, f, u, n) =>
            new StopOrder(k < 0 ? null : (StopKind)k, p == 0 ? null : p, f, u, n)
        );
        var charge = Gen.Select(Gen.Int[-1, 7], text, Gen.Decimal, (k, d, a) => new ChargeOrder(k < 0 ? null : (ChargeKind)k, d, a));
        Gen.Select(stop.List[0, 5], charge.List[0, 4], text, Gen.Bool)
            .Sample(
                (stops, charges, reference, draft) =>
                {
                    var outcome = Some.Book(new LoadOrder(7, reference, Equipment.Van, stops, [], charges, reference, draft));
                    return outcome.Ok || outcome.Problems.All(p => p.Message.Length > 0);
                },
                iter: 2000
            );
    }

    [Theory]
    [InlineData(ChargeBasis.PerMile, "2.5", 344, 860.00)]
    [InlineData(ChargeBasis.PerMile, "0.4567", 344, 157.10)]
    [InlineData(ChargeBasis.PerCwt, "3.25", 344, 1248.00)]
    [InlineData(ChargeBasis.Percent, "12.5", 344, 137.56)]
    public void Charges_are_calculated_from_miles_weight_or_line_haul_to_the_cent(
        ChargeBasis basis,
        string rate,
        int miles,
        double expected
    ) =>
        Assert.Equal(
            (decimal)expected,
            ChargePrices.Price(basis, null, decimal.Parse(rate), miles, 38_400, Money.Usd(1100.50m)).Value.Amount.Amount
        );

    [Fact]
    public void The_quantity_of_a_charge_must_be_known()
    {
        Assert.Equal("quantity", ChargePrices.Price(ChargeBasis.PerMile, null, 2m, null, 100, null).Problems[0].Code);
        Assert.Equal("quantity", ChargePrices.Price(ChargeBasis.PerCwt, null, 2m, 10, null, null).Problems[0].Code);
        Assert.Equal("quantity", ChargePrices.Price(ChargeBasis.Percent, null, 2m, 10, 100, null).Problems[0].Code);
        Assert.Equal("too.large", ChargePrices.Price(ChargeBasis.PerMile, null, 99_999m, 9_999, null, null).Problems[0].Code);
        Assert.Equal("rate", ChargePrices.Price(ChargeBasis.PerMile, null, 2.00001m, 10, null, null).Problems[0].Code);
    }

    [Fact]
    public void A_percentage_is_of_the_line_haul_in_any_order_and_charges_add_up()
    {
        var load = Some.Book(
            Some.Order() with
            {
                Charges =
                [
                    new ChargeOrder(ChargeKind.FuelSurcharge, null, null, ChargeBasis.Percent, 10m),
                    new ChargeOrder(ChargeKind.LineHaul, null, null, ChargeBasis.PerMile, 3m),
                    new ChargeOrder(ChargeKind.Tarp, null, 80m),
                ],
            }
        ).Value;
        Assert.Equal([Math.Round(load.Miles!.Value * 0.3m, 2), load.Miles.Value * 3m, 80m], load.Charges.Select(c => c.Amount.Amount));
        Assert.Equal(load.Charges.Sum(c => c.Amount.Amount), load.Revenue.Amount);
    }

    [Fact]
    public void More_miles_propose_the_new_amounts_and_change_nothing_by_themselves()
    {
        StoredCharge Charge(long id, ChargeKind kind, ChargeBasis basis, decimal? rate, decimal? quantity, decimal amount) =>
            new(id, kind, basis, rate, quantity, Money.Usd(amount));

        StoredCharge[] charges =
        [
            Charge(1, ChargeKind.LineHaul, ChargeBasis.PerMile, 2.50m, 500, 1250m),
            Charge(2, ChargeKind.FuelSurcharge, ChargeBasis.Percent, 10m, 1250m, 125m),
            Charge(3, ChargeKind.Tarp, ChargeBasis.Flat, null, null, 80m),
        ];
        var proposal = MileProposal.Of(charges, 560)!;
        Assert.Equal((500, 560, 1455m, 1620m), (proposal.ChargedMiles, proposal.Miles, proposal.Before.Amount, proposal.After.Amount));
        Assert.Null(MileProposal.Of(charges, 500));
        Assert.Null(MileProposal.Of(charges, null));
        Assert.Null(MileProposal.Of([charges[2]], 560));
        Assert.Null(MileProposal.Refusal(LoadState.Rolling, "6151", proposal));
        Assert.Equal("load.billed", MileProposal.Refusal(LoadState.Billed, "6151", proposal)!.Code);
        Assert.Equal("miles.same", MileProposal.Refusal(LoadState.Rolling, "6151", null)!.Code);
    }

    [Fact]
    public void References_and_a_typed_number_are_stored_and_empty_lines_are_not()
    {
        var order = Some.Order() with
        {
            Number = "MT-77/1",
            References = [new ReferenceOrder(ReferenceKind.Seal, " 88213 "), new ReferenceOrder(ReferenceKind.PickupNumber, "")],
        };
        var load = Some.Book(order).Value;
        Assert.Equal(("MT-77/1", new BookedReference(ReferenceKind.Seal, "88213")), (load.Number, load.References.Single()));
        Assert.Equal("number", Some.Book(order with { Number = "77 and <b>" }).Problems.Single().Field);
    }

    [Fact]
    public void A_reference_is_of_the_load_or_of_one_of_its_stops()
    {
        var order = Some.Order() with
        {
            References =
            [
                new ReferenceOrder(ReferenceKind.PurchaseOrder, "PO 1"),
                new ReferenceOrder(ReferenceKind.Appointment, "APT 9", 2),
            ],
        };
        Assert.Equal([null, 2], Some.Book(order).Value.References.Select(r => r.Stop));
        foreach (var stop in new[] { 0, 3, -1 })
        {
            var wrong = order with { References = [new ReferenceOrder(ReferenceKind.Appointment, "x", stop)] };
            Assert.Equal("references[0].stop", Some.Book(wrong).Problems.Single().Field);
        }
    }

    [Fact]
    public void Freight_that_crosses_the_border_asks_for_its_customs_broker()
    {
        Outcome<BookedLoad> Book(string region, params ReferenceOrder[] references) =>
            Booking.Decide(
                Some.Roads,
                Some.Order() with
                {
                    References = references,
                },
                new Dictionary<long, KnownPlace> { [1] = Some.Creamery, [2] = Some.ColdStore with { Region = region } },
                customerKnown: true,
                Some.Today
            );
        Assert.Contains(Book("AB").Value.Warnings, w => w.Code == "customs.broker");
        Assert.DoesNotContain(
            Book("AB", new ReferenceOrder(ReferenceKind.CustomsBroker, "Coulee Customs 403-555-0122")).Value.Warnings,
            w => w.Code == "customs.broker"
        );
        Assert.DoesNotContain(Book("WA").Value.Warnings, w => w.Code == "customs.broker");
    }

    [Fact]
    public void A_load_is_billed_to_its_customer_or_to_whom_it_says()
    {
        var order = Some.Order() with { CustomerId = 1, FreightTerms = FreightTerms.Collect };
        Assert.Equal((1, FreightTerms.Collect), (Some.Book(order).Value.PayerId, Some.Book(order).Value.FreightTerms));
        Assert.Equal(2, Some.Book(order with { BillToId = 2 }).Value.PayerId);

        // The customer itself is not somebody else.
        Assert.Null(Some.Book(order with { BillToId = 1 }).Value.BillToId);

        // Third party means somebody else.
        var third = order with { FreightTerms = FreightTerms.ThirdParty };
        Assert.Equal("billToId", Some.Book(third).Problems.Single().Field);
        Assert.Equal("billToId", Some.Book(third with { BillToId = 1 }).Problems.Single().Field);
        Assert.Equal(2, Some.Book(third with { BillToId = 2 }).Value.PayerId);
    }

    private static readonly CustomField[] CustomFields =
    [
        new(1, "Cost center", CustomFieldKind.Text, [], true),
        new(2, "Cases", CustomFieldKind.Number, [], false),
        new(3, "Best before", CustomFieldKind.Date, [], false),
        new(4, "Season", CustomFieldKind.Choice, ["Spring", "Fall"], false),
    ];

    private static Outcome<BookedLoad> BookOwn(bool draft, params (long Field, string? Value)[] values) =>
        Booking.Decide(
            Some.Roads,
            Some.Order() with
            {
                Draft = draft,
                CustomFields = values.ToDictionary(v => v.Field, v => v.Value),
            },
            Some.Places,
            true,
            Some.Today,
            CustomFields
        );

    [Fact]
    public void Custom_fields_are_parsed_by_type()
    {
        var kept = BookOwn(false, (1, " 4410 "), (2, "1,200.5"), (3, "2026-12-01"), (4, "fall")).Value.CustomFields;
        Assert.Equal(["4410", "1200.5", "2026-12-01", "Fall"], kept.OrderBy(k => k.Key).Select(k => k.Value));
    }

    [Fact]
    public void Custom_fields_refuse_wrong_values_and_are_optional_on_drafts()
    {
        Assert.Equal(
            ["customFields[1]", "customFields[2]", "customFields[3]", "customFields[4]", "customFields[9]"],
            BookOwn(false, (2, "many"), (3, "soon"), (4, "Winter"), (9, "x")).Problems.Select(p => p.Field)
        );
        Assert.True(BookOwn(true).Ok);
    }

    [Fact]
    public void A_choice_needs_choices()
    {
        Assert.Equal("choices", CustomField.Define(0, "Season", CustomFieldKind.Choice, ["one", " ONE "], false).Problems.Single().Field);
        Assert.Equal(["kind"], CustomField.Define(0, "Season", null, null, false).Problems.Select(p => p.Field));
    }

    [Fact]
    public void Credit_counts_open_invoices_unbilled_loads_and_this_load()
    {
        static string? Hold(decimal? limit, decimal load) =>
            Credit.Hold(
                "Snowberry Creamery",
                new CreditTerms(limit is { } l ? Money.Usd(l) : null),
                new CreditExposure(Money.Usd(6_000m), Money.Usd(3_000m)),
                Money.Usd(load)
            );
        Assert.Null(Hold(null, 1_000_000m));
        Assert.Null(Hold(10_000m, 1_000m));
        Assert.Contains("$10,000.01", Hold(10_000m, 1_000.01m), StringComparison.Ordinal);
    }
}
