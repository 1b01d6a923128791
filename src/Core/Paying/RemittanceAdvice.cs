using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;

namespace SteadyLark.Core.Paying;

/// <summary>What was taken from a bill before this payment, or is not paid of it.</summary>
/// <param name="What">Such as <c>debit memo DM-1001, 2 cases short</c>.</param>
public sealed record Deducted(string What, Money Amount);

/// <summary>A bill on a remittance advice.</summary>
/// <param name="Billed">As the vendor billed it.</param>
/// <param name="Before">What was not approved, paid before, or deducted from it.</param>
/// <param name="Discount">Quick-pay discount taken with this payment.</param>
/// <param name="Paid">What this payment pays of it.</param>
public sealed record AdvisedBill(
    string Number,
    LocalDate BilledOn,
    string? LoadNumber,
    Money Billed,
    IReadOnlyList<Deducted> Before,
    Money Discount,
    Money Paid
)
{
    /// <summary>What is still to be paid of it: billed, less all that is named here.</summary>
    public Money Open => Billed - Money.Sum(Before.Select(b => b.Amount), Billed.Currency) - Discount - Paid;
}

/// <summary>Tells a vendor which bills a payment pays, and what was deducted from each, so that it can apply the money.</summary>
public static class RemittanceAdvice
{
    /// <summary>What is taken from a bill of <paramref name="billed"/> before a payment.</summary>
    /// <param name="approved">What was approved of it.</param>
    /// <param name="earlier">What stands against it already: date, method, reference, amount with discount, and why for a debit memo.</param>
    public static IReadOnlyList<Deducted> Before(
        Money billed,
        Money approved,
        IEnumerable<(LocalDate On, string Method, string? Reference, Money Amount, string? Why)> earlier
    ) =>
        [
            .. billed > approved ? new[] { new Deducted("not approved", billed - approved) } : [],
            .. earlier.Select(e => new Deducted(
                e.Method == DebitMemo.Method
                    ? $"debit memo {e.Reference}{(e.Why is null ? "" : $", {e.Why}")}"
                    : $"paid {e.On:MMM d} by {PaymentMethods.Format(e.Method)}{(e.Reference is null ? "" : $" {e.Reference}")}",
                e.Amount
            )),
        ];

    /// <summary>The email's text.</summary>
    /// <param name="vendor">Whose bills they are.</param>
    /// <param name="payee">Who is paid: the vendor, or its factor.</param>
    /// <param name="us">Who pays, with the phone number for questions.</param>
    public static string Text(string vendor, string payee, Payout payout, IReadOnlyList<AdvisedBill> bills, string us, string phone)
    {
        var total = Money.Sum(bills.Select(b => b.Paid), bills[0].Paid.Currency);
        var by = PaymentMethods.Format(payout.Method) + (payout.Reference is null ? "" : $" {payout.Reference}");
        return $"""
            {payee},

            We paid {total.Formatted} by {by} on {payout.On:ddd MMM d, uuuu}{(
                payee == vendor ? "" : $" for bills of {vendor}"
            )}. It pays {(bills.Count == 1 ? "this bill" : $"these {bills.Count} bills")}:

            {string.Join("\n\n", bills.Select(Lines))}

            Total paid: {total.Formatted}

            Please call {phone} if something does not agree.
            {us}
            """;
    }

    private static string Lines(AdvisedBill b)
    {
        var lines = new List<(string What, string Amount)> { ("billed", b.Billed.Formatted) };
        lines.AddRange(b.Before.Select(d => (d.What, (-d.Amount).Formatted)));
        if (b.Discount.Amount > 0)
        {
            lines.Add(("quick-pay discount", (-b.Discount).Formatted));
        }

        if (b.Open.Amount > 0)
        {
            lines.Add(("to be paid later", (-b.Open).Formatted));
        }

        lines.Add(("paid now", b.Paid.Formatted));
        var load = b.LoadNumber is null ? "" : $", our load {b.LoadNumber}";
        return $"Bill {b.Number} of {b.BilledOn:MMM d, uuuu}{load}\n" + string.Join("\n", lines.Select(l => $"  {l.What}: {l.Amount}"));
    }
}
