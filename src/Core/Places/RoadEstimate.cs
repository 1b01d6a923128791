using NodaTime;

namespace SteadyLark.Core.Places;

/// <summary>
/// Miles and times until there is a road network: the great circle, lengthened by a road factor. An estimate, and
/// said to be one wherever it is shown.
/// </summary>
public static class RoadEstimate
{
    /// <summary>Mean radius of the earth in statute miles: 6,371.0088 km (IUGG mean radius R1) / 1.609344 km (international mile).</summary>
    public const double EarthRadiusMiles = 6371.0088 / 1.609344;

    /// <summary>
    /// Road miles for one straight mile: 1.20, the mean for the United States in Ballou, Rahardja and Sakai,
    /// "Selected country circuity factors for road travel distance estimation", Transportation Research A 36 (2002).
    /// </summary>
    public const double RoadFactor = 1.20;

    /// <summary>Mean speed of a loaded truck over a long stretch, fuel and short stops within it, in miles per hour. Our own working figure.</summary>
    public const double MilesPerHour = 52;

    /// <summary>Most hours of driving before ten hours off duty: 49 CFR § 395.3(a)(3)(i), property-carrying vehicles.</summary>
    public const double DrivingLimitHours = 11;

    /// <summary>Hours off duty before driving again: 49 CFR § 395.3(a)(1).</summary>
    public const double RestHours = 10;

    /// <summary>Great-circle distance in statute miles (haversine). Symmetric, zero for equal points.</summary>
    public static double StraightMiles(GeoPoint a, GeoPoint b)
    {
        static double Radians(double degrees) => degrees * Math.PI / 180;
        static double Haversine(double angle) => Math.Pow(Math.Sin(angle / 2), 2);
        var h = Haversine(Radians(b.Latitude - a.Latitude))
            + (Math.Cos(Radians(a.Latitude)) * Math.Cos(Radians(b.Latitude)) * Haversine(Radians(b.Longitude - a.Longitude)));
        return 2 * EarthRadiusMiles * Math.Asin(Math.Min(1, Math.Sqrt(h)));
    }

    /// <summary>Estimated road miles, rounded to whole miles.</summary>
    public static int Miles(GeoPoint a, GeoPoint b) => (int)Math.Round(StraightMiles(a, b) * RoadFactor, MidpointRounding.AwayFromZero);

    /// <summary>Estimated road miles along points in order.</summary>
    public static int Miles(IReadOnlyList<GeoPoint> points)
    {
        var sum = 0;
        for (var i = 1; i < points.Count; i++)
        {
            sum += Miles(points[i - 1], points[i]);
        }

        return sum;
    }

    /// <summary>Driving alone, without rest.</summary>
    public static Duration Driving(int miles) => Duration.FromMinutes(Math.Round(miles / MilesPerHour * 60));

    /// <summary>
    /// From leaving to arriving with one rested driver: after each full eleven hours of driving, ten hours off. What he
    /// drove before is not counted here; the hours of service proper are kept by Fleet.
    /// </summary>
    public static Duration DoorToDoor(int miles)
    {
        var driving = Driving(miles);
        var rests = Math.Max(0, (int)Math.Ceiling(driving.TotalHours / DrivingLimitHours) - 1);
        return driving + Duration.FromHours(rests * RestHours);
    }
}
