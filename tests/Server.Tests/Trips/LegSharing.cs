using System.Text.Json.Nodes;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Paying;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Paying;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>How the legs of a split load share its revenue, and what their drivers are paid of it.</summary>
public sealed class LegSharing(TestBusiness business) : SplitTest(business)
{
    private static async Task<JsonNode> Shares(Caller owner, long load) => (await owner.Get($"loads/{load}")).Ok["shares"]!;

    [Fact]
    public async Task A_driver_paid_by_percentage_is_paid_from_the_share_that_was_set()
    {
        await Business.AddCrew("percy", "Percy Begaye");
        await using (var w = await Business.Begin())
        {
            await SettlementStore.SetRate(
                w.Db,
                Business.Ids["percy"],
                new PayRate(PayKind.PerMile, 0m, new LocalDate(2020, 1, 2)),
                null,
                w.Now
            );
            await SettlementStore.SetRate(
                w.Db,
                Business.Ids["percy"],
                new PayRate(PayKind.PerDay, 0m, new LocalDate(2020, 1, 2)),
                null,
                w.Now
            );
            await SettlementStore.SetRate(
                w.Db,
                Business.Ids["percy"],
                new PayRate(PayKind.PercentOfLineHaul, 27m, new LocalDate(2020, 1, 1)),
                null,
                w.Now
            );
            await w.Commit();
        }

        var (owner, load, stops) = await Booked(24, "PO shares");
        Assert.Null((await owner.Get($"loads/{load}")).Ok["shares"]);
        Assert.Equal("shares.one", (await owner.Put($"loads/{load}/shares", new { shares = new[] { 100 } })).Code);
        _ = (await owner.Post($"loads/{load}/cover/driver", Business.Crew("lena"))).Ok;
        _ = (await owner.Post($"loads/{load}/split", In("handover", "2026-11-25T12:00:00", "transload"))).Ok;
        var asked = await Shares(owner, load);
        Assert.False(asked["asked"]!.GetValue<bool>());
        var next = Id((await Legs(owner, load))[1]);
        _ = (await owner.Post($"loads/{load}/cover/driver?leg={next}", Business.Crew("percy"))).Ok;

        // Nobody said which part of the line haul is the driver's: it is by miles, and the page asks.
        asked = await Shares(owner, load);
        Assert.Equal((true, false), (asked["asked"]!.GetValue<bool>(), asked["set"]!.GetValue<bool>()));
        var legs = await Legs(owner, load);
        var (miles, all) = (legs[1]!["miles"]!.GetValue<int>(), legs.Sum(l => l!["miles"]!.GetValue<int>()));
        var haul = Amount((await Sheet(owner, load))["charges"]![0]!["amount"]);
        Assert.Equal((double)(haul * miles / all * 0.27m), (double)Amount(legs[1]!["wage"]), 0.011);
        var before = legs.ToJsonString();

        foreach (
            var (shares, field) in new (decimal[], string?)[] { ([40m, 59m], "shares"), ([100m], "shares"), ([40.005m, 59.995m], "shares") }
        )
        {
            Assert.Equal(field, (await owner.Put($"loads/{load}/shares", new { shares })).Fields.Single());
        }

        _ = (await owner.Put($"loads/{load}/shares", new { shares = new[] { 62.5, 37.5 } })).Ok;
        legs = await Legs(owner, load);
        Assert.Equal(decimal.Round(haul * 0.375m * 0.27m, 2), Amount(legs[1]!["wage"]));
        Assert.Equal([62.5m, 37.5m], (await Shares(owner, load))["percents"]!.AsArray().Select(p => p!.GetValue<decimal>()));
        // Trips share the revenue in the same way.
        var trip = (await owner.Get($"trips/{legs[1]!["tripId"]}")).Ok;
        Assert.Equal((double)(Amount((await Sheet(owner, load))["load"]!["revenue"]) * 0.375m), (double)Amount(trip["revenue"]), 0.006);

        // The database holds that they make a whole.
        await using (var db = await Business.Db.Source.OpenConnectionAsync())
        {
            var refused = await Assert.ThrowsAsync<PostgresException>(() =>
                db.Run("update legs set share = 50 where id = @id", ("id", next))
            );
            Assert.Equal("LK010", refused.SqlState);
        }

        // By miles again, as before; and a join forgets them.
        _ = (await owner.Put($"loads/{load}/shares", new { shares = (decimal[]?)null })).Ok;
        Assert.Equal(before, (await Legs(owner, load)).ToJsonString());
        _ = (await owner.Put($"loads/{load}/shares", new { shares = new[] { 62.5, 37.5 } })).Ok;
        _ = (await owner.Post($"loads/{load}/unassign?leg={next}", new { })).Ok;
        var transfer = Id((await Transfers(owner, load))[0]);
        _ = (await owner.Post($"loads/{load}/transfers/{transfer}/join")).Ok;
        Assert.Null((await owner.Get($"loads/{load}")).Ok["shares"]);

        // Delivered and settled, each driver has their part, and the shares stay.
        _ = (await owner.Post($"loads/{load}/split", In("handover", "2026-11-25T12:00:00", "transload"))).Ok;
        next = Id((await Legs(owner, load))[1]);
        _ = (await owner.Post($"loads/{load}/cover/driver?leg={next}", Business.Crew("percy"))).Ok;
        _ = (await owner.Put($"loads/{load}/shares", new { shares = new[] { 50, 50 } })).Ok;
        owner = await At(Instant.FromUtc(2026, 11, 30, 18, 0));
        transfer = Id((await Transfers(owner, load))[0]);
        _ = (await Stop(owner, load, stops[0], "arrived", "2026-11-24T13:00:00Z")).Ok;
        _ = (await Stop(owner, load, stops[0], "left", "2026-11-24T14:00:00Z")).Ok;
        _ = (await At(owner, load, transfer, "left", "2026-11-25T18:00:00Z")).Ok;
        _ = (await At(owner, load, transfer, "taken", "2026-11-25T19:00:00Z")).Ok;
        _ = (await Stop(owner, load, stops[1], "arrived", "2026-11-26T20:00:00Z")).Ok;
        _ = (await Stop(owner, load, stops[1], "delivered", "2026-11-26T21:00:00Z")).Ok;
        var week = (await owner.Get("settlements?monday=2026-11-23"))
            .Ok.AsArray()
            .Single(s => s!["driverId"]!.GetValue<long>() == Business.Ids["percy"])!;
        Assert.Equal(
            decimal.Round(haul * 0.5m * 0.27m, 2),
            week["lines"]!.AsArray().Where(l => Word(l!["kind"]) == "percent_of_line_haul").Sum(l => Amount(l!["amount"]))
        );
    }
}
