using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Trips;
using Xunit;
using Xunit.Abstractions;

namespace SteadyLark.Server.Tests.Loads;

/// <summary>
/// Whatever is assigned, unassigned, moved, canceled, added and repriced, in whatever order: what a leg of ours is stored to cost is what
/// it costs when computed anew, its empty miles begin where the driver's trip before ends, and list and sheet show one margin.
/// </summary>
public class LegCostProperties(TestBusiness business, ITestOutputHelper summary) : IClassFixture<TestBusiness>
{
    private sealed record Stored(long Leg, int? Empty, decimal? Days, decimal? Pay, decimal? Cost);

    [Theory]
    [InlineData(11)]
    [InlineData(12)]
    public async Task Stored_costs_are_those_computed_anew(int seed)
    {
        var lot = new Random(seed);
        var owner = await business.As(Role.Owner);
        var loads = new List<long>();
        for (var i = 0; i < 6; i++)
        {
            loads.Add((await owner.Post("loads", Order(i * 3 + seed % 2))).Id);
        }

        var taken = new SortedDictionary<string, int>();
        for (var step = 0; step < 40; step++)
        {
            var load = loads[lot.Next(loads.Count)];
            var (what, answer) = lot.Next(8) switch
            {
                0 or 1 or 2 => (
                    "assign",
                    await owner.Post($"loads/{load}/cover/driver", business.Crew(lot.Next(2) == 0 ? "lena" : "moses"))
                ),
                3 => ("unassign", await owner.Post($"loads/{load}/unassign")),
                4 => ("move", await owner.Put($"loads/{load}", Order(lot.Next(30) + 1))),
                5 => (
                    "cost",
                    await owner.Post(
                        $"loads/{load}/costs",
                        new { kind = lot.Next(2) == 0 ? "toll" : "other", expected = TestBusiness.Usd(lot.Next(1, 90)) }
                    )
                ),
                6 => (
                    "rate",
                    await owner.Post(
                        $"drivers/{business.Ids["lena"]}/rates",
                        new
                        {
                            kind = lot.Next(2) == 0 ? "per_empty_mile" : "per_mile",
                            rate = lot.Next(20, 90) / 100m,
                            from = "2026-11-01",
                        }
                    )
                ),
                _ => (
                    "settings",
                    await owner.Put("company-settings", new { fuelPrice = lot.Next(300, 500) / 100m, fixedPerDay = lot.Next(100, 300) })
                ),
            };
            Assert.True((int)answer.Status < 500, answer.Body?.ToJsonString());
            if ((int)answer.Status < 300)
            {
                taken[what] = taken.GetValueOrDefault(what) + 1;
            }

            await Agrees(owner, loads);
        }

        summary.WriteLine(string.Join(", ", taken.Select(t => $"{t.Key}: {t.Value}")));
        Assert.True(taken.Count >= 5, "too few kinds of steps were taken to tell anything");
        foreach (var load in loads)
        {
            _ = await owner.Post($"loads/{load}/unassign");
        }
    }

    private object Order(int day)
    {
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(day, $"PO cost {day}")))!;
        if (day % 2 == 1)
        {
            // The other way round, so that trips end in different places.
            (order["stops"]![0]!["placeId"], order["stops"]![1]!["placeId"]) = (business.Ids["to"], business.Ids["from"]);
        }

        return order;
    }

    private async Task Agrees(Caller owner, List<long> loads)
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        static Task<List<Stored>> Read(Npgsql.NpgsqlConnection from) =>
            from.Rows(
                "select id, empty_miles, truck_days, expected_pay, expected_cost from legs where trip_id is not null order by id",
                r => new Stored(
                    r.Long("id"),
                    r.IntOrNull("empty_miles"),
                    r.DecimalOrNull("truck_days"),
                    r.DecimalOrNull("expected_pay"),
                    r.DecimalOrNull("expected_cost")
                )
            );
        var stored = await Read(db);
        Assert.All(stored, s => Assert.NotNull(s.Cost));
        await using (var w = await business.Begin())
        {
            await w.Db.Run("update legs set expected_pay = null where trip_id is not null");
            await LegCosts.Missing(w);
            Assert.Equal(stored, await Read(w.Db));

            // Nothing of this is kept.
        }

        foreach (var load in loads)
        {
            var sheet = (await owner.Get($"loads/{load}")).Ok["money"]!["margin"]?["amount"]?["amount"]?.GetValue<string>();
            var row = (await owner.RowsOf("loads", new { only = new[] { load } }, ["margin"])).Single();
            Assert.Equal(sheet, row["margin"]?.GetValue<decimal>().ToString("0.00"));
        }
    }
}
