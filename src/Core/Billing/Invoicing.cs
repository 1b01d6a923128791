using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Core.Billing;

/// <summary>A load as billing sees it.</summary>
/// <param name="OnInvoice">Whether it is billed, but for late charges.</param>
/// <param name="Charges">Those that are not billed yet.</param>
/// <param name="Held">Why it is on hold for billing, or null.</param>
/// <param name="RequiredDocuments">Documents the customer requires; the POD when null.</param>
/// <param name="TaxProvince">From <see cref="SalesTax.Province"/>; null when it is not taxed.</param>
public sealed record BillableLoad(
    long LoadId,
    string Number,
    long CustomerId,
    string CustomerName,
    LoadState State,
    bool OnInvoice,
    IReadOnlyList<DocumentKind> Documents,
    IReadOnlyList<BillableCharge> Charges,
    string? Held = null,
    IReadOnlyList<DocumentKind>? RequiredDocuments = null,
    string? TaxProvince = null
);

/// <param name="Rated">How it came about, when by class: in words.</param>
public sealed record BillableCharge(long ChargeId, ChargeKind Kind, string? Description, Money Amount, string? Rated = null)
{
    /// <summary>As an invoice says it.</summary>
    public string OnInvoice
    {
        get
        {
            var named =
                Description is null ? Kind.Format()
                : Kind == ChargeKind.Other ? Description
                : $"{Kind.Format()}, {Description}";
            return Rated is null ? named : $"{named} ({Rated})";
        }
    }
}

public sealed record InvoiceLine(long LoadId, long ChargeId, string Description, Money Amount);

/// <summary>An invoice ready to be issued.</summary>
/// <param name="Total">Tax included.</param>
/// <param name="Supplements">Loads that are billed already: it bills their late charges.</param>
public sealed record InvoiceDraft(
    long CustomerId,
    LocalDate IssuedOn,
    LocalDate DueOn,
    Money Total,
    IReadOnlyList<InvoiceLine> Lines,
    IReadOnlyList<long> Supplements,
    IReadOnlyList<InvoiceTax> Taxes
)
{
    public Money Tax => Money.Sum(Taxes.Select(t => t.Amount), Total.Currency);

    /// <summary>Each load with its charges.</summary>
    public IReadOnlyList<(long LoadId, Money Total)> Loads =>
        Lines.GroupBy(l => l.LoadId).Select(g => (g.Key, Money.Sum(g.Select(l => l.Amount)))).ToList();
}

public static class Invoicing
{
    /// <summary>What keeps a load, or its late charges, from being billed; empty when it is ready. The customer's settings say which
    /// documents are required.</summary>
    public static IReadOnlyList<Problem> Missing(BillableLoad load)
    {
        var missing = new List<Problem>();
        if (load is { OnInvoice: true, Charges.Count: 0 })
        {
            missing.Add(new Problem("load.billed", $"Load {load.Number} is already on an invoice.", "loadIds"));
        }
        else if (!load.OnInvoice && load.State is not (LoadState.Delivered or LoadState.Cancelled))
        {
            missing.Add(new Problem("load.not.delivered", $"Load {load.Number} is not delivered yet.", "loadIds"));
        }
        else if (!load.OnInvoice && load.State == LoadState.Cancelled && !load.Charges.Any(c => Cancellation.Keeps(c.Kind)))
        {
            missing.Add(new Problem("load.canceled", $"Load {load.Number} was canceled without a charge for its truck.", "loadIds"));
        }

        if (load.Held is { } held)
        {
            missing.Add(new Problem("load.held", $"Load {load.Number} is on hold: {held}", "loadIds"));
        }

        // A truck that was not used delivered nothing to sign for.
        foreach (
            var kind in load.State == LoadState.Cancelled ? [] : Documents.RequiredDocuments.Missing(load.RequiredDocuments, load.Documents)
        )
        {
            missing.Add(
                new Problem(
                    $"load.{kind.ToString().ToLowerInvariant()}.missing",
                    $"Load {load.Number} has no {kind.Format()} yet: add it to the load's documents.",
                    "loadIds"
                )
            );
        }

        if (!load.OnInvoice && (load.Charges.Count == 0 || Money.Sum(load.Charges.Select(c => c.Amount)).Amount <= 0))
        {
            missing.Add(new Problem("load.no.charges", $"Load {load.Number} has no charges: add the line haul.", "loadIds"));
        }

        return missing;
    }

    /// <summary>One invoice for loads of one customer.</summary>
    /// <param name="loads">At least one.</param>
    /// <param name="termsDays">Days from the invoice date to the due date.</param>
    /// <param name="today">The invoice date, in the company's time zone.</param>
    /// <param name="chargesTax">Whether we are registered for GST and HST.</param>
    public static Outcome<InvoiceDraft> Draft(IReadOnlyList<BillableLoad> loads, int termsDays, LocalDate today, bool chargesTax = false)
    {
        if (loads.Count == 0)
        {
            return new Problem("missing", "Choose at least one load to bill.", "loadIds");
        }

        var problems = loads.SelectMany(Missing).ToList();
        if (loads.Select(l => l.CustomerId).Distinct().Count() > 1)
        {
            problems.Add(
                new Problem("customers.differ", "These loads belong to different customers: bill each customer separately.", "loadIds")
            );
        }

        if (problems.Count > 0)
        {
            return new Problems(problems);
        }

        var lines = loads.SelectMany(l => l.Charges.Select(c => new InvoiceLine(l.LoadId, c.ChargeId, c.OnInvoice, c.Amount))).ToList();
        var taxes = chargesTax ? SalesTax.Of(loads.Select(l => (l.TaxProvince, Money.Sum(l.Charges.Select(c => c.Amount)))), today) : [];
        return new InvoiceDraft(
            loads[0].CustomerId,
            today,
            Terms.DueOn(today, termsDays),
            Money.Sum(lines.Select(l => l.Amount)) + Money.Sum(taxes.Select(t => t.Amount)),
            lines,
            loads.Where(l => l.OnInvoice).Select(l => l.LoadId).ToList(),
            taxes
        );
    }
}
