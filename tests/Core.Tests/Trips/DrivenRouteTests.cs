using CsCheck;
using SteadyLark.Core.Places;
using SteadyLark.Core.Places.Roads;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

public class DrivenRouteTests
{
    private static readonly GeoPoint From = Some.Creamery.Point;
    private static readonly GeoPoint To = Some.ColdStore.Point;

    private static RoadRoute Road(params (string Region, double Miles)[] by) =>
        new(by.Sum(b => b.Miles), by.Sum(b => b.Miles), by[0].Miles / 4, by, [], [From, To]);

    [Fact]
    public void Manual_miles_scale_the_states_and_tolls_of_the_whole_way()
    {
        var way = DrivenRoute.Of(Road(("MT", 200), ("ID", 80), ("WA", 20)), [From, To], 330, "");
        Assert.Equal((300, 330), (way.Road.Miles, way.Counts.Miles));
        Assert.Equal([("MT", 220d), ("ID", 88d), ("WA", 22d)], way.ByRegion.Select(r => (r.Region, Math.Round(r.Miles, 6))));
        Assert.Equal(55, way.TollMiles, 6);
        Assert.False(way.Estimated);
    }

    [Fact]
    public void Off_the_road_network_the_straight_line_counts_where_it_leads()
    {
        var way = DrivenRoute.Of(null, [From, To], null, "WA");
        Assert.True(way.Estimated);
        Assert.Equal(RoadEstimate.Straight.Between(From, To).Miles, way.Counts.Miles, 6);
        Assert.Equal(("WA", way.Counts.Miles), way.ByRegion.Single());
        Assert.Equal([From, To], way.Line);
    }

    [Fact]
    public void Miles_by_state_add_up_to_the_trip_loaded_and_empty_apart() =>
        Gen.Select(Gen.Select(Gen.Int[0, 400], Gen.Int[1, 400], Gen.Bool, Gen.Int[0, 900]).List[1, 8], Gen.Bool)
            .Sample(
                (parts, manual) =>
                {
                    var ways = parts
                        .Select(p =>
                            (
                                DrivenRoute.Of(Road(("MT", p.Item1), ("ID", p.Item2)), [From, To], manual ? p.Item4 : null, ""),
                                Empty: p.Item3
                            )
                        )
                        .ToList();
                    var states = StateMiles.Of(ways);
                    foreach (var empty in new[] { false, true })
                    {
                        Assert.Equal(
                            ways.Where(w => w.Empty == empty).Sum(w => w.Item1.Counts.Miles),
                            states.Sum(s => empty ? s.Empty : s.Loaded),
                            6
                        );
                    }

                    Assert.Equal(states.Count, states.Select(s => s.Region).Distinct().Count());
                }
            );
}
