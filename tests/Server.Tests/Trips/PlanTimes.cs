using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Trips that start at a chosen time, and loads that are split and joined on the plan.</summary>
public sealed class PlanTimes(TestBusiness business) : PlanTest(business)
{
    private static string[] Times(JsonNode trip) => trip["visits"]!.AsArray().Select(v => Word(v!["arrives"])).ToArray();

    private static JsonNode TripIn(JsonNode plan, string driver, long trip) =>
        Of(plan, driver)["trips"]!.AsArray().Single(t => Id(t) == trip)!;

    [Fact]
    public async Task A_trip_is_moved_to_a_later_start_within_its_window_and_back()
    {
        var owner = await Business.As(Role.Owner);
        var load = await Booked(owner, 24, "from", "to", 6, 9_000);
        var trip = await TripOf(owner, load, "moses");
        var before = TripIn(await Plan(owner), "Moses Okafor", trip);
        Assert.Equal("2026-11-24T13:00:00Z", Word(before["visits"]![0]!["arrives"]));

        // Tried: everything is reached later, nothing is late, and nothing is kept.
        var move = new { tripId = trip, startsAt = "2026-11-24T20:30:00Z" };
        var tried = await Preview(owner, move);
        Assert.Contains("starts Tue Nov 24, 13:30", Word(tried["summary"]));
        var shown = tried["drivers"]![0]!["trips"]!.AsArray().Single(t => Id(t) == trip)!;
        Assert.Equal(["start", null, null], shown["visits"]!.AsArray().Select(v => v!["own"]?.GetValue<string>()));
        Assert.Equal("2026-11-24T20:30:00Z", Word(shown["visits"]![1]!["arrives"]));
        Assert.Empty(tried["late"]!.AsArray());
        Assert.Equal(Times(before), Times(TripIn(await Plan(owner), "Moses Okafor", trip)));

        // Made: the driver is booked from then, so that another trip fits before it.
        var made = (await Make(owner, move)).Ok;
        var sheet = await Trip(owner, trip);
        Assert.Equal("2026-11-24T20:30:00Z", Word(sheet["trip"]!["from"]));
        Assert.Equal("2026-11-24T20:30:00Z", Word(sheet["visits"]![0]!["own"]!["startsAt"]));
        Assert.Equal("Great Falls MT", Word(sheet["visits"]![0]!["town"]));
        Assert.Empty(await Wrong());
        var phone = await Business.As(Role.Driver);
        var mine = (await phone.Get("mine/loads")).Ok.AsArray().Single(l => Id(l) == load)!;
        Assert.Equal("start 2026-11-24T20:30:00Z", $"{mine["tripStops"]![0]!["kind"]} {mine["tripStops"]![0]!["startsAt"]}");

        // Another time replaces it; undone, it is back at the one before, and then there is none.
        var later = (await Make(owner, new { tripId = trip, startsAt = "2026-11-24T22:00:00Z" })).Ok;
        Assert.Equal(3, (await Trip(owner, trip))["visits"]!.AsArray().Count);
        _ = (await owner.Post("plan/moves", new { moves = later["undo"] })).Ok;
        Assert.Equal("2026-11-24T20:30:00Z", Word((await Trip(owner, trip))["trip"]!["from"]));
        _ = (await owner.Post("plan/moves", new { moves = made["undo"] })).Ok;
        Assert.Equal(Times(before), Times(TripIn(await Plan(owner), "Moses Okafor", trip)));
        Assert.Equal(2, (await Trip(owner, trip))["visits"]!.AsArray().Count);

        // Past the window it becomes late, which is said and has to be allowed; a time that has passed is refused.
        var late = await Make(owner, new { tripId = trip, startsAt = "2026-11-25T05:00:00Z" });
        Assert.Equal(("plan.late", "allowLate"), (late.Code, late.Fields.Single()));
        Assert.Contains("Great Falls MT", late.Detail);
        var past = await Make(owner, new { tripId = trip, startsAt = "2026-11-23T10:00:00Z" });
        Assert.Equal(("time.past", "moves[0].startsAt"), (past.Code, past.Fields.Single()));
        Assert.Equal("out.of.range", (await Make(owner, new { tripId = trip, startsAt = "2999-01-01T00:00:00Z" })).Code);
        Assert.Equal(Times(before), Times(TripIn(await Plan(owner), "Moses Okafor", trip)));

        // To another driver and another time at once; then the truck is under way, and its start stays.
        var both = (
            await Make(
                owner,
                new
                {
                    tripId = trip,
                    driverId = Business.Ids["kai"],
                    truckId = Business.Ids["kai truck"],
                    trailerId = Business.Ids["kai trailer"],
                    startsAt = "2026-11-24T18:00:00Z",
                }
            )
        ).Ok;
        Assert.Equal(
            "Kai Voss 2026-11-24T18:00:00Z",
            $"{(await Trip(owner, trip))["trip"]!["driver"]} {(await Trip(owner, trip))["trip"]!["from"]}"
        );
        _ = (await owner.Post("plan/moves", new { moves = both["undo"] })).Ok;
        Assert.Equal("Moses Okafor", Word((await Trip(owner, trip))["trip"]!["driver"]));
        Assert.Equal(2, (await Trip(owner, trip))["visits"]!.AsArray().Count);
        _ = (await owner.Post($"loads/{load}/cancel", new { reason = "test is over" })).Body;
    }

    [Fact]
    public async Task A_trip_starts_and_ends_at_the_yard_and_its_driver_says_when()
    {
        var owner = await Business.As(Role.Owner);
        var load = await Booked(owner, 26, "from", "to", 4, 6_000);
        var trip = await TripOf(owner, load, "moses");
        Task<Answer> Add(string kind, string place, string? startsAt = null) =>
            owner.Post(
                $"trips/{trip}/stops",
                new
                {
                    kind,
                    placeId = Business.Ids[place],
                    startsAt,
                }
            );
        var empty = (await Trip(owner, trip))["emptyMiles"]!.GetValue<double>();

        var start = (await Add("start", "handover", "2026-11-26T12:00:00Z")).Ok;
        _ = (await Add("end", "from")).Ok;
        var sheet = await Trip(owner, trip);
        Assert.Equal(["start", null, null, "end"], sheet["visits"]!.AsArray().Select(v => v!["own"]?["kind"]?.GetValue<string>()));
        Assert.Equal("2026-11-26T12:00:00Z", Word(sheet["trip"]!["from"]));
        // Its miles to the pickup and back are empty ones.
        Assert.True(sheet["emptyMiles"]!.GetValue<double>() > empty + 300);
        Assert.Empty(await Wrong());

        Assert.Equal("stop.twice", (await Add("start", "from")).Code);
        var ids = Ids(sheet);
        var order = await owner.Put($"trips/{trip}/order", new { order = new[] { ids[1], ids[0], ids[2], ids[3] } });
        Assert.Equal("order.start", order.Code);

        // The next load goes between them, and the driver starts the trip with one press.
        var next = await Booked(owner, 26, "from", "to", 3, 4_000);
        _ = (await owner.Post($"loads/{next}/cover/trip", new { tripId = trip, allowLate = true })).Ok;
        var visits = (await Trip(owner, trip))["visits"]!.AsArray();
        Assert.Equal(("start", "end"), (Word(visits[0]!["own"]!["kind"]), Word(visits[^1]!["own"]!["kind"])));
        owner = await At(NodaTime.Instant.FromUtc(2026, 11, 26, 12, 5));
        var phone = await Business.As(Role.Driver);
        _ = (await phone.Post($"mine/trips/{trip}/stops/{start["stopId"]}", new { left = true })).Ok;
        Assert.True((await Trip(owner, trip))["visits"]![0]!["done"]!.GetValue<bool>());
        var moved = await Make(owner, new { tripId = trip, startsAt = "2026-11-26T15:00:00Z" });
        Assert.Equal(("stop.started", "moves[0].startsAt"), (moved.Code, moved.Fields.Single()));
        Assert.Empty(await Wrong());
    }

    [Fact]
    public async Task A_load_is_split_on_the_plan_with_the_next_driver_and_joined_again()
    {
        var owner = await Business.As(Role.Owner);
        var load = await Booked(owner, 28, "from", "to", 8, 12_000);
        var trip = await TripOf(owner, load, "lena");
        var (leg, number) = (await Leg(owner, load), Number(await Sheet(owner, load)));
        var before = await Held(owner, [load]);
        var move = new
        {
            split = In("handover", "2026-11-28T16:00:00", "drop", leg),
            driverId = Business.Ids["kai"],
            truckId = Business.Ids["kai truck"],
            trailerId = Business.Ids["lena trailer"],
        };

        var tried = await Preview(owner, move);
        Assert.Equal(["Kai Voss", "Lena Haugen"], tried["drivers"]!.AsArray().Select(d => Word(d!["name"])).Order());
        Assert.Single(await Legs(owner, load));
        var made = (await Make(owner, move)).Ok;
        Assert.Contains($"{number} split in Missoula MT", Word(made["summary"]));
        Assert.Equal(["Lena Haugen", "Kai Voss"], (await Legs(owner, load)).Select(l => Word(l!["driver"])));
        Assert.Equal(2, (await Legs(owner, load)).Select(l => l!["tripId"]!.GetValue<long>()).Distinct().Count());
        Assert.Empty(await Wrong());

        // Joined: the next driver is free, the first keeps the whole; undone, it is split at the same place with the same driver.
        var transfer = Id((await Transfers(owner, load))[0]);
        var joined = (await Make(owner, new { joinTransferId = transfer })).Ok;
        Assert.Equal(before, await Held(owner, [load]));
        Assert.DoesNotContain(number, Loads(Of(await Plan(owner), "Kai Voss")));
        _ = (await owner.Post("plan/moves", new { moves = joined["undo"] })).Ok;
        Assert.Equal(["Lena Haugen", "Kai Voss"], (await Legs(owner, load)).Select(l => Word(l!["driver"])));
        Assert.Equal("Missoula", Word((await Transfers(owner, load))[0]!["town"]));
        _ = (await Make(owner, new { joinTransferId = Id((await Transfers(owner, load))[0]) })).Ok;

        // The rest can go onto a trip that has other loads, or stay open.
        var other = await Booked(owner, 28, "handover", "to", 3, 4_000);
        var there = await TripOf(owner, other, "kai");
        var onto = await Make(owner, new { split = In("handover", "2026-11-28T16:00:00", "transload", leg), tripId = there });
        Assert.Equal(there, (await Legs(owner, load))[1]!["tripId"]!.GetValue<long>());
        _ = (await owner.Post("plan/moves", new { moves = onto.Ok["undo"] })).Ok;
        Assert.Equal(before, await Held(owner, [load]));
        Assert.Null((await Trip(owner, there))["trip"]!["canceledAt"]);
        _ = (await Make(owner, new { split = In("handover", "2026-11-28T16:00:00", "drop", leg) })).Ok;
        Assert.Null((await Legs(owner, load))[1]!["driverId"]);
        Assert.Contains((await Plan(owner))["open"]!.AsArray(), l => Word(l!["load"]) == number);

        // What cannot be is refused at its field, and changes nothing.
        var rest = Id((await Legs(owner, load))[1]);
        var beyond = await Make(owner, new { split = In("to", "2026-11-29T16:00:00", "drop", rest) });
        Assert.Equal(("same", "moves[0].split.placeId"), (beyond.Code, beyond.Fields.Single()));
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await Make(owner, new { joinTransferId = 999_999L })).Status);
        Assert.Equal(2, (await Legs(owner, load)).Count);
        Assert.Empty(await Wrong());
    }

    [Fact]
    public async Task Two_drivers_swap_trailers_where_they_meet_and_undoing_gives_each_load_back_whole()
    {
        var owner = await Business.As(Role.Owner);
        var (there, back) = (await Booked(owner, 25, "from", "to", 8, 12_000), await Booked(owner, 25, "to", "from", 9, 13_000));
        _ = (await TripOf(owner, there, "kai"), await TripOf(owner, back, "lena"));
        var before = await Held(owner, [there, back]);
        var split = JsonNode.Parse(
            System.Text.Json.JsonSerializer.Serialize(In("handover", "2026-11-25T20:00:00", "swap", await Leg(owner, there)))
        )!;
        split["swapWithLoadId"] = back;

        var relay = (await Make(owner, new { split })).Ok;
        Assert.Equal(["Kai Voss", "Lena Haugen"], (await Legs(owner, there)).Select(l => Word(l!["driver"])));
        Assert.Equal(["Lena Haugen", "Kai Voss"], (await Legs(owner, back)).Select(l => Word(l!["driver"])));
        // Each load stays in its trailer.
        foreach (var load in new[] { there, back })
        {
            Assert.Single((await Legs(owner, load)).Select(l => l!["trailerId"]!.GetValue<long>()).Distinct());
        }

        Assert.Empty(await Wrong());
        _ = (await owner.Post("plan/moves", new { moves = relay["undo"], allowLate = true })).Ok;
        Assert.Equal(before, await Held(owner, [there, back]));
        Assert.Empty(await Wrong());
    }
}
