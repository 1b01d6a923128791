using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Claims;

/// <summary>A cargo claim from the report to the books: the customer is billed and credited, the carrier's pay waits and is debited.</summary>
public sealed class ClaimsTests(TestBusiness business) : IClassFixture<TestBusiness>
{
    private async Task<(Caller Owner, long Load, long Claim, long Bill)> Damaged(int day, string number)
    {
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, day, "carrier");
        _ = (
            await owner.Post(
                $"loads/{load}/reports",
                new
                {
                    kind = "damaged",
                    note = "one pallet crushed",
                    pieces = 40,
                }
            )
        ).Ok;
        var claim = (await owner.Get($"loads/{load}/claims")).Ok.AsArray().Single()!["id"]!.GetValue<long>();
        var leg = (await owner.Get($"loads/{load}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number,
                    amount = Usd(700m),
                }
            )
        ).Id;
        _ = (await owner.Pay($"bills/{bill}/approve", new { })).Ok;
        return (owner, load, claim, bill);
    }

    private static async Task<JsonNode> Claim(Caller owner, long claim) => (await owner.Get($"claims/{claim}")).Ok;

    private async Task Agrees()
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));
    }

    [Fact]
    public async Task A_claim_is_filed_acknowledged_settled_and_recovered_by_a_debit_memo()
    {
        var (owner, load, claim, bill) = await Damaged(-3, "claimed");
        var number = (await Claim(owner, claim))["claim"]!["number"]!.GetValue<string>();

        // The customer's invoice does not wait, the carrier's pay does.
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Id;
        var held = await owner.PayBills("ach", bill);
        Assert.Equal("pay.claim", held.Code);
        Assert.Contains(number, held.Body!["errors"]![0]!["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal("claim.state", (await owner.Post($"claims/{claim}/acknowledge")).Code);
        Assert.Equal(
            "outcome",
            (await owner.Pay($"claims/{claim}/decide", new { outcome = "paid", why = "our carrier's fault" })).Fields.Single()
        );

        _ = (await owner.Post($"claims/{claim}/file", new { filedOn = "2026-11-20", amount = Usd(420m) })).Ok;
        var next = (await Claim(owner, claim))["next"]!;
        Assert.Equal(("2026-12-20", "49 CFR 370.5(a)"), (next["on"]!.GetValue<string>(), next["rule"]!.GetValue<string>()));
        _ = (await owner.Post($"claims/{claim}/acknowledge")).Ok;
        _ = (await owner.Post($"claims/{claim}/carrier", new { filedOn = "2026-11-21" })).Ok;
        var about = (await Claim(owner, claim))["claim"]!["loadNumber"];
        var mail = await business.Subjects();
        Assert.Contains($"Your claim {number} on load {about}", mail);
        Assert.Contains($"Claim {number} on load {about}", mail);

        var before = await Balances(owner);
        object Settle(decimal amount) =>
            new
            {
                outcome = "settled",
                amount = Usd(amount),
                why = "salvage was sold",
            };
        Assert.Equal("amount", (await owner.Pay($"claims/{claim}/decide", Settle(420m))).Fields.Single());
        _ = (await owner.Pay($"claims/{claim}/decide", Settle(300m))).Ok;
        Assert.Equal([-300m, 300m], Changes(before, await Balances(owner), "1200", "4910"));
        Assert.Equal(998.59m, Amount((await owner.Get($"invoices/{invoice}")).Ok["invoice"]!["open"]));
        Assert.Equal("pay.claim", (await owner.PayBills("ach", bill)).Code);

        object Debit(decimal amount) =>
            new
            {
                amount = Usd(amount),
                why = "claim",
                claimId = claim,
            };
        Assert.Equal("over.open", (await owner.Pay($"bills/{bill}/debit-memos", Debit(700.01m))).Code);
        _ = (await owner.Pay($"bills/{bill}/debit-memos", Debit(300m))).Ok;
        Assert.Equal([300m, -300m], Changes(before, await Balances(owner), "2000", "4920"));
        Assert.False((await Claim(owner, claim))["claim"]!["holdsPay"]!.GetValue<bool>());
        _ = (await owner.PayBills("ach", bill)).Ok;
        Assert.Equal([700m, -400m], Changes(before, await Balances(owner), "2000", "1000"));
        await Agrees();

        // Taken back step by step, the books are as before, and the pay is held again.
        foreach (var payment in (await owner.Get($"bills/{bill}")).Ok["payments"]!.AsArray())
        {
            _ = (await owner.Pay($"vendor-payments/{payment!["id"]}/reverse")).Ok;
        }

        Assert.True((await Claim(owner, claim))["claim"]!["holdsPay"]!.GetValue<bool>());
        Assert.Equal("claim.state", (await owner.Post($"claims/{claim}/reopen")).Code);
        var memo = (await Claim(owner, claim))["claim"]!["memoId"]!.GetValue<long>();
        _ = (await owner.Pay($"payments/{memo}/reverse")).Ok;
        _ = (await owner.Post($"claims/{claim}/reopen")).Ok;
        Assert.Equal(before, await Balances(owner));
        await Agrees();
    }

    [Fact]
    public async Task A_carrier_that_pays_a_claim_in_money_is_paid_and_a_release_or_a_refusal_ends_the_hold()
    {
        var (owner, load, claim, bill) = await Damaged(-4, "by check");
        _ = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
        _ = (await owner.Post($"claims/{claim}/file", new { amount = Usd(80m) })).Ok;
        var before = await Balances(owner);
        _ = (await owner.Pay($"claims/{claim}/decide", new { outcome = "paid", why = "as claimed" })).Ok;
        var received = new
        {
            amount = Usd(80m),
            method = "check",
            reference = "88",
        };
        _ = (await owner.Pay($"claims/{claim}/recoveries", received)).Ok;
        Assert.Equal([80m, 80m, -80m], Changes(before, await Balances(owner), "1000", "4910", "4920"));
        var recovery = (await Claim(owner, claim))["recoveries"]![0]!["id"]!.GetValue<long>();
        _ = (await owner.Pay($"claim-recoveries/{recovery}/reverse")).Ok;
        Assert.Equal("pay.claim", (await owner.PayBills("ach", bill)).Code);
        Assert.Equal("why", (await owner.Post($"claims/{claim}/release", new { })).Fields.Single());
        _ = (await owner.Post($"claims/{claim}/release", new { why = "its insurer pays us directly" })).Ok;
        _ = (await owner.PayBills("ach", bill)).Ok;

        var (_, _, declined, second) = await Damaged(-5, "declined");
        _ = (await owner.Pay($"claims/{declined}/decide", new { outcome = "withdrawn", why = "the customer files none" })).Ok;
        _ = (await owner.PayBills("ach", second)).Ok;
        await Agrees();
    }

    [Fact]
    public async Task A_customer_whose_terms_say_so_is_billed_once_its_claim_is_settled()
    {
        var owner = await business.As(Role.Owner);
        var settings = (await owner.Get($"companies/{business.Ids["customer"]}/billing-settings")).Ok;
        var body = settings["settings"]!.DeepClone();
        (body["version"], body["holdForClaims"]) = (settings["version"]!.DeepClone(), true);
        _ = (await owner.Put($"companies/{business.Ids["customer"]}/billing-settings", body)).Ok;
        var (_, load, claim, _) = await Damaged(-6, "waits");
        var held = await owner.Pay("invoices", new { loadIds = new[] { load } });
        Assert.Equal("load.held", held.Code);
        Assert.Contains("one pallet crushed", held.Body!["errors"]![0]!["message"]!.GetValue<string>(), StringComparison.Ordinal);

        // Decided before the load is billed: credited with its invoice.
        _ = (await owner.Post($"claims/{claim}/file", new { amount = Usd(80m) })).Ok;
        _ = (await owner.Pay($"claims/{claim}/decide", new { outcome = "paid", why = "ours" })).Ok;
        Assert.Null((await Claim(owner, claim))["claim"]!["memo"]);
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
        Assert.Equal(1218.59m, Amount(invoice["open"]));
        Assert.StartsWith("CM-", (await Claim(owner, claim))["claim"]!["memo"]!.GetValue<string>(), StringComparison.Ordinal);
        await Agrees();
        (body["version"], body["holdForClaims"]) = (settings["version"]!.GetValue<int>() + 1, false);
        _ = (await owner.Put($"companies/{business.Ids["customer"]}/billing-settings", body)).Ok;
    }

    [Fact]
    public async Task A_bill_is_not_approved_before_the_pod_is_there()
    {
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, -7, "carrier", pod: false);
        var leg = (await owner.Get($"loads/{load}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number = "no pod",
                    amount = Usd(700m),
                }
            )
        ).Id;
        Assert.Equal("bill.pod", (await owner.Pay($"bills/{bill}/approve", new { })).Code);
        using var page = new SteadyLark.Server.Documents.PdfPage("POD", "test");
        page.Line("Received");
        _ = (await owner.Upload($"loads/{load}/documents?kind=pod&name=pod.pdf", page.Save())).Ok;
        _ = (await owner.Pay($"bills/{bill}/approve", new { })).Ok;
    }
}
