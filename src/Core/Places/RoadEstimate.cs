namespace SteadyLark.Core.Places;

/// <summary>
/// Miles and minutes off our road network: great-circle distance times a road factor. Shown as an estimate everywhere.
/// </summary>
public sealed class RoadEstimate : IRoads
{
    /// <summary>
    /// Road miles per straight mile: 1.20, the mean for the United States in Ballou, Rahardja and Sakai,
    /// "Selected country circuity factors for road travel distance estimation", Transportation Research A 36 (2002).
    /// </summary>
    public const double RoadFactor = 1.20;

    /// <summary>Mean speed of a loaded truck on a long haul, in miles per hour. Our own working figure.</summary>
    public const double MilesPerHour = 52;

    public static readonly RoadEstimate Straight = new();

    private RoadEstimate() { }

    public Drive Between(GeoPoint from, GeoPoint to)
    {
        var miles = GreatCircle.Miles(from, to) * RoadFactor;
        return new Drive(miles, miles / MilesPerHour * 60, Estimated: true);
    }
}
