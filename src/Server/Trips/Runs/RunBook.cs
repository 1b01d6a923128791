using System.Text.Json.Serialization;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips.Runs;
using SteadyLark.Server.Places;

namespace SteadyLark.Server.Trips.Runs;

/// <summary>A place used in a run.</summary>
/// <param name="Label">As it was resolved.</param>
public sealed record RunPlace(string Label, double Latitude, double Longitude)
{
    [JsonIgnore]
    public GeoPoint Point => new(Latitude, Longitude);
}

/// <summary>A stop of a run plan.</summary>
/// <param name="Service">Service minutes.</param>
/// <param name="Opens">Minutes from midnight, as <paramref name="Closes"/>; null for always.</param>
/// <param name="Done">Already visited: it stays where it is.</param>
/// <param name="Locked">It stays with its driver, in its order among the locked stops.</param>
public sealed record RunStopRequest(
    string? Name,
    RunPlace? At,
    double Service = 0,
    double? Opens = null,
    double? Closes = null,
    long Demand = 0,
    bool Done = false,
    bool Locked = false
);

/// <summary>The request for a plan with many small stops.</summary>
/// <param name="Start">The terminal; null to begin at the first stop.</param>
/// <param name="RoundTrip">Return to the terminal at the end.</param>
/// <param name="From">Minutes from midnight at which drivers may leave.</param>
/// <param name="Shift">Maximum minutes of a driver's day, or null.</param>
/// <param name="Drivers">Number of drivers; with fewest, the maximum (null for as many as stops).</param>
/// <param name="Capacity">Truck capacity, or null for unlimited.</param>
public sealed record RunPlanRequest(
    string? Name,
    RunPlace? Start,
    bool RoundTrip,
    double From,
    double? Shift,
    RunShare Share,
    int? Drivers,
    RunObjective Objective,
    long? Capacity,
    IReadOnlyList<RunStopRequest>? Stops
)
{
    [JsonIgnore]
    public IReadOnlyList<RunStopRequest> All => Stops ?? [];
}

/// <summary>The orders of a plan, by index of the requested stops.</summary>
public sealed record RunOrders(IReadOnlyList<IReadOnlyList<int>> Runs, IReadOnlyList<UnservedView> Unserved);

public sealed record UnservedView(int Stop, string Why);

/// <summary>A plan's problem: places, matrix, drivers. Stops come first in the matrix, by index; the terminal after them.</summary>
public static class RunBook
{
    /// <summary>Two places at one spot are still a gate and a street apart.</summary>
    private const double MinMiles = 0.6;

    private const double MinMinutes = 1.5;

    public static IReadOnlyList<Problem> Check(RunPlanRequest ask)
    {
        var validation = new Validation();
        if (ask.All.Count is 0 or > 600)
        {
            validation.Add(
                "stops",
                ask.All.Count == 0 ? "There are no stops: paste or upload a list of addresses." : "A plan can have at most 600 stops.",
                "stops"
            );
        }

        for (var i = 0; i < ask.All.Count; i++)
        {
            var s = ask.All[i];
            validation.Text(s.Name, $"stops[{i}].name", $"Stop {i + 1}: the name", 120);
            validation.Text(s.At?.Label, $"stops[{i}].at.said", $"Stop {i + 1}: the place", 300);
            if (s.At is null)
            {
                validation.Add("missing", $"Stop {i + 1}: the place is not chosen yet.", $"stops[{i}].at");
            }
            else if (Routing.Router.Unreached(s.At.Point) is { } why)
            {
                validation.Add("outside", $"Stop {i + 1} {why}.", $"stops[{i}].at");
            }

            if (
                !(s.Service is >= 0 and <= 1440)
                || !(s.Opens is null or (>= 0 and <= 14_400))
                || !(s.Closes is null or (>= 0 and <= 14_400))
                || s.Demand < 0
            )
            {
                validation.Add(
                    "out.of.range",
                    $"Stop {i + 1}: service time must be 0 to 1,440 minutes, windows must be within the day, and demand must be 0 or more.",
                    $"stops[{i}].service"
                );
            }
            else if (s.Opens > s.Closes)
            {
                validation.Add("order", $"Stop {i + 1}: the window closes before it opens.", $"stops[{i}].closes");
            }
        }

        validation.Text(ask.Start?.Label, "start.said", "The terminal", 300);
        if (ask.Start is { } start && Routing.Router.Unreached(start.Point) is { } unreached)
        {
            validation.Add("outside", $"The terminal {unreached}.", "start");
        }

        if (ask.Drivers is < 1 or > 100 || (ask.Drivers is null && ask.Share != RunShare.Fewest))
        {
            validation.Add("out.of.range", "The number of drivers must be 1 to 100.", "drivers");
        }

        if (ask.Shift is { } shift && !(shift is >= 10 and <= 1440))
        {
            validation.Add("out.of.range", "A shift must be 10 minutes to 24 hours.", "shift");
        }

        if (!(ask.From is >= 0 and <= 1440))
        {
            validation.Add("out.of.range", "The start time must be a time of day.", "from");
        }

        if (ask.Capacity is < 0)
        {
            validation.Add("out.of.range", "Truck capacity must be 0 or more.", "capacity");
        }

        return validation.Problems;
    }

    /// <summary>The whole problem, for evaluating and editing orders by hand.</summary>
    public static RunProblem Problem(RunPlanRequest ask, int atLeast = 0)
    {
        var points = ask.All.Select(s => s.At!.Point).ToList();
        if (ask.Start is { } start)
        {
            points.Add(start.Point);
        }

        var (miles, minutes) = Matrix(points);
        int? terminal = ask.Start is null ? null : points.Count - 1;
        var stops = ask.All.Select(s => new RunStop(s.Service, s.Opens ?? 0, s.Closes ?? RunProblem.Ever, s.Demand)).ToList();
        if (terminal is not null)
        {
            stops.Add(new RunStop());
        }

        var drivers = Math.Max(atLeast, Math.Max(1, ask.Drivers ?? Math.Min(60, ask.All.Count)));
        return new RunProblem(
            miles,
            minutes,
            stops,
            Enumerable
                .Repeat(new RunDriver(terminal, ask.RoundTrip ? terminal : null, ask.From, ask.Capacity ?? long.MaxValue), drivers)
                .ToList(),
            ask.Share,
            ask.Objective,
            ask.Shift
        );
    }

    public static (double[,] Miles, double[,] Minutes) Matrix(IReadOnlyList<GeoPoint> points)
    {
        var (miles, minutes) = Routing.Router.Matrix(points);
        for (var i = 0; i < points.Count; i++)
        {
            for (var j = 0; j < points.Count; j++)
            {
                if (i != j)
                {
                    (miles[i, j], minutes[i, j]) = double.IsInfinity(miles[i, j])
                        ? (99_999, 99_999)
                        : (Math.Max(MinMiles, miles[i, j]), Math.Max(MinMinutes, minutes[i, j]));
                }
            }
        }

        return (miles, minutes);
    }

    /// <summary>Plans the request; visited stops stay in front, locked stops stay with their driver.</summary>
    /// <param name="before">The previous orders, when replanning.</param>
    public static RunOrders Solve(RunPlanRequest ask, RunOrders? before, IProgress<RunProgress>? progress, CancellationToken cancel)
    {
        var whole = Problem(ask, before?.Runs.Count ?? 0);
        var done = whole
            .Drivers.Select((_, d) => (IReadOnlyList<int>)(before?.Runs.ElementAtOrDefault(d) ?? []).Where(s => ask.All[s].Done).ToList())
            .ToList();
        var open = Enumerable.Range(0, ask.All.Count).Where(s => !ask.All[s].Done).ToList();
        if (open.Count == 0)
        {
            return new RunOrders(done, []);
        }

        // Drivers continue from their last stop, when they finished it, for the rest of their shift.
        var index = open.Select((s, i) => (s, i)).ToDictionary(x => x.s, x => x.i);
        var places = open.Concat(done.Where(r => r.Count > 0).Select(r => r[^1]))
            .Concat(ask.Start is null ? [] : new[] { ask.All.Count })
            .Distinct()
            .ToList();
        var at = places.Select((s, i) => (s, i)).ToDictionary(x => x.s, x => x.i);
        double[,] Cut(double[,] m)
        {
            var cut = new double[places.Count, places.Count];
            for (var i = 0; i < places.Count; i++)
            {
                for (var j = 0; j < places.Count; j++)
                {
                    cut[i, j] = m[places[i], places[j]];
                }
            }

            return cut;
        }

        var locked = whole
            .Drivers.Select(
                (_, d) =>
                    (IReadOnlyList<int>)
                        (before?.Runs.ElementAtOrDefault(d) ?? [])
                            .Where(s => ask.All[s] is { Locked: true, Done: false })
                            .Select(s => index[s])
                            .ToList()
            )
            .ToList();
        var bound = locked.SelectMany((l, d) => l.Select(s => (s, d))).ToDictionary(x => x.s, x => x.d);
        var drivers = whole
            .Drivers.Select(
                (driver, d) =>
                {
                    if (done[d].Count == 0 || RunClock.Go(whole with { Shift = null }, d, done[d]).Run is not { } run)
                    {
                        return driver with
                        {
                            Start = ask.Start is null ? null : at[ask.All.Count],
                            End = driver.End is null ? null : at[ask.All.Count],
                        };
                    }

                    var left = run.Visits[^1].Leaves;
                    return new RunDriver(
                        at[done[d][^1]],
                        driver.End is null ? null : at[ask.All.Count],
                        Math.Max(ask.From, left),
                        driver.Capacity == long.MaxValue
                            ? long.MaxValue
                            : Math.Max(0, driver.Capacity - done[d].Sum(s => ask.All[s].Demand))
                    );
                }
            )
            .ToList();
        var problem = new RunProblem(
            Cut(whole.Miles),
            Cut(whole.Minutes),
            places
                .Select(s =>
                    index.ContainsKey(s)
                        ? whole.Stops[s] with
                        {
                            Driver = bound.TryGetValue(index[s], out var d) ? d : null,
                        }
                        : new RunStop()
                )
                .ToList(),
            drivers,
            ask.Share,
            ask.Objective,
            ask.Shift,
            locked.Any(l => l.Count > 1) ? locked : null
        );
        var plan = RunSolver.Solve(problem, null, progress, cancel);
        var orders = whole
            .Drivers.Select(
                (_, d) =>
                    (IReadOnlyList<int>)[.. done[d], .. plan.Runs.Where(r => r.Driver == d).SelectMany(r => r.Stops).Select(s => places[s])]
            )
            .ToList();
        return new RunOrders(orders, plan.Unserved.Select(u => new UnservedView(places[u.Stop], u.Why)).ToList());
    }
}
