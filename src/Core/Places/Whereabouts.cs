namespace SteadyLark.Core.Places;

/// <summary>Describes a location in words that can be used on the phone.</summary>
public static class Whereabouts
{
    private static readonly string[] Points = ["N", "NE", "E", "SE", "S", "SW", "W", "NW"];

    /// <summary>Closer than this it is in the town.</summary>
    private const double InTown = 4;

    /// <summary>For example <c>22 mi NW of Butte MT</c>, or <c>in Butte MT</c>. Straight miles and the initial great-circle bearing, in
    /// eight directions.</summary>
    public static string Format(GeoPoint at, string town, GeoPoint townAt)
    {
        var miles = GreatCircle.Miles(at, townAt);
        return miles < InTown
            ? $"in {town}"
            : $"{Math.Round(miles):0} mi {Points[(int)Math.Round(Bearing(townAt, at) / 45) % 8]} of {town}";
    }

    /// <summary>Initial bearing from a to b, degrees clockwise from north: 0 to 360.</summary>
    public static double Bearing(GeoPoint a, GeoPoint b)
    {
        static double Radians(double degrees) => degrees * Math.PI / 180;
        var (la, lb, d) = (Radians(a.Latitude), Radians(b.Latitude), Radians(b.Longitude - a.Longitude));
        var y = Math.Sin(d) * Math.Cos(lb);
        var x = (Math.Cos(la) * Math.Sin(lb)) - (Math.Sin(la) * Math.Cos(lb) * Math.Cos(d));
        return ((Math.Atan2(y, x) * 180 / Math.PI) + 360) % 360;
    }

    /// <summary>The point at a fraction of the straight line from a to b, 0 to 1.</summary>
    public static GeoPoint Between(GeoPoint a, GeoPoint b, double share) =>
        new(a.Latitude + ((b.Latitude - a.Latitude) * share), a.Longitude + ((b.Longitude - a.Longitude) * share));

    /// <summary>Straight miles along a polyline.</summary>
    public static double Length(IReadOnlyList<GeoPoint> line)
    {
        var sum = 0d;
        for (var i = 1; i < line.Count; i++)
        {
            sum += GreatCircle.Miles(line[i - 1], line[i]);
        }

        return sum;
    }

    /// <summary>The point so many miles along a polyline; its end when it is shorter.</summary>
    public static GeoPoint Along(IReadOnlyList<GeoPoint> line, double miles)
    {
        for (var i = 1; i < line.Count; i++)
        {
            var piece = GreatCircle.Miles(line[i - 1], line[i]);
            if (miles < piece)
            {
                return Between(line[i - 1], line[i], Math.Max(0, miles) / piece);
            }

            miles -= piece;
        }

        return line[^1];
    }

    /// <summary>Miles along a polyline to its point nearest to another.</summary>
    public static double Passed(IReadOnlyList<GeoPoint> line, GeoPoint at)
    {
        var (best, passed, sum) = (double.MaxValue, 0d, 0d);
        for (var i = 1; i < line.Count; i++)
        {
            var (share, foot) = Foot(at, line[i - 1], line[i]);
            var (off, piece) = (GreatCircle.Miles(at, foot), GreatCircle.Miles(line[i - 1], line[i]));
            if (off < best)
            {
                (best, passed) = (off, sum + (piece * share));
            }

            sum += piece;
        }

        return passed;
    }

    /// <summary>The projection of a point onto a straight segment, as a fraction from a to b, on a local tangent plane.</summary>
    public static (double Share, GeoPoint Foot) Foot(GeoPoint p, GeoPoint a, GeoPoint b)
    {
        var narrow = Math.Cos(p.Latitude * Math.PI / 180);
        var (x, y) = ((b.Longitude - a.Longitude) * narrow, b.Latitude - a.Latitude);
        var length = (x * x) + (y * y);
        var share =
            length == 0 ? 0 : Math.Clamp(((((p.Longitude - a.Longitude) * narrow) * x) + ((p.Latitude - a.Latitude) * y)) / length, 0, 1);
        return (share, Between(a, b, share));
    }
}
