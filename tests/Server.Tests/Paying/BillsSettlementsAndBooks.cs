using System.Net;
using NodaTime;
using SteadyLark.Core.People;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Paying;

/// <summary>Bills of anybody, weeks with all that belongs into them, entries by hand and closed months; the books held against the
/// documents after each.</summary>
public sealed class BillsSettlementsAndBooks(TestBusiness business) : IClassFixture<TestBusiness>
{
    private async Task<Dictionary<string, decimal>> Books(Caller owner)
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await TestBusiness.Disagreements(db));
        return await Balances(owner);
    }

    [Fact]
    public async Task A_vendor_bill_is_entered_approved_and_paid_and_each_step_can_be_reversed()
    {
        var owner = await business.As(Role.Owner);
        var before = await Books(owner);
        var vendor = (
            await owner.Post(
                "companies",
                new
                {
                    name = "Lolo Tire",
                    isCustomer = false,
                    isCarrier = false,
                    isVendor = true,
                    payDays = 10,
                }
            )
        ).Id;
        object Bill(string number, decimal tires, decimal rent, object? spent = null) =>
            new
            {
                vendorId = vendor,
                number,
                billedOn = "2026-11-20",
                amount = TestBusiness.Usd(900m),
                spent,
                lines = new object[]
                {
                    new
                    {
                        account = "5400",
                        description = "tires",
                        amount = TestBusiness.Usd(tires),
                        truckId = business.Ids["lena truck"],
                    },
                    new { account = "6100", amount = TestBusiness.Usd(rent) },
                },
            };
        Assert.Equal(["lines"], (await owner.Pay("bills", Bill("1", 800, 99))).Fields);
        var bill = (await owner.Pay("bills", Bill("1", 800, 100))).Ok;
        Assert.Equal("2026-11-30", bill["dueOn"]!.GetValue<string>());
        Assert.Equal("bill.twice", (await owner.Pay("bills", Bill("1", 800, 100))).Code);
        var id = bill["id"]!.GetValue<long>();
        _ = (await owner.Pay($"bills/{id}/approve", new { amount = TestBusiness.Usd(850m) })).Ok;
        Assert.Equal([800m, 50m, -850m], Changes(before, await Books(owner), "5400", "6100", "2000"));
        _ = (await owner.Pay($"bills/{id}/unapprove")).Ok;
        _ = (await owner.Pay($"bills/{id}/approve", new { })).Ok;
        _ = (await owner.PayBills("ach", id)).Ok;
        Assert.Equal([800m, 0m, -900m], Changes(before, await Books(owner), "5400", "2000", "1000"));
        _ = (await owner.ReversePayment(id)).Ok;
        _ = (await owner.PayBills("check", id)).Ok;
        _ = (await owner.ReversePayment(id)).Ok;
        Assert.Equal([800m, -900m, 0m], Changes(before, await Books(owner), "5400", "2000", "1000"));

        // Spent at once: nothing is owed in between; its picture is for those who see the pay only.
        var spent = (await owner.Pay("bills", Bill("2", 700, 200, new { method = "card" }))).Id;
        Assert.Equal([1500m, -900m, -900m], Changes(before, await Books(owner), "5400", "2000", "1000"));
        var document = (
            await owner.Upload($"bills/{spent}/documents?name=receipt.png", Convert.FromBase64String(TestBusiness.OnePoint))
        ).Id;
        Assert.Equal(HttpStatusCode.OK, (await owner.Get($"bills/{spent}/documents/{document}")).Status);
        var dispatcher = await business.As(Role.Dispatcher);
        Assert.Equal(HttpStatusCode.Forbidden, (await dispatcher.Get($"bills/{spent}/documents/{document}")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await dispatcher.Get($"documents/{document}/file")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await dispatcher.Post($"documents/{document}/remove")).Status);
        _ = (await owner.Pay($"bills/{spent}/void")).Ok;
        Assert.Equal([800m, -900m, 0m], Changes(before, await Books(owner), "5400", "2000", "1000"));
    }

    [Fact]
    public async Task A_settlement_has_hours_reimbursements_deductions_and_carryover_and_is_paid_by_another_user()
    {
        var owner = await business.As(Role.Owner);
        await business.AddCrew("w1", "Wim One");
        var driver = business.Ids["w1"];
        _ = await business.Delivered(owner, -9, "w1");
        Assert.Equal(
            "rate.none",
            (
                await owner.Pay(
                    "pay-items",
                    new
                    {
                        driverId = driver,
                        kind = "hours",
                        on = "2026-11-10",
                        what = "yard",
                        hours = 3,
                    }
                )
            ).Code
        );
        _ = (
            await owner.Post(
                $"drivers/{driver}/rates",
                new
                {
                    kind = "per_hour",
                    rate = 20,
                    from = "2026-11-01",
                }
            )
        ).Ok;
        _ = (
            await owner.Pay(
                "pay-items",
                new
                {
                    driverId = driver,
                    kind = "hours",
                    on = "2026-11-10",
                    what = "yard",
                    hours = 3,
                }
            )
        ).Ok;
        _ = (
            await owner.Pay(
                "pay-items",
                new
                {
                    driverId = driver,
                    kind = "reimbursement",
                    on = "2026-11-11",
                    what = "scale ticket",
                    amount = TestBusiness.Usd(15m),
                    account = "5300",
                }
            )
        ).Ok;
        _ = (
            await owner.Pay(
                "pay-items",
                new
                {
                    driverId = driver,
                    kind = "deduction",
                    on = "2026-11-11",
                    what = "tarp lost",
                    amount = TestBusiness.Usd(900m),
                }
            )
        ).Ok;
        _ = (
            await owner.Post(
                $"drivers/{driver}/deductions",
                new
                {
                    name = "insurance",
                    amount = TestBusiness.Usd(38.50m),
                    from = "2026-11-09",
                }
            )
        ).Ok;
        var before = await Books(owner);
        var week = (await owner.Get("settlements?monday=2026-11-09")).Ok.AsArray().Single(w => w!["driverId"]!.GetValue<long>() == driver)!;
        var earned = Amount(week["earned"]);
        // The reimbursement and the minimum wage for three hours stay.
        const decimal kept = 15m + 21.75m;
        Assert.Equal(
            (15m, 938.50m, kept, 938.50m - 15m - earned + kept),
            (Amount(week["reimbursed"]), Amount(week["deducted"]), Amount(week["net"]), Amount(week["carriedOver"]))
        );
        Assert.True(earned is > 60 and < 900);
        var approved = (await owner.Pay("settlements/approve", new { driverId = driver, monday = "2026-11-09" })).Id;
        Assert.Equal([15m, -938.50m, 923.50m - earned + kept], Changes(before, await Books(owner), "5300", "2200", "1300"));

        // The next week takes the shortfall after its own deduction; it is paid by somebody else where the company wants it so.
        _ = await business.Delivered(owner, -2, "w1");
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 16, 42);
        var next = (await owner.Get("settlements?monday=2026-11-16")).Ok.AsArray().Single(w => w!["driverId"]!.GetValue<long>() == driver)!;
        Assert.Equal(
            Math.Min(923.50m - earned + kept, Amount(next["earned"]) - 38.50m - (next["daysOut"]!.GetValue<int>() * 12 * 7.25m)),
            Amount(next["deductions"]!.AsArray().Single(d => d!["advanceId"] is not null)!["amount"])
        );
        _ = (await owner.Put("company-settings", new { twoPeople = true })).Ok;
        Assert.Equal("pay.same.person", (await owner.Pay($"settlements/{approved}/pay", new { method = "ach" })).Code);
        var bookkeeper = await business.As(Role.Bookkeeper);
        _ = (await bookkeeper.Pay($"settlements/{approved}/pay", new { method = "ach" })).Ok;
        _ = (await owner.Put("company-settings", new { twoPeople = false })).Ok;

        // Both are taken back, as often as it takes; what a later week holds of it comes first.
        var later = (await owner.Pay("settlements/approve", new { driverId = driver, monday = "2026-11-16" })).Id;
        Assert.Equal("settlement.paid", (await owner.Pay($"settlements/{approved}/unapprove")).Code);
        _ = (await owner.Pay($"settlements/{approved}/unpay")).Ok;
        Assert.Equal("settlement.carried", (await owner.Pay($"settlements/{approved}/unapprove")).Code);
        _ = (await owner.Pay($"settlements/{later}/unapprove")).Ok;
        var again = (await owner.Pay($"settlements/{approved}/unapprove")).Ok;
        Assert.Equal((earned, 938.50m), (Amount(again["earned"]), Amount(again["deducted"])));
        Assert.Null(again["settlement"]);
        Assert.Equal([0m, 0m, 0m], Changes(before, await Books(owner), "5300", "2200", "1300"));
        approved = (await owner.Pay("settlements/approve", new { driverId = driver, monday = "2026-11-09" })).Id;
        _ = (await owner.Pay($"settlements/{approved}/pay", new { method = "check" })).Ok;
        _ = (await owner.Pay($"settlements/{approved}/unpay")).Ok;
        Assert.Equal([15m, -938.50m, 923.50m - earned + kept], Changes(before, await Books(owner), "5300", "2200", "1300"));
    }

    [Fact]
    public async Task Months_are_closed_for_everyone_and_reopened_with_a_reason()
    {
        var owner = await business.As(Role.Owner);
        object Entry(string on) =>
            new
            {
                postedOn = on,
                memo = "depreciation",
                lines = new object[]
                {
                    new
                    {
                        account = "5400",
                        debit = TestBusiness.Usd(75m),
                        truckId = business.Ids["lena truck"],
                    },
                    new { account = "3000", credit = TestBusiness.Usd(75m) },
                },
            };
        var entry = (await owner.Pay("ledger/entries", Entry("2026-08-31"))).Id;
        _ = (await owner.Post("ledger/periods/close", new { month = "2026-09-15" })).Ok;
        Assert.Equal(("period.closed", "postedOn"), await Refused(owner.Pay("ledger/entries", Entry("2026-08-30"))));
        // A document keeps its date and posts in the first month that is open.
        var payment = await owner.Pay(
            "payments",
            new
            {
                customerId = business.Ids["customer"],
                receivedOn = "2026-09-30",
                method = "check",
                amount = TestBusiness.Usd(5m),
            }
        );
        Assert.Equal("2026-09-30", payment.Ok["receivedOn"]!.GetValue<string>());
        var advance = await owner.Pay(
            "advances",
            new
            {
                driverId = business.Ids["lena"],
                issuedOn = "2026-09-01",
                amount = TestBusiness.Usd(5m),
            }
        );
        Assert.Equal("2026-09-01", advance.Ok["on"]!.GetValue<string>());
        var posted = (await owner.Get("ledger/lines?account=1000&month=2026-10")).Ok["rows"]!.AsArray();
        Assert.Equal(["2026-10-01", "2026-10-01"], posted.Select(l => l!["postedOn"]!.GetValue<string>()));
        await Books(owner);
        Assert.Equal(
            ("period.closed", "on"),
            await Refused(owner.Pay($"ledger/entries/{entry}/reverse", new { on = "2026-08-31", why = "wrong" }))
        );
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await (await business.As(Role.Broker)).Post("ledger/periods/reopen", new { month = "2026-08-01", why = "x" })).Status
        );
        _ = (await owner.Post("ledger/periods/reopen", new { month = "2026-08-01", why = "a late bill" })).Ok;
        _ = (await owner.Pay($"ledger/entries/{entry}/reverse", new { on = "2026-08-31", why = "wrong" })).Ok;
        Assert.Equal("entry.reversed", (await owner.Pay($"ledger/entries/{entry}/reverse", new { on = "2026-08-31", why = "wrong" })).Code);
        var document = (await owner.Get("ledger/lines?account=3000")).Ok["rows"]!
            .AsArray()
            .First(l => l!["source"]!.GetValue<string>() == "opening")!["entryId"];
        Assert.Equal("entry.document", (await owner.Pay($"ledger/entries/{document}/reverse", new { why = "x" })).Code);
    }

    [Theory]
    [InlineData("month")]
    [InlineData("week")]
    [InlineData("customer")]
    [InlineData("lane")]
    [InlineData("carrier")]
    [InlineData("driver")]
    [InlineData("truck")]
    public async Task Every_profit_grouping_adds_up_to_the_ledger(string by)
    {
        var owner = await business.As(Role.Owner);
        _ = (await owner.Pay("invoices", new { loadIds = new[] { await business.Delivered(owner, -60 - by.Length, "carrier") } })).Ok;
        var view = (await owner.Get($"ledger/profit?by={by}&from=2026-01-01&until=2026-12-31")).Ok;
        var left = view["groups"]!.AsArray().Sum(g => Amount(g!["left"]));
        var books = (await owner.Get("ledger/trial-balance?upTo=2026-12-31")).Ok["accounts"]!
            .AsArray()
            .Where(a => a!["kind"]!.GetValue<string>() is "income" or "expense")
            .Sum(a => Amount(a!["balance"]));
        Assert.Equal(-books, left);
        Assert.True(left != 0);
        var csv = await owner.Http.GetStringAsync($"/api/ledger/profit?by={by}&from=2026-01-01&until=2026-12-31&format=csv");
        Assert.Equal(view["groups"]!.AsArray().Count + 1, csv.Trim().Split("\r\n").Length);
    }

    private static async Task<(string?, string?)> Refused(Task<Answer> answer) => ((await answer).Code, (await answer).Fields.First());
}
