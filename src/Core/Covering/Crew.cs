using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;

namespace SteadyLark.Core.Covering;

/// <summary>A trailer as chosen for a load.</summary>
/// <param name="Features">What it has besides its kind.</param>
public sealed record CrewTrailer(string Unit, Equipment Equipment, bool Active, IReadOnlyList<string> Features);

/// <summary>Driver, truck and trailer chosen for a load or a handover.</summary>
public static class Crew
{
    /// <summary>Adds what is wrong with the choice, under <c>driverId</c>, <c>truckId</c> and <c>trailerId</c>.</summary>
    /// <param name="driverActive">Whether the driver exists and is active.</param>
    /// <param name="truckActive">Whether the truck exists and is active.</param>
    /// <param name="trailer">Null when there is no such trailer.</param>
    /// <param name="wanted">The equipment the load needs, or null for any.</param>
    /// <param name="required">The features the load requires of its trailer.</param>
    /// <param name="matches">What other loads trailers haul.</param>
    public static void Check(
        Validation validation,
        bool driverActive,
        bool truckActive,
        CrewTrailer? trailer,
        Equipment? wanted,
        IReadOnlyList<string> required,
        EquipmentMatches matches
    )
    {
        if (!driverActive)
        {
            validation.Add("missing", "Choose one of our drivers.", "driverId");
        }

        if (!truckActive)
        {
            validation.Add("missing", "Choose one of our trucks.", "truckId");
        }

        if (trailer is not { Active: true })
        {
            validation.Add("missing", "Choose one of our trailers.", "trailerId");
        }
        else if (!matches.Fits(trailer.Equipment, wanted))
        {
            validation.Add(
                "trailer.equipment",
                $"Trailer {trailer.Unit} is a {trailer.Equipment.Format()}; the load needs a {wanted!.Value.Format()}.",
                "trailerId"
            );
        }
        else if (TrailerFeatures.Lacks(trailer.Features, required) is { } lacks)
        {
            validation.Add(
                "trailer.features",
                $"Trailer {trailer.Unit} has {lacks}, and the load requires it: choose another trailer, or add it to this one in Setup.",
                "trailerId"
            );
        }
    }
}
