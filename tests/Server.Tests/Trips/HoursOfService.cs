using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Tools;
using SteadyLark.Server.Trips;
using Xunit;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Hours of service, for scripts: by command and by request.</summary>
public sealed class HoursOfService(TestBusiness business) : IClassFixture<TestBusiness>
{
    private const string Question = """
        {"rules": "us-70-8", "zone": "America/Denver", "now": "2026-11-24T12:00:00Z",
         "log": [{"from": "2026-11-23T12:00:00Z", "until": "2026-11-23T20:00:00Z", "duty": "driving"}],
         "visits": [{"miles": 900, "minutes": 900, "until": "2026-11-25T04:00:00Z", "service": 60, "name": "Fargo"}]}
        """;

    private static (int Code, string Out, string Wrong) Run(string text, params string[] more) =>
        ScriptRun.Of(HoursCommand.Run, text, more);

    [Fact]
    public async Task The_command_and_the_request_answer_alike()
    {
        var (code, text, _) = Run(Question, "--json");
        var answer = JsonNode.Parse(text)!;
        Assert.Equal((0, 660), (code, answer["remaining"]!["driveMinutes"]!.GetValue<int>()));
        Assert.Equal(["drive", "rest", "drive", "service"], answer["plan"]!.AsArray().Select(p => p!["kind"]!.GetValue<string>()));
        Assert.Equal(-540, answer["visits"]![0]!["slackMinutes"]!.GetValue<int>());
        Assert.Equal(["team", "relay", "later_appointment"], answer["fixes"]!.AsArray().Select(f => f!["kind"]!.GetValue<string>()));
        var owner = await business.As(Role.Owner);
        Assert.Equal(answer.ToJsonString(), (await owner.Post("hours", JsonNode.Parse(Question)!)).Ok.ToJsonString());
    }

    [Fact]
    public void People_read_sentences()
    {
        var (code, text, _) = Run(Question);
        Assert.Equal(0, code);
        Assert.Contains("Left: 11:00 driving, 14:00 in the window, 62:00 in the cycle.", text, StringComparison.Ordinal);
        Assert.Contains("visit 1: arrives 2026-11-25T13:00:00Z, 9:00 late", text, StringComparison.Ordinal);
        Assert.Contains("Send a second driver who is rested. Gains 9:00.", text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Mistakes_are_named_and_end_with_2()
    {
        var (code, text, wrong) = Run(Question.Replace("driving", "asleep", StringComparison.Ordinal));
        Assert.Equal((2, ""), (code, text));
        Assert.Contains("The duty of entry 1 is one of off, sleeper, driving, on_duty, personal, yard.", wrong, StringComparison.Ordinal);
        Assert.Equal(2, Run("[1, 2]").Code);
        Assert.Equal(2, HoursCommand.Run(["no-such-file"], TextWriter.Null, TextWriter.Null));
        Assert.Equal(2, HoursCommand.Run([], TextWriter.Null, TextWriter.Null));
        var answer = await (await business.As(Role.Owner)).Post(
            "hours",
            JsonNode.Parse(Question.Replace("us-70-8", "us-80-8", StringComparison.Ordinal))!
        );
        Assert.Equal((422, "rules"), ((int)answer.Status, answer.Body!["errors"]![0]!["field"]!.GetValue<string>()));
    }
}
