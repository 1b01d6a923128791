using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Papers;
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
/// <param name="MailTo">Mail addresses with commas between; by the customer's way of being billed when left out.</param>
/// <param name="Subject">The mail's subject, likewise.</param>
/// <param name="Words">The mail's words, likewise.</param>
/// <param name="Papers">Kinds of papers that go along, likewise.</param>
public sealed record InvoiceRequest(IReadOnlyList<long>? LoadIds, int? TermsDays, string? MailTo, string? Subject = null, string? Words = null, IReadOnlyList<PaperKind>? Papers = null);

/// <param name="LetGo">What was paid short on it and is not asked for any more.</param>
/// <param name="Reason">Why it was paid short.</param>
public sealed record ApplicationRequest(long InvoiceId, Money? Amount, Money? LetGo = null, string? Reason = null);

/// <param name="Applications">Where it goes; when left out, to the oldest due first.</param>
public sealed record PaymentRequest(long? CustomerId, LocalDate? ReceivedOn, string? Method, string? Reference, Money? Amount, IReadOnlyList<ApplicationRequest>? Applications);

/// <summary>Money that came in, and the invoices it went to.</summary>
public sealed record PaymentView(PaymentRow Payment, IReadOnlyList<AppliedRow> AppliedTo);

/// <summary>To which invoices a customer's credit goes.</summary>
public sealed record UseCreditRequest(IReadOnlyList<ApplicationRequest>? Applications);

/// <param name="To">Mail addresses with commas between; where it went before when left out.</param>
public sealed record SendAgainRequest(string? To, string? Words);

public sealed record HandBackRequest(string? Why);

/// <summary>What a customer gets before it is asked for money: the mail in its words.</summary>
public sealed record InvoiceMail(string To, string Subject, string Words, bool OneFile, IReadOnlyList<PaperKind> Papers, int TermsDays);

/// <param name="LoadIds">Loads that are ready, of any customers.</param>
/// <param name="Together">Whether a customer's loads come onto one invoice; as each customer wants it when left out.</param>
public sealed record BillingRunRequest(IReadOnlyList<long>? LoadIds, bool? Together);

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

        var (way, _) = await BillingWayStore.Of(w.Db, customer!.Id);
        var papers = (request.Papers ?? way.Papers).Where(BillingWay.MayGo.Contains).Distinct().ToList();
        var to = Recipients(request.MailTo ?? way.Recipients ?? customer.Email, "mailTo", customer.Name, checks);
        var subject = checks.Text(request.Subject, "subject", "The subject", 200) ?? way.Subject ?? BillingWay.Usual.Subject!;
        var words = checks.Text(request.Words, "words", "The words", 4000) ?? way.Words ?? BillingWay.Usual.Words!;
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var (id, number) = await BillingStore.AddInvoice(w, draft.Value, to, papers);
        await LedgerStore.Post(w, Postings.InvoiceIssued(w.Today, number, id, draft.Value.CustomerId, draft.Value.Lines.Select(l => l.Revenue).ToList()));
        foreach (var load in loads)
        {
            await LoadWrites.Settle(w.Db, load.LoadId);
        }

        await w.Db.Run("select find_invoice(@id)", ("id", id));
        var invoice = (await BillingStore.Invoice(w.Db, id))!;
        var business = (await Business.Read(w.Db))!;
        await BillingStore.KeepSheet(w, id, await InvoicePdf.Draw(w.Db, business, customer, id));
        await Mail(w, business, customer, invoice, way.OneFile, to!, subject, words, loads[0].LoadId);
        foreach (var load in loads)
        {
            await Events.Add(w, "invoice.issued", "invoice", id, $"Invoice {number} over {invoice.Total.Said} to {customer.Name}, due {invoice.DueOn:d MMM}", loadId: load.LoadId);
        }

        return invoice;
    }

    /// <summary>How an invoice's mail would read and what would go with it, before it is issued.</summary>
    public static async Task<Outcome<InvoiceMail>> Prepare(Work w, InvoiceRequest request)
    {
        var drafted = await Draft(w, request);
        if (!drafted.Ok)
        {
            return drafted.Problems.ToList();
        }

        var customer = drafted.Value.Customer;
        var (way, _) = await BillingWayStore.Of(w.Db, customer.Id);
        return new InvoiceMail(way.Recipients ?? customer.Email ?? "", way.Subject ?? BillingWay.Usual.Subject!, way.Words ?? BillingWay.Usual.Words!, way.OneFile, way.Papers, customer.TermsDays);
    }

    /// <summary>An invoice as it would be, not issued.</summary>
    public static async Task<Outcome<(CompanyRow Customer, InvoiceDraft Draft)>> Draft(Work w, InvoiceRequest request)
    {
        var checks = new Checks();
        Terms.Check(request.TermsDays, checks, "termsDays");
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var loads = await BillingStore.Billable(w, request.LoadIds ?? []);
        var customer = loads.Count > 0 ? (await CompanyStore.Get(w.Db, loads[0].CustomerId))! : null;
        return Invoicing.Draft(loads, request.TermsDays ?? customer?.TermsDays ?? 30, w.Today).Then(d => (customer!, d));
    }

    /// <summary>Sends an invoice once more as it went out, with its papers as they are now.</summary>
    public async Task<Outcome<InvoiceRow>> SendAgain(Work w, long invoiceId, SendAgainRequest request)
    {
        if (await BillingStore.Invoice(w.Db, invoiceId, locked: true) is not { } invoice)
        {
            return NotHere;
        }

        var customer = (await CompanyStore.Get(w.Db, invoice.CustomerId))!;
        var (way, _) = await BillingWayStore.Of(w.Db, customer.Id);
        var checks = new Checks();
        var to = Recipients(request.To ?? invoice.MailedTo ?? customer.Email, "to", customer.Name, checks);
        var words = checks.Text(request.Words, "words", "The words", 4000) ?? way.Words ?? BillingWay.Usual.Words!;
        if (invoice.VoidedAt is not null)
        {
            checks.Add("invoice.void", $"Invoice {invoice.Number} is void: bill its loads again.");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        await Mail(w, (await Business.Read(w.Db))!, customer, invoice, way.OneFile, to!, way.Subject ?? BillingWay.Usual.Subject!, words, (await BillingStore.LoadsOf(w.Db, invoiceId))[0]);
        await Events.Add(w, "invoice.sent_again", "invoice", invoiceId, $"Invoice {invoice.Number} sent again to {to}");
        return (await BillingStore.Invoice(w.Db, invoiceId))!;
    }

    private async Task Mail(Work w, Business business, CompanyRow customer, InvoiceRow invoice, bool oneFile, string to, string subject, string words, long loadId)
    {
        var loads = await LoadReads.ByIds(w.Db, await BillingStore.LoadsOf(w.Db, invoice.Id));
        var names = new Dictionary<string, string>
        {
            ["invoice"] = invoice.Number,
            ["total"] = invoice.Total.Said,
            ["due"] = $"{invoice.DueOn:ddd d MMM uuuu}",
            ["loads"] = string.Join(", ", invoice.Loads),
            ["customer"] = customer.Name,
            ["references"] = string.Join(", ", loads.Select(l => l.Reference).OfType<string>().Distinct()),
            ["business"] = business.Name,
            ["phone"] = business.Phone,
        };
        var mail = await letters.Send(w, to, Letter.Fill(subject, names).ReplaceLineEndings(" "), Letter.Fill(words, names), await InvoicePdf.Files(w.Db, business, customer, invoice.Id, invoice.Number, oneFile), loadId);
        await BillingStore.SetMail(w.Db, invoice.Id, mail);
    }

    /// <summary>Usable mail addresses with commas between, or null with what is wrong.</summary>
    internal static string? Recipients(string? text, string field, string customer, Checks checks)
    {
        var addresses = Letter.Addresses(checks.Text(text, field, "The mail address", 400));
        foreach (var wrong in addresses.Where(a => !Eml.IsAddress(a)))
        {
            checks.Add("mail.address", $"{wrong} is no mail address: it looks like name@company.example.", field);
        }

        if (addresses.Count == 0)
        {
            checks.Add("mail.address", $"{customer} has no usable mail address: write one here or on its sheet.", field);
        }

        return checks.Ok ? string.Join(", ", addresses) : null;
    }

    private static Problem NotHere => new("not.found", "This invoice is not here.");

    /// <summary>Begins a run over loads that are ready; each invoice of it is made by itself, and what fails is told.</summary>
    public static async Task<Outcome<RunView>> Run(Work w, BillingRunRequest request)
    {
        var ids = (request.LoadIds ?? []).Distinct().ToList();
        if (ids.Count is 0 or > BillingRun.MostLoads)
        {
            return new Problem("missing", $"Choose between one and {BillingRun.MostLoads} loads to bill.", "loadIds");
        }

        var loads = await BillingStore.Billable(w, ids);
        if (loads.Count != ids.Count)
        {
            return new Problem("unknown", "One of these loads is not here.", "loadIds");
        }

        var waiting = (await BillingRunStore.Waiting(w.Db)).ToHashSet();
        if (loads.FirstOrDefault(l => waiting.Contains(l.LoadId)) is { } twice)
        {
            return new Problem("run.waiting", $"Load {twice.Number} is being billed at this moment.", "loadIds");
        }

        var wish = await BillingWayStore.Together(w.Db);
        var parts = BillingRun.Parts(loads.Select(l => (l.LoadId, l.CustomerId)), c => request.Together ?? wish.Contains(c));
        var id = await BillingRunStore.Add(w, parts);
        await Events.Add(w, "billing_run.began", "billing_run", id, $"{parts.Count} invoices over {loads.Count} loads are being made");
        return (await BillingRunStore.Get(w.Db, id))!;
    }

    /// <summary>Gives a load back to operations, which puts right what is wrong with it.</summary>
    public static async Task<Outcome<BookedAnswer>> HandBack(Work w, long loadId, HandBackRequest request)
    {
        var checks = new Checks();
        var why = checks.Text(request.Why, "why", "What is wrong", 400, required: true);
        var load = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        if (load.State != Core.Loads.LoadState.Delivered)
        {
            checks.Add("load.not.delivered", $"Load {load.Number} is {load.State.ToString().ToLowerInvariant()}: only a delivered load that is not billed is handed back.");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        await HoldStore.Place(w, loadId, Core.Loads.HoldKind.Billing, $"Handed back by {w.Actor.Name}: {why}");
        var state = await LoadWrites.Settle(w.Db, loadId);
        await Events.Add(w, "load.handed_back", "load", loadId, $"{load.Number} handed back to operations: {why}", loadId: loadId);
        return new BookedAnswer(loadId, load.Number, state, []);
    }

    /// <summary>Operations say that it is put right: the load may be billed.</summary>
    public static async Task<Outcome<BookedAnswer>> PutRight(Work w, long loadId, HandBackRequest request)
    {
        var checks = new Checks();
        var why = checks.Text(request.Why, "why", "What was done", 400, required: true);
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var load = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        if (!await HoldStore.Lift(w, loadId, Core.Loads.HoldKind.Billing, why!, passed: true))
        {
            return new Problem("hold.none", $"Load {load.Number} is not handed back.");
        }

        var state = await LoadWrites.Settle(w.Db, loadId);
        await Events.Add(w, "load.put_right", "load", loadId, $"{load.Number} put right: {why}", loadId: loadId);
        return new BookedAnswer(loadId, load.Number, state, []);
    }

    /// <summary>Takes an invoice back that nothing was paid on: reversed in the books, its loads ready to bill again, its mail held back if it has not gone.</summary>
    public static async Task<Outcome<InvoiceRow>> Void(Work w, long invoiceId)
    {
        var loads = await BillingStore.LoadsOf(w.Db, invoiceId);
        await BillingStore.Billable(w, loads);
        if (await BillingStore.Invoice(w.Db, invoiceId, locked: true) is not { } invoice)
        {
            return NotHere;
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
        else if (request.Amount.Value.Currency != Currency.USD || !InDollars(request.Applications))
        {
            checks.Add("currency", "Payments are kept in US dollars.", "amount");
        }

        await LedgerStore.CheckOpen(w.Db, request.ReceivedOn ?? w.Today, checks, "receivedOn");

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
        var wanted = Wanted(request.Applications) ?? CashIn.Spread(request.Amount!.Value, open).Applications;
        var applied = CashIn.Apply(customer.Id, request.Amount!.Value, wanted, open.ToDictionary(i => i.InvoiceId));
        if (!applied.Ok)
        {
            return applied.Problems.ToList();
        }

        var id = await BillingStore.AddPayment(w, customer.Id, on, request.Method!, reference, applied.Value);
        await LedgerStore.Post(w, Postings.PaymentReceived(on, $"{request.Method} {reference}".TrimEnd() + $" from {customer.Name}", id, customer.Id, applied.Value.Amount, applied.Value.Applied, applied.Value.LetGo));
        await Touch(w, applied.Value.Applications.Select(a => a.InvoiceId));
        await LoadCommands.LiftCredit(w, customer);
        await Events.Add(w, "payment.received", "payment", id, $"{request.Amount.Value.Said} received from {customer.Name}, {applied.Value.Applied.Said} applied" + (applied.Value.LetGo.Amount > 0 ? $", {applied.Value.LetGo.Said} let go" : ""));
        return (await BillingStore.Payment(w.Db, id))!;
    }

    /// <summary>Puts what is left of a payment, the customer's credit, to its invoices.</summary>
    public static async Task<Outcome<PaymentRow>> UseCredit(Work w, long paymentId, UseCreditRequest request)
    {
        await w.Db.Run("select 1 from payments where id = @id for update", ("id", paymentId));
        if (await BillingStore.Payment(w.Db, paymentId) is not { } payment)
        {
            return new Problem("not.found", "This payment is not here.");
        }

        if (payment.Unapplied.Amount <= 0)
        {
            return new Problem("credit.none", "Nothing is left over of this payment.");
        }

        var open = await BillingStore.OpenOf(w, payment.CustomerId);
        if (!InDollars(request.Applications))
        {
            return new Problem("currency", "Payments are kept in US dollars.", "applications");
        }

        var applied = CashIn.Apply(payment.CustomerId, payment.Unapplied, Wanted(request.Applications) ?? CashIn.Spread(payment.Unapplied, open).Applications, open.ToDictionary(i => i.InvoiceId));
        if (!applied.Ok)
        {
            return applied.Problems.ToList();
        }

        if (applied.Value.Applications.Count == 0)
        {
            return new Problem("credit.nowhere", $"{payment.Customer} owes nothing: the credit stays.");
        }

        await BillingStore.Apply(w, paymentId, applied.Value);
        await LedgerStore.Post(w, Postings.CreditUsed(w.Today, payment.Customer, paymentId, payment.CustomerId, applied.Value.Applied, applied.Value.LetGo));
        await Touch(w, applied.Value.Applications.Select(a => a.InvoiceId));
        await LoadCommands.LiftCredit(w, (await CompanyStore.Get(w.Db, payment.CustomerId))!);
        await Events.Add(w, "payment.credit_used", "payment", paymentId, $"{applied.Value.Applied.Said} of {payment.Customer}'s credit used");
        return (await BillingStore.Payment(w.Db, paymentId))!;
    }

    private static List<Application>? Wanted(IReadOnlyList<ApplicationRequest>? applications) =>
        applications?.Select(a => new Application(a?.InvoiceId ?? 0, a?.Amount ?? Money.Zero(), a?.LetGo ?? Money.Zero(), a?.Reason)).ToList();

    private static bool InDollars(IReadOnlyList<ApplicationRequest>? applications) =>
        applications?.Any(a => a?.Amount is { Currency: not Currency.USD } || a?.LetGo is { Currency: not Currency.USD }) != true;

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
        await LedgerStore.Reverse(w, EntrySource.CreditUse, paymentId, EntrySource.CreditUse, $"Payment from {payment.Customer} taken back");
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
