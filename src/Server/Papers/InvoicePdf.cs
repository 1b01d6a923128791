using Npgsql;
using SteadyLark.Core.Papers;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Papers;

namespace SteadyLark.Server.Papers;

/// <summary>The invoice as the customer gets it.</summary>
public static class InvoicePdf
{
    /// <summary>Papers that go behind an invoice. What we agreed with a carrier is none of the customer's business.</summary>
    private static readonly PaperKind[] Behind = [PaperKind.Pod, PaperKind.Bol, PaperKind.ScaleTicket, PaperKind.LumperReceipt];

    public static async Task<byte[]> WithPapers(NpgsqlConnection db, Business us, CompanyRow customer, long invoiceId)
    {
        var sheet = (await BillingStore.Sheet(db, invoiceId))!;
        var loadIds = sheet.Lines.Select(l => l.LoadId).Distinct().ToList();
        var loads = (await LoadReads.ByIds(db, loadIds)).ToDictionary(l => l.Id);
        using var page = new PdfPage($"Invoice {sheet.Invoice.Number}", $"{us.Name} · invoice {sheet.Invoice.Number}");
        Draw(page, us, customer, sheet, loadIds.Select(id => loads[id]).ToList());
        foreach (var load in loadIds)
        {
            foreach (var paper in (await PaperStore.OfLoad(db, load)).Where(p => Behind.Contains(p.Kind)).OrderBy(p => Array.IndexOf(Behind, p.Kind)))
            {
                PdfMerge.Append(page.Document, await PaperStore.Bytes(db, paper.Id), paper.MediaType);
            }
        }

        return page.Save();
    }

    private static void Draw(PdfPage page, Business us, CompanyRow customer, InvoiceSheet sheet, List<LoadRow> loads)
    {
        var invoice = sheet.Invoice;
        page.Line($"Invoice {invoice.Number}", 19, bold: true);
        if (invoice.VoidedAt is not null)
        {
            page.Line("Void", 13, bold: true);
        }

        page.Space(10);
        page.Columns(
            10,
            ($"{us.Name}\n{us.Address}\n{us.Phone}\n{us.Email}", PdfPage.Left, 240, false, false),
            ($"Bill to\n{customer.Name}\n{string.Join(", ", new[] { customer.Address, customer.Town, customer.Region }.OfType<string>())}\n{customer.Email}", 320, 238, false, false));
        page.Space(10);
        page.Columns(10, ("Date", PdfPage.Left, 80, false, false), ($"{invoice.IssuedOn:ddd d MMM uuuu}", 140, 160, false, false), ("Due", 320, 60, false, false), ($"{invoice.DueOn:ddd d MMM uuuu}", 380, 170, true, false));
        page.Space(6);
        foreach (var load in loads)
        {
            page.Rule();
            page.Line($"Load {load.Number}" + (load.Reference is { } reference ? $" · your reference {reference}" : ""), 11, bold: true);
            page.Line($"{load.Stops[0].Place}, {load.Stops[0].Town} {load.Stops[0].Region} to {load.Stops[^1].Place}, {load.Stops[^1].Town} {load.Stops[^1].Region}");
            var delivered = load.Stops[^1].DeliveredAt ?? load.Stops[^1].LeftAt;
            var zone = Core.Basics.WallClock.Zone(load.Stops[^1].Zone) ?? NodaTime.DateTimeZone.Utc;
            page.Line($"{load.Freight}" + (delivered is { } at ? $" · delivered {Core.Basics.WallClock.Said(at, zone)}" : "") + (load.Stops[^1].ReceivedBy is { } by ? $", signed {by}" : ""), grey: true);
            page.Space(3);
            foreach (var line in sheet.Lines.Where(l => l.LoadId == load.Id))
            {
                page.Columns(10, (line.Description, PdfPage.Left + 12, 380, false, false), (line.Amount.ToString(), PdfPage.Right, 100, false, true));
            }
        }

        page.Rule();
        page.Columns(13, ("Total due", PdfPage.Left, 300, true, false), ($"{invoice.Total.Currency} {invoice.Total}", PdfPage.Right, 200, true, true));
        page.Space(10);
        page.Line($"Please pay by {invoice.DueOn:ddd d MMM uuuu} and quote {invoice.Number}.", 10, grey: true);
    }
}
