namespace SteadyLark.Core.Paying;

/// <summary>A driver's part of a trip's work. The parts of a team add up to the whole, to a hundredth of a mile or a cent of line haul.</summary>
/// <param name="CodriverShare">The co-driver's share in percent, 0 to 100; 0 for a driver alone.</param>
/// <param name="Codriver">Whether the part is the co-driver's.</param>
/// <example>651 miles with a share of 33.33 %: the co-driver has 216.98 of them, the driver 434.02.</example>
public readonly record struct CrewPart(decimal CodriverShare, bool Codriver)
{
    /// <summary>All of the work: a driver alone.</summary>
    public static readonly CrewPart All = new(0, false);

    /// <summary>What is usual when nothing else was agreed: half each.</summary>
    public const decimal UsualShare = 50;

    /// <summary>This part of a quantity.</summary>
    /// <param name="quantity">Of the leg: miles, dollars, stops; at most two decimals.</param>
    public decimal Of(decimal quantity)
    {
        var codriver = Math.Round(quantity * CodriverShare / 100m, 2, MidpointRounding.AwayFromZero);
        return Codriver ? codriver : quantity - codriver;
    }
}
