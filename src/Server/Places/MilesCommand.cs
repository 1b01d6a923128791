using System.Globalization;
using System.Text.Json;
using SteadyLark.Server.Basics;

namespace SteadyLark.Server.Places;

/// <summary>Miles for scripts: <c>miles "A" "B" [--via "C"] [--avoid-tolls] [--shortest] [--stay-in US|CA] [--json]</c>. No server and no
/// database.</summary>
public static class MilesCommand
{
    /// <returns>0, or 2 when the arguments are invalid.</returns>
    public static int Run(IReadOnlyList<string> args, TextWriter summary, TextWriter wrong)
    {
        var (places, via) = (new List<string>(), new List<string>());
        var (avoid, shortest, json, country) = (false, false, false, (string?)null);
        for (var i = 0; i < args.Count; i++)
        {
            switch (args[i])
            {
                case "--json":
                    json = true;
                    break;
                case "--avoid-tolls":
                    avoid = true;
                    break;
                case "--shortest":
                    shortest = true;
                    break;
                case "--via" or "--stay-in" when i + 1 == args.Count:
                    return Refused($"{args[i]} needs a value.");
                case "--via":
                    via.Add(args[++i]);
                    break;
                case "--stay-in":
                    country = args[++i].ToUpperInvariant();
                    break;
                case var word when word.StartsWith("--", StringComparison.Ordinal):
                    return Refused($"Unknown option {word}: --via PLACE, --avoid-tolls, --shortest, --stay-in US|CA, --json.");
                default:
                    places.Add(args[i]);
                    break;
            }
        }

        if (places.Count != 2)
        {
            return Refused("Give an origin and a destination, each in quotes: miles \"Butte MT\" \"Fargo ND\".");
        }

        var outcome = Routing.Answer(new RouteRequest(places[0], places[1], via, avoid, shortest, country));
        if (!outcome.Ok)
        {
            return Refused(string.Join(Environment.NewLine, outcome.Problems.Select(p => p.Message)));
        }

        var route = outcome.Value;
        if (json)
        {
            summary.WriteLine(
                JsonSerializer.Serialize(
                    new
                    {
                        route.Miles,
                        route.Minutes,
                        route.ByState,
                        route.TollMiles,
                        route.Points,
                        route.Steps,
                    },
                    Script.Json
                )
            );
            return 0;
        }

        summary.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{string.Join(" to ", route.Points)}: {route.Miles:0.0} miles, {(int)route.Minutes / 60} h {(int)route.Minutes % 60:00} driving{(route.TollMiles > 0 ? $", {route.TollMiles:0.0} miles on toll roads" : "")}"
            )
        );
        summary.WriteLine(
            string.Join(", ", route.ByState.Select(s => string.Create(CultureInfo.InvariantCulture, $"{s.Key} {s.Value:0.0}")))
        );
        foreach (var step in route.Steps.Where(s => s.Miles >= 0.05))
        {
            summary.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{step.Miles, 8:0.0}  {step.Road ?? "local roads"}{(step.To is null ? "" : $" to {step.To}")}"
                )
            );
        }

        return 0;

        int Refused(string why)
        {
            wrong.WriteLine(why);
            return 2;
        }
    }
}
