using NodaTime;

namespace SteadyLark.Core.Places;

/// <summary>Distance and driving time of a truck between two points.</summary>
/// <param name="Miles">Statute road miles, local streets at both ends included.</param>
/// <param name="Minutes">Driving time at truck speeds, without stops or rest.</param>
/// <param name="Estimated">True off our road network: the straight line times a road factor.</param>
/// <param name="TollMiles">Of the miles, on toll roads.</param>
public readonly record struct Drive(double Miles, double Minutes, bool Estimated = false, double TollMiles = 0)
{
    /// <summary>Driving limit before ten hours off duty: 49 CFR § 395.3(a)(3)(i), property-carrying vehicles.</summary>
    public const double DrivingLimitHours = 11;

    /// <summary>Off-duty hours required before driving again: 49 CFR § 395.3(a)(1).</summary>
    public const double RestHours = 10;

    /// <summary>Hours of driving after which a 30-minute break is due: 49 CFR § 395.3(a)(3)(ii).</summary>
    public const double BreakAfterHours = 8;

    /// <summary>Whole miles, half up.</summary>
    public int WholeMiles => (int)Math.Round(Miles, MidpointRounding.AwayFromZero);

    /// <summary>Driving time alone.</summary>
    public Duration Driving => Duration.FromMinutes(Math.Round(Minutes));

    /// <summary>
    /// From departure to arrival with one rested driver: a 30-minute break after eight hours of driving, ten hours off after each full
    /// eleven. Earlier
    /// driving is not counted here.
    /// </summary>
    public Duration DoorToDoor
    {
        get
        {
            var hours = Driving.TotalHours;
            var rests = Math.Max(0, (int)Math.Ceiling(hours / DrivingLimitHours) - 1);
            var breaks = rests + (hours - (rests * DrivingLimitHours) > BreakAfterHours ? 1 : 0);
            return Driving + Duration.FromHours(rests * RestHours) + Duration.FromMinutes(breaks * 30);
        }
    }

    /// <summary>The same drive with manual miles, at the same speed and with the same share of toll roads.</summary>
    /// <param name="miles">At least 0; null leaves it unchanged.</param>
    public Drive Set(double? miles) =>
        miles is not { } m ? this
        : Miles > 0 ? new Drive(m, Minutes * m / Miles, TollMiles: TollMiles * m / Miles)
        : new Drive(m, m / RoadEstimate.MilesPerHour * 60);

    public static Drive operator +(Drive a, Drive b) =>
        new(a.Miles + b.Miles, a.Minutes + b.Minutes, a.Estimated || b.Estimated, a.TollMiles + b.TollMiles);
}
