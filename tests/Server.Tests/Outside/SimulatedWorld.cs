using System.Text.Json.Nodes;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Outside;

/// <summary>Stand-ins steered from Outside: trucks that drive, receivers who sign; and what their positions change.</summary>
public sealed class SimulatedWorld(TestBusiness business) : IClassFixture<TestBusiness>
{
    [Fact]
    public async Task A_simulated_truck_reports_positions_and_the_receiver_signs()
    {
        business.Clock.Now = Instant.FromUtc(2026, 11, 24, 14, 0);
        var owner = await business.As(Role.Owner);
        await using (var db = await business.Db.Source.OpenConnectionAsync())
        {
            await db.Run(
                "insert into towns (name, region, country, latitude, longitude, zone, population) values ('Missoula', 'MT', 'US', 46.8721, -113.994, 'America/Denver', 75000), ('Spokane', 'WA', 'US', 47.6597, -117.4291, 'America/Los_Angeles', 230000)"
            );
        }

        var load = (await owner.Post("loads", business.Order(1, "PO drive"))).Id;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("lena"))).Ok;
        var stops = (await View(owner, load))["sheet"]!["load"]!["stops"]!.AsArray().Select(s => s!["id"]!.GetValue<long>()).ToArray();
        _ = (await owner.Post($"loads/{load}/stops/{stops[0]}", new { @event = "left", at = "2026-11-24T13:30:00Z" })).Ok;
        var before = Arrives(await View(owner, load));

        foreach (var name in new[] { "trucks", "receivers" })
        {
            _ = (await owner.Put($"outside/stand-ins/{name}", new { works = true, speed = 60 })).Ok;
        }

        var view = await Goes(owner, load, v => v["seen"] is not null && Arrives(v) < before);
        Assert.NotNull(view["seen"]);
        Assert.True(Arrives(view) < before, "a truck at sixty times its speed comes sooner");
        var link = (await owner.Post($"loads/{load}/track")).Ok["url"]!.GetValue<string>().Split('/')[^1];
        Assert.Matches(
            @"on the road, (in|\d+ mi [NSEW]+ of) .+ (MT|ID|WA) at ",
            (await business.Nobody().Get($"track/{link}")).Ok["where"]!.GetValue<string>()
        );

        // At a stop of the trip's own the driver reports by phone, and goes on.
        var trip = view["sheet"]!["load"]!["tripId"]!.GetValue<long>();
        var fuel = new
        {
            kind = "fuel",
            placeId = business.Ids["handover"],
            minutes = 20,
            allowLate = true,
        };
        var stop = (await owner.Post($"trips/{trip}/stops", fuel)).Ok["stopId"]!.GetValue<long>();
        JsonNode? own = null;
        _ = await Goes(owner, load, _ =>
        {
            own = owner.Get($"trips/{trip}").Result.Ok["visits"]!
                .AsArray()
                .SingleOrDefault(v => v!["id"]!.GetValue<long>() == stop)
                ?["own"];
            return own?["leftAt"] is not null;
        });
        Assert.True(own?["leftAt"] is not null, $"{own}");

        _ = (await owner.Post($"loads/{load}/stops/{stops[1]}", new { @event = "arrived" })).Ok;
        view = await Goes(owner, load, v =>
            v["documents"]!.AsArray().Any(p => p!["kind"]!.GetValue<string>() == "pod")
            && v["sheet"]!["load"]!["state"]!.GetValue<string>() == "delivered"
        );
        Assert.Equal("delivered", view["sheet"]!["load"]!["state"]!.GetValue<string>());
        Assert.Contains(view["documents"]!.AsArray(), p => p!["kind"]!.GetValue<string>() == "pod");
    }

    [Fact]
    public async Task A_device_reports_only_its_own_trucks_positions_once_each()
    {
        var owner = await business.As(Role.Owner);
        var truck = business.Ids["moses truck"];
        var issued = (await owner.Post($"trucks/{truck}/devices", new { label = "dash unit" })).Ok;
        var token = issued["address"]!.GetValue<string>().Split('/')[^2];

        var device = business.Nobody();
        var now = business.Clock.Now;
        object Told(double latitude) =>
            new
            {
                positions = new[]
                {
                    new
                    {
                        at = now.ToString(),
                        latitude,
                        longitude = -113.9,
                        milesPerHour = 52.0,
                    },
                },
            };
        Assert.Equal(1, (await device.Post($"devices/{token}/positions", Told(46.8))).Ok["kept"]!.GetValue<int>());
        Assert.Equal(0, (await device.Post($"devices/{token}/positions", Told(46.9))).Ok["kept"]!.GetValue<int>());
        Assert.Equal(["positions[0].latitude"], (await device.Post($"devices/{token}/positions", Told(91))).Fields);
        Assert.Equal("not.found", (await device.Post($"devices/{new string('0', 48)}/positions", Told(46.8))).Code);

        // What is revoked is refused from then on; another device of the truck goes on.
        var other = (await owner.Post($"trucks/{truck}/devices", new { label = "phone" })).Ok["address"]!.GetValue<string>().Split('/')[^2];
        Assert.Equal(
            ["dash unit", "phone"],
            (await owner.Get($"trucks/{truck}/devices")).Ok.AsArray().Select(d => d!["label"]!.GetValue<string>())
        );
        _ = (await owner.Post($"trucks/{truck}/devices/{issued["id"]}/revoke")).Ok;
        business.Clock.Now += Duration.FromMinutes(1);
        now = business.Clock.Now;
        Assert.Equal("not.found", (await device.Post($"devices/{token}/positions", Told(46.8))).Code);
        Assert.Equal(1, (await device.Post($"devices/{other}/positions", Told(46.8))).Ok["kept"]!.GetValue<int>());
        Assert.Equal("not.found", (await owner.Post($"trucks/{truck}/devices/{issued["id"]}/revoke")).Code);
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.False(
            await db.One<bool>("select exists (select 1 from device_tokens where token = any(@tokens))", ("tokens", new[] { token, other }))
        );
    }

    /// <summary>Minutes of the world until something is so; the servers' stand-ins live them.</summary>
    private async Task<JsonNode> Goes(Caller owner, long load, Func<JsonNode, bool> until)
    {
        var view = await View(owner, load);
        for (var minute = 0; minute < 25 && !until(view); minute++)
        {
            business.Clock.Now += Duration.FromMinutes(1);
            await Task.Delay(1000);
            view = await View(owner, load);
        }

        return view;
    }

    private static async Task<JsonNode> View(Caller owner, long load) => (await owner.Get($"loads/{load}")).Ok;

    private static DateTimeOffset Arrives(JsonNode view) => view["visits"]!.AsArray()[^1]!["arrives"]!.GetValue<DateTimeOffset>();
}
