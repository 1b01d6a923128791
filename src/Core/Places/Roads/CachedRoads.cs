using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Places.Roads;

/// <summary>Cached drives over a road network: the same lanes are asked for again and again. Off the network, an estimate marked as
/// such.</summary>
public sealed class CachedRoads(RoadRouter router) : IRoads
{
    /// <summary>About 10 MB of drives and of route lines.</summary>
    private readonly Cache<(GeoPoint, GeoPoint), Drive> _drives = new(100_000);
    private readonly Cache<(GeoPoint, GeoPoint), IReadOnlyList<GeoPoint>> _lines = new(3000);

    public Drive Between(GeoPoint from, GeoPoint to) =>
        // One route for both directions.
        _drives.Get((from.Latitude, from.Longitude).CompareTo((to.Latitude, to.Longitude)) <= 0 ? (from, to) : (to, from), route =>
            router.Drive(route.Item1, route.Item2) ?? RoadEstimate.Straight.Between(route.Item1, route.Item2)
        );

    /// <summary>The route through points in order as a line; straight between points the network does not connect.</summary>
    public IReadOnlyList<GeoPoint> Line(IReadOnlyList<GeoPoint> points) =>
        points
            .Zip(points.Skip(1))
            .SelectMany((leg, i) => _lines.Get(leg, l => router.Route(l.Item1, l.Item2)?.Line ?? [l.Item1, l.Item2]).Skip(i == 0 ? 0 : 1))
            .ToList();
}
