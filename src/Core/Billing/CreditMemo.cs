using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Core.Billing;

/// <summary>Why a customer is credited: it decides the account.</summary>
public enum CreditReason
{
    /// <summary>We agreed to less, such as for a late delivery.</summary>
    Concession,

    /// <summary>A freight claim that we allow.</summary>
    Claim,

    /// <summary>A charge was wrong: its revenue was never earned.</summary>
    BillingError,
}

public static class CreditReasons
{
    /// <inheritdoc cref="ShortPayReasons.ReducesPrice"/>
    public static bool ReducesPrice(this CreditReason reason) => reason != CreditReason.Claim;

    /// <summary>As shown: <c>Concession</c>, <c>Freight claim</c>, <c>Billing error</c>.</summary>
    public static string Format(this CreditReason reason) =>
        reason switch
        {
            CreditReason.Concession => "Concession",
            CreditReason.Claim => "Freight claim",
            _ => "Billing error",
        };
}

/// <summary>A credit memo as entered.</summary>
/// <param name="IssuedOn">Its date; today when omitted.</param>
/// <param name="Charge">For a billing error: the charge that was wrong; line haul when omitted.</param>
public sealed record CreditMemoOrder(Money? Amount, CreditReason? Reason, string? Why, LocalDate? IssuedOn, ChargeKind? Charge = null);

/// <summary>A credit memo: an amount of an invoice that the customer does not owe. What the invoice still has open is reduced by it; the
/// rest is the customer's credit.</summary>
/// <param name="Applied">The part that reduces the invoice.</param>
public sealed record CreditMemo(Money Amount, Money Applied, CreditReason Reason, string Why, LocalDate IssuedOn, ChargeKind Charge)
{
    /// <summary>Checks a credit memo for an invoice. Concessions and billing errors together never exceed it; freight is often worth more
    /// than its freight bill, so a claim may.</summary>
    /// <param name="creditable">What of the invoice no concession or billing error has credited yet.</param>
    public static Outcome<CreditMemo> Decide(CreditMemoOrder order, InvoiceState invoice, Money creditable, LocalDate today)
    {
        var validation = new Validation { Currency = creditable.Currency };
        validation.Dollars(order.Amount, "amount", "The amount of the credit memo");
        validation.Date(order.IssuedOn, today, "issuedOn", "The date of the credit memo", required: false);
        if (order.IssuedOn > today)
        {
            validation.Add("date.future", "The date of the credit memo cannot be in the future.", "issuedOn");
        }

        var why = validation.Text(order.Why, "why", "The explanation", 200, required: true);
        if (order.Reason is null)
        {
            validation.Add("missing", "Choose the reason: concession, freight claim or billing error.", "reason");
        }

        if (invoice.IsVoid)
        {
            validation.Add("invoice.void", $"Invoice {invoice.Number} is void: there is nothing to credit.");
        }
        else if (validation.Ok && order.Reason != CreditReason.Claim && order.Amount!.Value > creditable)
        {
            validation.Add("over.invoice", $"At most {creditable.Formatted} of invoice {invoice.Number} can be credited.", "amount");
        }

        return validation.Ok
            ? new CreditMemo(
                order.Amount!.Value,
                Money.Min(order.Amount.Value, invoice.Open),
                order.Reason!.Value,
                why!,
                order.IssuedOn ?? today,
                order.Charge ?? ChargeKind.LineHaul
            )
            : validation.Problems;
    }
}
