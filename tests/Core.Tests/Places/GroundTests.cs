using CsCheck;
using SteadyLark.Core.Places;
using SteadyLark.Core.Places.Roads;
using SteadyLark.Formats.Places;
using Xunit;

namespace SteadyLark.Core.Tests.Places;

/// <summary>Fences, what is near by road, lines, and lists of addresses.</summary>
public class GroundTests
{
    private static readonly RoadRouter Router = new(Atlas.Roads(), Atlas.Shore);
    private static readonly GeoPoint Butte = new(46.0038, -112.5347);
    private static readonly GeoPoint Billings = new(45.7833, -108.5007);

    [Fact]
    public void A_circle_contains_points_within_its_radius() =>
        Gen.Select(Gen.Double[-0.2, 0.2], Gen.Double[-0.2, 0.2], Gen.Double[0.02, 20])
            .Sample(
                (north, east, miles) =>
                {
                    var point = new GeoPoint(Butte.Latitude + north, Butte.Longitude + east);
                    return Geofence.Circle(Butte, miles).Holds(point) == GreatCircle.Miles(Butte, point) <= miles;
                }
            );

    [Fact]
    public void A_polygon_contains_its_interior_and_border_and_may_not_cross_itself()
    {
        GeoPoint[] yard = [new(46.00, -112.54), new(46.01, -112.54), new(46.01, -112.52), new(46.005, -112.53), new(46.00, -112.52)];
        var fence = Geofence.Around(Butte, yard).Value;
        Assert.True(fence.Holds(new GeoPoint(46.004, -112.535)));
        Assert.True(fence.Holds(yard[0]));

        // The notch on its east side is outside.
        Assert.False(fence.Holds(new GeoPoint(46.005, -112.522)));
        Assert.Equal("geofence.crossed", Geofence.Around(Butte, [yard[0], yard[2], yard[1], yard[4]]).Problems[0].Code);
        Assert.Equal("geofence.corners", Geofence.Around(Butte, yard[..2]).Problems[0].Code);
        Assert.Equal("geofence.far", Geofence.Around(Butte, [yard[0], yard[1], Billings]).Problems[0].Code);
    }

    [Fact]
    public void Near_agrees_with_each_single_route()
    {
        var random = new Random(7);
        var lots = Enumerable
            .Range(0, 60)
            .Select(_ => new GeoPoint(44 + (random.NextDouble() * 4.5), -116 + (random.NextDouble() * 12)))
            .ToArray();
        var index = new NearIndex(Router, lots);
        var within = index.Within(Butte, 160).ToDictionary(n => n.Index);
        var along = index.Along(Butte, Billings, 40).ToDictionary(n => n.Index);
        var route = Router.Drive(Butte, Billings)!.Value.Miles;
        for (var i = 0; i < lots.Length; i++)
        {
            var there = Router.Drive(Butte, lots[i])!.Value;
            if (Math.Abs(there.Miles - 160) > 1)
            {
                Assert.Equal(there.Miles <= 160, within.ContainsKey(i));
            }

            if (within.TryGetValue(i, out var near))
            {
                Assert.Equal(there.Minutes, near.Minutes, 3);
            }

            if (along.TryGetValue(i, out var on))
            {
                Assert.Equal(Math.Max(0, there.Miles + Router.Drive(lots[i], Billings)!.Value.Miles - route), on.Miles, 3);
            }
        }

        Assert.NotEmpty(within);
        Assert.NotEmpty(along);
        Assert.Equal(within.Values.OrderBy(n => n.Miles).Select(n => n.Index), index.Within(Butte, 160).Select(n => n.Index));
        Assert.False(Router.Reaches(new GeoPoint(double.PositiveInfinity, double.NaN)));
        Assert.Empty(new NearIndex(Router, [new GeoPoint(35, -140)]).Within(new GeoPoint(34, -118.2), 3000));
    }

    [Fact]
    public void A_drive_matches_its_drawn_route_and_is_cached_in_both_directions()
    {
        var known = new CachedRoads(Router);
        Assert.Equal(Router.Route(Butte, Billings)!.Miles, known.Between(Butte, Billings).Miles, 6);
        Assert.Equal(known.Between(Butte, Billings), known.Between(Billings, Butte));
        Assert.False(known.Between(Butte, Billings).Estimated);

        // Mexico City: our roads do not reach there, and that is said.
        Assert.True(known.Between(Butte, new GeoPoint(19.43, -99.13)).Estimated);
    }

    [Fact]
    public void Directions_drop_short_steps_and_keep_all_miles() =>
        Gen.Select(Gen.Int[0, 400], Gen.Int[0, 400])
            .Sample(
                (a, b) =>
                {
                    var (from, to) = (
                        new GeoPoint(40 + (a / 100.0), -110 + (b / 100.0)),
                        new GeoPoint(44 - (b / 100.0), -100 + (a / 100.0))
                    );
                    var route = Router.Route(from, to)!;
                    var summary = Directions.Of(route.Steps);
                    Assert.Equal(route.Miles, summary.Sum(s => s.Miles), 6);
                    Assert.Equal(route.Minutes, summary.Sum(s => s.Minutes), 6);
                    Assert.All(summary.Zip(summary.Skip(1)), pair => Assert.NotEqual(pair.First.Road, pair.Second.Road));
                },
                iter: 40
            );

    [Fact]
    public void A_point_along_a_line_is_at_the_requested_distance() =>
        Gen.Double[0, 1]
            .Sample(share =>
            {
                var line = Router.Route(Butte, Billings)!.Line;
                var at = Whereabouts.Length(line) * share;
                return Math.Abs(Whereabouts.Passed(line, Whereabouts.Along(line, at)) - at) < 0.5;
            });

    [Fact]
    public void A_list_is_parsed_by_its_header_or_the_form_of_its_cells()
    {
        var headed = AddressLines.Read([
            ["Name", "Street", "City", "State", "ZIP", "Service minutes", "Open", "Close", "Pallets"],
            ["Dock", "1 Mill Road", "Butte", "MT", "59701", "20", "8:00", "12:00", "3"],
            ["", "", "", "", "", "x", "", "", ""],
        ]);
        Assert.Equal(
            ("1 Mill Road, Butte, MT, 59701", "Dock", 20d, 480d, 720d, 3L),
            (headed[0].Address, headed[0].Name, headed[0].Service, headed[0].Opens, headed[0].Closes, headed[0].Demand)
        );
        Assert.Equal(["service minutes: “x” is not a number from 0 to 10,000", "the address is missing"], headed[1].Faults);

        var bare = AddressLines.Read([
            ["Dock", "Butte", "MT", "20 min", "8-12"],
            ["59801", "10", "4"],
            ["Copper Lane Doors", "12 Depot Street", "Helena MT 59601", "9:00-8:00"],
        ]);
        Assert.Equal(
            ("Butte, MT", "Dock", 20d, 480d, 720d),
            (bare[0].Address, bare[0].Name, bare[0].Service, bare[0].Opens, bare[0].Closes)
        );
        Assert.Equal(("59801", (string?)null, 10d, 4L), (bare[1].Address, bare[1].Name, bare[1].Service, bare[1].Demand));
        Assert.Equal(("12 Depot Street, Helena MT 59601", "Copper Lane Doors"), (bare[2].Address, bare[2].Name));
        Assert.Equal(["the window closes before it opens"], bare[2].Faults);
    }

    [Fact]
    public void Coordinates_are_read_from_one_cell_two_cells_or_columns()
    {
        var bare = AddressLines.Read([
            ["Yard", "46.87, -113.99", "10", "8-12"],
            ["Yard", "46.87", "-113.99", "10"],
            ["46.87,-113.99"],
        ]);
        Assert.All(bare, l => Assert.Equal("46.87,-113.99", l.Address.Replace(" ", "", StringComparison.Ordinal)));
        Assert.Equal(("Yard", 10d, 480d), (bare[0].Name, bare[0].Service, bare[0].Opens));
        Assert.Equal(("Yard", 10d), (bare[1].Name, bare[1].Service));
        Assert.Null(bare[2].Name);
        var headed = AddressLines.Read([
            ["Name", "Lat", "Lon", "Minutes"],
            ["Yard", "46.87", "-113.99", "15"],
            ["Gate", "46.87", "", ""],
        ]);
        Assert.Equal(("46.87, -113.99", "Yard", 15d), (headed[0].Address, headed[0].Name, headed[0].Service));
        Assert.Equal(["the address is missing"], headed[1].Faults);
    }
}
