namespace SteadyLark.Core.Trips.Runs;

/// <summary>The effect of a manual change.</summary>
/// <param name="Runs">The resulting orders, one per driver.</param>
/// <param name="Miles">Added miles over all runs.</param>
/// <param name="Minutes">Added driving time over all runs.</param>
/// <param name="Breaks">What it violates, in words, or null.</param>
public sealed record RunChange(IReadOnlyList<IReadOnlyList<int>> Runs, double Miles, double Minutes, string? Breaks);

/// <summary>Manual changes to runs: the other stops keep their order.</summary>
public static class RunEdits
{
    /// <summary>Moves a stop to a position in a driver's run.</summary>
    /// <param name="runs">Orders, one per driver.</param>
    /// <param name="to">The driver who gets it.</param>
    /// <param name="place">Its position among their other stops, 0 for the first.</param>
    public static RunChange Move(RunProblem p, IReadOnlyList<IReadOnlyList<int>> runs, int stop, int to, int place)
    {
        var without = runs.Select(r => r.Where(s => s != stop).ToList()).ToList();
        without[to].Insert(Math.Clamp(place, 0, without[to].Count), stop);
        return Change(p, runs, without);
    }

    /// <summary>Removes a stop from its run.</summary>
    public static RunChange Remove(RunProblem p, IReadOnlyList<IReadOnlyList<int>> runs, int stop) =>
        Change(p, runs, runs.Select(r => r.Where(s => s != stop).ToList()).ToList());

    /// <summary>Inserts a stop where it costs least without violations; where it costs least if there is no such place.</summary>
    /// <param name="from">The first position allowed in each driver's run: stops before it are done or locked.</param>
    public static RunChange Insert(RunProblem p, IReadOnlyList<IReadOnlyList<int>> runs, int stop, IReadOnlyList<int>? from = null)
    {
        var without = runs.Select(r => (IReadOnlyList<int>)r.Where(s => s != stop).ToList()).ToList();
        RunChange? best = null;
        double Cost(RunChange c) => p.Objective == RunObjective.Miles ? c.Miles : c.Minutes;
        for (var d = 0; d < runs.Count; d++)
        {
            for (var i = Math.Min(from?[d] ?? 0, without[d].Count); i <= without[d].Count; i++)
            {
                var change = Move(p, without, stop, d, i);
                if (best is null || (change.Breaks is not null, Cost(change)).CompareTo((best.Breaks is not null, Cost(best))) < 0)
                {
                    best = change;
                }
            }
        }

        // Compared with before, including the stop in its old position.
        return Change(p, runs, best!.Runs);
    }

    /// <summary>What a driver's order violates, in words; null when nothing.</summary>
    public static string? Breaks(RunProblem p, int driver, IReadOnlyList<int> stops) =>
        RunClock.Go(p, driver, stops).Broken switch
        {
            null => null,
            < 0 => $"driver {driver + 1} would exceed the {p.Shift:0}-minute shift",
            _ when RunClock.Go(p with { Stops = p.Stops.Select(s => s with { Closes = RunProblem.Ever * 10 }).ToList() }, driver, stops).Run
                    is null => $"driver {driver + 1} cannot take it: it is reserved for another driver, or the truck is full",
            { } broken => $"stop {broken} would be reached after its window closes at {RunClock.Clock(p.Stops[broken].Closes)}",
        };

    private static RunChange Change(RunProblem p, IReadOnlyList<IReadOnlyList<int>> before, IReadOnlyList<IReadOnlyList<int>> after)
    {
        var (was, now) = (Sum(p, before), Sum(p, after));
        var breaks = Enumerable.Range(0, after.Count).Select(d => Breaks(p, d, after[d])).FirstOrDefault(x => x is not null);
        return new RunChange(after, now.Miles - was.Miles, now.Minutes - was.Minutes, breaks);
    }

    private static (double Miles, double Minutes) Sum(RunProblem p, IReadOnlyList<IReadOnlyList<int>> runs) =>
        (
            runs.Select((r, d) => RunClock.Cost(p with { Objective = RunObjective.Miles }, d, r)).Sum(),
            runs.Select((r, d) => RunClock.Cost(p with { Objective = RunObjective.Minutes }, d, r)).Sum()
        );
}
