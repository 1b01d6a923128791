using System.Collections.Concurrent;

namespace SteadyLark.Core.Places.Roads;

/// <summary>Drives over a road network, remembered: the same lanes are asked for again and again. Where the network does not reach, an estimate that says so.</summary>
public sealed class KnownRoads(RoadRouter router) : IRoads
{
    /// <summary>About 10 MB; then it begins anew.</summary>
    private const int Most = 100_000;

    private readonly ConcurrentDictionary<(GeoPoint, GeoPoint), Drive> _known = new();

    public Drive Between(GeoPoint from, GeoPoint to)
    {
        // One way to keep for both directions.
        var key = (from.Latitude, from.Longitude).CompareTo((to.Latitude, to.Longitude)) <= 0 ? (from, to) : (to, from);
        if (_known.TryGetValue(key, out var known))
        {
            return known;
        }

        if (_known.Count >= Most)
        {
            _known.Clear();
        }

        return _known[key] = router.Drive(key.Item1, key.Item2) ?? RoadEstimate.Straight.Between(from, to);
    }
}
