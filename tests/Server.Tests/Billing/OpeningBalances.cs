using System.Text;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Server.Tests.Billing;

/// <summary>A company brings its books: open items become documents that are aged, paid, written off and voided here.</summary>
public class OpeningBalances(TestBusiness business) : IClassFixture<TestBusiness>
{
    private object Item(string kind, string party, string? number, decimal amount, string on = "2026-10-05", string due = "2026-11-04") =>
        new
        {
            kind,
            partyId = business.Ids[party],
            number,
            on,
            dueOn = due,
            amount = TestBusiness.Usd(amount),
        };

    private static object Line(string account, decimal debit, decimal credit) =>
        new
        {
            account,
            debit = debit > 0 ? TestBusiness.Usd(debit) : null,
            credit = credit > 0 ? TestBusiness.Usd(credit) : null,
        };

    private static async Task<string> Left(Caller caller) => (await caller.Get("ledger/opening")).Ok["left"]!["amount"]!.GetValue<string>();

    [Fact]
    public async Task Open_items_are_aged_paid_and_voided_and_the_books_agree()
    {
        var owner = await business.As(Role.Owner);
        var entered = (
            await owner.Pay(
                "ledger/opening",
                new
                {
                    on = "2026-10-31",
                    lines = new[] { Line("1000", 20_000m, 0), Line("3000", 0, 20_850m) },
                    items = new[]
                    {
                        Item("invoice", "customer", "OLD-1", 1_500m, "2026-08-01", "2026-08-31"),
                        Item("invoice", "customer", "OLD-2", 700m),
                        Item("bill", "carrier", "K-77", 1_100m),
                        Item("advance", "moses", "boots", 150m),
                        Item("credit", "customer", "check 881", 400m),
                    },
                }
            )
        ).Ok;
        Assert.Equal((5, 2), (entered["items"]!.GetValue<int>(), entered["lines"]!.GetValue<int>()));

        // Assets 20,000 + 2,200 + 150, liabilities 1,500, equity 20,850: nothing is left.
        Assert.Equal("0.00", await Left(owner));
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await TestBusiness.Disagreements(db));

        // Aged by their own due dates.
        Assert.Contains("1500.00", (await owner.Get("ledger/aging?on=2026-10-31")).Ok.ToJsonString());
        var open = (await owner.Get($"invoices?open=true&customerId={business.Ids["customer"]}")).Ok["rows"]!.AsArray();
        var first = open.Single(i => i!["number"]!.GetValue<string>() == "OLD-1")!;
        Assert.True(first["isOpening"]!.GetValue<bool>());
        var id = first["id"]!.GetValue<long>();
        var other = open.Single(i => i!["number"]!.GetValue<string>() == "OLD-2")!["id"]!.GetValue<long>();

        // It has no PDF here and is not emailed; part is paid, part written off without a load.
        Assert.Equal("not.found", (await owner.Get($"invoices/{id}/pdf")).Code);
        Assert.Equal("invoice.opening", (await owner.Pay($"invoices/{id}/send", new { to = "ap@snowberry.example" })).Code);
        _ = (
            await owner.Pay(
                "payments",
                new
                {
                    customerId = business.Ids["customer"],
                    method = "check",
                    reference = "5512",
                    amount = TestBusiness.Usd(1_000m),
                    receivedOn = "2026-11-10",
                    applications = new[] { new { invoiceId = id, amount = TestBusiness.Usd(1_000m) } },
                }
            )
        ).Ok;
        _ = (
            await owner.Pay(
                $"invoices/{id}/write-off",
                new
                {
                    amount = TestBusiness.Usd(500m),
                    kind = "uncollectible",
                    reason = "Bankrupt",
                }
            )
        ).Ok;

        // The other one is voided, which shows on 3900 until it is written to equity; the bill is approved like any other.
        _ = (await owner.Pay($"invoices/{other}/void")).Ok;
        var bill = (await owner.Get("bills?paid=false")).Ok["rows"]!.AsArray().Single(b => b!["number"]!.GetValue<string>() == "K-77")![
            "id"
        ]!.GetValue<long>();
        _ = (await owner.Pay($"bills/{bill}/approve", new { })).Ok;
        Assert.Empty(await TestBusiness.Disagreements(db));
        Assert.Equal("700.00", await Left(owner));

        // The same numbers are refused.
        var again = new
        {
            on = "2026-10-31",
            items = new[] { Item("invoice", "customer", "old-1", 1m), Item("bill", "carrier", "K-77", 1m) },
        };
        Assert.Equal(["items[0].number", "items[1].number"], (await owner.Pay("ledger/opening", again)).Fields);
    }

    [Theory]
    [InlineData("3000-01-01")]
    [InlineData(null)]
    public async Task An_opening_day_is_needed_and_past(string? on)
    {
        var owner = await business.As(Role.Owner);
        Assert.Contains("on", (await owner.Pay("ledger/opening", new { on, items = new[] { Item("advance", "lena", null, 5m) } })).Fields);
    }

    [Fact]
    public async Task Nothing_is_entered_when_one_row_is_wrong_or_a_control_account_is_named()
    {
        var owner = await business.As(Role.Owner);
        var before = await Left(owner);
        var wrong = new
        {
            on = "2026-10-31",
            lines = new[] { Line("1200", 5m, 0) },
            items = new[] { Item("invoice", "customer", "NEW-1", 5m), Item("bill", "customer", "NEW-2", 5m) },
        };
        Assert.Equal(["items[1].partyId", "lines[0].account"], (await owner.Pay("ledger/opening", wrong)).Fields.Order());
        Assert.Equal(before, await Left(owner));
        Assert.Equal(403, (int)(await (await business.As(Role.Broker)).Pay("ledger/opening", wrong)).Status);
    }

    [Fact]
    public async Task A_file_is_read_and_names_are_matched()
    {
        var owner = await business.As(Role.Owner);
        var file =
            "Customer,Invoice,Date,Due date,Amount\nsnowberry creamery,F-1,10/1/2026,10/31/2026,\"1,200.00\"\nNo Such Co,F-2,10/1/2026,10/31/2026,x\n";
        var rows = (await owner.Upload("ledger/opening/read?kind=invoice", Encoding.UTF8.GetBytes(file))).Ok.AsArray();
        Assert.Equal(business.Ids["customer"], rows[0]!["partyId"]!.GetValue<long>());
        Assert.Equal("1200.00", rows[0]!["read"]!["amount"]!["amount"]!.GetValue<string>());
        Assert.Null(rows[1]!["partyId"]);
        Assert.Single(rows[1]!["read"]!["problems"]!.AsArray());
    }
}
