using System.Text.Json.Nodes;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>A carrier that cannot finish is replaced on the way, by another carrier or by us; each is paid for its part.</summary>
public sealed class Replacements(TestBusiness business) : IClassFixture<TestBusiness>, IAsyncLifetime
{
    public async Task InitializeAsync()
    {
        business.Clock.Now = Instant.FromUtc(2026, 11, 25, 3, 0);
        if (!business.Ids.ContainsKey("second"))
        {
            await business.AddCarrier("second", "Clearwater Basin Carriers", "9000111");
        }
    }

    public Task DisposeAsync() => Task.CompletedTask;

    /// <summary>Picked up on November 24 at 7:00 in Great Falls.</summary>
    private async Task<(Caller Owner, long Load, long[] Stops)> PickedUp(string who)
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(1, "PO replaced"))).Id;
        _ =
            who == "carrier"
                ? (await owner.Post($"loads/{load}/cover/carrier", Accepted(business.Ids["carrier"], Usd(900m)))).Ok
                : (await owner.Post($"loads/{load}/cover/driver", business.Crew(who))).Ok;
        var stops = (await Sheet(owner, load))["load"]!["stops"]!.AsArray().Select(s => s!["id"]!.GetValue<long>()).ToArray();
        _ = (await owner.Post($"loads/{load}/stops/{stops[0]}", new { @event = "left", at = "2026-11-24T14:00:00Z" })).Ok;
        return (owner, load, stops);
    }

    private static async Task<JsonNode> Sheet(Caller owner, long load) => (await owner.Get($"loads/{load}")).Ok["sheet"]!;

    private static async Task<JsonArray> Legs(Caller owner, long load) => (await Sheet(owner, load))["legs"]!.AsArray();

    private object To(string carrier, decimal pay, decimal? still, string? at = "2026-11-24T20:00:00Z") =>
        new
        {
            placeId = business.Ids["handover"],
            at,
            payBefore = still is { } s ? Usd(s) : null,
            carrier = new
            {
                carrierId = business.Ids[carrier],
                pay = Usd(pay),
                acceptedBy = "Jo Ferro",
                dispatch = new
                {
                    driver = "Lee Anders",
                    phone = "208-555-0177",
                    truck = "44",
                },
            },
        };

    private static async Task<long> Deliver(Caller owner, long load, long stop)
    {
        _ = (
            await owner.Post(
                $"loads/{load}/stops/{stop}",
                new
                {
                    @event = "delivered",
                    at = "2026-11-25T01:00:00Z",
                    receivedBy = "R. Dahl",
                }
            )
        ).Ok;
        return load;
    }

    private async Task InOrder()
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));
    }

    [Fact]
    public async Task Another_carrier_delivers_and_each_bills_its_own_part()
    {
        var (owner, load, stops) = await PickedUp("carrier");
        var before = await Balances(owner);
        var over = (await owner.Post($"loads/{load}/handover", To("second", 620m, 350m))).Ok["summary"]!.GetValue<string>();
        Assert.EndsWith(
            "from Two Forks Trucking to Clearwater Basin Carriers for $620.00, in Missoula; Two Forks Trucking is paid $350.00 instead of $900.00",
            over,
            StringComparison.Ordinal
        );
        var legs = await Legs(owner, load);
        Assert.Equal(["Two Forks Trucking", "Clearwater Basin Carriers"], legs.Select(l => l!["carrier"]!.GetValue<string>()));
        Assert.Equal([350m, 620m], legs.Select(l => Amount(l!["agreed"])));
        Assert.All(legs, l => Assert.InRange(l!["miles"]!.GetValue<int>(), 100, 260));
        Assert.Equal(2, legs[0]!["tender"]!["revision"]!.GetValue<int>());
        Assert.Equal("Lee Anders", legs[1]!["dispatch"]!["driver"]!.GetValue<string>());
        Assert.Contains(await business.Subjects(), s => s.StartsWith("Revised rate confirmation for load", StringComparison.Ordinal));

        _ = await Deliver(owner, load, stops[1]);
        var done = await Balances(owner);
        Assert.Equal([970m, -970m], Changes(before, done, "5000", "2050"));
        foreach (var (leg, bill, billed) in new[] { (0, "TF-1", 350m), (1, "CB-1", 640m) })
        {
            var id = (
                await owner.Pay(
                    "bills",
                    new
                    {
                        legId = legs[leg]!["id"]!.GetValue<long>(),
                        number = bill,
                        amount = Usd(billed),
                        billedOn = "2026-11-24",
                    }
                )
            ).Id;
            Assert.Equal(leg == 0 ? 0m : 20m, Amount((await owner.Get($"bills/{id}")).Ok["bill"]!["difference"]));
        }

        Assert.Equal([970m, 0m, -970m], Changes(before, await Balances(owner), "5000", "2050", "2000"));
        Assert.Equal(970m, Amount((await owner.Get($"loads/{load}")).Ok["money"]!["carriers"]) - 20m);
        Assert.Equal("stop.order", (await owner.Post($"loads/{load}/handover/undo")).Code);

        // Crushed while the first had it: the claim is against that one, and the other's pay is not held.
        object Crushed(long leg) =>
            new
            {
                kind = "damage",
                description = "two pallets crushed",
                legId = leg,
            };
        Assert.Equal(["legId"], (await owner.Post($"loads/{load}/claims", Crushed(-1))).Fields);
        var claim = (await owner.Post($"loads/{load}/claims", Crushed(legs[0]!["id"]!.GetValue<long>()))).Ok;
        Assert.Equal("Two Forks Trucking", claim["carrier"]!.GetValue<string>());
        await InOrder();
    }

    [Fact]
    public async Task Undone_the_first_carrier_has_the_load_again_at_its_pay_and_the_other_is_sent_away()
    {
        var (owner, load, stops) = await PickedUp("carrier");
        var miles = (await Legs(owner, load))[0]!["miles"]!.GetValue<int>();
        _ = (
            await owner.Put(
                $"loads/{load}/carrier-pay",
                new
                {
                    charges = new object[]
                    {
                        new { kind = "line_haul", amount = Usd(850m) },
                        new { kind = "fuel_surcharge", amount = Usd(90m) },
                    },
                }
            )
        ).Ok;
        foreach (var still in new decimal?[] { 0m, 310.5m, null })
        {
            _ = (await owner.Post($"loads/{load}/handover", To("second", 620m, still))).Ok;
            var two = await Legs(owner, load);
            Assert.Equal(still ?? 940m, Amount(two[0]!["agreed"]));
            Assert.Equal(still == 0, two[0]!["tender"] is null);
            _ = (await owner.Post($"loads/{load}/handover/undo")).Ok;
            var one = (await Legs(owner, load)).Single()!;
            Assert.Equal(("Two Forks Trucking", 940m), (one["carrier"]!.GetValue<string>(), Amount(one["agreed"])));
            Assert.Equal([850m, 90m], one["charges"]!.AsArray().Select(c => Amount(c!["amount"])));
            Assert.InRange(one["miles"]!.GetValue<int>(), miles, (int)(miles * 1.15));
            Assert.NotNull(one["tender"]);
        }

        Assert.Equal("rolling", (await Sheet(owner, load))["load"]!["state"]!.GetValue<string>());
        Assert.Contains(await business.Subjects(), s => s.EndsWith("canceled", StringComparison.Ordinal));
        _ = await Deliver(owner, load, stops[1]);
        Assert.Equal("handover.none", (await owner.Post($"loads/{load}/handover/undo")).Code);
        await InOrder();
    }

    /// <summary>A carrier that is paid nothing owes no bill, and the load closes without one.</summary>
    [Fact]
    public async Task Our_driver_finishes_for_a_carrier_that_is_paid_nothing()
    {
        var (owner, load, stops) = await PickedUp("carrier");
        _ = (
            await owner.Post(
                $"loads/{load}/handover",
                new
                {
                    placeId = business.Ids["handover"],
                    at = "2026-11-24T20:00:00Z",
                    payBefore = Usd(0m),
                    driverId = business.Ids["moses"],
                    truckId = business.Ids["moses truck"],
                    trailerId = business.Ids["moses trailer"],
                }
            )
        ).Ok;
        var legs = await Legs(owner, load);
        Assert.Equal((0m, "Moses Okafor"), (Amount(legs[0]!["agreed"]), legs[1]!["driver"]!.GetValue<string>()));
        _ = await Deliver(owner, load, stops[1]);
        Assert.DoesNotContain((await owner.Get("bills/expected")).Ok.AsArray(), b => b!["loadId"]!.GetValue<long>() == load);
        var week = (await owner.Get("settlements?monday=2026-11-23"))
            .Ok.AsArray()
            .Single(w => w!["driverId"]!.GetValue<long>() == business.Ids["moses"])!;
        var paid = week["lines"]!
            .AsArray()
            .Single(l => l!["kind"]?.GetValue<string>() == "per_mile" && l["loadId"]!.GetValue<long>() == load)!;
        Assert.Equal(legs[1]!["miles"]!.GetValue<int>(), (int)paid["quantity"]!.GetValue<decimal>());
        await InOrder();
    }

    [Fact]
    public async Task A_carrier_takes_over_from_our_truck_which_is_free_at_once()
    {
        var (owner, load, stops) = await PickedUp("lena");
        var trip = (await owner.Post($"loads/{load}/handover", To("second", 500m, null))).Ok["trip"];
        Assert.Null(trip);
        var next = (await owner.Post("loads", business.Order(3, "PO next"))).Id;
        _ = (await owner.Post($"loads/{next}/cover/driver", business.Crew("lena"))).Ok;
        var before = await Balances(owner);
        _ = await Deliver(owner, load, stops[1]);
        Assert.Equal([500m], Changes(before, await Balances(owner), "5000"));
        var leg = (await Legs(owner, load))[0]!;
        var week = (await owner.Get("settlements?monday=2026-11-23"))
            .Ok.AsArray()
            .Single(w => w!["driverId"]!.GetValue<long>() == business.Ids["lena"])!;
        Assert.Equal(
            [leg["miles"]!.GetValue<int>()],
            week["lines"]!
                .AsArray()
                .Where(l => l!["kind"]?.GetValue<string>() == "per_mile")
                .Select(l => (int)l!["quantity"]!.GetValue<decimal>())
        );
        await InOrder();
    }

    /// <summary>Our truck breaks down at the dock: the load stays covered, and is found by the name of the carrier that takes it.</summary>
    [Fact]
    public async Task Handed_over_at_the_dock_a_load_stays_covered()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(1, "PO dock"))).Id;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("moses"))).Ok;
        var stop = (await Sheet(owner, load))["load"]!["stops"]![0]!["id"];
        _ = (await owner.Post($"loads/{load}/stops/{stop}", new { @event = "arrived", at = "2026-11-24T13:00:00Z" })).Ok;
        _ = (await owner.Post($"loads/{load}/handover", To("second", 880m, null))).Ok;
        var sheet = (await Sheet(owner, load))["load"]!;
        Assert.Equal(("covered", "Clearwater Basin Carriers"), (sheet["state"]!.GetValue<string>(), sheet["who"]!.GetValue<string>()));
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.True(
            await db.One<bool>(
                "select words like '%clearwater basin%' from search_entries where kind = 'load' and ref_id = @id",
                ("id", load)
            )
        );
    }

    [Fact]
    public async Task Freight_is_given_only_to_a_fit_carrier_that_accepted_with_a_known_truck()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(1, "PO refused"))).Id;
        _ = (await owner.Post($"loads/{load}/cover/carrier", Accepted(business.Ids["carrier"], Usd(900m)))).Ok;
        var early = await owner.Post($"loads/{load}/handover", To("second", 620m, null));
        Assert.Equal("load.state", early.Code);
        var stop = (await Sheet(owner, load))["load"]!["stops"]![0]!["id"];
        _ = (await owner.Post($"loads/{load}/stops/{stop}", new { @event = "left", at = "2026-11-24T14:00:00Z" })).Ok;

        var bare = new { placeId = business.Ids["handover"], carrier = new { carrierId = business.Ids["lapsing"] } };
        Assert.Equal(
            [
                "carrier.acceptedBy",
                "carrier.carrierId",
                "carrier.dispatch.driver",
                "carrier.dispatch.phone",
                "carrier.dispatch.truck",
                "carrier.pay",
            ],
            (await owner.Post($"loads/{load}/handover", bare)).Fields.Distinct().Order(StringComparer.Ordinal)
        );
        Assert.Equal(["carrier.carrierId"], (await owner.Post($"loads/{load}/handover", To("carrier", 620m, null))).Fields);
        Assert.Equal(["payBefore"], (await owner.Post($"loads/{load}/handover", To("second", 620m, 900.01m))).Fields);
        Assert.Single(await Legs(owner, load));

        // It stood for thirteen hours; the ETA counts from where and when the other truck took it, three hours from the delivery.
        _ = (await owner.Post($"loads/{load}/handover", To("second", 620m, null, at: null))).Ok;
        var arrives = Instant.FromDateTimeOffset(
            (await owner.Get($"loads/{load}")).Ok["visits"]![1]!["arrives"]!.GetValue<DateTimeOffset>()
        );
        Assert.InRange((arrives - business.Clock.Now).TotalHours, 2.5, 6);
    }
}
