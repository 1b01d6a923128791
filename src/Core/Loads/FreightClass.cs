using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>
/// The class of less-than-truckload freight, by which carriers rate it: from 50 for what is dense and easy to haul to 500 for what is light and
/// bulky. By density unless a person enters another class, as for fragile or valuable freight.
/// </summary>
public static class FreightClass
{
    /// <summary>The eighteen classes of the National Motor Freight Classification.</summary>
    public static readonly IReadOnlyList<decimal> All =
    [
        50,
        55,
        60,
        65,
        70,
        77.5m,
        85,
        92.5m,
        100,
        110,
        125,
        150,
        175,
        200,
        250,
        300,
        400,
        500,
    ];

    /// <summary>The classification's density scale of thirteen steps, in force since July 19, 2025: from so many pounds per cubic foot, the
    /// class.</summary>
    private static readonly (decimal From, decimal Class)[] Scale =
    [
        (50, 50),
        (35, 55),
        (30, 60),
        (22.5m, 65),
        (15, 70),
        (12, 85),
        (10, 92.5m),
        (8, 100),
        (6, 125),
        (4, 175),
        (2, 250),
        (1, 300),
        (0, 400),
    ];

    /// <summary>Pounds per cubic foot, to one decimal; null without weight, count or a dimension above zero.</summary>
    /// <param name="count">Pallets, or else pieces.</param>
    /// <param name="lengthIn">Of one of them, as are width and height.</param>
    /// <param name="weightLb">Of all of them.</param>
    /// <example>Two pallets of 48 by 40 by 48 inches that weigh 1,200 lb: 11.3.</example>
    public static decimal? Density(int? count, int? lengthIn, int? widthIn, int? heightIn, int? weightLb) =>
        (count, lengthIn, widthIn, heightIn, weightLb) is (> 0 and { } n, > 0 and { } l, > 0 and { } w, > 0 and { } h, > 0 and { } pounds)
            ? decimal.Round(pounds / (n * (decimal)l * w * h / 1728), 1, MidpointRounding.AwayFromZero)
            : null;

    /// <summary>The class of a density, which is zero or above.</summary>
    public static decimal OfDensity(decimal poundsPerCubicFoot) => Scale.First(s => poundsPerCubicFoot >= s.From).Class;

    /// <summary>The class freight is rated at: the one entered, or that of its density; null when neither is known. The figures are those of
    /// <see cref="Density"/>.</summary>
    public static decimal? Of(decimal? entered, int? count, int? lengthIn, int? widthIn, int? heightIn, int? weightLb) =>
        entered ?? (Density(count, lengthIn, widthIn, heightIn, weightLb) is { } density ? OfDensity(density) : null);

    /// <summary>Checks a class that somebody entered.</summary>
    public static void Check(decimal? entered, string field, string name, Validation validation)
    {
        if (entered is { } c && !All.Contains(c))
        {
            validation.Add("freight.class", $"{name} must be one of {string.Join(", ", All.Select(a => $"{a:0.#}"))}.", field);
        }
    }
}
