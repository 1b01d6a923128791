using System.Text.Json.Nodes;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Two drivers on a trip: booked, heard, paid and settled like one.</summary>
public sealed class Teams(TestBusiness business) : PlanTest(business)
{
    private Task<Answer> Set(Caller caller, long trip, string? driver, decimal? share = null) =>
        caller.Put($"trips/{trip}/codriver", new { driverId = driver is null ? (long?)null : Business.Ids[driver], share });

    private static async Task<JsonNode> Week(Caller owner, long driver, string monday) =>
        (await owner.Get($"settlements?monday={monday}")).Ok.AsArray().Single(s => s!["driverId"]!.GetValue<long>() == driver)!;

    private static decimal Miles(JsonNode week) =>
        week["lines"]!.AsArray().Where(l => Word(l!["kind"]) == "per_mile").Sum(l => l!["quantity"]!.GetValue<decimal>());

    [Fact]
    public async Task A_co_driver_is_booked_sees_the_trip_and_is_paid_their_share_by_the_settlement_of_each()
    {
        await Business.AddCrew("tess", "Tess Marlow");
        var owner = await Business.As(Role.Owner);
        var load = await Booked(owner, 24, "from", "to", 20, 38_000, 1_400m);
        var trip = await TripOf(owner, load, "tess");
        var alone = (await Legs(owner, load))[0]!;
        var phone = await Business.As(Role.Driver);
        Assert.Empty((await phone.Get("mine/loads")).Ok.AsArray());

        Assert.Equal("driverId", (await Set(owner, trip, "tess")).Fields.Single());
        Assert.Equal("share", (await Set(owner, trip, "moses", 101)).Fields.Single());
        Assert.Equal("team.none", (await Set(owner, trip, null)).Code);
        Assert.Equal("not.found", (await Set(owner, 999_999, "moses")).Code);
        var done = (await Set(owner, trip, "moses", 40)).Ok;
        var number = Word(done["number"]);
        Assert.Equal($"Moses Okafor is the co-driver of Tess Marlow on trip {number}, with 40 % of the work", Word(done["summary"]));

        // Both have the trip: on its page with their pay, on the plan, and the co-driver on the phone.
        var sheet = await Trip(owner, trip);
        Assert.Equal(
            ["Tess Marlow 60", "Moses Okafor 40"],
            sheet["drivers"]!.AsArray().Select(d => $"{d!["name"]} {d["share"]!.GetValue<decimal>():0}")
        );
        var leg = (await Legs(owner, load))[0]!;
        Assert.Equal(Amount(leg["wage"]), sheet["drivers"]!.AsArray().Sum(d => Amount(d!["pay"])));
        Assert.Equal(Amount(leg["codriverPay"]), Amount(sheet["drivers"]![1]!["pay"]));
        Assert.Equal(Amount(alone["cost"]!["fuel"]), Amount(leg["cost"]!["fuel"]));
        var plan = await Plan(owner);
        Assert.Equal(Loads(Of(plan, "Tess Marlow")), Loads(Of(plan, "Moses Okafor")));
        Assert.Equal(Of(plan, "Tess Marlow")["trips"]!.ToJsonString(), Of(plan, "Moses Okafor")["trips"]!.ToJsonString());
        var mine = (await phone.Get("mine/loads")).Ok.AsArray().Single()!;
        Assert.Equal(("Tess Marlow", Amount(leg["codriverPay"])), (Word(mine["with"]), Amount(mine["pay"])));

        // Nothing else is booked for them meanwhile, in either seat; and the trip does not go to its own co-driver.
        var other = await Booked(owner, 24, "from", "to", 4, 9_000);
        var busy = await owner.Post($"loads/{other}/cover/driver", Business.Crew("moses"));
        Assert.Equal("driver.busy driverId", $"{busy.Code} {busy.Fields.Single()}");
        Assert.Contains($"(trip {number})", busy.Detail);
        var same = await Make(owner, new { tripId = trip, driverId = Business.Ids["moses"] });
        Assert.Equal("team.same", same.Code);
        var solo = await TripOf(owner, other, "lena");
        var booked = await Set(owner, solo, "moses");
        Assert.Equal("driver.busy driverId", $"{booked.Code} {booked.Fields.Single()}");
        Assert.Contains($"(trip {number})", booked.Detail);
        var left = await owner.Put(
            $"drivers/{Business.Ids["moses"]}",
            new
            {
                name = "Moses Okafor",
                shortName = "Moses",
                active = false,
            }
        );
        Assert.Equal("driver.busy", left.Code);
        Assert.Contains($"assigned to trip {number}", left.Detail);
        _ = (await owner.Post($"trips/{solo}/dissolve")).Ok;

        // The database holds it, whichever seat.
        await using (var w = await Business.Begin())
        {
            var refused = await Assert.ThrowsAsync<PostgresException>(async () =>
            {
                var row = (await Trip(owner, trip))["trip"]!;
                var span = new Span(Parsed(row["from"]), Parsed(row["until"]));
                await CoverStore.AddTrip(w, Business.Ids["moses"], Business.Ids["moses truck"], null, span);
            });
            Assert.Equal("driver_scheduled_once", refused.ConstraintName);
        }

        // Driven and delivered from the co-driver's phone.
        var stops = (await Sheet(owner, load))["load"]!["stops"]!.AsArray().Select(s => s!["id"]!.GetValue<long>()).ToArray();
        _ = (await phone.Post($"mine/loads/{load}/accept")).Ok;
        owner = await At(Instant.FromUtc(2026, 11, 30, 18, 0));
        phone = await Business.As(Role.Driver);
        foreach (
            var (stop, what, at) in new[]
            {
                (0, "arrived", "2026-11-24T15:00:00Z"),
                (0, "left", "2026-11-24T16:00:00Z"),
                (1, "arrived", "2026-11-25T18:00:00Z"),
                (1, "delivered", "2026-11-25T19:00:00Z"),
            }
        )
        {
            _ = (
                await phone.Post(
                    $"mine/loads/{load}/stops/{stops[stop]}",
                    new
                    {
                        @event = what,
                        at,
                        receivedBy = "R. Dahl",
                    }
                )
            ).Ok;
        }

        // Each settlement pays its part; together all of it, each once.
        var miles = leg["truckMiles"]!.GetValue<int>();
        var (hers, his) = (await Week(owner, Business.Ids["tess"], "2026-11-23"), await Week(owner, Business.Ids["moses"], "2026-11-23"));
        Assert.Equal((miles * 0.6m, miles * 0.4m), (Miles(hers), Miles(his)));
        _ = (await owner.Pay("settlements/approve", new { driverId = Business.Ids["tess"], monday = "2026-11-23" })).Ok;
        Assert.Equal(miles * 0.4m, Miles(await Week(owner, Business.Ids["moses"], "2026-11-23")));
        Assert.Equal("team.paid", (await Set(owner, trip, null)).Code);
        _ = (await owner.Pay("settlements/approve", new { driverId = Business.Ids["moses"], monday = "2026-11-23" })).Ok;
        await using (var db = await Business.Db.Source.OpenConnectionAsync())
        {
            Assert.Equal(
                2,
                await db.One<int>("select count(*)::int from settlement_legs where standing and leg_id = @id", ("id", Id(leg)))
            );
            var refused = await Assert.ThrowsAsync<PostgresException>(() =>
                db.Run(
                    "insert into settlement_legs (settlement_id, driver_id, leg_id, amount) select max(id), @d, @leg, 0 from settlements where driver_id = @d",
                    ("d", Business.Ids["tess"]),
                    ("leg", Id(leg))
                )
            );
            Assert.Equal("23505", refused.SqlState);
        }

        Assert.Empty(await Wrong());
    }

    [Fact]
    public async Task A_co_driver_is_changed_and_taken_off_and_what_they_drive_next_begins_where_the_team_ends()
    {
        await Business.AddCrew("ana", "Ana Ruiz");
        await Business.AddCrew("beth", "Beth Cole");
        var owner = await At(Instant.FromUtc(2026, 11, 24, 16, 42));
        var first = await Booked(owner, 25, "from", "to", 20, 38_000, 1_400m);
        var trip = await TripOf(owner, first, "ana");
        var cost = (await Legs(owner, first))[0]!["cost"]!.ToJsonString();
        _ = (await Set(owner, trip, "beth")).Ok;

        // From Spokane the co-driver goes back with a load of her own: empty miles count from where the team ends.
        var back = await Booked(owner, 27, "to", "from", 10, 20_000);
        _ = (await owner.Post($"loads/{back}/cover/driver", Business.Crew("beth"))).Ok;
        Assert.Equal(0, (await Legs(owner, back))[0]!["emptyMiles"]!.GetValue<int>());
        _ = (await Set(owner, trip, null)).Ok;
        Assert.Equal(cost, (await Legs(owner, first))[0]!["cost"]!.ToJsonString());
        _ = (await Set(owner, trip, "beth", 33.33m)).Ok;
        Assert.Equal(0, (await Legs(owner, back))[0]!["emptyMiles"]!.GetValue<int>());

        // Dissolved, she is free again.
        _ = (await owner.Post($"trips/{trip}/dissolve")).Ok;
        Assert.Equal("trip.over", (await Set(owner, trip, "beth")).Code);
        _ = (await owner.Post($"loads/{first}/cover/driver", Business.Crew("beth"))).Ok;
        Assert.Empty(await Wrong());
    }

    private static Instant Parsed(JsonNode? at) => NodaTime.Text.InstantPattern.ExtendedIso.Parse(Word(at)).Value;
}
