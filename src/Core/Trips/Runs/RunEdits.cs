namespace SteadyLark.Core.Trips.Runs;

/// <summary>What a change by hand costs.</summary>
/// <param name="Runs">The orders it makes, one for each driver.</param>
/// <param name="Miles">More than before, over all runs.</param>
/// <param name="Minutes">More driving than before, over all runs.</param>
/// <param name="Breaks">What it breaks in words, or null when every promise is kept.</param>
public sealed record RunChange(IReadOnlyList<IReadOnlyList<int>> Runs, double Miles, double Minutes, string? Breaks);

/// <summary>Changes to runs by hand: the other stops keep their order.</summary>
public static class RunEdits
{
    /// <summary>Moves a stop to a place in a driver's run.</summary>
    /// <param name="runs">Orders, one for each driver.</param>
    /// <param name="to">The driver who is to have it.</param>
    /// <param name="place">Before which of their other stops, 0 for the first.</param>
    public static RunChange Move(RunProblem p, IReadOnlyList<IReadOnlyList<int>> runs, int stop, int to, int place)
    {
        var without = runs.Select(r => r.Where(s => s != stop).ToList()).ToList();
        without[to].Insert(Math.Clamp(place, 0, without[to].Count), stop);
        return Change(p, runs, without);
    }

    /// <summary>Takes a stop out of its run.</summary>
    public static RunChange Remove(RunProblem p, IReadOnlyList<IReadOnlyList<int>> runs, int stop) =>
        Change(p, runs, runs.Select(r => r.Where(s => s != stop).ToList()).ToList());

    /// <summary>Puts a stop in where it costs least and keeps every promise; where it costs least when it cannot be had without breaking one.</summary>
    /// <param name="from">How many stops of each driver's run may not be stood before: what is done or locked there.</param>
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

        // Against what was, the stop where it stood before counted.
        return Change(p, runs, best!.Runs);
    }

    /// <summary>Which promise a driver's order breaks, in words; null when it keeps them all.</summary>
    public static string? Breaks(RunProblem p, int driver, IReadOnlyList<int> stops) => RunClock.Go(p, driver, stops).Broken switch
    {
        null => null,
        < 0 => $"driver {driver + 1} would exceed the {p.Shift:0}-minute shift",
        _ when RunClock.Go(p with { Stops = p.Stops.Select(s => s with { Closes = RunProblem.Ever * 10 }).ToList() }, driver, stops).Run is null => $"driver {driver + 1} cannot take it: it is reserved for another driver, or the truck is full",
        { } broken => $"stop {broken} would be reached after its window closes at {RunClock.Clock(p.Stops[broken].Closes)}",
    };

    private static RunChange Change(RunProblem p, IReadOnlyList<IReadOnlyList<int>> before, IReadOnlyList<IReadOnlyList<int>> after)
    {
        var (was, now) = (Sum(p, before), Sum(p, after));
        var breaks = Enumerable.Range(0, after.Count).Select(d => Breaks(p, d, after[d])).FirstOrDefault(x => x is not null);
        return new RunChange(after, now.Miles - was.Miles, now.Minutes - was.Minutes, breaks);
    }

    private static (double Miles, double Minutes) Sum(RunProblem p, IReadOnlyList<IReadOnlyList<int>> runs) =>
        (runs.Select((r, d) => RunClock.Cost(p with { Objective = RunObjective.Miles }, d, r)).Sum(), runs.Select((r, d) => RunClock.Cost(p with { Objective = RunObjective.Minutes }, d, r)).Sum());
}
