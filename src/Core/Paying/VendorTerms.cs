using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>How a vendor is paid.</summary>
/// <param name="PayDays">Days from its bill to the due date.</param>
/// <param name="QuickPayPercent">What it gives up to be paid early, in percent; null when it offers no quick pay.</param>
/// <param name="QuickPayDays">Days from the approval within which quick pay is paid.</param>
/// <param name="PayWhenPaid">Whether it is paid once our customer has paid.</param>
public sealed record VendorTerms(int PayDays, decimal? QuickPayPercent = null, int QuickPayDays = 1, bool PayWhenPaid = false)
{
    public const decimal MaxQuickPayPercent = 15m;

    public const int MaxQuickPayDays = 14;

    /// <summary>Checks terms as entered.</summary>
    public static void Check(decimal? percent, int? days, Validation validation)
    {
        if (percent is { } p && (p <= 0 || p > MaxQuickPayPercent || decimal.Round(p, 2) != p))
        {
            validation.Add(
                "quick.pay",
                $"The quick-pay fee must be more than 0 and at most {MaxQuickPayPercent:0} percent.",
                "quickPayPercent"
            );
        }

        if (days is < 0 or > MaxQuickPayDays)
        {
            validation.Add("quick.pay", $"Quick pay is paid within 0 to {MaxQuickPayDays} days.", "quickPayDays");
        }
    }

    /// <summary>Quick pay of an approved amount: what is deducted, and when it is due.</summary>
    /// <param name="today">The day of the approval.</param>
    /// <returns>A problem when the vendor has no quick-pay terms.</returns>
    /// <example>3 percent of $1,850 is a discount of $55.50.</example>
    public Outcome<QuickPay> QuickPay(Money approved, LocalDate today) =>
        QuickPayPercent is { } percent
            ? new QuickPay((approved * (percent / 100m)).ToCents(), today.PlusDays(QuickPayDays))
            : new Problem("quick.pay", "This vendor has no quick-pay terms: set them in the address book first.", "quickPay");
}

/// <summary>A bill paid early for a discount.</summary>
public sealed record QuickPay(Money Discount, LocalDate DueOn);

/// <summary>Why an approved bill may not be paid yet.</summary>
public static class PayHolds
{
    /// <param name="load">The number of the load the bill is for; null for any other bill, which nothing holds.</param>
    /// <param name="payWhenPaid">By the vendor's terms.</param>
    /// <param name="customerPaid">Whether the load is invoiced and all its invoices are paid.</param>
    /// <param name="remitToPending">Whether a change of the vendor's remit-to waits to be confirmed.</param>
    /// <param name="claim">The number of a claim on the freight that is not settled; null without one.</param>
    public static Problem? Of(string bill, string? load, bool payWhenPaid, bool customerPaid, bool remitToPending, string? claim = null) =>
        remitToPending
            ? new Problem(
                "pay.remit.to",
                $"Bill {bill} is on hold: the vendor's new remit-to is not confirmed. Call the vendor back and confirm or decline it first."
            )
        : load is null ? null
        : claim is not null
            ? new Problem(
                "pay.claim",
                $"Bill {bill} is on hold: claim {claim} on load {load} is not settled. Decide it and deduct what is owed, or release the pay on the claim."
            )
        : payWhenPaid && !customerPaid
            ? new Problem("pay.when.paid", $"Bill {bill} is paid when paid: the customer has not paid load {load} yet.")
        : null;
}
