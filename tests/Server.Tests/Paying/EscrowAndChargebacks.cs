using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Paying;

/// <summary>An owner-operator's escrow from deposit to return, and what is charged back to them.</summary>
public class EscrowAndChargebacks(TestBusiness business) : IClassFixture<TestBusiness>
{
    private async Task<long> OwnerOperator(Caller owner)
    {
        if (!business.Ids.ContainsKey("olive"))
        {
            await business.AddCrew("olive", "Olive Brandt");
            _ = (
                await owner.Put(
                    $"drivers/{business.Ids["olive"]}",
                    new
                    {
                        name = "Olive Brandt",
                        active = true,
                        worker = "owner_operator",
                    }
                )
            ).Ok;
        }

        return business.Ids["olive"];
    }

    private static async Task<string?> Held(Caller owner, long driver) =>
        (await owner.Get($"drivers/{driver}/agreement")).Ok["escrow"]!.AsArray().LastOrDefault()?["balance"]!["amount"]!.GetValue<string>();

    private static async Task<System.Text.Json.Nodes.JsonNode> Week(Caller owner, long driver) =>
        (await owner.Get("settlements?monday=2026-11-23")).Ok.AsArray().Single(s => s!["driverId"]!.GetValue<long>() == driver)!;

    private static async Task Approve(Caller owner, long driver, string monday) =>
        _ = (await owner.Pay("settlements/approve", new { driverId = driver, monday })).Ok;

    [Fact]
    public async Task Escrow_is_deposited_earns_interest_and_goes_back()
    {
        var owner = await business.As(Role.Owner);
        var driver = await OwnerOperator(owner);
        _ = await business.Delivered(owner, -3, "olive");
        _ = (
            await owner.Post(
                $"drivers/{driver}/deductions",
                new
                {
                    name = "escrow",
                    amount = TestBusiness.Usd(100m),
                    from = "2026-11-09",
                    upTo = TestBusiness.Usd(150m),
                }
            )
        ).Ok;
        await Approve(owner, driver, "2026-11-09");
        Assert.Equal("100.00", await Held(owner, driver));

        // The next week takes what is missing to the agreed amount.
        _ = await business.Delivered(owner, 1, "olive");
        await Approve(owner, driver, "2026-11-16");
        Assert.Equal("150.00", await Held(owner, driver));
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await TestBusiness.Disagreements(db));

        // Reversing the approval takes the deposit out again.
        var settlement = await db.One<long>(
            "select id from settlements where driver_id = @driver and monday = '2026-11-16' and reversed_at is null",
            ("driver", driver)
        );
        _ = (await owner.Pay($"settlements/{settlement}/unapprove")).Ok;
        Assert.Equal("100.00", await Held(owner, driver));
        await Approve(owner, driver, "2026-11-16");

        // It goes back with a settlement, and the statement says so.
        _ = (
            await owner.Pay(
                "pay-items",
                new
                {
                    driverId = driver,
                    kind = "reimbursement",
                    what = "escrow returned",
                    on = "2026-11-24",
                    amount = TestBusiness.Usd(150m),
                    account = "2250",
                }
            )
        ).Ok;
        var open = await Week(owner, driver);
        Assert.Contains("escrow returned", open["reimbursements"]!.ToJsonString());
        Assert.Equal(403, (int)(await (await business.As(Role.Dispatcher)).Get($"drivers/{driver}/agreement")).Status);
    }

    [Fact]
    public async Task Closing_a_quarter_adds_interest_and_reopening_takes_it_out()
    {
        var owner = await business.As(Role.Owner);
        await business.AddCrew("nils", "Nils Aaker");
        var driver = business.Ids["nils"];
        _ = (await owner.Put("company-settings", new { escrowPercent = 4.2 })).Ok;
        Assert.Equal(["escrowPercent"], (await owner.Put("company-settings", new { escrowPercent = 21 })).Fields);

        // What another system held comes with a journal entry.
        _ = (
            await owner.Pay(
                "ledger/entries",
                new
                {
                    postedOn = "2026-07-01",
                    memo = "escrow of the old books",
                    lines = new object[]
                    {
                        new { account = "3000", debit = TestBusiness.Usd(2000m) },
                        new
                        {
                            account = "2250",
                            credit = TestBusiness.Usd(2000m),
                            driverId = driver,
                        },
                    },
                }
            )
        ).Ok;
        _ = (await owner.Post("ledger/periods/close", new { month = "2026-08-01" })).Ok;
        Assert.Equal("2000.00", await Held(owner, driver));
        _ = (await owner.Post("ledger/periods/close", new { month = "2026-09-01" })).Ok;

        // July through September: 92 days of 4.2 percent.
        Assert.Equal("2021.17", await Held(owner, driver));
        _ = (await owner.Post("ledger/periods/reopen", new { month = "2026-09-01", why = "a late bill" })).Ok;
        Assert.Equal("2000.00", await Held(owner, driver));
    }

    [Fact]
    public async Task A_line_is_charged_back_once_and_then_its_bill_stays()
    {
        var owner = await business.As(Role.Owner);
        var driver = await OwnerOperator(owner);
        var vendor = (await owner.Post("companies", new { name = "Two Forks Fuel", isVendor = true })).Id;
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    vendorId = vendor,
                    number = "F-881",
                    amount = TestBusiness.Usd(412.50m),
                    lines = new[]
                    {
                        new
                        {
                            account = "5200",
                            description = "diesel",
                            amount = TestBusiness.Usd(412.50m),
                        },
                    },
                }
            )
        ).Id;
        Task<Answer> Charge(long to, decimal? amount) =>
            owner.Pay(
                $"bills/{bill}/charge-back",
                new
                {
                    line = 1,
                    driverId = to,
                    amount = amount is { } a ? TestBusiness.Usd(a) : null,
                }
            );
        Assert.Equal("not.lease", (await Charge(business.Ids["lena"], null)).Code);
        _ = (await Charge(driver, 300m)).Ok;
        Assert.Equal("over.line", (await Charge(driver, 113m)).Code);
        _ = (await Charge(driver, null)).Ok;
        Assert.Equal("charged.back", (await Charge(driver, null)).Code);
        var line = (await owner.Get($"bills/{bill}")).Ok["lines"]![0]!;
        Assert.Equal("412.50", line["chargedBack"]!["amount"]!.GetValue<string>());
        Assert.Equal("bill.charged.back", (await owner.Pay($"bills/{bill}/void")).Code);

        // The driver's statement names the bill.
        var week = await Week(owner, driver);
        Assert.Contains("diesel, bill F-881 from Two Forks Fuel", week["deductions"]!.ToJsonString());

        // The database refuses more than the line has.
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await Assert.ThrowsAsync<Npgsql.PostgresException>(() =>
            db.Run(
                """
                insert into pay_items (driver_id, kind, happened_on, what, amount, account, entered_at, bill_id, bill_seq)
                values (@driver, 'deduction', '2026-11-24', 'x', 1, '5200', now(), @bill, 1)
                """,
                ("driver", driver),
                ("bill", bill)
            )
        );
    }
}
