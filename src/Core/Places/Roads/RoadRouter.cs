using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Places.Roads;

/// <summary>Routing options.</summary>
/// <param name="AvoidTolls">Use toll roads only where there is no other way.</param>
/// <param name="Shortest">The fewest miles instead of the fewest minutes.</param>
/// <param name="Country">US or CA to stay in that country; null for either.</param>
public sealed record RoadOptions(bool AvoidTolls = false, bool Shortest = false, string? Country = null)
{
    /// <summary>The fastest route for a truck.</summary>
    public static readonly RoadOptions Practical = new();
}

/// <summary>A stretch of a route on one road.</summary>
/// <param name="Road">Its name, or null for local streets.</param>
/// <param name="To">Where it ends: a town or junction.</param>
public sealed record RoadStep(string? Road, double Miles, double Minutes, string? To);

/// <summary>Directions.</summary>
public static class Directions
{
    /// <summary>Shorter stretches between two roads are not steps of their own, in miles.</summary>
    private const double Crumb = 0.75;

    /// <summary>Steps with short ones merged into the step before, neighbors on one road joined, and junctions named as places; miles and
    /// minutes still add up.</summary>
    public static IReadOnlyList<RoadStep> Of(IReadOnlyList<RoadStep> steps)
    {
        var summary = new List<RoadStep>();
        foreach (
            var step in steps.Select(s =>
                s with
                {
                    To =
                        s.To is { } to && !to.Contains(" at ", StringComparison.Ordinal)
                            ? to.Replace("/", ", ", StringComparison.Ordinal)
                            : null,
                }
            )
        )
        {
            if (summary.Count > 0 && (summary[^1].Road == step.Road || step.Miles < Crumb))
            {
                summary[^1] = summary[^1] with
                {
                    Miles = summary[^1].Miles + step.Miles,
                    Minutes = summary[^1].Minutes + step.Minutes,
                    To = step.To ?? summary[^1].To,
                };
            }
            else if (summary.Count == 1 && summary[0].Miles < Crumb)
            {
                summary[0] = step with { Miles = summary[0].Miles + step.Miles, Minutes = summary[0].Minutes + step.Minutes };
            }
            else
            {
                summary.Add(step);
            }
        }

        return summary;
    }
}

/// <summary>A route by road.</summary>
/// <param name="Miles">In total, local access at both ends included.</param>
/// <param name="Minutes">A truck's driving minutes, without stops or rest.</param>
/// <param name="ByRegion">Miles in each state and province, in route order; they add up to <paramref name="Miles"/>.</param>
/// <param name="Line">The route as points.</param>
public sealed record RoadRoute(
    double Miles,
    double Minutes,
    double TollMiles,
    IReadOnlyList<(string Region, double Miles)> ByRegion,
    IReadOnlyList<RoadStep> Steps,
    IReadOnlyList<GeoPoint> Line
);

/// <summary>Practical truck routing on a road network, between any two points through any others.</summary>
public sealed class RoadRouter
{
    /// <summary>Local roads: road miles per straight mile, as in a street grid.</summary>
    private const double LocalFactor = 1.25;

    /// <summary>Yard, gate and street at either end, in miles.</summary>
    private const double Gate = 0.3;

    /// <summary>A point farther than this from our roads is outside the network.</summary>
    private const double Farthest = 75;

    /// <summary>The longest trip on local roads alone, in straight miles.</summary>
    private const double LocalWhole = 12;

    /// <summary>How many miles farther than the nearest road another may be to be reached by local streets; anything farther may be across
    /// a lake.</summary>
    private const double Detour = 6;

    /// <summary>Local roads shorter than this are not checked against the shoreline, in straight miles: its outline is
    /// simplified.</summary>
    private const double Ashore = 3;

    /// <summary>The most miles of water local roads may cross: bays and rivers have bridges, and the outline is inexact.</summary>
    private const double Bridged = 2.5;

    /// <summary>Weight of a toll mile when tolls are avoided.</summary>
    private const double TollWeight = 20;

    private readonly RoadNetwork _roads;
    private readonly Lazy<Shore>? _shore;
    private readonly Dictionary<RoadOptions, Hierarchy> _hierarchies = [];
    private readonly Dictionary<(int, int), List<int>> _cells = [];
    private readonly List<RoadEdge> _edges;

    /// <summary>About 10 MB: a company asks about the same places again and again.</summary>
    private readonly Cache<GeoPoint, (int Node, Weight Spent)[]> _doorways = new(30_000);

    /// <summary>Up to about 8 MB. Finding where a point reaches the network takes longer than most searches from there.</summary>
    private readonly Cache<(GeoPoint, RoadOptions), List<Door>> _doors = new(4_000);

    /// <summary>The edges by node, built when first needed without the hierarchy.</summary>
    private Lazy<List<(int To, Weight Weight)>[]> Links { get; }

    /// <summary>Connects nodes within a city's streets of each other, and builds a grid over the edges for nearest-edge searches.</summary>
    /// <param name="shore">The shoreline, so that local roads do not cross the sea; loaded when first needed. Without it they may.</param>
    public RoadRouter(RoadNetwork roads, Func<Shore>? shore = null)
    {
        _roads = roads;
        _shore = shore is null ? null : new Lazy<Shore>(shore);
        _edges = [.. roads.Edges];
        Join();
        Links = new(() =>
        {
            var links = Enumerable.Range(0, _roads.Nodes.Count).Select(_ => new List<(int To, Weight Weight)>(4)).ToArray();
            foreach (var e in _edges)
            {
                var weight = new Weight(e.Minutes, e.Miles, e.Minutes, e.Toll ? e.Miles : 0);
                links[e.A].Add((e.B, weight));
                links[e.B].Add((e.A, weight));
            }

            return links;
        });
        for (var e = 0; e < roads.Edges.Count; e++)
        {
            var (a, b) = (roads.Nodes[roads.Edges[e].A].Point, roads.Nodes[roads.Edges[e].B].Point);
            var steps = Math.Max(1, (int)Math.Ceiling(GreatCircle.Miles(a, b) / 12));
            var seen = new HashSet<(int, int)>();
            for (var k = 0; k <= steps; k++)
            {
                var cell = Cell(Whereabouts.Between(a, b, (double)k / steps));
                if (seen.Add(cell))
                {
                    (_cells.TryGetValue(cell, out var list) ? list : _cells[cell] = []).Add(e);
                }
            }
        }
    }

    public RoadNetwork Network => _roads;

    /// <summary>Whether a point is near enough to our roads to be routed to.</summary>
    public bool Reaches(GeoPoint point) => Doors(point, RoadOptions.Practical).Count > 0;

    /// <summary>Why a point cannot be routed to, as the end of a sentence that begins with its name; null when it can.</summary>
    public string? Unreached(GeoPoint point) =>
        Reaches(point) ? null
        : _shore?.Value.Abroad(point) is { } country ? $"is in {country}: enter the border crossing on this side"
        : _shore is null || Feet(point, RoadOptions.Practical, dry: false).Count == 0
            ? "is outside our road network, which covers the contiguous United States and southern Canada"
        : _shore.Value.Dry(point) ? "is on an island or shore that our road network does not reach: enter the port on the mainland"
        : "is in the water: check the latitude and longitude";

    /// <summary>The route through points in order.</summary>
    /// <returns>Null when a point is off the network, or cannot be reached under the options.</returns>
    public RoadRoute? Route(IReadOnlyList<GeoPoint> points, RoadOptions? options = null)
    {
        var legs = new List<RoadRoute>();
        for (var i = 1; i < points.Count; i++)
        {
            if (Leg(points[i - 1], points[i], options ?? RoadOptions.Practical) is not { } leg)
            {
                return null;
            }

            legs.Add(leg);
        }

        return legs.Count == 1 ? legs[0] : Joined(legs);
    }

    public RoadRoute? Route(GeoPoint from, GeoPoint to, RoadOptions? options = null) => Leg(from, to, options ?? RoadOptions.Practical);

    /// <summary>Miles and minutes from each point to each other; infinite where there is no route. Symmetric, zero on the
    /// diagonal.</summary>
    public (double[,] Miles, double[,] Minutes) Matrix(IReadOnlyList<GeoPoint> points, RoadOptions? options = null)
    {
        var how = options ?? RoadOptions.Practical;
        var up = Over(how);
        var ends = points.Select(p => EndAt(p, how, up)).ToList();
        var (miles, minutes) = (new double[points.Count, points.Count], new double[points.Count, points.Count]);
        Parallel.For(0, points.Count, i =>
        {
            for (var j = i + 1; j < points.Count; j++)
            {
                var route = Between(ends[i], ends[j], how);
                (miles[i, j], miles[j, i], minutes[i, j], minutes[j, i]) = (route.Miles, route.Miles, route.Minutes, route.Minutes);
            }
        });
        return (miles, minutes);
    }

    /// <summary>Miles, minutes and toll miles, without the route itself; null when either point is off the network or cannot be reached under the
    /// options.</summary>
    public Drive? Drive(GeoPoint from, GeoPoint to, RoadOptions? options = null)
    {
        var how = options ?? RoadOptions.Practical;
        var up = Over(how);
        var route = Between(EndAt(from, how, up), EndAt(to, how, up), how);
        return double.IsInfinity(route.Cost) ? null : new Drive(route.Miles, route.Minutes, TollMiles: route.TollMiles);
    }

    /// <summary>A point's access to the network, to be searched from many sides.</summary>
    internal (int Node, Weight Spent)[] Doorways(GeoPoint point) =>
        _doorways.Get(point, p => Doors(p, RoadOptions.Practical).Select(d => (d.Node, d.Weight)).ToArray());

    /// <summary>Cost of the fastest route from a point to every node; infinite where there is none.</summary>
    internal Weight[] ToAll(GeoPoint point)
    {
        var spent = new Weight[_roads.Nodes.Count];
        Array.Fill(spent, Weight.Never);
        var queue = new PriorityQueue<int, double>();
        foreach (var (node, weight) in Doorways(point))
        {
            if (weight.Cost < spent[node].Cost)
            {
                spent[node] = weight;
                queue.Enqueue(node, weight.Cost);
            }
        }

        var links = Links.Value;
        while (queue.TryDequeue(out var v, out var cost))
        {
            if (cost > spent[v].Cost)
            {
                continue;
            }

            foreach (var (to, weight) in links[v])
            {
                var next = spent[v] + weight;
                if (next.Cost < spent[to].Cost)
                {
                    spent[to] = next;
                    queue.Enqueue(to, next.Cost);
                }
            }
        }

        return spent;
    }

    /// <summary>Local roads all the way; null when that is too far, or crosses water.</summary>
    internal Drive? Locally(GeoPoint a, GeoPoint b)
    {
        var straight = GreatCircle.Miles(a, b);
        var miles = straight == 0 ? 0 : (straight * LocalFactor) + (2 * Gate);
        return straight > LocalWhole || Wet(a, b, straight) ? null : new Drive(miles, LocalMinutes(miles));
    }

    /// <summary>Whether a straight line crosses more water than local roads have bridges for.</summary>
    private bool Wet(GeoPoint a, GeoPoint b, double straight) => straight > Ashore && _shore?.Value.Water(a, b) > Bridged;

    private Weight Between(End a, End b, RoadOptions options)
    {
        var (spent, _) = Hierarchy.Meet(a.Up, b.Up);
        return Direct(a, b, options) is { } whole && whole.Cost <= spent.Cost
            ? new Weight(whole.Cost, whole.Miles, whole.Minutes, whole.Toll)
            : spent;
    }

    private End EndAt(GeoPoint point, RoadOptions options, Hierarchy up)
    {
        var doors = Doors(point, options);
        return new End(point, doors, up.Up(doors.Select(d => (d.Node, d.Weight)).ToList()));
    }

    private RoadRoute? Leg(GeoPoint a, GeoPoint b, RoadOptions options)
    {
        var hierarchy = Over(options);
        var (from, to) = (EndAt(a, options, hierarchy), EndAt(b, options, hierarchy));
        if (from.Doors.Count == 0 || to.Doors.Count == 0)
        {
            return null;
        }

        var (spent, meet) = Hierarchy.Meet(from.Up, to.Up);
        if (Direct(from, to, options) is { } whole && whole.Cost <= spent.Cost)
        {
            return new RoadRoute(
                whole.Miles,
                whole.Minutes,
                whole.Toll,
                [(from.Doors[0].Region, whole.Miles)],
                [new RoadStep(whole.Road, whole.Miles, whole.Minutes, null)],
                [a, b]
            );
        }

        return meet < 0 ? null : Drawn(a, b, from.Door(meet), to.Door(meet), hierarchy.Path(from.Up, to.Up, meet));
    }

    private RoadRoute Drawn(GeoPoint a, GeoPoint b, Door first, Door last, List<(int Edge, int From)> path)
    {
        var regions = new List<(string Region, double Miles)>();
        var steps = new List<RoadStep>();
        var line = new List<GeoPoint> { a };
        var (miles, minutes, toll) = (0d, 0d, 0d);

        void On(string? road, double m, double t, string? to)
        {
            (miles, minutes) = (miles + m, minutes + t);
            if (steps.Count > 0 && steps[^1].Road == road)
            {
                steps[^1] = steps[^1] with { Miles = steps[^1].Miles + m, Minutes = steps[^1].Minutes + t, To = to };
            }
            else if (m > 0)
            {
                steps.Add(new RoadStep(road, m, t, to));
            }
        }

        void Enter(Door door, bool arriving)
        {
            if (door.OnEdge > 0)
            {
                On(door.Road, door.OnEdge, door.OnEdgeMinutes, arriving ? null : _roads.Nodes[door.Node].Name);
                toll += door.Way.Toll ? door.OnEdge : 0;

                // Up to the border in the node's region, the rest beyond it.
                var (edge, fromA) = (door.Way, door.Way.A == door.Node);
                var here = Math.Min(door.OnEdge, fromA ? edge.MilesInA : edge.Miles - edge.MilesInA);
                var (near, far) = (_roads.Nodes[door.Node].Region, _roads.Nodes[fromA ? edge.B : edge.A].Region);
                foreach (
                    var (region, m) in arriving
                        ? [(near, here), (far, door.OnEdge - here)]
                        : new[] { (far, door.OnEdge - here), (near, here) }
                )
                {
                    AddTo(regions, region, m);
                }
            }
        }

        On(null, first.Local, first.LocalMinutes, null);
        AddTo(regions, first.Region, first.Local);
        line.Add(first.Foot);
        Enter(first, arriving: false);
        line.Add(_roads.Nodes[first.Node].Point);
        foreach (var (e, node) in path)
        {
            var edge = _edges[e];
            var (forward, other) = (edge.A == node, edge.A == node ? edge.B : edge.A);
            var (inA, inB) = (edge.MilesInA, edge.Miles - edge.MilesInA);
            AddTo(regions, _roads.Nodes[node].Region, forward ? inA : inB);
            AddTo(regions, _roads.Nodes[other].Region, forward ? inB : inA);
            On(edge.Road < 0 ? null : _roads.Roads[edge.Road], edge.Miles, edge.Minutes, _roads.Nodes[other].Name);
            toll += edge.Toll ? edge.Miles : 0;
            line.Add(_roads.Nodes[other].Point);
        }

        Enter(last, arriving: true);
        line.Add(last.Foot);
        On(null, last.Local, last.LocalMinutes, null);
        AddTo(regions, last.Region, last.Local);
        line.Add(b);
        return new RoadRoute(miles, minutes, toll, regions, steps, line);
    }

    /// <summary>Adds miles to a region, in order of first appearance.</summary>
    private static void AddTo(List<(string Region, double Miles)> regions, string region, double miles)
    {
        var at = regions.FindIndex(r => r.Region == region);
        if (at >= 0)
        {
            regions[at] = (region, regions[at].Miles + miles);
        }
        else if (miles > 0)
        {
            regions.Add((region, miles));
        }
    }

    private static RoadRoute Joined(List<RoadRoute> legs)
    {
        var regions = new List<(string Region, double Miles)>();
        foreach (var (region, miles) in legs.SelectMany(l => l.ByRegion))
        {
            AddTo(regions, region, miles);
        }

        return new RoadRoute(
            legs.Sum(l => l.Miles),
            legs.Sum(l => l.Minutes),
            legs.Sum(l => l.TollMiles),
            regions,
            legs.SelectMany(l => l.Steps).ToList(),
            legs.SelectMany((l, i) => i == 0 ? l.Line : l.Line.Skip(1)).ToList()
        );
    }

    /// <summary>Local roads all the way, or along one edge next to both points; null when neither makes sense.</summary>
    private Straightaway? Direct(End from, End to, RoadOptions options)
    {
        var (a, b) = (from.Point, to.Point);
        if (a == b)
        {
            return new Straightaway(0, 0, 0, 0, null);
        }

        Straightaway? best = Locally(a, b) is { } local
            ? new Straightaway(options.Shortest ? local.Miles : local.Minutes, local.Miles, local.Minutes, 0, null)
            : null;

        foreach (var x in from.Doors)
        {
            foreach (var y in to.Doors)
            {
                if (x.Edge != y.Edge || x.Node != y.Node)
                {
                    continue;
                }

                var edge = x.Way;
                var on = Math.Abs(x.OnEdge - y.OnEdge);
                var (miles, minutes) = (x.Local + y.Local + on, x.LocalMinutes + y.LocalMinutes + (on / edge.Miles * edge.Minutes));
                var cost = options.Shortest ? miles : minutes + Toll(edge, on, options);
                if (best is null || cost < best.Value.Cost)
                {
                    best = new Straightaway(cost, miles, minutes, edge.Toll ? on : 0, x.Road);
                }
            }
        }

        return best;
    }

    /// <summary>Driving on local roads: slow in town, faster out of it.</summary>
    private static double LocalMinutes(double miles) => (Math.Min(miles, 4) / 28 * 60) + (Math.Max(0, miles - 4) / 44 * 60);

    /// <summary>Access from a point to the network: the nearest edges, each to both its ends, with the cost.</summary>
    private List<Door> Doors(GeoPoint point, RoadOptions options) => _doors.Get((point, options), k => FindDoors(k.Item1, k.Item2));

    private List<Door> FindDoors(GeoPoint point, RoadOptions options)
    {
        var near =
            _shore?.Value is { } shore && (shore.Offshore(point, Bridged) || shore.Abroad(point) is not null)
                ? []
                : Feet(point, options, dry: true);
        var doors = new List<Door>();
        var nearest = near.Count > 0 ? near.Min(n => n.Straight) : 0;
        foreach (var (e, share, straight, foot) in near.Where(n => n.Straight <= (nearest * 2) + Detour).OrderBy(n => n.Straight).Take(8))
        {
            var edge = _roads.Edges[e];
            var local = (straight * LocalFactor) + Gate;
            foreach (var (node, on) in new[] { (edge.A, edge.Miles * share), (edge.B, edge.Miles * (1 - share)) })
            {
                var onMinutes = on / edge.Miles * edge.Minutes;
                var cost = options.Shortest ? local + on : LocalMinutes(local) + onMinutes + Toll(edge, on, options);
                doors.Add(
                    new Door(
                        node,
                        cost,
                        local,
                        LocalMinutes(local),
                        on,
                        onMinutes,
                        e,
                        edge,
                        _roads.Roads[edge.Road],
                        foot,
                        _roads.Nodes[share < 0.5 ? edge.A : edge.B].Region
                    )
                );
            }
        }

        return doors;
    }

    /// <summary>The edges near a point, with the nearest position on each.</summary>
    /// <param name="dry">Only those reachable without crossing open water.</param>
    private List<(int Edge, double Share, double Straight, GeoPoint Foot)> Feet(GeoPoint point, RoadOptions options, bool dry)
    {
        var near = new List<(int Edge, double Share, double Straight, GeoPoint Foot)>();
        if (point is not { Latitude: >= -90 and <= 90, Longitude: >= -180 and <= 180 })
        {
            return near;
        }

        var seen = new HashSet<int>();
        var (row, column) = Cell(point);
        for (var ring = 0; ring <= 5 && (near.Count < 6 || ring <= 1); ring++)
        {
            for (var r = row - ring; r <= row + ring; r++)
            {
                for (var c = column - ring; c <= column + ring; c++)
                {
                    if (Math.Max(Math.Abs(r - row), Math.Abs(c - column)) != ring || !_cells.TryGetValue((r, c), out var list))
                    {
                        continue;
                    }

                    foreach (var e in list)
                    {
                        if (seen.Add(e) && _roads.Edges[e].Class != RoadClass.Ferry && Wished(_roads.Edges[e], options))
                        {
                            var (share, foot) = Whereabouts.Foot(
                                point,
                                _roads.Nodes[_roads.Edges[e].A].Point,
                                _roads.Nodes[_roads.Edges[e].B].Point
                            );
                            var straight = GreatCircle.Miles(point, foot);
                            if (straight <= Farthest && !(dry && Wet(point, foot, straight)))
                            {
                                near.Add((e, share, straight, foot));
                            }
                        }
                    }
                }
            }
        }

        return near;
    }

    private Hierarchy Over(RoadOptions options)
    {
        lock (_hierarchies)
        {
            return _hierarchies.TryGetValue(options, out var made)
                ? made
                : _hierarchies[options] = Hierarchy.Build(
                    _roads.Nodes.Count,
                    _edges
                        .Select(e =>
                            (
                                e.A,
                                e.B,
                                Wished(e, options) ? new Weight(Cost(e, options), e.Miles, e.Minutes, e.Toll ? e.Miles : 0) : Weight.Never
                            )
                        )
                        .ToList()
                );
        }
    }

    private static double Cost(RoadEdge e, RoadOptions options) => options.Shortest ? e.Miles : e.Minutes + Toll(e, e.Miles, options);

    /// <summary>The extra cost of miles on an edge when tolls are avoided.</summary>
    private static double Toll(RoadEdge e, double miles, RoadOptions options) => options.AvoidTolls && e.Toll ? miles * TollWeight : 0;

    private bool Wished(RoadEdge e, RoadOptions options) =>
        options.Country is null
        || (Regions.Country(_roads.Nodes[e.A].Region) == options.Country && Regions.Country(_roads.Nodes[e.B].Region) == options.Country);

    /// <summary>Nodes within a few miles that no edge connects are connected by local streets, so that a city is in one piece.</summary>
    private void Join()
    {
        const double max = 9;
        var cells = new Dictionary<(int, int), List<int>>();
        for (var v = 0; v < _roads.Nodes.Count; v++)
        {
            var cell = Cell(_roads.Nodes[v].Point);
            (cells.TryGetValue(cell, out var list) ? list : cells[cell] = []).Add(v);
        }

        var joined = new HashSet<(int, int)>(_edges.Select(e => (Math.Min(e.A, e.B), Math.Max(e.A, e.B))));
        for (var v = 0; v < _roads.Nodes.Count; v++)
        {
            var (row, column) = Cell(_roads.Nodes[v].Point);
            var near = new List<(int Node, double Miles)>();
            for (var r = row - 1; r <= row + 1; r++)
            {
                for (var c = column - 1; c <= column + 1; c++)
                {
                    foreach (var u in cells.GetValueOrDefault((r, c)) ?? [])
                    {
                        if (u != v && GreatCircle.Miles(_roads.Nodes[v].Point, _roads.Nodes[u].Point) is var d && d <= max)
                        {
                            near.Add((u, d));
                        }
                    }
                }
            }

            foreach (var (u, d) in near.OrderBy(n => n.Miles).Take(3))
            {
                if (!Wet(_roads.Nodes[v].Point, _roads.Nodes[u].Point, d) && joined.Add((Math.Min(u, v), Math.Max(u, v))))
                {
                    var miles = Math.Max(0.2, d * LocalFactor);
                    _edges.Add(
                        new RoadEdge(
                            v,
                            u,
                            miles,
                            _roads.Nodes[u].Region == _roads.Nodes[v].Region ? miles : miles / 2,
                            miles / 30 * 60,
                            -1,
                            RoadClass.Highway,
                            false
                        )
                    );
                }
            }
        }
    }

    private static (int, int) Cell(GeoPoint p) => ((int)Math.Floor(p.Latitude * 4), (int)Math.Floor(p.Longitude * 4));

    /// <summary>A point's access to the network.</summary>
    private sealed record Door(
        int Node,
        double Cost,
        double Local,
        double LocalMinutes,
        double OnEdge,
        double OnEdgeMinutes,
        int Edge,
        RoadEdge Way,
        string Road,
        GeoPoint Foot,
        string Region
    )
    {
        public double Miles => Local + OnEdge;

        public double Minutes => LocalMinutes + OnEdgeMinutes;

        public Weight Weight => new(Cost, Miles, Minutes, Way.Toll ? OnEdge : 0);
    }

    /// <summary>An end of a route: its access to the network, and what is reachable upward.</summary>
    private sealed record End(GeoPoint Point, List<Door> Doors, Hierarchy.Reach Up)
    {
        public Door Door(int meet)
        {
            var node = Up.Seed(meet);
            return Doors.Where(d => d.Node == node).MinBy(d => d.Cost)!;
        }
    }

    /// <summary>A route that uses none of the network's nodes.</summary>
    /// <param name="Road">Its name, or null for local streets.</param>
    private readonly record struct Straightaway(double Cost, double Miles, double Minutes, double Toll, string? Road);
}
