using System.Text.Json.Nodes;
using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Basics;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Trailers that are hooked and dropped on the way, and two at a time.</summary>
public sealed class TripTrailers(TestBusiness business) : PlanTest(business)
{
    private Task<Answer> Own(Caller caller, long trip, string kind, string place, long trailerId) =>
        caller.Post(
            $"trips/{trip}/stops",
            new
            {
                kind,
                placeId = Business.Ids[place],
                trailerId,
                allowLate = true,
            }
        );

    private static async Task<long> Trailer(Caller owner, string unit, int? lengthIn = null) =>
        (
            await owner.Post(
                "trailers",
                new
                {
                    unit,
                    equipment = "reefer",
                    active = true,
                    lengthIn,
                    payloadLb = lengthIn is null ? (int?)null : 22_500,
                    tareLb = lengthIn is null ? (int?)null : 7_000,
                }
            )
        ).Ok["id"]!.GetValue<long>();

    private static Task<Answer> On(Caller caller, long load, long trip, long? trailerId = null) =>
        caller.Post(
            $"loads/{load}/cover/trip",
            new
            {
                tripId = trip,
                allowLate = true,
                trailerId,
            }
        );

    private static IEnumerable<string> InTrailers(JsonNode sheet) =>
        sheet["loads"]!.AsArray().Select(l => $"{Word(l!["load"])} {Word(l["trailer"])}");

    private async Task<string> Held(long trailer)
    {
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        return string.Join(
            ", ",
            await db.Rows(
                """
                select t.number || case when x.scheduled = t.scheduled then '' when lower(x.scheduled) > lower(t.scheduled) then ' later' else ' until' end
                    || case when x.ended_at is not null then ' ended' when x.started_at is not null then ' under way' else '' end as held
                from trip_trailers x join trips t on t.id = x.trip_id where x.trailer_id = @id and x.canceled_at is null order by lower(x.scheduled)
                """,
                r => r.Text("held"),
                ("id", trailer)
            )
        );
    }

    [Fact]
    public async Task A_trip_drops_its_trailer_and_goes_on_with_another()
    {
        var owner = await Business.As(Role.Owner);
        var (first, second) = (Business.Ids["kai trailer"], await Trailer(owner, "R-second"));
        _ = (await owner.Post($"trailers/{second}/location", new { placeId = Business.Ids["handover"], at = "2026-11-20T12:00:00Z" })).Ok;
        var one = await Booked(owner, 25, "from", "handover", 10, 20_000);
        var two = await Booked(owner, 26, "handover", "to", 10, 20_000);
        var trip = await TripOf(owner, one, "kai");
        var number = Word((await Trip(owner, trip))["trip"]!["number"]);

        // What cannot be is said in words, and nothing of it stays.
        Assert.Equal("trailer.long", (await Own(owner, trip, "hook", "handover", second)).Code);
        Assert.Equal("stop.elsewhere", (await Own(owner, trip, "hook", "to", second)).Code);
        Assert.Equal("missing", (await Own(owner, trip, "drop", "handover", second)).Code);
        Assert.Equal("missing", (await Own(owner, trip, "hook", "handover", 99_999_999)).Code);
        Assert.Single((await Trip(owner, trip))["trailers"]!.AsArray());
        Assert.Equal("", await Held(second));

        var drop = (await Own(owner, trip, "drop", "handover", first)).Ok["stopId"]!.GetValue<long>();
        var hook = (await Own(owner, trip, "hook", "handover", second)).Ok["stopId"]!.GetValue<long>();
        Assert.Equal("missing", (await On(owner, two, trip, 99_999_999)).Code);
        _ = (await On(owner, two, trip)).Ok;
        var sheet = await Trip(owner, trip);
        Assert.Equal(["Rkai", "R-second"], sheet["trailers"]!.AsArray().Select(t => Word(t!["unit"])));
        var numbers = sheet["loads"]!.AsArray().Select(l => Word(l!["load"])).ToArray();
        Assert.Equal([$"{numbers[0]} Rkai", $"{numbers[1]} R-second"], InTrailers(sheet));
        Assert.Equal(
            ["Rkai", "Rkai", "", "R-second", "R-second", "R-second"],
            sheet["visits"]!.AsArray().Select(v => string.Join('+', v!["trailers"]!.AsArray().Select(t => Word(t!["unit"]))))
        );
        Assert.Equal("R-second", Word((await Legs(owner, two))[0]!["trailer"]));
        Assert.Equal(($"{number} until", $"{number} later"), (await Held(first), await Held(second)));
        Assert.Empty(await Wrong());
        var plan = Of(await Plan(owner), "Kai Voss");
        Assert.Equal([first, second], plan["trips"]![0]!["trailers"]!.AsArray().Select(t => t!["trailerId"]!.GetValue<long>()));
        Assert.Equal(second, plan["trailerId"]!.GetValue<long>());
        var row = (await owner.RowsOf("trips", ListCalls.Where("number", "is", number), ["trailer"])).Single();
        Assert.Equal("Rkai, R-second", Word(row["trailer"]));
        Assert.Contains(numbers[1], (await owner.Get("line?q=R-second")).Ok.ToJsonString(), StringComparison.Ordinal);

        // The first trailer is free for another truck once it is dropped; the second is not before.
        var three = await Booked(owner, 27, "handover", "to", 4, 8_000);
        var taken = await Cover(owner, three, "lena", first);
        Assert.Equal(200, (int)taken.Status);
        _ = (await owner.Post($"loads/{three}/unassign")).Ok;
        Assert.Equal("trailer.busy", (await Cover(owner, await Booked(owner, 26, "handover", "to", 4, 8_000), "lena", second)).Code);

        // Freight cannot be where its trailer is not: not after it is dropped, not before it is hooked, not without it.
        var leg = sheet["loads"]![1]!["legId"]!.GetValue<long>();
        Assert.Equal("trailer.away", (await owner.Put($"trips/{trip}/legs/{leg}/trailer", new { trailerId = first })).Code);
        Assert.Equal("missing", (await owner.Put($"trips/{trip}/legs/{leg}/trailer", new { trailerId = 99_999_999 })).Code);
        Assert.Equal(404, (int)(await owner.Put($"trips/{trip}/legs/99999999/trailer", new { trailerId = first })).Status);
        Assert.Equal("trailer.away", (await owner.Post($"trips/{trip}/stops/{hook}/remove")).Code);
        var ids = Ids(sheet);
        var early = new[] { ids[0], ids[4], ids[1], ids[2], ids[3], ids[5] };
        Assert.Equal(
            "trailer.away",
            (
                await owner.Put(
                    $"trips/{trip}/order",
                    new
                    {
                        order = early,
                        was = ids,
                        allowLate = true,
                    }
                )
            ).Code
        );
        await using (var db = await Business.Db.Source.OpenConnectionAsync())
        {
            foreach (
                var (sql, state) in new[]
                {
                    ($"delete from trip_trailers where trip_id = {trip} and trailer_id = {second}", "23503"),
                    ($"update legs set trailer_id = {Business.Ids["lena trailer"]} where id = {leg}", "23503"),
                    ($"update trip_visits set seq = seq + 100 where trip_id = {trip} and trip_stop_id = {hook}", "LK008"),
                    ($"update trip_stops set place_id = {Business.Ids["to"]} where id = {hook}", "LK009"),
                }
            )
            {
                Assert.Equal(state, (await Assert.ThrowsAsync<PostgresException>(() => db.Run(sql))).SqlState);
            }
        }

        // As it happens, each trailer is where it is.
        owner = await At(Instant.FromUtc(2026, 11, 27, 8, 0));
        async Task<string> Where(string unit) =>
            (await owner.Get("fleet/locations")).Ok["trailers"]!
                .AsArray()
                .Where(t => Word(t!["unit"]) == unit)
                .Select(t => Word(t!["where"]))
                .Single();
        async Task Made(long load, string pickup, string delivery)
        {
            var stops = (await Sheet(owner, load))["load"]!["stops"]!.AsArray().Select(s => Id(s)).ToArray();
            _ = (await Stop(owner, load, stops[0], "arrived", pickup)).Ok;
            _ = (await Stop(owner, load, stops[0], "left", pickup)).Ok;
            _ = (await Stop(owner, load, stops[1], "arrived", delivery)).Ok;
            _ = (await Stop(owner, load, stops[1], "delivered", delivery)).Ok;
        }

        await Made(one, "2026-11-25T15:00:00Z", "2026-11-25T19:00:00Z");
        Assert.Equal($"{number} until under way", await Held(first));
        _ = (await owner.Post($"trips/{trip}/stops/{drop}", new { left = true, at = "2026-11-25T20:00:00Z" })).Ok;
        Assert.Equal(($"{number} until ended", $"{number} later"), (await Held(first), await Held(second)));
        _ = (await owner.Post($"trips/{trip}/stops/{hook}", new { left = true, at = "2026-11-25T20:30:00Z" })).Ok;
        Assert.Equal($"{number} later under way", await Held(second));
        _ = (await owner.Post($"trips/{trip}/stops/{hook}/undo")).Ok;
        Assert.Equal($"{number} later", await Held(second));
        _ = (await owner.Post($"trips/{trip}/stops/{hook}", new { left = true, at = "2026-11-25T20:30:00Z" })).Ok;
        Assert.Equal("trailer.aboard", (await Picked(owner, two, leg, trip, first)).Code);
        await Made(two, "2026-11-25T22:00:00Z", "2026-11-26T06:00:00Z");
        Assert.Equal(("Missoula MT", "Spokane WA"), (await Where("Rkai"), await Where("R-second")));
        Assert.Equal($"{number} later ended", await Held(second));
        Assert.Empty(await Wrong());
    }

    private static async Task<Answer> Picked(Caller owner, long load, long leg, long trip, long trailer)
    {
        var stop = (await Sheet(owner, load))["load"]!["stops"]![0]!;
        _ = (await Stop(owner, load, Id(stop), "arrived", "2026-11-25T21:30:00Z")).Ok;
        var answer = await owner.Put($"trips/{trip}/legs/{leg}/trailer", new { trailerId = trailer });
        _ = (await owner.Post($"loads/{load}/stops/{Id(stop)}/undo")).Ok;
        return answer;
    }

    private Task<Answer> Cover(Caller owner, long load, string who, long trailer) =>
        owner.Post(
            $"loads/{load}/cover/driver",
            new
            {
                driverId = Business.Ids[who],
                truckId = Business.Ids[$"{who} truck"],
                trailerId = trailer,
            }
        );

    [Fact]
    public async Task Two_pups_carry_what_one_cannot()
    {
        var owner = await Business.As(Role.Owner);
        var (front, back) = (await Trailer(owner, "P-1", 336), await Trailer(owner, "P-2", 336));
        await Business.AddCrew("doubles", "Dora Blessing");
        var loads = new List<long>();
        foreach (var pallets in new[] { 14, 14, 4 })
        {
            loads.Add(await Booked(owner, 28, "from", "to", pallets, pallets * 1_400));
        }

        Assert.Equal(200, (int)(await Cover(owner, loads[0], "doubles", front)).Status);
        var trip = (await Sheet(owner, loads[0]))["load"]!["tripId"]!.GetValue<long>();
        // One pup is full: nothing else shares its way.
        Assert.DoesNotContain((await owner.Get($"trips/{trip}/loads")).Ok.AsArray(), o => loads.Contains(o!["loadId"]!.GetValue<long>()));
        var hook = (await Own(owner, trip, "hook", "from", back)).Ok["stopId"]!.GetValue<long>();
        var offers = (await owner.Get($"trips/{trip}/loads")).Ok.AsArray();
        Assert.Equal("P-2", Word(offers.Single(o => o!["loadId"]!.GetValue<long>() == loads[1])!["trailer"]));
        _ = (await On(owner, loads[1], trip)).Ok;
        var sheet = await Trip(owner, trip);
        Assert.Equal(["P-1", "P-2"], sheet["loads"]!.AsArray().Select(l => Word(l!["trailer"])));
        var full = sheet["visits"]!
            .AsArray()
            .Last(v => v!["trailers"]!.AsArray().Count == 2 && v["after"]!["loads"]!.AsArray().Count == 2)!;
        Assert.Equal([19_600, 19_600], full["trailers"]!.AsArray().Select(t => t!["on"]!["weightLb"]!.GetValue<int>()));
        // 80,000 less a sleeper of 18,500, two pups of 7,000 and the freight.
        Assert.Equal(80_000 - 18_500 - 14_000 - 39_200, full["after"]!["roomLb"]!.GetValue<int>());
        Assert.Equal("P-2", Word((await Legs(owner, loads[1]))[0]!["trailer"]));
        Assert.Empty(await Wrong());

        // Both are full; neither takes the third beside what is in it, wherever it is to go.
        var leg = sheet["loads"]![1]!["legId"]!.GetValue<long>();
        Assert.Equal("capacity.weight", (await owner.Put($"trips/{trip}/legs/{leg}/trailer", new { trailerId = front })).Code);
        _ = (await owner.Post($"loads/{loads[0]}/unassign?leg={sheet["loads"]![0]!["legId"]}")).Ok;
        _ = (await owner.Put($"trips/{trip}/legs/{leg}/trailer", new { trailerId = front })).Ok;
        Assert.Equal(["P-1"], (await Trip(owner, trip))["loads"]!.AsArray().Select(l => Word(l!["trailer"])));
        Assert.Equal("P-1", Word((await Legs(owner, loads[1]))[0]!["trailer"]));
        _ = (await owner.Post($"trips/{trip}/stops/{hook}/remove")).Ok;
        Assert.Equal("", await Held(back));
        Assert.Single((await Trip(owner, trip))["trailers"]!.AsArray());
        // Copied with its trip only while it keeps its trailer.
        _ = (await Own(owner, trip, "hook", "from", back)).Ok;
        var copy = await owner.Post($"trips/{trip}/copy", new { on = "2026-12-05", assign = true });
        Assert.Equal("copy.trailers", copy.Code);
        Assert.Empty(await Wrong());
    }
}
