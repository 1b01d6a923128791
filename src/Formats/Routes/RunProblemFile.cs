using System.Text.Json;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Trips.Runs;

namespace SteadyLark.Formats.Routes;

/// <summary>
/// A routing problem with its own matrix, as JSON: <c>miles</c>, <c>minutes</c>, <c>depot</c>, <c>end</c>, <c>demands</c>,
/// <c>capacities</c>, <c>service</c>, <c>windows</c>,
/// <c>drivers</c>, <c>shift</c>, <c>open</c>, <c>objective</c> (formerly <c>aim</c>), <c>seconds</c>. See docs/route.md.
/// </summary>
public static class RunProblemFile
{
    /// <param name="json">The whole file.</param>
    /// <param name="share">How drivers are used, when given outside the file.</param>
    /// <param name="drivers">Number of drivers, when given outside the file.</param>
    public static Outcome<(RunProblem Problem, double? Seconds)> Read(
        ReadOnlyMemory<byte> json,
        RunShare? share = null,
        int? drivers = null
    )
    {
        try
        {
            using var document = JsonDocument.Parse(
                json,
                new JsonDocumentOptions { CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = true }
            );
            return document.RootElement.ValueKind == JsonValueKind.Object
                ? Read(document.RootElement, share, drivers)
                : new Problem("json", "The problem must be a JSON object.", "file");
        }
        catch (JsonException e)
        {
            return new Problem("json", $"This is not JSON: line {(e.LineNumber ?? 0) + 1} cannot be read.", "file");
        }
    }

    private static Outcome<(RunProblem Problem, double? Seconds)> Read(JsonElement root, RunShare? share, int? drivers)
    {
        var validation = new Validation();
        var miles = Matrix(root, "miles", validation);
        var minutes = Matrix(root, "minutes", validation);
        if (miles is null && minutes is null && validation.Ok)
        {
            validation.Add("missing", "The matrix is missing: give miles, minutes or both, a row for each place.", "miles");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var n = (miles ?? minutes)!.GetLength(0);
        var demands = Numbers(root, "demands", n, validation);
        var service = Numbers(root, "service", n, validation);
        var windows = Windows(root, n, validation);
        var depot = Index(root, "depot", n, validation);
        var end = Index(root, "end", n, validation);
        var open = root.TryGetProperty("open", out var o) && o.ValueKind == JsonValueKind.True;
        var capacities = Capacities(root, validation);
        var shift = Number(root, "shift", validation);
        var seconds = Number(root, "seconds", validation);
        var objective = RunObjective.Miles;
        if (
            (root.TryGetProperty("objective", out var a) || root.TryGetProperty("aim", out a))
            && a.ValueKind != JsonValueKind.Null
            && !(
                a.ValueKind == JsonValueKind.String
                && Enum.TryParse(a.GetString(), true, out objective)
                && !int.TryParse(a.GetString(), out _)
            )
        )
        {
            validation.Add("objective", "The objective is miles or minutes.", "objective");
        }

        if (share is null && root.TryGetProperty("drivers", out var d) && d.ValueKind != JsonValueKind.Null)
        {
            (share, drivers) = Drivers(d.ValueKind == JsonValueKind.Number ? d.GetRawText() : d.ToString(), "drivers", validation);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        // Demands and capacities may be fractions: both are then counted in thousandths.
        var unit = (demands ?? []).Concat(capacities ?? []).All(x => x == Math.Floor(x)) ? 1 : 1000;
        var stops = Enumerable
            .Range(0, n)
            .Select(i => new RunStop(
                service?[i] ?? 0,
                windows?[i].From ?? 0,
                windows?[i].Until ?? RunProblem.Ever,
                (long)Math.Round((demands?[i] ?? 0) * unit)
            ))
            .ToList();
        var visited = n - new[] { depot, end }.OfType<int>().Distinct().Count();
        var single = capacities is { Count: 1 };
        var many = drivers
            ?? (capacities is null || (single && share == RunShare.Fewest) || OneForAll(root) ? Math.Max(1, visited) : capacities.Count);
        if (single)
        {
            capacities = Enumerable.Repeat(capacities![0], many).ToList();
        }
        else if (capacities is not null && capacities.Count < many)
        {
            return new Problem(
                "size",
                $"There are {capacities.Count} capacities for {many} drivers: give one for each, or a single one for all.",
                "capacities"
            );
        }

        var finish = open ? end : end ?? depot;
        // A terminal's window is when drivers may leave and must be back.
        var crew = Enumerable
            .Range(0, many)
            .Select(i => new RunDriver(
                depot,
                finish,
                depot is { } at ? stops[at].Opens : 0,
                capacities is null ? long.MaxValue : (long)Math.Round(capacities[i] * unit)
            ))
            .ToList();
        var problem = new RunProblem(miles ?? minutes!, minutes ?? miles!, stops, crew, share ?? RunShare.Any, objective, shift);
        var wrong = problem.Problems();
        return wrong.Count > 0 ? new Problems(wrong) : (problem, seconds);
    }

    /// <summary>How many drivers, as written: a number, <c>fewest</c> or <c>even:N</c>.</summary>
    public static (RunShare? Share, int? Drivers) Drivers(string text, string field, Validation validation)
    {
        var word = text.Trim().ToLowerInvariant();
        var (share, digits) =
            word == "fewest" ? (RunShare.Fewest, "")
            : word.StartsWith("even:", StringComparison.Ordinal) ? (RunShare.Even, word[5..])
            : (RunShare.Any, word);
        if (share == RunShare.Fewest)
        {
            return (share, null);
        }

        if (
            int.TryParse(digits, System.Globalization.NumberStyles.None, System.Globalization.CultureInfo.InvariantCulture, out var n)
            && n is >= 1 and <= 200
        )
        {
            return (share, n);
        }

        validation.Add("drivers", "Drivers: enter a number from 1 to 200, fewest, or even:N.", field);
        return (null, null);
    }

    private static double[,]? Matrix(JsonElement root, string name, Validation validation)
    {
        if (!root.TryGetProperty(name, out var rows) || rows.ValueKind == JsonValueKind.Null)
        {
            return null;
        }

        if (rows.ValueKind != JsonValueKind.Array || rows.GetArrayLength() is 0 or > RunProblem.MaxPlaces)
        {
            validation.Add(
                "matrix",
                $"The {name} must be a list of rows, one for each of at most {RunProblem.MaxPlaces:#,##0} places.",
                name
            );
            return null;
        }

        var n = rows.GetArrayLength();
        var matrix = new double[n, n];
        var i = 0;
        foreach (var row in rows.EnumerateArray())
        {
            if (row.ValueKind != JsonValueKind.Array || row.GetArrayLength() != n)
            {
                validation.Add("matrix", $"The {name} must be a square: row {i} does not have {n} figures.", $"{name}[{i}]");
                return null;
            }

            var j = 0;
            foreach (var cell in row.EnumerateArray())
            {
                if (cell.ValueKind != JsonValueKind.Number)
                {
                    validation.Add("matrix", $"The {name} from place {i} to place {j} must be a number.", $"{name}[{i}][{j}]");
                    return null;
                }

                matrix[i, j++] = cell.GetDouble();
            }

            i++;
        }

        return matrix;
    }

    private static double[]? Numbers(JsonElement root, string name, int n, Validation validation)
    {
        if (!root.TryGetProperty(name, out var list) || list.ValueKind == JsonValueKind.Null)
        {
            return null;
        }

        if (
            list.ValueKind != JsonValueKind.Array
            || list.GetArrayLength() != n
            || list.EnumerateArray().Any(x => x.ValueKind != JsonValueKind.Number)
        )
        {
            validation.Add("size", $"The {name} must be a list of {n} numbers, one for each place.", name);
            return null;
        }

        return list.EnumerateArray().Select(x => x.GetDouble()).ToArray();
    }

    private static (double From, double Until)[]? Windows(JsonElement root, int n, Validation validation)
    {
        if (!root.TryGetProperty("windows", out var list) || list.ValueKind == JsonValueKind.Null)
        {
            return null;
        }

        bool Fits(JsonElement w) =>
            w.ValueKind == JsonValueKind.Null
            || (
                w.ValueKind == JsonValueKind.Array
                && w.GetArrayLength() == 2
                && w.EnumerateArray().All(x => x.ValueKind is JsonValueKind.Number or JsonValueKind.Null)
            );
        if (list.ValueKind != JsonValueKind.Array || list.GetArrayLength() != n || !list.EnumerateArray().All(Fits))
        {
            validation.Add(
                "size",
                $"The windows must be a list of {n} pairs [from, until] in minutes, or null for a place that is always open.",
                "windows"
            );
            return null;
        }

        return list.EnumerateArray()
            .Select(w =>
                w.ValueKind == JsonValueKind.Null
                    ? (0, RunProblem.Ever)
                    : (
                        w[0].ValueKind == JsonValueKind.Null ? 0 : w[0].GetDouble(),
                        w[1].ValueKind == JsonValueKind.Null ? RunProblem.Ever : w[1].GetDouble()
                    )
            )
            .ToArray();
    }

    private static int? Index(JsonElement root, string name, int n, Validation validation)
    {
        if (!root.TryGetProperty(name, out var e) || e.ValueKind == JsonValueKind.Null)
        {
            return null;
        }

        if (e.ValueKind == JsonValueKind.Number && e.TryGetInt32(out var i) && i >= 0 && i < n)
        {
            return i;
        }

        validation.Add("out.of.range", $"The {name} must be one of the {n} places, 0 to {n - 1}.", name);
        return null;
    }

    /// <summary>Whether one capacity applies to every truck.</summary>
    private static bool OneForAll(JsonElement root) =>
        (root.TryGetProperty("capacities", out var c) || root.TryGetProperty("capacity", out c)) && c.ValueKind == JsonValueKind.Number;

    private static List<double>? Capacities(JsonElement root, Validation validation)
    {
        if (!root.TryGetProperty("capacities", out var c) && !root.TryGetProperty("capacity", out c) || c.ValueKind == JsonValueKind.Null)
        {
            return null;
        }

        var all = c.ValueKind == JsonValueKind.Array ? c.EnumerateArray().ToList() : [c];
        if (all.Count is 0 or > 200 || all.Any(x => x.ValueKind != JsonValueKind.Number || x.GetDouble() is < 0 or > 1e15))
        {
            validation.Add(
                "capacities",
                "The capacities are numbers of 0 or more, one for each of at most 200 drivers, or a single one for all.",
                "capacities"
            );
            return null;
        }

        return all.Select(x => x.GetDouble()).ToList();
    }

    private static double? Number(JsonElement root, string name, Validation validation)
    {
        if (!root.TryGetProperty(name, out var e) || e.ValueKind == JsonValueKind.Null)
        {
            return null;
        }

        if (e.ValueKind == JsonValueKind.Number && e.GetDouble() is > 0 and <= 1_000_000)
        {
            return e.GetDouble();
        }

        validation.Add("out.of.range", $"The {name} must be a number above 0.", name);
        return null;
    }
}
