using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

/// <summary>Expenses on trips: receipts, what is refused, and how they reach the books and the driver's settlement.</summary>
public class TripExpenseTests
{
    private static readonly LocalDate Today = new(2026, 11, 24);
    private static readonly IReadOnlyList<Account> Chart = [.. Accounts.All, .. Accounts.ToBeginWith];

    private static readonly ExpenseTrip Trip = new(
        8,
        "8889",
        false,
        new LocalDate(2026, 11, 20),
        null,
        118,
        [new ExpenseDriver(1, "Moses Okafor", WorkerKind.Employee), new ExpenseDriver(2, "Tess Marlow", WorkerKind.OwnerOperator)],
        [new ExpenseLeg(11, 101, "4471", 300), new ExpenseLeg(12, 102, "4472", 100)]
    );

    private static readonly ExpenseOrder Scale = new(
        CostKind.Scale,
        new LocalDate(2026, 11, 22),
        Money.Usd(14.50m),
        PaidBy.Driver,
        "Gorge Scales",
        "or",
        null,
        null,
        null,
        null,
        null,
        null,
        null,
        null,
        null,
        null
    );

    private static readonly ExpenseOrder Fuel = Scale with
    {
        Kind = CostKind.Fuel,
        Amount = null,
        PaidBy = PaidBy.CompanyCard,
        Quantity = 102.5m,
        Price = 3.799m,
    };

    private static Outcome<TripExpense> Check(ExpenseOrder order, ExpenseTrip? trip = null, string? same = null) =>
        TripExpense.Check(order, trip ?? Trip, Today, Chart, same, new Validation { Currency = order.Amount?.Currency ?? Currency.USD });

    [Theory]
    [InlineData(102.5, VolumeUnit.Gallons, 3.799, null, 102.5, 3.799, 389.40)]
    [InlineData(102.5, VolumeUnit.Gallons, null, 389.40, 102.5, 3.799, 389.40)]
    [InlineData(null, VolumeUnit.Gallons, 3.799, 389.40, 102.501, 3.799, 389.40)]
    [InlineData(102.5, VolumeUnit.Gallons, 3.799, 389.44, 102.5, 3.799, 389.44)]
    [InlineData(388.0, VolumeUnit.Liters, 1.459, null, 102.499, 1.459, 566.09)]
    public void Of_quantity_price_and_amount_two_give_the_third(
        double? quantity,
        VolumeUnit unit,
        double? price,
        double? amount,
        double gallons,
        double each,
        double total
    )
    {
        var validation = new Validation();
        var read = FuelBought.Read((decimal?)quantity, unit, (decimal?)price, amount is { } a ? Money.Usd((decimal)a) : null, validation);
        Assert.Empty(validation.Problems);
        var (fuel, sum) = read!.Value;
        Assert.Equal(((decimal)gallons, (decimal)each, (decimal)total), (fuel.Gallons, fuel.Price, sum.Amount));
    }

    [Fact]
    public void A_fuel_receipt_reads_the_same_whichever_figure_is_missing() =>
        Gen.Select(Gen.Int[1_000, 300_000], Gen.Int[15_000, 80_000])
            .Sample(
                (milli, tenths) =>
                {
                    var (quantity, price) = (milli / 1000m, tenths / 10_000m);
                    var amount = Money.Usd(quantity * price).ToCents();
                    var validation = new Validation();
                    var all = FuelBought.Read(quantity, null, price, amount, validation)!.Value;
                    var byPrice = FuelBought.Read(quantity, null, price, null, validation)!.Value;
                    var byAmount = FuelBought.Read(quantity, null, null, amount, validation)!.Value;
                    Assert.True(validation.Ok);
                    Assert.Equal(all, byPrice);
                    // A cent is at most half a cent off, so is the price for each gallon.
                    Assert.True(Math.Abs(byAmount.Fuel.Price - price) <= (0.005m / quantity) + 0.00005m);
                }
            );

    public static TheoryData<string, string, string> Refused =>
        new()
        {
            { "fuel alone", "quantity", "Enter two of the gallons, the price and the amount; the third follows." },
            { "fuel off", "amount", "102.5 gallons at 3.799 come to 389.40, not 427.95: enter what else is on the receipt apart." },
            { "fuel much", "quantity", "Enter the gallons as more than 0 and at most 700, with up to three decimals." },
            { "fuel state", "region", "Enter the state or province where the fuel was bought." },
            { "state", "region", "ZZ is not a state or province: enter two letters, such as OR." },
            { "gallons", "quantity", "Gallons and price are for fuel: leave them empty." },
            { "early", "on", "Trip 8889 begins Nov 20: check the date, or enter this on an earlier trip." },
            { "late", "on", "Trip 8889 ended Nov 10: check the date, or enter this on a later trip." },
            { "ahead", "on", "Nov 25 is ahead: enter the date on the receipt." },
            { "driver", "driverId", "Choose a driver of trip 8889." },
            { "load", "loadId", "This load is not on trip 8889." },
            { "vendor", "vendorId", "Choose the vendor who sends the bill." },
            { "number", "reference", "The vendor's invoice number is required." },
            { "twice", "reference", "Receipt 88-1 of 14.50 was already entered on trip 8870: check for a duplicate." },
            { "lease", "chargeBack", "Moses Okafor is not an owner-operator: only a lease allows charging back." },
            { "own money", "chargeBack", "Only what the company pays can be charged back to the driver." },
            {
                "control",
                "account",
                "Accounts payable is a control account, posted by invoices, bills and settlements: choose another account."
            },
            { "payer", "paidBy", "Choose who paid: company card, driver, on account, or a separate bill." },
            { "kind", "kind", "Choose what was paid for." },
        };

    [Theory]
    [MemberData(nameof(Refused))]
    public void Refusals_name_the_field_and_what_to_do(string which, string field, string message)
    {
        var over = Trip with { From = new LocalDate(2026, 11, 8), Until = new LocalDate(2026, 11, 10) };
        var refused = which switch
        {
            "fuel alone" => Check(Fuel with { Quantity = null, Price = 3.799m }),
            "fuel off" => Check(Fuel with { Amount = Money.Usd(427.95m) }),
            "fuel much" => Check(Fuel with { Quantity = 701 }),
            "fuel state" => Check(Fuel with { Region = null }),
            "state" => Check(Scale with { Region = "zz" }),
            "gallons" => Check(Scale with { Quantity = 3 }),
            "early" => Check(Scale with { On = new LocalDate(2026, 11, 12) }),
            "late" => Check(Scale, over),
            "ahead" => Check(Scale with { On = Today.PlusDays(1) }),
            "driver" => Check(Scale with { DriverId = 3 }),
            "load" => Check(Scale with { LoadId = 103 }),
            "vendor" => Check(Scale with { PaidBy = PaidBy.OnAccount, Reference = "77" }),
            "number" => Check(Scale with { PaidBy = PaidBy.OnAccount, VendorId = 5 }),
            "twice" => Check(Scale with { Reference = "88-1" }, same: "8870"),
            "lease" => Check(Scale with { PaidBy = PaidBy.CompanyCard, ChargeBack = true }),
            "own money" => Check(Scale with { DriverId = 2, ChargeBack = true }),
            "control" => Check(Scale with { Account = "2000" }),
            "payer" => Check(Scale with { PaidBy = null }),
            _ => Check(Scale with { Kind = null }),
        };
        var problem = Assert.Single(refused.Problems);
        Assert.Equal((field, message), (problem.Field, problem.Message.Replace("$", "", StringComparison.Ordinal)));
    }

    [Fact]
    public void A_canceled_trip_takes_no_expense_and_a_week_around_a_trip_does()
    {
        Assert.Equal("trip.canceled", Check(Scale, Trip with { IsCanceled = true }).Problems.Single().Code);
        Assert.True(Check(Scale with { On = new LocalDate(2026, 11, 13) }).Ok);
        Assert.True(Check(Scale, Trip with { Until = new LocalDate(2026, 11, 15) }).Ok);
        Assert.Equal("paidBy", TripExpense.DriverRefusal(PaidBy.Separately)!.Field);
        Assert.Null(TripExpense.DriverRefusal(PaidBy.Driver));
    }

    [Fact]
    public void What_a_driver_paid_is_reimbursed_and_what_an_owner_operator_bears_is_deducted()
    {
        var scale = Check(Scale).Value;
        var item = scale.PayItem(Money.Usd(14.50m), Trip)!;
        Assert.Equal((PayItemKind.Reimbursement, "2130", 14.50m), (item.Kind, item.Account, item.Amount!.Value.Amount));
        Assert.Equal("Scale of $14.50 at Gorge Scales OR, trip 8889", item.What);
        Assert.Null(Check(Fuel).Value.PayItem(Money.Usd(389.40m), Trip));

        // Fuel on our card for an owner-operator is theirs, a lumper is ours; either can be said.
        var leased = Check(Fuel with { DriverId = 2 }).Value;
        Assert.True(leased.ChargeBack);
        Assert.Equal(
            (PayItemKind.Deduction, "5200"),
            (leased.PayItem(Money.Usd(389.40m), Trip)!.Kind, leased.PayItem(Money.Usd(1), Trip)!.Account)
        );
        var lumper = Scale with { Kind = CostKind.Lumper, PaidBy = PaidBy.CompanyCard, DriverId = 2 };
        Assert.False(Check(lumper).Value.ChargeBack);
        Assert.True(Check(lumper with { ChargeBack = true }).Value.ChargeBack);
        Assert.False(Check(Fuel with { DriverId = 2, ChargeBack = false }).Value.ChargeBack);
    }

    [Fact]
    public void An_expense_posts_by_load_with_trip_truck_and_driver()
    {
        var fuel = Check(Fuel).Value;
        var lines = fuel.Lines(Money.Usd(389.41m), Trip);
        Assert.Equal([(101L, 292.06m), (102L, 97.35m)], lines.Select(l => (l.For.LoadId!.Value, l.Amount.Amount)));
        Assert.All(lines, l => Assert.Equal((8L, 118L, 1L), (l.For.TripId!.Value, l.For.TruckId!.Value, l.For.DriverId!.Value)));

        // For one load; and on a trip that has none left.
        Assert.Equal([102L], (Check(Fuel with { LoadId = 102 }).Value).Lines(Money.Usd(5), Trip).Select(l => l.For.LoadId!.Value));
        Assert.Null(Assert.Single(fuel.Lines(Money.Usd(5), Trip with { Legs = [] })).For.LoadId);

        // The card's issuer, or the driver, is owed the whole.
        var card = Postings.TripExpense(Today, "Trip 8889", 7, fuel.Account, lines, 1, null);
        Assert.Equal(("2060", 389.41m, null), (card.Lines[^1].Account, card.Lines[^1].Credit, card.Lines[^1].ItemId));
        var own = Postings.TripExpense(Today, "Trip 8889", 7, "5300", lines, 1, 55);
        Assert.Equal(("2130", 389.41m, 55L), (own.Lines[^1].Account, own.Lines[^1].Credit, own.Lines[^1].ItemId!.Value));
    }

    [Fact]
    public void Shares_of_an_expense_add_up_for_legs_loads_and_books() =>
        Gen.Select(Gen.Int[1, 5_000_000], Gen.Select(Gen.Long[1, 4], Gen.Int[0, 900]).List[1, 7], Gen.Long[0, 5])
            .Sample(
                (cents, made, load) =>
                {
                    var amount = Money.Usd(cents / 100m);
                    var legs = made.Select((l, i) => new ExpenseLeg(i, l.Item1, "", l.Item2)).ToList();
                    SpentOnTrip[] spent = [new(CostKind.Toll, load, amount, null), new(CostKind.Wash, null, amount, null)];
                    var shared = legs.SelectMany(l => TripSpending.OfLeg(spent, legs, l.LegId)).ToLookup(c => c.Kind, c => c.Amount);
                    Assert.Equal((amount, amount), (Money.Sum(shared[CostKind.Toll]), Money.Sum(shared[CostKind.Wash])));
                    var lines = (Check(Scale).Value with { LoadId = load }).Lines(amount, Trip with { Legs = legs });
                    Assert.Equal(amount, Money.Sum(lines.Select(l => l.Amount)));
                    Assert.All(lines, l => Assert.True(l.Amount.Amount > 0 && (made.All(m => m.Item1 != load) || l.For.LoadId == load)));
                    Assert.Equal(lines.Count, lines.Select(l => l.For.LoadId).Distinct().Count());
                }
            );

    [Theory]
    [InlineData(ExpenseState.Reported, "", "expense.state", "", "")]
    [InlineData(ExpenseState.Approved, "expense.state", "", "", "expense.posted")]
    [InlineData(ExpenseState.Declined, "expense.state", "", "", "")]
    [InlineData(ExpenseState.Removed, "expense.state", "", "expense.state", "expense.state")]
    public void What_can_be_done_follows_from_where_it_stands(
        ExpenseState state,
        string decide,
        string reopen,
        string remove,
        string removeByDispatch
    )
    {
        var status = new ExpenseStatus(state, "scale of $14.50");
        Assert.Equal(
            [decide, reopen, remove, removeByDispatch],
            new[] { status.DecideRefusal, status.ReopenRefusal, status.RemoveRefusal(true), status.RemoveRefusal(false) }.Select(p =>
                p?.Code ?? ""
            )
        );
    }

    [Fact]
    public void Planned_stands_next_to_spent_by_kind()
    {
        var lines = TripSpending.Lines(
            Money.Usd(390),
            Money.Usd(7.20m),
            [new(CostKind.Lodging, Money.Usd(75)), new(CostKind.Fuel, Money.Usd(390))],
            [
                new(CostKind.Fuel, null, Money.Usd(380m), 100m),
                new(CostKind.Fuel, 101, Money.Usd(20m), null),
                new(CostKind.ReeferFuel, null, Money.Usd(90m), 20m),
            ]
        );
        Assert.Equal(
            ["Fuel 390 400 100", "ReeferFuel 0 90 20", "Toll 7.20  ", "Lodging 75  "],
            lines.Select(l => FormattableString.Invariant($"{l.Kind} {l.Planned.Amount} {l.Spent?.Amount} {l.Gallons}"))
        );
    }
}
