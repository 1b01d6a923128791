using System.Globalization;
using System.Text.Json;
using SteadyLark.Core.Trips.Runs;
using SteadyLark.Server.Basics;

namespace SteadyLark.Server.Trips.Runs;

/// <summary>Runs over many stops for scripts: <c>route FILE [--drivers N|fewest|even:N] …</c>. No server and no database.</summary>
public static class RouteCommand
{
    private const string Options =
        "--drivers N|fewest|even:N, --start PLACE, --open, --from 07:00, --shift HOURS, --capacity N, --objective miles|minutes, --seconds N, --json";

    /// <returns>0, or 2 when the arguments are invalid.</returns>
    public static int Run(IReadOnlyList<string> args, TextWriter summary, TextWriter wrong)
    {
        var given = new Dictionary<string, string>();
        var files = new List<string>();
        var (json, open) = (false, false);
        for (var i = 0; i < args.Count; i++)
        {
            switch (args[i])
            {
                case "--json":
                    json = true;
                    break;
                case "--open":
                    open = true;
                    break;
                case "--drivers" or "--start" or "--from" or "--shift" or "--capacity" or "--objective" or "--aim" or "--seconds":
                    if (i + 1 == args.Count)
                    {
                        return Refused($"{args[i]} needs a value.");
                    }

                    given[args[i][2..]] = args[++i];
                    break;
                case var word when word.StartsWith("--", StringComparison.Ordinal):
                    return Refused($"Unknown option {word}: {Options}.");
                default:
                    files.Add(args[i]);
                    break;
            }
        }

        if (files.Count != 1)
        {
            return Refused($"Give a file: route FILE, with {Options}.");
        }

        var numbers = new Dictionary<string, double?>();
        foreach (var name in new[] { "shift", "capacity", "seconds" })
        {
            if (given.TryGetValue(name, out var text))
            {
                if (
                    !double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var number)
                    || !(number >= 0 && number < 1e15)
                )
                {
                    return Refused($"--{name} needs a number, not “{text}”.");
                }

                numbers[name] = number;
            }
        }

        var file = Script.Read(files[0]);
        if (!file.Ok)
        {
            return Refused(file.Problems[0].Message);
        }

        var outcome = RoutePlan.Answer(
            file.Value,
            new PlanOptions(
                given.GetValueOrDefault("drivers"),
                given.GetValueOrDefault("start"),
                open,
                given.GetValueOrDefault("from"),
                numbers.GetValueOrDefault("shift"),
                (long?)numbers.GetValueOrDefault("capacity"),
                given.GetValueOrDefault("objective") ?? given.GetValueOrDefault("aim"),
                numbers.GetValueOrDefault("seconds")
            )
        );
        if (!outcome.Ok)
        {
            return Refused(string.Join(Environment.NewLine, outcome.Problems.Select(p => p.Message)));
        }

        var plan = outcome.Value;
        if (json)
        {
            summary.WriteLine(JsonSerializer.Serialize(plan, Script.Json));
            return 0;
        }

        summary.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{plan.Drivers} {(plan.Drivers == 1 ? "driver" : "drivers")}, {plan.Miles:0.0} miles, {(int)plan.Minutes / 60} h {(int)plan.Minutes % 60:00} of driving"
            )
        );
        foreach (var route in plan.Routes)
        {
            summary.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"Driver {route.Driver + 1}: {route.Stops.Count} stops, {route.Miles:0.0} miles, {RunClock.Clock(route.Begins)} to {RunClock.Clock(route.Ends)}"
                )
            );
            foreach (var stop in route.Stops)
            {
                summary.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"  {RunClock.Clock(stop.Begins)}  {stop.Miles, 6:0.0}  {stop.Name ?? stop.Address ?? $"place {stop.Place}"}{(stop.Name is not null && stop.Address is not null ? $", {stop.Address}" : "")}"
                    )
                );
            }
        }

        foreach (var left in plan.Unserved)
        {
            summary.WriteLine($"Not served: {left.Name ?? left.Address ?? $"place {left.Place}"}: {left.Why}");
        }

        return 0;

        int Refused(string why)
        {
            wrong.WriteLine(why);
            return 2;
        }
    }
}
