using System.Text.Json;
using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Companies;

/// <summary>Credit by the company's own terms: a limit for those without one, invoices past due, and what a hold never stops.</summary>
public sealed class CreditTermsTests(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static async Task<long> Customer(Caller owner, string name, decimal? limit = null) =>
        (
            await owner.Post(
                "companies",
                new
                {
                    name,
                    email = "pay@terms.example",
                    isCustomer = true,
                    isCarrier = false,
                    creditLimit = limit is { } l ? TestBusiness.Usd(l) : null,
                }
            )
        ).Id;

    private JsonNode Order(long customer, string reference, int day)
    {
        var order = JsonNode.Parse(JsonSerializer.Serialize(business.Order(day, reference)))!;
        order["customerId"] = customer;
        return order;
    }

    private static Task<Answer> Terms(Caller owner, decimal limit, int days) =>
        owner.Put("company-settings", new { defaultCreditLimit = limit, pastDueHoldDays = days });

    [Fact]
    public async Task A_customer_without_a_limit_has_the_companys_and_an_own_limit_goes_before_it()
    {
        var owner = await business.As(Role.Owner);
        var (plain, own) = (await Customer(owner, "Plain Creamery"), await Customer(owner, "Own Creamery", 50_000m));
        Assert.Null((await owner.Post("loads", Order(plain, "PO free", 3))).Ok["held"]);
        try
        {
            _ = (await Terms(owner, 2_000m, 0)).Ok;
            var held = (await owner.Post("loads", Order(plain, "PO held", 4))).Ok["held"]!.GetValue<string>();
            Assert.Contains("the company's credit limit is $2,000.00", held, StringComparison.Ordinal);
            foreach (var day in new[] { 5, 6 })
            {
                Assert.Null((await owner.Post("loads", Order(own, $"PO own {day}", day))).Ok["held"]);
            }

            var settings = (await owner.Get("company-settings")).Ok;
            Assert.Equal("2000.00", settings["defaultCreditLimit"]!["amount"]!.GetValue<string>());
            Assert.Null(settings["pastDueHoldDays"]);
        }
        finally
        {
            _ = (await Terms(owner, 0, 0)).Ok;
        }

        Assert.Null((await owner.Get("company-settings")).Ok["defaultCreditLimit"]);
        Assert.Null((await owner.Post("loads", Order(plain, "PO free again", 7))).Ok["held"]);
        Assert.Equal(["defaultCreditLimit", "pastDueHoldDays"], (await Terms(owner, -1, 366)).Fields);
    }

    [Fact]
    public async Task An_invoice_past_due_too_long_holds_new_loads_until_it_is_paid()
    {
        var owner = await business.As(Role.Owner);
        var customer = business.Ids["customer"];
        var load = await business.Delivered(owner, -2, "carrier");
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load }, termsDays = 10 })).Id;
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await db.Run("update invoices set issued_on = issued_on - 60, due_on = due_on - 60 where id = @id", ("id", invoice));
        try
        {
            _ = (await Terms(owner, 0, 60)).Ok;
            Assert.Null((await owner.Post("loads", Order(customer, "PO 50 days", 11))).Ok["held"]);
            _ = (await Terms(owner, 0, 30)).Ok;
            var held = (await owner.Post("loads", Order(customer, "PO late", 12))).Ok;
            Assert.Contains("an invoice 50 days past due", held["held"]!.GetValue<string>(), StringComparison.Ordinal);
            Assert.Equal("load.held", (await owner.Post($"loads/{held["id"]}/cover/driver", business.Crew("lena"))).Code);

            // Paid, and the hold is released by itself.
            _ = (
                await owner.Pay(
                    "payments",
                    new
                    {
                        customerId = customer,
                        method = "ach",
                        amount = TestBusiness.Usd(1298.59m),
                        applications = new[] { new { invoiceId = invoice, amount = TestBusiness.Usd(1298.59m) } },
                    }
                )
            ).Ok;
            Assert.Null((await owner.Get($"loads/{held["id"]}")).Ok["sheet"]!["load"]!["held"]);
            _ = (await owner.Post($"loads/{held["id"]}/cover/driver", business.Crew("lena"))).Ok;
        }
        finally
        {
            _ = (await Terms(owner, 0, 0)).Ok;
        }
    }

    [Fact]
    public async Task A_credit_hold_never_keeps_what_was_delivered_from_being_billed()
    {
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, -4, "carrier");
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await db.Run("insert into holds (load_id, kind, reason, placed_at) values (@id, 'credit', 'over the limit', now())", ("id", load));
        Assert.Empty((await owner.Get($"loads/{load}")).Ok["missing"]!.AsArray());
        var waiting = (await owner.Get("unbilled")).Ok.AsArray().Single(u => u!["loadId"]!.GetValue<long>() == load)!;
        Assert.Null(waiting["held"]);
        _ = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;

        // A dispute does.
        var disputed = await business.Delivered(owner, -5, "carrier");
        await db.Run(
            "insert into holds (load_id, kind, reason, placed_at) values (@id, 'dispute', 'short two cases', now())",
            ("id", disputed)
        );
        Assert.Equal("load.held", (await owner.Pay("invoices", new { loadIds = new[] { disputed } })).Code);
    }
}
