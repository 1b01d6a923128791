using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Core.Billing;

/// <summary>A customer's billing settings.</summary>
/// <param name="ByLoad">One line per load with the sum of its charges; otherwise one line per charge.</param>
/// <param name="Columns">Load fields shown on invoice lines: ids of <see cref="LoadField"/>, or <c>custom:</c> and the key of a custom
/// field.</param>
/// <param name="Documents">Kinds of attachments, in this order.</param>
/// <param name="OneFile">Invoice and documents in one file; otherwise separate files.</param>
/// <param name="Together">A week's loads on one invoice; otherwise one invoice per load.</param>
/// <param name="Recipients">Email addresses separated by commas; the customer's own when null.</param>
/// <param name="Subject">With names in braces; see <see cref="MailTemplate"/>.</param>
/// <param name="Message">The message, likewise.</param>
/// <param name="RequiredDocuments">Documents required before the load can be billed.</param>
/// <param name="Detention">What the customer pays for waiting; null for nothing agreed.</param>
/// <param name="HoldForClaims">Whether a load with a claim waits to be billed; otherwise it is billed, and the claim is credited later.</param>
public sealed record BillingSettings(
    bool ByLoad,
    IReadOnlyList<string> Columns,
    IReadOnlyList<DocumentKind> Documents,
    bool OneFile,
    bool Together,
    string? Recipients,
    string? Subject,
    string? Message,
    IReadOnlyList<DocumentKind> RequiredDocuments,
    bool HoldForClaims = false,
    DetentionTerms? Detention = null
)
{
    public const int MaxColumns = 6;

    /// <summary>Documents that may be sent to a customer. Our agreements with carriers are not among them.</summary>
    public static readonly IReadOnlyList<DocumentKind> MayGo =
    [
        DocumentKind.Pod,
        DocumentKind.Bol,
        DocumentKind.ScaleTicket,
        DocumentKind.LumperReceipt,
        DocumentKind.Photo,
        DocumentKind.Other,
    ];

    /// <summary>The default.</summary>
    public static readonly BillingSettings Default = new(
        false,
        [],
        [DocumentKind.Pod, DocumentKind.Bol, DocumentKind.ScaleTicket, DocumentKind.LumperReceipt],
        true,
        false,
        null,
        "Invoice {invoice} from {business}",
        """
        {customer},

        Please find attached invoice {invoice} for {total}, load {loads}, due {due}.
        Supporting documents are attached.

        {business}, {phone}
        """,
        [DocumentKind.Pod]
    );

    /// <summary>What is wrong with billing settings; empty when they can be saved.</summary>
    /// <param name="own">Keys of the company's custom fields.</param>
    /// <param name="currency">The customer's.</param>
    public IReadOnlyList<Problem> Check(IReadOnlySet<long> own, Func<string, bool> isAddress, Currency currency = Currency.USD)
    {
        var validation = new Validation();
        Detention?.Check(validation, "detention.", currency);
        if (Columns.Count > MaxColumns || Columns.Distinct().Count() < Columns.Count)
        {
            validation.Add("columns", $"An invoice has room for {MaxColumns} columns, each used once.", "columns");
        }

        foreach (
            var column in Columns.Where(c =>
                !LoadField.All.Any(f => f.Id == c) && !(LoadField.CustomKey(c) is { } key && own.Contains(key))
            )
        )
        {
            validation.Add("column.unknown", $"Loads have no field {column}.", "columns");
        }

        if (Documents.Distinct().Count() < Documents.Count || Documents.Any(p => !MayGo.Contains(p)))
        {
            validation.Add(
                "documents",
                "Rate confirmations and carrier bills are never sent to customers. Choose each other document type once.",
                "documents"
            );
        }

        if (RequiredDocuments.Distinct().Count() < RequiredDocuments.Count || RequiredDocuments.Any(p => !MayGo.Contains(p)))
        {
            validation.Add("documents", "A customer can require PODs, BOLs, tickets, receipts and photos, each once.", "requiredDocuments");
        }

        foreach (var address in MailTemplate.Addresses(Recipients).Where(a => !isAddress(a)))
        {
            validation.Add("mail.address", $"{address} is not an email address. Use the form name@company.example.", "recipients");
        }

        validation.AddRange(MailTemplate.Unknown(Subject, "subject"));
        validation.AddRange(MailTemplate.Unknown(Message, "message"));
        return validation.Problems;
    }
}

/// <summary>A load field that may be shown on an invoice.</summary>
public sealed record LoadField(string Id, string Title)
{
    public static readonly IReadOnlyList<LoadField> All =
    [
        new("reference", "Your reference"),
        new("purchase_order", "PO"),
        new("bill_of_lading", "BOL"),
        new("pickup_number", "Pickup no."),
        new("delivery_number", "Delivery no."),
        new("order_number", "Order no."),
        new("seal", "Seal"),
        new("origin", "From"),
        new("destination", "To"),
        new("picked_up", "Picked up"),
        new("delivered", "Delivered"),
        new("received_by", "Signed by"),
        new("freight", "Freight"),
        new("pieces", "Pieces"),
        new("pallets", "Pallets"),
        new("weight", "Weight, lb"),
        new("miles", "Miles"),
        new("equipment", "Equipment"),
        new("carried_by", "Truck"),
    ];

    /// <summary>The key of a custom field's column <c>custom:7</c>, or null.</summary>
    public static long? CustomKey(string column) =>
        column.StartsWith("custom:", StringComparison.Ordinal) && long.TryParse(column["custom:".Length..], out var key) ? key : null;
}

/// <summary>A load's part of an invoice layout: its fields by id, and its charges.</summary>
public sealed record InvoiceTableLoad(
    long LoadId,
    string Number,
    IReadOnlyDictionary<string, string> Fields,
    IReadOnlyList<(string Description, Money Amount)> Charges
);

/// <summary>The lines of an invoice as they are printed.</summary>
/// <param name="Rows">Cells in the order of the titles, and the amount.</param>
public sealed record InvoiceTable(IReadOnlyList<string> Titles, IReadOnlyList<(IReadOnlyList<string> Cells, Money Amount)> Rows)
{
    /// <summary>Lays out loads by a customer's billing settings. The amounts add up to the invoice total under any settings.</summary>
    /// <param name="titles">Column titles by id.</param>
    public static InvoiceTable Build(
        BillingSettings settings,
        IReadOnlyList<InvoiceTableLoad> loads,
        IReadOnlyDictionary<string, string> titles
    )
    {
        var heads = new List<string> { "Load" };
        heads.AddRange(settings.Columns.Select(c => titles.GetValueOrDefault(c, c)));
        heads.Add("For");
        var rows = new List<(IReadOnlyList<string>, Money)>();
        foreach (var load in loads)
        {
            var fields = settings.Columns.Select(c => load.Fields.GetValueOrDefault(c, "")).ToList();
            if (settings.ByLoad)
            {
                rows.Add(
                    (
                        [load.Number, .. fields, string.Join(", ", load.Charges.Select(c => c.Description))],
                        Money.Sum(load.Charges.Select(c => c.Amount))
                    )
                );
                continue;
            }

            // Load fields are shown on the load's first line only.
            rows.AddRange(
                load.Charges.Select(
                    (c, i) =>
                        (
                            (IReadOnlyList<string>)(
                                i == 0 ? [load.Number, .. fields, c.Description] : ["", .. fields.Select(_ => ""), c.Description]
                            ),
                            c.Amount
                        )
                )
            );
        }

        return new InvoiceTable(heads, rows);
    }
}
