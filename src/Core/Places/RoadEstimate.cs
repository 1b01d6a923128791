namespace SteadyLark.Core.Places;

/// <summary>
/// Miles and minutes where our roads do not reach: the great circle, lengthened by a road factor. An estimate, and said to be one wherever it is shown.
/// </summary>
public sealed class RoadEstimate : IRoads
{
    /// <summary>
    /// Road miles for one straight mile: 1.20, the mean for the United States in Ballou, Rahardja and Sakai,
    /// "Selected country circuity factors for road travel distance estimation", Transportation Research A 36 (2002).
    /// </summary>
    public const double RoadFactor = 1.20;

    /// <summary>Mean speed of a loaded truck over a long stretch, in miles per hour. Our own working figure.</summary>
    public const double MilesPerHour = 52;

    public static readonly RoadEstimate Straight = new();

    private RoadEstimate()
    {
    }

    public Drive Between(GeoPoint from, GeoPoint to)
    {
        var miles = GreatCircle.Miles(from, to) * RoadFactor;
        return new Drive(miles, miles / MilesPerHour * 60, Estimated: true);
    }
}
