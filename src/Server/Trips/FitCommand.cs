using System.Text.Json;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Fitting;
using SteadyLark.Server.Basics;

namespace SteadyLark.Server.Trips;

/// <summary>What fits a trailer, tank or car hauler, for scripts: <c>fit FILE [--json]</c>. No server and no database.</summary>
public static class FitCommand
{
    /// <returns>0, or 2 when the arguments or the file are invalid.</returns>
    public static int Run(IReadOnlyList<string> args, TextWriter summary, TextWriter wrong)
    {
        var files = args.Where(a => a != "--json").ToList();
        if (files.Count != 1)
        {
            return Script.Refused(wrong, new Problem("file", "Give a file: fit FILE, with --json."));
        }

        var answer = Script.Ask<FitRequest, FitAnswer>(files[0], "docs/fit.md", r => r.Answer());
        if (!answer.Ok)
        {
            return Script.Refused(wrong, answer.Problems);
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
}
