using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Xml;
using System.Xml.Linq;
using SteadyLark.Core.Places;
using SteadyLark.Formats.Tables;

namespace SteadyLark.Formats.Routes;

/// <summary>A stop of a route in a file.</summary>
/// <param name="When">The appointment in words, or null.</param>
/// <param name="Miles">From the stop before; null at the first.</param>
public sealed record RouteStop(string Name, string? Address, string Kind, GeoPoint Point, string? When, double? Miles, double? Minutes);

/// <summary>A route with its stops, for export in an open format.</summary>
/// <param name="Line">The route as points.</param>
public sealed record RouteFile(string Name, IReadOnlyList<RouteStop> Stops, IReadOnlyList<GeoPoint> Line)
{
    private static readonly XNamespace Gpx11 = "http://www.topografix.com/GPX/1/1";

    /// <summary>GPX 1.1 (www.topografix.com/GPX/1/1): each stop as a waypoint, the stops as a route, the driven line as a track.
    /// UTF-8.</summary>
    public byte[] Gpx()
    {
        XElement Point(string tag, GeoPoint p, params object?[] inside) =>
            new(Gpx11 + tag, new XAttribute("lat", Degrees(p.Latitude)), new XAttribute("lon", Degrees(p.Longitude)), inside);
        object?[] Words(RouteStop s) =>
            [
                new XElement(Gpx11 + "name", Clean(s.Name)),
                Note(s) is { } note ? new XElement(Gpx11 + "desc", Clean(note)) : null,
                new XElement(Gpx11 + "type", Clean(s.Kind)),
            ];
        var root = new XElement(
            Gpx11 + "gpx",
            new XAttribute("version", "1.1"),
            new XAttribute("creator", "Steady Lark"),
            new XElement(Gpx11 + "metadata", new XElement(Gpx11 + "name", Clean(Name))),
            Stops.Select(s => Point("wpt", s.Point, Words(s))),
            new XElement(Gpx11 + "rte", new XElement(Gpx11 + "name", Clean(Name)), Stops.Select(s => Point("rtept", s.Point, Words(s)))),
            new XElement(
                Gpx11 + "trk",
                new XElement(Gpx11 + "name", Clean(Name)),
                new XElement(Gpx11 + "trkseg", Line.Select(p => Point("trkpt", p)))
            )
        );
        using var stream = new MemoryStream();
        using (var writer = XmlWriter.Create(stream, new XmlWriterSettings { Indent = true, Encoding = new UTF8Encoding(false) }))
        {
            root.Save(writer);
        }

        return stream.ToArray();
    }

    /// <summary>GeoJSON (RFC 7946): one feature collection with the route as a LineString and each stop as a Point. UTF-8.</summary>
    public byte[] GeoJson() =>
        JsonSerializer.SerializeToUtf8Bytes(
            new
            {
                type = "FeatureCollection",
                features = new object[]
                {
                    new
                    {
                        type = "Feature",
                        properties = new { name = Name } as object,
                        geometry = new { type = "LineString", coordinates = Line.Select(Position).ToArray() } as object,
                    },
                }.Concat(
                    Stops.Select(s =>
                        (object)
                            new
                            {
                                type = "Feature",
                                properties = new
                                {
                                    name = s.Name,
                                    kind = s.Kind,
                                    address = s.Address,
                                    when = s.When,
                                    miles = Rounded(s.Miles),
                                    minutes = s.Minutes is { } m ? Math.Round(m) : (double?)null,
                                },
                                geometry = new { type = "Point", coordinates = Position(s.Point) },
                            }
                    )
                ),
            }
        );

    /// <summary>CSV (RFC 4180), one line per stop.</summary>
    public byte[] Csv() =>
        new Table(
            ["stop", "kind", "name", "address", "latitude", "longitude", "when", "miles", "drive minutes"],
            Stops
                .Select(
                    (s, i) =>
                        (IReadOnlyList<object?>)
                            [
                                (decimal)(i + 1),
                                s.Kind,
                                s.Name,
                                s.Address,
                                (decimal)Math.Round(s.Point.Latitude, 5),
                                (decimal)Math.Round(s.Point.Longitude, 5),
                                s.When,
                                (decimal?)Rounded(s.Miles),
                                s.Minutes is { } m ? (decimal)Math.Round(m) : null,
                            ]
                )
                .ToList()
        ).Csv();

    private static double[] Position(GeoPoint p) => [Math.Round(p.Longitude, 6), Math.Round(p.Latitude, 6)];

    private static double? Rounded(double? miles) => miles is { } m ? Math.Round(m, 1) : null;

    private static string Degrees(double d) => d.ToString("0.######", CultureInfo.InvariantCulture);

    private static string? Note(RouteStop s) =>
        string.Join(", ", new[] { s.Address, s.When }.Where(t => !string.IsNullOrEmpty(t))) is { Length: > 0 } note ? note : null;

    /// <summary>XML 1.0 does not allow most control characters.</summary>
    private static string Clean(string text) => new(text.Where(XmlConvert.IsXmlChar).ToArray());
}
