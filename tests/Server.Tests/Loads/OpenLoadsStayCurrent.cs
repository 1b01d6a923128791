using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Loads;
using Xunit;

namespace SteadyLark.Server.Tests.Loads;

/// <summary>What is kept up to date by event is what reading everything anew would give, on every server, right after each
/// command.</summary>
public class OpenLoadsStayCurrent(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static readonly DateTimeZone Zone = DateTimeZoneProviders.Tzdb["America/Denver"];

    [Fact]
    public async Task After_every_command_both_servers_know_what_the_database_says()
    {
        var owner = await business.As(Role.Owner);
        await Same("nothing yet");
        var loads = new List<long>();
        for (var i = 0; i < 4; i++)
        {
            loads.Add((await owner.Post("loads", business.Order(1 + i, $"PO open {i}"))).Id);
            await Same($"booked {i}");
        }

        // Two loads of one driver: what happens to the first moves the second's ETAs.
        foreach (var load in loads.Take(2))
        {
            _ = (
                await owner.Post(
                    $"loads/{load}/cover/driver",
                    new
                    {
                        driverId = business.Ids["moses"],
                        truckId = business.Ids["moses truck"],
                        trailerId = business.Ids["moses trailer"],
                    }
                )
            ).Ok;
            await Same("covered by our driver");
        }

        _ = (await owner.Post($"loads/{loads[2]}/cover/carrier", TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(700)))).Ok;
        await Same("covered by a carrier");
        var stops = (await owner.Get($"loads/{loads[0]}")).Ok["sheet"]!["load"]!["stops"]!
            .AsArray()
            .Select(s => s!["id"]!.GetValue<long>())
            .ToList();
        business.Clock.Now += Duration.FromHours(20);
        owner = await business.As(Role.Owner);
        foreach (var (stop, word) in new[] { (stops[0], "arrived"), (stops[0], "left") })
        {
            _ = (await owner.Post($"loads/{loads[0]}/stops/{stop}", new { @event = word })).Ok;
            await Same(word);
        }

        _ = (
            await owner.Post(
                $"loads/{loads[0]}/reports",
                new
                {
                    kind = "delay",
                    note = "snow on the pass",
                    stopId = stops[1],
                    expectedAt = (business.Clock.Now + Duration.FromHours(30)).ToString(),
                }
            )
        ).Ok;
        await Same("a delay reported");
        business.Clock.Now += Duration.FromMinutes(1);
        await Same("a minute later");
        _ = (await owner.Post($"loads/{loads[2]}/unassign")).Ok;
        await Same("unassigned");
        _ = (await owner.Post($"loads/{loads[3]}/cancel", new { why = "customer called it off" })).Ok;
        await Same("canceled");
        var version = (await owner.Get($"companies/{business.Ids["customer"]}")).Ok["company"]!["version"]!.GetValue<int>();
        _ = (
            await owner.Put(
                $"companies/{business.Ids["customer"]}",
                new
                {
                    name = "Snowberry Creamery Co-op",
                    email = "ap@snowberry.example",
                    isCustomer = true,
                    isCarrier = false,
                    version,
                }
            )
        ).Ok;
        await Same("the customer renamed");
        _ = (await owner.Post($"loads/{loads[0]}/stops/{stops[1]}", new { @event = "delivered", receivedBy = "R. Tenney" })).Ok;
        await Same("delivered");
        Assert.DoesNotContain(loads[0], (await Known(0)).Select(l => l.Load.Id));
    }

    [Fact]
    public async Task The_board_is_paged_in_its_order_and_only_by_what_is_open()
    {
        var owner = await business.As(Role.Owner);
        for (var i = 0; i < 5; i++)
        {
            _ = (await owner.Post("loads", business.Order(20 - i, $"PO page {i}"))).Ok;
        }

        var all = (await owner.Get("loads?view=open&limit=500")).Ok["rows"]!
            .AsArray()
            .Select(r => r!["load"]!["id"]!.GetValue<long>())
            .ToList();
        var paged = new List<long>();
        string? next = null;
        do
        {
            var page = (await owner.Get($"loads?view=open&limit=2{(next is null ? "" : $"&after={next}")}")).Ok;
            paged.AddRange(page["rows"]!.AsArray().Select(r => r!["load"]!["id"]!.GetValue<long>()));
            next = page["next"]?.GetValue<string>();
        } while (next is not null);

        Assert.Equal(all, paged);
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Equal((await LoadReads.InStates(db, [LoadState.Booked], null, 500)).Select(l => l.Id), all);
    }

    private async Task<IReadOnlyList<LoadLine>> Known(int server) =>
        await business.Servers[server].Services.GetRequiredService<OpenLoads>().All();

    private async Task Same(string when)
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var now = business.Clock.Now;
        var lines = await LoadViews.Lines(db, await LoadReads.InStates(db, OpenLoads.States, null, 1000), now, Zone);
        var today = now.InZone(Zone).Date;
        var facts = await TodayFacts.Read(db, today, Zone);
        for (var server = 0; server < 2; server++)
        {
            Assert.True(Text(lines) == Text(await Known(server)), $"server {server} knows something else than the database: {when}");
            var seen = (await (await business.As(Role.Owner, server)).Get("today")).Ok["counts"]!;
            Assert.Equal(
                (lines.Count(l => l.Load.State == LoadState.Booked), lines.Count(l => l.Load.State != LoadState.Booked)),
                (seen["cover"]!.GetValue<int>(), seen["roll"]!.GetValue<int>())
            );
            Assert.Equal(
                facts.Deliveries.Delivered,
                (await (await business.As(Role.Owner, server)).Get("today")).Ok["delivered"]!.GetValue<int>()
            );
            Assert.Equal(facts.Billing.Unbilled.Count + facts.Billing.Overdue.Sum(o => o.Invoices), seen["bill"]!.GetValue<int>());
        }
    }

    private static string Text(object value) => JsonSerializer.Serialize(value, Json.Options);
}
