using System.Text.Json.Nodes;
using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Basics;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Stops of a trip's own, and where trucks and trailers are.</summary>
public sealed class TripStops(TestBusiness business) : PlanTest(business)
{
    private Task<Answer> Add(Caller caller, long trip, string kind, string? place, int? minutes = null, bool allowLate = false) =>
        caller.Post(
            $"trips/{trip}/stops",
            new
            {
                kind,
                placeId = place is null ? (long?)null : Business.Ids[place],
                minutes,
                allowLate,
            }
        );

    private static async Task<JsonNode?> Where(Caller caller, string units, string unit) =>
        (await caller.Get("fleet/locations")).Ok[units]!.AsArray().SingleOrDefault(u => Word(u!["unit"]) == unit);

    [Fact]
    public async Task A_fuel_stop_is_driven_paid_and_expected_and_removed_it_leaves_nothing_behind()
    {
        var owner = await Business.As(Role.Owner);
        var load = await Booked(owner, 24, "from", "to", 20, 38_000, 1_400m, until: 12);
        var trip = await TripOf(owner, load, "lena");
        var (alone, before) = ((await Legs(owner, load))[0]!, await Trip(owner, trip));

        var added = (await Add(owner, trip, "fuel", "handover", 45)).Ok;
        var sheet = await Trip(owner, trip);
        Assert.Equal(["Great Falls MT", "Missoula MT", "Spokane WA"], sheet["visits"]!.AsArray().Select(v => Word(v!["town"])));
        Assert.Equal([38_000, 38_000, 0], sheet["visits"]!.AsArray().Select(v => v!["after"]!["weightLb"]!.GetValue<int>()));
        Assert.Equal(("fuel", 45), (Word(sheet["visits"]![1]!["own"]!["kind"]), sheet["visits"]![1]!["own"]!["minutes"]!.GetValue<int>()));
        var more = sheet["loadedMiles"]!.GetValue<double>() - before["loadedMiles"]!.GetValue<double>();
        Assert.Equal(added["addedMiles"]!.GetValue<int>(), more, 1.0);
        Assert.Equal((int)Math.Round(sheet["loadedMiles"]!.GetValue<double>()), await Shared(trip));
        var paid = (await Legs(owner, load))[0]!;
        Assert.True(Amount(paid["cost"]!["driver"]) >= Amount(alone["cost"]!["driver"]));
        Assert.True(Amount(paid["cost"]!["fuel"]) >= Amount(alone["cost"]!["fuel"]));

        // The board, the plan and the phone expect the delivery when the trip does.
        var arrives = Word(sheet["visits"]![2]!["arrives"]);
        var line = (await owner.Get("loads?view=moving&limit=500")).Ok["rows"]!.AsArray().Single(l => Id(l!["load"]) == load)!;
        Assert.Equal(arrives, Word(line["visits"]![1]!["arrives"]));
        Assert.Equal(arrives, Word(Of(await Plan(owner), "Lena Haugen")["trips"]![0]!["visits"]![2]!["arrives"]));

        // Its way by road is as long, in all states together.
        var route = (await owner.Get($"trips/{trip}/route")).Ok;
        Assert.Equal(
            sheet["loadedMiles"]!.GetValue<double>(),
            route["ways"]!.AsArray().Where(w => !w!["empty"]!.GetValue<bool>()).Sum(w => w!["miles"]!.GetValue<double>()),
            1.0
        );
        Assert.Equal(sheet["loadedMiles"]!.GetValue<double>(), route["byState"]!.AsArray().Sum(s => s!["loaded"]!.GetValue<double>()), 1.0);
        Assert.Equal(["MT", "ID", "WA"], route["byState"]!.AsArray().Select(s => Word(s!["region"])));

        // The list of trips has it with the same figures.
        var row = (
            await owner.RowsOf(
                "trips",
                ListCalls.Where("number", "is", Word(sheet["trip"]!["number"])),
                ["state", "driver", "loads", "origin", "destination", "own_stops", "miles", "cost"]
            )
        ).Single();
        Assert.Equal(
            "planned, Lena Haugen, Great Falls MT to Spokane WA, 1",
            $"{row["state"]}, {row["driver"]}, {row["origin"]} to {row["destination"]}, {row["own_stops"]}"
        );
        Assert.Equal(await Shared(trip), row["miles"]!.GetValue<int>());
        Assert.Equal(Amount(sheet["cost"]), decimal.Parse(row["cost"]!.ToString(), System.Globalization.CultureInfo.InvariantCulture));

        // It is no stop of the load, its miles are not the customer's, and it goes where it is wanted.
        Assert.Equal(alone["miles"]!.GetValue<int>(), paid["miles"]!.GetValue<int>());
        Assert.Equal(2, (await Sheet(owner, load))["load"]!["stops"]!.AsArray().Count);
        var ids = Ids(sheet);
        long[] later = [ids[0], ids[2], ids[1]];
        _ = (
            await owner.Put(
                $"trips/{trip}/order",
                new
                {
                    order = later,
                    was = ids,
                    allowLate = true,
                }
            )
        ).Ok;
        Assert.Equal(later, Ids(await Trip(owner, trip)));
        Assert.Empty(await Wrong());

        _ = (await owner.Post($"trips/{trip}/stops/{added["stopId"]}/remove")).Ok;
        Assert.Equal(alone["cost"]!.ToJsonString(), (await Legs(owner, load))[0]!["cost"]!.ToJsonString());
        Assert.Equal(before["visits"]!.ToJsonString(), (await Trip(owner, trip))["visits"]!.ToJsonString());
        Assert.Empty(await Wrong());
        Assert.Equal("not.found", (await owner.Post($"trips/{trip}/stops/{added["stopId"]}/remove")).Code);

        // A stop that makes the delivery late is added only when that is accepted.
        var late = await Add(owner, trip, "wash", "handover", 1_440);
        Assert.Equal("trip.late allowLate", $"{late.Code} {string.Join(' ', late.Fields)}");
        _ = (await Add(owner, trip, "wash", "handover", 1_440, allowLate: true)).Ok;
        _ = (await owner.Post($"trips/{trip}/dissolve")).Ok;
        Assert.Equal("trip.over", (await Add(owner, trip, "fuel", "handover")).Code);
    }

    [Fact]
    public async Task A_trailer_is_hooked_where_it_is_known_to_be()
    {
        var owner = await Business.As(Role.Owner);
        var load = await Booked(owner, 26, "from", "to", 20, 38_000, 1_400m);
        var trip = await TripOf(owner, load, "kai");
        var trailer = Business.Ids["kai trailer"];
        Assert.Null(await Where(owner, "trailers", "Rkai"));
        Assert.Equal("placeId", (await Add(owner, trip, "hook", null)).Fields.Single());

        // A user saw it in Missoula: the trip says that it is not with the truck.
        _ = (await owner.Post($"trailers/{trailer}/location", new { placeId = Business.Ids["handover"], at = "2026-11-23T12:00:00Z" })).Ok;
        Assert.Equal("Missoula MT", Word((await Where(owner, "trailers", "Rkai"))!["where"]));
        var sheet = await Trip(owner, trip);
        Assert.True(sheet["trailerAway"]!.GetValue<bool>());
        Assert.Equal(
            "Trailer Rkai was in Missoula MT on Mon Nov 23, 05:00: add a stop to hook it, or assign another trailer.",
            Word(sheet["warnings"]![0])
        );
        Assert.Contains(Of(await Plan(owner), "Kai Voss")["warnings"]!.AsArray(), w => Word(w) == Word(sheet["warnings"]![0]));
        var elsewhere = await Add(owner, trip, "hook", "to");
        Assert.Equal(("stop.elsewhere", "placeId"), (elsewhere.Code, elsewhere.Fields.Single()));

        // Without a place it is hooked where it is, before the pickup and in time for it.
        var hooked = (await Add(owner, trip, "hook", null)).Ok;
        sheet = await Trip(owner, trip);
        Assert.Equal(["Missoula MT", "Great Falls MT", "Spokane WA"], sheet["visits"]!.AsArray().Select(v => Word(v!["town"])));
        Assert.False(sheet["trailerAway"]!.GetValue<bool>());
        Assert.Empty(sheet["warnings"]!.AsArray());
        Assert.True(sheet["visits"]![0]!["leaves"]!.GetValue<string>().CompareTo(Word(sheet["visits"]![1]!["arrives"])) < 0);
        Assert.Equal("trailer.hooked", (await Add(owner, trip, "hook", null)).Code);
        var ids = Ids(sheet);
        Assert.Equal(
            "trailer.away",
            (await owner.Put($"trips/{trip}/order", new { order = new[] { ids[1], ids[0], ids[2] }, was = ids })).Code
        );
        Assert.Equal(
            "stop.trailer",
            (
                await Make(
                    owner,
                    new
                    {
                        tripId = trip,
                        driverId = Business.Ids["moses"],
                        truckId = Business.Ids["moses truck"],
                        trailerId = Business.Ids["moses trailer"],
                    }
                )
            ).Code
        );
        Assert.Empty(await Wrong());

        // The database holds it, too.
        await using (var db = await Business.Db.Source.OpenConnectionAsync())
        {
            var refused = await Assert.ThrowsAsync<PostgresException>(() =>
                db.Run(
                    "update trip_stops set place_id = @place where id = @id",
                    ("place", Business.Ids["to"]),
                    ("id", hooked["stopId"]!.GetValue<long>())
                )
            );
            Assert.Equal("LK009", refused.SqlState);
        }

        // Driven to the end and dropped on the way home, it stays there while the truck goes on.
        _ = (await Add(owner, trip, "drop", "handover")).Ok;
        var yard = (await Add(owner, trip, "yard", "from")).Ok["stopId"]!.GetValue<long>();
        ids = Ids(await Trip(owner, trip));
        _ = (await owner.Put($"trips/{trip}/order", new { order = ids.Where(i => i != yard).Append(yard), was = ids })).Ok;
        owner = await At(Instant.FromUtc(2026, 11, 27, 20, 0));
        var stops = (await Sheet(owner, load))["load"]!["stops"]!.AsArray().Select(s => Id(s)).ToArray();
        Task<Answer> Own(int visit, string at) => owner.Post($"trips/{trip}/stops/{Ids(sheet)[visit]}", new { left = true, at });
        sheet = await Trip(owner, trip);
        _ = (await Own(0, "2026-11-26T08:00:00Z")).Ok;
        Assert.Equal(Word(sheet["trip"]!["number"]), Word((await Where(owner, "trailers", "Rkai"))!["trip"]));
        _ = (await Stop(owner, load, stops[0], "arrived", "2026-11-26T14:00:00Z")).Ok;
        _ = (await Stop(owner, load, stops[0], "left", "2026-11-26T15:00:00Z")).Ok;
        Assert.Equal("Great Falls MT", Word((await Where(owner, "trailers", "Rkai"))!["where"]));
        _ = (await Stop(owner, load, stops[1], "arrived", "2026-11-27T01:00:00Z")).Ok;
        _ = (await Stop(owner, load, stops[1], "delivered", "2026-11-27T02:00:00Z")).Ok;
        sheet = await Trip(owner, trip);
        Assert.Equal(["hook", null, null, "drop", "yard"], sheet["visits"]!.AsArray().Select(v => v!["own"]?["kind"]?.GetValue<string>()));
        _ = (await Own(3, "2026-11-27T07:00:00Z")).Ok;
        _ = (await Own(4, "2026-11-27T12:00:00Z")).Ok;
        Assert.Equal("Missoula MT", Word((await Where(owner, "trailers", "Rkai"))!["where"]));
        Assert.Equal("Great Falls MT", Word((await Where(owner, "trucks", "Tkai"))!["where"]));
        // The next trip begins where the truck is, and its trailer has to be hooked where it was dropped.
        var next = await Booked(owner, 28, "from", "to", 6, 9_000);
        var follows = await TripOf(owner, next, "kai");
        var after = await Trip(owner, follows);
        Assert.Equal(0, after["emptyMiles"]!.GetValue<double>(), 1.0);
        Assert.StartsWith("Trailer Rkai was left in Missoula MT by trip", Word(after["warnings"]![0]), StringComparison.Ordinal);
        Assert.Empty(await Wrong());

        // The truck was driven home since: the next trip begins there.
        _ = (await owner.Post($"trucks/{Business.Ids["kai truck"]}/location", new { placeId = Business.Ids["handover"] })).Ok;
        Assert.Equal("person", Word((await Where(owner, "trucks", "Tkai"))!["source"]));
        after = await Trip(owner, follows);
        Assert.True(after["emptyMiles"]!.GetValue<double>() > 100);
        Assert.DoesNotContain(after["warnings"]!.AsArray(), w => Word(w).Contains("hook", StringComparison.Ordinal));
        foreach (
            var (body, field) in new (object, string)[]
            {
                (new { }, "placeId"),
                (new { placeId = 99_999_999 }, "placeId"),
                (new { placeId = Business.Ids["to"], at = "2026-12-27T20:00:00Z" }, "at"),
                (new { placeId = Business.Ids["to"], at = "2024-12-27T20:00:00Z" }, "at"),
            }
        )
        {
            Assert.Equal(field, (await owner.Post($"trailers/{trailer}/location", body)).Fields.Single());
        }
    }

    [Fact]
    public async Task A_trip_that_hands_its_load_over_ends_there_without_the_stops_ahead()
    {
        var owner = await Business.As(Role.Owner);
        await Business.AddCrew("mercy", "Mercy Adeyemi");
        var load = await Booked(owner, 24, "from", "to", 5, 8_000, 1_400m);
        var trip = await TripOf(owner, load, "mercy");
        var scale = (await Add(owner, trip, "scale", "from", allowLate: true)).Ok["stopId"]!.GetValue<long>();
        _ = (await Add(owner, trip, "fuel", "handover", allowLate: true)).Ok;
        owner = await At(Instant.FromUtc(2026, 11, 24, 22, 0));
        var stops = (await Sheet(owner, load))["load"]!["stops"]!.AsArray().Select(s => Id(s)).ToArray();
        _ = (await Stop(owner, load, stops[0], "arrived", "2026-11-24T13:00:00Z")).Ok;
        _ = (await Stop(owner, load, stops[0], "left", "2026-11-24T14:00:00Z")).Ok;
        _ = (await owner.Post($"trips/{trip}/stops/{scale}", new { left = true, at = "2026-11-24T14:30:00Z" })).Ok;
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        Task<string?> Ends() =>
            db.One<string>("select p.town from trip_ends e join places p on p.id = e.place_id where e.trip_id = @trip", ("trip", trip))!;
        Assert.Equal("Spokane", await Ends());
        _ = (
            await owner.Post(
                $"loads/{load}/handover",
                new
                {
                    placeId = Business.Ids["handover"],
                    driverId = Business.Ids["lena"],
                    truckId = Business.Ids["lena truck"],
                    trailerId = Business.Ids["mercy trailer"],
                    at = "2026-11-24T20:00:00Z",
                }
            )
        ).Ok;
        Assert.Equal(
            ["", "scale", ""],
            (await Trip(owner, trip))["visits"]!.AsArray().Select(v => v!["own"]?["kind"]?.GetValue<string>() ?? "")
        );
        Assert.Equal("Missoula", await Ends());
        Assert.Equal("Missoula MT", Word((await Where(owner, "trucks", "Tmercy"))!["where"]));
        Assert.Empty(await Wrong());
        _ = (await owner.Post($"loads/{load}/handover/undo")).Ok;
        Assert.Equal("Spokane", await Ends());
        Assert.Equal(
            ["Great Falls MT", "Great Falls MT", "Spokane WA"],
            (await Trip(owner, trip))["visits"]!.AsArray().Select(v => Word(v!["town"]))
        );
        Assert.Empty(await Wrong());
    }

    [Fact]
    public async Task The_driver_records_a_stop_on_the_phone_and_what_was_passed_by_is_gone()
    {
        var owner = await Business.As(Role.Owner);
        var load = await Booked(owner, 24, "from", "to", 5, 8_000, 1_400m);
        var trip = await TripOf(owner, load, "moses");
        var scale = (await Add(owner, trip, "scale", "from")).Ok["stopId"]!.GetValue<long>();
        var fuel = (await Add(owner, trip, "fuel", "handover")).Ok["stopId"]!.GetValue<long>();
        var driver = await Business.As(Role.Driver);
        var mine = (await driver.Get("mine/loads")).Ok.AsArray().Single(l => Id(l) == load)!;
        Assert.Equal([(scale, 2), (fuel, 3)], mine["tripStops"]!.AsArray().Select(s => (Id(s), s!["visit"]!.GetValue<int>())));
        Assert.Equal([1, 4], mine["stops"]!.AsArray().Select(s => s!["visit"]!.GetValue<int>()));

        var stops = mine["stops"]!.AsArray().Select(Id).ToArray();
        Business.Clock.Now = Instant.FromUtc(2026, 11, 24, 22, 0);
        (owner, driver) = (await Business.As(Role.Owner), await Business.As(Role.Driver));
        _ = (await Stop(owner, load, stops[0], "arrived", "2026-11-24T13:00:00Z")).Ok;
        _ = (await Stop(owner, load, stops[0], "left", "2026-11-24T14:00:00Z")).Ok;
        Task<Answer> Say(long stop, bool left, string? at) => driver.Post($"mine/trips/{trip}/stops/{stop}", new { left, at });
        _ = (await Say(scale, false, "2026-11-24T14:05:00Z")).Ok;
        Assert.Equal("stop.recorded", (await Say(scale, false, null)).Code);
        Assert.Equal("time.order", (await Say(scale, true, "2026-11-24T14:00:00Z")).Code);
        Assert.Equal("time.ahead", (await Say(scale, true, "2026-11-24T23:00:00Z")).Code);
        Assert.Equal("stop.reached", (await owner.Post($"trips/{trip}/stops/{scale}/remove")).Code);
        _ = (await Say(scale, true, "2026-11-24T14:20:00Z")).Ok;
        _ = (await owner.Post($"trips/{trip}/stops/{scale}/undo")).Ok;
        var visit = (await Trip(owner, trip))["visits"]!.AsArray().Single(v => Id(v) == scale)!;
        Assert.Equal((true, false), (visit["reached"]!.GetValue<bool>(), visit["done"]!.GetValue<bool>()));

        // Another driver's trip does not exist for this one.
        var other = await Booked(owner, 26, "from", "to", 5, 8_000);
        var elsewhere = await TripOf(owner, other, "lena");
        var theirs = (await Add(owner, elsewhere, "fuel", "handover")).Ok["stopId"]!.GetValue<long>();
        Assert.Equal(404, (int)(await driver.Post($"mine/trips/{elsewhere}/stops/{theirs}", new { left = true })).Status);
        Assert.Equal(404, (int)(await driver.Post($"mine/trips/{trip}/stops/{theirs}", new { left = true })).Status);

        // Delivered without it, the fuel stop was passed by.
        _ = (await Stop(owner, load, stops[1], "arrived", "2026-11-24T21:00:00Z")).Ok;
        Assert.DoesNotContain((await Trip(owner, trip))["visits"]!.AsArray(), v => Id(v) == fuel);
        Assert.DoesNotContain((await driver.Get("mine/loads")).Ok.AsArray().Single(l => Id(l) == load)!["tripStops"]!.AsArray(), s =>
            Id(s) == fuel
        );
        // History tells who recorded what.
        var said = (await owner.Get($"trips/{trip}/records")).Ok["events"]!.AsArray().Select(e => Word(e!["summary"])).ToList();
        Assert.Contains(said, s => s.Contains("arrived in Great Falls MT (scale)", StringComparison.Ordinal));
        Assert.Contains(said, s => s.Contains("last update in Great Falls MT undone", StringComparison.Ordinal));
    }
}
