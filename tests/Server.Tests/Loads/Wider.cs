using System.Net;
using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Server.Tests.Loads;

/// <summary>What a load can hold beside the least, and what holds a load.</summary>
public class Wider(TestBusiness business) : IClassFixture<TestBusiness>
{
    private JsonNode Wide(string reference) =>
        JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(reference: reference)))!;

    [Fact]
    public async Task A_load_keeps_freight_lines_references_custom_fields_and_charges_and_is_found_by_them()
    {
        var owner = await business.As(Role.Owner);
        var season = (
            await owner.Post(
                "custom-fields",
                new
                {
                    name = "Season",
                    kind = "choice",
                    choices = new[] { "Spring", "Fall" },
                    required = true,
                }
            )
        ).Id;
        var order = Wide("PO wide");
        Assert.Equal($"customFields[{season}]", (await owner.Post("loads", order)).Fields.Single());
        order["customFields"] = new JsonArray(new JsonObject { ["fieldId"] = season, ["value"] = "fall" });
        order["number"] = "MT-4410";
        order["freight"] = JsonNode.Parse(
            """[{"description":"butter","pallets":18,"weightLb":38400,"temperatureF":34},{"description":"paint","pieces":4,"weightLb":900,"lengthIn":48,"widthIn":40,"heightIn":60,"hazmat":true,"unNumber":"1263"}]"""
        );
        order["charges"] = JsonNode.Parse(
            """[{"kind":"line_haul","basis":"per_mile","rate":3.1},{"kind":"fuel_surcharge","basis":"percent","rate":10},{"kind":"other","description":"pump","basis":"per_cwt","rate":0.5}]"""
        );
        order["references"] = JsonNode.Parse("""[{"kind":"seal","value":"88213"},{"kind":"pickup_number","value":"PU-9"}]""");
        order["carrierInstructions"] = "No doubles.";
        var booked = (await owner.Post("loads", order)).Ok;
        Assert.Equal("MT-4410", booked["number"]!.GetValue<string>());
        var sheet = (await owner.Get($"loads/{booked["id"]}")).Ok["sheet"]!;
        var miles = sheet["load"]!["miles"]!.GetValue<int>();
        var haul = miles * 3.1m;
        Assert.Equal(
            [haul.ToString("0.00"), Math.Round(haul * 0.1m, 2, MidpointRounding.AwayFromZero).ToString("0.00"), "196.50"],
            sheet["charges"]!.AsArray().Select(c => c!["amount"]!["amount"]!.GetValue<string>())
        );
        Assert.Equal(("UN1263", true), (sheet["freight"]![1]!["unNumber"]!.GetValue<string>(), sheet["load"]!["hazmat"]!.GetValue<bool>()));
        Assert.Equal(
            ("Season", "Fall"),
            (sheet["customFields"]![0]!["name"]!.GetValue<string>(), sheet["customFields"]![0]!["value"]!.GetValue<string>())
        );
        foreach (var word in new[] { "88213", "UN1263", "fall PU-9", "doubles" })
        {
            Assert.Contains(
                "MT-4410",
                (await owner.Get($"line?q={Uri.EscapeDataString(word)}")).Ok.ToJsonString(),
                StringComparison.Ordinal
            );
        }

        // The number is taken now, also for the series, and a field that goes leaves what was written.
        order["reference"] = "PO wide 2";
        Assert.Equal("number.taken", (await owner.Post("loads", order)).Code);
        _ = (await owner.Post($"custom-fields/{season}/deactivate")).Ok;
        Assert.Equal("Fall", (await owner.Get($"loads/{booked["id"]}")).Ok["sheet"]!["customFields"]![0]!["value"]!.GetValue<string>());
        Assert.Equal(HttpStatusCode.OK, (await owner.Post("loads", Wide("PO plain"))).Status);
    }

    [Fact]
    public async Task A_customer_over_its_limit_is_held_until_it_pays_or_the_owner_overrides()
    {
        var (owner, broker) = (await business.As(Role.Owner), await business.As(Role.Broker));
        var customer = (
            await owner.Post(
                "companies",
                new
                {
                    name = "Held Creamery",
                    email = "pay@held.example",
                    isCustomer = true,
                    isCarrier = false,
                    creditLimit = TestBusiness.Usd(2_000m),
                }
            )
        ).Id;
        var order = Wide("PO held 1");
        order["customerId"] = customer;
        var first = (await broker.Post("loads", order)).Ok;
        Assert.Null(first["held"]);
        order["reference"] = "PO held 2";
        var second = (await broker.Post("loads", order)).Ok;
        Assert.Contains("the credit limit is $2,000", second["held"]!.GetValue<string>(), StringComparison.Ordinal);
        var crew = new
        {
            driverId = business.Ids["moses"],
            truckId = business.Ids["moses truck"],
            trailerId = business.Ids["moses trailer"],
        };
        Assert.Equal("load.held", (await broker.Post($"loads/{second["id"]}/cover/driver", crew)).Code);
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await broker.Post($"loads/{second["id"]}/override-hold", new { kind = "credit", why = "they are good for it" })).Status
        );
        Assert.Equal("why", (await owner.Post($"loads/{second["id"]}/override-hold", new { kind = "credit", why = " " })).Fields.Single());

        // A third is held too; calling the first off brings the second within the limit when it is looked at again.
        order["reference"] = "PO held 3";
        var third = (await broker.Post("loads", order)).Ok;
        _ = (await owner.Post($"loads/{third["id"]}/override-hold", new { kind = "credit", why = "they pay on Friday" })).Ok;
        var sheet = (await owner.Get($"loads/{third["id"]}")).Ok;
        Assert.Null(sheet["sheet"]!["load"]!["held"]);
        Assert.Equal("they pay on Friday", sheet["sheet"]!["holds"]![0]!["releasedWhy"]!.GetValue<string>());
        _ = (await broker.Post($"loads/{first["id"]}/cancel", new { why = "not wanted" })).Ok;
        _ = (await broker.Post($"loads/{third["id"]}/cancel", new { why = "not wanted" })).Ok;
        order["reference"] = "PO held 2, changed";
        Assert.Null((await broker.Put($"loads/{second["id"]}", order)).Ok["held"]);
        _ = (await broker.Post($"loads/{second["id"]}/cover/driver", crew)).Ok;
        _ = (await broker.Post($"loads/{second["id"]}/unassign")).Ok;
    }

    [Fact]
    public async Task Two_concurrent_bookings_do_not_both_pass_the_credit_limit()
    {
        var owner = await business.As(Role.Owner);
        var customer = (
            await owner.Post(
                "companies",
                new
                {
                    name = "Racing Creamery",
                    email = "pay@racing.example",
                    isCustomer = true,
                    isCarrier = false,
                    creditLimit = TestBusiness.Usd(2_000m),
                }
            )
        ).Id;
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(i =>
                {
                    var order = Wide($"PO race {i}");
                    order["customerId"] = customer;
                    return owner.Post("loads", order);
                })
        );
        Assert.Single(answers, a => a.Ok["held"] is null);
    }

    [Fact]
    public async Task The_form_gets_the_last_load_and_the_miles()
    {
        var owner = await business.As(Role.Owner);
        _ = (await owner.Post("loads", business.Order(reference: "PO usual"))).Ok;
        var usual = (await owner.Get($"loads/suggestion?customerId={business.Ids["customer"]}")).Ok;
        Assert.Equal(
            ("reefer", "butter"),
            (usual["equipment"]!.GetValue<string>(), usual["freight"]![0]!["description"]!.GetValue<string>())
        );
        Assert.InRange(
            (
                await owner.Post(
                    "miles",
                    new { stops = new[] { new { placeId = business.Ids["from"] }, new { placeId = business.Ids["to"] } } }
                )
            ).Ok["miles"]!.GetValue<int>(),
            300,
            400
        );
        Assert.Null((await owner.Post("miles", new { stops = new[] { new { placeId = 1 } } })).Ok["miles"]);
    }
}
