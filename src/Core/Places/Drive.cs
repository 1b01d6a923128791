using NodaTime;

namespace SteadyLark.Core.Places;

/// <summary>How far and how long a truck drives from one point to another.</summary>
/// <param name="Miles">Statute miles by road, local streets at both ends within them.</param>
/// <param name="Minutes">Driving alone, at a truck's speeds, without stops or rest.</param>
/// <param name="Estimated">True where our roads do not reach, so that it is the straight line, lengthened.</param>
public readonly record struct Drive(double Miles, double Minutes, bool Estimated = false)
{
    /// <summary>Most hours of driving before ten hours off duty: 49 CFR § 395.3(a)(3)(i), property-carrying vehicles.</summary>
    public const double DrivingLimitHours = 11;

    /// <summary>Hours off duty before driving again: 49 CFR § 395.3(a)(1).</summary>
    public const double RestHours = 10;

    /// <summary>Hours of driving after which half an hour's break is due: 49 CFR § 395.3(a)(3)(ii).</summary>
    public const double BreakAfterHours = 8;

    /// <summary>Whole miles, half a mile up.</summary>
    public int WholeMiles => (int)Math.Round(Miles, MidpointRounding.AwayFromZero);

    /// <summary>Driving alone.</summary>
    public Duration Driving => Duration.FromMinutes(Math.Round(Minutes));

    /// <summary>
    /// From leaving to arriving with one rested driver: half an hour's break after eight hours of driving, ten hours off after each full eleven. What they
    /// drove before is not counted here; the hours of service proper are kept by Fleet.
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

    /// <summary>The same way with the miles that a person set for it, at the same speed.</summary>
    /// <param name="miles">At least 0; null leaves it as it is.</param>
    public Drive Set(double? miles) => miles is not { } m ? this : new Drive(m, Miles > 0 ? Minutes * m / Miles : m / RoadEstimate.MilesPerHour * 60);

    public static Drive operator +(Drive a, Drive b) => new(a.Miles + b.Miles, a.Minutes + b.Minutes, a.Estimated || b.Estimated);
}
