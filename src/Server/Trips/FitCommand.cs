using System.Text.Json;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Fitting;
using SteadyLark.Server.Basics;

namespace SteadyLark.Server.Trips;

/// <summary>What fits a trailer, tank or car hauler, for scripts: <c>fit FILE [--json]</c>. No server and no database.</summary>
public static class FitCommand
{
    /// <summary>The largest file accepted.</summary>
    private const int MaxBytes = 1_000_000;

    /// <returns>0, or 2 when the arguments or the file are invalid.</returns>
    public static int Run(IReadOnlyList<string> args, TextWriter summary, TextWriter wrong)
    {
        var files = args.Where(a => a != "--json").ToList();
        if (files.Count != 1)
        {
            return Refused(wrong, "Give a file: fit FILE, with --json.");
        }

        var file = Script.Read(files[0]);
        var answer = file.Ok ? Answer(file.Value) : file.Problems;
        if (!answer.Ok)
        {
            return Refused(wrong, string.Join(Environment.NewLine, answer.Problems.Select(p => p.Message)));
        }

        if (args.Contains("--json"))
        {
            summary.WriteLine(JsonSerializer.Serialize(answer.Value, Script.Json));
            return 0;
        }

        summary.WriteLine(answer.Value.Fits ? "Everything fits." : "Not everything fits.");
        foreach (var p in answer.Value.Placed)
        {
            summary.WriteLine($"  {p.Id}: {p.Amount:0.##} in {p.Where}");
        }

        foreach (var l in answer.Value.Left)
        {
            summary.WriteLine($"  {l.Id} left: {l.Why}");
        }

        return 0;
    }

    /// <summary>The answer to a question in JSON.</summary>
    public static Outcome<FitAnswer> Answer(byte[] file)
    {
        if (file.Length > MaxBytes)
        {
            return new Problem("too.large", "The file is larger than 1 MB.");
        }

        try
        {
            return JsonSerializer.Deserialize<FitRequest>(file, Script.Json) is { } request
                ? request.Answer()
                : new Problem("json", "The file is empty: docs/fit.md says what it contains.");
        }
        catch (JsonException e)
        {
            return new Problem("json", $"The file is not JSON as described in docs/fit.md: {e.Message}");
        }
    }

    private static int Refused(TextWriter wrong, string why)
    {
        wrong.WriteLine(why);
        return 2;
    }
}
