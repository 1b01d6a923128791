using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Billing;

/// <summary>Corrections after an invoice is out: credit memos reduce it, late charges go on a supplemental invoice.</summary>
public sealed class Corrections(TestBusiness business) : IClassFixture<TestBusiness>
{
    private async Task<Caller> Owner()
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));
        return await business.As(Role.Owner);
    }

    private static object Memo(decimal amount, string reason = "concession", string? why = "a day late") =>
        new
        {
            amount = Usd(amount),
            reason,
            why,
        };

    private static async Task<decimal> Open(Caller owner, long invoice) =>
        Amount((await owner.Get($"invoices/{invoice}")).Ok["invoice"]!["open"]);

    private async Task<long> Paid(Caller owner, long invoice, decimal amount) =>
        (
            await owner.Pay(
                "payments",
                new
                {
                    customerId = business.Ids["customer"],
                    method = "check",
                    reference = "4010",
                    amount = Usd(amount),
                    applications = new[] { new { invoiceId = invoice, amount = Usd(amount) } },
                }
            )
        ).Id;

    [Fact]
    public async Task A_credit_memo_reduces_an_open_invoice_and_is_mailed_and_reversed()
    {
        var owner = await Owner();
        var load = await business.Delivered(owner, -3, "carrier");
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Id;
        var before = await Balances(owner);
        Assert.Equal(
            ["why", "reason", "amount"],
            (await owner.Pay($"invoices/{invoice}/credit-memos", new { amount = Usd(0) })).Fields.OrderDescending()
        );
        Assert.Equal("over.invoice", (await owner.Pay($"invoices/{invoice}/credit-memos", Memo(1298.60m))).Code);
        var memo = (await owner.Pay($"invoices/{invoice}/credit-memos", Memo(100m))).Ok;
        Assert.Equal(1198.59m, await Open(owner, invoice));
        Assert.Equal([-100m, 100m, 0m], Changes(before, await Balances(owner), "1200", "4900", "2300"));
        var number = (await owner.Get($"invoices/{invoice}")).Ok["invoice"]!["number"];
        Assert.Contains($"Credit memo {memo["reference"]} for invoice {number}", await business.Subjects());
        var pdf = await owner.Http.GetByteArrayAsync($"/api/payments/{memo["id"]}/credit-memo");
        Assert.Contains("a day late", SteadyLark.Server.Documents.PdfText.Of(pdf, "application/pdf"), StringComparison.Ordinal);

        // Memos of an invoice together never exceed it, but for freight claims; and it is not voided while one stands.
        var claim = (await owner.Pay($"invoices/{invoice}/credit-memos", Memo(9_000m, "claim", "a truckload of butter"))).Ok;
        Assert.Equal((0m, 7_801.41m), (await Open(owner, invoice), Amount(claim["unapplied"])));
        _ = (await owner.Pay($"payments/{claim["id"]}/reverse")).Ok;
        Assert.Equal("over.invoice", (await owner.Pay($"invoices/{invoice}/credit-memos", Memo(1198.60m))).Code);
        Assert.Equal("invoice.paid", (await owner.Pay($"invoices/{invoice}/void")).Code);
        _ = (await owner.Pay($"payments/{memo["id"]}/reverse")).Ok;
        Assert.Equal(before, await Balances(owner));
        Assert.Equal(1298.59m, await Open(owner, invoice));
        _ = await Owner();
    }

    [Fact]
    public async Task A_credit_memo_on_a_paid_invoice_is_credit_that_is_refunded_and_a_billing_error_reduces_its_revenue()
    {
        var owner = await Owner();
        var load = await business.Delivered(owner, -4, "carrier");
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Id;
        _ = await Paid(owner, invoice, 1298.59m);
        var before = await Balances(owner);
        var memo = (await owner.Pay($"invoices/{invoice}/credit-memos", Memo(40m, "billing_error", "fuel surcharge of last week"))).Ok;
        Assert.Equal(40m, Amount(memo["unapplied"]));
        Assert.Equal([40m, -40m], Changes(before, await Balances(owner), "4000", "2300"));
        _ = (
            await owner.Pay(
                $"payments/{memo["id"]}/refund",
                new
                {
                    method = "check",
                    reference = "1",
                    reason = "overcharged",
                }
            )
        ).Ok;
        Assert.Equal([40m, 0m, -40m], Changes(before, await Balances(owner), "4000", "2300", "1000"));
        Assert.Equal("payment.refunded", (await owner.Pay($"payments/{memo["id"]}/reverse")).Code);
        _ = await Owner();
    }

    [Fact]
    public async Task Credit_memos_entered_at_once_never_exceed_their_invoice()
    {
        var owner = await Owner();
        var load = await business.Delivered(owner, -5, "carrier");
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Id;
        var answers = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => owner.Pay($"invoices/{invoice}/credit-memos", Memo(600m))));
        Assert.Equal(2, answers.Count(a => (int)a.Status < 300));
        Assert.All(answers.Where(a => (int)a.Status >= 300), a => Assert.Equal("over.invoice", a.Code));
        _ = await Owner();
    }

    [Fact]
    public async Task Late_detention_goes_on_a_supplemental_invoice_and_the_load_closes_when_both_are_paid()
    {
        var owner = await Owner();
        var load = await business.Delivered(owner, -6, "carrier");
        object Late(decimal amount, string? by = "R. Dahl") =>
            new
            {
                charges = new[]
                {
                    new
                    {
                        kind = "detention",
                        description = "2 hours",
                        amount = Usd(amount),
                        authorization = new { by, reference = "email" },
                    },
                },
            };
        Assert.Equal("load.state", (await owner.Pay($"loads/{load}/late-charges", Late(150m))).Code);
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Id;
        _ = await Paid(owner, invoice, 1298.59m);
        var leg = (await owner.Get($"loads/{load}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number = "late",
                    amount = Usd(700m),
                }
            )
        ).Id;
        _ = (await owner.Pay($"bills/{bill}/approve", new { })).Ok;
        _ = (await owner.PayBills("check", bill)).Ok;
        async Task<string> State() => (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["state"]!.GetValue<string>();
        Assert.Equal("closed", await State());

        var before = await Balances(owner);
        Assert.Equal("charges[0].authorization.by", (await owner.Pay($"loads/{load}/late-charges", Late(150m, null))).Fields.Single());
        _ = (await owner.Pay($"loads/{load}/late-charges", Late(150m))).Ok;
        Assert.Equal("billed", await State());
        Assert.Equal([150m, -150m], Changes(before, await Balances(owner), "1210", "4200"));
        var waiting = (await owner.Get("unbilled")).Ok.AsArray().Single(u => u!["loadId"]!.GetValue<long>() == load)!;
        Assert.Equal((true, 150m), (waiting["late"]!.GetValue<bool>(), Amount(waiting["revenue"])));

        var supplement = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
        Assert.Equal(150m, Amount(supplement["total"]));
        Assert.Equal([0m, 150m], Changes(before, await Balances(owner), "1210", "1200"));
        Assert.Equal("load.billed", (await owner.Pay("invoices", new { loadIds = new[] { load } })).Code);
        var charge = (await owner.Get($"loads/{load}")).Ok["sheet"]!["charges"]!.AsArray()[^1]!;
        Assert.Equal("R. Dahl", charge["authorization"]!["by"]!.GetValue<string>());

        // Voiding the supplement leaves its charges to be billed again; the invoice itself stays while a supplement stands.
        _ = (await owner.Pay($"invoices/{supplement["id"]}/void")).Ok;
        Assert.Equal("billed", await State());
        var again = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Id;
        await Reversed(owner, invoice);
        Assert.Equal("invoice.supplement", (await owner.Pay($"invoices/{invoice}/void")).Code);
        _ = await Paid(owner, invoice, 1298.59m);
        _ = await Paid(owner, again, 150m);
        Assert.Equal("closed", await State());
        _ = await Owner();
    }

    [Fact]
    public async Task A_discount_and_a_minimum_charge_are_priced_and_a_discount_never_exceeds_the_charges()
    {
        var owner = await Owner();
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(2, "PO discount")))!;
        order["charges"] = JsonNode.Parse(
            """
            [{"kind":"line_haul","basis":"per_mile","rate":0.5,"minimum":950},
             {"kind":"discount","description":"two loads a week","basis":"percent","rate":5}]
            """
        );
        var load = (await owner.Post("loads", order)).Id;
        var charges = (await owner.Get($"loads/{load}")).Ok["sheet"]!["charges"]!.AsArray();
        Assert.Equal([950m, -47.50m], charges.Select(c => Amount(c!["amount"])));
        Assert.Equal(902.50m, Amount((await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["revenue"]));
        order["charges"]![1]!["rate"] = 101;
        Assert.Equal("discount", (await owner.Post("loads", order)).Code);
        order["charges"]![0]!["minimum"] = -1;
        Assert.Equal("charges[0].minimum", (await owner.Post("loads", order)).Fields.First());
    }
}
