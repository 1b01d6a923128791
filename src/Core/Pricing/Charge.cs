using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Pricing;

/// <summary>The kind of a charge.</summary>
public enum ChargeKind
{
    LineHaul,
    FuelSurcharge,
    ExtraStop,
    Detention,
    Lumper,
    Layover,
    Tarp,
    Other,

    /// <summary>The only charge of a load that was canceled after its truck was ordered.</summary>
    TruckOrderedNotUsed,

    /// <summary>A discount or allowance: entered as an amount above zero, and subtracted.</summary>
    Discount,
}

public static class ChargeKinds
{
    public static string Format(this ChargeKind kind) =>
        kind switch
        {
            ChargeKind.LineHaul => "Line haul",
            ChargeKind.FuelSurcharge => "Fuel surcharge",
            ChargeKind.ExtraStop => "Extra stop",
            ChargeKind.TruckOrderedNotUsed => "Truck ordered not used",
            _ => kind.ToString(),
        };
}

/// <summary>Revenue less carrier pay or driver pay.</summary>
/// <param name="Amount">Revenue less cost; negative for a loss.</param>
/// <param name="Percent">Of the revenue, to one place; null when there is no revenue.</param>
public sealed record Margin(Money Amount, decimal? Percent)
{
    public static Margin Of(Money revenue, Money cost)
    {
        var left = revenue - cost;
        return new Margin(
            left,
            revenue.Amount == 0 ? null : Math.Round(left.Amount / revenue.Amount * 100, 1, MidpointRounding.AwayFromZero)
        );
    }
}
