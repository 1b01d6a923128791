using System.Globalization;
using System.Text.Encodings.Web;
using System.Text.Json;

namespace SteadyLark.Server.Places;

/// <summary>Miles for scripts: <c>miles "A" "B" [--via "C"] [--avoid-tolls] [--shortest] [--stay-in US|CA] [--json]</c>. No server and no database.</summary>
public static class MilesCommand
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <returns>0, or 2 when what was given is not understood.</returns>
    public static int Run(IReadOnlyList<string> args, TextWriter said, TextWriter wrong)
    {
        var (places, via) = (new List<string>(), new List<string>());
        var (avoid, shortest, json, country) = (false, false, false, (string?)null);
        for (var i = 0; i < args.Count; i++)
        {
            switch (args[i])
            {
                case "--json": json = true; break;
                case "--avoid-tolls": avoid = true; break;
                case "--shortest": shortest = true; break;
                case "--via" or "--stay-in" when i + 1 == args.Count: return Refused($"{args[i]} wants something after it.");
                case "--via": via.Add(args[++i]); break;
                case "--stay-in": country = args[++i].ToUpperInvariant(); break;
                case var word when word.StartsWith("--", StringComparison.Ordinal): return Refused($"There is no {word}: --via PLACE, --avoid-tolls, --shortest, --stay-in US|CA, --json.");
                default: places.Add(args[i]); break;
            }
        }

        if (places.Count != 2)
        {
            return Refused("Say from where to where, each in quotes: miles \"Butte MT\" \"Fargo ND\".");
        }

        var outcome = Routing.Answer(new RouteAsk(places[0], places[1], via, avoid, shortest, country));
        if (!outcome.Ok)
        {
            return Refused(string.Join(Environment.NewLine, outcome.Problems.Select(p => p.Message)));
        }

        var way = outcome.Value;
        if (json)
        {
            said.WriteLine(JsonSerializer.Serialize(new { way.Miles, way.Minutes, way.ByState, way.TollMiles, way.Points, way.Steps }, Json));
            return 0;
        }

        said.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{string.Join(" to ", way.Points)}: {way.Miles:0.0} miles, {(int)way.Minutes / 60} h {(int)way.Minutes % 60:00} of driving{(way.TollMiles > 0 ? $", {way.TollMiles:0.0} miles on toll roads" : "")}"));
        said.WriteLine(string.Join(", ", way.ByState.Select(s => string.Create(CultureInfo.InvariantCulture, $"{s.Key} {s.Value:0.0}"))));
        foreach (var step in way.Steps.Where(s => s.Miles >= 0.05))
        {
            said.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{step.Miles,8:0.0}  {step.Road ?? "local roads"}{(step.To is null ? "" : $" to {step.To}")}"));
        }

        return 0;

        int Refused(string why)
        {
            wrong.WriteLine(why);
            return 2;
        }
    }
}
