using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Trips;
using Xunit;

namespace SteadyLark.Server.Tests.Fleet;

/// <summary>Features of trailers against what loads require: covering, the plan, trips, edits and the list itself.</summary>
public sealed class RequiredFeatures(TestBusiness business) : PlanTest(business)
{
    private async Task<Answer> Have(Caller owner, string trailer, params string[] features)
    {
        var row = (await owner.Get("fleet")).Ok["trailers"]!.AsArray().Single(t => Id(t) == Business.Ids[trailer])!;
        return await owner.Put(
            $"trailers/{Business.Ids[trailer]}",
            new
            {
                unit = Word(row["unit"]),
                equipment = Word(row["equipment"]),
                active = true,
                features,
            }
        );
    }

    private JsonNode Order(string reference, params string[] features)
    {
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(Business.Order(6, reference)))!;
        order["features"] = new JsonArray(features.Select(f => (JsonNode?)f).ToArray());
        return order;
    }

    [Fact]
    public async Task A_load_goes_only_on_a_trailer_that_has_what_it_requires()
    {
        var owner = await Business.As(Role.Owner);
        Assert.Equal("features", (await owner.Post("loads", Order("PO wrong", "rocket"))).Fields.Single());
        var load = (await owner.Post("loads", Order("PO liftgate", "Straps", "liftgate"))).Id;
        Assert.Equal(["liftgate", "straps"], (await Sheet(owner, load))["load"]!["features"]!.AsArray().Select(Word));

        // Refused on Cover, on the plan and among trailers, in the same words.
        var choices = (await owner.Get($"loads/{load}/choices")).Ok;
        var shown = choices["trailers"]!.AsArray().Single(t => Id(t) == Business.Ids["moses trailer"])!;
        Assert.Equal("no liftgate, straps", Word(shown["blocked"]));
        var refused = await owner.Post($"loads/{load}/cover/driver", Business.Crew("moses"));
        Assert.Equal("trailer.features trailerId", $"{refused.Code} {refused.Fields.Single()}");
        var move = new
        {
            legIds = new[] { await Leg(owner, load) },
            driverId = Business.Ids["moses"],
            truckId = Business.Ids["moses truck"],
            trailerId = Business.Ids["moses trailer"],
        };
        Assert.Equal("trailer.features", (await Make(owner, move)).Code);

        Assert.Equal("features", (await Have(owner, "moses trailer", "rocket")).Fields.Single());
        _ = (await Have(owner, "moses trailer", "straps", "liftgate")).Ok;
        _ = (await owner.Post($"loads/{load}/cover/driver", Business.Crew("moses"))).Ok;

        // While it is on the way, the trailer keeps what the load requires, and the load requires what the trailer has.
        Assert.Equal("trailer.features features", await Said(Have(owner, "moses trailer", "straps")));
        Assert.Equal("trailer.features features", await Said(owner.Put($"loads/{load}", Order("PO liftgate", "liftgate", "vents"))));
        _ = (await owner.Put($"loads/{load}", Order("PO liftgate", "straps"))).Ok;
        _ = (await Have(owner, "moses trailer", "straps")).Ok;

        // What would ride along is offered only where the trailer has it.
        var trip = (await Sheet(owner, load))["load"]!["tripId"]!.GetValue<long>();
        var along = Order("PO vents", "vents");
        along["freight"]![0]!["pallets"] = 2;
        along["freight"]![0]!["weightLb"] = 2_000;
        var open = (await owner.Post("loads", along)).Id;
        Assert.DoesNotContain((await owner.Get($"trips/{trip}/loads")).Ok.AsArray(), o => o!["loadId"]!.GetValue<long>() == open);
        Assert.Empty((await owner.Get($"loads/{open}/trips")).Ok.AsArray());
        var joined = await owner.Post($"loads/{open}/cover/trip", new { tripId = trip, allowLate = true });
        Assert.Equal("trailer.features", joined.Code);
    }

    private static async Task<string> Said(Task<Answer> answer) => await answer is var a ? $"{a.Code} {a.Fields.Single()}" : "";

    [Fact]
    public async Task The_list_is_edited_and_a_new_name_is_everywhere()
    {
        var owner = await Business.As(Role.Owner);
        _ = (await Have(owner, "lena trailer", "vents", "e-track")).Ok;
        var load = (await owner.Post("loads", Order("PO renamed", "e-track", "vents"))).Id;
        var list = (await owner.Get("trailer-features")).Ok.AsArray();
        Assert.Equal(1, Uses(list, "vents", "trailers"));
        Assert.InRange(Uses(list, "vents", "loads"), 1, 2);

        // Two swap their names, one is new, one that nothing has is gone.
        var rows = list.Select(f => Word(f!["name"]))
            .Where(n => n != "third axle")
            .Select(n => new
            {
                was = (string?)n,
                name = n == "vents" ? "e-track"
                : n == "e-track" ? "vents"
                : n,
            })
            .Append(new { was = (string?)null, name = "Load Locks" })
            .ToList();
        Assert.Equal("no.right", (await (await Business.As(Role.Dispatcher)).Put("trailer-features", new { features = rows })).Code);
        var after = (await owner.Put("trailer-features", new { features = rows })).Ok.AsArray();
        Assert.Equal("load locks", Word(after[^1]!["name"]));
        Assert.Equal(["vents", "e-track"], (await Sheet(owner, load))["load"]!["features"]!.AsArray().Select(Word));

        var without = rows.Where(r => r.was != "vents").Select(r => new { was = r.was is null ? null : r.name, r.name });
        var kept = await owner.Put("trailer-features", new { features = without });
        Assert.Equal("feature.used features", $"{kept.Code} {kept.Fields.Single()}");
    }

    private static int Uses(JsonArray list, string name, string of) => list.Single(f => Word(f!["name"]) == name)![of]!.GetValue<int>();
}
