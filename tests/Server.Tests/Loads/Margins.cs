using System.Text.Json;
using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Trips;
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
    public async Task A_margin_counts_driver_fuel_truck_and_the_empty_miles_before_the_load()
    {
        var owner = await business.As(Role.Owner);
        await business.AddCrew("pete", "Pete Halvorsen");

        async Task<JsonNode> Money(long load) => (await owner.Get($"loads/{load}")).Ok["money"]!;

        static decimal Part(JsonNode money, string part) => decimal.Parse(money["own"]![part]!["amount"]!.GetValue<string>());

        // Their first load begins where it is picked up; the next one where the first ends.
        var first = (await owner.Post("loads", business.Order(2, "PO empty 1"))).Id;
        _ = (await owner.Post($"loads/{first}/cover/driver", business.Crew("pete"))).Ok;
        var second = (await owner.Post("loads", business.Order(5, "PO empty 2"))).Id;
        _ = (await owner.Post($"loads/{second}/cover/driver", business.Crew("pete"))).Ok;
        Assert.Equal(0, (await Money(first))["emptyMiles"]!.GetValue<int>());
        var money = await Money(second);
        var empty = money["emptyMiles"]!.GetValue<int>();
        var loaded = (await owner.Get($"loads/{second}")).Ok["sheet"]!["load"]!["miles"]!.GetValue<int>();
        Assert.True(empty > 0);

        // 6.5 mpg at $3.85, $0.28 a mile and $210 a day; 7.65 % on the driver's pay; revenue less all of it is the margin.
        Assert.Equal(Math.Round((loaded + empty) / 6.5m * 3.85m, 2), Part(money, "fuel"));
        Assert.Equal(((loaded + empty) * 0.28m) + (money["truckDays"]!.GetValue<decimal>() * 210m), Part(money, "truck"));
        Assert.Equal(Math.Round(loaded * 0.60m * 0.0765m, 2), Part(money, "payrollTax"));
        Assert.Equal(
            decimal.Parse(money["revenue"]!["amount"]!.GetValue<string>()) - Part(money, "total"),
            decimal.Parse(money["margin"]!["amount"]!["amount"]!.GetValue<string>())
        );

        // Scales are planned; planned fuel replaces what was calculated; both change list and sheet.
        _ = (await owner.Post($"loads/{second}/costs", new { kind = "scale", expected = TestBusiness.Usd(14.50m) })).Ok;
        _ = (await owner.Post($"loads/{second}/costs", new { kind = "fuel", expected = TestBusiness.Usd(99m) })).Ok;
        Assert.Equal((99m, 14.50m), (Part(await Money(second), "fuel"), Part(await Money(second), "other")));
        var (sheet, list) = await Of(owner, second);
        Assert.Equal(sheet, list);

        // The first load is taken from them: the second has no empty miles any more.
        _ = (await owner.Post($"loads/{first}/unassign")).Ok;
        Assert.Equal(0, (await Money(second))["emptyMiles"]!.GetValue<int>());

        // Another fuel price counts for loads still open.
        var before = Part(await Money(second), "truck");
        _ = (await owner.Put("company-settings", new { fixedPerMile = 0.38 })).Ok;
        Assert.Equal(before + (loaded * 0.10m), Part(await Money(second), "truck"));
        _ = (await owner.Put("company-settings", new { fixedPerMile = 0.28 })).Ok;
    }

    [Fact]
    public async Task Empty_miles_are_paid_at_their_own_rate()
    {
        var owner = await business.As(Role.Owner);
        var before = (await owner.Post("loads", business.Order(12, "PO paid empty 1"))).Id;
        _ = (await owner.Post($"loads/{before}/cover/driver", business.Crew("moses"))).Ok;
        var load = (await owner.Post("loads", business.Order(14, "PO paid empty 2"))).Id;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("moses"))).Ok;

        async Task<(int Empty, decimal Pay)> Now()
        {
            var money = (await owner.Get($"loads/{load}")).Ok["money"]!;
            return (money["emptyMiles"]!.GetValue<int>(), decimal.Parse(money["own"]!["driver"]!["amount"]!.GetValue<string>()));
        }

        var (empty, pay) = await Now();
        var rate = new
        {
            kind = "per_empty_mile",
            rate = 0.35,
            from = "2026-11-24",
        };
        _ = (await owner.Post($"drivers/{business.Ids["moses"]}/rates", rate)).Ok;
        Assert.Equal((empty, pay + Math.Round(empty * 0.35m, 2)), await Now());
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
        await using (var w = await business.Begin())
        {
            Assert.Equal(1, await LegCosts.Missing(w));
            await w.Commit();
        }

        Assert.Equal(before, await Of(owner, load));
    }
}
