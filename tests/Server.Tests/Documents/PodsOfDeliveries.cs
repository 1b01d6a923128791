using System.Text.Json;
using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Documents;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Documents;

/// <summary>A load with two deliveries needs the POD of each before it is billed and its carrier's bill approved.</summary>
public sealed class PodsOfDeliveries(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static byte[] Pod()
    {
        using var page = new PdfPage("POD", "test");
        page.Line("Received");
        return page.Save();
    }

    [Fact]
    public async Task Each_delivery_needs_its_own_before_the_load_is_billed_and_the_carrier_paid()
    {
        var owner = await business.As(Role.Owner);
        var order = JsonNode.Parse(JsonSerializer.Serialize(business.Order(1, "PO two drops")))!;
        var stops = order["stops"]!.AsArray();
        var second = stops[1]!.DeepClone();
        second["placeId"] = business.Ids["from"];
        stops[0]!["from"] = "2026-11-20T06:00:00";
        stops[1]!["from"] = "2026-11-20T17:00:00";
        second["from"] = "2026-11-21T12:00:00";
        stops.Add(second);
        var load = (await owner.Post("loads", order)).Id;
        _ = (await owner.Post($"loads/{load}/cover/carrier", Accepted(business.Ids["carrier"], Usd(700m)))).Ok;
        var at = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["stops"]!
            .AsArray()
            .Select(s => s!["id"]!.GetValue<long>())
            .ToArray();
        _ = (await owner.Post($"loads/{load}/stops/{at[0]}", new { @event = "left", at = "2026-11-20T14:00:00Z" })).Ok;
        foreach (var (stop, when) in new[] { (at[1], "2026-11-21T01:00:00Z"), (at[2], "2026-11-21T20:00:00Z") })
        {
            _ = (
                await owner.Post(
                    $"loads/{load}/stops/{stop}",
                    new
                    {
                        @event = "delivered",
                        at = when,
                        receivedBy = "R. Dahl",
                    }
                )
            ).Ok;
        }

        Task<Answer> Add(long? of, string kind = "pod") =>
            owner.Upload($"loads/{load}/documents?kind={kind}&name=pod.pdf{(of is null ? "" : $"&stop={of}")}", Pod());
        Assert.Equal("stop", (await Add(at[0])).Fields.Single());
        Assert.Equal("stop", (await Add(at[1], "bol")).Fields.Single());
        var first = (await Add(at[1])).Ok;
        var view = (await owner.Get($"loads/{load}")).Ok;
        Assert.Equal([at[2]], view["withoutPod"]!.AsArray().Select(s => s!.GetValue<long>()));
        Assert.Equal("load.pod.missing", (await owner.Pay("invoices", new { loadIds = new[] { load } })).Code);
        var leg = view["sheet"]!["legs"]![0]!["id"];
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number = "TF-2",
                    amount = Usd(700m),
                }
            )
        ).Id;
        Assert.Equal("bill.pod", (await owner.Pay($"bills/{bill}/approve", new { amount = Usd(700m) })).Code);

        _ = (await Add(at[2])).Ok;
        Assert.Empty((await owner.Get($"loads/{load}")).Ok["withoutPod"]!.AsArray());
        Assert.Contains((await owner.Get("unbilled")).Ok.AsArray(), u =>
            u!["loadId"]!.GetValue<long>() == load && u["missing"]!.AsArray().Count == 0
        );
        _ = (await owner.Pay($"bills/{bill}/approve", new { amount = Usd(700m) })).Ok;

        // The first one goes back to the tray and is filed again: then it is of the whole load.
        _ = (await owner.Post($"documents/{first["id"]}/unassign")).Ok;
        Assert.Equal([at[1]], (await owner.Get($"loads/{load}")).Ok["withoutPod"]!.AsArray().Select(s => s!.GetValue<long>()));
        _ = (await owner.Post($"documents/{first["id"]}/assign", new { loadId = load, kind = "pod" })).Ok;
        _ = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
    }
}
