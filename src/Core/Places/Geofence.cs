using NetTopologySuite.Geometries;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Places;

/// <summary>A place's geofence: a circle or a polygon.</summary>
public sealed class Geofence
{
    /// <summary>The most corners of a polygon.</summary>
    public const int MaxCorners = 200;

    /// <summary>The farthest a corner may be from its place, in miles.</summary>
    public const double Farthest = 50;

    private static readonly GeometryFactory Wgs84 = new(new PrecisionModel(), 4326);

    private readonly GeoPoint _center;
    private readonly double? _miles;
    private readonly Polygon? _polygon;

    private Geofence(GeoPoint center, double? miles, Polygon? polygon) => (_center, _miles, _polygon) = (center, miles, polygon);

    /// <param name="miles">Radius, 0.02 to 50.</param>
    public static Geofence Circle(GeoPoint center, double miles) => new(center, miles, null);

    /// <summary>A polygon around a place; its corners in order, the first not repeated at the end.</summary>
    public static Outcome<Geofence> Around(GeoPoint center, IReadOnlyList<GeoPoint> corners)
    {
        if (corners.Count is < 3 or > MaxCorners)
        {
            return new Problem("geofence.corners", $"A geofence has 3 to {MaxCorners} corners.", "geofence");
        }

        if (
            corners.Any(c =>
                c is not { Latitude: >= -90 and <= 90, Longitude: >= -180 and <= 180 } || GreatCircle.Miles(center, c) > Farthest
            )
        )
        {
            return new Problem("geofence.far", $"A corner of the geofence is more than {Farthest:0} miles from its place.", "geofence");
        }

        var polygon = Wgs84.CreatePolygon([.. corners.Append(corners[0]).Select(c => new Coordinate(c.Longitude, c.Latitude))]);
        return polygon.IsValid && polygon.Area > 0
            ? new Geofence(center, null, polygon)
            : new Problem("geofence.crossed", "The geofence crosses itself: draw it around the place without crossing lines.", "geofence");
    }

    /// <summary>Whether a point is inside or on the geofence.</summary>
    public bool Holds(GeoPoint point) =>
        _miles is { } miles
            ? GreatCircle.Miles(_center, point) <= miles
            : _polygon!.Covers(Wgs84.CreatePoint(new Coordinate(point.Longitude, point.Latitude)));
}
