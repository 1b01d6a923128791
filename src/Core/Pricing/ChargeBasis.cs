using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Pricing;

/// <summary>How a charge's amount is calculated.</summary>
public enum ChargeBasis
{
    /// <summary>The amount as given.</summary>
    Flat,

    /// <summary>Dollars per mile, times the load's miles.</summary>
    PerMile,

    /// <summary>Dollars per hundredweight (100 lb), times the load's weight.</summary>
    PerCwt,

    /// <summary>Percent of the line haul.</summary>
    Percent,
}

/// <summary>A priced charge: its kind, its basis and its amount.</summary>
/// <param name="Rate">Dollars per mile, dollars per hundredweight or percent, to four places; null when flat.</param>
/// <param name="Quantity">Miles, hundredweights or dollars of line haul; null when flat.</param>
public sealed record PricedCharge(ChargeBasis Basis, decimal? Rate, decimal? Quantity, Money Amount);

public static class ChargePrices
{
    /// <summary>The highest rate accepted.</summary>
    public const decimal MaxRate = 100_000m;

    /// <summary>Prices a charge. Amounts are rounded to the cent, half away from zero.</summary>
    /// <param name="amount">Dollars, when flat.</param>
    /// <param name="rate">As in <see cref="PricedCharge.Rate"/>, when not flat.</param>
    /// <param name="miles">The load's miles, when known.</param>
    /// <param name="weightLb">The load's total weight, when known.</param>
    /// <param name="lineHaul">The line haul amount; null while the line haul itself is priced.</param>
    /// <returns>The charge, or why it cannot be priced; fields are relative to the charge.</returns>
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

    /// <summary>A load's charges repriced for other miles: those by the mile, then percentages of the new line haul. Flat charges and those by weight keep their amounts.</summary>
    /// <param name="charges">All charges of the load, in any order.</param>
    /// <param name="miles">The load's miles, at least 0.</param>
    /// <returns>The charges in the given order. One that cannot be priced for these miles keeps its amount.</returns>
    public static IReadOnlyList<StoredCharge> ForMiles(IReadOnlyList<StoredCharge> charges, int miles)
    {
        StoredCharge Priced(StoredCharge c, Money? lineHaul) =>
            c.Basis is ChargeBasis.PerMile or ChargeBasis.Percent && Price(c.Basis, null, c.Rate, miles, null, lineHaul) is { Ok: true } price
                ? c with { Quantity = price.Value.Quantity, Amount = price.Value.Amount } : c;

        var lineHauls = charges.Where(c => c.Kind == ChargeKind.LineHaul).ToDictionary(c => c.Id, c => Priced(c, null));
        var lineHaul = Money.Sum(lineHauls.Values.Select(c => c.Amount));
        return charges.Select(c => lineHauls.GetValueOrDefault(c.Id) ?? Priced(c, lineHaul)).ToList();
    }
}

/// <summary>A charge of a load, as stored.</summary>
/// <param name="Rate">As in <see cref="PricedCharge"/>, as is <paramref name="Quantity"/>.</param>
public sealed record StoredCharge(long Id, ChargeKind Kind, ChargeBasis Basis, decimal? Rate, decimal? Quantity, Money Amount);
