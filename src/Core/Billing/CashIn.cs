using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Billing;

/// <summary>An invoice with what is still open on it.</summary>
public sealed record OpenInvoice(long InvoiceId, string Number, long CustomerId, Money Open);

/// <summary>A part of a payment put to an invoice.</summary>
/// <param name="LetGo">What the customer paid short on it and we do not ask for any more.</param>
/// <param name="Reason">Why it was paid short, whether the rest is let go or still owed.</param>
public sealed record Application(long InvoiceId, Money Amount, Money LetGo = default, string? Reason = null);

/// <summary>A payment with where it goes. The rest is the customer's credit.</summary>
public sealed record AppliedPayment(Money Amount, IReadOnlyList<Application> Applications)
{
    public Money Applied => Money.Sum(Applications.Select(a => a.Amount));

    public Money LetGo => Money.Sum(Applications.Select(a => a.LetGo));

    public Money Unapplied => Amount - Applied;
}

public static class CashIn
{
    /// <summary>Checks where a payment is to go: never more than it is, never more than is open, never on another customer's invoice.</summary>
    public static Outcome<AppliedPayment> Apply(long customerId, Money amount, IReadOnlyList<Application> wanted, IReadOnlyDictionary<long, OpenInvoice> open)
    {
        var checks = new Checks();
        checks.Amount(amount.Amount, "amount", "The amount received");
        for (var i = 0; i < wanted.Count; i++)
        {
            var at = $"applications[{i}]";
            checks.Amount(wanted[i].Amount.Amount, $"{at}.amount", "The amount applied");
            if (!open.TryGetValue(wanted[i].InvoiceId, out var invoice) || invoice.CustomerId != customerId)
            {
                checks.Add("unknown", "This invoice is not an open one of this customer.", $"{at}.invoiceId");
            }
            else if (wanted[i].Amount + wanted[i].LetGo > invoice.Open)
            {
                checks.Add("over.open", $"Invoice {invoice.Number} has only {invoice.Open.Said} open.", wanted[i].Amount > invoice.Open ? $"{at}.amount" : $"{at}.letGo");
            }

            checks.Amount(wanted[i].LetGo.Amount, $"{at}.letGo", "What is let go", required: false, above: false);
            var reason = checks.Text(wanted[i].Reason, $"{at}.reason", "The reason", 200);
            if (wanted[i].LetGo.Amount > 0 && reason is null)
            {
                checks.Add("missing", "Say why this is let go.", $"{at}.reason");
            }
        }

        if (wanted.Select(a => a.InvoiceId).Distinct().Count() < wanted.Count)
        {
            checks.Add("twice", "An invoice stands here twice: put its amounts together.", "applications");
        }

        var applied = Money.Sum(wanted.Select(a => a.Amount));
        if (applied > amount)
        {
            checks.Add("over.payment", $"{applied.Said} is applied, but only {amount.Said} came in.", "applications");
        }

        return checks.Ok ? new AppliedPayment(amount, wanted) : checks.Problems.ToList();
    }

    /// <summary>Puts an amount to invoices in the given order (the oldest due first), each up to what is open on it.</summary>
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
