using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>What the tests of trips that carry several loads ask.</summary>
public abstract class SharedTripTest(TestBusiness business) : SplitTest(business)
{
    /// <summary>A load of some pallets on a day of November, with wide windows.</summary>
    protected async Task<long> Booked(
        Caller owner,
        int day,
        string from,
        string to,
        int pallets,
        int pounds,
        decimal haul = 600m,
        int? temperature = 34,
        int until = 20
    )
    {
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(Business.Order(day - 23, $"PO {from} {to} {pallets}", haul)))!;
        foreach (var (place, i) in new[] { from, to }.Select((p, i) => (p, i)))
        {
            order["stops"]![i]!["placeId"] = Business.Ids[place];
            order["stops"]![i]!["from"] = $"2026-11-{day + i}T06:00:00";
            order["stops"]![i]!["until"] = $"2026-11-{day + i}T{(i == 0 ? 20 : until):00}:00:00";
        }

        order["freight"]![0]!["pallets"] = pallets;
        order["freight"]![0]!["weightLb"] = pounds;
        order["freight"]![0]!["temperatureF"] = temperature;
        return (await owner.Post("loads", order)).Id;
    }

    protected async Task<long> TripOf(Caller owner, long load, string driver)
    {
        _ = (await owner.Post($"loads/{load}/cover/driver", Business.Crew(driver))).Ok;
        return (await Sheet(owner, load))["load"]!["tripId"]!.GetValue<long>();
    }

    protected static async Task<JsonNode> Trip(Caller owner, long trip) => (await owner.Get($"trips/{trip}")).Ok;

    protected static string[] Order(JsonNode trip) => trip["visits"]!.AsArray().Select(v => $"{v!["load"]} {v["town"]}").ToArray();

    protected static long[] Ids(JsonNode trip) => trip["visits"]!.AsArray().Select(v => v!["id"]!.GetValue<long>()).ToArray();

    protected static string Number(JsonNode sheet) => Word(sheet["load"]!["number"]);

    protected static int Sum(JsonArray legs, string field) => legs.Sum(l => l![field]!.GetValue<int>());

    /// <summary>The loaded miles that a trip's legs count together.</summary>
    protected async Task<int> Shared(long trip)
    {
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        return await db.One<int>("select sum(truck_miles)::int from legs where trip_id = @trip", ("trip", trip));
    }

    /// <summary>What is wrong with the parts of the trips' legs and with their visits; empty when nothing is.</summary>
    protected async Task<List<string>> Wrong()
    {
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        return await db.Rows(
            """
            select 'leg ' || g.id || ' has no cost' as what from legs g where g.trip_id is not null and g.expected_cost is null
            union all select 'trip ' || t.number || ' has a leg and is canceled' from trips t join legs g on g.trip_id = t.id where t.canceled_at is not null
            union all select 'trip ' || t.number || ' has no leg' from trips t where t.canceled_at is null and not exists (select 1 from legs g where g.trip_id = t.id)
            union all select 'the crew of trip ' || t.number || ' is not its drivers' from trips t
                where array(select array[c.driver_id::text, c.share::text, c.scheduled::text, c.started_at::text, c.ended_at::text, c.canceled_at::text]
                        from trip_crew c where c.trip_id = t.id order by c.seat)
                    is distinct from array(select array[x.driver::text, x.share::numeric(5, 2)::text, t.scheduled::text, t.started_at::text, t.ended_at::text, t.canceled_at::text]
                        from (values (1, t.driver_id, 100 - coalesce(t.codriver_share, 0)), (2, t.codriver_id, t.codriver_share)) x (seat, driver, share)
                        where x.driver is not null order by x.seat)
            union all select 'leg ' || g.id || ' pays a co-driver it does not have, or none' from legs g join trips t on t.id = g.trip_id
                where (g.codriver_pay is null) <> (t.codriver_id is null)
            union all select 'trip ' || t.number || ' visits ' || v.n || ' of ' || s.n
                from trips t
                cross join lateral (select count(*) as legs from legs g where g.trip_id = t.id) g
                cross join lateral (select count(*) as n from trip_visits v where v.trip_id = t.id) v
                cross join lateral (select count(*) as n from trip_stops o where o.trip_id = t.id and not o.skipped) o
                cross join lateral (select coalesce(sum((select count(*) from stops s where s.load_id = g.load_id and s.seq > le.first_after and s.seq <= le.last_after)
                    + (le.begins_id is not null)::int + (le.ends_id is not null)::int), 0) as n
                    from legs g join leg_ends le on le.leg_id = g.id where g.trip_id = t.id) s
                where t.canceled_at is null and v.n <> case when g.legs > 1 or o.n > 0 then s.n + o.n else 0 end
            """,
            r => r.Text("what")
        );
    }
}

public sealed class SharedTrips(TestBusiness business) : SharedTripTest(business)
{
    [Fact]
    public async Task Two_customers_loads_ride_on_one_truck_and_each_has_its_part_of_the_trip()
    {
        var owner = await Business.As(Core.People.Role.Owner);
        var whole = await Booked(owner, 24, "from", "to", 8, 12_000, 900m);
        var trip = await TripOf(owner, whole, "lena");
        var part = await Booked(owner, 24, "from", "handover", 6, 9_000, 400m);
        var alone = (await Legs(owner, whole))[0]!;

        // Both ends find each other: the loads for a trip, and the trips for a load.
        var offer = (await owner.Get($"trips/{trip}/loads")).Ok.AsArray().Single(o => o!["loadId"]!.GetValue<long>() == part)!;
        Assert.Empty(offer["late"]!.AsArray());
        Assert.Equal(trip, (await owner.Get($"loads/{part}/trips")).Ok.AsArray().Single()!["tripId"]!.GetValue<long>());
        Assert.True(Amount(offer["adds"]) is > 0 and < 598.09m);
        var added = (await owner.Post($"loads/{part}/cover/trip", new { tripId = trip })).Ok;
        Assert.Equal("covered", Word(added["state"]));

        var sheet = await Trip(owner, trip);
        var (a, b) = (Number(await Sheet(owner, whole)), Number(await Sheet(owner, part)));
        Assert.Equal([$"{a} Great Falls MT", $"{b} Great Falls MT", $"{b} Missoula MT", $"{a} Spokane WA"], Order(sheet));
        Assert.Equal([12_000, 21_000, 12_000, 0], sheet["visits"]!.AsArray().Select(v => v!["after"]!["weightLb"]!.GetValue<int>()));
        Assert.Equal(
            offer["addedMiles"]!.GetValue<int>(),
            (int)Math.Round(sheet["loadedMiles"]!.GetValue<double>() - alone["miles"]!.GetValue<int>())
        );

        // The legs' parts add up to the trip, in miles and in money.
        var legs = new JsonArray((await Legs(owner, whole))[0]!.DeepClone(), (await Legs(owner, part))[0]!.DeepClone());
        Assert.Equal((int)Math.Round(sheet["loadedMiles"]!.GetValue<double>()), await Shared(trip));
        Assert.Equal(
            Amount(sheet["cost"]),
            legs.Sum(l => new[] { "driver", "payrollTax", "fuel", "tolls", "truck", "other" }.Sum(p => Amount(l!["cost"]![p])))
        );
        Assert.Equal(Amount(sheet["revenue"]) - Amount(sheet["cost"]), Amount(sheet["margin"]!["amount"]));

        // The board expects the same as the trip.
        var board = (await owner.Get("loads?view=moving&limit=500")).Ok["rows"]!
            .AsArray()
            .Single(l => l!["load"]!["id"]!.GetValue<long>() == whole)!;
        Assert.Equal(Word(sheet["visits"]![3]!["arrives"]), Word(board["visits"]![1]!["arrives"]));
        Assert.Empty(await Wrong());

        // One of them is taken off: the other continues as before.
        Assert.Contains("continues with", Word((await owner.Get($"loads/{part}/choices")).Ok["undoes"]![0]), StringComparison.Ordinal);
        _ = (await owner.Post($"loads/{part}/unassign", new { })).Ok;
        Assert.Equal([$"{a} Great Falls MT", $"{a} Spokane WA"], Order(await Trip(owner, trip)));
        Assert.Equal(alone["cost"]!.ToJsonString(), (await Legs(owner, whole))[0]!["cost"]!.ToJsonString());
        Assert.NotNull(await ToCover(owner, part));
        Assert.Empty(await Wrong());
        _ = (await owner.Post($"trips/{trip}/dissolve")).Ok;
        Assert.NotNull(await ToCover(owner, whole));
        Assert.Equal("This trip", (await owner.Post($"trips/{trip}/dissolve")).Body!["detail"]?.GetValue<string>()?[..9] ?? "This trip");
    }

    [Fact]
    public async Task The_trip_is_driven_visit_by_visit_and_the_driver_is_paid_its_miles_once()
    {
        var owner = await Business.As(Core.People.Role.Owner);
        var first = await Booked(owner, 24, "from", "to", 8, 12_000);
        var trip = await TripOf(owner, first, "kai");
        var second = await Booked(owner, 24, "from", "handover", 6, 9_000);
        _ = (await owner.Post($"loads/{second}/cover/trip", new { tripId = trip })).Ok;
        var visits = (await Trip(owner, trip))["visits"]!.AsArray();
        var at = Instant.FromUtc(2026, 11, 24, 14, 0);
        var caller = owner;
        // The driver delivers in another order than planned.
        int[] driven = [0, 1, 3, 2];
        foreach (var (visit, i) in driven.Select((n, i) => (visits[n]!, i)))
        {
            var (load, stop) = (visit["loadId"]!.GetValue<long>(), visit["id"]!.GetValue<long>());
            caller = await At(at + Duration.FromHours(1));
            var pickup = Word(visit["kind"]) == "pickup";
            _ = (await Stop(caller, load, stop, "arrived", InstantPattern.General.Format(at))).Ok;
            _ = (
                await Stop(caller, load, stop, pickup ? "left" : "delivered", InstantPattern.General.Format(at + Duration.FromMinutes(40)))
            ).Ok;
            at += Duration.FromHours(i == 0 ? 1 : 6);
            var now = await Trip(caller, trip);
            Assert.Equal(i + 1, now["visits"]!.AsArray().Count(v => v!["reached"]!.GetValue<bool>()));
            Assert.Equal(i == visits.Count - 1, now["trip"]!["endedAt"] is not null);
            Assert.Equal((int)Math.Round(now["loadedMiles"]!.GetValue<double>()), await Shared(trip));
        }

        // Where a visit was reached it stays.
        var ids = Ids(await Trip(caller, trip));
        Assert.Equal("order.reached", (await caller.Put($"trips/{trip}/order", new { order = ids.Reverse(), was = ids })).Code);
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        var week = (await caller.Get("settlements?monday=2026-11-23"))
            .Ok.AsArray()
            .Single(w => w!["driverId"]!.GetValue<long>() == Business.Ids["kai"])!;
        Assert.Equal(
            await Shared(trip),
            week["lines"]!.AsArray().Where(l => l!["kind"]?.GetValue<string>() == "per_mile").Sum(l => l!["quantity"]!.GetValue<decimal>())
        );
        Assert.Empty(await Disagreements(db));
        Assert.Empty(await Wrong());
    }

    [Fact]
    public async Task What_cannot_ride_together_or_be_reached_in_time_is_refused_in_words()
    {
        var owner = await Business.As(Core.People.Role.Owner);
        var first = await Booked(owner, 27, "from", "to", 12, 22_000);
        var trip = await TripOf(owner, first, "moses");
        var shared = Word((await Trip(owner, trip))["trip"]!["number"]);
        async Task<string?> Refused(long load, object? more = null) =>
            (await owner.Post($"loads/{load}/cover/trip", more ?? new { tripId = trip })).Detail;

        // Frozen freight rides before or after chilled, and would be late then.
        var frozen = await Booked(owner, 27, "from", "to", 4, 5_000, temperature: -10);
        var said = await Refused(frozen);
        Assert.Contains("-10 °F", said, StringComparison.Ordinal);
        Assert.Contains(": a trailer has one temperature.", said, StringComparison.Ordinal);
        Assert.Contains("late: ", said, StringComparison.Ordinal);
        Assert.DoesNotContain((await owner.Get($"loads/{frozen}/trips")).Ok.AsArray(), o => o!["tripId"]!.GetValue<long>() == trip);

        var heavy = await Booked(owner, 27, "from", "to", 10, 22_000);
        Assert.Contains(
            $"lb more than trailer {(await Trip(owner, trip))["trip"]!["trailer"]} may carry",
            await Refused(heavy),
            StringComparison.Ordinal
        );
        Assert.Equal("Choose a trip.", await Refused(heavy, new { }));
        Assert.Equal("Choose a trip.", await Refused(heavy, new { tripId = 987_654 }));

        var small = await Booked(owner, 27, "from", "handover", 2, 3_000, until: 9);
        _ = (await owner.Post($"loads/{small}/cover/trip", new { tripId = trip })).Ok;
        Assert.StartsWith("This load is assigned to M. Okafor", await Refused(small), StringComparison.Ordinal);

        // The driver sees one trip in its order, accepts it once, and again when a load was added.
        var driver = await Business.As(Core.People.Role.Driver);
        _ = (await driver.Post($"mine/loads/{small}/accept")).Ok;
        Assert.Equal("trip.accepted", (await driver.Post($"mine/loads/{first}/accept")).Code);
        var mine = (await driver.Get("mine/loads")).Ok.AsArray();
        Assert.Equal([1, 2, 3, 4], mine.SelectMany(l => l!["stops"]!.AsArray()).Select(s => s!["visit"]!.GetValue<int>()).Order());
        var tiny = await Booked(owner, 27, "from", "handover", 1, 900, until: 9);
        _ = (await owner.Post($"loads/{tiny}/cover/trip", new { tripId = trip })).Ok;
        Assert.All((await driver.Get("mine/loads")).Ok.AsArray(), l => Assert.Null(l!["acceptedAt"]));
        _ = (await owner.Post($"loads/{tiny}/unassign", new { })).Ok;

        // Another order: shown before it is made, refused when it cannot be, and never over somebody else's.
        var ids = Ids(await Trip(owner, trip));
        long[] other = [ids[1], ids[0], ids[3], ids[2]];
        var preview = (await owner.Post($"trips/{trip}/preview", new { order = other })).Ok;
        Assert.True(preview["addedMiles"]!.GetValue<int>() > 100);
        Assert.Equal(other, Ids(preview["sheet"]!));
        Assert.Equal(ids, Ids(await Trip(owner, trip)));
        Assert.Equal(
            "order.load",
            (await owner.Put($"trips/{trip}/order", new { order = new[] { ids[2], ids[0], ids[1], ids[3] }, was = ids })).Code
        );
        Assert.Equal("order.visits", (await owner.Put($"trips/{trip}/order", new { order = ids[1..], was = ids })).Code);
        var late = await owner.Put($"trips/{trip}/order", new { order = other, was = ids });
        Assert.Equal("trip.late", late.Code);
        Assert.StartsWith("Missoula MT, load ", late.Detail, StringComparison.Ordinal);
        var moved = (
            await owner.Put(
                $"trips/{trip}/order",
                new
                {
                    order = other,
                    was = ids,
                    allowLate = true,
                }
            )
        ).Ok;
        Assert.Contains($"Trip {shared} goes Great Falls MT", Word(moved["summary"]), StringComparison.Ordinal);
        Assert.Equal(other, Ids(await Trip(owner, trip)));
        Assert.Equal(
            "order.changed",
            (
                await owner.Put(
                    $"trips/{trip}/order",
                    new
                    {
                        order = ids,
                        was = ids,
                        allowLate = true,
                    }
                )
            ).Code
        );
        Assert.Empty(await Wrong());
    }
}

/// <summary>What goes wrong on a truck that carries several loads concerns the load it happens to.</summary>
public sealed class SharedTripTroubles(TestBusiness business) : SharedTripTest(business)
{
    [Fact]
    public async Task One_load_is_handed_over_or_refused_and_the_others_continue()
    {
        var owner = await Business.As(Core.People.Role.Owner);
        var (far, near) = (await Booked(owner, 24, "from", "to", 8, 12_000), await Booked(owner, 24, "from", "handover", 6, 9_000));
        var trip = await TripOf(owner, far, "lena");
        _ = (await owner.Post($"loads/{near}/cover/trip", new { tripId = trip })).Ok;
        var visits = (await Trip(owner, trip))["visits"]!.AsArray();
        long Visit(int i) => visits[i]!["id"]!.GetValue<long>();
        var at = Instant.FromUtc(2026, 11, 24, 14, 0);
        var caller = await At(at + Duration.FromHours(3));
        foreach (var (load, stop, hour) in new[] { (far, Visit(0), 0), (near, Visit(1), 1) })
        {
            _ = (await Stop(caller, load, stop, "arrived", InstantPattern.General.Format(at + Duration.FromHours(hour)))).Ok;
            _ = (await Stop(caller, load, stop, "left", InstantPattern.General.Format(at + Duration.FromMinutes((hour * 60) + 40)))).Ok;
        }

        // The far load changes trucks on the way: its new driver has it, and Lena's trip is the near load alone.
        var hand = new
        {
            placeId = Business.Ids["handover"],
            driverId = Business.Ids["moses"],
            truckId = Business.Ids["moses truck"],
            trailerId = Business.Ids["moses trailer"],
            at = InstantPattern.General.Format(at + Duration.FromHours(3)),
        };
        _ = (await caller.Post($"loads/{far}/handover", hand)).Ok;
        Assert.Equal(["Lena Haugen", "Moses Okafor"], (await Legs(caller, far)).Select(l => Word(l!["driver"])));
        Assert.Null((await Trip(caller, trip))["trip"]!["endedAt"]);
        Assert.Empty(await Wrong());
        _ = (await caller.Post($"loads/{far}/handover/undo")).Ok;
        Assert.Equal(4, (await Trip(caller, trip))["visits"]!.AsArray().Count);
        Assert.Empty(await Wrong());

        // The near load is refused: where it goes instead is visited last, and the truck is booked until then.
        caller = await At(at + Duration.FromHours(26));
        _ = (await Stop(caller, near, Visit(2), "arrived", InstantPattern.General.Format(at + Duration.FromHours(25)))).Ok;
        _ = (
            await caller.Post(
                $"loads/{near}/reports",
                new
                {
                    kind = "refused",
                    note = "not ordered",
                    stopId = Visit(2),
                }
            )
        ).Ok;
        var booked = Word((await Trip(caller, trip))["trip"]!["until"]);
        _ = (
            await caller.Post(
                $"loads/{near}/stops",
                new
                {
                    kind = "delivery",
                    placeId = Business.Ids["from"],
                    from = "2026-11-26T08:00:00",
                    until = "2026-11-26T20:00:00",
                }
            )
        ).Ok;
        var after = await Trip(caller, trip);
        Assert.Equal(5, after["visits"]!.AsArray().Count);
        Assert.True(string.CompareOrdinal(Word(after["trip"]!["until"]), booked) > 0);
        Assert.Empty(await Wrong());
        await InOrder();
    }

    [Fact]
    public async Task A_load_that_is_canceled_leaves_its_trip_and_a_load_on_board_does_not()
    {
        var owner = await Business.As(Core.People.Role.Owner);
        var (stays, goes) = (await Booked(owner, 27, "from", "to", 8, 12_000), await Booked(owner, 27, "from", "handover", 6, 9_000));
        var trip = await TripOf(owner, stays, "kai");
        _ = (await owner.Post($"loads/{goes}/cover/trip", new { tripId = trip })).Ok;
        var preview = (await owner.Post($"loads/{goes}/cancel", new { why = "plant closed" })).Ok;
        Assert.NotNull(preview);
        Assert.Equal(2, (await Trip(owner, trip))["visits"]!.AsArray().Count);
        var other = await Booked(owner, 27, "from", "handover", 5, 7_000);
        _ = (await owner.Post($"loads/{other}/cover/trip", new { tripId = trip })).Ok;
        var first = Ids(await Trip(owner, trip))[0];
        var owned = (await Trip(owner, trip))["visits"]![0]!["loadId"]!.GetValue<long>();
        var caller = await At(Instant.FromUtc(2026, 11, 27, 15, 0));
        _ = (await Stop(caller, owned, first, "arrived", "2026-11-27T14:00:00Z")).Ok;
        _ = (await Stop(caller, owned, first, "left", "2026-11-27T14:40:00Z")).Ok;
        Assert.Equal(422, (int)(await caller.Post($"trips/{trip}/dissolve")).Status);
        Assert.Equal(4, (await Trip(caller, trip))["visits"]!.AsArray().Count);
        Assert.Empty(await Wrong());
    }
}

/// <summary>Loads added to trips, taken off, reordered, split and joined at random: what must hold after each step.</summary>
public sealed class SharedTripsAtRandom(TestBusiness business) : SharedTripTest(business)
{
    [Fact]
    public async Task Whatever_is_done_with_trips_their_legs_visits_and_miles_agree()
    {
        var owner = await Business.As(Core.People.Role.Owner);
        var random = new Random(7);
        var loads = new List<long>();
        foreach (var (to, i) in new[] { "to", "handover", "to", "handover", "to", "to" }.Select((t, i) => (t, i)))
        {
            loads.Add(await Booked(owner, 24 + (i % 2), "from", to, 2 + i, 3_000 + (i * 1_000)));
        }

        string[] drivers = ["lena", "kai"];
        var (done, refused) = (0, 0);
        for (var step = 0; step < 90; step++)
        {
            var load = loads[random.Next(loads.Count)];
            var sheet = await Sheet(owner, load);
            var trip = sheet["load"]!["tripId"]?.GetValue<long>();
            var answer = (random.Next(6), trip) switch
            {
                (0 or 1 or 2, null) => await Add(load),
                (_, null) => await owner.Post($"loads/{load}/cover/driver", Business.Crew(drivers[random.Next(2)])),
                (0, _) => await owner.Post($"loads/{load}/unassign", new { }),
                (1, _) when step % 20 == 0 => await owner.Post($"trips/{trip}/dissolve"),
                (2, _) when sheet["legs"]!.AsArray().Count == 1 => await owner.Post(
                    $"loads/{load}/split",
                    In("handover", "2026-11-25T04:00:00", "transload")
                ),
                (3, _) when sheet["load"]!["transfers"]!.AsArray() is { Count: 1 } t => await owner.Post(
                    $"loads/{load}/transfers/{Id(t[0])}/join"
                ),
                _ => await Reorder(trip!.Value),
            };
            Assert.True((int)answer.Status is < 300 or 422 or 409, $"{answer.Status} {answer.Body}");
            (done, refused) = (int)answer.Status < 300 ? (done + 1, refused) : (done, refused + 1);
            Assert.Empty(await Wrong());
            await Agree();
        }

        Assert.True(done > 30 && refused > 0, $"{done} done, {refused} refused");
        await InOrder();

        async Task<Answer> Add(long load)
        {
            var offers = (await owner.Get($"loads/{load}/trips")).Body as JsonArray ?? [];
            return offers.Count == 0
                ? await owner.Post($"loads/{load}/cover/driver", Business.Crew(drivers[random.Next(2)]))
                : await owner.Post(
                    $"loads/{load}/cover/trip",
                    new { tripId = offers[random.Next(offers.Count)]!["tripId"]!.GetValue<long>(), allowLate = random.Next(2) == 0 }
                );
        }

        async Task<Answer> Reorder(long trip)
        {
            var ids = Ids(await Trip(owner, trip));
            return await owner.Put(
                $"trips/{trip}/order",
                new
                {
                    order = ids.OrderBy(_ => random.Next()),
                    was = ids,
                    allowLate = true,
                }
            );
        }

        // Loaded miles of every trip are those of its legs, and nothing is booked twice.
        async Task Agree()
        {
            await using var db = await Business.Db.Source.OpenConnectionAsync();
            foreach (
                var (trip, miles) in await db.Rows(
                    "select trip_id, sum(truck_miles)::int as miles from legs where trip_id is not null group by trip_id",
                    r => (r.Long("trip_id"), r.Int("miles"))
                )
            )
            {
                var sheet = await Trip(owner, trip);
                Assert.Equal(new Core.Places.Drive(sheet["loadedMiles"]!.GetValue<double>(), 0).WholeMiles, miles, 1.0);
                Assert.Equal(sheet["visits"]!.AsArray().Count, Ids(sheet).Distinct().Count());
                Assert.Equal(0, sheet["visits"]!.AsArray()[^1]!["after"]!["weightLb"]!.GetValue<int>());
            }
        }
    }
}
