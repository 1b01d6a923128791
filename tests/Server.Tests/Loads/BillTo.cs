using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Loads;

/// <summary>Who is billed where that is not the customer, references of stops, and trailers that haul other loads.</summary>
public class BillTo(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static async Task<long> Payer(Caller owner, string name, decimal? limit = null) =>
        (
            await owner.Post(
                "companies",
                new
                {
                    name,
                    isCustomer = true,
                    email = "ap@payer.example",
                    creditLimit = limit is { } l ? TestBusiness.Usd(l) : null,
                }
            )
        ).Id;

    [Fact]
    public async Task A_load_is_accrued_invoiced_and_owed_by_whom_it_is_billed_to()
    {
        var owner = await business.As(Role.Owner);
        var payer = await Payer(owner, "Bitterroot Freight Payables");
        var load = await business.Delivered(owner, 1, "carrier", more: order =>
        {
            order["billToId"] = payer;
            order["freightTerms"] = "third_party";
        });
        var sheet = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!;
        Assert.Equal("Bitterroot Freight Payables", sheet["billTo"]!.GetValue<string>());
        Assert.Equal("Snowberry Creamery", sheet["customer"]!.GetValue<string>());
        var unbilled = (await owner.Get("unbilled")).Ok.AsArray().Single(u => u!["loadId"]!.GetValue<long>() == load)!;
        Assert.Equal(payer, unbilled["customerId"]!.GetValue<long>());

        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
        Assert.Equal((payer, "ap@payer.example"), (invoice["customerId"]!.GetValue<long>(), invoice["mailedTo"]!.GetValue<string>()));
        var balances = (await owner.Get($"companies/{payer}")).Ok.ToJsonString();
        Assert.Contains("1298.59", balances);

        // Every line of the load's revenue is the payer's, and the books agree.
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Equal(
            [payer],
            await db.Rows(
                "select distinct customer_id from entry_lines where load_id = @load and customer_id is not null",
                r => r.Long("customer_id"),
                ("load", load)
            )
        );
        Assert.Empty(await TestBusiness.Disagreements(db));
        var bol = PdfText.Of(await owner.Http.GetByteArrayAsync($"/api/loads/{load}/bol"), "application/pdf");
        Assert.Contains("third party, bill to Bitterroot Freight Payables", bol);
    }

    [Fact]
    public async Task Credit_is_of_whom_it_is_billed_to()
    {
        var owner = await business.As(Role.Owner);
        var payer = await Payer(owner, "Small Limit Payables", 500m);
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(3, "PO limit")))!;
        order["billToId"] = payer;
        Assert.Contains("500.00", (await owner.Post("loads", order)).Ok["held"]!.GetValue<string>());

        // A carrier is not billed, and a broker who may not see the payer does not find it.
        order["billToId"] = business.Ids["carrier"];
        Assert.Equal(["billToId"], (await owner.Post("loads", order)).Fields);
    }

    [Fact]
    public async Task References_of_a_stop_stand_with_it_on_the_BOL_and_the_rate_confirmation()
    {
        var owner = await business.As(Role.Owner);
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(4, "PO stops")))!;
        order["references"] = JsonNode.Parse(
            """[{"kind":"appointment","value":"APT-9917","stop":2},{"kind":"pickup_number","value":"PU-41","stop":1},{"kind":"purchase_order","value":"PO-8"}]"""
        );
        var load = (await owner.Post("loads", order)).Id;
        _ = (await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(700m)))).Ok;
        var sheet = (await owner.Get($"loads/{load}")).Ok["sheet"]!;
        Assert.Equal(
            [(null, "PO-8"), (1, "PU-41"), (2, "APT-9917")],
            sheet["references"]!.AsArray().Select(r => (r!["stop"]?.GetValue<int>(), r["value"]!.GetValue<string>()))
        );
        var bol = PdfText.Of(await owner.Http.GetByteArrayAsync($"/api/loads/{load}/bol"), "application/pdf");
        Assert.True(bol.IndexOf("PU-41", StringComparison.Ordinal) < bol.IndexOf("APT-9917", StringComparison.Ordinal));
        Assert.Contains("Appointment confirmation APT-9917", bol);

        // Found by it.
        Assert.Contains(load.ToString(), (await owner.Get("line?q=APT-9917")).Ok.ToJsonString());
    }

    [Fact]
    public async Task An_added_stop_proposes_the_new_amounts_by_the_mile()
    {
        var owner = await business.As(Role.Owner);
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(7, "PO more miles")))!;
        order["charges"] = JsonNode.Parse("""[{"kind":"line_haul","basis":"per_mile","rate":3}]""");
        var load = (await owner.Post("loads", order)).Id;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("moses"))).Ok;
        async Task<JsonNode> View() => (await owner.Get($"loads/{load}")).Ok;
        var before = await View();
        Assert.Null(before["mileProposal"]);
        Assert.Equal("miles.same", (await owner.Post($"loads/{load}/reprice")).Code);
        _ = (
            await owner.Post(
                $"loads/{load}/stops",
                new
                {
                    kind = "delivery",
                    placeId = business.Ids["handover"],
                    from = "2026-12-01T09:00:00",
                }
            )
        ).Ok;
        var proposed = (await View())["mileProposal"]!;
        var miles = proposed["miles"]!.GetValue<int>();
        Assert.True(miles > proposed["chargedMiles"]!.GetValue<int>());
        Assert.Equal($"{miles * 3}.00", proposed["after"]!["amount"]!.GetValue<string>());
        _ = (await owner.Post($"loads/{load}/reprice")).Ok;
        var after = await View();
        Assert.Null(after["mileProposal"]);
        Assert.Equal($"{miles * 3}.00", after["money"]!["revenue"]!["amount"]!.GetValue<string>());
    }

    [Fact]
    public async Task A_reefer_is_offered_for_a_dry_load_until_the_company_says_otherwise()
    {
        var owner = await business.As(Role.Owner);
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(5, "PO dry")))!;
        order["equipment"] = "van";
        var load = (await owner.Post("loads", order)).Id;
        async Task<List<string>> Trailers() =>
            (await owner.Get($"loads/{load}/choices")).Ok["trailers"]!.AsArray().Select(t => t!["unit"]!.GetValue<string>()).ToList();

        // The van first, then reefers.
        Assert.Equal("3301", (await Trailers())[0]);
        Assert.Contains("5307", await Trailers());
        _ = (await owner.Put("equipment-matches", new { matches = Array.Empty<object>() })).Ok;
        Assert.Equal(["3301"], await Trailers());
        Assert.Equal("trailer.equipment", (await owner.Post($"loads/{load}/cover/driver", business.Crew("lena"))).Code);
        _ = (await owner.Put("equipment-matches", new { matches = new[] { new { trailer = "reefer", load = "van" } } })).Ok;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("lena"))).Ok;
        Assert.Equal(
            403,
            (int)(await (await business.As(Role.Dispatcher)).Put("equipment-matches", new { matches = Array.Empty<object>() })).Status
        );
    }
}
