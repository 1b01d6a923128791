using System.Text.Json.Nodes;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Basics;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Expenses on trips: reported on the road, approved into the books, reimbursed, billed, charged back; and the trip's cost.</summary>
public sealed class TripExpenses(TestBusiness business) : PlanTest(business)
{
    private static object Fuel(string day, decimal gallons, decimal price, string paidBy = "company_card", string? reference = null) =>
        new
        {
            kind = "fuel",
            on = day,
            paidBy,
            place = "Gorge Fuel",
            region = "OR",
            quantity = gallons,
            price,
            reference,
        };

    private static object Paid(string kind, decimal amount, string paidBy, long? vendor = null, string? reference = null) =>
        new
        {
            kind,
            on = "2026-11-23",
            amount = Usd(amount),
            paidBy,
            place = "Ridge Scales",
            region = "MT",
            vendorId = vendor,
            reference,
        };

    private static async Task<JsonNode> Expenses(Caller caller, long trip) => (await caller.Get($"trips/{trip}/expenses")).Ok;

    private static string Lines(JsonNode expenses) =>
        string.Join(
            ", ",
            expenses["lines"]!
                .AsArray()
                .Select(l =>
                    $"{Word(l!["kind"])} {(l["spent"] is { } spent ? Amount(spent).ToString(System.Globalization.CultureInfo.InvariantCulture) : "none")}"
                )
        );

    private async Task<decimal> Fuel(long trip) => Amount((await Legs(await Business.As(Role.Owner), trip))[0]!["cost"]!["fuel"]);

    private async Task Agrees()
    {
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));
    }

    [Fact]
    public async Task A_driver_reports_with_a_photo_the_office_approves_and_the_settlement_reimburses()
    {
        var owner = await Business.As(Role.Owner);
        var load = await Booked(owner, 24, "from", "to", 20, 38_000, 1_400m);
        var trip = await TripOf(owner, load, "moses");
        var other = await TripOf(owner, await Booked(owner, 24, "from", "to", 4, 9_000), "lena");
        var phone = await Business.As(Role.Driver);
        var mine = (await phone.Get("mine/loads")).Ok.AsArray().Single()!;
        Assert.Equal(trip, mine["tripId"]!.GetValue<long>());

        // Their own trip only, and who paid is the card or themselves.
        Assert.Equal("not.found", (await phone.Post($"mine/trips/{other}/expenses", Paid("scale", 14.50m, "driver"))).Code);
        Assert.Equal("paidBy", (await phone.Post($"mine/trips/{trip}/expenses", Paid("scale", 14.50m, "separately"))).Fields.Single());
        var scale = (await phone.Post($"mine/trips/{trip}/expenses", Paid("scale", 14.50m, "driver"))).Ok;
        Assert.Equal(("reported", 14.50m, false), (Word(scale["state"]), Amount(scale["amount"]), scale["hasReceipt"]!.GetValue<bool>()));
        Assert.Equal(
            "not.found",
            (await phone.Upload($"mine/expenses/999999/receipt?name=x.png", Convert.FromBase64String(OnePoint))).Code
        );
        Assert.Equal(
            "receipt",
            Word((await phone.Upload($"mine/expenses/{Id(scale)}/receipt?name=scale.png", Convert.FromBase64String(OnePoint))).Ok["kind"])
        );
        Assert.Equal("no.right", (await phone.Pay($"expenses/{Id(scale)}/approve")).Code);

        // Counted in the trip's cost at once, in the books when it is approved. Dispatch may report, not approve.
        var before = await Balances(owner);
        var cost = Amount((await Legs(owner, load))[0]!["cost"]!["other"]);
        Assert.Equal(14.50m, cost);
        var dispatch = await Business.As(Role.Dispatcher);
        Assert.Equal("no.right", (await dispatch.Pay($"expenses/{Id(scale)}/approve")).Code);
        var lodging = (await dispatch.Post($"trips/{trip}/expenses", Paid("lodging", 89.90m, "driver"))).Ok;
        Assert.Equal("reported", Word(lodging["state"]));
        Assert.Equal([0m], Changes(before, await Balances(owner), "2130"));
        Assert.Contains((await owner.Get("today")).Ok["items"]!.AsArray(), i => Word(i!["title"]) == "2 trip expenses to approve");
        var waiting = (await owner.Get("expenses/reported")).Ok.AsArray();
        Assert.Equal([14.50m, 89.90m], waiting.Select(x => Amount(x!["amount"])));
        Assert.NotNull(waiting[0]!["receiptId"]);

        // Declined in words that the driver reads; decided once.
        Assert.Equal("reason", (await owner.Post($"expenses/{Id(lodging)}/decline", new { reason = " " })).Fields.Single());
        _ = (await owner.Post($"expenses/{Id(lodging)}/decline", new { reason = "The motel billed us" })).Ok;
        Assert.Equal("expense.state", (await owner.Pay($"expenses/{Id(lodging)}/approve")).Code);
        Assert.Equal(
            ["declined The motel billed us", "reported "],
            (await phone.Get("mine/expenses")).Ok.AsArray().Select(x => $"{Word(x!["state"])} {x["reason"]}").Order()
        );
        var approved = (await owner.Pay($"expenses/{Id(scale)}/approve")).Ok;
        Assert.Equal([14.50m, -14.50m], Changes(before, await Balances(owner), "5300", "2130"));

        // The reimbursement belongs to the expense: it is not removed apart from it.
        var item = approved["payItemId"]!.GetValue<long>();
        Assert.Equal("expense.item", (await owner.Pay($"pay-items/{item}/remove")).Code);
        await Agrees();

        // Settled: what was owed to the driver is paid with the week.
        owner = await At(Instant.FromUtc(2026, 11, 30, 18, 0));
        var week = (await owner.Get("settlements?monday=2026-11-23")).Ok.AsArray().Single(s => Word(s!["driver"]) == "Moses Okafor")!;
        Assert.Equal(14.50m, Amount(week["reimbursed"]));
        _ = (await owner.Pay("settlements/approve", new { driverId = Business.Ids["moses"], monday = "2026-11-23" })).Ok;
        Assert.Equal([0m], Changes(before, await Balances(owner), "2130"));
        Assert.Equal("expense.settled", (await owner.Post($"expenses/{Id(scale)}/reopen")).Code);
        Assert.Equal("expense.settled", (await owner.Post($"expenses/{Id(scale)}/remove")).Code);
        await Agrees();
    }

    [Fact]
    public async Task Fuel_on_the_card_counts_at_its_price_posts_to_the_loads_and_is_taken_back()
    {
        var owner = await Business.As(Role.Owner);
        await Business.AddCrew("rhea", "Rhea Dunn");
        const decimal price = 4m;
        _ = (await owner.Put("company-settings", new { fuelPrice = price })).Ok;
        var load = await Booked(owner, 24, "from", "to", 10, 19_000, 1_400m);
        var trip = await TripOf(owner, load, "rhea");
        var planned = await Fuel(load);
        var second = await Booked(owner, 24, "from", "to", 4, 9_000);
        _ = (await owner.Post($"loads/{second}/cover/trip", new { tripId = trip, allowLate = true })).Ok;
        var shared = await Fuel(load);
        var before = await Balances(owner);

        // Half as much again a gallon: fuel costs half as much again, however much was bought.
        var fuel = (await owner.Post($"trips/{trip}/expenses", Fuel("2026-11-23", 150m, price * 1.5m))).Ok;
        Assert.Equal("approved", Word(fuel["state"]));
        Assert.InRange(await Fuel(load), (shared * 1.5m) - 0.02m, (shared * 1.5m) + 0.02m);
        Assert.Equal($"fuel {Math.Round(225m * price, 2):0.00}, toll none", Lines(await Expenses(owner, trip)));
        Assert.Equal([225m * price, -225m * price], Changes(before, await Balances(owner), "5200", "2060"));
        await using (var db = await Business.Db.Source.OpenConnectionAsync())
        {
            var rows = await db.Rows(
                "select l.load_id, l.trip_id, l.truck_id, l.driver_id, l.debit from entry_lines l join entries e on e.id = l.entry_id where e.source = 'trip_expense' and e.source_id = @id and l.debit > 0 order by 1",
                r => (Load: r.GetInt64(0), Trip: r.GetInt64(1), Truck: r.GetInt64(2), Driver: r.GetInt64(3), Debit: r.GetDecimal(4)),
                ("id", Id(fuel))
            );
            Assert.Equal([load, second], rows.Select(r => r.Load));
            Assert.All(rows, r => Assert.Equal((trip, Business.Ids["rhea truck"], Business.Ids["rhea"]), (r.Trip, r.Truck, r.Driver)));
            Assert.Equal(225m * price, rows.Sum(r => r.Debit));
        }

        // Taken back: the books and the cost are as before, and it can be approved again.
        _ = (await owner.Post($"expenses/{Id(fuel)}/reopen")).Ok;
        Assert.Equal([0m, 0m], Changes(before, await Balances(owner), "5200", "2060"));
        _ = (await owner.Pay($"expenses/{Id(fuel)}/approve")).Ok;
        Assert.Equal([-225m * price], Changes(before, await Balances(owner), "2060"));
        _ = (await owner.Post($"expenses/{Id(fuel)}/remove")).Ok;
        Assert.Equal("expense.state", (await owner.Post($"expenses/{Id(fuel)}/remove")).Code);
        Assert.Equal([0m, 0m], Changes(before, await Balances(owner), "5200", "2060"));
        Assert.Equal(shared, await Fuel(load));
        Assert.Equal("fuel none, toll none", Lines(await Expenses(owner, trip)));
        Assert.True(planned > 0);

        // Billed separately: in the trip's cost, not in the books. Canadian dollars count at the day's rate.
        _ = (await owner.Post($"trips/{trip}/expenses", Paid("toll", 40m, "separately"))).Ok;
        var rate = await owner.Post(
            $"trips/{trip}/expenses",
            new
            {
                kind = "scale",
                on = "2026-11-23",
                amount = new { amount = "20.00", currency = "CAD" },
                paidBy = "company_card",
            }
        );
        Assert.Equal("rate.missing", rate.Code);
        Assert.Equal([0m, 0m], Changes(before, await Balances(owner), "5300", "2060"));
        Assert.Equal("fuel none, toll 40.00", Lines(await Expenses(owner, trip)));
        await Agrees();
        Assert.Empty(await Wrong());
    }

    [Fact]
    public async Task On_account_is_a_bill_of_the_vendor_and_an_owner_operator_bears_their_fuel()
    {
        var owner = await Business.As(Role.Owner);
        await Business.AddCrew("omar", "Omar Vance");
        var omar = Business.Ids["omar"];
        _ = (
            await owner.Put(
                $"drivers/{omar}",
                new
                {
                    name = "Omar Vance",
                    shortName = "Omar",
                    worker = "owner_operator",
                    active = true,
                }
            )
        ).Ok;
        var load = await Booked(owner, 24, "from", "to", 10, 19_000, 1_400m);
        var trip = await TripOf(owner, load, "omar");
        var vendor = (await owner.Post("companies", new { name = "Lost Trail Diesel Repair", isVendor = true })).Id;
        var before = await Balances(owner);

        // Refused by the field it was typed in, and nothing is kept.
        Assert.Equal(
            "vendorId",
            (await owner.Post($"trips/{trip}/expenses", Paid("repair", 250m, "on_account", null, "R-9"))).Fields.Single()
        );
        var repair = (await owner.Post($"trips/{trip}/expenses", Paid("repair", 250m, "on_account", vendor, "R-9"))).Ok;
        Assert.Equal(
            "reference",
            (await owner.Post($"trips/{trip}/expenses", Paid("repair", 250m, "on_account", vendor, "R-9"))).Fields.Single()
        );
        Assert.Equal(
            "reference",
            (await owner.Post($"trips/{trip}/expenses", Paid("repair", 260m, "on_account", vendor, "R-9"))).Fields.Single()
        );
        Assert.Single((await Expenses(owner, trip))["expenses"]!.AsArray());
        var bill = repair["billId"]!.GetValue<long>();
        var view = (await owner.Get($"bills/{bill}")).Ok;
        Assert.Equal(
            ("R-9", 250m, load, trip),
            (
                Word(view["bill"]!["number"]),
                Amount(view["lines"]![0]!["amount"]),
                view["lines"]![0]!["loadId"]!.GetValue<long>(),
                view["lines"]![0]!["tripId"]!.GetValue<long>()
            )
        );
        Assert.Equal([250m, -250m], Changes(before, await Balances(owner), "5400", "2000"));
        Assert.Equal("expense.bill", (await owner.Pay($"bills/{bill}/void")).Code);

        // The lease has the repair charged back: not in our cost, and deducted from the settlement.
        Assert.True(repair["chargeBack"]!.GetValue<bool>());
        Assert.Equal(0m, Amount((await Legs(owner, load))[0]!["cost"]!["other"]));
        _ = (await owner.Post($"trips/{trip}/expenses", Fuel("2026-11-23", 100m, 4m))).Ok;
        _ = (await owner.Post($"trips/{trip}/expenses", Paid("lumper", 80m, "company_card"))).Ok;
        Assert.Equal((0m, 80m), (await Fuel(load), Amount((await Legs(owner, load))[0]!["cost"]!["other"])));

        // A bill that was approved stays, and so does its expense; otherwise both go.
        _ = (await owner.Pay($"bills/{bill}/approve", new { })).Ok;
        Assert.Equal("bill.state", (await owner.Post($"expenses/{Id(repair)}/remove")).Code);
        Assert.Equal("approved", Word((await Expenses(owner, trip))["expenses"]![0]!["state"]));
        _ = (await owner.Pay($"bills/{bill}/unapprove")).Ok;
        _ = (await owner.Post($"expenses/{Id(repair)}/remove")).Ok;
        Assert.Equal([0m, 0m], Changes(before, await Balances(owner), "5400", "2000"));
        await Agrees();

        owner = await At(Instant.FromUtc(2026, 11, 30, 18, 0));
        var week = (await owner.Get("settlements?monday=2026-11-23")).Ok.AsArray().Single(s => Word(s!["driver"]) == "Omar Vance")!;
        Assert.Equal([400m], week["deductions"]!.AsArray().Select(d => Amount(d!["amount"])));
    }

    [Fact]
    public async Task The_list_of_expenses_counts_gallons_by_state()
    {
        var owner = await Business.As(Role.Owner);
        await Business.AddCrew("ines", "Ines Falk");
        var trip = await TripOf(owner, await Booked(owner, 24, "from", "to", 10, 19_000), "ines");
        _ = (await owner.Post($"trips/{trip}/expenses", Fuel("2026-11-22", 100m, 3.5m))).Ok;
        _ = (
            await owner.Post(
                $"trips/{trip}/expenses",
                new
                {
                    kind = "fuel",
                    on = "2026-11-23",
                    paidBy = "separately",
                    region = "wa",
                    quantity = 378.541m,
                    unit = "liters",
                    amount = Usd(400m),
                }
            )
        ).Ok;
        var query = ListCalls.Where("driver", "is", "Ines Falk");
        var rows = await owner.RowsOf("expenses", query, ["region", "gallons", "amount", "paid_by"]);
        Assert.Equal(
            ["WA 100.000 400.00 separate bill", "OR 100.000 350.00 company card"],
            rows.Select(r => $"{r["region"]} {r["gallons"]} {r["amount"]} {r["paid_by"]}")
        );
        Assert.Equal("no.right", (await (await Business.As(Role.Dispatcher)).Get("lists/expenses")).Code);
    }
}
