using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Places.Roads;

/// <summary>Drives over a road network, remembered: the same lanes are asked for again and again. Where the network does not reach, an estimate that says so.</summary>
public sealed class CachedRoads(RoadRouter router) : IRoads
{
    /// <summary>About 10 MB of drives, and of ways as they are drawn.</summary>
    private readonly Cache<(GeoPoint, GeoPoint), Drive> _drives = new(100_000);
    private readonly Cache<(GeoPoint, GeoPoint), IReadOnlyList<GeoPoint>> _lines = new(3000);

    public Drive Between(GeoPoint from, GeoPoint to) =>
        // One way to keep for both directions.
        _drives.Get((from.Latitude, from.Longitude).CompareTo((to.Latitude, to.Longitude)) <= 0 ? (from, to) : (to, from), route => router.Drive(route.Item1, route.Item2) ?? RoadEstimate.Straight.Between(route.Item1, route.Item2));

    /// <summary>The way through points in order as a line; straight between those that the network does not join.</summary>
    public IReadOnlyList<GeoPoint> Line(IReadOnlyList<GeoPoint> points) =>
        points.Zip(points.Skip(1)).SelectMany((leg, i) => _lines.Get(leg, l => router.Route(l.Item1, l.Item2)?.Line ?? [l.Item1, l.Item2]).Skip(i == 0 ? 0 : 1)).ToList();
}
