using System.Text.Json;
using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Basics;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Loads;

/// <summary>A load's margin is the same on its sheet and in lists, whoever hauls it.</summary>
public class Margins(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static async Task<(string? Sheet, string? List)> Of(Caller caller, long load)
    {
        var sheet = (await caller.Get($"loads/{load}")).Ok["money"]!["margin"]?["amount"]?["amount"]?.GetValue<string>();
        var row = (await caller.RowsOf("loads", new { only = new[] { load } }, ["margin"])).Single();
        return (sheet, row["margin"]?.GetValue<decimal>().ToString("0.00"));
    }

    [Fact]
    public async Task An_own_driver_load_keeps_its_margin_in_lists_through_every_change()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(9, "PO margin"))).Id;
        Assert.Equal((null, null), await Of(owner, load));
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("lena"))).Ok;
        var (first, listed) = await Of(owner, load);
        Assert.NotNull(first);
        Assert.Equal(first, listed);

        // Another line haul.
        var order = JsonNode.Parse(JsonSerializer.Serialize(business.Order(9, "PO margin", 2000m)))!;
        _ = (await owner.Put($"loads/{load}", order)).Ok;
        var (second, listedThen) = await Of(owner, load);
        Assert.NotEqual(first, second);
        Assert.Equal(second, listedThen);

        // Another pay rate, from before the load ends.
        _ = (
            await owner.Post(
                $"drivers/{business.Ids["lena"]}/rates",
                new
                {
                    kind = "per_mile",
                    rate = 0.75,
                    from = "2026-11-24",
                }
            )
        ).Ok;
        var (third, listedLast) = await Of(owner, load);
        Assert.NotEqual(second, third);
        Assert.Equal(third, listedLast);

        // Another driver with another agreement; then nobody; then a carrier.
        _ = (await owner.Post($"loads/{load}/unassign")).Ok;
        Assert.Equal((null, null), await Of(owner, load));
        _ = (await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(1500m)))).Ok;
        Assert.Equal(("698.09", "698.09"), await Of(owner, load));

        // Found by it.
        Assert.Contains(load, await owner.KeysOf("loads", ListCalls.Where("margin", "from", "600")));
    }

    [Fact]
    public async Task Expected_pay_missing_from_an_older_version_is_filled_in()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(8, "PO older"))).Id;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("moses"))).Ok;
        var before = await Of(owner, load);
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await db.Run("update legs set expected_pay = null where load_id = @load", ("load", load));
        Assert.Null((await Of(owner, load)).List);
        Assert.Equal(1, await SteadyLark.Store.Paying.LegPay.Missing(db));
        Assert.Equal(before, await Of(owner, load));
    }
}
