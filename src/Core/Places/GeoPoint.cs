namespace SteadyLark.Core.Places;

/// <summary>A point on the earth, WGS 84.</summary>
/// <param name="Latitude">Degrees north, -90 to 90.</param>
/// <param name="Longitude">Degrees east, -180 to 180 (negative in North America).</param>
public readonly record struct GeoPoint(double Latitude, double Longitude);
