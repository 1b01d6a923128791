using SteadyLark.Core.Fitting;
using SteadyLark.Server.Basics;

namespace SteadyLark.Server.Trips;

/// <summary>What fits a trailer, tank or car hauler, for scripts: <c>fit FILE [--json]</c>. No server and no database.</summary>
public static class FitCommand
{
    /// <returns>0, or 2 when the arguments or the file are invalid.</returns>
    public static int Run(IReadOnlyList<string> args, TextWriter summary, TextWriter wrong) =>
        Script.Run<FitRequest, FitAnswer>("fit", args, summary, wrong, r => r.Answer(), a => Tell(a, summary));

    private static void Tell(FitAnswer answer, TextWriter summary)
    {
        summary.WriteLine(answer.Fits ? "Everything fits." : "Not everything fits.");
        foreach (var p in answer.Placed)
        {
            summary.WriteLine($"  {p.Id}: {p.Amount:0.##} in {p.Where}");
        }

        foreach (var l in answer.Left)
        {
            summary.WriteLine($"  {l.Id} left: {l.Why}");
        }
    }
}
