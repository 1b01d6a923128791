using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Billing;

/// <summary>What can be done with an invoice.</summary>
/// <param name="Number">For sentences.</param>
/// <param name="Paid">Payments and write-offs so far.</param>
/// <param name="Open">The amount still open.</param>
/// <param name="Supplement">A standing invoice that bills late charges of its loads, or null.</param>
/// <param name="Credited">Its credit memos so far.</param>
/// <param name="IsOpening">Whether it is an opening balance, issued by another system.</param>
public sealed record InvoiceState(
    string Number,
    bool IsVoid,
    Money Paid,
    Money Open,
    string? Supplement = null,
    Money Credited = default,
    bool IsOpening = false
)
{
    /// <summary>Checks a write-off without a payment: never more than is open, and always for a reason.</summary>
    /// <param name="wanted">All that is open when null.</param>
    public Outcome<(Money Amount, ShortPayReason Kind, string Reason)> WriteOff(Money? wanted, ShortPayReason? kind, string? reason)
    {
        var validation = new Validation { Currency = Open.Currency };
        validation.Dollars(wanted, "amount", "The amount written off", required: false);
        var text = validation.Text(reason, "reason", "The reason", 200, required: true);
        var amount = wanted ?? Open;
        if (kind is null)
        {
            validation.AddRange([ShortPayReasons.Missing("kind")]);
        }

        if (IsVoid || Open.Amount <= 0)
        {
            validation.Add("invoice.closed", $"Invoice {Number} has nothing open.");
        }
        else if (validation.Ok && amount > Open)
        {
            validation.Add("over.open", $"Invoice {Number} has only {Open.Formatted} open.", "amount");
        }

        return validation.Ok ? (amount, kind!.Value, text!) : validation.Problems;
    }

    /// <summary>Why it cannot be voided; null when it can.</summary>
    public Problem? VoidRefusal =>
        IsVoid ? new Problem("invoice.void", $"Invoice {Number} is already void.")
        : Paid.Amount > 0
            ? new Problem("invoice.paid", $"{Paid.Formatted} of invoice {Number} was paid, credited or written off: reverse that first.")
        : Credited.Amount > 0
            ? new Problem("invoice.credited", $"Invoice {Number} has a credit memo of {Credited.Formatted}: reverse that first.")
        : Supplement is not null
            ? new Problem("invoice.supplement", $"Invoice {Supplement} bills late charges of the same load: void that first.")
        : null;

    /// <summary>Why it cannot be emailed again; null when it can.</summary>
    public Problem? ResendRefusal =>
        IsOpening
            ? new Problem("invoice.opening", $"Invoice {Number} was issued before the books began here: send the customer a statement.")
        : IsVoid ? new Problem("invoice.void", $"Invoice {Number} is void: bill its loads again.")
        : null;
}

/// <summary>What can be done with a payment received.</summary>
/// <param name="Unapplied">The unapplied part, the customer's credit.</param>
/// <param name="Refunded">What was paid back of it.</param>
public sealed record PaymentState(bool IsReversed, Money Unapplied, Money Refunded)
{
    /// <summary>Why it cannot be reversed; null when it can.</summary>
    public Problem? ReverseRefusal =>
        IsReversed ? new Problem("payment.reversed", "This payment was already reversed.")
        : Refunded.Amount > 0
            ? new Problem("payment.refunded", $"{Refunded.Formatted} of this payment was refunded: reverse the refund first.")
        : null;

    /// <summary>The amount of a refund: never more than the unapplied credit.</summary>
    /// <param name="wanted">All of it when null.</param>
    public Money Refund(Money? wanted, Validation validation)
    {
        validation.Dollars(wanted, "amount", "The amount refunded", required: false, currency: Unapplied.Currency);
        var amount = wanted is { } w && w.Currency == Unapplied.Currency ? w : Unapplied;
        if (UseCreditRefusal is { } none)
        {
            validation.AddRange([none]);
        }
        else if (amount > Unapplied)
        {
            validation.Add("over.credit", $"Only {Unapplied.Formatted} of this payment is unapplied.", "amount");
        }

        return amount;
    }

    /// <summary>Why its credit cannot be applied; null when it can.</summary>
    public Problem? UseCreditRefusal =>
        IsReversed || Unapplied.Amount <= 0 ? new Problem("credit.none", "This payment has no unapplied credit.") : null;

    /// <summary>A payment in words: <c>check 4010 from Northgate Cold Storage</c>, <c>Credit memo CM-1001 for Northgate Cold Storage</c>.</summary>
    public static string Label(string method, string? reference, string customer) =>
        method == PaymentMethods.CreditMemo ? $"Credit memo {reference} for {customer}"
        : method == PaymentMethods.OpeningBalance ? $"Opening credit {reference} of {customer}".Replace("  ", " ", StringComparison.Ordinal)
        : $"{method} {reference}".TrimEnd() + $" from {customer}";

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
    /// <summary>A credit memo stands among the payments without being one: nobody enters it as a payment.</summary>
    public const string CreditMemo = "credit_memo";

    /// <summary>A customer's credit from before the books began here; nobody enters it as a payment.</summary>
    public const string OpeningBalance = "opening_balance";

    public static readonly IReadOnlyList<string> All = ["check", "ach", "wire", "card", "cash"];

    /// <summary>As written in a sentence, after "by".</summary>
    public static string Format(string method) => method == "ach" ? "ACH" : method;

    public static void Check(string? method, string field, Validation validation)
    {
        if (method is null || !All.Contains(method))
        {
            validation.Add("missing", $"Choose a payment method: {string.Join(", ", All)}.", field);
        }
    }
}
