using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Pricing;

/// <summary>How a charge comes to its amount.</summary>
public enum ChargeBasis
{
    /// <summary>The amount as it is.</summary>
    Flat,

    /// <summary>Dollars a mile, over the load's miles.</summary>
    PerMile,

    /// <summary>Dollars a hundredweight (100 lb), over the load's weight.</summary>
    PerCwt,

    /// <summary>Percent of the line haul.</summary>
    Percent,
}

/// <summary>A charge made out: what it is, how it came to its amount, and the amount.</summary>
/// <param name="Rate">Dollars a mile, dollars a hundredweight or percent, to four places; null when flat.</param>
/// <param name="Quantity">Miles, hundredweights or dollars of line haul; null when flat.</param>
public sealed record PricedCharge(ChargeBasis Basis, decimal? Rate, decimal? Quantity, Money Amount);

public static class ChargePrices
{
    /// <summary>The highest rate there is.</summary>
    public const decimal MaxRate = 100_000m;

    /// <summary>Makes a charge out. Amounts are rounded to the cent, half a cent away from zero.</summary>
    /// <param name="amount">Dollars, when flat.</param>
    /// <param name="rate">As in <see cref="PricedCharge.Rate"/>, when not flat.</param>
    /// <param name="miles">The load's, when known.</param>
    /// <param name="weightLb">The load's in all, when known.</param>
    /// <param name="lineHaul">What the line haul comes to; null while that is what is being made out.</param>
    /// <returns>The charge, or what keeps it from being made out; fields are relative to the charge.</returns>
    public static Outcome<PricedCharge> Price(ChargeBasis basis, decimal? amount, decimal? rate, int? miles, int? weightLb, Money? lineHaul)
    {
        if (basis == ChargeBasis.Flat)
        {
            return amount is < 0 or > Money.Limit
                ? new Problem("amount", $"the amount must be between zero and {Money.Usd(Money.Limit).Formatted}", "amount")
                : new PricedCharge(basis, null, null, Money.Usd(amount ?? 0m));
        }

        if (rate is null)
        {
            return new Problem("missing", "a rate is required", "rate");
        }

        if (rate <= 0 || rate > MaxRate || decimal.Round(rate.Value, 4) != rate)
        {
            return new Problem("rate", $"the rate must be more than zero and at most {MaxRate:#,##0}, with up to four decimal places", "rate");
        }

        (decimal? quantity, string lacking) = basis switch
        {
            ChargeBasis.PerMile => (miles, "the miles are unknown until both places are set: enter a flat amount or the places"),
            ChargeBasis.PerCwt => (weightLb is { } lb ? lb / 100m : null, "the weight is unknown: enter it on a freight line or use a flat amount"),
            _ => (lineHaul?.Amount, "line haul cannot be a percentage of line haul"),
        };
        if (quantity is null)
        {
            return new Problem("quantity", lacking, "rate");
        }

        var total = Math.Round(rate.Value * quantity.Value / (basis == ChargeBasis.Percent ? 100m : 1m), 2, MidpointRounding.AwayFromZero);
        return total > Money.Limit ? new Problem("too.large", $"totals more than {Money.Usd(Money.Limit).Formatted}; check the rate", "rate") : new PricedCharge(basis, rate, quantity, Money.Usd(total));
    }
}
