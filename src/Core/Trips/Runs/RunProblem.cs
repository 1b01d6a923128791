using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips.Runs;

/// <summary>What is minimized among plans with equally few drivers.</summary>
public enum RunObjective
{
    Miles,
    Minutes,
}

/// <summary>How many drivers are used.</summary>
public enum RunShare
{
    /// <summary>Any number up to those available, whatever minimizes the cost.</summary>
    Any,

    /// <summary>As few as windows, shifts and capacities allow.</summary>
    Fewest,

    /// <summary>All of them, minimizing the longest working time.</summary>
    Even,
}

/// <summary>A stop or a terminal.</summary>
/// <param name="Service">Service minutes, at least 0.</param>
/// <param name="Opens">Minutes from the start of the day at which service may begin.</param>
/// <param name="Closes">Minutes by which service must have begun, not before <paramref name="Opens"/>.</param>
/// <param name="Demand">Capacity it uses, at least 0.</param>
/// <param name="Driver">The driver it is tied to, by index, or null.</param>
public sealed record RunStop(double Service = 0, double Opens = 0, double Closes = RunProblem.Ever, long Demand = 0, int? Driver = null);

/// <summary>A driver.</summary>
/// <param name="Start">Index of their start, or null to begin at their first stop.</param>
/// <param name="End">Index of their end, or null to end at their last stop.</param>
/// <param name="From">Minutes at which they may leave.</param>
/// <param name="Capacity">Truck capacity, in the stops' unit.</param>
public sealed record RunDriver(int? Start, int? End, double From = 0, long Capacity = long.MaxValue);

/// <summary>A routing problem with many small stops.</summary>
/// <param name="Miles">From each place to each other.</param>
/// <param name="Minutes">As <paramref name="Miles"/>; driving alone.</param>
/// <param name="Stops">One per place of the matrices; a driver's start or end is not a stop.</param>
/// <param name="Shift">Maximum minutes from a driver's start to their end, or null.</param>
/// <param name="Locked">A driver's stops that keep their relative order, by driver.</param>
public sealed record RunProblem(
    double[,] Miles,
    double[,] Minutes,
    IReadOnlyList<RunStop> Stops,
    IReadOnlyList<RunDriver> Drivers,
    RunShare Share = RunShare.Any,
    RunObjective Objective = RunObjective.Miles,
    double? Shift = null,
    IReadOnlyList<IReadOnlyList<int>>? Locked = null
)
{
    /// <summary>No closing time: the end of the tenth day.</summary>
    public const double Ever = 14_400;

    /// <summary>Tolerance for windows, in minutes: less than a second.</summary>
    public const double Tolerance = 0.01;

    /// <summary>The most places of one problem.</summary>
    public const int MaxPlaces = 1_000;

    /// <summary>Indices of the stops.</summary>
    public IReadOnlyList<int> Visited { get; } =
        Enumerable.Range(0, Stops.Count).Where(i => !Drivers.Any(d => d.Start == i || d.End == i)).ToList();

    /// <summary>The cost of one drive under the objective.</summary>
    public double Cost(int from, int to) => Objective == RunObjective.Miles ? Miles[from, to] : Minutes[from, to];

    /// <summary>What makes it impossible to plan at all; fields as in the JSON of <c>lark route</c>.</summary>
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
                            validation.Add(
                                "out.of.range",
                                $"The {field} from place {i} to place {j} must be a number from 0 to 1,000,000.",
                                $"{field}[{i}][{j}]"
                            );
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

/// <summary>A stop in a run.</summary>
/// <param name="Arrives">Minutes, as are the others.</param>
/// <param name="Begins">When service begins: not before the stop opens.</param>
public sealed record RunVisit(int Stop, double Arrives, double Begins, double Leaves, double Miles, double Minutes)
{
    public double Waits => Begins - Arrives;
}

/// <summary>One driver's run.</summary>
/// <param name="Begins">When they leave; as late as possible without ending later.</param>
/// <param name="Miles">In total, including the way to the first stop and from the last one.</param>
public sealed record Run(int Driver, IReadOnlyList<RunVisit> Visits, double Begins, double Ends, double Miles, double Driving)
{
    /// <summary>From start to end.</summary>
    public double Lasts => Ends - Begins;

    /// <summary>Driving and service, without waiting.</summary>
    public double Working => Driving + Visits.Sum(v => v.Leaves - v.Begins);

    public IEnumerable<int> Stops => Visits.Select(v => v.Stop);
}

/// <summary>A stop that nobody visits, and why.</summary>
public sealed record Unserved(int Stop, string Why);

/// <summary>Runs over all stops that can be visited.</summary>
public sealed record RunPlan(IReadOnlyList<Run> Runs, IReadOnlyList<Unserved> Unserved)
{
    /// <summary>Number of drivers with stops.</summary>
    public int Drivers => Runs.Count(r => r.Visits.Count > 0);

    public double Miles => Runs.Sum(r => r.Miles);

    public double Driving => Runs.Sum(r => r.Driving);
}
