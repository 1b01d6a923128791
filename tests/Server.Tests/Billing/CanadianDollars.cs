using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Billing;

/// <summary>A Canadian customer and a Canadian carrier, from the exchange rate to the books: everything in their currency, the books in
/// ours.</summary>
public sealed class CanadianDollars(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static object Cad(decimal amount) => new { amount = amount.ToString("0.00"), currency = "CAD" };

    private static object Rate(string on, decimal usd) =>
        new
        {
            currency = "CAD",
            on,
            usd,
        };

    private static object Company(string name, bool customer, string currency = "CAD", int? version = null) =>
        new
        {
            name,
            version,
            isCustomer = customer,
            isCarrier = !customer,
            email = "books@wildrose.example",
            region = customer ? "AB" : null,
            currency,
            carrier = customer
                ? null
                : new
                {
                    authorityActive = true,
                    liabilityUntil = "2027-06-30",
                    cargoUntil = "2027-06-30",
                    liability = Usd(1_000_000m),
                },
        };

    private static async Task<(long Customer, long Carrier)> Partners(Caller owner, string name)
    {
        foreach (var (on, usd) in new[] { ("2026-11-01", 0.7200m), ("2026-11-20", 0.7300m), ("2026-11-22", 0.7400m) })
        {
            _ = (await owner.Post("ledger/exchange-rates", Rate(on, usd))).Ok;
        }

        return (
            (await owner.Post("companies", Company($"{name} Dairy", true))).Id,
            (await owner.Post("companies", Company($"{name} Haulage", false))).Id
        );
    }

    [Fact]
    public async Task A_company_trades_in_a_currency_that_has_a_rate_and_keeps_it_once_it_has_documents()
    {
        var owner = await business.As(Role.Owner);
        Assert.Equal(["usd"], (await owner.Post("ledger/exchange-rates", Rate("2026-11-23", 1.38m * 10))).Fields);
        Assert.Equal(["on"], (await owner.Post("ledger/exchange-rates", Rate("2046-11-23", 0.72m))).Fields);
        var (customer, _) = await Partners(owner, "Sweetgrass");
        var rates = (await owner.Get("ledger/exchange-rates")).Ok.AsArray();
        Assert.Equal(["2026-11-22", "2026-11-20", "2026-11-01"], rates.Take(3).Select(r => r!["on"]!.GetValue<string>()));

        // US dollars are not Canadian ones, wherever they are typed.
        var refused = await owner.Post("loads", In(customer, business.Order()));
        Assert.Equal(("currency", "charges"), (refused.Code, refused.Fields.Single()));
        Assert.Equal(
            "amount",
            (
                await owner.Pay(
                    "payments",
                    new
                    {
                        customerId = customer,
                        method = "check",
                        amount = Usd(5m),
                    }
                )
            ).Fields.Single()
        );
        _ = await Delivered(owner, customer, business.Ids["carrier"], Usd(700m), -4);
        var version = (await owner.Get($"companies/{customer}")).Ok["company"]!["version"]!.GetValue<int>();
        Assert.Equal("currency.used", (await owner.Put($"companies/{customer}", Company("Sweetgrass Dairy", true, "USD", version))).Code);
    }

    [Fact]
    public async Task A_load_is_billed_and_paid_in_Canadian_dollars_and_its_margin_is_in_ours()
    {
        var owner = await business.As(Role.Owner);
        var (customer, carrier) = await Partners(owner, "Prairie");
        var start = await Balances(owner);
        _ = (await owner.Put("company/payment-details", new { gstNumber = "990000410 RT0001" })).Ok;

        // Delivered on November 18 at 0.72: 1,000.00 is 720.00; the carrier's 800.00 is 576.00.
        var load = await Delivered(owner, customer, carrier, Cad(800m), -1);
        Assert.Equal([720m, -720m, 576m, -576m], Changes(start, await Balances(owner), "1210", "4000", "5000", "2050"));
        var money = (await owner.Get($"loads/{load}")).Ok;
        Assert.Equal(1000m, Amount(money["sheet"]!["load"]!["revenue"]));
        Assert.Equal("CAD", money["sheet"]!["load"]!["revenue"]!["currency"]!.GetValue<string>());
        Assert.Equal((720m, 576m), (Amount(money["money"]!["revenue"]), Amount(money["money"]!["cost"])));
        Assert.Equal(144m, Amount(money["money"]!["margin"]!["amount"]));

        // Invoiced at today's 0.74: 20.00 more than it was booked at.
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
        Assert.Equal("CAD", invoice["total"]!["currency"]!.GetValue<string>());
        Assert.Equal([740m, 0m, -20m], Changes(start, await Balances(owner), "1200", "1210", "6900"));
        var pdf = PdfText.Of(await owner.Http.GetByteArrayAsync($"/api/invoices/{invoice["id"]}/pdf"), "application/pdf");
        Assert.Contains("CAD 1,000.00", pdf, StringComparison.Ordinal);
        Assert.Contains("in Canadian dollars", pdf, StringComparison.Ordinal);
        Assert.Contains("990000410RT0001", pdf, StringComparison.Ordinal);

        // 600.00 is paid into the Canadian account at 0.74, 100.00 is a short pay, and the rest is credited.
        _ = (
            await owner.Pay(
                "payments",
                new
                {
                    customerId = customer,
                    method = "wire",
                    reference = "W-1",
                    amount = Cad(600m),
                    applications = new[]
                    {
                        new
                        {
                            invoiceId = invoice["id"]!.GetValue<long>(),
                            amount = Cad(600m),
                            writeOff = Cad(100m),
                            reason = "late",
                            kind = "concession",
                        },
                    },
                }
            )
        ).Ok;
        Assert.Equal([444m, 222m, 74m], Changes(start, await Balances(owner), "1010", "1200", "4900"));
        _ = (
            await owner.Pay(
                $"invoices/{invoice["id"]}/credit-memos",
                new
                {
                    amount = Cad(300m),
                    reason = "billing_error",
                    why = "wrong rate",
                }
            )
        ).Ok;
        Assert.Equal([0m, 222m - 720m], Changes(start, await Balances(owner), "1200", "4000"));

        // The carrier bills 850.00: 800.00 is owed as agreed, and paid by wire in part and whole.
        var leg = (await owner.Get($"loads/{load}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number = "B-1",
                    amount = Cad(850m),
                }
            )
        ).Id;
        Assert.Equal([-592m, 0m], Changes(start, await Balances(owner), "2000", "2050"));
        _ = (await owner.Pay($"bills/{bill}/approve", new { amount = Cad(800m) })).Ok;
        var pay = (object?[] bills, string method) => owner.Pay("vendor-payments", new { bills, method });
        Assert.Equal("currency.ach", (await pay([new { billId = bill, amount = (object?)null }], "ach")).Code);
        Assert.Equal("currency", (await pay([new { billId = bill, amount = Usd(5m) }], "wire")).Code);
        _ = (await pay([new { billId = bill, amount = Cad(300m) }], "wire")).Ok;
        _ = (await pay([new { billId = bill, amount = (object?)null }], "wire")).Ok;
        Assert.Equal([0m, 444m - 592m], Changes(start, await Balances(owner), "2000", "1010"));

        // The account is filled from ours, and what is left of it is worth something else at the end of the month.
        _ = (
            await owner.Pay(
                "ledger/entries",
                new
                {
                    memo = "Transfer to the Canadian account",
                    lines = new object[] { new { account = "1010", debit = Cad(1000m) }, new { account = "1000", credit = Usd(742m) } },
                }
            )
        ).Ok;
        business.Clock.Now = Instant.FromUtc(2026, 12, 2, 16, 0);
        owner = await business.As(Role.Owner);
        _ = (await owner.Post("ledger/exchange-rates", Rate("2026-11-30", 0.7000m))).Ok;
        _ = (await owner.Post("ledger/periods/close", new { month = "2026-11-01" })).Ok;
        // 600.00 received, 800.00 paid and 1,000.00 transferred leave 800.00, at 0.70.
        Assert.Equal([560m], Changes(start, await Balances(owner, "2026-11-30"), "1010"));
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));
        _ = (await owner.Post("ledger/periods/reopen", new { month = "2026-11-01", why = "a late bill" })).Ok;
        Assert.Equal([444m - 592m + 742m], Changes(start, await Balances(owner), "1010"));
        business.Clock.Now = new SetClock().Now;
    }

    [Fact]
    public async Task What_is_agreed_in_US_dollars_is_compared_at_the_rate_of_the_day()
    {
        var owner = await business.As(Role.Owner);
        var (customer, _) = await Partners(owner, "Milk River");

        // Half of a driver's line haul is half of 740.00; the same load comes back as another driver's return load.
        var order = In(customer, business.Order());
        order["charges"] = System.Text.Json.JsonSerializer.SerializeToNode(new[] { new { kind = "line_haul", amount = Cad(1000m) } });
        var load = (await owner.Post("loads", order)).Id;
        var choices = (await owner.Get($"loads/{load}/choices")).Ok;
        var margin = choices["drivers"]!.AsArray().Select(d => d!["margin"]!["amount"]!["currency"]!.GetValue<string>()).Distinct();
        Assert.Equal(["USD"], margin);
        var other = (await owner.Post("loads", business.Order(2, "PO other"))).Id;
        Assert.NotEmpty((await owner.Get($"loads/{other}/choices")).Ok["drivers"]!.AsArray());

        // The company's default limit of 500 US dollars is CA$675.68.
        _ = (await owner.Put("company-settings", new { defaultCreditLimit = 500 })).Ok;
        var held = In(customer, business.Order(3, "PO held"));
        held["charges"] = System.Text.Json.JsonSerializer.SerializeToNode(new[] { new { kind = "line_haul", amount = Cad(10m) } });
        var answer = (await owner.Post("loads", held)).Ok;
        Assert.Contains("limit is CA$675.68", answer.ToJsonString(), StringComparison.Ordinal);
        _ = (await owner.Put("company-settings", new { defaultCreditLimit = 0 })).Ok;

        // A minimum of 900.00 US dollars is above CA$1,200.00 and below CA$1,300.00.
        async Task<bool> Below(decimal amount) =>
            (
                await owner.Post(
                    "loads/price",
                    new
                    {
                        charges = new[] { new { kind = "line_haul", amount = Cad(amount) } },
                        miles = 300,
                        minimum = Usd(900m),
                        currency = "CAD",
                    }
                )
            ).Ok["isBelowMinimum"]!.GetValue<bool>();
        Assert.True(await Below(1200m));
        Assert.False(await Below(1300m));
    }

    [Fact]
    public async Task Bills_in_two_currencies_are_paid_in_two_batches()
    {
        var owner = await business.As(Role.Owner);
        var (_, carrier) = await Partners(owner, "Foothill");
        var bills = new List<long>();
        foreach (var (vendor, amount) in new[] { (carrier, Cad(90m)), (business.Ids["carrier"], Usd(80m)) })
        {
            var bill = (
                await owner.Pay(
                    "bills",
                    new
                    {
                        vendorId = vendor,
                        number = "M-1",
                        amount,
                        lines = new[] { new { account = "5300", amount } },
                    }
                )
            ).Id;
            bills.Add(bill);
        }

        var toApprove = (await owner.Get("today")).Ok["items"]!.AsArray().Single(i => i!["kind"]!.GetValue<string>() == "approve")!;
        Assert.Contains("$80.00 and CA$90.00", toApprove.ToJsonString(), StringComparison.Ordinal);
        foreach (var bill in bills)
        {
            _ = (await owner.Pay($"bills/{bill}/approve", new { })).Ok;
        }

        var chosen = bills.Select(b => new { billId = b });

        Assert.Equal("currency.mixed", (await owner.Pay("vendor-payments", new { bills = chosen, method = "wire" })).Code);
    }

    private static System.Text.Json.Nodes.JsonNode In(long customer, object order)
    {
        var node = System.Text.Json.JsonSerializer.SerializeToNode(order)!;
        node["customerId"] = customer;
        return node;
    }

    /// <summary>A load for CA$1,000.00, picked up so many days after November 18 and delivered on the same day.</summary>
    private async Task<long> Delivered(Caller owner, long customer, long carrier, object pay, int day)
    {
        var before = business.Ids["carrier"];
        business.Ids["carrier"] = carrier;
        var load = await business.Delivered(
            owner,
            day,
            "carrier",
            more: order =>
            {
                order["customerId"] = customer;
                order["charges"] = System.Text.Json.JsonSerializer.SerializeToNode(
                    new[] { new { kind = "line_haul", amount = Cad(1000m) } }
                );
            },
            pay: pay
        );
        business.Ids["carrier"] = before;
        return load;
    }

    /// <summary>Freight within Canada is taxed where it goes: on the invoice, in the books, and no longer when it is credited. What carriers
    /// charge us is claimed back.</summary>
    [Fact]
    public async Task Freight_within_Canada_carries_GST_until_it_is_credited_or_written_off()
    {
        await business.TradeInCanadian(31);
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, -3, "carrier", more: business.WithinCanada);
        var across = await business.Delivered(owner, -3, "carrier");
        var before = await Balances(owner);
        var mail = (await owner.Post("invoices/prepare", new { loadIds = new[] { load, across } })).Ok;
        Assert.Equal(
            ("GST 5 %", 1298.59m, 64.93m, 2662.11m),
            (
                mail["taxes"]!.AsArray().Single()!["name"]!.GetValue<string>(),
                Amount(mail["taxes"]![0]!["on"]),
                Amount(mail["taxes"]![0]!["amount"]),
                Amount(mail["total"])
            )
        );
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load, across } })).Ok;
        Assert.Equal((2662.11m, 64.93m), (Amount(invoice["total"]), Amount(invoice["tax"])));
        var id = invoice["id"]!.GetValue<long>();
        var pdf = PdfText.Of(await owner.Http.GetByteArrayAsync($"/api/invoices/{id}/pdf"), "application/pdf");
        Assert.Contains("GST 5 % on 1,298.59", pdf, StringComparison.Ordinal);
        Assert.Contains("GST/HST registration 990000410RT0001", pdf, StringComparison.Ordinal);
        Assert.Equal([64.93m], await InCanadian("2400", before));

        // A third is credited, and the tax within it; a claim is not a matter of price; the rest is never paid.
        _ = (
            await owner.Pay(
                $"invoices/{id}/credit-memos",
                new
                {
                    amount = Cad(887.37m),
                    reason = "concession",
                    why = "late",
                }
            )
        ).Ok;
        Assert.Equal([43.29m], await InCanadian("2400", before));
        _ = (
            await owner.Pay(
                $"invoices/{id}/write-off",
                new
                {
                    amount = Cad(100m),
                    kind = "claim",
                    reason = "short",
                }
            )
        ).Ok;
        Assert.Equal([43.29m], await InCanadian("2400", before));
        _ = (await owner.Pay($"invoices/{id}/write-off", new { kind = "uncollectible", reason = "bankrupt" })).Ok;
        Assert.Equal([2.44m], await InCanadian("2400", before));

        // The carrier's GST is owed on top of the agreed pay, and claimed back.
        var leg = (await owner.Get($"loads/{load}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number = "BR-31",
                    amount = Cad(745m),
                    lines = new object[] { new { account = "5000", amount = Cad(710m) }, new { account = "2400", amount = Cad(35m) } },
                }
            )
        ).Ok;
        Assert.Equal((735m, 10m), (Amount(bill["agreed"]), Amount(bill["difference"])));
        Assert.Equal([-32.56m], await InCanadian("2400", before));
        await using (var db = await business.Db.Source.OpenConnectionAsync())
        {
            Assert.Empty(await Disagreements(db));
        }

        _ = (await owner.Pay($"bills/{bill["id"]}/void")).Ok;
        Assert.Equal([2.44m], await InCanadian("2400", before));
        business.TradeInUsd();

        async Task<decimal[]> InCanadian(string account, Dictionary<string, decimal> was)
        {
            Assert.Equal(0m, was.GetValueOrDefault(account));
            await using var db = await business.Db.Source.OpenConnectionAsync();
            return [await db.One<decimal>("select -sum(in_currency) from entry_lines where account = @a", ("a", account))];
        }
    }
}
