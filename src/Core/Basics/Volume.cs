namespace SteadyLark.Core.Basics;

/// <summary>How a volume is measured.</summary>
public enum VolumeUnit
{
    /// <summary>US gallons.</summary>
    Gallons,
    Liters,
}

/// <summary>US gallons and liters.</summary>
public static class Volume
{
    /// <summary>Liters in a US gallon, exactly (NIST Handbook 44, Appendix C).</summary>
    public const decimal LitersPerGallon = 3.785411784m;

    /// <summary>A volume in US gallons, to a tenth, or with so many decimals.</summary>
    /// <example>5,700 L are 1,505.8 gal.</example>
    public static decimal Gallons(decimal volume, VolumeUnit unit, int decimals = 1) =>
        Math.Round(unit == VolumeUnit.Gallons ? volume : volume / LitersPerGallon, decimals, MidpointRounding.AwayFromZero);
}
