namespace SteadyLark.Core.Places.Roads;

/// <summary>A candidate that is near by road.</summary>
/// <param name="Index">Index of the candidate.</param>
/// <param name="Miles">From the point asked about; along a route, the extra miles over the route itself.</param>
public readonly record struct Near(int Index, double Miles, double Minutes);

/// <summary>
/// Candidates attached to the road network once and searched many times: within a road radius of a point, or along a route within a detour.
/// One search of the network
/// answers for all of them.
/// </summary>
public sealed class NearIndex
{
    private readonly RoadRouter _router;
    private readonly IReadOnlyList<GeoPoint> _points;
    private readonly (int Node, Weight Spent)[][] _doors;

    /// <param name="points">Points off the network are never near.</param>
    public NearIndex(RoadRouter router, IReadOnlyList<GeoPoint> points)
    {
        (_router, _points) = (router, points);
        _doors = points.AsParallel().AsOrdered().Select(p => router.Doorways(p)).ToArray();
    }

    public int Count => _points.Count;

    /// <summary>Everything within a road radius, nearest first.</summary>
    /// <param name="miles">Road miles, at least 0.</param>
    public IReadOnlyList<Near> Within(GeoPoint center, double miles)
    {
        var all = _router.ToAll(center);
        return Enumerable
            .Range(0, Count)
            .Where(i => GreatCircle.Miles(center, _points[i]) <= miles)
            .Select(i => (i, Drive: To(center, all, i)))
            .Where(x => x.Drive.Miles <= miles)
            .Select(x => new Near(x.i, x.Drive.Miles, x.Drive.Minutes))
            .OrderBy(n => n.Miles)
            .ToList();
    }

    /// <summary>Everything that lengthens the route between two points by at most a detour, shortest first.</summary>
    /// <param name="detour">Road miles beyond the route itself, at least 0.</param>
    public IReadOnlyList<Near> Along(GeoPoint from, GeoPoint to, double detour)
    {
        if (_router.Drive(from, to) is not { } route)
        {
            return [];
        }

        var (first, last) = (_router.ToAll(from), _router.ToAll(to));
        var max = route.Miles + detour;
        return Enumerable
            .Range(0, Count)
            .Where(i => GreatCircle.Miles(from, _points[i]) + GreatCircle.Miles(_points[i], to) <= max)
            .Select(i => (i, There: To(from, first, i), On: To(to, last, i)))
            .Select(x => new Near(
                x.i,
                Math.Max(0, x.There.Miles + x.On.Miles - route.Miles),
                Math.Max(0, x.There.Minutes + x.On.Minutes - route.Minutes)
            ))
            .Where(n => n.Miles <= detour)
            .OrderBy(n => n.Miles)
            .ToList();
    }

    private Drive To(GeoPoint center, Weight[] all, int i)
    {
        var best = Weight.Never;
        foreach (var (node, spent) in _doors[i])
        {
            if (all[node].Cost + spent.Cost < best.Cost)
            {
                best = all[node] + spent;
            }
        }

        return _router.Locally(center, _points[i]) is { } local && _doors[i].Length > 0 && local.Minutes <= best.Cost
            ? local
            : new Drive(best.Miles, best.Minutes);
    }
}
