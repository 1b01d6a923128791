using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Places;
using Xunit;

namespace SteadyLark.Server.Tests;

/// <summary>Places and ways over the API and from the command line.</summary>
public class Places(TestBusiness business) : IClassFixture<TestBusiness>
{
    [Fact]
    public async Task A_route_has_its_states_and_ambiguous_places_name_their_field()
    {
        var owner = await business.As(Role.Owner);
        var route = (
            await owner.Post(
                "route",
                new
                {
                    from = "Great Falls MT",
                    to = "spokane wash",
                    via = new[] { "59801" },
                }
            )
        ).Ok;
        Assert.InRange(route["miles"]!.GetValue<double>(), 355, 385);
        Assert.Equal(["MT", "ID", "WA"], route["byState"]!.AsObject().Select(s => s.Key));
        Assert.Equal(route["miles"]!.GetValue<double>(), route["byState"]!.AsObject().Sum(s => s.Value!.GetValue<double>()), 0.3);
        Assert.Equal(
            ["from", "to", "via[0]"],
            (
                await owner.Post(
                    "route",
                    new
                    {
                        from = "Springfield",
                        to = "",
                        via = new[] { "Missuola MT" },
                    }
                )
            ).Fields.Order()
        );
        Assert.Equal("outside", (await owner.Post("route", new { from = "Butte MT", to = "Honolulu HI" })).Code);
        var meant = (await owner.Get("resolve?q=Snowberry Dock")).Ok;
        Assert.NotNull(meant["sure"]!["placeId"]);
        Assert.Null((await owner.Get("resolve?q=Springfield")).Ok["sure"]);
    }

    [Fact]
    public void From_the_command_line_it_is_json_and_bad_input_ends_with_2()
    {
        var (summary, wrong) = (new StringWriter(), new StringWriter());
        Assert.Equal(0, MilesCommand.Run(["Butte MT", "Missoula MT", "--json"], summary, wrong));
        var route = JsonNode.Parse(summary.ToString())!;
        Assert.InRange(route["miles"]!.GetValue<double>(), 114, 126);
        Assert.Equal(["MT"], route["byState"]!.AsObject().Select(s => s.Key));
        Assert.True(route["minutes"]!.GetValue<double>() > 100);
        foreach (
            var bad in new string[][]
            {
                [],
                ["Butte MT"],
                ["Butte MT", "Springfield"],
                ["Butte MT", "Fargo ND", "--fast"],
                ["Butte MT", "Fargo ND", "--via"],
                ["Butte MT", "30,-140"],
                ["Butte MT", "Fargo ND", "--stay-in", "MX"],
            }
        )
        {
            wrong.GetStringBuilder().Clear();
            Assert.Equal(2, MilesCommand.Run(bad, summary, wrong));
            Assert.NotEmpty(wrong.ToString().Trim());
        }
    }
}
