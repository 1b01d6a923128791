using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Covering;

/// <summary>
/// Hauling between two points of the other country. A foreign truck and driver may bring freight in and take freight out, but not haul
/// point to point there, except as an incident of an international trip (19 CFR 123.14(c)(1) for trucks in the United States; Canada's
/// customs tariff and immigration rules for trucks in Canada). Whether an exception applies is for a person to say, with a reason.
/// </summary>
public static class Cabotage
{
    /// <summary>Whether freight is picked up and delivered in a country that is not the hauler's.</summary>
    /// <param name="home">The hauler's country, US or CA; null when unknown: then nothing is said.</param>
    /// <param name="stops">In order, each with its country; null when unknown.</param>
    public static bool Happens(string? home, IReadOnlyList<(StopKind Kind, string? Country)> stops) =>
        home is not null
        && stops
            .Where(
                (s, i) =>
                    s.Kind == StopKind.Pickup
                    && s.Country is { } country
                    && country != home
                    && stops.Skip(i + 1).Any(d => d.Kind == StopKind.Delivery && d.Country == country)
            )
            .Any();

    /// <summary>The country of a state or province; null when there is none.</summary>
    public static string? Country(string? region) => region is { Length: 2 } ? Regions.Country(region.ToUpperInvariant()) : null;

    /// <summary>The country of a home town that ends with its state or province, such as <c>Missoula MT</c>.</summary>
    public static string? CountryOfTown(string? town) => Country(town?.Trim().Split(' ', ',')[^1]);

    /// <summary>Refuses a load that would be cabotage, unless a reason is given.</summary>
    /// <param name="who">The carrier or driver.</param>
    /// <param name="reason">Why it may be hauled all the same; trimmed.</param>
    public static void Check(
        Validation validation,
        string who,
        string? home,
        IReadOnlyList<(StopKind Kind, string? Country)> stops,
        string? reason
    )
    {
        if (reason is null && Happens(home, stops))
        {
            validation.Add(
                "cabotage",
                $"{who} of {(home == "CA" ? "Canada" : "the United States")} would haul between two points in {(home == "CA" ? "the United States" : "Canada")}, which is cabotage: choose another, or enter the reason why it is allowed.",
                "cabotageReason"
            );
        }
    }
}
