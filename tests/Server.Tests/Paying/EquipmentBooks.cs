using System.Text.Json.Nodes;
using NodaTime;
using SteadyLark.Core.People;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Paying;

/// <summary>A truck bought with a loan: depreciated as months are closed, paid back, sold; and what the cash flow says about it.</summary>
public sealed class EquipmentBooks(TestBusiness business) : IClassFixture<TestBusiness>
{
    private object Truck(string inService, decimal? loan = 100_000m) =>
        new
        {
            name = "Truck 118",
            truckId = business.Ids["moses truck"],
            inService,
            cost = Usd(148_000m),
            salvage = Usd(40_000m),
            months = 60,
            loan = loan is { } principal
                ? new
                {
                    lender = "Clark Fork Bank",
                    principal = Usd(principal),
                    percent = 8m,
                    months = 60,
                    firstOn = "2026-11-01",
                }
                : null,
        };

    private static async Task<JsonNode> Asset(Caller owner, long id) =>
        (await owner.Get("assets")).Ok.AsArray().Single(a => a!["id"]!.GetValue<long>() == id)!;

    [Fact]
    public async Task A_truck_is_bought_depreciated_paid_back_and_sold_and_the_cash_flow_explains_it()
    {
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 17, 0);
        var owner = await business.As(Role.Owner);
        var before = await Balances(owner);
        var truck = (await owner.Pay("assets", Truck("2026-09-14"))).Id;
        Assert.Equal([148_000m, -100_000m, -48_000m], Changes(before, await Balances(owner), "1500", "2500", "1000"));

        // September and October are depreciated as they are closed; reopened and closed again, once.
        _ = (await owner.Post("ledger/periods/close", new { month = "2026-10-01" })).Ok;
        Assert.Equal([3_600m, -3_600m], Changes(before, await Balances(owner), "5550", "1590"));

        // 30 of the 31 days before the first payment: accrued on October 31, and back on November 1.
        Assert.Equal([645.16m, -645.16m], Changes(before, await Balances(owner, "2026-10-31"), "6800", "2120"));
        Assert.Equal([0m, 0m], Changes(before, await Balances(owner), "6800", "2120"));
        Assert.Equal([1_800m], Changes(before, await Balances(owner, "2026-09-30"), "5550"));
        _ = (await owner.Post("ledger/periods/reopen", new { month = "2026-09-01", why = "a late bill" })).Ok;
        Assert.Equal([0m], Changes(before, await Balances(owner), "5550"));
        _ = (await owner.Post("ledger/periods/close", new { month = "2026-10-01" })).Ok;
        Assert.Equal(3_600m, Amount((await Asset(owner, truck))["depreciated"]));

        // 100,000 at 8 % over 60 months: 2,027.64 a month, 666.67 of the first is interest.
        var loan = (await Asset(owner, truck))["loan"]!["id"]!.GetValue<long>();
        _ = (await owner.Pay($"loans/{loan}/payments", new { method = "ach", paidOn = "2026-11-02" })).Ok;
        Assert.Equal([666.67m, -98_639.03m], Changes(before, await Balances(owner), "6800", "2500"));
        var first = (await Asset(owner, truck))["loan"]!["payments"]![0]!["id"]!.GetValue<long>();
        _ = (await owner.Pay($"loans/{loan}/payments", new { method = "ach" })).Ok;
        Assert.Equal("payment.reversed", (await owner.Pay($"loan-payments/{first}/reverse")).Code);
        var second = (await Asset(owner, truck))["loan"]!["payments"]![1]!["id"]!.GetValue<long>();
        _ = (await owner.Pay($"loan-payments/{second}/reverse")).Ok;
        _ = (await owner.Pay($"loan-payments/{first}/reverse")).Ok;
        Assert.Equal([0m, -100_000m], Changes(before, await Balances(owner), "6800", "2500"));

        // Sold on November 20 for 140,000: book value 144,400.
        Assert.Equal(
            ["proceeds", "soldOn"],
            (await owner.Pay($"assets/{truck}/sell", new { soldOn = "2026-12-01", proceeds = (object?)null })).Fields.Order()
        );
        _ = (await owner.Pay($"assets/{truck}/sell", new { soldOn = "2026-11-20", proceeds = Usd(140_000m) })).Ok;
        Assert.Equal([0m, 0m, 4_400m], Changes(before, await Balances(owner), "1500", "1590", "4800"));
        var flow = (await owner.Get("ledger/cash-flow?from=2026-09-01&until=2026-11-22")).Ok;
        Assert.Equal(
            (0m, -8_000m, 100_000m),
            (Amount(flow["totalOperating"]), Amount(flow["totalInvesting"]), Amount(flow["totalFinancing"]))
        );
        Assert.Equal(92_000m, Amount(flow["closing"]) - Amount(flow["opening"]));
        Assert.Equal("asset.sold", (await owner.Pay($"assets/{truck}/sell", new { proceeds = Usd(1m) })).Code);
        _ = (await owner.Pay($"assets/{truck}/reverse-sale")).Ok;
        Assert.Equal([148_000m, -3_600m, 0m], Changes(before, await Balances(owner), "1500", "1590", "4800"));
        _ = (await owner.Post("ledger/periods/reopen", new { month = "2026-09-01", why = "for the other tests" })).Ok;
    }

    [Fact]
    public async Task Months_that_are_not_closed_are_depreciated_with_the_sale()
    {
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 17, 0);
        var owner = await business.As(Role.Owner);
        var before = await Balances(owner);
        var truck = (await owner.Pay("assets", Truck("2026-08-03", loan: null))).Id;
        _ = (await owner.Pay($"assets/{truck}/sell", new { soldOn = "2026-11-05", proceeds = Usd(142_600m) })).Ok;
        Assert.Equal([5_400m, 0m, 0m, 0m, -5_400m], Changes(before, await Balances(owner), "5550", "1500", "1590", "4800", "1000"));
        Assert.Equal("asset.in.use", await Twice());

        async Task<string?> Twice()
        {
            _ = (await owner.Pay($"assets/{truck}/reverse-sale")).Ok;
            return (await owner.Pay($"assets/{truck}/reverse-sale")).Code;
        }
    }
}
