using NodaTime;
using SteadyLark.Core.Documents;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's recent documents and emails that are generated from the database: rate confirmations and invoices.</summary>
internal static class DemoMails
{
    private static readonly Duration MailedWithin = Duration.FromDays(8);

    /// <param name="few">Whether only those of the last hours are generated, as for a benchmark.</param>
    public static async Task Write(IServiceProvider services, CommandContext w, Past past, bool few)
    {
        var mailer = services.GetRequiredService<Mailer>();
        var business = (await Business.ReadForPrint(w.Db))!;
        var since = w.Now - (few ? Duration.FromHours(2) : Duration.FromDays(PastWriter.DocumentDays));
        var mailed = few ? since : w.Now - MailedWithin;
        var tendered = new List<(PastLoad Load, LoadSheet Sheet, CompanyRow Carrier)>();
        foreach (var load in past.Loads.Where(l => l.TenderedAt is { } t && t.At >= since))
        {
            tendered.Add((load, (await LoadReads.Sheet(w.Db, load.Id))!, (await CompanyStore.Get(w.Db, load.Carrier!.Value))!));
        }

        // Drawing takes longer than storing.
        var drawn = tendered
            .AsParallel()
            .AsOrdered()
            .Select(t =>
                RateConfirmation.Draw(business, t.Sheet, t.Carrier, t.Sheet.Leg!, DemoData.Detention, null, t.Load.TenderedAt!.Value.At)
            )
            .ToList();
        foreach (var ((load, sheet, carrier), pdf) in tendered.Zip(drawn))
        {
            var at = w.At(load.TenderedAt!.Value.At);
            await DocumentStore.Add(
                at,
                load.Id,
                DocumentKind.RateConfirmation,
                RateConfirmation.FileName(load.Number),
                "application/pdf",
                pdf,
                legId: sheet.Leg!.Id
            );
            if (at.Now > mailed)
            {
                await mailer.Send(
                    at,
                    MailPurpose.RateConfirmation,
                    carrier.Email!,
                    $"Rate confirmation for load {load.Number}",
                    $"{carrier.Name},\n\nOur rate confirmation for load {load.Number} at {load.Agreed!.Value.Formatted} is attached.\n\n{business.Name}",
                    [new MailFile(RateConfirmation.FileName(load.Number), "application/pdf", pdf)],
                    load.Id
                );
            }
        }

        foreach (var invoice in past.Invoices.Where(i => i.At > mailed))
        {
            var customer = (await CompanyStore.Get(w.Db, invoice.Draft.CustomerId))!;
            var pdf = await InvoicePdf.WithDocuments(w.Db, business, customer, invoice.Id);
            var mail = await mailer.Send(
                w.At(invoice.At),
                MailPurpose.Invoice,
                invoice.MailTo!,
                $"Invoice {invoice.Number} from {business.Name}",
                $"{customer.Name},\n\nInvoice {invoice.Number} for {invoice.Draft.Total.Formatted} is attached. It is due {invoice.Draft.DueOn:ddd MMM d, uuuu}.\n\n{business.Name}",
                [new MailFile($"{invoice.Number}.pdf", "application/pdf", pdf)],
                invoice.Load
            );
            await BillingStore.SetMail(w.Db, invoice.Id, mail);
        }

        await DemoStore.MarkSent(w.Db, w.Now - Duration.FromMinutes(1));
    }
}
