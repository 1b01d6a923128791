using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Billing;

/// <summary>What can be done with an invoice.</summary>
/// <param name="Number">For sentences.</param>
/// <param name="Paid">Payments and write-offs so far.</param>
public sealed record InvoiceState(string Number, bool IsVoid, Money Paid)
{
    /// <summary>Why it cannot be voided; null when it can.</summary>
    public Problem? VoidRefusal =>
        IsVoid ? new Problem("invoice.void", $"Invoice {Number} is already void.")
        : Paid.Amount > 0 ? new Problem("invoice.paid", $"{Paid.Formatted} was paid on invoice {Number}: reverse the payment first.")
        : null;

    /// <summary>Why it cannot be emailed again; null when it can.</summary>
    public Problem? ResendRefusal => IsVoid ? new Problem("invoice.void", $"Invoice {Number} is void: bill its loads again.") : null;
}

/// <summary>What can be done with a payment received.</summary>
/// <param name="Unapplied">The unapplied part, the customer's credit.</param>
public sealed record PaymentState(bool IsReversed, Money Unapplied)
{
    /// <summary>Why it cannot be reversed; null when it can.</summary>
    public Problem? ReverseRefusal => IsReversed ? new Problem("payment.reversed", "This payment was already reversed.") : null;

    /// <summary>Why its credit cannot be applied; null when it can.</summary>
    public Problem? UseCreditRefusal =>
        IsReversed || Unapplied.Amount <= 0 ? new Problem("credit.none", "This payment has no unapplied credit.") : null;

    /// <summary>Checks what a payment received says about itself.</summary>
    public static void Check(string? method, LocalDate? receivedOn, LocalDate today, Validation validation)
    {
        validation.Date(receivedOn, today, "receivedOn", "The date received", required: false);
        if (receivedOn > today)
        {
            validation.Add("date.future", "The date received cannot be in the future.", "receivedOn");
        }

        PaymentMethods.Check(method, "method", validation);
    }
}

/// <summary>How money is paid and received.</summary>
public static class PaymentMethods
{
    public static readonly IReadOnlyList<string> All = ["check", "ach", "wire", "card", "cash"];

    public static void Check(string? method, string field, Validation validation)
    {
        if (method is null || !All.Contains(method))
        {
            validation.Add("missing", $"Choose a payment method: {string.Join(", ", All)}.", field);
        }
    }
}
