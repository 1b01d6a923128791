using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;

namespace SteadyLark.Core.Billing;

/// <summary>How a customer is billed.</summary>
/// <param name="ByLoad">One line a load with the sum of its charges; one line a charge otherwise.</param>
/// <param name="Columns">Fields of the load that stand on its lines, of <see cref="LoadField"/>, or <c>custom:</c> and the key of a custom field.</param>
/// <param name="Documents">Kinds of attachments, in this order.</param>
/// <param name="OneFile">The documents behind the invoice in one file; files of their own otherwise.</param>
/// <param name="Together">A week's loads on one invoice; an invoice a load otherwise.</param>
/// <param name="Recipients">Mail addresses with commas between; the customer's own when null.</param>
/// <param name="Subject">With names in braces; see <see cref="MailTemplate"/>.</param>
/// <param name="Message">The mail's words, likewise.</param>
/// <param name="RequiredDocuments">Documents that must be there before it pays, and so before it is billed.</param>
public sealed record BillingSettings(
    bool ByLoad, IReadOnlyList<string> Columns, IReadOnlyList<DocumentKind> Documents, bool OneFile, bool Together, string? Recipients, string? Subject, string? Message, IReadOnlyList<DocumentKind> RequiredDocuments)
{
    public const int MaxColumns = 6;

    /// <summary>Documents that may go to a customer. What we agreed with a carrier is none of its business.</summary>
    public static readonly IReadOnlyList<DocumentKind> MayGo = [DocumentKind.Pod, DocumentKind.Bol, DocumentKind.ScaleTicket, DocumentKind.LumperReceipt, DocumentKind.Photo, DocumentKind.Other];

    /// <summary>Until something else is said.</summary>
    public static readonly BillingSettings Default = new(
        false, [], [DocumentKind.Pod, DocumentKind.Bol, DocumentKind.ScaleTicket, DocumentKind.LumperReceipt], true, false, null,
        "Invoice {invoice} from {business}",
        """
        {customer},

        Please find attached invoice {invoice} for {total}, load {loads}, due {due}.
        Supporting documents are attached.

        {business}, {phone}
        """,
        [DocumentKind.Pod]);

    /// <summary>What is wrong with a way; empty when it may be kept.</summary>
    /// <param name="own">Keys of the business's own fields.</param>
    public IReadOnlyList<Problem> Check(IReadOnlySet<long> own, Func<string, bool> isAddress)
    {
        var validation = new Validation();
        if (Columns.Count > MaxColumns || Columns.Distinct().Count() < Columns.Count)
        {
            validation.Add("columns", $"An invoice has room for {MaxColumns} columns, each used once.", "columns");
        }

        foreach (var column in Columns.Where(c => !LoadField.All.Any(f => f.Id == c) && !(LoadField.CustomKey(c) is { } key && own.Contains(key))))
        {
            validation.Add("column.unknown", $"Loads have no field {column}.", "columns");
        }

        if (Documents.Distinct().Count() < Documents.Count || Documents.Any(p => !MayGo.Contains(p)))
        {
            validation.Add("documents", "Rate confirmations and carrier bills are never sent to customers. Choose each other document type once.", "documents");
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

/// <summary>A field of a load that may stand on an invoice.</summary>
public sealed record LoadField(string Id, string Title)
{
    public static readonly IReadOnlyList<LoadField> All =
    [
        new("reference", "Your reference"), new("purchase_order", "PO"), new("bill_of_lading", "BOL"), new("pickup_number", "Pickup no."), new("delivery_number", "Delivery no."), new("order_number", "Order no."), new("seal", "Seal"),
        new("origin", "From"), new("destination", "To"), new("picked_up", "Picked up"), new("delivered", "Delivered"), new("received_by", "Signed by"), new("freight", "Freight"), new("pieces", "Pieces"),
        new("pallets", "Pallets"), new("weight", "Weight, lb"), new("miles", "Miles"), new("equipment", "Equipment"), new("carried_by", "Truck"),
    ];

    /// <summary>The key of a custom field's column <c>custom:7</c>, or null.</summary>
    public static long? CustomKey(string column) => column.StartsWith("custom:", StringComparison.Ordinal) && long.TryParse(column["custom:".Length..], out var key) ? key : null;
}

/// <summary>A load's part of an invoice, to be laid out: its fields by their ids, and its charges.</summary>
public sealed record InvoiceTableLoad(long LoadId, string Number, IReadOnlyDictionary<string, string> Fields, IReadOnlyList<(string Description, Money Amount)> Charges);

/// <summary>The lines of an invoice as they are printed.</summary>
/// <param name="Rows">As many cells as titles, and the amount.</param>
public sealed record InvoiceTable(IReadOnlyList<string> Titles, IReadOnlyList<(IReadOnlyList<string> Cells, Money Amount)> Rows)
{
    /// <summary>Lays loads out in a customer's way. The amounts come to the invoice's total whatever the way.</summary>
    /// <param name="titles">Titles of the columns by their ids.</param>
    public static InvoiceTable Build(BillingSettings settings, IReadOnlyList<InvoiceTableLoad> loads, IReadOnlyDictionary<string, string> titles)
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
                rows.Add(([load.Number, .. fields, string.Join(", ", load.Charges.Select(c => c.Description))], Money.Sum(load.Charges.Select(c => c.Amount))));
                continue;
            }

            // What belongs to the load stands on its first line only.
            rows.AddRange(load.Charges.Select((c, i) => ((IReadOnlyList<string>)(i == 0 ? [load.Number, .. fields, c.Description] : ["", .. fields.Select(_ => ""), c.Description]), c.Amount)));
        }

        return new InvoiceTable(heads, rows);
    }
}
