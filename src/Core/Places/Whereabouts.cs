namespace SteadyLark.Core.Places;

/// <summary>Where something is, in words that a person on the phone can use.</summary>
public static class Whereabouts
{
    private static readonly string[] Points = ["N", "NE", "E", "SE", "S", "SW", "W", "NW"];

    /// <summary>Nearer than this it is in the town.</summary>
    private const double InTown = 4;

    /// <summary>For example <c>22 mi NW of Butte MT</c>, or <c>in Butte MT</c>. Straight miles and the initial bearing on the great circle, of eight.</summary>
    public static string Said(GeoPoint at, string town, GeoPoint townAt)
    {
        var miles = RoadEstimate.StraightMiles(at, townAt);
        return miles < InTown ? $"in {town}" : $"{Math.Round(miles):0} mi {Points[(int)Math.Round(Bearing(townAt, at) / 45) % 8]} of {town}";
    }

    /// <summary>Degrees clockwise from north in which one sets out from a to b: 0 to 360.</summary>
    public static double Bearing(GeoPoint a, GeoPoint b)
    {
        static double Radians(double degrees) => degrees * Math.PI / 180;
        var (la, lb, d) = (Radians(a.Latitude), Radians(b.Latitude), Radians(b.Longitude - a.Longitude));
        var y = Math.Sin(d) * Math.Cos(lb);
        var x = (Math.Cos(la) * Math.Sin(lb)) - (Math.Sin(la) * Math.Cos(lb) * Math.Cos(d));
        return ((Math.Atan2(y, x) * 180 / Math.PI) + 360) % 360;
    }

    /// <summary>The point at a share of the way from a to b, 0 to 1, on the straight line between them.</summary>
    public static GeoPoint Between(GeoPoint a, GeoPoint b, double share) =>
        new(a.Latitude + ((b.Latitude - a.Latitude) * share), a.Longitude + ((b.Longitude - a.Longitude) * share));
}
