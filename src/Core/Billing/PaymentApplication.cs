using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Billing;

/// <summary>An invoice with its open amount.</summary>
public sealed record OpenInvoice(long InvoiceId, string Number, long CustomerId, Money Open);

/// <summary>Why a customer does not pay all of an invoice: it decides the account.</summary>
public enum ShortPayReason
{
    /// <summary>We agreed to less, such as for a late delivery.</summary>
    Concession,

    /// <summary>Freight was short or damaged.</summary>
    Claim,

    /// <summary>The customer cannot or will not pay.</summary>
    Uncollectible,
}

public static class ShortPayReasons
{
    /// <summary>The refusal of a write-off that does not say its kind.</summary>
    internal static Problem Missing(string field) =>
        new("missing", "Choose why it is written off: concession, freight claim or credit loss.", field);

    /// <summary>Whether the tax within it is no longer owed: a claim is paid for damage, and changes nothing of the price.</summary>
    public static bool ReducesPrice(this ShortPayReason reason) => reason != ShortPayReason.Claim;

    /// <summary>As shown: <c>Concession</c>, <c>Freight claim</c>, <c>Credit loss</c>.</summary>
    public static string Format(this ShortPayReason reason) =>
        reason switch
        {
            ShortPayReason.Concession => "Concession",
            ShortPayReason.Claim => "Freight claim",
            _ => "Credit loss",
        };
}

/// <summary>A part of a payment applied to an invoice.</summary>
/// <param name="WriteOff">What the customer short-paid and we write off.</param>
/// <param name="Reason">Why it was short-paid, whether the rest is written off or still owed.</param>
/// <param name="Kind">Why it is written off; null when nothing is.</param>
public sealed record Application(
    long InvoiceId,
    Money Amount,
    Money WriteOff = default,
    string? Reason = null,
    ShortPayReason? Kind = null
);

/// <summary>A payment with its applications. The rest is the customer's unapplied credit.</summary>
public sealed record AppliedPayment(Money Amount, IReadOnlyList<Application> Applications)
{
    public Money Applied => Money.Sum(Applications.Select(a => a.Amount));

    public Money WriteOff => Money.Sum(Applications.Select(a => a.WriteOff));

    public Money Unapplied => Amount - Applied;
}

public static class PaymentApplication
{
    /// <summary>Validates how a payment is applied: never more than its amount, never more than is open, never to another customer's
    /// invoice.</summary>
    public static Outcome<AppliedPayment> Apply(
        long customerId,
        Money amount,
        IReadOnlyList<Application> wanted,
        IReadOnlyDictionary<long, OpenInvoice> open
    )
    {
        var validation = new Validation { Currency = amount.Currency };
        validation.Dollars(amount, "amount", "The amount received");
        for (var i = 0; i < wanted.Count; i++)
        {
            validation.Dollars(wanted[i].Amount, $"applications[{i}].amount", "The amount applied");
            validation.Dollars(wanted[i].WriteOff, $"applications[{i}].writeOff", "The write-off", required: false, above: false);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        for (var i = 0; i < wanted.Count; i++)
        {
            var at = $"applications[{i}]";
            if (!open.TryGetValue(wanted[i].InvoiceId, out var invoice) || invoice.CustomerId != customerId)
            {
                validation.Add("unknown", "This invoice is not open for this customer.", $"{at}.invoiceId");
            }
            else if (wanted[i].Amount + wanted[i].WriteOff > invoice.Open)
            {
                validation.Add(
                    "over.open",
                    $"Invoice {invoice.Number} has only {invoice.Open.Formatted} open.",
                    wanted[i].Amount > invoice.Open ? $"{at}.amount" : $"{at}.writeOff"
                );
            }

            var reason = validation.Text(wanted[i].Reason, $"{at}.reason", "The reason", 200);
            if (wanted[i].WriteOff.Amount > 0 && wanted[i].Kind is null)
            {
                validation.AddRange([ShortPayReasons.Missing($"{at}.kind")]);
            }

            if (wanted[i].WriteOff.Amount > 0 && reason is null)
            {
                validation.Add("missing", "Give a reason for the write-off.", $"{at}.reason");
            }
        }

        if (wanted.Select(a => a.InvoiceId).Distinct().Count() < wanted.Count)
        {
            validation.Add("twice", "The same invoice is listed twice: combine the amounts.", "applications");
        }

        var applied = Money.Sum(wanted.Select(a => a.Amount));
        if (applied > amount)
        {
            validation.Add("over.payment", $"{applied.Formatted} is applied, but the payment is only {amount.Formatted}.", "applications");
        }

        return validation.Ok ? new AppliedPayment(amount, wanted) : validation.Problems;
    }

    /// <summary>Applies an amount to invoices in the given order (oldest due first), each up to its open amount.</summary>
    public static AppliedPayment Spread(Money amount, IEnumerable<OpenInvoice> inOrder)
    {
        var left = amount;
        var applications = new List<Application>();
        foreach (var invoice in inOrder)
        {
            var part = Money.Min(left, invoice.Open);
            if (part.Amount > 0)
            {
                applications.Add(new Application(invoice.InvoiceId, part));
                left -= part;
            }
        }

        return new AppliedPayment(amount, applications);
    }
}
