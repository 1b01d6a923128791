using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Formats.Mail;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Documents;

/// <summary>The invoice as a PDF.</summary>
public static class InvoicePdf
{
    /// <summary>The invoice's own pages, as sent if they were kept, followed by the attachments.</summary>
    public static async Task<byte[]> WithDocuments(NpgsqlConnection db, Business us, CompanyRow customer, long invoiceId)
    {
        var sheet = await Sheet(db, us, customer, invoiceId);
        using var target = new UglyToad.PdfPig.Writer.PdfDocumentBuilder();
        PdfMerge.Append(target, sheet, "application/pdf");
        foreach (var document in await Behind(db, invoiceId))
        {
            PdfMerge.Append(target, await DocumentStore.Bytes(db, document.Id), document.MediaType);
        }

        return target.Build();
    }

    /// <summary>The files attached to the invoice's email.</summary>
    public static async Task<IReadOnlyList<MailFile>> Files(
        NpgsqlConnection db,
        Business us,
        CompanyRow customer,
        long invoiceId,
        string number,
        bool oneFile
    )
    {
        if (oneFile)
        {
            return [new MailFile($"{number}.pdf", "application/pdf", await WithDocuments(db, us, customer, invoiceId))];
        }

        var files = new List<MailFile> { new($"{number}.pdf", "application/pdf", await Sheet(db, us, customer, invoiceId)) };
        foreach (var document in await Behind(db, invoiceId))
        {
            files.Add(new MailFile(document.FileName, document.MediaType, await DocumentStore.Bytes(db, document.Id)));
        }

        return files;
    }

    /// <summary>Renders the invoice's own pages by the customer's settings.</summary>
    public static async Task<byte[]> Render(NpgsqlConnection db, Business us, CompanyRow customer, long invoiceId)
    {
        var sheet = (await BillingStore.Sheet(db, invoiceId))!;
        return await Render(
            db,
            us,
            customer,
            new InvoiceHead(sheet.Invoice.Number, sheet.Invoice.IssuedOn, sheet.Invoice.DueOn, sheet.Invoice.Total, sheet.Taxes),
            sheet.Lines.Select(l => (l.LoadId, l.Description, l.Amount)).ToList()
        );
    }

    /// <summary>Renders an invoice preview.</summary>
    public static Task<byte[]> Preview(NpgsqlConnection db, Business us, CompanyRow customer, InvoiceDraft draft) =>
        Render(
            db,
            us,
            customer,
            new InvoiceHead("preview", draft.IssuedOn, draft.DueOn, draft.Total, draft.Taxes),
            draft.Lines.Select(l => (l.LoadId, l.Description, l.Amount)).ToList()
        );

    private sealed record InvoiceHead(string Number, LocalDate IssuedOn, LocalDate DueOn, Money Total, IReadOnlyList<InvoiceTax> Taxes);

    private static async Task<byte[]> Sheet(NpgsqlConnection db, Business us, CompanyRow customer, long invoiceId) =>
        await BillingStore.KeptSheet(db, invoiceId) ?? await Render(db, us, customer, invoiceId);

    private static async Task<List<DocumentRow>> Behind(NpgsqlConnection db, long invoiceId)
    {
        var sheet = (await BillingStore.Sheet(db, invoiceId))!;
        var order = sheet.Documents.ToList();
        var loads = sheet.Lines.Select(l => l.LoadId).Distinct().ToList();
        var documents = await DocumentStore.OfLoads(db, loads);
        return loads.SelectMany(l => documents[l].Where(p => order.Contains(p.Kind)).OrderBy(p => order.IndexOf(p.Kind))).ToList();
    }

    private static async Task<byte[]> Render(
        NpgsqlConnection db,
        Business us,
        CompanyRow customer,
        InvoiceHead invoice,
        List<(long LoadId, string Description, Money Amount)> lines
    )
    {
        var (settings, _) = await BillingSettingsStore.Of(db, customer.Id);
        var loads = await BillingSettingsStore.InvoiceTableLoads(
            db,
            lines.Select(l => l.LoadId).Distinct().ToList(),
            lines.ToLookup(l => l.LoadId, l => (l.Description, l.Amount))
        );
        using var page = new PdfPage($"Invoice {invoice.Number}", $"{us.Name} · invoice {invoice.Number}");
        page.Logo(us.Logo);
        page.Line($"Invoice {invoice.Number}", 19, bold: true);
        page.Space(10);
        page.Columns(
            10,
            ($"{us.Name}\n{us.Address}\n{us.Phone}\n{us.Email}", PdfPage.Left, 240, false, false),
            (
                $"Bill to\n{customer.Name}\n{string.Join(", ", new[] { customer.Address, customer.Town, customer.Region }.OfType<string>())}\n{customer.Email}",
                320,
                238,
                false,
                false
            )
        );
        page.Space(10);
        page.Columns(
            10,
            ("Date", PdfPage.Left, 80, false, false),
            ($"{invoice.IssuedOn:ddd MMM d, uuuu}", 140, 160, false, false),
            ("Due", 320, 60, false, false),
            ($"{invoice.DueOn:ddd MMM d, uuuu}", 380, 170, true, false)
        );
        page.Space(6);
        if (settings.ByLoad || settings.Columns.Count > 0)
        {
            await Table(db, page, settings, loads);
        }
        else
        {
            foreach (var load in loads)
            {
                LoadBlock(page, load);
            }
        }

        page.Rule();
        foreach (var tax in invoice.Taxes)
        {
            page.Columns(
                10,
                ($"{tax.Name} on {tax.On}", PdfPage.Left, 300, false, false),
                (tax.Amount.ToString(), PdfPage.Right, 200, false, true)
            );
        }

        page.Columns(
            13,
            ("Total due", PdfPage.Left, 300, true, false),
            ($"{invoice.Total.Currency} {invoice.Total}", PdfPage.Right, 200, true, true)
        );
        page.Space(10);
        page.Line(
            $"Please pay by {invoice.DueOn:ddd MMM d, uuuu}{(invoice.Total.Currency == Currency.USD ? "" : $" in {invoice.Total.Currency.Format()}")} and include invoice number {invoice.Number}.",
            10,
            grey: true
        );
        if (us.Payment.GstNumber is { } gst && (invoice.Total.Currency == Currency.CAD || invoice.Taxes.Count > 0))
        {
            page.Line($"GST/HST registration {gst}", 10, grey: true);
        }

        if (us.Payment is { RemitAddress: not null } or { Routing: not null } or { TaxId: not null })
        {
            page.Space(6);
            page.Columns(
                9,
                ($"Remit to\n{us.Name}\n{us.Payment.RemitAddress ?? us.Address}", PdfPage.Left, 190, false, false),
                (
                    us.Payment.Routing is null || invoice.Total.Currency != Currency.USD
                        ? ""
                        : $"By ACH\n{us.Payment.BankName}\nRouting {us.Payment.Routing}\nAccount {us.Payment.Account}",
                    250,
                    170,
                    false,
                    false
                ),
                (us.Payment.TaxIdFormatted is { } tax ? $"Federal tax ID\n{tax}" : "", 430, 120, false, false)
            );
        }

        return page.Save();
    }

    /// <summary>Each load in a few lines, with its charges below.</summary>
    private static void LoadBlock(PdfPage page, InvoiceTableLoad load)
    {
        string Field(string id, string before) => load.Fields.TryGetValue(id, out var value) ? before + value : "";
        page.Rule();
        page.Line($"Load {load.Number}{Field("reference", " · your reference ")}", 11, bold: true);
        page.Line($"{Field("origin", "")} to {Field("destination", "")}");
        page.Line($"{Field("freight", "")}{Field("delivered", " · delivered ")}{Field("received_by", ", signed ")}", grey: true);
        page.Space(3);
        foreach (var (description, amount) in load.Charges)
        {
            page.Columns(10, (description, PdfPage.Left + 12, 380, false, false), (amount.ToString(), PdfPage.Right, 100, false, true));
        }
    }

    /// <summary>Lines with the customer's columns.</summary>
    private static async Task Table(NpgsqlConnection db, PdfPage page, BillingSettings settings, List<InvoiceTableLoad> loads)
    {
        var titles = LoadField.All.ToDictionary(f => f.Id, f => f.Title);
        foreach (var own in await CustomFieldStore.All(db))
        {
            titles[$"custom:{own.Id}"] = own.Name;
        }

        var table = InvoiceTable.Build(settings, loads, titles);
        const double load = 44,
            amount = 78;
        var cell = (PdfPage.Right - PdfPage.Left - load - amount) / (table.Titles.Count - 1);
        (string, double, double, bool, bool)[] Row(IReadOnlyList<string> cells, string last, bool bold) =>
            [
                .. cells.Select(
                    (c, i) => (c, i == 0 ? PdfPage.Left : PdfPage.Left + load + ((i - 1) * cell), (i == 0 ? load : cell) - 4, bold, false)
                ),
                (last, PdfPage.Right, amount, bold, true),
            ];
        page.Columns(9, Row(table.Titles, "Amount", true));
        foreach (var (cells, sum) in table.Rows)
        {
            page.Rule();
            page.Columns(9, Row(cells, sum.ToString(), false));
        }
    }
}
