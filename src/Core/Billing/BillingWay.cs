using SteadyLark.Core.Basics;
using SteadyLark.Core.Papers;

namespace SteadyLark.Core.Billing;

/// <summary>How a customer is billed.</summary>
/// <param name="ByLoad">One line a load with the sum of its charges; one line a charge otherwise.</param>
/// <param name="Columns">Fields of the load that stand on its lines, of <see cref="LoadField"/> or <c>own:</c> and the key of a field of the business's own.</param>
/// <param name="Papers">Kinds of papers that go along, in this order.</param>
/// <param name="OneFile">The papers behind the invoice in one file; files of their own otherwise.</param>
/// <param name="Together">A week's loads on one invoice; an invoice a load otherwise.</param>
/// <param name="Recipients">Mail addresses with commas between; the customer's own when null.</param>
/// <param name="Subject">With names in braces; see <see cref="Letter"/>.</param>
/// <param name="Words">The mail's words, likewise.</param>
/// <param name="Demands">Papers that must be there before it pays, and so before it is billed.</param>
public sealed record BillingWay(
    bool ByLoad, IReadOnlyList<string> Columns, IReadOnlyList<PaperKind> Papers, bool OneFile, bool Together, string? Recipients, string? Subject, string? Words, IReadOnlyList<PaperKind> Demands)
{
    public const int MostColumns = 6;

    /// <summary>Papers that may go to a customer. What we agreed with a carrier is none of its business.</summary>
    public static readonly IReadOnlyList<PaperKind> MayGo = [PaperKind.Pod, PaperKind.Bol, PaperKind.ScaleTicket, PaperKind.LumperReceipt, PaperKind.Photo, PaperKind.Other];

    /// <summary>Until something else is said.</summary>
    public static readonly BillingWay Usual = new(
        false, [], [PaperKind.Pod, PaperKind.Bol, PaperKind.ScaleTicket, PaperKind.LumperReceipt], true, false, null,
        "Invoice {invoice} from {business}",
        """
        {customer},

        here is our invoice {invoice} over {total} for load {loads}, due {due}.
        The papers are with it.

        {business}, {phone}
        """,
        [PaperKind.Pod]);

    /// <summary>What is wrong with a way; empty when it may be kept.</summary>
    /// <param name="own">Keys of the business's own fields.</param>
    public IReadOnlyList<Problem> Check(IReadOnlySet<long> own, Func<string, bool> isAddress)
    {
        var checks = new Checks();
        if (Columns.Count > MostColumns || Columns.Distinct().Count() < Columns.Count)
        {
            checks.Add("columns", $"At most {MostColumns} columns, each once, have room on a page.", "columns");
        }

        foreach (var column in Columns.Where(c => !LoadField.All.Any(f => f.Id == c) && !(LoadField.OwnKey(c) is { } key && own.Contains(key))))
        {
            checks.Add("column.unknown", $"There is no field {column} of a load.", "columns");
        }

        if (Papers.Distinct().Count() < Papers.Count || Papers.Any(p => !MayGo.Contains(p)))
        {
            checks.Add("papers", "Rate confirmations and carriers' bills do not go to customers; each other kind once.", "papers");
        }

        if (Demands.Distinct().Count() < Demands.Count || Demands.Any(p => !MayGo.Contains(p)))
        {
            checks.Add("papers", "A customer may demand PODs, BOLs, tickets, receipts and photos, each once.", "demands");
        }

        foreach (var address in Letter.Addresses(Recipients).Where(a => !isAddress(a)))
        {
            checks.Add("mail.address", $"{address} is no mail address: it looks like name@company.example.", "recipients");
        }

        checks.AddRange(Letter.Unknown(Subject, "subject"));
        checks.AddRange(Letter.Unknown(Words, "words"));
        return checks.Problems;
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

    /// <summary>The key of an own field's column <c>own:7</c>, or null.</summary>
    public static long? OwnKey(string column) => column.StartsWith("own:", StringComparison.Ordinal) && long.TryParse(column[4..], out var key) ? key : null;
}

/// <summary>A load's part of an invoice, to be laid out: its fields by their ids, and its charges.</summary>
public sealed record LaidLoad(long LoadId, string Number, IReadOnlyDictionary<string, string> Fields, IReadOnlyList<(string Description, Money Amount)> Charges);

/// <summary>The lines of an invoice as they stand on paper.</summary>
/// <param name="Rows">As many cells as titles, and the amount.</param>
public sealed record InvoiceTable(IReadOnlyList<string> Titles, IReadOnlyList<(IReadOnlyList<string> Cells, Money Amount)> Rows)
{
    /// <summary>Lays loads out in a customer's way. The amounts come to the invoice's total whatever the way.</summary>
    /// <param name="titles">Titles of the columns by their ids.</param>
    public static InvoiceTable Lay(BillingWay way, IReadOnlyList<LaidLoad> loads, IReadOnlyDictionary<string, string> titles)
    {
        var heads = new List<string> { "Load" };
        heads.AddRange(way.Columns.Select(c => titles.GetValueOrDefault(c, c)));
        heads.Add("For");
        var rows = new List<(IReadOnlyList<string>, Money)>();
        foreach (var load in loads)
        {
            var fields = way.Columns.Select(c => load.Fields.GetValueOrDefault(c, "")).ToList();
            if (way.ByLoad)
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
