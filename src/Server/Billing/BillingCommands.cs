using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Claims;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Loads;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Billing;

/// <param name="LoadIds">Loads of one customer.</param>
/// <param name="TermsDays">Days to the due date; the customer's own terms when omitted.</param>
/// <param name="MailTo">Email addresses separated by commas; from the customer's billing settings when omitted.</param>
/// <param name="Subject">The email's subject, likewise.</param>
/// <param name="Message">The email's message, likewise.</param>
/// <param name="Documents">Kinds of attachments, likewise.</param>
public sealed record InvoiceRequest(
    IReadOnlyList<long>? LoadIds,
    int? TermsDays,
    string? MailTo,
    string? Subject = null,
    string? Message = null,
    IReadOnlyList<DocumentKind>? Documents = null
);

/// <param name="WriteOff">Written off as short-paid.</param>
/// <param name="Reason">Why it was short-paid.</param>
/// <param name="Kind">Why it is written off, which decides the account; required with a write-off.</param>
public sealed record ApplicationRequest(
    long InvoiceId,
    Money? Amount,
    Money? WriteOff = null,
    string? Reason = null,
    ShortPayReason? Kind = null
);

/// <param name="Applications">Invoices it is applied to; when omitted, the oldest due first.</param>
public sealed record PaymentRequest(
    long? CustomerId,
    LocalDate? ReceivedOn,
    string? Method,
    string? Reference,
    Money? Amount,
    IReadOnlyList<ApplicationRequest>? Applications
);

/// <summary>A payment received, the invoices it is applied to, and its refunds.</summary>
public sealed record PaymentView(PaymentRow Payment, IReadOnlyList<AppliedRow> AppliedTo, IReadOnlyList<RefundRow> Refunds);

/// <summary>The invoices a customer's credit is applied to.</summary>
public sealed record UseCreditRequest(IReadOnlyList<ApplicationRequest>? Applications);

/// <param name="To">Email addresses separated by commas; the previous recipients when omitted.</param>
public sealed record SendAgainRequest(string? To, string? Message);

public sealed record ReturnToDispatchRequest(string? Why);

/// <summary>A preview of the email that goes with an invoice.</summary>
/// <param name="Total">Of the invoice, <paramref name="Taxes"/> included.</param>
public sealed record InvoiceMail(
    string To,
    string Subject,
    string Message,
    bool OneFile,
    IReadOnlyList<DocumentKind> Documents,
    int TermsDays,
    IReadOnlyList<InvoiceTax> Taxes,
    Money Total
);

/// <param name="LoadIds">Loads ready to bill, of any customers.</param>
/// <param name="Together">Whether a customer's loads go on one invoice; by each customer's settings when omitted.</param>
public sealed record BillingRunRequest(IReadOnlyList<long>? LoadIds, bool? Together);

/// <summary>Invoices and customer payments.</summary>
public sealed class BillingCommands(Mailer mailer)
{
    /// <summary>Issues an invoice for loads, posts it, and queues it for email with its documents.</summary>
    public async Task<Outcome<InvoiceRow>> Issue(CommandContext w, InvoiceRequest request)
    {
        var validation = new Validation();
        Terms.Check(request.TermsDays, validation, "termsDays");
        var loads = await BillingStore.Billable(w, request.LoadIds ?? []);
        if (loads.Count != (request.LoadIds ?? []).Distinct().Count())
        {
            validation.Add("unknown", "One of these loads was not found.", "loadIds");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var customer = loads.Count > 0 ? (await CompanyStore.Get(w.Db, loads[0].CustomerId))! : null;
        var draft = await Drafted(w, loads, request.TermsDays ?? customer?.TermsDays);
        if (!draft.Ok)
        {
            return draft.Problems;
        }

        var (settings, _) = await BillingSettingsStore.Of(w.Db, customer!.Id);
        var documents = (request.Documents ?? settings.Documents).Where(BillingSettings.MayGo.Contains).Distinct().ToList();
        var to = Recipients(request.MailTo ?? settings.Recipients ?? customer.Email, "mailTo", customer.Name, validation);
        var subject = validation.Text(request.Subject, "subject", "The subject", 200)
            ?? settings.Subject
            ?? BillingSettings.Default.Subject!;
        var words = validation.Text(request.Message, "message", "The message", 4000)
            ?? settings.Message
            ?? BillingSettings.Default.Message!;
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var postedOn = await LedgerStore.PostingDay(w, draft.Value.IssuedOn);
        var (id, number) = await BillingStore.AddInvoice(w, draft.Value, postedOn, to, documents);
        await LedgerStore.Post(w, Postings.InvoiceIssued(postedOn, number, id, draft.Value.CustomerId, draft.Value.Loads, draft.Value.Tax));
        foreach (var load in loads)
        {
            await LoadWrites.Settle(w, load.LoadId);
        }

        await BillingStore.Find(w.Db, id);
        var invoice = (await BillingStore.Invoice(w.Db, id))!;
        var business = (await Business.ReadForPrint(w.Db))!;
        await BillingStore.KeepSheet(w, id, await InvoicePdf.Render(w.Db, business, customer, id));
        await Mail(w, business, customer, invoice, settings.OneFile, to!, subject, words, loads[0].LoadId);
        if (await ClaimCommands.CreditDecided(w, mailer, id, loads.Where(l => !l.OnInvoice).Select(l => l.LoadId)) is { Any: true } refused)
        {
            return refused;
        }

        foreach (var load in loads)
        {
            w.Record(
                EventKinds.InvoiceIssued,
                id,
                $"Invoice {number} for {invoice.Total.Formatted} to {customer.Name}, due {invoice.DueOn:MMM d}",
                loadId: load.LoadId
            );
        }

        return (await BillingStore.Invoice(w.Db, id))!;
    }

    /// <summary>The email and attachments of an invoice before it is issued.</summary>
    public static async Task<Outcome<InvoiceMail>> Prepare(CommandContext w, InvoiceRequest request)
    {
        var drafted = await Draft(w, request);
        if (!drafted.Ok)
        {
            return drafted.Problems;
        }

        var customer = drafted.Value.Customer;
        var (settings, _) = await BillingSettingsStore.Of(w.Db, customer.Id);
        return new InvoiceMail(
            settings.Recipients ?? customer.Email ?? "",
            settings.Subject ?? BillingSettings.Default.Subject!,
            settings.Message ?? BillingSettings.Default.Message!,
            settings.OneFile,
            settings.Documents,
            customer.TermsDays,
            drafted.Value.Draft.Taxes,
            drafted.Value.Draft.Total
        );
    }

    /// <summary>An invoice preview.</summary>
    public static async Task<Outcome<(CompanyRow Customer, InvoiceDraft Draft)>> Draft(CommandContext w, InvoiceRequest request)
    {
        var validation = new Validation();
        Terms.Check(request.TermsDays, validation, "termsDays");
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var loads = await BillingStore.Billable(w, request.LoadIds ?? []);
        var customer = loads.Count > 0 ? (await CompanyStore.Get(w.Db, loads[0].CustomerId))! : null;
        return (await Drafted(w, loads, request.TermsDays ?? customer?.TermsDays)).Then(d => (customer!, d));
    }

    /// <summary>The invoice of loads, with tax when we are registered for it.</summary>
    private static async Task<Outcome<InvoiceDraft>> Drafted(CommandContext w, IReadOnlyList<BillableLoad> loads, int? terms) =>
        Invoicing.Draft(loads, terms ?? 30, w.Today, (await Business.Read(w.Db))?.Payment.GstNumber is not null);

    /// <summary>Emails an invoice again as issued, with its current documents.</summary>
    public async Task<Outcome<InvoiceRow>> SendAgain(CommandContext w, long invoiceId, SendAgainRequest request)
    {
        if (await BillingStore.Invoice(w.Db, invoiceId, locked: true) is not { } invoice)
        {
            return NotHere;
        }

        var customer = (await CompanyStore.Get(w.Db, invoice.CustomerId))!;
        var (settings, _) = await BillingSettingsStore.Of(w.Db, customer.Id);
        var validation = new Validation();
        var to = Recipients(request.To ?? invoice.MailedTo ?? customer.Email, "to", customer.Name, validation);
        var words = validation.Text(request.Message, "message", "The message", 4000)
            ?? settings.Message
            ?? BillingSettings.Default.Message!;
        if (invoice.State.ResendRefusal is { } isVoid)
        {
            validation.AddRange([isVoid]);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await Mail(
            w,
            (await Business.ReadForPrint(w.Db))!,
            customer,
            invoice,
            settings.OneFile,
            to!,
            settings.Subject ?? BillingSettings.Default.Subject!,
            words,
            (await BillingStore.LoadsOf(w.Db, invoiceId))[0]
        );
        w.Record(EventKinds.InvoiceSentAgain, invoiceId, $"Invoice {invoice.Number} resent to {to}");
        return (await BillingStore.Invoice(w.Db, invoiceId))!;
    }

    private async Task Mail(
        CommandContext w,
        Business business,
        CompanyRow customer,
        InvoiceRow invoice,
        bool oneFile,
        string to,
        string subject,
        string words,
        long loadId
    )
    {
        var loads = await LoadReads.ByIds(w.Db, await BillingStore.LoadsOf(w.Db, invoice.Id));
        var names = new Dictionary<string, string>
        {
            ["invoice"] = invoice.Number,
            ["total"] = invoice.Total.Formatted,
            ["due"] = $"{invoice.DueOn:ddd MMM d, uuuu}",
            ["loads"] = string.Join(", ", invoice.Loads),
            ["customer"] = customer.Name,
            ["references"] = string.Join(", ", loads.Select(l => l.Reference).OfType<string>().Distinct()),
            ["business"] = business.Name,
            ["phone"] = business.Phone,
        };
        var mail = await mailer.Send(
            w,
            MailPurpose.Invoice,
            to,
            MailTemplate.Fill(subject, names).ReplaceLineEndings(" "),
            MailTemplate.Fill(words, names),
            await InvoicePdf.Files(w.Db, business, customer, invoice.Id, invoice.Number, oneFile),
            loadId
        );
        await BillingStore.SetMail(w.Db, invoice.Id, mail);
    }

    /// <summary>Valid email addresses separated by commas, or null with what is wrong.</summary>
    internal static string? Recipients(string? text, string field, string customer, Validation validation)
    {
        var addresses = MailTemplate.Addresses(validation.Text(text, field, "The email address", 400));
        foreach (var wrong in addresses.Where(a => !Eml.IsAddress(a)))
        {
            validation.Add("mail.address", $"{wrong} is not an email address. Use the form name@company.example.", field);
        }

        if (addresses.Count == 0)
        {
            validation.Add("mail.address", $"{customer} has no valid email address: enter one here or on the customer.", field);
        }

        return validation.Ok ? string.Join(", ", addresses) : null;
    }

    private static Problem NotHere => Problem.Missing("This invoice");

    /// <summary>Starts a billing run for ready loads; each invoice is made on its own, and failures are reported.</summary>
    public static async Task<Outcome<RunView>> Run(CommandContext w, BillingRunRequest request)
    {
        var ids = (request.LoadIds ?? []).Distinct().ToList();
        if (ids.Count is 0 or > BillingRun.MaxLoads)
        {
            return new Problem("missing", $"Choose 1 to {BillingRun.MaxLoads} loads to bill.", "loadIds");
        }

        var loads = await BillingStore.Billable(w, ids);
        if (loads.Count != ids.Count)
        {
            return new Problem("unknown", "One of these loads was not found.", "loadIds");
        }

        var waiting = (await BillingRunStore.Waiting(w.Db)).ToHashSet();
        if (loads.FirstOrDefault(l => waiting.Contains(l.LoadId)) is { } twice)
        {
            return new Problem("run.waiting", $"Load {twice.Number} is being billed right now.", "loadIds");
        }

        var options = await BillingSettingsStore.Together(w.Db);
        var parts = BillingRun.Parts(loads.Select(l => (l.LoadId, l.CustomerId)), c => request.Together ?? options.Contains(c));
        var id = await BillingRunStore.Add(w, parts);
        w.Record(EventKinds.BillingRunStarted, id, $"Creating {parts.Count} invoices for {loads.Count} loads");
        return (await BillingRunStore.Get(w.Db, id))!;
    }

    /// <summary>Returns a load to dispatch to be corrected.</summary>
    public static async Task<Outcome<BookedAnswer>> ReturnToDispatch(CommandContext w, long loadId, ReturnToDispatchRequest request)
    {
        var validation = new Validation();
        var why = validation.Text(request.Why, "why", "The reason", 400, required: true);
        var load = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        if (load.Work().ReturnRefusal is { } refused)
        {
            validation.AddRange([refused]);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await HoldStore.Place(w, loadId, HoldKind.Billing, $"Returned to dispatch by {w.Actor.Name}: {why}");
        var state = await LoadWrites.Settle(w, loadId);
        w.Record(EventKinds.LoadReturned, loadId, $"{load.Number} returned to dispatch: {why}", loadId: loadId);
        return new BookedAnswer(loadId, load.Number, state, []);
    }

    /// <summary>Resolves a return: the load can be billed.</summary>
    public static async Task<Outcome<BookedAnswer>> ResolveReturn(CommandContext w, long loadId, ReturnToDispatchRequest request)
    {
        var validation = new Validation();
        var why = validation.Text(request.Why, "why", "The resolution", 400, required: true);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var load = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        if (!await HoldStore.Release(w, loadId, HoldKind.Billing, why!, passed: true))
        {
            return new Problem("hold.none", $"Load {load.Number} is not returned to dispatch.");
        }

        var state = await LoadWrites.Settle(w, loadId);
        w.Record(EventKinds.LoadReturnResolved, loadId, $"{load.Number} resolved: {why}", loadId: loadId);
        return new BookedAnswer(loadId, load.Number, state, []);
    }

    /// <summary>Voids an invoice without payments: reversed in the ledger, its loads ready to bill again, its email held back if not sent
    /// yet; otherwise its recipient is notified.</summary>
    public async Task<Outcome<InvoiceRow>> Void(CommandContext w, long invoiceId)
    {
        var loads = await BillingStore.LoadsOf(w.Db, invoiceId);
        await BillingStore.Billable(w, loads);
        if (await BillingStore.Invoice(w.Db, invoiceId, locked: true) is not { } invoice)
        {
            return NotHere;
        }

        if (invoice.State.VoidRefusal is { } refused)
        {
            return refused;
        }

        await BillingStore.Void(w, invoiceId);
        await LedgerStore.Reverse(w, EntrySource.Invoice, invoiceId, EntrySource.InvoiceVoid, $"Invoice {invoice.Number} void");
        var held = await BillingStore.HoldBackMail(w, invoiceId);
        if (invoice is { MailSentAt: not null, MailedTo: { } to })
        {
            var business = (await Business.ReadForPrint(w.Db))!;
            await mailer.Send(w, MailPurpose.Invoice, to, $"Invoice {invoice.Number} is void", VoidNotice(invoice, business), [], loads[0]);
        }

        if (loads.Count == 0)
        {
            w.Record(EventKinds.InvoiceVoid, invoiceId, $"Invoice {invoice.Number}, an opening balance, voided");
        }

        foreach (var load in loads)
        {
            await LoadWrites.Settle(w, load);
            w.Record(
                EventKinds.InvoiceVoid,
                invoiceId,
                $"Invoice {invoice.Number} voided"
                    + (
                        held ? "; the email was stopped before it went out"
                        : invoice.MailSentAt is not null ? $"; {invoice.MailedTo} was notified"
                        : ""
                    ),
                loadId: load
            );
        }

        await BillingStore.Find(w.Db, invoiceId);
        return (await BillingStore.Invoice(w.Db, invoiceId))!;
    }

    private static string VoidNotice(InvoiceRow invoice, Business business) =>
        $"""
            {invoice.Customer},

            Invoice {invoice.Number} of {invoice.IssuedOn:MMM d, uuuu} for {invoice.Total.Formatted} is void: please do not pay it. If its loads are billed again, you will receive a new invoice.

            {business.Name}
            {business.Phone}
            """;

    public static async Task<Outcome<PaymentRow>> Receive(CommandContext w, PaymentRequest request)
    {
        var validation = new Validation();
        var reference = validation.Text(request.Reference, "reference", "The reference", 80);
        PaymentState.Check(request.Method, request.ReceivedOn, w.Today, validation);
        var customer = request.CustomerId is { } c ? await CompanyStore.Get(w.Db, c) : null;
        validation.Dollars(request.Amount, "amount", "The amount received", currency: customer?.Currency);
        if (customer?.IsCustomer != true)
        {
            validation.Add("missing", "Choose the customer who paid.", "customerId");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var on = request.ReceivedOn ?? w.Today;
        var open = await BillingStore.OpenOf(w, customer!.Id);
        var wanted = Wanted(request.Applications) ?? PaymentApplication.Spread(request.Amount!.Value, open).Applications;
        var applied = PaymentApplication.Apply(customer.Id, request.Amount!.Value, wanted, open.ToDictionary(i => i.InvoiceId));
        if (!applied.Ok)
        {
            return applied.Problems;
        }

        var postedOn = await LedgerStore.PostingDay(w, on);
        var id = await BillingStore.AddPayment(w, customer.Id, on, postedOn, request.Method!, reference, applied.Value.Amount);
        var label = PaymentState.Label(request.Method!, reference, customer.Name);
        var posted = await Apply(w, id, applied.Value, postedOn);
        await LedgerStore.Post(w, Postings.PaymentReceived(postedOn, label, id, customer.Id, applied.Value.Amount, posted));
        await Touch(w, applied.Value.Applications.Select(a => a.InvoiceId));
        await LoadCommands.ReleaseCredit(w, customer);
        w.Record(
            EventKinds.PaymentReceived,
            id,
            $"{request.Amount.Value.Formatted} received from {customer.Name}, {applied.Value.Applied.Formatted} applied"
                + (applied.Value.WriteOff.Amount > 0 ? $", {applied.Value.WriteOff.Formatted} written off" : "")
        );
        return (await BillingStore.Payment(w.Db, id))!;
    }

    /// <summary>Applies a payment's unapplied credit to invoices.</summary>
    public static async Task<Outcome<PaymentRow>> UseCredit(CommandContext w, long paymentId, UseCreditRequest request)
    {
        if (await BillingStore.Payment(w.Db, paymentId, locked: true) is not { } payment)
        {
            return Problem.Missing("This payment");
        }

        if (payment.State.UseCreditRefusal is { } refused)
        {
            return refused;
        }

        var open = await BillingStore.OpenOf(w, payment.CustomerId);
        var applied = PaymentApplication.Apply(
            payment.CustomerId,
            payment.Unapplied,
            Wanted(request.Applications) ?? PaymentApplication.Spread(payment.Unapplied, open).Applications,
            open.ToDictionary(i => i.InvoiceId)
        );
        if (!applied.Ok)
        {
            return applied.Problems;
        }

        if (applied.Value.Applications.Count == 0)
        {
            return new Problem("credit.nowhere", $"{payment.Customer} has no open invoices to apply the credit to.");
        }

        var posted = await Apply(w, paymentId, applied.Value, w.Today);
        var label = PaymentState.Label(payment.Method, payment.Reference, payment.Customer);
        await LedgerStore.Post(w, Postings.CreditUsed(label, paymentId, payment.CustomerId, posted));
        await Touch(w, applied.Value.Applications.Select(a => a.InvoiceId));
        await LoadCommands.ReleaseCredit(w, (await CompanyStore.Get(w.Db, payment.CustomerId))!);
        w.Record(EventKinds.PaymentCreditUsed, paymentId, $"{applied.Value.Applied.Formatted} of {payment.Customer}'s credit applied");
        return (await BillingStore.Payment(w.Db, paymentId))!;
    }

    private static List<Application>? Wanted(IReadOnlyList<ApplicationRequest>? applications) =>
        applications
            ?.Select(a => new Application(a?.InvoiceId ?? 0, a?.Amount ?? Money.Zero(), a?.WriteOff ?? Money.Zero(), a?.Reason, a?.Kind))
            .ToList();

    /// <summary>Stores applications and posts their write-offs, each on the first day on which its invoice has that much open.</summary>
    /// <param name="from">The payment's day, or today for a credit.</param>
    internal static async Task<List<PostedApplication>> Apply(CommandContext w, long paymentId, AppliedPayment payment, LocalDate from)
    {
        var moves = await OpenItemStore.Moves(w.Db, Accounts.Receivable, payment.Applications.Select(a => a.InvoiceId));
        var applied = new List<(Application Application, LocalDate On, Money Tax, InvoiceRow? Shorted)>();
        foreach (var a in payment.Applications)
        {
            var on = OpenItems.FirstDay(moves[a.InvoiceId], from, (a.Amount + a.WriteOff).Amount);
            var shorted = a.WriteOff.Amount > 0 ? await BillingStore.Invoice(w.Db, a.InvoiceId) : null;
            var tax = shorted is null
                ? Money.Zero(a.Amount.Currency)
                : await CorrectionStore.TaxWithin(w.Db, shorted, a.WriteOff, a.Kind!.Value.ReducesPrice());
            applied.Add((a, on, tax, shorted));
        }

        await BillingStore.Apply(w, paymentId, applied.Select(a => (a.Application, a.On, a.Tax)));
        foreach (var (a, on, tax, shorted) in applied)
        {
            if (shorted is not null)
            {
                await BillingCorrections.PostWriteOff(
                    w,
                    on,
                    EntrySource.WriteOff,
                    paymentId,
                    shorted,
                    a.WriteOff,
                    tax,
                    a.Kind!.Value,
                    a.Reason!
                );
            }
        }

        return applied.Select(a => new PostedApplication(a.Application.InvoiceId, a.Application.Amount, a.On)).ToList();
    }

    /// <summary>Reverses a payment that was entered by mistake or bounced: reversed in the ledger, its invoices open again.</summary>
    public static async Task<Outcome<PaymentRow>> Reverse(CommandContext w, long paymentId)
    {
        if (await BillingStore.Payment(w.Db, paymentId, locked: true) is not { } payment)
        {
            return Problem.Missing("This payment");
        }

        if (payment.State.ReverseRefusal is { } refused)
        {
            return refused;
        }

        var what = payment.Memo is null
            ? $"Payment from {payment.Customer}"
            : PaymentState.Label(payment.Method, payment.Reference, payment.Customer);
        var invoices = await BillingStore.ReversePayment(w, paymentId);
        foreach (
            var (source, reversal) in new[]
            {
                (EntrySource.Payment, EntrySource.PaymentReversal),
                (EntrySource.CreditMemo, EntrySource.CreditMemo),
                (EntrySource.CreditUse, EntrySource.CreditUse),
                (EntrySource.WriteOff, EntrySource.WriteOff),
            }
        )
        {
            await LedgerStore.Reverse(w, source, paymentId, reversal, $"{what} reversed");
        }

        await Touch(w, invoices);
        w.Record(EventKinds.PaymentReversed, paymentId, $"{what} of {payment.Amount.Formatted} reversed");
        return (await BillingStore.Payment(w.Db, paymentId))!;
    }

    /// <summary>Payments change load states between billed and closed, and the search index.</summary>
    internal static async Task Touch(CommandContext w, IEnumerable<long> invoices)
    {
        foreach (var invoice in invoices)
        {
            foreach (var load in await BillingStore.LoadsOf(w.Db, invoice))
            {
                await LoadWrites.Settle(w, load);
            }

            await BillingStore.Find(w.Db, invoice);
        }
    }
}
