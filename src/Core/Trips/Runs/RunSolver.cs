using System.Diagnostics;
using Google.OrTools.ConstraintSolver;
using Google.OrTools.Sat;
using Google.Protobuf.WellKnownTypes;

namespace SteadyLark.Core.Trips.Runs;

/// <summary>Progress of the search.</summary>
/// <param name="Share">Share of the time used, 0 to 1.</param>
/// <param name="Cost">The best cost so far.</param>
public sealed record RunProgress(double Share, double Cost, int Drivers);

/// <summary>
/// Builds runs. OR-Tools' routing searches from two starting plans in parallel with guided local search; every run found by either is kept,
/// and CP-SAT then
/// chooses the best set of them that visits each stop once.
/// </summary>
public sealed class RunSolver
{
    /// <summary>OR-Tools works with integers: units per mile or minute.</summary>
    private const double Scale = 1_000;

    /// <summary>At any cost, a stop is left out only when nobody can visit it.</summary>
    private const long Left = 1_000_000_000_000;

    /// <summary>The most runs kept to choose from.</summary>
    private const int MaxKept = 30_000;

    private readonly RunProblem _p;
    private readonly IProgress<RunProgress>? _progress;
    private readonly CancellationToken _cancel;
    private readonly List<int> _visited;
    private readonly Dictionary<string, (int[] Stops, double Cost)> _kept = [];
    private readonly bool _alike;
    private List<int[]>? _best;
    private (int Missing, double Cost) _bestCost = (int.MaxValue, double.MaxValue);

    private RunSolver(RunProblem p, IProgress<RunProgress>? progress, CancellationToken cancel)
    {
        (_p, _progress, _cancel) = (p, progress, cancel);
        _visited = p.Visited.Where(s => RunClock.Impossible(p, s) is null).ToList();
        _alike =
            p.Drivers.All(d => d == p.Drivers[0]) && p.Stops.All(s => s.Driver is null) && p.Locked is null && p.Share != RunShare.Even;
    }

    /// <summary>Default time limit for a number of stops.</summary>
    public static TimeSpan Default(int stops) =>
        TimeSpan.FromSeconds(
            stops <= 8 ? 0.15
            : stops <= 14 ? 1
            : Math.Min(18, stops * 0.17)
        );

    /// <summary>The best plan found in the time allowed.</summary>
    /// <param name="p">Without errors in <see cref="RunProblem.Problems"/>.</param>
    /// <param name="time">How long to search; null for <see cref="Default"/>.</param>
    /// <param name="cancel">Ends the search; the best plan so far is returned.</param>
    public static RunPlan Solve(
        RunProblem p,
        TimeSpan? time = null,
        IProgress<RunProgress>? progress = null,
        CancellationToken cancel = default
    ) => new RunSolver(p, progress, cancel).Solve(time ?? Default(p.Visited.Count));

    private RunPlan Solve(TimeSpan time)
    {
        if (_visited.Count > 0)
        {
            var passed = Stopwatch.StartNew();
            double Left() => (time - passed.Elapsed).TotalSeconds;
            _progress?.Report(new RunProgress(0, 0, 0));
            var many = _alike && _visited.Count > 8;
            var turn = 0;
            // Search and selection alternate: each search starts from the selected plan.
            foreach (var (share, lambda) in many ? [(0.40, 0.1), (0.30, 0.25), (0.30, 0.05)] : new[] { (1.0, 0.1) })
            {
                var seconds = Math.Min(Left(), time.TotalSeconds * share) - (many ? time.TotalSeconds * 0.06 : 0);
                if (seconds <= 0.05 || _cancel.IsCancellationRequested)
                {
                    break;
                }

                var from = _best;
                var first = turn++ == 0;
                Parallel.Invoke(
                    () =>
                        Look(
                            FirstSolutionStrategy.Types.Value.ParallelCheapestInsertion,
                            LocalSearchMetaheuristic.Types.Value.GuidedLocalSearch,
                            lambda,
                            seconds,
                            first ? null : from
                        ),
                    () =>
                        Look(
                            FirstSolutionStrategy.Types.Value.Savings,
                            first
                                ? LocalSearchMetaheuristic.Types.Value.GuidedLocalSearch
                                : LocalSearchMetaheuristic.Types.Value.SimulatedAnnealing,
                            lambda * 2,
                            seconds,
                            null
                        )
                );
                if (many && !_cancel.IsCancellationRequested)
                {
                    Choose(Math.Max(0.2, Math.Min(Left(), time.TotalSeconds * 0.08)));
                }

                _progress?.Report(
                    new RunProgress(1 - Math.Max(0, Left() / time.TotalSeconds), Cost(_best), _best?.Count(r => r.Length > 0) ?? 0)
                );
            }
        }

        if (_visited.Count is > 0 and <= MostTried && _p.Locked is null && _p.Share != RunShare.Even && !_cancel.IsCancellationRequested)
        {
            Offer(TryAll());
        }

        return Plan();
    }

    /// <summary>Up to so many stops every order is tried: 1,957 for each driver.</summary>
    private const int MostTried = 6;

    /// <summary>The best plan there is, of all: the most stops served, then the least cost.</summary>
    private List<int[]> TryAll()
    {
        var fixedCost = _p.Share == RunShare.Fewest ? 1e7 : 0;
        // Of the drivers so far, for each set of stops served: what it costs, and the last driver's stops.
        var reached = new Dictionary<int, (double Cost, List<int[]> Routes)> { [0] = (0, []) };
        for (var d = 0; d < _p.Drivers.Count; d++)
        {
            var best = new Dictionary<int, (double Cost, int[] Stops)> { [0] = (0, []) };
            Extend(d, [], 0, best);
            var next = new Dictionary<int, (double Cost, List<int[]> Routes)>();
            foreach (var (served, (cost, routes)) in reached)
            {
                foreach (var (set, (more, stops)) in best.Where(b => (b.Key & served) == 0))
                {
                    var sum = cost + more + (set == 0 ? 0 : fixedCost);
                    if (!next.TryGetValue(served | set, out var had) || sum < had.Cost)
                    {
                        next[served | set] = (sum, [.. routes, stops]);
                    }
                }
            }

            reached = next;
        }

        return reached.OrderByDescending(r => int.PopCount(r.Key)).ThenBy(r => r.Value.Cost).First().Value.Routes;
    }

    /// <summary>Tries every order of the stops a driver does not have yet after those they have, and keeps the cheapest for each set.</summary>
    private void Extend(int driver, int[] stops, int set, Dictionary<int, (double Cost, int[] Stops)> best)
    {
        for (var i = 0; i < _visited.Count; i++)
        {
            if ((set & (1 << i)) == 0)
            {
                int[] longer = [.. stops, _visited[i]];
                var with = set | (1 << i);
                if (RunClock.Go(_p, driver, longer).Run is not null)
                {
                    var cost = RunClock.Cost(_p, driver, longer);
                    if (!best.TryGetValue(with, out var had) || cost < had.Cost)
                    {
                        best[with] = (cost, longer);
                    }
                }

                Extend(driver, longer, with, best);
            }
        }
    }

    private RunPlan Plan()
    {
        var runs = (_best ?? []).Select((stops, d) => RunClock.Go(_p, d, stops).Run!).Where(r => r is not null).ToList();
        var done = runs.SelectMany(r => r.Stops).ToHashSet();
        var unserved = _p
            .Visited.Where(s => !done.Contains(s))
            .Select(s => new Unserved(
                s,
                RunClock.Impossible(_p, s)
                    ?? (
                        _p.Drivers.Count == 1
                            ? "the driver cannot fit it in with the other stops: extend the shift or add a driver"
                            : $"{_p.Drivers.Count} drivers have no time left for it: add a driver or extend the shift"
                    )
            ))
            .ToList();
        return new RunPlan(runs.Where(r => r.Visits.Count > 0).ToList(), unserved);
    }

    private double Cost(List<int[]>? routes) => routes?.Select((r, d) => RunClock.Cost(_p, d, r)).Sum() ?? 0;

    /// <summary>One search.</summary>
    private void Look(
        FirstSolutionStrategy.Types.Value first,
        LocalSearchMetaheuristic.Types.Value how,
        double lambda,
        double seconds,
        List<int[]>? from
    )
    {
        // Nodes: the stops, then a start and an end for each driver; no place where none is given.
        var (n, m) = (_visited.Count, _p.Drivers.Count);
        var place = new int?[n + (2 * m)];
        for (var i = 0; i < n; i++)
        {
            place[i] = _visited[i];
        }

        for (var d = 0; d < m; d++)
        {
            (place[n + d], place[n + m + d]) = (_p.Drivers[d].Start, _p.Drivers[d].End);
        }

        var size = place.Length;
        using var manager = new RoutingIndexManager(size, m, Enumerable.Range(n, m).ToArray(), Enumerable.Range(n + m, m).ToArray());
        using var model = new RoutingModel(manager);
        long[][] Matrix(Func<int, int, double> of) =>
            Enumerable
                .Range(0, size)
                .Select(i =>
                    Enumerable
                        .Range(0, size)
                        .Select(j => (long)Math.Round((place[i] is { } a && place[j] is { } b && i != j ? of(a, b) : 0) * Scale))
                        .ToArray()
                )
                .ToArray();
        double Serves(int i) => i < n ? _p.Stops[_visited[i]].Service : 0;
        var cost = model.RegisterTransitMatrix(Matrix(_p.Cost));
        model.SetArcCostEvaluatorOfAllVehicles(cost);

        var times = Matrix((a, b) => _p.Minutes[a, b]);
        for (var i = 0; i < n; i++)
        {
            for (var j = 0; j < size; j++)
            {
                times[i][j] += (long)Math.Round(Serves(i) * Scale);
            }
        }

        var until = (long)(_p.Stops.Max(s => Math.Min(s.Closes, RunProblem.Ever * 10) + s.Service) * Scale) + times.Max(r => r.Max()) + 1;
        model.AddDimension(model.RegisterTransitMatrix(times), until, until, false, "time");
        var time = model.GetMutableDimension("time");
        for (var i = 0; i < n; i++)
        {
            var s = _p.Stops[_visited[i]];
            var index = manager.NodeToIndex(i);
            time.CumulVar(index).SetRange((long)Math.Round(s.Opens * Scale), Math.Min(until, (long)Math.Round(s.Closes * Scale)));
            model.AddDisjunction([index], Left);
            if (s.Driver is { } bound)
            {
                model.VehicleVar(index).SetValues([-1, bound]);
            }
        }

        for (var d = 0; d < m; d++)
        {
            time.CumulVar(model.Start(d)).SetMin((long)Math.Round(_p.Drivers[d].From * Scale));
            if (_p.Drivers[d].End is { } end)
            {
                time.CumulVar(model.End(d)).SetMax(Math.Min(until, (long)Math.Round(_p.Stops[end].Closes * Scale)));
            }

            if (_p.Shift is { } shift)
            {
                time.SetSpanUpperBoundForVehicle((long)Math.Round(shift * Scale), d);
            }
        }

        if (_p.Drivers.Any(d => d.Capacity < long.MaxValue) && _p.Stops.Any(s => s.Demand > 0))
        {
            var demand = model.RegisterUnaryTransitVector(
                Enumerable.Range(0, size).Select(i => i < n ? _p.Stops[_visited[i]].Demand : 0).ToArray()
            );
            model.AddDimensionWithVehicleCapacity(
                demand,
                0,
                _p.Drivers.Select(d => Math.Min(d.Capacity, int.MaxValue)).ToArray(),
                true,
                "load"
            );
        }

        if (_p.Share == RunShare.Fewest)
        {
            model.SetFixedCostOfAllVehicles(Left / 10_000);
        }
        else if (_p.Share == RunShare.Even)
        {
            model.AddDimension(model.RegisterTransitMatrix(times), 0, until * 10, true, "work");
            model.GetMutableDimension("work").SetGlobalSpanCostCoefficient(100);
            for (var d = 0; d < m; d++)
            {
                model.SetVehicleUsedWhenEmpty(true, d);
            }
        }

        Lock(manager, model, n, size);
        var parameters = operations_research_constraint_solver.DefaultRoutingSearchParameters();
        parameters.FirstSolutionStrategy = first;
        parameters.LocalSearchMetaheuristic = how;
        parameters.GuidedLocalSearchLambdaCoefficient = lambda;
        parameters.TimeLimit = Duration.FromTimeSpan(TimeSpan.FromSeconds(seconds));
        VoidToBoolean stop = () => _cancel.IsCancellationRequested;
        SearchMonitor? limit = null;
        if (_cancel.CanBeCanceled)
        {
            limit = model.solver().MakeCustomLimit(stop);
            model.AddSearchMonitor(limit);
        }

        VoidToVoid keep = () => Keep(manager, model, n, m);
        model.AddAtSolutionCallback(keep);
        model.CloseModelWithParameters(parameters);
        if (
            from is not null
            && model.ReadAssignmentFromRoutes(
                from.Select(r => r.Select(s => manager.NodeToIndex(_visited.IndexOf(s))).ToArray()).ToArray(),
                true
            )
                is { } begun
        )
        {
            model.SolveFromAssignmentWithParameters(begun, parameters);
        }
        else
        {
            model.SolveWithParameters(parameters);
        }

        // The search calls these from native code, out of sight of the garbage collector: without this reference it may collect them during
        // the search.
        GC.KeepAlive(stop);
        GC.KeepAlive(keep);
        GC.KeepAlive(limit);
    }

    /// <summary>Stops that keep their relative order.</summary>
    private void Lock(RoutingIndexManager manager, RoutingModel model, int n, int size)
    {
        if (_p.Locked is not { } locked || locked.All(l => l.Count < 2))
        {
            return;
        }

        model.AddDimension(model.RegisterUnaryTransitVector(Enumerable.Repeat(1L, size).ToArray()), 0, n + 2, true, "place");
        var at = model.GetMutableDimension("place");
        foreach (var order in locked)
        {
            var indices = order.Select(s => _visited.IndexOf(s)).Where(i => i >= 0).Select(i => manager.NodeToIndex(i)).ToList();
            for (var k = 1; k < indices.Count; k++)
            {
                model.solver().Add(at.CumulVar(indices[k - 1]) < at.CumulVar(indices[k]));
            }
        }
    }

    /// <summary>Keeps the runs of a plan the search found.</summary>
    private void Keep(RoutingIndexManager manager, RoutingModel model, int n, int m)
    {
        var routes = new List<int[]>(m);
        for (var d = 0; d < m; d++)
        {
            var stops = new List<int>();
            for (var i = model.NextVar(model.Start(d)).Value(); !model.IsEnd(i); i = model.NextVar(i).Value())
            {
                var node = manager.IndexToNode(i);
                if (node < n)
                {
                    stops.Add(_visited[node]);
                }
            }

            routes.Add([.. stops]);
        }

        lock (_kept)
        {
            Offer(routes);
            if (_alike)
            {
                foreach (var r in routes.Where(r => r.Length > 0))
                {
                    var cost = RunClock.Cost(_p, 0, r);
                    var key = Key(r);
                    if (_kept.TryGetValue(key, out var had) ? cost < had.Cost - 1e-9 : _kept.Count < MaxKept)
                    {
                        _kept[key] = (r, cost);
                    }
                }
            }
        }
    }

    private static string Key(int[] stops) => string.Create(stops.Length, stops, (span, all) =>
        {
            var sorted = (int[])all.Clone();
            Array.Sort(sorted);
            for (var i = 0; i < sorted.Length; i++)
            {
                span[i] = (char)sorted[i];
            }
        });

    /// <summary>Takes a plan when it is better than the best and violates nothing.</summary>
    private void Offer(List<int[]> routes)
    {
        var missing = _visited.Count - routes.Sum(r => r.Length);
        if (missing > _bestCost.Missing)
        {
            return;
        }

        var cost = Cost(routes);
        if (_p.Share == RunShare.Fewest)
        {
            cost += 1e7 * routes.Count(r => r.Length > 0);
        }
        else if (_p.Share == RunShare.Even)
        {
            var work = routes.Select((r, d) => RunClock.Go(_p, d, r).Run?.Working ?? 1e6).ToList();
            cost += (100 * work.Max()) + (1e9 * routes.Count(r => r.Length == 0));
        }

        if ((missing, cost).CompareTo(_bestCost) < 0 && routes.Select((r, d) => RunClock.Go(_p, d, r)).All(g => g.Run is not null))
        {
            (_best, _bestCost) = (routes, (missing, cost));
        }
    }

    /// <summary>The best selection of the runs found, with each stop in exactly one of them (set partitioning, solved by CP-SAT).</summary>
    private void Choose(double seconds)
    {
        List<(int[] Stops, double Cost)> runs;
        lock (_kept)
        {
            runs = [.. _kept.Values];
        }

        if (runs.Count == 0 || _best is null || _bestCost.Missing > 0)
        {
            return;
        }

        var model = new CpModel();
        var taken = runs.Select((_, i) => model.NewBoolVar($"r{i}")).ToArray();
        var of = _visited.ToDictionary(s => s, _ => new List<ILiteral>());
        for (var i = 0; i < runs.Count; i++)
        {
            foreach (var s in runs[i].Stops)
            {
                of[s].Add(taken[i]);
            }
        }

        foreach (var s in _visited)
        {
            model.AddExactlyOne(of[s]);
        }

        model.Add(LinearExpr.Sum(taken) <= _p.Drivers.Count);
        var each = _p.Share == RunShare.Fewest ? 1e7 : 0;
        model.Minimize(LinearExpr.WeightedSum(taken, runs.Select(r => (long)Math.Round((r.Cost + each) * Scale)).ToArray()));
        var now = _best.Where(r => r.Length > 0).Select(Key).ToHashSet();
        for (var i = 0; i < runs.Count; i++)
        {
            model.AddHint(taken[i], now.Contains(Key(runs[i].Stops)));
        }

        var solver = new CpSolver
        {
            StringParameters = $"max_time_in_seconds:{seconds.ToString(System.Globalization.CultureInfo.InvariantCulture)},num_workers:2",
        };
        if (solver.Solve(model) is CpSolverStatus.Optimal or CpSolverStatus.Feasible)
        {
            var chosen = runs.Where((_, i) => solver.BooleanValue(taken[i])).Select(r => r.Stops).ToList();
            while (chosen.Count < _p.Drivers.Count)
            {
                chosen.Add([]);
            }

            lock (_kept)
            {
                Offer(chosen);
            }
        }
    }
}
