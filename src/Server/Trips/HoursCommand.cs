using SteadyLark.Core.Hours;
using SteadyLark.Server.Basics;

namespace SteadyLark.Server.Trips;

/// <summary>Hours of service, for scripts: <c>hours FILE [--json]</c>. No server and no database.</summary>
public static class HoursCommand
{
    /// <returns>0, or 2 when the arguments or the file are invalid.</returns>
    public static int Run(IReadOnlyList<string> args, TextWriter summary, TextWriter wrong) =>
        Script.Run<HoursRequest, HoursAnswer>("hours", args, summary, wrong, r => r.Answer(), a => Tell(a, summary));

    private static void Tell(HoursAnswer answer, TextWriter summary)
    {
        var left = answer.Remaining;
        summary.WriteLine(
            $"Left: {Time(left.DriveMinutes)} driving, {Time(left.WindowMinutes)} in the window, {Time(left.CycleMinutes)} in the cycle."
        );
        foreach (var v in answer.Violations)
        {
            summary.WriteLine($"  violation of {v.Section} ({v.Rule}): {v.From} to {v.Until}");
        }

        foreach (var p in answer.Plan ?? [])
        {
            summary.WriteLine($"  {p.From} to {p.Until} {p.Kind}: {p.Why}");
        }

        foreach (var (v, i) in (answer.Visits ?? []).Select((v, i) => (v, i)))
        {
            summary.WriteLine(
                $"  visit {i + 1}: arrives {v.Arrives}{(v.SlackMinutes is { } slack ? slack < 0 ? $", {Time(-slack)} late" : $", {Time(slack)} slack" : "")}"
            );
        }

        foreach (var f in answer.Fixes ?? [])
        {
            summary.WriteLine($"  {f.What} Gains {Time(f.GainMinutes)}.");
        }
    }

    private static string Time(long minutes) => $"{minutes / 60}:{minutes % 60:00}";
}
