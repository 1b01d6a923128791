using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Tools;
using SteadyLark.Server.Trips;
using Xunit;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>What fits, for scripts: by command and by request.</summary>
public sealed class Fit(TestBusiness business) : IClassFixture<TestBusiness>
{
    private const string Tank = """
        {"kind": "tank", "compartments": [2000, 1500],
         "orders": [{"id": "A", "product": "oil", "gallons": 2000, "stop": 2}, {"id": "B", "product": "wine", "gallons": 1501, "stop": 1}]}
        """;

    private static (int Code, string Out, string Wrong) Run(string text, params string[] more) => ScriptRun.Of(FitCommand.Run, text, more);

    [Fact]
    public async Task The_command_and_the_request_answer_alike()
    {
        var (code, text, _) = Run(Tank, "--json");
        var answer = JsonNode.Parse(text)!;
        Assert.Equal((0, false), (code, answer["fits"]!.GetValue<bool>()));
        Assert.Equal("only 1500 of 1501 gallons fit: 1 too much", answer["left"]![0]!["why"]!.GetValue<string>());
        Assert.Equal("compartment 1", answer["placed"]![0]!["where"]!.GetValue<string>());
        Assert.Equal(2, answer["after"]!.AsArray().Count);
        var owner = await business.As(Role.Owner);
        Assert.Equal(answer.ToJsonString(), (await owner.Post("fit", JsonNode.Parse(Tank)!)).Ok.ToJsonString());
    }

    [Fact]
    public void People_read_sentences_and_mistakes_end_with_2()
    {
        var (code, text, _) = Run(Tank);
        Assert.Equal(0, code);
        Assert.Contains("Not everything fits.", text, StringComparison.Ordinal);
        Assert.Contains("B left: only 1500 of 1501 gallons fit", text, StringComparison.Ordinal);
        Assert.Contains("kind is linear, tank or deck", Run("{}").Wrong, StringComparison.Ordinal);
        Assert.Equal(2, Run("not json").Code);
        Assert.Equal(2, Run("null").Code);
        Assert.Equal(2, FitCommand.Run(["no-such-file"], TextWriter.Null, TextWriter.Null));
        Assert.Equal(2, FitCommand.Run([], TextWriter.Null, TextWriter.Null));
    }
}
