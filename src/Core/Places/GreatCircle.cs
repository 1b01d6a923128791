namespace SteadyLark.Core.Places;

/// <summary>Straight-line distances on a sphere.</summary>
public static class GreatCircle
{
    /// <summary>Mean radius of the earth in statute miles: 6,371.0088 km (IUGG mean radius R1) / 1.609344 km (international
    /// mile).</summary>
    public const double EarthRadiusMiles = 6371.0088 / 1.609344;

    /// <summary>Statute miles (haversine). Symmetric, zero for equal points.</summary>
    public static double Miles(GeoPoint a, GeoPoint b)
    {
        static double Radians(double degrees) => degrees * Math.PI / 180;
        static double Haversine(double angle) => Math.Pow(Math.Sin(angle / 2), 2);
        var h =
            Haversine(Radians(b.Latitude - a.Latitude))
            + (Math.Cos(Radians(a.Latitude)) * Math.Cos(Radians(b.Latitude)) * Haversine(Radians(b.Longitude - a.Longitude)));
        return 2 * EarthRadiusMiles * Math.Asin(Math.Min(1, Math.Sqrt(h)));
    }
}
