using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>How it is known where a truck or trailer is.</summary>
public enum StandSource
{
    /// <summary>A trip was there, or ends there.</summary>
    Trip,

    /// <summary>The truck's device reported it.</summary>
    Device,

    /// <summary>A user entered it.</summary>
    Person,
}

/// <summary>Where a truck or trailer is, or will be when its trips so far are over.</summary>
/// <param name="Town">With its state: Butte MT.</param>
/// <param name="At">Since when it is known to be there; ahead when a trip brings it there.</param>
/// <param name="Trip">The number of the trip that was or will be there; null for another source.</param>
/// <param name="PlaceId">The place of the address book; null for a position.</param>
public sealed record UnitStand(GeoPoint Point, string Town, Instant At, StandSource Source, string? Trip, long? PlaceId)
{
    /// <summary>Closer than so many miles a unit is at a place: a yard is seldom in the middle of its town. An assumption.</summary>
    public const double NearMiles = 5;

    public bool IsAt(GeoPoint point) => Near(Point, point);

    /// <summary>Whether two points are one place to a unit.</summary>
    internal static bool Near(GeoPoint a, GeoPoint b) => GreatCircle.Miles(a, b) <= NearMiles;

    /// <summary>Where it is, after "it": "was left in Butte MT by trip 412 on Tue Nov 24, 14:10".</summary>
    public string Says(Instant now, DateTimeZone zone) =>
        At > now ? $"comes to {Town} with trip {Trip} on {At.Format(zone)}"
        : Source == StandSource.Trip ? $"was left in {Town} by trip {Trip} on {At.Format(zone)}"
        : $"was in {Town} on {At.Format(zone)}";

    /// <summary>Checks when a user saw a unit somewhere, under <c>at</c>: not in the future, and not more than a year ago.</summary>
    public static void Check(Instant at, Instant now, Validation validation)
    {
        if (at > now)
        {
            validation.Add("time.ahead", "This time is in the future: enter when it was there.", "at");
        }
        else if (at < now - Duration.FromDays(366))
        {
            validation.Add("out.of.range", "Enter a time within the last year.", "at");
        }
    }
}
