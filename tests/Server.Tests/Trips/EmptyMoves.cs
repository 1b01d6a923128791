using System.Text.Json.Nodes;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Moves that bill nobody: booked, driven, paid and closed without an invoice.</summary>
public sealed class EmptyMoves(TestBusiness business) : PlanTest(business)
{
    private Task<Answer> Move(
        Caller caller,
        string? trailer,
        string? to,
        string? from = null,
        string? what = null,
        string? driver = null,
        string? at = null
    ) =>
        caller.Post(
            "moves",
            new
            {
                trailerId = trailer is null ? (long?)null : Business.Ids[trailer],
                what,
                fromPlaceId = from is null ? (long?)null : Business.Ids[from],
                toPlaceId = to is null ? (long?)null : Business.Ids[to],
                from = at ?? "2026-11-25T15:00:00Z",
                by = "2026-11-27T03:00:00Z",
                driverId = driver is null ? (long?)null : Business.Ids[driver],
                truckId = driver is null ? (long?)null : Business.Ids[$"{driver} truck"],
            }
        );

    private Task<Answer> Seen(Caller owner, string trailer, string place) =>
        owner.Post($"trailers/{Business.Ids[trailer]}/location", new { placeId = Business.Ids[place], at = "2026-11-23T12:00:00Z" });

    [Fact]
    public async Task An_empty_trailer_is_moved_for_empty_miles_and_the_move_closes_when_its_driver_is_paid()
    {
        await Business.AddCrew("olga", "Olga Brandt");
        await using (var w = await Business.Begin())
        {
            await Store.Paying.SettlementStore.SetRate(
                w.Db,
                Business.Ids["olga"],
                new Core.Paying.PayRate(Core.Paying.PayKind.PerEmptyMile, 0.45m, new LocalDate(2020, 1, 1)),
                null,
                w.Now
            );
            await w.Commit();
        }

        var owner = await Business.As(Role.Owner);
        _ = (await Seen(owner, "van", "from")).Ok;
        var moved = (await Move(owner, "van", "handover", driver: "olga")).Ok;
        Assert.Equal("covered", Word(moved["state"]));
        var (id, number) = (Id(moved), Word(moved["number"]));
        var load = (await Sheet(owner, id))["load"]!;
        Assert.Equal(
            ("Move of trailer 3301", true, "0.00"),
            (Word(load["customer"]), load["isMove"]!.GetValue<bool>(), Word(load["revenue"]!["amount"]))
        );
        Assert.Equal(["Great Falls MT", "Missoula MT"], load["stops"]!.AsArray().Select(s => $"{s!["town"]} {s["region"]}"));

        // Nothing is on board, so its miles are empty ones: on the trip, on the plan, in the driver's pay.
        var leg = (await Legs(owner, id))[0]!;
        Assert.Equal(0, leg["truckMiles"]!.GetValue<int>());
        Assert.InRange(leg["emptyMiles"]!.GetValue<int>(), 150, 210);
        Assert.Equal(leg["emptyMiles"]!.GetValue<int>() * 0.45m, Amount(leg["wage"]));
        Assert.True(Amount(leg["cost"]!["fuel"]) > 30);
        var trip = await Trip(owner, leg["tripId"]!.GetValue<long>());
        Assert.Equal(0, trip["loadedMiles"]!.GetValue<double>());
        Assert.All(Of(await Plan(owner), "Olga Brandt")["trips"]![0]!["visits"]!.AsArray(), v =>
            Assert.False(v!["loaded"]!.GetValue<bool>())
        );

        // It pulls that trailer and no other, and has no customer to bill.
        var other = await owner.Post($"loads/{id}/cover/driver", With(Business.Crew("olga"), "reassign", true));
        Assert.Equal("trailerId", other.Fields.First());
        Assert.Contains("Trailer 3301 is what is moved", other.Detail);

        owner = await At(Instant.FromUtc(2026, 11, 30, 18, 0));
        var stops = load["stops"]!.AsArray().Select(s => s!["id"]!.GetValue<long>()).ToArray();
        foreach (
            var (stop, what, at) in new[]
            {
                (0, "arrived", "2026-11-25T16:00:00Z"),
                (0, "left", "2026-11-25T16:30:00Z"),
                (1, "arrived", "2026-11-25T20:00:00Z"),
                (1, "delivered", "2026-11-25T20:15:00Z"),
            }
        )
        {
            _ = (await Stop(owner, id, stops[stop], what, at)).Ok;
        }

        Assert.Equal("delivered", Word((await Sheet(owner, id))["load"]!["state"]));
        var view = (await owner.Get($"loads/{id}")).Ok;
        Assert.Empty(view["missing"]!.AsArray());
        Assert.False(string.IsNullOrEmpty((await owner.Pay("invoices", new { loadIds = new[] { id } })).Code));
        Assert.DoesNotContain(number, (await owner.Get("unbilled")).Ok.ToJsonString());
        // The trailer is where it was moved to.
        var where = (await owner.Get("fleet/locations")).Ok["trailers"]!.AsArray().Single(u => Word(u!["unit"]) == "3301")!;
        Assert.Equal("Missoula MT", Word(where["where"]));

        var week = (await owner.Get("settlements?monday=2026-11-23"))
            .Ok.AsArray()
            .Single(s => s!["driverId"]!.GetValue<long>() == Business.Ids["olga"])!;
        Assert.Equal(
            Amount(leg["wage"]),
            week["lines"]!.AsArray().Where(l => Word(l!["kind"]) == "per_empty_mile").Sum(l => Amount(l!["amount"]))
        );
        var approved = (await owner.Pay("settlements/approve", new { driverId = Business.Ids["olga"], monday = "2026-11-23" })).Id;
        _ = (await (await Business.As(Role.Bookkeeper)).Pay($"settlements/{approved}/pay", new { method = "ach" })).Ok;
        Assert.Equal("closed", Word((await Sheet(owner, id))["load"]!["state"]));
        Assert.Empty(await Wrong());
    }

    [Fact]
    public async Task What_cannot_be_moved_is_refused_in_words()
    {
        var owner = await At(Instant.FromUtc(2026, 11, 24, 16, 42));
        Assert.Equal(
            ["by", "from", "fromPlaceId", "toPlaceId", "trailerId"],
            (await owner.Post("moves", new { })).Fields.Distinct().Order()
        );
        _ = (await Seen(owner, "kai trailer", "handover")).Ok;
        var away = await Move(owner, "kai trailer", "to", from: "from");
        Assert.Equal("move.elsewhere fromPlaceId", $"{away.Code} {away.Fields.Single()}");
        Assert.Contains("Trailer Rkai is not in Great Falls MT: it was in Missoula MT", away.Detail);
        Assert.Equal("by", (await Move(owner, "kai trailer", "to", at: "2026-11-27T04:00:00Z")).Fields.Single());
        Assert.Equal("trailerId", (await Move(owner, null, "to", from: "from")).Fields.Single());
        Assert.Equal("equipment", (await Move(owner, null, "to", from: "from", what: "24 empty pallets")).Fields.Single());

        // Where a trip brings it, it can be moved from when that trip is over.
        var load = await Booked(owner, 24, "from", "to", 20, 38_000, 1_400m);
        var trip = await TripOf(owner, load, "lena");
        var early = await Move(owner, "lena trailer", "handover", from: "to", at: "2026-11-24T20:00:00Z");
        Assert.Equal("move.early from", $"{early.Code} {early.Fields.Single()}");
        Assert.Contains("comes to Spokane WA with trip", early.Detail);
        _ = (await owner.Post($"trips/{trip}/dissolve")).Ok;

        // Freight of our own is moved loaded, by whoever has the time; a move can be canceled.
        var pallets = (
            await owner.Post(
                "moves",
                new
                {
                    what = "24 empty pallets",
                    equipment = "van",
                    fromPlaceId = Business.Ids["from"],
                    toPlaceId = Business.Ids["to"],
                    from = "2026-11-25T15:00:00Z",
                    by = "2026-11-27T03:00:00Z",
                }
            )
        ).Ok;
        Assert.Equal("booked", Word(pallets["state"]));
        Assert.Equal("Move", Word((await Sheet(owner, Id(pallets)))["load"]!["customer"]));
        Assert.Contains((await Plan(owner))["open"]!.AsArray(), l => Word(l!["load"]) == Word(pallets["number"]));
        _ = (await owner.Pay($"loads/{Id(pallets)}/cancel", new { why = "not needed" })).Ok;
        Assert.Equal("cancelled", Word((await Sheet(owner, Id(pallets)))["load"]!["state"]));

        // The database holds that a move bills nobody.
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        var refused = await Assert.ThrowsAsync<Npgsql.PostgresException>(() =>
            db.Run("update loads set customer_id = (select min(id) from companies) where id = @id", ("id", Id(pallets)))
        );
        Assert.Equal("moves_bill_nobody", refused.ConstraintName);
    }

    private static JsonNode With(object body, string field, bool value)
    {
        var node = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(body))!;
        node[field] = value;
        return node;
    }
}
