using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Loads;

/// <summary>A trailer that is to be moved.</summary>
/// <param name="Stands">Where it is, or will be when its trips so far are over; null when unknown.</param>
/// <param name="LoadedWith">The load whose freight waits in it for its next truck; null when it is empty.</param>
public sealed record MovedTrailer(string Unit, bool Active, Equipment Equipment, UnitStand? Stands, string? LoadedWith);

/// <summary>What a load is moved for when it bills nobody.</summary>
/// <param name="TrailerId">The trailer that is moved; null for freight of our own.</param>
public sealed record MoveOf(long? TrailerId);

/// <summary>Moves: loads that bill nobody. They have driver, truck, miles and pay like any other.</summary>
public static class Moves
{
    /// <summary>Checks a move as ordered, under <c>trailerId</c>, <c>what</c>, <c>equipment</c>, <c>fromPlaceId</c> and <c>from</c>.</summary>
    /// <param name="trailer">Null when none was chosen.</param>
    /// <param name="chosen">Whether the order names a trailer.</param>
    /// <param name="what">What else is moved; null for nothing.</param>
    /// <param name="equipment">The kind of trailer for freight of our own.</param>
    /// <param name="begins">Where it begins; null when that is not known.</param>
    /// <param name="town">The town of that.</param>
    /// <param name="ready">From when it can be picked up.</param>
    /// <param name="zone">Zone in which times are shown.</param>
    public static Problems Check(
        MovedTrailer? trailer,
        bool chosen,
        string? what,
        Equipment? equipment,
        GeoPoint? begins,
        string? town,
        Instant? ready,
        Instant now,
        DateTimeZone zone
    )
    {
        var validation = new Validation();
        if (chosen && trailer is not { Active: true })
        {
            validation.Add("missing", "Choose one of our trailers.", "trailerId");
        }

        if (!chosen && what is null)
        {
            validation.Add("missing", "Choose the trailer to move, or enter what is moved.", "trailerId");
        }

        if (!chosen && what is not null && equipment is null)
        {
            validation.Add("missing", "Equipment is required: choose the trailer type.", "equipment");
        }

        if (trailer?.LoadedWith is { } load)
        {
            validation.Add("move.loaded", TripTrailers.StandsLoaded(trailer.Unit, load), "trailerId");
        }
        else if (trailer?.Stands is { } at && begins is { } point && !at.IsAt(point))
        {
            validation.Add("move.elsewhere", $"Trailer {trailer.Unit} is not in {town}: it {at.Says(now, zone)}.", "fromPlaceId");
        }
        else if (trailer?.Stands is { } coming && ready < coming.At)
        {
            validation.Add("move.early", $"Trailer {trailer.Unit} {coming.Says(now, zone)}: enter a later time.", "from");
        }

        return validation.Problems;
    }

    /// <summary>Checks when it can begin and when it is to be there, under <c>from</c> and <c>by</c>.</summary>
    public static void CheckTimes(Instant? from, Instant? by, Validation validation)
    {
        if (from is null)
        {
            validation.Add("missing", "Enter from when the move can begin, such as tue 14:30.", "from");
        }

        if (by is null)
        {
            validation.Add("missing", "Enter by when it is to be there, such as wed 08:00.", "by");
        }
        else if (by <= from)
        {
            validation.Add("order", "It is to be there before it can begin: enter a later time.", "by");
        }
    }

    /// <summary>What is shown in place of a customer: Move of trailer 5312.</summary>
    /// <param name="trailer">The unit number of the trailer that is moved; null without one.</param>
    public static string Title(string? trailer) => trailer is null ? "Move" : $"Move of trailer {trailer}";
}
