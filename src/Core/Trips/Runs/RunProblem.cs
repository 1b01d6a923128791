using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips.Runs;

/// <summary>What is made least among the plans with equally few drivers.</summary>
public enum RunObjective
{
    Miles,
    Minutes,
}

/// <summary>How many drivers are taken.</summary>
public enum RunShare
{
    /// <summary>Any number up to those there are, whatever makes the way least.</summary>
    Any,

    /// <summary>As few as the windows, the shifts and the capacities allow.</summary>
    Fewest,

    /// <summary>Every one of them, the longest working time made least.</summary>
    Even,
}

/// <summary>A place to be visited, or a terminal.</summary>
/// <param name="Service">Minutes that it takes there, at least 0.</param>
/// <param name="Opens">Minutes from the day's beginning from which on service may begin.</param>
/// <param name="Closes">Minutes by which service must have begun, not before <paramref name="Opens"/>.</param>
/// <param name="Demand">What it takes of a truck's capacity, at least 0.</param>
/// <param name="Driver">The driver it is bound to, by index, or null.</param>
public sealed record RunStop(double Service = 0, double Opens = 0, double Closes = RunProblem.Ever, long Demand = 0, int? Driver = null);

/// <summary>One who drives a run.</summary>
/// <param name="Start">Index of the place where they begin, or null to begin at their first stop.</param>
/// <param name="End">Index of the place where they end, or null to end at their last stop.</param>
/// <param name="From">Minutes from which on they may set out.</param>
/// <param name="Capacity">What their truck takes, in the stops' unit.</param>
public sealed record RunDriver(int? Start, int? End, double From = 0, long Capacity = long.MaxValue);

/// <summary>Many small stops, to be laid into runs.</summary>
/// <param name="Miles">From each place to each other.</param>
/// <param name="Minutes">As <paramref name="Miles"/>; driving alone.</param>
/// <param name="Stops">One for each place of the matrices; a place where a driver starts or ends is no stop.</param>
/// <param name="Shift">Most minutes from a driver's setting out to their end, or null.</param>
/// <param name="Locked">Stops of a driver that keep their order among each other, by driver.</param>
public sealed record RunProblem(
    double[,] Miles, double[,] Minutes, IReadOnlyList<RunStop> Stops, IReadOnlyList<RunDriver> Drivers, RunShare Share = RunShare.Any, RunObjective Objective = RunObjective.Miles, double? Shift = null,
    IReadOnlyList<IReadOnlyList<int>>? Locked = null)
{
    /// <summary>A closing time that never comes: the end of the tenth day.</summary>
    public const double Ever = 14_400;

    /// <summary>A window is kept when it is missed by less than this, in minutes: less than a second.</summary>
    public const double Tolerance = 0.01;

    /// <summary>Most places of one problem.</summary>
    public const int MaxPlaces = 1_000;

    /// <summary>Indices of what is to be visited.</summary>
    public IReadOnlyList<int> Visited { get; } = Enumerable.Range(0, Stops.Count).Where(i => !Drivers.Any(d => d.Start == i || d.End == i)).ToList();

    /// <summary>What one way costs by the aim.</summary>
    public double Cost(int from, int to) => Objective == RunObjective.Miles ? Miles[from, to] : Minutes[from, to];

    /// <summary>What keeps it from being planned at all; fields as in the JSON of <c>lark route</c>.</summary>
    public IReadOnlyList<Problem> Problems()
    {
        var validation = new Validation();
        var n = Stops.Count;
        foreach (var (matrix, field) in new[] { (Miles, "miles"), (Minutes, "minutes") })
        {
            if (matrix.GetLength(0) != n || matrix.GetLength(1) != n)
            {
                validation.Add("size", $"The {field} must be a square of {n} by {n}, one row for each place.", field);
            }
            else
            {
                for (var i = 0; i < n; i++)
                {
                    for (var j = 0; j < n; j++)
                    {
                        if (!(matrix[i, j] >= 0 && matrix[i, j] < 1e6))
                        {
                            validation.Add("out.of.range", $"The {field} from place {i} to place {j} must be a number from 0 to 1,000,000.", $"{field}[{i}][{j}]");
                            return validation.Problems;
                        }
                    }
                }
            }
        }

        if (n > MaxPlaces)
        {
            validation.Add("too.many", $"At most {MaxPlaces:#,##0} places in one plan.", "miles");
        }

        if (Drivers.Count == 0)
        {
            validation.Add("missing", "At least one driver is needed.", "drivers");
        }

        for (var i = 0; i < n; i++)
        {
            var s = Stops[i];
            if (!(s.Service is >= 0 and <= 10_000))
            {
                validation.Add("out.of.range", $"Place {i}: service takes 0 to 10,000 minutes.", $"service[{i}]");
            }

            if (!(s.Opens >= 0 && s.Closes >= s.Opens && s.Opens < 1e6))
            {
                validation.Add("order", $"Place {i}: the window closes before it opens, or opens before 0.", $"windows[{i}]");
            }

            if (s.Demand < 0)
            {
                validation.Add("out.of.range", $"Place {i}: the demand is 0 or more.", $"demands[{i}]");
            }
        }

        for (var d = 0; d < Drivers.Count; d++)
        {
            if (Drivers[d].Start is < 0 || Drivers[d].Start >= n || Drivers[d].End is < 0 || Drivers[d].End >= n)
            {
                validation.Add("out.of.range", $"The depot must be one of the {n} places, 0 to {n - 1}.", "depot");
                break;
            }

            if (Drivers[d].Capacity < 0)
            {
                validation.Add("out.of.range", "A capacity is 0 or more.", $"capacities[{d}]");
            }
        }

        if (Shift is { } shift && !(shift is > 0 and <= 100_000))
        {
            validation.Add("out.of.range", "A shift is longer than 0 minutes.", "shift");
        }

        return validation.Problems;
    }
}

/// <summary>A stop within a run.</summary>
/// <param name="Arrives">Minutes, as all of them.</param>
/// <param name="Begins">When service begins: not before it opens.</param>
public sealed record RunVisit(int Stop, double Arrives, double Begins, double Leaves, double Miles, double Minutes)
{
    public double Waits => Begins - Arrives;
}

/// <summary>What one driver does.</summary>
/// <param name="Begins">When they set out; as late as it does not make them later at the end.</param>
/// <param name="Miles">All of it, the way to the first stop and from the last one within it.</param>
public sealed record Run(int Driver, IReadOnlyList<RunVisit> Visits, double Begins, double Ends, double Miles, double Driving)
{
    /// <summary>From setting out to the end.</summary>
    public double Lasts => Ends - Begins;

    /// <summary>Driving and service; waiting left out.</summary>
    public double Working => Driving + Visits.Sum(v => v.Leaves - v.Begins);

    public IEnumerable<int> Stops => Visits.Select(v => v.Stop);
}

/// <summary>A stop that nobody visits, and why in words.</summary>
public sealed record Unserved(int Stop, string Why);

/// <summary>Runs over all stops that can be visited.</summary>
public sealed record RunPlan(IReadOnlyList<Run> Runs, IReadOnlyList<Unserved> Unserved)
{
    /// <summary>How many drivers have something to do.</summary>
    public int Drivers => Runs.Count(r => r.Visits.Count > 0);

    public double Miles => Runs.Sum(r => r.Miles);

    public double Driving => Runs.Sum(r => r.Driving);
}
