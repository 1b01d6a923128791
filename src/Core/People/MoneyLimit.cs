using SteadyLark.Core.Basics;

namespace SteadyLark.Core.People;

/// <summary>How money leaves without a second person's approval.</summary>
public enum SoleMoney
{
    /// <summary>An expense entered as already paid.</summary>
    PaidExpense,

    /// <summary>A bill of a vendor the payer created.</summary>
    OwnVendor,

    /// <summary>An advance to a driver.</summary>
    Advance,

    /// <summary>A refund to a customer.</summary>
    Refund,
}

/// <summary>The company's limit for payments made by one person alone.</summary>
public static class MoneyLimit
{
    /// <param name="limit">The company's limit; null for none.</param>
    /// <param name="may">What the payer may do.</param>
    /// <returns>The refusal, or null.</returns>
    public static Problem? Refuses(SoleMoney kind, Money amount, Money? limit, Func<Right, bool> may) =>
        limit is { } max && amount.Amount > max.Amount && !may(Right.LimitExceed)
            ? new Problem(
                "limit.exceeded",
                $"{Subject(kind)} above {max.Formatted} needs someone with the permission to exceed the limit.",
                "amount"
            )
            : null;

    private static string Subject(SoleMoney kind) =>
        kind switch
        {
            SoleMoney.PaidExpense => "A paid expense",
            SoleMoney.OwnVendor => "A payment to a vendor you created",
            SoleMoney.Refund => "A refund",
            _ => "An advance",
        };
}
