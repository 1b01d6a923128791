using System.Globalization;

namespace SteadyLark.Core.Places.Roads;

/// <summary>The class of a road, which sets a truck's speed.</summary>
public enum RoadClass
{
    /// <summary>Limited access, rural.</summary>
    Interstate,

    /// <summary>Limited access, urban.</summary>
    Beltway,

    /// <summary>Four lanes with at-grade crossings.</summary>
    FourLane,

    /// <summary>Two lanes.</summary>
    Highway,

    /// <summary>A road known to exist without its name or figures, or a winding mountain road.</summary>
    Country,

    /// <summary>A ferry that takes trucks.</summary>
    Ferry,
}

/// <summary>A junction or a town on a road.</summary>
/// <param name="Region">State or province, two letters.</param>
public readonly record struct RoadNode(string Name, string Region, GeoPoint Point);

/// <summary>A stretch of road between two nodes, the same in both directions.</summary>
/// <param name="Miles">Statute miles; never less than the great circle.</param>
/// <param name="MilesInA">Of these, how many lie in the region of <paramref name="A"/>.</param>
/// <param name="Minutes">A truck's driving minutes.</param>
/// <param name="Road">Index into <see cref="RoadNetwork.Roads"/>.</param>
public readonly record struct RoadEdge(int A, int B, double Miles, double MilesInA, double Minutes, int Road, RoadClass Class, bool Toll);

/// <summary>
/// The roads trucks use, as nodes and edges. Read from text: a table of nodes, and a file for each route, whose lines are stretches through
/// one
/// state: <c>WA posts: Seattle WA | 8 Bellevue/90 | …</c>, each figure the miles from the node before; <c>$</c> before it for a toll,
/// <c>1.5/5</c> for miles on either side of a state line.
/// </summary>
public sealed class RoadNetwork
{
    /// <summary>Working speeds of a loaded truck in miles per hour, stops and traffic included; for a ferry, plus an hour at the dock. Our
    /// own figures, below the limits of 65 to 75 that most states post for trucks.</summary>
    private static readonly Dictionary<RoadClass, double> Speeds = new()
    {
        [RoadClass.Interstate] = 61,
        [RoadClass.Beltway] = 52,
        [RoadClass.FourLane] = 57,
        [RoadClass.Highway] = 49,
        [RoadClass.Country] = 42,
        [RoadClass.Ferry] = 12,
    };

    /// <summary>Two-lane roads between the Great Plains and the Pacific, where towns are far apart.</summary>
    private const double OpenHighway = 55;

    private static readonly HashSet<string> Open =
    [
        "AB",
        "CO",
        "ID",
        "KS",
        "MB",
        "MT",
        "ND",
        "NE",
        "NM",
        "NV",
        "OK",
        "OR",
        "SD",
        "SK",
        "TX",
        "UT",
        "WA",
        "WY",
    ];

    private readonly Dictionary<string, int> _byName = [];

    private RoadNetwork(IReadOnlyList<RoadNode> nodes, IReadOnlyList<RoadEdge> edges, IReadOnlyList<string> roads)
    {
        Nodes = nodes;
        Edges = edges;
        Roads = roads;
        for (var i = 0; i < nodes.Count; i++)
        {
            _byName[nodes[i].Name] = i;
        }
    }

    public IReadOnlyList<RoadNode> Nodes { get; }

    public IReadOnlyList<RoadEdge> Edges { get; }

    /// <summary>Names of roads, such as I-90.</summary>
    public IReadOnlyList<string> Roads { get; }

    /// <summary>A node by its name, such as <c>Butte MT</c>; -1 when there is none.</summary>
    public int Node(string name) => _byName.GetValueOrDefault(name, -1);

    /// <param name="nodes">Lines of node,region,latitude,longitude with a header.</param>
    /// <param name="routes">The text of each route.</param>
    /// <exception cref="FormatException">When a line cannot be read; the message says which.</exception>
    public static RoadNetwork Read(TextReader nodes, IEnumerable<TextReader> routes)
    {
        var known = new List<RoadNode>(4000);
        var index = new Dictionary<string, int>(4000);
        nodes.ReadLine();
        while (nodes.ReadLine() is { } line)
        {
            var cells = line.Split(',');
            if (cells.Length != 4)
            {
                throw new FormatException($"A node needs four cells: {line}");
            }

            index[cells[0]] = known.Count;
            known.Add(new RoadNode(cells[0], cells[1], new GeoPoint(Figure(cells[2]), Figure(cells[3]))));
        }

        var edges = new List<RoadEdge>(6000);
        var names = new List<string>(200);
        foreach (var route in routes)
        {
            Route(route, known, index, edges, names);
        }

        return new RoadNetwork(known, edges, names);
    }

    private static void Route(
        TextReader text,
        List<RoadNode> nodes,
        Dictionary<string, int> index,
        List<RoadEdge> edges,
        List<string> names
    )
    {
        var head = text.ReadLine() ?? "";
        var kindAt = head.LastIndexOf(' ');
        if (!head.StartsWith("road ", StringComparison.Ordinal) || kindAt < 6)
        {
            throw new FormatException($"A route starts with its name and kind: {head}");
        }

        var (name, kind) = (head[5..kindAt], head[(kindAt + 1)..]);
        var road = names.IndexOf(name);
        if (road < 0)
        {
            road = names.Count;
            names.Add(name);
        }

        while (text.ReadLine() is { } line)
        {
            var colon = line.IndexOf(':', StringComparison.Ordinal);
            if (colon < 0)
            {
                throw new FormatException($"{name}: {line}");
            }

            var how = line[3..colon];
            var from = -1;
            foreach (var part in line[(colon + 1)..].Split('|', StringSplitOptions.TrimEntries))
            {
                var toll = part.StartsWith('$');
                var rest = toll ? part[1..] : part;
                var space = rest.IndexOf(' ', StringComparison.Ordinal);
                double miles = 0,
                    inA = 0;
                var split = false;
                if (from >= 0)
                {
                    var figure = rest[..space];
                    rest = rest[(space + 1)..];
                    var slash = figure.IndexOf('/', StringComparison.Ordinal);
                    split = slash >= 0;
                    inA = Figure(split ? figure[..slash] : figure);
                    miles = split ? inA + Figure(figure[(slash + 1)..]) : inA;
                }

                if (!index.TryGetValue(rest, out var node))
                {
                    throw new FormatException($"{name}: {rest} is not among the nodes.");
                }

                if (from >= 0)
                {
                    if (nodes[from].Region != nodes[node].Region && !split)
                    {
                        inA = miles / 2;
                    }

                    var kindOf = Class(kind, how, miles);
                    var speed = kindOf == RoadClass.Highway && Open.Contains(nodes[from].Region) ? OpenHighway : Speeds[kindOf];
                    edges.Add(new RoadEdge(from, node, miles, inA, miles / speed * 60, road, kindOf, toll));
                }

                from = node;
            }
        }
    }

    /// <summary>Short stretches of a limited-access road are in or around a city.</summary>
    private static RoadClass Class(string kind, string how, double miles) =>
        (kind, how) switch
        {
            ("interstate", "posts") => miles < 5 ? RoadClass.Beltway : RoadClass.Interstate,
            ("interstate", "freeway") => miles < 20 ? RoadClass.Beltway : RoadClass.Interstate,
            (_, "reckoned") => RoadClass.Highway,
            ("fourlane", _) => RoadClass.FourLane,
            (_, "freeway") => RoadClass.FourLane,
            (_, "country" or "mountain") => RoadClass.Country,
            (_, "ferry") => RoadClass.Ferry,
            _ => RoadClass.Highway,
        };

    private static double Figure(string text) =>
        double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var n)
            ? n
            : throw new FormatException($"“{text}” is not a number.");
}
