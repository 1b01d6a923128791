using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>A carrier's bill compared with the agreed amount.</summary>
/// <param name="Difference">Billed less agreed: positive when the carrier bills more.</param>
public sealed record BillMatch(Money Agreed, Money Billed, Money Difference)
{
    public bool Agrees => Difference.Amount == 0;

    /// <summary>The comparison, such as <c>$40.00 over the agreed amount</c>.</summary>
    public string Formatted =>
        Agrees
            ? "as agreed"
            : $"{Money.Usd(Math.Abs(Difference.Amount)).Formatted} {(Difference.Amount > 0 ? "over" : "under")} the agreed amount";

    /// <summary>What is owed before anybody approves it: the agreed amount at most. The rest is disputed.</summary>
    public Money Accepted => Money.Min(Agreed, Billed);

    public static BillMatch Of(Money agreed, Money billed) => new(agreed, billed, billed - agreed);

    /// <summary>Whether the bill may be approved for <paramref name="amount"/>: never more than billed, and more than agreed only with a
    /// reason.</summary>
    public Outcome<Money> Approve(Money amount, string? reason)
    {
        if (amount.Amount <= 0)
        {
            return new Problem("not.positive", "Approve an amount greater than zero.", "amount");
        }

        if (amount > Billed)
        {
            return new Problem("over.billed", $"Only {Billed.Formatted} was billed.", "amount");
        }

        return amount > Agreed && string.IsNullOrWhiteSpace(reason)
            ? new Problem(
                "over.agreed",
                $"This is {(amount - Agreed).Formatted} over the agreed {Agreed.Formatted}: give a reason, or approve {Agreed.Formatted}.",
                "reason"
            )
            : amount;
    }
}
