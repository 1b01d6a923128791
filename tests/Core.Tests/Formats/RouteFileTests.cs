using System.Text;
using System.Text.Json;
using System.Xml.Linq;
using CsCheck;
using SteadyLark.Core.Places;
using SteadyLark.Formats.Routes;
using SteadyLark.Formats.Tables;
using Xunit;

namespace SteadyLark.Core.Tests.Formats;

/// <summary>Ways as GPX, GeoJSON and CSV.</summary>
public class RouteFileTests
{
    private static readonly XNamespace Gpx = "http://www.topografix.com/GPX/1/1";

    private static readonly RouteFile Way = new(
        "6145 Missoula to Butte",
        [
            new RouteStop(
                "Bitter Fork Lumber & Sons <west>",
                "12 Mill Road, Missoula MT",
                "pickup",
                new GeoPoint(46.8721, -113.994),
                "Tue 24 Nov 08:00",
                null,
                null
            ),
            new RouteStop("=Copper\u0001 Lane", null, "delivery", new GeoPoint(46.0038, -112.5347), null, 119.64, 121.4),
        ],
        [new GeoPoint(46.8721, -113.994), new GeoPoint(46.5, -113.2), new GeoPoint(46.0038, -112.5347)]
    );

    [Fact]
    public void Gpx_has_stops_as_waypoints_and_route_and_the_line_as_a_track()
    {
        var gpx = XDocument.Parse(Encoding.UTF8.GetString(Way.Gpx())).Root!;
        Assert.Equal((Gpx + "gpx", "1.1"), (gpx.Name, gpx.Attribute("version")!.Value));

        // The schema wants metadata, waypoints, routes and tracks in this order.
        Assert.Equal(["metadata", "wpt", "wpt", "rte", "trk"], gpx.Elements().Select(e => e.Name.LocalName));
        var first = gpx.Element(Gpx + "wpt")!;
        Assert.Equal(("46.8721", "-113.994"), (first.Attribute("lat")!.Value, first.Attribute("lon")!.Value));
        Assert.Equal(["name", "desc", "type"], first.Elements().Select(e => e.Name.LocalName));
        Assert.Equal("Bitter Fork Lumber & Sons <west>", first.Element(Gpx + "name")!.Value);
        Assert.Equal("12 Mill Road, Missoula MT, Tue 24 Nov 08:00", first.Element(Gpx + "desc")!.Value);
        Assert.Equal("=Copper Lane", gpx.Elements(Gpx + "wpt").Last().Element(Gpx + "name")!.Value);
        Assert.Equal(3, gpx.Descendants(Gpx + "trkpt").Count());
        Assert.Equal(2, gpx.Descendants(Gpx + "rtept").Count());
    }

    [Fact]
    public void Geojson_has_the_route_as_a_line_and_each_stop_as_a_point_longitude_first()
    {
        using var json = JsonDocument.Parse(Way.GeoJson());
        Assert.Equal("FeatureCollection", json.RootElement.GetProperty("type").GetString());
        var features = json.RootElement.GetProperty("features").EnumerateArray().ToList();
        Assert.Equal(["LineString", "Point", "Point"], features.Select(f => f.GetProperty("geometry").GetProperty("type").GetString()));
        Assert.Equal(
            [-113.994, 46.8721],
            features[1].GetProperty("geometry").GetProperty("coordinates").EnumerateArray().Select(c => c.GetDouble())
        );
        Assert.Equal(
            (119.6, 121d),
            (
                features[2].GetProperty("properties").GetProperty("miles").GetDouble(),
                features[2].GetProperty("properties").GetProperty("minutes").GetDouble()
            )
        );
        Assert.Equal(JsonValueKind.Null, features[1].GetProperty("properties").GetProperty("miles").ValueKind);
    }

    [Fact]
    public void Csv_round_trips_and_no_cell_is_a_formula()
    {
        var rows = TableReader.Read(Way.Csv()).Value;
        Assert.Equal(["stop", "kind", "name", "address", "latitude", "longitude", "when", "miles", "drive minutes"], rows[0]);
        Assert.Equal(
            [
                "1",
                "pickup",
                "Bitter Fork Lumber & Sons <west>",
                "12 Mill Road, Missoula MT",
                "46.8721",
                "-113.994",
                "Tue 24 Nov 08:00",
                "",
                "",
            ],
            rows[1]
        );
        Assert.DoesNotContain(rows[2], c => c.StartsWith('='));
        Assert.Equal(("46.0038", "-112.5347", "119.6", "121"), (rows[2][4], rows[2][5], rows[2][7], rows[2][8]));
    }

    [Fact]
    public void Any_name_gives_valid_gpx_without_characters_xml_does_not_allow() =>
        Gen.String.Sample(name =>
        {
            var route = new RouteFile(name, [new RouteStop(name, name, "pickup", new GeoPoint(46, -113), name, 1, 1)], []);
            var told = XDocument
                .Parse(Encoding.UTF8.GetString(route.Gpx()), LoadOptions.PreserveWhitespace)
                .Root!.Element(Gpx + "wpt")!
                .Element(Gpx + "name")!
                .Value;
            var kept = new string(name.Where(System.Xml.XmlConvert.IsXmlChar).ToArray())
                .Replace("\r\n", "\n", StringComparison.Ordinal)
                .Replace('\r', '\n');
            Assert.Equal(kept, told.Replace("\r\n", "\n", StringComparison.Ordinal).Replace('\r', '\n'));
        });
}
