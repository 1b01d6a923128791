using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Basics;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Trips that are copied, closed and archived.</summary>
public sealed class CopiedTrips(TestBusiness business) : SharedTripTest(business)
{
    private static IEnumerable<string> Visits(JsonNode trip) =>
        trip["visits"]!.AsArray().Select(v => $"{Word(v!["kind"])} {Word(v["town"])}");

    [Fact]
    public async Task A_trip_is_copied_with_its_loads_stops_order_and_crew()
    {
        var owner = await Business.As(Role.Owner);
        var one = await Booked(owner, 25, "from", "to", 6, 9_000);
        var two = await Booked(owner, 25, "from", "handover", 4, 5_000);
        var trip = await TripOf(owner, one, "moses");
        _ = (await owner.Post($"loads/{two}/cover/trip", new { tripId = trip, allowLate = true })).Ok;
        _ = (
            await owner.Post(
                $"trips/{trip}/stops",
                new
                {
                    kind = "fuel",
                    placeId = Business.Ids["handover"],
                    minutes = 25,
                    allowLate = true,
                }
            )
        ).Ok;
        _ = (await owner.Put($"trips/{trip}/name", new { name = "Milk run" })).Ok;
        var before = await Trip(owner, trip);

        Assert.Equal("copy.day", (await owner.Post($"trips/{trip}/copy", new { on = "2026-11-25" })).Code);
        var copy = (await owner.Post($"trips/{trip}/copy", new { on = "2026-12-02" })).Ok;
        var after = await Trip(owner, copy["tripId"]!.GetValue<long>());
        Assert.Equal(Visits(before), Visits(after));
        Assert.Equal("Milk run", Word(after["trip"]!["name"]));
        Assert.Equal(Word(before["trip"]!["driver"]), Word(after["trip"]!["driver"]));
        var load = copy["loads"]![0]!["id"]!.GetValue<long>();
        var sheet = await Sheet(owner, load);
        Assert.Equal("2026-12-02T06:00:00", Word(sheet["load"]!["stops"]![0]!["from"]));
        Assert.Null(sheet["load"]!["reference"]);
        Assert.Equal((await Sheet(owner, one))["load"]!["revenue"]!.ToJsonString(), sheet["load"]!["revenue"]!.ToJsonString());

        // The driver is busy that day now: copied without one, the loads are open. What fails leaves nothing behind.
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        var loads = await db.One<long>("select count(*) from loads");
        Assert.NotEmpty((await owner.Post($"trips/{trip}/copy", new { on = "2026-12-02" })).Fields);
        Assert.Equal(loads, await db.One<long>("select count(*) from loads"));
        var open = (await owner.Post($"trips/{trip}/copy", new { on = "2026-12-02", assign = false })).Ok;
        Assert.Null(open["tripId"]);
        Assert.Equal("booked", Word((await Sheet(owner, open["loads"]![1]!["id"]!.GetValue<long>()))["load"]!["state"]));
    }

    [Fact]
    public async Task A_trip_that_is_over_is_closed_keeps_its_costs_and_is_left_out_of_the_list_once_archived()
    {
        var owner = await Business.As(Role.Owner);
        var load = await Business.Delivered(owner, 0, "lena");
        var trip = (await Sheet(owner, load))["load"]!["tripId"]!.GetValue<long>();
        Task<Answer> Close(bool closed, bool archived = false) => owner.Put($"trips/{trip}/closing", new { closed, archived });
        object Toll(decimal amount) =>
            new
            {
                kind = "toll",
                on = "2026-11-18",
                amount = Business.Dollars(amount),
                paidBy = "company_card",
            };
        var expense = (await owner.Post($"trips/{trip}/expenses", Toll(14.5m))).Id;
        _ = (await owner.Pay($"expenses/{expense}/reopen")).Ok;
        Assert.Equal("trip.expenses", (await Close(true)).Code);
        _ = (await owner.Pay($"expenses/{expense}/approve")).Ok;
        Assert.Equal("trip.open", (await Close(false, archived: true)).Code);
        Assert.NotNull((await Close(true)).Ok["closedAt"]);
        Assert.Equal("trip.closed", (await owner.Post($"trips/{trip}/expenses", Toll(20m))).Code);
        Assert.Equal("trip.closed", (await owner.Pay($"expenses/{expense}/remove")).Code);
        // The database refuses it too.
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        var refused = await Assert.ThrowsAsync<Npgsql.PostgresException>(() =>
            db.Run("update trip_expenses set amount = amount + 1 where id = @id", ("id", expense))
        );
        Assert.Equal("LK011", refused.SqlState);

        var number = Word((await Trip(owner, trip))["trip"]!["number"]);
        async Task<bool> Listed(params object[] filters) =>
            (await owner.RowsOf("trips", new { filters }, ["number"])).Any(r => Word(r["number"]) == number);
        Assert.True(await Listed());
        _ = (await Close(true, archived: true)).Ok;
        Assert.False(await Listed());
        Assert.True(await Listed(ListCalls.Filter("state", "is", "archived")));

        _ = (await Close(false)).Ok;
        _ = (await owner.Post($"trips/{trip}/expenses", Toll(20m))).Ok;
        Assert.Equal(
            "trip.open",
            (
                await owner.Put(
                    $"trips/{await TripOf(owner, await Booked(owner, 28, "from", "to", 2, 900), "lena")}/closing",
                    new { closed = true }
                )
            ).Code
        );
        Assert.Empty(await TestBusiness.Disagreements(db));
    }
}
