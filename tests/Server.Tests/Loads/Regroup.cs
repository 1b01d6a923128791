using System.Net;
using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Trips;
using Xunit;

namespace SteadyLark.Server.Tests.Loads;

/// <summary>Loads that are divided and combined, and restored.</summary>
public sealed class Regroup(TestBusiness business) : SplitTest(business)
{
    private JsonNode Order(string reference, string to = "to", decimal haul = 900.01m)
    {
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(Business.Order(3, reference, haul)))!;
        order["stops"]![1]!["placeId"] = Business.Ids[to];
        order["freight"] = JsonNode.Parse(
            """[{"description":"butter","pallets":10,"weightLb":8000,"temperatureF":34},{"description":"cheese","pallets":5,"weightLb":4000,"temperatureF":34}]"""
        );
        order["references"] = JsonNode.Parse($$"""[{"kind":"delivery_number","value":"DEL {{reference}}","stop":2}]""");
        return order;
    }

    private static object Whole(params decimal[] amounts) => new { stops = new[] { 1, 2 }, amounts };

    private static decimal Amount(JsonNode? money) =>
        decimal.Parse(Word(money!["amount"]), System.Globalization.CultureInfo.InvariantCulture);

    [Fact]
    public async Task A_load_is_divided_by_product_each_part_keeps_its_numbers_and_all_of_it_is_undone()
    {
        var broker = await Business.As(Role.Broker);
        var load = (await broker.Post("loads", Order("PO divide"))).Id;
        var before = await Sheet(broker, load);
        var number = Word(before["load"]!["number"]);
        var link = Word((await broker.Post($"loads/{load}/track")).Ok["url"]);

        var wrong = await broker.Post($"loads/{load}/divide", new { parts = new[] { Whole(10, 0), Whole(0, 4) } });
        Assert.Equal("Cheese: 5 pallets to divide, and the new loads have 4.", Word(wrong.Body!["errors"]![0]!["message"]));

        var made = (await broker.Post($"loads/{load}/divide", new { parts = new[] { Whole(10, 0), Whole(0, 5) } })).Ok;
        Assert.Equal($"{number} divided into {number}-1 and {number}-2", Word(made["summary"]));
        Assert.Equal(Amount(before["load"]!["revenue"]), Amount(made["before"]));
        var parts = made["loads"]!.AsArray().Select(l => l!["id"]!.GetValue<long>()).ToArray();
        var sheets = new[] { await Sheet(broker, parts[0]), await Sheet(broker, parts[1]) };
        Assert.Equal(["butter", "cheese"], sheets.Select(s => Word(s["freight"]![0]!["description"])));
        Assert.All(sheets, s => Assert.Equal("PO divide", Word(s["load"]!["reference"])));
        Assert.All(sheets, s => Assert.Equal("DEL PO divide", Word(s["references"]![0]!["value"])));
        Assert.Equal(number, Word(sheets[1]["replaces"]![0]!["number"]));
        // The line haul was 900.01: two thirds of the weight, and one third.
        Assert.Equal([600.01m, 300.00m], sheets.Select(s => Amount(s["charges"]![0]!["amount"])));

        var old = await Sheet(broker, load);
        Assert.Equal(("cancelled", 2), (Word(old["load"]!["state"]), old["replacedBy"]!.AsArray().Count));
        // Found by the customer's number and by its own; a tracking link leads on.
        Assert.Contains($"{number}-2", (await broker.Get("line?q=DEL%20PO%20divide")).Ok.ToJsonString(), StringComparison.Ordinal);
        Assert.NotEqual("canceled", Word((await Business.Nobody().Get($"track/{link.Split('/')[^1]}")).Ok["where"]));

        // Not while a truck has a part of it; after that all is as it was.
        _ = (await broker.Post($"loads/{parts[0]}/cover/driver", Business.Crew("moses"))).Ok;
        Assert.Equal("restore.taken", (await broker.Post($"loads/{load}/restore")).Code);
        _ = (await broker.Post($"loads/{parts[0]}/unassign")).Ok;
        _ = (await broker.Post($"loads/{load}/restore")).Ok;
        var after = await Sheet(broker, load);
        foreach (var same in new[] { "freight", "charges", "references" })
        {
            Assert.Equal(before[same]!.ToJsonString(), after[same]!.ToJsonString());
        }

        Assert.Equal(("booked", 0), (Word(after["load"]!["state"]), after["replacedBy"]!.AsArray().Count));
        Assert.Equal("cancelled", Word((await Sheet(broker, parts[1]))["load"]!["state"]));
        Assert.Equal("restore.none", (await broker.Post($"loads/{load}/restore")).Code);

        // Divided again, the numbers go on.
        made = (await broker.Post($"loads/{load}/divide", new { parts = new[] { Whole(6, 5), Whole(4, 0) } })).Ok;
        Assert.EndsWith($"{number}-3 and {number}-4", Word(made["summary"]), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Orders_of_a_customer_become_one_load_with_all_their_numbers_and_amounts()
    {
        var broker = await Business.As(Role.Broker);
        var one = (await broker.Post("loads", Order("PO one"))).Id;
        var two = (await broker.Post("loads", Order("PO two", to: "handover", haul: 410.5m))).Id;
        var three = Order("PO three");
        three["equipment"] = "flatbed";
        var flatbed = (await broker.Post("loads", three)).Id;
        var refused = await broker.Post("loads/combine", new { loadIds = new[] { one, flatbed } });
        Assert.Equal(("combine.differs", "loadIds"), (refused.Code, refused.Fields.Single()));

        var total = Amount((await Sheet(broker, one))["load"]!["revenue"]) + Amount((await Sheet(broker, two))["load"]!["revenue"]);
        var made = (await broker.Post("loads/combine", new { loadIds = new[] { one, two } })).Ok;
        var load = made["loads"]![0]!["id"]!.GetValue<long>();
        var sheet = await Sheet(broker, load);
        Assert.Equal(total, Amount(sheet["load"]!["revenue"]));
        Assert.Equal((total, total), (Amount(made["before"]), Amount(made["after"])));
        Assert.Equal(3, sheet["load"]!["stops"]!.AsArray().Count);
        Assert.Equal(4, sheet["freight"]!.AsArray().Count);
        Assert.Equal("PO one", Word(sheet["load"]!["reference"]));
        foreach (var word in new[] { "PO two", "DEL PO one", "DEL PO two" })
        {
            Assert.Contains(
                Word(sheet["load"]!["number"]),
                (await broker.Get($"line?q={Uri.EscapeDataString(word)}")).Ok.ToJsonString(),
                StringComparison.Ordinal
            );
        }

        Assert.Equal(2, sheet["replaces"]!.AsArray().Count);
        Assert.Equal("load.state", (await broker.Post("loads/combine", new { loadIds = new[] { one, load } })).Code);

        // One trip, one invoice.
        _ = (await broker.Post($"loads/{load}/cover/driver", Business.Crew("moses"))).Ok;
        Assert.Equal("restore.taken", (await broker.Post($"loads/{two}/restore")).Code);
        _ = (await broker.Post($"loads/{load}/unassign")).Ok;
        var back = (await broker.Post($"loads/{two}/restore")).Ok;
        Assert.Equal([one, two], back["loads"]!.AsArray().Select(l => l!["id"]!.GetValue<long>()));
        Assert.Equal("booked", Word((await Sheet(broker, one))["load"]!["state"]));
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await TestBusiness.Disagreements(db));

        var viewer = await Business.As(Role.Driver);
        Assert.Equal(HttpStatusCode.Forbidden, (await viewer.Post("loads/combine", new { loadIds = new[] { one, two } })).Status);
    }
}
