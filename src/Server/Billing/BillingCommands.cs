using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Papers;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Billing;

/// <param name="LoadIds">Loads of one customer.</param>
/// <param name="TermsDays">Days until it is due; the customer's own terms when left out.</param>
/// <param name="MailTo">Where it goes; the customer's address when left out.</param>
public sealed record InvoiceRequest(IReadOnlyList<long>? LoadIds, int? TermsDays, string? MailTo);

public sealed record ApplicationRequest(long InvoiceId, Money? Amount);

/// <param name="Applications">Where it goes; when left out, to the oldest due first.</param>
public sealed record PaymentRequest(long? CustomerId, LocalDate? ReceivedOn, string? Method, string? Reference, Money? Amount, IReadOnlyList<ApplicationRequest>? Applications);

/// <summary>Billing customers and taking their money in.</summary>
public sealed class BillingCommands(Letters letters)
{
    public static readonly IReadOnlyList<string> Methods = ["check", "ach", "wire", "card", "cash"];

    /// <summary>Issues an invoice over loads, posts it, and puts it into the outbox with its papers behind it.</summary>
    public async Task<Outcome<InvoiceRow>> Issue(Work w, InvoiceRequest request)
    {
        var checks = new Checks();
        Terms.Check(request.TermsDays, checks, "termsDays");
        var loads = await BillingStore.Billable(w, request.LoadIds ?? []);
        if (loads.Count != (request.LoadIds ?? []).Distinct().Count())
        {
            checks.Add("unknown", "One of these loads is not here.", "loadIds");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var customer = loads.Count > 0 ? (await CompanyStore.Get(w.Db, loads[0].CustomerId))! : null;
        var draft = Invoicing.Draft(loads, request.TermsDays ?? customer?.TermsDays ?? 30, w.Today);
        if (!draft.Ok)
        {
            return draft.Problems.ToList();
        }

        var to = checks.Text(request.MailTo, "mailTo", "The mail address", 200) ?? customer!.Email;
        if (!Eml.IsAddress(to))
        {
            checks.Add("mail.address", $"{customer!.Name} has no usable mail address: write one here or on its sheet.", "mailTo");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var (id, number) = await BillingStore.AddInvoice(w, draft.Value, to);
        await LedgerStore.Post(w, Postings.InvoiceIssued(w.Today, number, id, draft.Value.CustomerId, draft.Value.Lines.Select(l => l.Revenue).ToList()));
        foreach (var load in loads)
        {
            await LoadWrites.Settle(w.Db, load.LoadId);
        }

        await w.Db.Run("select find_invoice(@id)", ("id", id));
        var invoice = (await BillingStore.Invoice(w.Db, id))!;
        var business = (await Business.Read(w.Db))!;
        var pdf = await InvoicePdf.WithPapers(w.Db, business, customer!, id);
        var mail = await letters.Send(
            w, to!, $"Invoice {number} from {business.Name}",
            $"""
            {customer!.Name},

            here is our invoice {number} over {invoice.Total.Said} for load {string.Join(", ", invoice.Loads)}, due {invoice.DueOn:ddd d MMM uuuu}.
            The papers are behind it.

            {business.Name}, {business.Phone}
            """,
            [new MailFile($"{number}.pdf", "application/pdf", pdf)], loads[0].LoadId);
        await BillingStore.SetMail(w.Db, id, mail);
        foreach (var load in loads)
        {
            await Events.Add(w, "invoice.issued", "invoice", id, $"Invoice {number} over {invoice.Total.Said} to {customer.Name}, due {invoice.DueOn:d MMM}", loadId: load.LoadId);
        }

        return invoice;
    }

    /// <summary>Takes an invoice back that nothing was paid on: reversed in the books, its loads ready to bill again, its mail held back if it has not gone.</summary>
    public static async Task<Outcome<InvoiceRow>> Void(Work w, long invoiceId)
    {
        var loads = await BillingStore.LoadsOf(w.Db, invoiceId);
        await BillingStore.Billable(w, loads);
        if (await BillingStore.Invoice(w.Db, invoiceId, locked: true) is not { } invoice)
        {
            return new Problem("not.found", "This invoice is not here.");
        }

        if (invoice.VoidedAt is not null)
        {
            return new Problem("invoice.void", $"Invoice {invoice.Number} is void already.");
        }

        if (invoice.Paid.Amount > 0)
        {
            return new Problem("invoice.paid", $"{invoice.Paid.Said} was paid on invoice {invoice.Number}: take the payment back first.");
        }

        await BillingStore.Void(w, invoiceId);
        await LedgerStore.Reverse(w, EntrySource.Invoice, invoiceId, EntrySource.InvoiceVoid, $"Invoice {invoice.Number} void");
        var held = await w.Db.One<long>("select coalesce(mail_id, 0) from invoices where id = @id", ("id", invoiceId)) is var mail and > 0 && await MailStore.HoldBack(w, mail);
        foreach (var load in loads)
        {
            await LoadWrites.Settle(w.Db, load);
            await Events.Add(w, "invoice.void", "invoice", invoiceId, $"Invoice {invoice.Number} taken back" + (held ? "; the mail was held back" : ""), loadId: load);
        }

        await w.Db.Run("select find_invoice(@id)", ("id", invoiceId));
        return (await BillingStore.Invoice(w.Db, invoiceId))!;
    }

    public static async Task<Outcome<PaymentRow>> Receive(Work w, PaymentRequest request)
    {
        var checks = new Checks();
        var reference = checks.Text(request.Reference, "reference", "The reference", 80);
        checks.Date(request.ReceivedOn, w.Today, "receivedOn", "The date received", required: false);
        if (request.ReceivedOn > w.Today)
        {
            checks.Add("date.future", "Money that came in has a date up to today.", "receivedOn");
        }

        if (request.Method is null || !Methods.Contains(request.Method))
        {
            checks.Add("missing", $"Say how it came: {string.Join(", ", Methods)}.", "method");
        }

        if (request.Amount is null)
        {
            checks.Add("missing", "The amount received is missing.", "amount");
        }
        else if (request.Amount.Value.Currency != Currency.USD || request.Applications?.Any(a => a?.Amount is { Currency: not Currency.USD }) == true)
        {
            checks.Add("currency", "Payments are kept in US dollars.", "amount");
        }

        var customer = request.CustomerId is { } c ? await CompanyStore.Get(w.Db, c) : null;
        if (customer?.IsCustomer != true)
        {
            checks.Add("missing", "Choose the customer who paid.", "customerId");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var on = request.ReceivedOn ?? w.Today;
        var open = await BillingStore.OpenOf(w, customer!.Id);
        var wanted = request.Applications?.Select(a => new Application(a.InvoiceId, a.Amount ?? Money.Zero())).ToList() ?? CashIn.Spread(request.Amount!.Value, open).Applications;
        var applied = CashIn.Apply(customer.Id, request.Amount!.Value, wanted, open.ToDictionary(i => i.InvoiceId));
        if (!applied.Ok)
        {
            return applied.Problems.ToList();
        }

        var id = await BillingStore.AddPayment(w, customer.Id, on, request.Method!, reference, applied.Value);
        await LedgerStore.Post(w, Postings.PaymentReceived(on, $"{request.Method} {reference}".TrimEnd() + $" from {customer.Name}", id, customer.Id, applied.Value.Amount, applied.Value.Applied));
        await Touch(w, applied.Value.Applications.Select(a => a.InvoiceId));
        await LoadCommands.LiftCredit(w, customer);
        await Events.Add(w, "payment.received", "payment", id, $"{request.Amount.Value.Said} received from {customer.Name}, {applied.Value.Applied.Said} applied");
        return (await BillingStore.Payment(w.Db, id))!;
    }

    /// <summary>Takes a payment back that was entered by mistake or bounced: reversed in the books, its invoices open again.</summary>
    public static async Task<Outcome<PaymentRow>> Reverse(Work w, long paymentId)
    {
        await w.Db.Run("select 1 from payments where id = @id for update", ("id", paymentId));
        if (await BillingStore.Payment(w.Db, paymentId) is not { } payment)
        {
            return new Problem("not.found", "This payment is not here.");
        }

        if (payment.ReversedAt is not null)
        {
            return new Problem("payment.reversed", "This payment was taken back already.");
        }

        var invoices = await BillingStore.ReversePayment(w, paymentId);
        await LedgerStore.Reverse(w, EntrySource.Payment, paymentId, EntrySource.PaymentReversal, $"Payment from {payment.Customer} taken back");
        await Touch(w, invoices);
        await Events.Add(w, "payment.reversed", "payment", paymentId, $"{payment.Amount.Said} from {payment.Customer} taken back");
        return (await BillingStore.Payment(w.Db, paymentId))!;
    }

    /// <summary>Payments move loads between billed and closed, and change what is found.</summary>
    private static async Task Touch(Work w, IEnumerable<long> invoices)
    {
        foreach (var invoice in invoices)
        {
            foreach (var load in await BillingStore.LoadsOf(w.Db, invoice))
            {
                await LoadWrites.Settle(w.Db, load);
            }

            await w.Db.Run("select find_invoice(@id)", ("id", invoice));
        }
    }
}
