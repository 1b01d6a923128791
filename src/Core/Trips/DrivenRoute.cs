using SteadyLark.Core.Places;
using SteadyLark.Core.Places.Roads;

namespace SteadyLark.Core.Trips;

/// <summary>The way from one point of a trip to the next.</summary>
/// <param name="Road">As the roads lead.</param>
/// <param name="Counts">What counts for it: the same, or with manual miles.</param>
/// <param name="Estimated">Off the road network: the straight line times a road factor.</param>
/// <param name="ByRegion">Miles by state and province, in route order; they add up to those that count, as do toll miles.</param>
public sealed record DrivenRoute(
    Drive Road,
    Drive Counts,
    bool Estimated,
    double TollMiles,
    IReadOnlyList<(string Region, double Miles)> ByRegion,
    IReadOnlyList<GeoPoint> Line
)
{
    /// <param name="route">Through the points by road; null when none is known.</param>
    /// <param name="points">At least two.</param>
    /// <param name="set">Manual miles for the whole way, which scale its states and tolls with it.</param>
    /// <param name="region">Where its miles count when no road is known.</param>
    public static DrivenRoute Of(RoadRoute? route, IReadOnlyList<GeoPoint> points, double? set, string region)
    {
        var road = route is null ? ((IRoads)RoadEstimate.Straight).Along(points) : new Drive(route.Miles, route.Minutes);
        var counts = road.Set(set);
        var ratio = road.Miles > 0 ? counts.Miles / road.Miles : 1;
        return new DrivenRoute(
            road,
            counts,
            route is null,
            (route?.TollMiles ?? 0) * ratio,
            (route?.ByRegion ?? [(region, road.Miles)]).Select(r => (r.Region, r.Miles * ratio)).ToList(),
            route?.Line ?? points
        );
    }
}

/// <summary>Miles of a trip in a state or province.</summary>
public sealed record StateMiles(string Region, double Loaded, double Empty)
{
    /// <summary>Of a whole trip, in the order in which it reaches them.</summary>
    /// <param name="ways">With whether nothing is on board on them.</param>
    public static IReadOnlyList<StateMiles> Of(IEnumerable<(DrivenRoute Way, bool Empty)> ways) =>
        ways.SelectMany(w => w.Way.ByRegion.Select(r => (r.Region, r.Miles, w.Empty)))
            .GroupBy(r => r.Region)
            .Select(g => new StateMiles(g.Key, g.Where(r => !r.Empty).Sum(r => r.Miles), g.Where(r => r.Empty).Sum(r => r.Miles)))
            .ToList();
}
