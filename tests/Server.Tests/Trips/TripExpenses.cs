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

/// <summary>Random expenses, entered by different users, approved, reopened and removed: the ledger, the bills, the settlements and the trips' costs agree.</summary>
public sealed class ExpensesAtRandom(TestBusiness business) : PlanTest(business)
{
    /// <summary>What does not agree; empty when all does.</summary>
    private async Task<List<string>> Off()
    {
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        var wrong = await Disagreements(db);
        wrong.AddRange(
            await db.Rows(
                """
                -- The card's issuer is owed what was approved on cards.
                select 'cards owe ' || x.owed || ', ledger ' || y.owed as said
                from (select coalesce(sum(booked), 0) as owed from trip_expenses where state = 'approved' and paid_by = 'company_card') x,
                    (select coalesce(sum(credit - debit), 0) as owed from entry_lines where account = '2060') y where x.owed <> y.owed
                -- Every expense that was approved is posted once, on its trip; any other not at all.
                union all select 'expense ' || x.id || ' is ' || x.state || ', posted ' || p.posted from trip_expenses x
                    cross join lateral (select coalesce(sum(l.debit - l.credit), 0) as posted from entries e join entry_lines l on l.entry_id = e.id
                        where l.trip_id = x.trip_id and l.truck_id = x.truck_id and l.driver_id = x.driver_id
                            and ((e.source = 'trip_expense' and e.source_id = x.id)
                                or (e.source in ('bill', 'bill_void', 'bill_reduction', 'bill_increase') and e.source_id = x.bill_id))) p
                    where p.posted <> case when x.state = 'approved' and x.paid_by <> 'separately' then x.booked else 0 end
                -- A pay item or bill of an expense that is not approved does not stand.
                union all select 'bill ' || b.number || ' stands without its expense' from bills b
                    where b.voided_at is null and not exists (select 1 from trip_expenses x where x.bill_id = b.id)
                union all select 'pay item ' || i.id || ' stands without its expense' from pay_items i
                    where i.removed_at is null and not exists (select 1 from trip_expenses x where x.pay_item_id = i.id)
                -- A trip costs what was planned, or what was spent when that is more; its legs add up to it.
                union all select 'trip ' || t.number || ' counts tolls of ' || g.tolls || ', spent ' || coalesce(x.tolls, 0) from trips t
                    cross join lateral (select sum(cost_tolls) as tolls, sum(planned_tolls) as planned from legs where trip_id = t.id) g
                    left join lateral (select sum(booked) as tolls from trip_expenses where trip_id = t.id and kind = 'toll'
                        and state in ('reported', 'approved') and not charge_back) x on true
                    where g.planned = 0 and g.tolls <> coalesce(x.tolls, 0)
                union all select 'trip ' || t.number || ' counts other costs of ' || g.other || ', spent ' || coalesce(x.other, 0) from trips t
                    cross join lateral (select sum(cost_other) as other from legs where trip_id = t.id) g
                    left join lateral (select sum(booked) as other from trip_expenses where trip_id = t.id and kind not in ('toll', 'fuel')
                        and state in ('reported', 'approved') and not charge_back) x on true
                    where g.other <> coalesce(x.other, 0)
                """,
                r => r.Text("said")
            )
        );
        return wrong;
    }

    [Theory]
    [InlineData(5)]
    [InlineData(6)]
    public async Task Whatever_becomes_of_them_ledger_bills_settlements_and_costs_agree(int seed)
    {
        var owner = await Business.As(Role.Owner);
        var dispatch = await Business.As(Role.Dispatcher);
        var lot = new Random(seed);
        await Business.AddCrew($"lessee {seed}", $"Ora Quist {seed}");
        _ = (
            await owner.Put(
                $"drivers/{Business.Ids[$"lessee {seed}"]}",
                new
                {
                    name = $"Ora Quist {seed}",
                    worker = "owner_operator",
                    active = true,
                }
            )
        ).Ok;
        await Business.AddCrew($"hire {seed}", $"Hal Rowe {seed}");
        var vendor = (await owner.Post("companies", new { name = $"Sapphire Truck Wash {seed}", isVendor = true })).Id;
        var trips = new List<long>();
        foreach (var who in new[] { $"lessee {seed}", $"hire {seed}" })
        {
            trips.Add(await TripOf(owner, await Booked(owner, 24, "from", "to", 8, 9_000, 900m), who));
            var second = await Booked(owner, 24, "from", "to", 4, 6_000, 500m);
            _ = (await owner.Post($"loads/{second}/cover/trip", new { tripId = trips[^1], allowLate = true })).Ok;
        }

        string[] kinds = ["toll", "scale", "lumper", "repair", "reefer_fuel"];
        string[] payers = ["company_card", "driver", "on_account", "separately"];
        var (made, known) = (new SortedDictionary<string, int>(), new List<long>());
        for (var step = 0; step < 50; step++)
        {
            var (what, answer) = (known.Count == 0 ? 0 : lot.Next(7)) switch
            {
                0 or 1 => ("enter", await Enter(lot.Next(3) == 0 ? dispatch : owner)),
                2 => ("approve", await owner.Pay($"expenses/{Any()}/approve")),
                3 => ("decline", await owner.Post($"expenses/{Any()}/decline", new { reason = "no receipt" })),
                4 => ("reopen", await owner.Post($"expenses/{Any()}/reopen")),
                5 => ("remove", await owner.Post($"expenses/{Any()}/remove")),
                _ => ("bill", await ApproveBill()),
            };
            if (answer is { Code: null, Body: JsonNode body } && what == "enter")
            {
                known.Add(Id(body));
            }

            var said = $"{what}{(answer.Code is null ? "" : " refused")}";
            made[said] = made.GetValueOrDefault(said) + 1;
            Assert.True((int)answer.Status < 500, $"{said}: {answer.Detail}");
            var off = await Off();
            Assert.True(off.Count == 0, $"step {step}, {said}: {string.Join(", ", off)}");
        }

        Assert.True(made.GetValueOrDefault("enter") > 8 && made.GetValueOrDefault("reopen") > 2, string.Join(", ", made));

        long Any() => known[lot.Next(known.Count)];

        Task<Answer> Enter(Caller who)
        {
            var kind = kinds[lot.Next(kinds.Length)];
            var payer = payers[lot.Next(payers.Length)];
            return who.Post(
                $"trips/{trips[lot.Next(trips.Count)]}/expenses",
                new
                {
                    kind,
                    on = "2026-11-23",
                    amount = Usd(lot.Next(100, 30_000) / 100m),
                    paidBy = payer,
                    region = "MT",
                    quantity = kind == "reefer_fuel" ? (decimal?)20m : null,
                    reference = payer == "on_account" ? $"N-{seed}-{lot.Next(1_000_000)}" : null,
                    vendorId = payer == "on_account" ? vendor : (long?)null,
                }
            );
        }

        async Task<Answer> ApproveBill()
        {
            var bills = (await owner.Get("bills?limit=100")).Ok["rows"]!.AsArray();
            var at = bills.Count == 0 ? 0 : Id(bills[lot.Next(bills.Count)]);
            return await owner.Pay($"bills/{at}/{(lot.Next(3) == 0 ? "unapprove" : "approve")}", new { });
        }
    }
}
