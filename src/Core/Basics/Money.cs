using System.Globalization;

namespace SteadyLark.Core.Basics;

/// <summary>The currencies the business trades in.</summary>
public enum Currency
{
    USD,
    CAD,
}

public static class Currencies
{
    public static string Format(this Currency currency) => currency == Currency.CAD ? "Canadian dollars" : "US dollars";
}

/// <summary>An amount in a currency: decimal, never floating point. Adding different currencies throws; zero goes with any.</summary>
/// <param name="Amount">In whole currency units (dollars), with cents behind the point.</param>
public readonly record struct Money(decimal Amount, Currency Currency = Currency.USD) : IComparable<Money>
{
    /// <summary>The largest amount any single field accepts: one hundred million less a cent.</summary>
    public const decimal Limit = 99_999_999.99m;

    public static Money Zero(Currency currency = Currency.USD) => new(0m, currency);

    /// <summary>An amount in US dollars.</summary>
    public static Money Usd(decimal amount) => new(amount, Currency.USD);

    /// <summary>Rounded to cents, half away from zero, wherever a rate is multiplied by a quantity.</summary>
    public Money ToCents() => this with { Amount = Math.Round(Amount, 2, MidpointRounding.AwayFromZero) };

    public bool IsWholeCents => decimal.Round(Amount, 2) == Amount;

    public static Money operator +(Money a, Money b) => a.Amount == 0 ? b : a with { Amount = a.Amount + b.In(a.Currency) };

    public static Money operator -(Money a, Money b) => a.Amount == 0 ? -b : a with { Amount = a.Amount - b.In(a.Currency) };

    public static Money operator -(Money a) => a with { Amount = -a.Amount };

    public static Money operator *(Money a, decimal times) => a with { Amount = a.Amount * times };

    public static bool operator <(Money a, Money b) => a.CompareTo(b) < 0;

    public static bool operator >(Money a, Money b) => a.CompareTo(b) > 0;

    public static bool operator <=(Money a, Money b) => a.CompareTo(b) <= 0;

    public static bool operator >=(Money a, Money b) => a.CompareTo(b) >= 0;

    public int CompareTo(Money other) => Amount == 0 ? 0m.CompareTo(other.Amount) : Amount.CompareTo(other.In(Currency));

    public static Money Min(Money a, Money b) => a <= b ? a : b;

    /// <param name="currency">Of the sum of nothing, or of zeros.</param>
    public static Money Sum(IEnumerable<Money> amounts, Currency currency = Currency.USD) =>
        amounts.Where(m => m.Amount != 0).Aggregate(Zero(currency), (sum, m) => sum + m);

    /// <summary>Sums in a sentence, one for each currency.</summary>
    /// <example>$1,850.00 and CA$420.00</example>
    public static string FormatSum(IEnumerable<Money> amounts)
    {
        var sums = amounts.GroupBy(m => m.Currency).OrderBy(g => g.Key).Select(g => Sum(g, g.Key)).ToList();
        return sums.Count == 0 ? Zero().Formatted : string.Join(" and ", sums.Select(s => s.Formatted));
    }

    /// <summary>Splits an amount by weights into whole cents that add up to it (<see cref="Apportion"/>).</summary>
    /// <param name="weights">Zero or above; equal ones when all are zero. At least one.</param>
    /// <example>$100.00 by 1, 1 and 1 is $33.33, $33.34 and $33.33.</example>
    public IReadOnlyList<Money> Split(IReadOnlyList<decimal> weights)
    {
        var currency = Currency;
        return Apportion.Of(Amount, weights, 2).Select(share => new Money(share, currency)).ToList();
    }

    /// <summary>As shown in a column: <c>1,850.00</c>.</summary>
    public override string ToString() => Amount.ToString("#,##0.00", CultureInfo.InvariantCulture);

    /// <summary>As shown in a sentence: <c>$1,850.00</c>, or <c>CA$1,850.00</c>.</summary>
    public string Formatted =>
        (Amount < 0 ? "-" : "")
        + (Currency == Currency.CAD ? "CA$" : "$")
        + Math.Abs(Amount).ToString("#,##0.00", CultureInfo.InvariantCulture);

    private decimal In(Currency currency) =>
        Currency == currency || Amount == 0
            ? Amount
            : throw new InvalidOperationException($"{Currency} cannot be added to {currency}: convert it first.");
}
