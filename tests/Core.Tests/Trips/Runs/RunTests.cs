using System.Globalization;
using CsCheck;
using Google.OrTools.Sat;
using SteadyLark.Core.Trips.Runs;
using Xunit;
using Xunit.Abstractions;

namespace SteadyLark.Core.Tests.Trips.Runs;

public class RunTests(ITestOutputHelper summary)
{
    /// <summary>Published problems whose least distances are proven, at a third of the time that is usual for them: within two
    /// percent.</summary>
    [Theory]
    [InlineData("c101", 25, 191.3)]
    [InlineData("r101", 25, 617.1)]
    [InlineData("rc101", 25, 461.1)]
    [InlineData("c101", 50, 362.4)]
    [InlineData("r101", 50, 1044.0)]
    public void Published_problems_are_solved_within_two_percent_of_the_optimum(string name, int customers, double min)
    {
        var p = Published(name, customers);
        var plan = RunSolver.Solve(p, RunSolver.Default(customers) / 3);
        summary.WriteLine(
            $"{name}.{customers}: {plan.Miles:0.0} against {min}, {(plan.Miles / min * 100) - 100:0.00} % more, {plan.Drivers} drivers"
        );
        Holds(p, plan);
        Assert.Empty(plan.Unserved);
        Assert.InRange(plan.Miles, min - 0.05, min * 1.02);
    }

    /// <summary>Small problems of our own against CP-SAT, which proves the least of all plans there are.</summary>
    [Fact]
    public void Small_problems_are_solved_optimally() =>
        Problems(6, 2)
            .Sample(
                p =>
                {
                    var plan = RunSolver.Solve(p, TimeSpan.FromSeconds(0.15));
                    Holds(p, plan);
                    if (plan.Unserved.Count == 0)
                    {
                        Assert.Equal(Proven(p)!.Value, plan.Miles, 2);
                    }
                },
                iter: 12
            );

    [Fact]
    public void Every_plan_respects_windows_capacities_and_shifts_and_visits_each_stop_once_or_says_why_not() =>
        Gen.Select(Problems(9, 3), Gen.Int[0, 2])
            .Sample(
                (p, share) =>
                {
                    var asked = p with { Share = (RunShare)share };
                    Holds(asked, RunSolver.Solve(asked, TimeSpan.FromSeconds(0.15)));
                },
                iter: 15
            );

    [Fact]
    public void Fewest_uses_no_more_drivers_than_any_and_even_shares_the_work()
    {
        var p = Published("r101", 25);
        var (any, fewest) = (
            RunSolver.Solve(p, TimeSpan.FromSeconds(1)),
            RunSolver.Solve(p with { Share = RunShare.Fewest }, TimeSpan.FromSeconds(1))
        );
        Assert.True(fewest.Drivers <= any.Drivers);

        var open = p with
        {
            Stops = p.Stops.Select(s => s with { Opens = 0, Closes = RunProblem.Ever }).ToList(),
            Drivers = p.Drivers.Take(3).Select(d => d with { Capacity = long.MaxValue }).ToList(),
            Share = RunShare.Even,
        };
        var work = RunSolver.Solve(open, TimeSpan.FromSeconds(1.5)).Runs.Select(r => r.Working).ToList();
        Assert.Equal(3, work.Count);
        Assert.True(work.Max() / work.Min() < 1.15, $"{string.Join(", ", work)} minutes are not alike");
    }

    [Fact]
    public void Unreachable_stops_are_left_out_with_the_reason()
    {
        double[,] far =
        {
            { 0, 60, 200 },
            { 60, 0, 220 },
            { 200, 220, 0 },
        };
        var p = new RunProblem(far, far, [new(), new(10, 0, 90, 5), new(10, 0, 100, 5)], [new RunDriver(0, 0, 0, 8)]);
        var plan = RunSolver.Solve(p);
        Assert.Equal([1], plan.Runs.SelectMany(r => r.Stops));
        Assert.Equal("no driver can arrive before 03:20, and its window closes at 01:40", plan.Unserved.Single().Why);

        Assert.Equal(
            "its demand of 9 is more than any truck holds",
            RunSolver.Solve(p with { Stops = [new(), new(10, 0, 90, 9), new(10, 0, 400, 5)] }).Unserved.Single(u => u.Stop == 1).Why
        );
        Assert.Contains(
            "exceeds the 300-minute shift",
            RunSolver.Solve(p with { Stops = [new(), new(10), new(10)], Shift = 300 }).Unserved.Single().Why,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "extend the shift or add a driver",
            RunSolver.Solve(p with { Stops = [new(), new(10, 0, 400, 5), new(10, 0, 400, 5)] }).Unserved.Single().Why,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void Drivers_leave_as_late_as_possible_at_no_cost()
    {
        double[,] m =
        {
            { 0, 30, 50 },
            { 30, 0, 40 },
            { 50, 40, 0 },
        };
        var p = new RunProblem(m, m, [new(), new(10, 480, 600), new(10, 700, 720)], [new RunDriver(0, 0, 360)]);
        var run = RunClock.Go(p, 0, [1, 2]).Run!;

        // 700 at the second, 40 and 10 before it: at the first by its closing at 600; 30 before that.
        Assert.Equal((570, 600, 700, 760), ((int)run.Begins, (int)run.Visits[0].Begins, (int)run.Visits[1].Begins, (int)run.Ends));
        Assert.Equal(50, run.Visits[1].Waits);
    }

    [Fact]
    public void Moving_a_stop_leaves_the_others_in_order_and_inserting_finds_the_cheapest_place() =>
        Gen.Select(Problems(8, 2), Gen.Int[1, 8], Gen.Int[0, 1], Gen.Int[0, 9])
            .Sample(
                (p, stop, driver, place) =>
                {
                    IReadOnlyList<IReadOnlyList<int>> runs =
                    [
                        [1, 2, 3, 4],
                        [5, 6, 7, 8],
                    ];
                    var moved = RunEdits.Move(p, runs, stop, driver, place);
                    foreach (var d in new[] { 0, 1 })
                    {
                        Assert.Equal(runs[d].Where(s => s != stop), moved.Runs[d].Where(s => s != stop));
                    }

                    double Miles(IReadOnlyList<IReadOnlyList<int>> r) => r.Select((x, d) => RunClock.Cost(p, d, x)).Sum();
                    Assert.Equal(Miles(moved.Runs) - Miles(runs), moved.Miles, 6);
                    Assert.Equal(moved.Runs.Select((r, d) => RunClock.Go(p, d, r).Run is null).Any(x => x), moved.Breaks is not null);
                    for (var d = 0; d < moved.Runs.Count; d++)
                    {
                        // Driven all the same, it has its times; where nothing is broken they are those of the promise kept.
                        var (kept, anyhow) = (RunClock.Go(p, d, moved.Runs[d]).Run, RunClock.Anyhow(p, d, moved.Runs[d]));
                        Assert.Equal(moved.Runs[d], anyhow.Visits.Select(v => v.Stop));
                        Assert.All(anyhow.Visits, v =>
                            Assert.True(v.Begins >= v.Arrives - 1e-9 && v.Begins >= p.Stops[v.Stop].Opens - 1e-9)
                        );
                        if (kept is not null)
                        {
                            Assert.Equal((kept.Begins, kept.Ends, kept.Miles), (anyhow.Begins, anyhow.Ends, anyhow.Miles));
                        }
                    }

                    var put = RunEdits.Insert(p, runs, stop);
                    var all = new[] { 0, 1 }
                        .SelectMany(d => Enumerable.Range(0, 5).Select(i => RunEdits.Move(p, runs, stop, d, i)))
                        .ToList();
                    var best = all.Where(c => c.Breaks is null).DefaultIfEmpty().Min(c => c?.Miles) ?? all.Min(c => c.Miles);
                    Assert.Equal(best, put.Miles, 6);
                },
                iter: 200
            );

    [Fact]
    public void Tied_stops_stay_with_their_driver_and_locked_ones_keep_their_order()
    {
        var p = Published("c101", 10);
        p = p with
        {
            Drivers = p.Drivers.Take(2).ToList(),
            Stops = p.Stops.Select((s, i) => s with { Opens = 0, Closes = RunProblem.Ever, Driver = i is 3 or 5 or 7 ? 1 : null }).ToList(),
            Locked =
            [
                [],
                [7, 3, 5],
            ],
        };
        var plan = RunSolver.Solve(p, TimeSpan.FromSeconds(0.5));
        Assert.Equal([7, 3, 5], plan.Runs.Single(r => r.Driver == 1).Stops.Where(s => s is 3 or 5 or 7));
        Assert.Empty(plan.Unserved);
    }

    [Fact]
    public void A_canceled_search_returns_the_best_so_far()
    {
        using var end = new CancellationTokenSource(400);
        var watch = System.Diagnostics.Stopwatch.StartNew();
        var p = Published("r101", 50);
        var plan = RunSolver.Solve(p, TimeSpan.FromSeconds(30), null, end.Token);
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(20));
        Holds(p, plan);
    }

    [Fact]
    public async Task Native_callbacks_survive_garbage_collection_during_a_search()
    {
        using var end = new CancellationTokenSource(1200);
        var token = end.Token;
        var clearing = Task.Run(() =>
        {
            while (!token.IsCancellationRequested)
            {
                GC.Collect();
                GC.WaitForPendingFinalizers();
            }
        });
        var p = Published("c101", 25);
        Holds(p, RunSolver.Solve(p, TimeSpan.FromSeconds(20), null, token));
        await clearing;
    }

    private static void Holds(RunProblem p, RunPlan plan)
    {
        var visited = plan.Runs.SelectMany(r => r.Stops).ToList();
        Assert.Equal(p.Visited.Order(), visited.Concat(plan.Unserved.Select(u => u.Stop)).Order());
        foreach (var run in plan.Runs)
        {
            var now = run.Begins;
            Assert.True(now >= p.Drivers[run.Driver].From - RunProblem.Tolerance);
            foreach (var v in run.Visits)
            {
                var s = p.Stops[v.Stop];
                Assert.Equal(now + v.Minutes, v.Arrives, 6);
                Assert.InRange(v.Begins, Math.Max(s.Opens, v.Arrives) - 1e-6, s.Closes + RunProblem.Tolerance);
                Assert.Equal(v.Begins + s.Service, v.Leaves, 6);
                now = v.Leaves;
            }

            Assert.True(run.Stops.Sum(s => p.Stops[s].Demand) <= p.Drivers[run.Driver].Capacity);
            Assert.True(p.Shift is null || run.Lasts <= p.Shift + RunProblem.Tolerance);
        }
    }

    private static Gen<RunProblem> Problems(int stops, int drivers) =>
        Gen.Select(Gen.Select(Gen.Int[0, 60], Gen.Int[0, 60], Gen.Int[0, 300], Gen.Int[40, 200]).Array[stops + 1], Gen.Int[200, 600])
            .Select(
                (at, shift) =>
                {
                    var m = new double[stops + 1, stops + 1];
                    for (var i = 0; i <= stops; i++)
                    {
                        for (var j = 0; j <= stops; j++)
                        {
                            m[i, j] = Math.Round(
                                Math.Sqrt(Math.Pow(at[i].Item1 - at[j].Item1, 2) + Math.Pow(at[i].Item2 - at[j].Item2, 2)),
                                1
                            );
                        }
                    }

                    return new RunProblem(
                        m,
                        m,
                        at.Select((a, i) => i == 0 ? new RunStop() : new RunStop(10, a.Item3, a.Item3 + a.Item4, 1)).ToList(),
                        Enumerable.Repeat(new RunDriver(0, 0, 0, stops), drivers).ToList(),
                        Shift: shift
                    );
                }
            );

    /// <summary>The least miles of all plans, by a model that shares nothing with the solver's; null when there is none.</summary>
    private static double? Proven(RunProblem p)
    {
        var n = p.Stops.Count;
        var model = new CpModel();
        var circuits = new List<LinearExpr>();
        var begins = Enumerable
            .Range(0, n)
            .Select(i => model.NewIntVar((long)(p.Stops[i].Opens * 10), (long)(Math.Min(5000, p.Stops[i].Closes) * 10), $"t{i}"))
            .ToArray();
        var by = new List<BoolVar>[n];
        foreach (var d in Enumerable.Range(0, p.Drivers.Count))
        {
            var circuit = model.AddCircuit();
            var (sets, ends) = (model.NewIntVar(0, 50_000, ""), model.NewIntVar(0, 50_000, ""));
            model.Add(ends - sets <= (long)(p.Shift!.Value * 10));
            circuit.AddArc(0, 0, model.NewBoolVar(""));
            for (var i = 0; i < n; i++)
            {
                if (i > 0)
                {
                    var skipped = model.NewBoolVar("");
                    circuit.AddArc(i, i, skipped);
                    (by[i] ??= []).Add(skipped);
                }

                for (var j = 0; j < n; j++)
                {
                    if (i == j)
                    {
                        continue;
                    }

                    var taken = model.NewBoolVar("");
                    circuit.AddArc(i, j, taken);
                    circuits.Add(taken * (long)Math.Round(p.Miles[i, j] * 10));
                    var drive = (long)Math.Round((p.Minutes[i, j] + p.Stops[i].Service) * 10);
                    model.Add((j == 0 ? ends : begins[j]) >= (i == 0 ? sets : begins[i]) + drive).OnlyEnforceIf(taken);
                }
            }
        }

        for (var i = 1; i < n; i++)
        {
            model.Add(LinearExpr.Sum(by[i]) == p.Drivers.Count - 1);
        }

        model.Minimize(LinearExpr.Sum(circuits));
        var solver = new CpSolver { StringParameters = "max_time_in_seconds:20,num_workers:2" };
        return solver.Solve(model) == CpSolverStatus.Optimal ? solver.ObjectiveValue / 10 : null;
    }

    private static RunProblem Published(string name, int customers)
    {
        var rows = File.ReadLines(Path.Combine(AppContext.BaseDirectory, "Trips", "Runs", $"{name}.txt"))
            .Where(l => l.Length > 0 && l[0] != '#')
            .Select(l => l.Split(' ').Select(x => double.Parse(x, CultureInfo.InvariantCulture)).ToArray())
            .Take(customers + 1)
            .ToArray();
        var m = new double[rows.Length, rows.Length];
        for (var i = 0; i < rows.Length; i++)
        {
            for (var j = 0; j < rows.Length; j++)
            {
                m[i, j] =
                    Math.Floor((Math.Sqrt(Math.Pow(rows[i][1] - rows[j][1], 2) + Math.Pow(rows[i][2] - rows[j][2], 2)) * 10) + 1e-9) / 10;
            }
        }

        return new RunProblem(
            m,
            m,
            rows.Select(r => new RunStop(r[6], r[4], r[5], (long)r[3])).ToList(),
            Enumerable.Repeat(new RunDriver(0, 0, 0, 200), 25).ToList()
        );
    }
}
