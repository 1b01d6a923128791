using System.Reflection;
using System.Text.Json;
using SteadyLark.Core.Places;
using SteadyLark.Core.Places.Roads;

namespace SteadyLark.Formats.Places;

/// <summary>The geographic files shipped with the program (data/README.md gives their sources).</summary>
public static class Atlas
{
    private static readonly Assembly Here = typeof(Atlas).Assembly;

    /// <summary>The road network; read at each call.</summary>
    public static RoadNetwork Roads()
    {
        using var nodes = Text("roads/nodes.csv");
        var routes = Here.GetManifestResourceNames()
            .Where(n => n.StartsWith("roads/", StringComparison.Ordinal) && n.EndsWith(".txt", StringComparison.Ordinal))
            .Order(StringComparer.Ordinal)
            .Select(Text)
            .ToList();
        return RoadNetwork.Read(nodes, routes);
    }

    /// <summary>Towns and postal codes; read at each call.</summary>
    public static Gazetteer Gazetteer()
    {
        using var towns = Towns();
        using var postal = PostalCodes();
        return new Gazetteer(Core.Places.Gazetteer.Read(towns), Core.Places.Gazetteer.ReadPostal(postal));
    }

    /// <summary>Towns: name,region,country,latitude,longitude,zone,population with a header.</summary>
    public static TextReader Towns() => Text("places/towns.csv");

    /// <summary>Postal codes: code,town,region,country,latitude,longitude,zone with a header.</summary>
    public static TextReader PostalCodes() => Text("places/postal.csv");

    /// <summary>The outlines of states, provinces and their surroundings, as JSON.</summary>
    public static TextReader Land() => Text("map/land.json");

    /// <summary>Coastlines and borders; read at each call.</summary>
    public static Shore Shore()
    {
        using var text = Land();
        using var land = JsonDocument.Parse(text.ReadToEnd());
        return new Shore(
            land.RootElement.GetProperty("regions")
                .EnumerateArray()
                .Concat(land.RootElement.GetProperty("around").EnumerateArray())
                .Select(r => new Outline(r.GetProperty("id").GetString()!, r.GetProperty("rings").EnumerateArray().Select(Ring).ToList()))
        );
    }

    /// <summary>A ring as stored: its first point in thousandths of a degree, then the steps from point to point.</summary>
    private static List<GeoPoint> Ring(JsonElement steps)
    {
        var figures = steps.EnumerateArray().Select(f => f.GetInt32()).ToList();
        var ring = new List<GeoPoint>(figures.Count / 2);
        var (x, y) = (0, 0);
        for (var i = 0; i + 1 < figures.Count; i += 2)
        {
            (x, y) = (x + figures[i], y + figures[i + 1]);
            ring.Add(new GeoPoint(y / 1000d, x / 1000d));
        }

        return ring;
    }

    private static StreamReader Text(string name) =>
        new(Here.GetManifestResourceStream(name) ?? throw new InvalidOperationException($"{name} is not included in the program."));
}
