using System.Text.Json.Nodes;
using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>What the tests of the plan ask.</summary>
public abstract class PlanTest(TestBusiness business) : SharedTripTest(business)
{
    protected static Task<Answer> Make(Caller caller, params object[] moves) => caller.Post("plan/moves", new { moves });

    protected static async Task<JsonNode> Preview(Caller caller, params object[] moves) =>
        (await caller.Post("plan/preview", new { moves })).Ok;

    protected static async Task<JsonNode> Plan(Caller caller, string from = "2026-11-23", int days = 14) =>
        (await caller.Get($"plan?from={from}&days={days}")).Ok;

    protected static JsonNode Of(JsonNode plan, string driver) => plan["drivers"]!.AsArray().Single(d => Word(d!["name"]) == driver)!;

    protected static string[] Loads(JsonNode driver) =>
        driver["trips"]!.AsArray().SelectMany(t => t!["visits"]!.AsArray()).Select(v => Word(v!["load"])).Distinct().ToArray();

    protected static async Task<long> Leg(Caller owner, long load) => Id((await Legs(owner, load))[0]);

    /// <summary>Who has each load.</summary>
    protected static async Task<string> Held(Caller owner, IEnumerable<long> loads)
    {
        var who = new List<string>();
        foreach (var load in loads)
        {
            who.Add(string.Join('+', (await Legs(owner, load)).Select(l => $"{l!["driver"]} {l["truck"]} {l["trailer"]}")));
        }

        return string.Join(", ", who);
    }
}

/// <summary>The planning page: loads to drivers, trips to other drivers, and what a change does before it is made.</summary>
public sealed class Plans(TestBusiness business) : PlanTest(business)
{
    [Fact]
    public async Task A_load_is_tried_on_a_driver_assigned_and_undone()
    {
        var owner = await Business.As(Role.Owner);
        var load = await Booked(owner, 24, "from", "to", 6, 9_000);
        var (leg, number) = (await Leg(owner, load), Number(await Sheet(owner, load)));
        var open = (await Plan(owner))["open"]!.AsArray().Single(l => Word(l!["load"]) == number)!;
        Assert.Equal("Great Falls MT to Spokane WA", Word(open["lane"]));
        Assert.Equal(leg, open["legId"]!.GetValue<long>());
        var move = new
        {
            legIds = new[] { leg },
            driverId = Business.Ids["moses"],
            truckId = Business.Ids["moses truck"],
            trailerId = Business.Ids["moses trailer"],
        };

        // Tried: the driver's plan as it would be, and nothing is kept.
        var tried = await Preview(owner, move);
        Assert.Equal([number], Loads(tried["drivers"]![0]!));
        Assert.Contains($"{number} assigned to Moses Okafor", Word(tried["summary"]));
        Assert.Empty(tried["late"]!.AsArray());
        Assert.Equal("booked", Word((await Sheet(owner, load))["load"]!["state"]));
        Assert.Empty(Loads(Of(await Plan(owner), "Moses Okafor")));

        // Made: as it was shown.
        var made = (await Make(owner, move)).Ok;
        var after = await Plan(owner);
        var moses = Of(after, "Moses Okafor");
        Assert.Equal(tried["drivers"]![0]!["trips"]![0]!["visits"]!.ToJsonString(), moses["trips"]![0]!["visits"]!.ToJsonString());
        Assert.Equal("Spokane WA", Word(moses["freeTown"]));
        Assert.DoesNotContain(after["open"]!.AsArray(), l => Word(l!["load"]) == number);

        // Undone, by the moves of the answer.
        _ = (await owner.Post("plan/moves", new { moves = made["undo"] })).Ok;
        Assert.Equal("booked", Word((await Sheet(owner, load))["load"]!["state"]));
        Assert.Empty(await Wrong());
        _ = (await owner.Post($"loads/{load}/cancel", new { reason = "test is over" })).Body;
    }

    [Fact]
    public async Task Trips_go_to_other_drivers_two_swap_and_what_cannot_be_is_refused_in_words()
    {
        var owner = await Business.As(Role.Owner);
        var (a, b) = (await Booked(owner, 25, "from", "to", 6, 9_000), await Booked(owner, 25, "from", "to", 7, 9_900));
        var (tripA, tripB) = (await TripOf(owner, a, "moses"), await TripOf(owner, b, "lena"));
        var before = await Held(owner, [a, b]);
        long moses = Business.Ids["moses"],
            lena = Business.Ids["lena"];
        var phone = await Business.As(Role.Driver);
        Assert.Single((await phone.Get("mine/loads")).Ok.AsArray(), l => l!["id"]!.GetValue<long>() == a);

        // A driver has one trip at a time.
        var busy = await Make(owner, new { tripId = tripA, driverId = lena });
        Assert.Equal("driver.busy", busy.Code);
        Assert.Matches(@"^L. Haugen is assigned to load \d+ \(trip \d+\) from .* to .*\. Choose another driver\.", busy.Detail);

        // Two trips swap drivers and trucks in one step; both have to be accepted again.
        object[] swap =
        [
            new
            {
                tripId = tripA,
                driverId = lena,
                wasDriverId = moses,
            },
            new
            {
                tripId = tripB,
                driverId = moses,
                wasDriverId = lena,
            },
        ];
        Assert.Equal(2, (await Preview(owner, swap))["drivers"]!.AsArray().Count);
        var made = (await Make(owner, swap)).Ok;
        Assert.Equal(
            ["Lena Haugen", "Moses Okafor"],
            [Word((await Legs(owner, a))[0]!["driver"]), Word((await Legs(owner, b))[0]!["driver"])]
        );
        Assert.Single((await phone.Get("mine/loads")).Ok.AsArray(), l => l!["id"]!.GetValue<long>() == b);
        Assert.DoesNotContain((await phone.Get("mine/loads")).Ok.AsArray(), l => l!["id"]!.GetValue<long>() == a);
        Assert.Empty(await Wrong());

        // Another dispatcher still sees the old drivers.
        var late = await Make(
            owner,
            new
            {
                tripId = tripA,
                driverId = Business.Ids["kai"],
                wasDriverId = moses,
            }
        );
        Assert.Equal("plan.changed", late.Code);
        Assert.Contains("Lena Haugen: look at the plan again", late.Detail);
        _ = (await owner.Post("plan/moves", new { moves = made["undo"] })).Ok;
        Assert.Equal(before, await Held(owner, [a, b]));

        // What is named has to make sense, and all of it is made or nothing.
        Assert.Equal("plan.moves", (await owner.Post("plan/moves", new { moves = Array.Empty<object>() })).Code);
        Assert.Equal("plan.move", (await Make(owner, new { driverId = moses })).Code);
        var half = await Make(owner, new { tripId = tripA, driverId = Business.Ids["kai"] }, new { tripId = 999_999L });
        Assert.False((int)half.Status < 300);
        Assert.Equal(before, await Held(owner, [a, b]));

        // A reefer load needs a reefer.
        var van = await Make(
            owner,
            new
            {
                tripId = tripA,
                driverId = Business.Ids["kai"],
                trailerId = Business.Ids["van"],
            }
        );
        Assert.Equal("trailer.equipment", van.Code);

        // Unassigned on the plan, and back.
        var gone = (await Make(owner, new { tripId = tripB })).Ok;
        Assert.Equal("booked", Word((await Sheet(owner, b))["load"]!["state"]));
        _ = (await owner.Post("plan/moves", new { moves = gone["undo"] })).Ok;
        Assert.Equal(before, await Held(owner, [a, b]));

        // Under way, a trip is handed over instead.
        var caller = await At(Instant.FromUtc(2026, 11, 25, 16, 0));
        var stops = (await Sheet(caller, a))["load"]!["stops"]!.AsArray();
        _ = (await Stop(caller, a, Id(stops[0]), "arrived", "2026-11-25T15:30:00Z")).Ok;
        var started = await Make(caller, new { tripId = tripA, driverId = Business.Ids["kai"] });
        Assert.Equal("trip.started", started.Code);
        Assert.Contains("hand its loads over", started.Detail);
    }

    [Fact]
    public async Task Time_off_and_home_by_are_kept()
    {
        var owner = await Business.As(Role.Owner);
        var kai = Business.Ids["kai"];
        var off = (
            await owner.Post(
                $"drivers/{kai}/time-off",
                new
                {
                    from = "2026-12-01T07:00:00Z",
                    until = "2026-12-05T13:00:00Z",
                    note = "vacation",
                }
            )
        ).Ok;

        // Entered in words that name the field.
        var again = await owner.Post($"drivers/{kai}/time-off", new { from = "2026-12-04T00:00:00Z", until = "2026-12-06T00:00:00Z" });
        Assert.Equal("off.already", again.Code);
        Assert.Equal(["from"], again.Fields);
        Assert.Equal(
            "order",
            (await owner.Post($"drivers/{kai}/time-off", new { from = "2026-12-09T00:00:00Z", until = "2026-12-08T00:00:00Z" })).Code
        );
        Assert.Equal("missing", (await owner.Post($"drivers/{kai}/time-off", new { from = "2026-12-09T00:00:00Z" })).Code);
        await using (var db = await Business.Db.Source.OpenConnectionAsync())
        {
            var twice = await Assert.ThrowsAsync<PostgresException>(() =>
                db.Run("insert into time_off (driver_id, off) values (@driver, tstzrange('2026-12-04', '2026-12-06'))", ("driver", kai))
            );
            Assert.Equal("driver_off_once", twice.ConstraintName);
        }

        // Nobody is assigned over it, neither on the plan nor on Cover, where the driver is offered with the reason.
        var load = await Booked(owner, 29, "from", "to", 5, 8_000);
        var leg = await Leg(owner, load);
        await using (var db = await Business.Db.Source.OpenConnectionAsync())
        {
            await db.Run(
                "update stops set from_at = from_at + interval '3 days', until_at = until_at + interval '3 days' where load_id = @load",
                ("load", load)
            );
        }

        var crew = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(Business.Crew("kai")))!;
        crew["legIds"] = new JsonArray(leg);
        var refused = await Make(owner, crew);
        Assert.Equal("driver.off", refused.Code);
        Assert.Equal(
            "Kai Voss is off from Tue Dec 1, 00:00 to Sat Dec 5, 06:00. Choose another driver, or change the time off.",
            refused.Detail
        );
        Assert.Equal("driver.off", (await owner.Post($"loads/{load}/cover/driver", Business.Crew("kai"))).Code);
        var offer = (await owner.Get($"loads/{load}/choices")).Ok["drivers"]!
            .AsArray()
            .Single(d => d!["driverId"]!.GetValue<long>() == kai)!;
        Assert.Equal("off until Sat Dec 5, 06:00", Word(offer["blocked"]));

        // Time off entered over a trip: it stays, and the plan says so.
        await using (var db = await Business.Db.Source.OpenConnectionAsync())
        {
            await db.Run(
                "insert into towns (name, region, country, latitude, longitude, zone, population) values ('Missoula', 'MT', 'US', 46.8721, -113.994, 'America/Denver', 70000)"
            );
        }

        var removed = (await owner.Post($"drivers/{kai}/time-off/{off["id"]}/remove")).Ok;
        Assert.Equal("vacation", Word(removed["note"]));
        _ = (await owner.Post($"loads/{load}/cover/driver", Business.Crew("kai"))).Ok;
        _ = (await owner.Post($"drivers/{kai}/time-off", new { from = "2026-12-01T07:00:00Z", until = "2026-12-05T13:00:00Z" })).Ok;
        _ = (await owner.Put($"drivers/{kai}/home-by", new { at = "2026-12-02T00:00:00Z" })).Ok;
        var planned = Of(await Plan(owner), "Kai Voss");
        var warnings = planned["warnings"]!.AsArray().Select(Word).ToList();
        Assert.Contains(warnings, w =>
            w.StartsWith("Kai Voss is off from Tue Dec 1, 00:00 to Sat Dec 5, 06:00, and trip ", StringComparison.Ordinal)
        );
        Assert.Contains(warnings, w =>
            w.StartsWith("Kai Voss is to be home by Tue Dec 1, 17:00 and gets there ", StringComparison.Ordinal)
        );
        Assert.Equal("2026-12-02T00:00:00Z", Word(planned["homeBy"]));
        _ = (await owner.Put($"drivers/{kai}/home-by", new { at = (string?)null })).Ok;
        Assert.Null(Of(await Plan(owner), "Kai Voss")["homeBy"]);

        // Changing the driver leaves it alone.
        _ = (await owner.Put($"drivers/{kai}/home-by", new { at = "2026-12-02T00:00:00Z" })).Ok;
        _ = (await owner.Put($"drivers/{kai}", new { name = "Kai Voss", active = true })).Ok;
        Assert.Equal("2026-12-02T00:00:00Z", Word(Of(await Plan(owner), "Kai Voss")["homeBy"]));
    }

    [Fact]
    public async Task Several_open_loads_become_one_trip_in_a_good_order()
    {
        var owner = await Business.As(Role.Owner);
        var loads = new List<long>();
        foreach (var to in new[] { "to", "handover", "to", "handover" })
        {
            loads.Add(await Booked(owner, 28, "from", to, 3, 4_000, until: 23));
        }

        var legs = new List<long>();
        foreach (var load in loads)
        {
            legs.Add(await Leg(owner, load));
        }

        var crew = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(Business.Crew("lena")))!;
        crew["legIds"] = new JsonArray(legs.Select(l => JsonValue.Create(l)).ToArray());
        var made = (await Make(owner, crew)).Ok;
        var trip = (await Sheet(owner, loads[0]))["load"]!["tripId"]!.GetValue<long>();
        var towns = (await Trip(owner, trip))["visits"]!.AsArray().Select(v => Word(v!["town"])).ToArray();
        // All pickups are in Great Falls; on the way to Spokane the truck passes the yard once.
        Assert.Equal(4, towns.TakeWhile(t => t == "Great Falls MT").Count());
        Assert.Equal(["Spokane WA", "Spokane WA"], towns[^2..]);
        Assert.Empty(await Wrong());
        var alone = (await Trip(owner, trip))["loadedMiles"]!.GetValue<double>();
        Assert.InRange(alone, 300, 480);

        _ = (await owner.Post("plan/moves", new { moves = made["undo"] })).Ok;
        foreach (var load in loads)
        {
            Assert.Equal("booked", Word((await Sheet(owner, load))["load"]!["state"]));
        }

        // Two of them, with a name, the documents and the history of both; then a third added to their trip and taken off again.
        crew["legIds"] = new JsonArray(legs[0], legs[1]);
        _ = (await Make(owner, crew.DeepClone())).Ok;
        trip = (await Sheet(owner, loads[0]))["load"]!["tripId"]!.GetValue<long>();
        var long_ = await owner.Put($"trips/{trip}/name", new { name = new string('x', 61) });
        Assert.Equal(["name"], long_.Fields);
        _ = (await owner.Put($"trips/{trip}/name", new { name = "  Friday round " })).Ok;
        Assert.Equal("Friday round", Word((await Trip(owner, trip))["trip"]!["name"]));
        Assert.Contains(Of(await Plan(owner), "Lena Haugen")["trips"]!.AsArray(), t =>
            t!["id"]!.GetValue<long>() == trip && Word(t["name"]) == "Friday round"
        );
        _ = (await owner.Upload($"loads/{loads[1]}/documents?kind=other&name=seal.txt", "seal 4711"u8.ToArray())).Body;
        var records = (await owner.Get($"trips/{trip}/records")).Ok;
        var said = records["events"]!.AsArray().Select(e => Word(e!["summary"])).ToList();
        // Said of both loads, and shown once.
        Assert.Single(said, s => s.EndsWith("named Friday round", StringComparison.Ordinal));
        Assert.Contains(said, s => s.Contains(" assigned to Lena Haugen on trip ", StringComparison.Ordinal));
        Assert.All(records["documents"]!.AsArray(), d => Assert.Contains(Word(d!["load"]), Loads(Of(Plan(owner).Result, "Lena Haugen"))));
        _ = (await owner.Put($"trips/{trip}/name", new { name = "" })).Ok;

        // A number of its own, which no other trip has; the series goes around it.
        var other = await TripOf(owner, await Booked(owner, 28, "from", "to", 2, 3_000), "kai");
        var theirs = Word((await Trip(owner, other))["trip"]!["number"]);
        var next = (int.Parse(theirs) + 1).ToString();
        var twice = await owner.Put($"trips/{trip}/name", new { name = "", number = theirs });
        Assert.Equal("number.taken number", $"{twice.Code} {twice.Fields.Single()}");
        Assert.Equal(["number"], (await owner.Put($"trips/{trip}/name", new { name = "", number = "4 4" })).Fields);
        _ = (await owner.Put($"trips/{trip}/name", new { name = "", number = next })).Ok;
        Assert.Equal(next, Word((await Sheet(owner, loads[0]))["load"]!["trip"]));
        _ = (await owner.Post($"trips/{other}/dissolve")).Ok;
        var after = await TripOf(owner, await Booked(owner, 28, "from", "to", 3, 3_000), "kai");
        Assert.Equal(int.Parse(theirs) + 2, int.Parse(Word((await Trip(owner, after))["trip"]!["number"])));
        Assert.Null((await Trip(owner, trip))["trip"]!["name"]);
        var added = (await Make(owner, new { legIds = new[] { legs[2] }, tripId = trip })).Ok;
        Assert.Equal(6, (await Trip(owner, trip))["visits"]!.AsArray().Count);
        _ = (await owner.Post("plan/moves", new { moves = added["undo"] })).Ok;
        Assert.Equal(4, (await Trip(owner, trip))["visits"]!.AsArray().Count);
        Assert.Empty(await Wrong());
    }
}

/// <summary>Random moves on the plan, half of them undone: what must hold after each.</summary>
public sealed class PlansAtRandom(TestBusiness business) : PlanTest(business)
{
    [Fact]
    public async Task Whatever_is_moved_nothing_is_booked_twice_and_undoing_brings_it_back()
    {
        var owner = await Business.As(Role.Owner);
        var random = new Random(11);
        var (loads, legs) = (new List<long>(), new List<long>());
        for (var i = 0; i < 7; i++)
        {
            loads.Add(await Booked(owner, 24 + (i / 2), "from", i % 3 == 1 ? "handover" : "to", 2 + i, 3_000 + (i * 900), until: 23));
            legs.Add(await Leg(owner, loads[^1]));
        }

        string[] drivers = ["moses", "lena", "kai"];
        var (made, refused, undone, stops, teams) = (0, 0, 0, 0, 0);
        var kinds = new HashSet<string>();
        for (var step = 0; step < 110; step++)
        {
            var sheets = new List<JsonNode>();
            foreach (var load in loads)
            {
                sheets.Add(await Sheet(owner, load));
            }

            var trips = sheets.Select(s => s["load"]!["tripId"]?.GetValue<long>()).ToList();
            var at = random.Next(loads.Count);
            var driver = drivers[random.Next(drivers.Length)];
            var (driverId, truckId, trailerId) = (Business.Ids[driver], Business.Ids[$"{driver} truck"], Business.Ids[$"{driver} trailer"]);
            var others = trips.OfType<long>().Distinct().ToList();
            var leg = sheets[at]["legs"]!.AsArray()[^1]!;
            var transfer = sheets[at]["load"]!["transfers"]!.AsArray().FirstOrDefault();
            object move = (trips[at], random.Next(8)) switch
            {
                (_, 6) when transfer is not null => new { joinTransferId = Id(transfer) },
                (_, 6) => new
                {
                    split = In("handover", $"2026-11-{24 + (at / 2)}T22:00:00", random.Next(2) == 0 ? "drop" : "transload", Id(leg)),
                    driverId = random.Next(2) == 0 ? (long?)null : driverId,
                    truckId,
                    trailerId = leg["trailerId"]?.GetValue<long>() ?? trailerId,
                },
                (not null, 7) => new
                {
                    tripId = trips[at],
                    startsAt = random.Next(4) == 0 ? null : $"2026-11-{24 + (at / 2)}T{random.Next(13, 24)}:15:00Z",
                    anyTime = true,
                },
                (null, 0) when others.Count > 0 => new { legIds = new[] { legs[at] }, tripId = others[random.Next(others.Count)] },
                (null, _) => new
                {
                    legIds = new[] { legs[at], legs[random.Next(legs.Count)] }.Distinct(),
                    driverId,
                    truckId,
                    trailerId,
                },
                (_, 0) => new { legIds = new[] { legs[at] } },
                (_, 1) => new { tripId = trips[at] },
                _ => new
                {
                    tripId = trips[at],
                    driverId,
                    truckId,
                    trailerId,
                },
            };
            if (others.Count > 0 && random.Next(5) == 0)
            {
                stops += await ChangeStops(owner, others[random.Next(others.Count)], random) ? 1 : 0;
                Assert.Empty(await Wrong());
            }

            if (others.Count > 0 && random.Next(4) == 0)
            {
                teams += await ChangeTeam(owner, others[random.Next(others.Count)], drivers[random.Next(drivers.Length)], random) ? 1 : 0;
                Assert.Empty(await Wrong());
            }

            var other = others.Where(t => t != trips[at]).ToList();
            object[] moves =
                trips[at] is { } one && other.Count > 0 && random.Next(4) == 0
                    ? [Swap(one, other[0], sheets, trips), Swap(other[0], one, sheets, trips)]
                    : [move];
            var before = await Held(owner, loads);
            var tried = await owner.Post("plan/preview", new { moves });
            Assert.Equal(before, await Held(owner, loads));
            var answer = await owner.Post("plan/moves", new { moves, allowLate = true });
            Assert.True((int)answer.Status is < 300 or 422 or 409 or 404, $"{answer.Status} {answer.Body}");
            // What could be tried can be made.
            Assert.Equal((int)tried.Status < 300, (int)answer.Status < 300);
            Assert.Empty(await Wrong());
            if ((int)answer.Status >= 300)
            {
                refused++;
                Assert.Equal(before, await Held(owner, loads));
                continue;
            }

            made++;
            kinds.UnionWith(((string[])[" split in ", " joined: ", " starts "]).Where(Word(answer.Ok["summary"]).Contains));
            if (random.Next(2) == 0)
            {
                undone++;
                _ = (await owner.Post("plan/moves", new { moves = answer.Ok["undo"], allowLate = true })).Ok;
                Assert.Equal(before, await Held(owner, loads));
                Assert.Empty(await Wrong());
            }
        }

        Assert.True(
            made > 20 && refused > 3 && undone > 8 && stops > 4 && teams > 3 && kinds.Count == 3,
            $"{made} made, {refused} refused, {undone} undone, {stops} stops added or removed, {teams} teams changed, {string.Join(',', kinds)}"
        );
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));

        async Task<bool> ChangeStops(Caller caller, long trip, Random dice)
        {
            var own = (await Trip(caller, trip))["visits"]!.AsArray().Where(v => v!["own"] is not null).ToList();
            var answer =
                own.Count > 0 && dice.Next(3) == 0
                    ? await caller.Post($"trips/{trip}/stops/{Id(own[0])}/remove")
                    : await caller.Post(
                        $"trips/{trip}/stops",
                        new
                        {
                            kind = new[] { "fuel", "hook", "drop", "wash" }[dice.Next(4)],
                            placeId = Business.Ids[dice.Next(2) == 0 ? "handover" : "from"],
                            allowLate = true,
                        }
                    );
            Assert.True((int)answer.Status is < 300 or 422, $"{answer.Status} {answer.Body}");
            return (int)answer.Status < 300;
        }

        async Task<bool> ChangeTeam(Caller caller, long trip, string driver, Random dice)
        {
            var off = dice.Next(4) == 0;
            var answer = await caller.Put(
                $"trips/{trip}/codriver",
                new { driverId = off ? (long?)null : Business.Ids[driver], share = dice.Next(10_001) / 100m }
            );
            Assert.True((int)answer.Status is < 300 or 422, $"{answer.Status} {answer.Body}");
            return (int)answer.Status < 300;
        }

        static object Swap(long trip, long with, List<JsonNode> sheets, List<long?> trips)
        {
            var there = sheets[trips.IndexOf(with)]["legs"]![0]!;
            return new
            {
                tripId = trip,
                driverId = there["driverId"]!.GetValue<long>(),
                truckId = there["truckId"]!.GetValue<long>(),
                trailerId = there["trailerId"]!.GetValue<long>(),
            };
        }
    }
}
