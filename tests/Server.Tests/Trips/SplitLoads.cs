using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Three drivers, two carriers and a town, and what the tests of split loads ask.</summary>
public abstract class SplitTest(TestBusiness business) : IClassFixture<TestBusiness>, IAsyncLifetime
{
    protected TestBusiness Business { get; } = business;

    private static readonly Instant Morning = Instant.FromUtc(2026, 11, 23, 16, 0);

    public async Task InitializeAsync()
    {
        Business.Clock.Now = Morning;
        if (!Business.Ids.ContainsKey("second"))
        {
            await Business.AddCarrier("second", "Clearwater Basin Carriers", "9000111");
            await Business.AddCrew("kai", "Kai Voss");
            await using var db = await Business.Db.Source.OpenConnectionAsync();
            Business.Ids["drummond"] = await db.One<long>(
                "insert into towns (name, region, country, latitude, longitude, zone, population) values ('Drummond', 'MT', 'US', 46.67, -113.15, 'America/Denver', 300) returning id"
            );
        }
    }

    public Task DisposeAsync() => Task.CompletedTask;

    /// <summary>From Great Falls on a day of November at 6:00 to Spokane two days later at 17:00.</summary>
    protected async Task<(Caller Owner, long Load, long[] Stops)> Booked(int day, string reference)
    {
        var owner = await Business.As(Role.Owner);
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(Business.Order(day - 23, reference)))!;
        order["stops"]![1]!["from"] = $"2026-11-{day + 2}T17:00:00";
        var load = (await owner.Post("loads", order)).Id;
        var stops = (await Sheet(owner, load))["load"]!["stops"]!.AsArray().Select(s => s!["id"]!.GetValue<long>()).ToArray();
        return (owner, load, stops);
    }

    protected static async Task<JsonNode> Sheet(Caller owner, long load) => (await owner.Get($"loads/{load}")).Ok["sheet"]!;

    protected static async Task<JsonArray> Legs(Caller owner, long load) => (await Sheet(owner, load))["legs"]!.AsArray();

    protected static async Task<JsonArray> Transfers(Caller owner, long load) =>
        (await Sheet(owner, load))["load"]!["transfers"]!.AsArray();

    protected static string Word(JsonNode? node) => node!.GetValue<string>();

    protected static long Id(JsonNode? node) => node!["id"]!.GetValue<long>();

    protected object In(string place, string at, string method = "drop", long? leg = null) =>
        new
        {
            placeId = Business.Ids[place],
            at,
            method,
            legId = leg,
        };

    protected static Task<Answer> Stop(Caller owner, long load, long stop, string what, string at) =>
        owner.Post($"loads/{load}/stops/{stop}", new { @event = what, at });

    protected static Task<Answer> At(Caller owner, long load, long transfer, string what, string at) =>
        owner.Post($"loads/{load}/transfers/{transfer}", new { @event = what, at });

    /// <summary>The owner, signed in at a later time.</summary>
    protected Task<Caller> At(Instant now)
    {
        Business.Clock.Now = now;
        return Business.As(Role.Owner);
    }

    /// <summary>The line of a load on the list of loads to be covered; null when it is not there.</summary>
    protected static async Task<JsonNode?> ToCover(Caller owner, long load) =>
        (await owner.Get("loads?view=open&limit=500")).Ok["rows"]!
            .AsArray()
            .SingleOrDefault(l => l!["load"]!["id"]!.GetValue<long>() == load);

    protected async Task InOrder()
    {
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));
    }

    /// <summary>A driver with their own truck and the trailer that Lena drops.</summary>
    protected object Hooks(string driver) =>
        new
        {
            driverId = Business.Ids[driver],
            truckId = Business.Ids[$"{driver} truck"],
            trailerId = Business.Ids["lena trailer"],
        };
}

/// <summary>A load that rides on several trucks as planned: split before or during the trip, joined again, and each leg with its own driver or
/// carrier.</summary>
public sealed class SplitLoads(TestBusiness business) : SplitTest(business)
{
    [Fact]
    public async Task Two_of_our_drivers_share_a_load_and_each_has_their_own_part()
    {
        var (owner, load, stops) = await Booked(24, "PO relay");
        _ = (await owner.Post($"loads/{load}/cover/driver", Business.Crew("lena"))).Ok;
        var whole = (await Legs(owner, load))[0]!["miles"]!.GetValue<int>();
        var split = Word((await owner.Post($"loads/{load}/split", In("handover", "2026-11-25T08:00:00"))).Ok["summary"]);
        Assert.EndsWith(
            "split in Missoula MT, trailer dropped, Wed Nov 25, 08:00; Lena Haugen takes it there",
            split,
            StringComparison.Ordinal
        );
        var view = (await owner.Get($"loads/{load}")).Ok;
        Assert.Equal(("covered", "L. Haugen"), (Word(view["sheet"]!["load"]!["state"]), Word(view["sheet"]!["load"]!["who"])));
        Assert.Equal("Missoula MT to Spokane WA", Word(view["open"]!["lane"]));
        Assert.Equal("Wed 08:00", Word((await ToCover(owner, load))!["open"]!["status"]));

        // Her trip ends in Missoula on the 24th, so she can pick up in Great Falls the next day.
        var next = (await owner.Post("loads", Business.Order(2, "PO next"))).Id;
        _ = (
            await owner.Post(
                $"loads/{next}/cover/driver",
                new
                {
                    driverId = Business.Ids["lena"],
                    truckId = Business.Ids["lena truck"],
                    trailerId = Business.Ids["kai trailer"],
                }
            )
        ).Ok;
        // The trailer she drops is the one he hooks.
        Assert.Equal(
            "The freight changes trucks in Missoula MT in trailer 5307: choose that one.",
            (await owner.Post($"loads/{load}/cover/driver", Business.Crew("moses"))).Detail
        );
        _ = (await owner.Post($"loads/{load}/cover/driver", Hooks("moses"))).Ok;
        Assert.Null(await ToCover(owner, load));
        var legs = await Legs(owner, load);
        Assert.Equal(["Lena Haugen", "Moses Okafor"], legs.Select(l => Word(l!["driver"])));
        Assert.InRange(legs.Sum(l => l!["miles"]!.GetValue<int>()), whole, (int)(whole * 1.15));

        // Each sees their own part on the phone, and nobody records what another truck does.
        var moses = await Business.As(Role.Driver);
        var mine = (await moses.Get("mine/loads")).Ok.AsArray().Single(l => Id(l) == load)!;
        Assert.Equal((stops[1], "Missoula MT"), (Id(mine["stops"]!.AsArray().Single()), Word(mine["begins"]!["town"])));
        Assert.Null(mine["ends"]);
        Assert.Equal("not.found", (await moses.Post($"mine/loads/{load}/stops/{stops[0]}", new { @event = "arrived" })).Code);
        var transfer = Id((await Transfers(owner, load)).Single());
        _ = (await Stop(owner, load, stops[0], "left", "2026-11-23T15:00:00Z")).Ok;
        Assert.Equal("transfer.ahead", (await Stop(owner, load, stops[1], "arrived", "2026-11-23T15:30:00Z")).Code);
        Assert.Equal("not.found", (await moses.Post($"mine/loads/{load}/transfers/{transfer}", new { @event = "left" })).Code);
        _ = (await At(owner, load, transfer, "left", "2026-11-23T15:40:00Z")).Ok;
        Assert.Equal("stop.order", (await owner.Post($"loads/{load}/stops/{stops[0]}/undo")).Code);
        _ = (await moses.Post($"mine/loads/{load}/transfers/{transfer}", new { @event = "taken" })).Ok;
        _ = (await owner.Post($"loads/{load}/transfers/{transfer}/undo")).Ok;
        _ = (await moses.Post($"mine/loads/{load}/transfers/{transfer}", new { @event = "taken" })).Ok;
        owner = await At(Instant.FromUtc(2026, 11, 24, 8, 0));
        _ = (await Stop(owner, load, stops[1], "delivered", "2026-11-24T07:00:00Z")).Ok;
        Assert.Equal("stop.order", (await owner.Post($"loads/{load}/transfers/{transfer}/undo")).Code);
        foreach (var (who, leg) in new[] { ("lena", 0), ("moses", 1) })
        {
            var week = (await owner.Get("settlements?monday=2026-11-23"))
                .Ok.AsArray()
                .Single(w => w!["driverId"]!.GetValue<long>() == Business.Ids[who])!;
            var paid = week["lines"]!
                .AsArray()
                .Single(l => l!["kind"]?.GetValue<string>() == "per_mile" && l["loadId"]!.GetValue<long>() == load)!;
            Assert.Equal(legs[leg]!["miles"]!.GetValue<int>(), (int)paid["quantity"]!.GetValue<decimal>());
        }

        await InOrder();
    }

    /// <summary>Ours, a carrier that never answers, ours: its leg is open again, and the others are as they were.</summary>
    [Fact]
    public async Task A_carrier_between_two_of_our_trucks_that_never_confirms_leaves_its_leg_open()
    {
        var (owner, load, stops) = await Booked(26, "PO three legs");
        _ = (await owner.Post($"loads/{load}/cover/driver", Business.Crew("lena"))).Ok;
        _ = (
            await owner.Post(
                $"loads/{load}/split",
                new
                {
                    townId = Business.Ids["drummond"],
                    at = "2026-11-26T20:00:00",
                    method = "transload",
                }
            )
        ).Ok;
        _ = (await owner.Post($"loads/{load}/split", In("handover", "2026-11-27T09:00:00", "swap"))).Ok;
        var legs = await Legs(owner, load);
        Assert.Equal([1, 2, 3], legs.Select(l => l!["seq"]!.GetValue<int>()));
        Assert.Equal(["Drummond", "Clark Fork Warehouse"], (await Transfers(owner, load)).Select(t => Word(t!["place"])));
        _ = (await owner.Post($"loads/{load}/cover/driver?leg={Id(legs[2])}", Business.Crew("kai"))).Ok;
        var open = await ToCover(owner, load);
        Assert.Equal("Drummond MT to Missoula MT", Word(open!["open"]!["lane"]));
        Assert.Equal(Id(legs[1]), (await owner.Get($"loads/{load}/choices")).Ok["legId"]!.GetValue<long>());

        _ = (await owner.Post($"loads/{load}/cover/carrier", new { carrierId = Business.Ids["carrier"], pay = Usd(300m) })).Ok;
        Assert.Equal("covered", Word((await Sheet(owner, load))["load"]!["state"]));
        var refused = await owner.Post($"loads/{load}/split", In("handover", "2026-11-27T08:00:00", leg: Id(legs[1])));
        Assert.Equal("leg.carrier", refused.Code);
        _ = await Business.RateConfirmation(load);
        var kept = (await owner.Get($"loads/{load}")).Ok["documents"]!.AsArray().Select(d => Word(d!["fileName"])).ToList();
        Assert.Contains(kept, f => f.EndsWith("-leg2.pdf", StringComparison.Ordinal));

        Business.Clock.Now += Duration.FromDays(2);
        await using (var w = await Business.Begin())
        {
            var tender = await w.Db.One<long>("select max(id) from tenders where leg_id = @leg", ("leg", Id(legs[1])));
            Assert.True(await Server.Covering.TenderCommands.Expire(w, load, tender));
            await w.Commit();
        }

        owner = await At(Business.Clock.Now);
        legs = await Legs(owner, load);
        Assert.Equal(["Lena Haugen", "", "Kai Voss"], legs.Select(l => l!["driver"]?.GetValue<string>() ?? ""));
        Assert.Null(legs[1]!["carrier"]);
        Assert.NotNull(await ToCover(owner, load));

        // Without it nothing passes Drummond; our own driver takes both legs that are left once they are joined.
        _ = (await Stop(owner, load, stops[0], "left", "2026-11-25T08:00:00Z")).Ok;
        var transfers = await Transfers(owner, load);
        Assert.Equal("leg.open", (await At(owner, load, Id(transfers[0]), "taken", "2026-11-25T15:00:00Z")).Code);
        Assert.Equal("leg.assigned", (await owner.Post($"loads/{load}/transfers/{Id(transfers[1])}/join")).Code);
        _ = (await At(owner, load, Id(transfers[0]), "left", "2026-11-25T10:00:00Z")).Ok;
        open = await ToCover(owner, load);
        Assert.Equal(("waiting 6 h", true), (Word(open!["status"]), open["open"]!["waitingSince"] is not null));
        Assert.Contains((await owner.Get("today")).Ok["items"]!.AsArray(), i =>
            i!["kind"]!.GetValue<string>() == "cover"
            && Word(i["title"]).Contains("leg Drummond MT to Missoula MT", StringComparison.Ordinal)
        );
        Assert.Equal("load.state", (await owner.Post($"loads/{load}/cancel", new { why = "no" })).Code);
        Assert.Equal("leg.done", (await owner.Post($"loads/{load}/transfers/{Id(transfers[0])}/join")).Code);
        _ = (await owner.Post($"loads/{load}/unassign?leg={Id(legs[2])}")).Ok;
        _ = (await owner.Post($"loads/{load}/transfers/{Id(transfers[1])}/join")).Ok;
        _ = (
            await owner.Post(
                $"loads/{load}/cover/carrier",
                new
                {
                    carrierId = Business.Ids["second"],
                    pay = Usd(500m),
                    acceptedBy = "Jo Ferro",
                }
            )
        ).Ok;
        var token = await Token("Clearwater Basin Carriers");
        var accept = (await Business.Nobody().Get($"accept/{token}")).Ok;
        Assert.Equal(["Drummond MT", "Spokane WA"], accept["stops"]!.AsArray().Select(s => Word(s!["town"])));
        Assert.Equal(
            "Enter Clearwater Basin Carriers’s driver, phone and truck before it takes the freight.",
            (await At(owner, load, Id(transfers[0]), "taken", "2026-11-25T15:00:00Z")).Detail
        );
        _ = (
            await owner.Put(
                $"loads/{load}/dispatch",
                new
                {
                    driver = "Lee Anders",
                    phone = "208-555-0177",
                    truck = "44",
                }
            )
        ).Ok;
        _ = (await At(owner, load, Id(transfers[0]), "taken", "2026-11-25T15:00:00Z")).Ok;
        Assert.Null(await ToCover(owner, load));
        var before = await Balances(owner);
        _ = (await Stop(owner, load, stops[1], "delivered", "2026-11-25T15:59:00Z")).Ok;
        Assert.Equal([500m], Changes(before, await Balances(owner), "5000"));
        await InOrder();
    }

    /// <summary>The link in the newest email to a carrier.</summary>
    private async Task<string> Token(string carrier)
    {
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        var eml = await db.One<string>(
            "select convert_from(eml, 'UTF8') from emails e join tenders t on t.id = e.tender_id join companies c on c.id = t.carrier_id where c.name = @name order by e.id desc limit 1",
            ("name", carrier)
        );
        return eml!.Split("/accept/")[1][..48];
    }

    [Fact]
    public async Task What_cannot_be_is_refused_in_words_and_an_undone_split_leaves_nothing()
    {
        var (owner, load, stops) = await Booked(27, "PO refused");
        var whole = (await Legs(owner, load)).Single()!;
        Assert.Equal(["placeId", "at", "method"], (await owner.Post($"loads/{load}/split", new { })).Fields);
        Assert.Equal("same", (await owner.Post($"loads/{load}/split", In("to", "2026-11-28T08:00:00"))).Code);
        var late = await owner.Post($"loads/{load}/split", In("handover", "2026-11-30T08:00:00"));
        Assert.Equal(
            ("at", "The freight is due in Spokane WA by Sun Nov 29, 18:00: enter an earlier time."),
            (late.Fields.Single(), late.Detail)
        );
        var beyond = new
        {
            placeId = Business.Ids["handover"],
            at = "2026-11-28T08:00:00",
            method = "drop",
            afterStops = 2,
        };
        Assert.Equal(
            "The freight is delivered in Spokane WA: choose a place before that.",
            (await owner.Post($"loads/{load}/split", beyond)).Detail
        );

        var transfer = (await owner.Post($"loads/{load}/split", In("handover", "2026-11-28T08:00:00"))).Ok["transferId"];
        Assert.Equal("load.split", (await owner.Put($"loads/{load}", Later())).Code);
        _ = (
            await owner.Put(
                $"loads/{load}/transfers/{transfer}",
                new
                {
                    townId = Business.Ids["drummond"],
                    at = "2026-11-27T20:00:00",
                    method = "transload",
                }
            )
        ).Ok;
        var moved = (await Transfers(owner, load)).Single()!;
        Assert.Equal(("Drummond", "transload"), (Word(moved["town"]), Word(moved["method"])));
        Assert.Equal("transfer.none", (await owner.Post($"loads/{load}/transfers/{transfer}/undo")).Code);
        _ = (await owner.Post($"loads/{load}/cover/driver?leg={Id((await Legs(owner, load))[1])}", Business.Crew("kai"))).Ok;

        // Whoever has the second leg is booked from the new time.
        _ = (await owner.Put($"loads/{load}/transfers/{transfer}", In("handover", "2026-11-28T10:00:00"))).Ok;
        await using (var db = await Business.Db.Source.OpenConnectionAsync())
        {
            Assert.Equal(
                InstantPattern.ExtendedIso.Parse("2026-11-28T17:00:00Z").Value,
                await db.One<Instant>("select lower(scheduled) from trips order by id desc limit 1")
            );
        }

        _ = (await owner.Post($"loads/{load}/unassign?leg={Id((await Legs(owner, load))[1])}")).Ok;
        _ = (await owner.Post($"loads/{load}/transfers/{transfer}/join")).Ok;
        var again = (await Legs(owner, load)).Single()!;
        Assert.Equal((Id(whole), whole["miles"]!.GetValue<int>()), (Id(again), again["miles"]!.GetValue<int>()));
        Assert.Equal("not.found", (await owner.Post($"loads/{load}/transfers/{transfer}/join")).Code);
        _ = (await owner.Put($"loads/{load}", Later())).Ok;

        JsonNode Later()
        {
            var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(Business.Order(4, "PO refused")))!;
            order["stops"]![1]!["from"] = "2026-11-30T17:00:00";
            return order;
        }
    }
}

/// <summary>Two trucks of ours that meet.</summary>
public sealed class Relays(TestBusiness business) : SplitTest(business)
{
    /// <summary>One truck goes west, another east; where they meet they swap trailers, and both drivers are home for the night.</summary>
    [Fact]
    public async Task Two_trucks_that_meet_swap_trailers_in_one_step()
    {
        var (owner, west, _) = await Booked(28, "PO west");
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(Business.Order(5, "PO east")))!;
        (order["stops"]![0]!["placeId"], order["stops"]![1]!["placeId"]) = (Business.Ids["to"], Business.Ids["from"]);
        order["stops"]![1]!["from"] = "2026-11-30T17:00:00";
        var east = (await owner.Post("loads", order)).Id;
        var meet = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(In("handover", "2026-11-28T14:00:00")))!;
        meet["swapWithLoadId"] = east;
        Assert.Equal("relay.own", (await owner.Post($"loads/{west}/split", meet)).Code);
        _ = (await owner.Post($"loads/{west}/cover/driver", Business.Crew("moses"))).Ok;
        Assert.Equal("relay.other", (await owner.Post($"loads/{west}/split", meet)).Code);
        _ = (await owner.Post($"loads/{east}/cover/driver", Business.Crew("kai"))).Ok;
        var numbers = new[] { west, east }
            .Select(async l => Word((await Sheet(owner, l))["load"]!["number"]))
            .Select(t => t.Result)
            .ToArray();
        Assert.Equal(
            $"{numbers[0]} and {numbers[1]} swap trailers: Kai Voss continues with {numbers[0]}, Moses Okafor with {numbers[1]}",
            Word((await owner.Post($"loads/{west}/split", meet)).Ok["summary"])
        );
        foreach (var (load, first, second) in new[] { (west, "Moses Okafor", "Kai Voss"), (east, "Kai Voss", "Moses Okafor") })
        {
            var legs = await Legs(owner, load);
            Assert.Equal([first, second], legs.Select(l => Word(l!["driver"])));
            Assert.Single(legs.Select(l => Word(l!["trailer"])).Distinct());
            Assert.Equal("swap", Word((await Transfers(owner, load)).Single()!["method"]));
        }

        await InOrder();
    }
}

/// <summary>Splits, joins, moves, assignments, events and undos at random.</summary>
public sealed class SplitsAtRandom(TestBusiness business) : SplitTest(business)
{
    /// <summary>After any sequence of splits, joins, moves, assignments, events and undos: a load's legs follow each other from the first stop to
    /// the last, their miles are those of the roads, to_cover names the first open leg, and the books balance.</summary>
    [Fact]
    public async Task Whatever_is_done_the_legs_cover_the_load()
    {
        var random = new Random(1);
        var loads = new[] { await Booked(24, "PO any"), await Booked(25, "PO other") };
        var (owner, done) = (await At(Instant.FromUtc(2026, 11, 24, 20, 0)), 0);
        for (var i = 0; i < 150; i++)
        {
            var (_, load, stops) = loads[random.Next(2)];
            var (legs, transfers) = (await Legs(owner, load), await Transfers(owner, load));
            var leg = Id(legs[random.Next(legs.Count)]);
            var transfer = transfers.Count > 0 ? Id(transfers[random.Next(transfers.Count)]) : 0;
            var at = $"2026-11-{random.Next(24, 28)}T{random.Next(24):00}:00:00";
            var then = $"2026-11-24T{random.Next(13, 20)}:00:00Z";
            object place =
                random.Next(2) == 0
                    ? In("handover", at, leg: leg)
                    : new
                    {
                        townId = Business.Ids["drummond"],
                        at,
                        method = "swap",
                        legId = leg,
                    };
            var who = new[] { "lena", "moses", "kai" }[random.Next(3)];
            var answer = random.Next(10) switch
            {
                0 or 1 => await owner.Post($"loads/{load}/split", place),
                2 => await owner.Put($"loads/{load}/transfers/{transfer}", place),
                3 => await owner.Post($"loads/{load}/transfers/{transfer}/join"),
                4 => await owner.Post($"loads/{load}/cover/driver?leg={leg}", random.Next(2) == 0 ? Business.Crew(who) : Hooks(who)),
                5 => await owner.Post($"loads/{load}/cover/carrier?leg={leg}", Accepted(Business.Ids["second"], Usd(400m))),
                6 => await owner.Post($"loads/{load}/unassign?leg={leg}"),
                7 => await Stop(owner, load, stops[0], random.Next(2) == 0 ? "arrived" : "left", then),
                8 => await At(owner, load, transfer, random.Next(2) == 0 ? "left" : "taken", then),
                _ => await owner.Post(
                    random.Next(3) == 0 ? $"loads/{load}/stops/{stops[0]}/undo" : $"loads/{load}/transfers/{transfer}/undo"
                ),
            };
            Assert.True((int)answer.Status is 200 or 404 or 409 or 422, $"{answer.Status} {answer.Detail}");
            done += (int)answer.Status == 200 ? 1 : 0;
            await using var db = await Business.Db.Source.OpenConnectionAsync();
            Assert.Empty(await Broken(db));
        }

        Assert.InRange(done, 25, 150);
        await InOrder();
    }

    /// <summary>What is wrong with legs, transfers and trips, in words.</summary>
    private static Task<List<string>> Broken(Npgsql.NpgsqlConnection db) =>
        db.Rows(
            """
            select 'legs of ' || load_id || ' are not numbered through' as wrong from legs group by load_id
                having min(seq) <> 1 or max(seq) <> count(*)
            union all select 'a transfer of ' || load_id || ' begins no leg' from transfers t where not exists (select 1 from legs g where g.begins_at = t.id)
            union all select 'to_cover of ' || l.id || ' is not its first open leg' from loads l where l.to_cover is distinct from case
                when l.state in ('booked', 'tendered', 'covered', 'rolling') then (select min(g.seq) from legs g join leg_ends le on le.leg_id = g.id
                    where g.load_id = l.id and le.ended_at is null and g.trip_id is null and (g.carrier_id is null or exists (select 1 from tenders t
                        where t.leg_id = g.id and t.ended_at is null and t.accepted_at is null))) end
            union all select 'trip ' || t.number || ' is canceled and has a leg' from trips t join legs g on g.trip_id = t.id where t.canceled_at is not null
            union all select 'trip ' || t.number || ' has started without freight' from trips t join legs g on g.trip_id = t.id join leg_ends le on le.leg_id = g.id
                where le.begins_id is not null and (t.started_at is not null) <> (le.began_at is not null)
            union all select 'trip ' || t.number || ' has not ended with its leg' from trips t join legs g on g.trip_id = t.id join leg_ends le on le.leg_id = g.id
                where le.ends_id is not null and t.ended_at is distinct from le.ended_at
            """,
            r => r.Text("wrong")
        );
}
