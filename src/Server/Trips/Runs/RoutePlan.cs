using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips.Runs;
using SteadyLark.Formats.Routes;
using SteadyLark.Server.Places;

namespace SteadyLark.Server.Trips.Runs;

/// <summary>Planning options for a file of stops.</summary>
/// <param name="Drivers">A number, fewest, or even:N; null for what the problem says, or one driver.</param>
/// <param name="Start">The terminal, for an address list; null to begin at the best first stop.</param>
/// <param name="Open">Do not return to the terminal.</param>
/// <param name="From">Earliest departure, such as 07:00.</param>
/// <param name="Shift">Maximum hours of a driver's day.</param>
/// <param name="Capacity">Truck capacity.</param>
/// <param name="Objective">miles or minutes.</param>
/// <param name="Seconds">Search time; by default what the number of stops usually needs.</param>
/// <param name="Max">The longest search time allowed, in seconds.</param>
public sealed record PlanOptions(
    string? Drivers,
    string? Start,
    bool Open,
    string? From,
    double? Shift,
    long? Capacity,
    string? Objective,
    double? Seconds,
    double Max = 300
);

/// <param name="Place">Index in the problem, or the line's number among the stops, from 0.</param>
/// <param name="Arrives">Minutes from the start of the day, as are the others.</param>
/// <param name="Miles">From the place before.</param>
/// <param name="Minutes">Driving time from the place before.</param>
public sealed record PlannedPlace(
    int Place,
    string? Name,
    string? Address,
    double Arrives,
    double Begins,
    double Leaves,
    double Miles,
    double Minutes
);

/// <param name="Minutes">Driving time alone.</param>
/// <param name="Load">The total demand of its stops.</param>
public sealed record PlannedRoute(
    int Driver,
    IReadOnlyList<PlannedPlace> Stops,
    double Begins,
    double Ends,
    double Miles,
    double Minutes,
    long Load
);

public sealed record LeftOut(int Place, string? Name, string? Address, string Why);

/// <summary>The answer of <c>lark route</c> and of its endpoint.</summary>
public sealed record RoutePlanAnswer(
    int Drivers,
    double Miles,
    double Minutes,
    IReadOnlyList<PlannedRoute> Routes,
    IReadOnlyList<LeftOut> Unserved
);

/// <summary>Plans a file: an address list, or a problem in JSON with its own matrix. No server and no database.</summary>
public static class RoutePlan
{
    public static Outcome<RoutePlanAnswer> Answer(byte[] file, PlanOptions options, CancellationToken cancel = default)
    {
        var validation = new Validation();
        var (share, drivers) = options.Drivers is null ? (null, null) : RunProblemFile.Drivers(options.Drivers, "drivers", validation);
        RunObjective? objective = null;
        if (options.Objective is { } word)
        {
            objective = word.ToLowerInvariant() switch
            {
                "miles" => RunObjective.Miles,
                "minutes" => RunObjective.Minutes,
                _ => null,
            };
            if (objective is null)
            {
                validation.Add("objective", "The objective is miles or minutes.", "objective");
            }
        }

        if (options.Seconds is { } s && !(s > 0 && s <= options.Max))
        {
            validation.Add("out.of.range", $"Seconds: above 0, at most {options.Max:0}.", "seconds");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        return file.AsSpan().TrimStart("\uFEFF \t\r\n"u8) is [(byte)'{', ..]
            ? OfProblem(file, options, share, drivers, objective, cancel)
            : OfAddresses(file, options, share, drivers, objective, cancel);
    }

    private static Outcome<RoutePlanAnswer> OfProblem(
        byte[] file,
        PlanOptions options,
        RunShare? share,
        int? drivers,
        RunObjective? objective,
        CancellationToken cancel
    )
    {
        var read = RunProblemFile.Read(file, share, drivers);
        if (!read.Ok)
        {
            return read.Problems;
        }

        var (problem, seconds) = read.Value;
        problem = problem with { Objective = objective ?? problem.Objective };
        return Of(
            problem,
            RunSolver.Solve(
                problem,
                (options.Seconds ?? seconds) is { } t ? TimeSpan.FromSeconds(Math.Min(t, options.Max)) : null,
                null,
                cancel
            ),
            _ => (null, null)
        );
    }

    private static Outcome<RoutePlanAnswer> OfAddresses(
        byte[] file,
        PlanOptions options,
        RunShare? share,
        int? drivers,
        RunObjective? objective,
        CancellationToken cancel
    )
    {
        var list = Addresses.Read(file);
        if (!list.Ok)
        {
            return list.Problems;
        }

        var validation = new Validation();
        foreach (var line in list.Value.Lines.Where(l => l.Found != AddressFound.Found))
        {
            validation.Add(
                line.Found == AddressFound.NotFound ? "place.unknown" : "place.doubtful",
                $"Line {line.Row}: {line.Why}",
                $"line {line.Row}"
            );
        }

        Candidate? start = null;
        if (options.Start is { } text)
        {
            var answer = Routing.Gazetteer.Resolve(text);
            start = answer.Sure;
            if (start is null)
            {
                validation.Add("place.doubtful", $"The start: {answer.Why}", "start");
            }
        }

        var from = options.From is null ? 0 : AddressLines.Time(options.From);
        if (from is null)
        {
            validation.Add("time", "From: write a time of day such as 07:00.", "from");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var stops = list
            .Value.Lines.Select(l => new RunStopRequest(
                l.Name,
                new RunPlace(l.Choices[0].Label, l.Choices[0].Point.Latitude, l.Choices[0].Point.Longitude),
                l.Service ?? 0,
                l.Opens,
                l.Closes,
                l.Demand ?? 0
            ))
            .ToList();
        var how = share ?? RunShare.Any;
        var ask = new RunPlanRequest(
            null,
            start is null ? null : new RunPlace(start.Label, start.Point.Latitude, start.Point.Longitude),
            start is not null && !options.Open,
            from!.Value,
            options.Shift * 60,
            how,
            how == RunShare.Fewest ? null : drivers ?? 1,
            objective ?? RunObjective.Miles,
            options.Capacity,
            stops
        );
        var wrong = RunBook.Check(ask);
        if (wrong.Count > 0)
        {
            return new Problems(wrong);
        }

        var problem = RunBook.Problem(ask);
        return Of(problem, RunSolver.Solve(problem, options.Seconds is { } t ? TimeSpan.FromSeconds(t) : null, null, cancel), i =>
            (stops[i].Name, list.Value.Lines[i].Address)
        );
    }

    private static RoutePlanAnswer Of(RunProblem problem, RunPlan plan, Func<int, (string? Name, string? Address)> named) =>
        new(
            plan.Drivers,
            Math.Round(plan.Miles, 3),
            Math.Round(plan.Driving, 3),
            plan.Runs.Select(r => new PlannedRoute(
                    r.Driver,
                    r.Visits.Select(v => new PlannedPlace(
                            v.Stop,
                            named(v.Stop).Name,
                            named(v.Stop).Address,
                            Math.Round(v.Arrives, 3),
                            Math.Round(v.Begins, 3),
                            Math.Round(v.Leaves, 3),
                            Math.Round(v.Miles, 3),
                            Math.Round(v.Minutes, 3)
                        ))
                        .ToList(),
                    Math.Round(r.Begins, 3),
                    Math.Round(r.Ends, 3),
                    Math.Round(r.Miles, 3),
                    Math.Round(r.Driving, 3),
                    r.Stops.Sum(s => problem.Stops[s].Demand)
                ))
                .ToList(),
            plan.Unserved.Select(u => new LeftOut(u.Stop, named(u.Stop).Name, named(u.Stop).Address, u.Why)).ToList()
        );
}
