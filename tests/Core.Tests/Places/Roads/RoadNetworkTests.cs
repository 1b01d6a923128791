using System.Globalization;
using CsCheck;
using SteadyLark.Core.Places;
using SteadyLark.Core.Places.Roads;
using SteadyLark.Formats.Places;
using Xunit;
using Xunit.Abstractions;

namespace SteadyLark.Core.Tests.Places.Roads;

/// <summary>The roads as they ship, and ways over them.</summary>
public class RoadNetworkTests(ITestOutputHelper summary)
{
    private static readonly RoadNetwork Roads = Atlas.Roads();
    private static readonly RoadRouter Router = new(Roads, Atlas.Shore);
    private static readonly Dictionary<string, GeoPoint> Towns = ReadTowns();

    /// <summary>Miles of Interstates within a state by the Federal Highway Administration's log and finder list (Route Log and Finder List,
    /// table 1), rounded.</summary>
    public static TheoryData<string, string, double> RouteLog =>
        new()
        {
            { "I-5", "CA", 796.5 },
            { "I-5", "OR", 308.1 },
            { "I-5", "WA", 276.6 },
            { "I-8", "AZ", 178.3 },
            { "I-10", "AZ", 392.3 },
            { "I-10", "NM", 164.3 },
            { "I-10", "TX", 880.6 },
            { "I-15", "ID", 196.0 },
            { "I-15", "MT", 396.0 },
            { "I-15", "UT", 400.6 },
            { "I-20", "SC", 141.5 },
            { "I-20", "GA", 202.6 },
            { "I-25", "NM", 462.1 },
            { "I-25", "CO", 298.9 },
            { "I-25", "WY", 300.5 },
            { "I-29", "ND", 217.5 },
            { "I-29", "SD", 252.5 },
            { "I-40", "AZ", 359.6 },
            { "I-40", "NM", 373.5 },
            { "I-40", "TX", 177.1 },
            { "I-40", "OK", 331.0 },
            { "I-40", "AR", 284.7 },
            { "I-40", "TN", 455.3 },
            { "I-40", "NC", 420.2 },
            { "I-55", "MS", 290.5 },
            { "I-55", "IL", 294.4 },
            { "I-57", "IL", 358.6 },
            { "I-65", "AL", 366.2 },
            { "I-65", "KY", 137.3 },
            { "I-65", "IN", 261.3 },
            { "I-70", "UT", 232.2 },
            { "I-70", "CO", 451.0 },
            { "I-70", "OH", 225.6 },
            { "I-75", "GA", 355.1 },
            { "I-75", "KY", 191.8 },
            { "I-75", "OH", 211.3 },
            { "I-75", "MI", 395.4 },
            { "I-77", "OH", 160.0 },
            { "I-80", "NV", 411.1 },
            { "I-80", "UT", 196.3 },
            { "I-80", "WY", 402.8 },
            { "I-80", "NE", 455.3 },
            { "I-80", "IA", 306.3 },
            { "I-80", "PA", 311.1 },
            { "I-81", "VA", 324.9 },
            { "I-81", "PA", 232.6 },
            { "I-82", "WA", 132.6 },
            { "I-84", "OR", 375.2 },
            { "I-84", "ID", 275.3 },
            { "I-90", "WA", 297.5 },
            { "I-90", "ID", 73.6 },
            { "I-90", "MT", 551.7 },
            { "I-90", "WY", 208.8 },
            { "I-90", "SD", 412.8 },
            { "I-90", "MN", 275.7 },
            { "I-94", "MT", 249.2 },
            { "I-94", "ND", 352.4 },
            { "I-95", "NC", 181.4 },
            { "I-95", "SC", 198.8 },
            { "I-95", "GA", 112.0 },
            { "I-95", "VA", 178.7 },
            { "I-95", "CT", 111.6 },
        };

    [Theory]
    [MemberData(nameof(RouteLog))]
    public void An_interstate_has_its_logged_length_in_each_state(string road, string region, double official)
    {
        var index = Roads.Roads.ToList().IndexOf(road);
        var miles = Roads
            .Edges.Where(e => e.Road == index && e.Class is RoadClass.Interstate or RoadClass.Beltway)
            .Sum(e =>
                (Roads.Nodes[e.A].Region == region ? e.MilesInA : 0) + (Roads.Nodes[e.B].Region == region ? e.Miles - e.MilesInA : 0)
            );
        summary.WriteLine($"{road} {region}: {miles:0.0} of {official:0.0}");
        Assert.InRange(miles, official * 0.98, official * 1.02);
    }

    [Fact]
    public void No_stretch_is_shorter_than_the_great_circle_or_absurdly_long()
    {
        foreach (var e in Roads.Edges)
        {
            var straight = GreatCircle.Miles(Roads.Nodes[e.A].Point, Roads.Nodes[e.B].Point);
            Assert.True(
                e.Miles >= straight - 0.06 && e.Miles <= (straight * 2.6) + 12,
                $"{Roads.Roads[e.Road]} {Roads.Nodes[e.A].Name} to {Roads.Nodes[e.B].Name}: {e.Miles} miles, straight {straight:0.0}"
            );
            Assert.InRange(e.MilesInA, 0, e.Miles);
        }
    }

    [Fact]
    public void Every_node_can_be_reached_from_every_other()
    {
        var butte = Roads.Nodes[Roads.Node("Butte MT")].Point;
        Assert.All(Roads.Nodes, n => Assert.NotNull(Router.Route(butte, n.Point)));
    }

    /// <summary>Pairs that were looked at while roads were written, and such as were set down later, most of them between small towns; each
    /// list's own bounds of error in percent.</summary>
    [Theory]
    [InlineData("road-pairs.txt", 200, 2, 6, 10)]
    [InlineData("road-pairs-more.txt", 500, 2.5, 9, 17)]
    public void Known_pairs_have_the_miles_of_published_maps(string file, int min, double median, double max, double worst)
    {
        var off = new List<(double Percent, string Pair)>();
        foreach (var line in File.ReadLines(Path.Combine(AppContext.BaseDirectory, file)).Where(l => l.Length > 0 && l[0] != '#'))
        {
            var parts = line.Split('|');
            var known = double.Parse(parts[2], CultureInfo.InvariantCulture);
            var route = Router.Route(Towns[parts[0]], Towns[parts[1]])!;
            off.Add(((route.Miles - known) / known * 100, $"{parts[0]} to {parts[1]}: {route.Miles:0} of {known:0}"));
        }

        var sorted = off.Select(o => Math.Abs(o.Percent)).Order().ToList();
        foreach (var (percent, pair) in off.OrderByDescending(o => Math.Abs(o.Percent)).Take(10))
        {
            summary.WriteLine($"{percent:+0.0;-0.0} % {pair}");
        }

        summary.WriteLine(
            $"{off.Count} pairs: median {sorted[off.Count / 2]:0.0} %, 95th percentile {sorted[off.Count * 95 / 100]:0.0} %, mean {off.Average(o => o.Percent):0.0} %"
        );
        Assert.True(off.Count >= min);
        Assert.True(
            sorted[off.Count / 2] <= median && sorted[off.Count * 95 / 100] <= max && sorted[^1] <= worst,
            string.Join("; ", off.OrderByDescending(o => Math.Abs(o.Percent)).Take(10))
        );
    }

    [Fact]
    public void A_hierarchy_finds_what_a_plain_search_finds() =>
        Gen.Select(Gen.Int[2, 40], Gen.Select(Gen.Int[0, 39], Gen.Int[0, 39], Gen.Int[0, 50]).List[0, 120], Gen.Int[0, 39], Gen.Int[0, 39])
            .Sample(
                (nodes, links, from, to) =>
                {
                    var edges = links.Select(l => (A: l.Item1 % nodes, B: l.Item2 % nodes, Cost: (double)l.Item3)).ToList();
                    var (a, b) = (from % nodes, to % nodes);
                    var hierarchy = Hierarchy.Build(
                        nodes,
                        edges.Select(e => (e.A, e.B, new Weight(e.Cost, e.Cost * 2, 1, e.Cost * 3))).ToList()
                    );
                    var (up, down) = (hierarchy.Up([(a, default)]), hierarchy.Up([(b, default)]));
                    var ((cost, miles, _, tolls), meet) = Hierarchy.Meet(up, down);
                    Assert.Equal((cost * 2, cost * 3), (miles, tolls));
                    Assert.Equal(Plain(nodes, edges, a, b), cost);
                    if (meet >= 0)
                    {
                        // Its way is made of edges of the graph, one after the other, and costs what was said.
                        var (at, sum) = (a, 0d);
                        foreach (var (e, node) in hierarchy.Path(up, down, meet))
                        {
                            Assert.Equal(at, node);
                            Assert.True(edges[e].A == at || edges[e].B == at);
                            at = edges[e].A == at ? edges[e].B : edges[e].A;
                            sum += edges[e].Cost;
                        }

                        Assert.Equal((b, cost), (at, sum));
                    }
                }
            );

    [Fact]
    public void A_route_is_symmetric_and_its_parts_add_up() =>
        Gen.Select(Gen.Int[0, Roads.Nodes.Count - 1], Gen.Int[0, Roads.Nodes.Count - 1], Gen.Double[-0.3, 0.3], Gen.Double[-0.3, 0.3])
            .Sample(
                (i, j, dy, dx) =>
                {
                    var a = new GeoPoint(Roads.Nodes[i].Point.Latitude + dy, Roads.Nodes[i].Point.Longitude + dx);
                    var b = Roads.Nodes[j].Point;
                    if (Router.Route(a, b) is not { } route)
                    {
                        return;
                    }

                    var back = Router.Route(b, a)!;
                    var drive = Router.Drive(a, b)!.Value;
                    Assert.Equal(route.Miles, drive.Miles, 6);
                    Assert.Equal(route.TollMiles, drive.TollMiles, 6);
                    Assert.Equal(route.Minutes, back.Minutes, 6);
                    Assert.Equal(route.Miles, route.ByRegion.Sum(r => r.Miles), 6);
                    Assert.Equal(route.Miles, route.Steps.Sum(s => s.Miles), 6);
                    Assert.Equal(route.Minutes, route.Steps.Sum(s => s.Minutes), 6);
                    Assert.True(route.Miles >= GreatCircle.Miles(a, b) * 0.99);
                    Assert.True(Router.Route(a, b, new RoadOptions(Shortest: true))!.Miles <= route.Miles + 1e-6);
                },
                iter: 200
            );

    [Fact]
    public void Miles_by_state_match_the_route_logs()
    {
        var route = Router.Route(Towns["Seattle WA"], Towns["Chicago IL"])!;
        var miles = route.ByRegion.ToDictionary(r => r.Region, r => r.Miles);
        Assert.InRange(miles["WA"], 291, 301);
        Assert.InRange(miles["ID"], 72, 76);
        Assert.InRange(route.Miles, 2000, 2110);
        var south = Router.Route(Towns["Los Angeles CA"], Towns["Jacksonville FL"])!.ByRegion.ToDictionary(r => r.Region, r => r.Miles);
        // Past New Orleans on I-12: 159 on I-10, 85.5 on I-12, 7 on I-10.
        foreach (
            var (region, log) in new[] { ("LA", 251.5), ("AZ", 392d), ("NM", 164d), ("TX", 881d), ("MS", 77d), ("AL", 66d), ("FL", 362d) }
        )
        {
            Assert.InRange(south[region], log * 0.97, log * 1.03);
        }
    }

    /// <summary>
    /// Long ways through whole states on one Interstate, against its length there in the Federal Highway Administration's "Route Log and
    /// Finder List" of the Interstate system, as recalled: within 3 %.
    /// </summary>
    [Theory]
    [InlineData("Seattle WA>Sheridan WY>Sioux Falls SD", "ID 73.9, MT 551.7, WY 208.8")]
    [InlineData("Billings MT>Bismarck ND>Minneapolis MN", "ND 352.4")]
    [InlineData("Reno NV>Chicago IL", "UT 196.3, WY 402.8, NE 455.3, IA 306.3")]
    [InlineData("Omaha NE>Youngstown OH>Paterson NJ", "IA 306.3, IL 163.5, IN 151.6, OH 237.2, PA 311.1")]
    [InlineData("Denver CO>Kansas City MO>Indianapolis IN", "KS 424.2, MO 250.2")]
    [InlineData("Barstow CA>Memphis TN", "AZ 359.5, NM 373.5, TX 177.1, OK 331, AR 284.7")]
    [InlineData("Dallas TX>Atlanta GA", "LA 189.9, MS 154.5, AL 214.7")]
    [InlineData("Seattle WA>Sacramento CA", "OR 308.1")]
    [InlineData("Los Angeles CA>Idaho Falls ID>Helena MT>Lethbridge AB", "NV 123.8, AZ 29.4, UT 400.6, ID 196, MT 396")]
    [InlineData("Albuquerque NM>Denver CO>Casper WY", "CO 299.1")]
    [InlineData("Fort Worth TX>Wichita KS", "OK 236")]
    [InlineData("Mobile AL>Indianapolis IN", "TN 121.7, KY 137.3")]
    [InlineData("Ocala FL>Toledo OH", "GA 355.1, KY 191.8")]
    [InlineData("Knoxville TN>Syracuse NY", "VA 324.9, WV 26, MD 12.1, PA 232.8")]
    [InlineData("Montgomery AL>Richmond VA", "GA 179.9, SC 106.3, NC 233.9")]
    [InlineData("Jacksonville FL>Richmond VA", "GA 112, SC 198.2, NC 181.4")]
    [InlineData("Omaha NE>Winnipeg MB", "SD 252.5, ND 217.5")]
    [InlineData("Kansas City MO>Des Moines IA>Minneapolis MN", "MO 114.7, IA 219.2")]
    [InlineData("Charlotte NC>Marietta OH", "VA 67.4, WV 187.2")]
    [InlineData("Chattanooga TN>Carbondale IL", "KY 93.4")]
    public void Long_routes_match_the_route_logs_by_state(string route, string logs)
    {
        var miles = Router.Route(route.Split('>').Select(t => Towns[t]).ToList())!.ByRegion.ToDictionary(r => r.Region, r => r.Miles);
        foreach (var log in logs.Split(", ").Select(l => (Region: l[..2], Miles: double.Parse(l[3..], CultureInfo.InvariantCulture))))
        {
            summary.WriteLine($"{route} {log.Region} {log.Miles} {miles[log.Region]:0.0}");
            Assert.InRange(miles[log.Region], log.Miles * 0.97, log.Miles * 1.03);
        }
    }

    [Fact]
    public void Routing_options_are_respected()
    {
        var (cleveland, newYork) = (Towns["Cleveland OH"], Towns["Albany NY"]);
        Assert.True(Router.Route(cleveland, newYork)!.TollMiles > 100);
        Assert.True(Router.Route(cleveland, newYork, new RoadOptions(AvoidTolls: true))!.TollMiles < 20);
        var (detroit, buffalo) = (Towns["Detroit MI"], Towns["Buffalo NY"]);
        Assert.Contains(Router.Route(detroit, buffalo)!.ByRegion, r => r.Region == "ON");
        Assert.DoesNotContain(Router.Route(detroit, buffalo, new RoadOptions(Country: "US"))!.ByRegion, r => r.Region == "ON");

        // Through a point between: the two ways joined.
        var through = Router.Route([detroit, Towns["Columbus OH"], buffalo])!;
        Assert.Equal(
            Router.Route(detroit, Towns["Columbus OH"])!.Miles + Router.Route(Towns["Columbus OH"], buffalo)!.Miles,
            through.Miles,
            6
        );
    }

    [Fact]
    public void Places_of_one_town_are_not_zero_apart_and_the_sea_has_no_roads()
    {
        var (a, b) = (new GeoPoint(46.8721, -113.9940), new GeoPoint(46.8900, -114.0300));
        Assert.InRange(Router.Route(a, b)!.Miles, 1.5, 5);
        Assert.Equal(0, Router.Route(a, a)!.Miles);
        Assert.Null(Router.Route(a, new GeoPoint(35, -140)));
        Assert.Null(Router.Route(a, new GeoPoint(61.2, -149.9)));
    }

    [Theory]
    [InlineData(40.2, -73.0, "is in the water")]
    [InlineData(42.5, -87.2, "is in the water")]
    [InlineData(41.283, -70.099, "island")]
    [InlineData(45.85, -84.62, "island")]
    [InlineData(48.53, -123.02, "island")]
    [InlineData(32.46, -116.98, "is in Mexico")]
    [InlineData(25.67, -100.31, "is in Mexico")]
    [InlineData(61.2, -149.9, "outside our road network")]
    [InlineData(35, -140, "outside our road network")]
    [InlineData(31.76, -106.485, null)]
    [InlineData(32.553, -117.045, null)]
    [InlineData(24.555, -81.78, null)]
    [InlineData(29.30, -94.80, null)]
    [InlineData(41.67, -70.29, null)]
    public void A_point_without_roads_is_reported_as_water_island_or_abroad(double latitude, double longitude, string? why)
    {
        var point = new GeoPoint(latitude, longitude);
        if (why is null)
        {
            Assert.Null(Router.Unreached(point));
        }
        else
        {
            Assert.Contains(why, Router.Unreached(point), StringComparison.Ordinal);
            Assert.Null(Router.Route(Towns["Butte MT"], point));
        }
    }

    [Fact]
    public void An_island_with_a_ferry_is_reached_by_the_ferry()
    {
        var route = Router.Route(Towns["Vancouver BC"], Towns["Victoria BC"])!;
        Assert.Contains(route.Steps, s => s is { Road: "ferry", Miles: > 20, Minutes: > 90 });
        Assert.InRange(route.Miles, 60, 80);
        Assert.InRange(Router.Route(Towns["Victoria BC"], Towns["Nanaimo BC"])!.Miles, 65, 75);
    }

    [Fact]
    public void Local_roads_do_not_cross_lakes_and_bays() =>
        Assert.All(
            new[] { ("Muskegon MI", "Milwaukee WI", 250), ("Port Townsend WA", "Everett WA", 60), ("Toronto ON", "Niagara Falls NY", 75) },
            p => Assert.True(Router.Route(Towns[p.Item1], Towns[p.Item2])!.Miles > p.Item3)
        );

    /// <summary>A square island with a lake in it, beside another land.</summary>
    [Fact]
    public void The_shoreline_separates_land_from_water_and_countries()
    {
        static GeoPoint[] Square(double south, double west, double side) =>
            [new(south, west), new(south + side, west), new(south + side, west + side), new(south, west + side)];
        var shore = new Shore([
            new Outline("MT", [Square(40, -100, 2), Square(40.8, -99.2, 0.4)]),
            new Outline("Elsewhere", [Square(40, -98, 2)]),
        ]);
        Assert.True(shore.Dry(new GeoPoint(40.1, -99.9)));
        Assert.False(shore.Dry(new GeoPoint(41, -99)));
        Assert.False(shore.Dry(new GeoPoint(41, -97)));
        Assert.Equal("Elsewhere", shore.Abroad(new GeoPoint(41, -97)));
        Assert.Null(shore.Abroad(new GeoPoint(41, -97.99)));
        Assert.Null(shore.Abroad(new GeoPoint(45, -97)));
        Assert.InRange(shore.Water(new GeoPoint(41, -99.9), new GeoPoint(41, -98.1)), 20, 22);
        Assert.Equal(0, shore.Water(new GeoPoint(40.3, -99.9), new GeoPoint(40.3, -98.1)));
    }

    [Fact]
    public void A_matrix_agrees_with_each_single_route()
    {
        var points = new[] { "Butte MT", "Fargo ND", "Atlanta GA", "Missoula MT", "Calgary AB" }.Select(t => Towns[t]).ToList();
        var (miles, minutes) = Router.Matrix(points);
        for (var i = 0; i < points.Count; i++)
        {
            for (var j = 0; j < points.Count; j++)
            {
                var route = Router.Route(points[i], points[j])!;
                Assert.Equal(route.Miles, miles[i, j], 6);
                Assert.Equal(route.Minutes, minutes[i, j], 6);
            }
        }
    }

    private static double Plain(int nodes, List<(int A, int B, double Cost)> edges, int from, int to)
    {
        var cost = Enumerable.Repeat(double.PositiveInfinity, nodes).ToArray();
        cost[from] = 0;
        for (var round = 0; round < nodes; round++)
        {
            foreach (var (a, b, c) in edges)
            {
                cost[b] = Math.Min(cost[b], cost[a] + c);
                cost[a] = Math.Min(cost[a], cost[b] + c);
            }
        }

        return cost[to];
    }

    private static Dictionary<string, GeoPoint> ReadTowns()
    {
        using var text = Atlas.Towns();
        return Gazetteer.Read(text).ToDictionary(t => $"{t.Name} {t.Region}", t => t.Point);
    }
}
