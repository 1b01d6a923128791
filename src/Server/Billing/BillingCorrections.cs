using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Paying;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Billing;

/// <param name="Amount">All that is open when omitted.</param>
/// <param name="Kind">Why, which decides the account.</param>
public sealed record WriteOffRequest(Money? Amount, ShortPayReason? Kind, string? Reason);

/// <param name="Amount">The whole unapplied credit when omitted.</param>
public sealed record RefundRequest(Money? Amount, LocalDate? PaidOn, string? Method, string? Reference, string? Reason);

/// <param name="Charge">For a billing error: the charge that was wrong; line haul when omitted.</param>
/// <param name="Send">Whether it is emailed to the recipient of the invoice.</param>
public sealed record CreditMemoRequest(
    Money? Amount,
    CreditReason? Reason,
    string? Why,
    LocalDate? IssuedOn = null,
    ChargeKind? Charge = null,
    bool Send = true
);

public sealed record AddedChargesRequest(IReadOnlyList<FlatChargeOrder>? Charges);

/// <summary>What is corrected on a customer's account without new money from them: write-offs, credit memos, late charges and refunds.</summary>
public static class BillingCorrections
{
    public static void MapBillingCorrections(this RouteGroupBuilder api)
    {
        api.MapPost("/invoices/{id:long}/write-off", (long id, WriteOffRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, new { id, request }, w => WriteOff(w, id, request))
            )
            .Needs(Right.BillingReceive)
            .WithName("writeOffInvoice");

        api.MapPost("/write-offs/{id:long}/reverse", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => ReverseWriteOff(w, id))
            )
            .Needs(Right.BillingReceive)
            .WithName("reverseWriteOff");

        api.MapPost(
                "/invoices/{id:long}/credit-memos",
                (long id, CreditMemoRequest request, HttpContext http, Commands commands, Mailer mailer) =>
                    commands.Money(http, new { id, request }, w => AddCreditMemo(w, mailer, id, request))
            )
            .Needs(Right.BillingReceive)
            .WithName("addCreditMemo");

        api.MapGet("/payments/{id:long}/credit-memo", async Task<IResult> (long id, CallerReads reads, HttpContext http) =>
            {
                await using var db = await reads.Open();
                if (await BillingStore.Payment(db, id) is not { Memo: { } memo } payment)
                {
                    return Answers.NotFound("This credit memo");
                }

                http.Response.Headers.ContentDisposition = $"inline; filename=\"{payment.Reference}.pdf\"";
                return TypedResults.Bytes(await MemoPdf(db, payment, memo), "application/pdf");
            })
            .Needs(Right.BillingSee)
            .WithName("getCreditMemo");

        api.MapPost("/loads/{id:long}/charges", (long id, AddedChargesRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, new { id, request }, w => AddCharges(w, id, request, late: false))
            )
            .Needs(Right.LoadsBook)
            .WithName("addCharges");

        api.MapPost("/loads/{id:long}/late-charges", (long id, AddedChargesRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, new { id, request }, w => AddCharges(w, id, request, late: true))
            )
            .Needs(Right.BillingInvoice)
            .WithName("addLateCharges");

        api.MapPost("/payments/{id:long}/refund", (long id, RefundRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, new { id, request }, w => Refund(w, id, request))
            )
            .Needs(Right.PayingPay)
            .WithName("refundPayment");

        api.MapPost("/refunds/{id:long}/reverse", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => ReverseRefund(w, id))
            )
            .Needs(Right.PayingPay)
            .WithName("reverseRefund");
    }

    /// <summary>Writes off what is open of an invoice, or a part of it, without a payment.</summary>
    public static async Task<Outcome<InvoiceRow>> WriteOff(CommandContext w, long invoiceId, WriteOffRequest request)
    {
        if (await BillingStore.Invoice(w.Db, invoiceId, locked: true) is not { } invoice)
        {
            return Problem.Missing("This invoice");
        }

        var checkedOff = invoice.State.WriteOff(request.Amount, request.Kind, request.Reason);
        if (!checkedOff.Ok)
        {
            return checkedOff.Problems;
        }

        var (amount, kind, reason) = checkedOff.Value;
        var on = await OpenItemStore.FirstDay(w, Accounts.Receivable, invoiceId, w.Today, amount);
        var tax = await CorrectionStore.TaxWithin(w.Db, invoice, amount, kind.ReducesPrice());
        var id = await CorrectionStore.AddWriteOff(w, invoiceId, on, amount, tax, kind, reason);
        await PostWriteOff(w, on, EntrySource.InvoiceWriteOff, id, invoice, amount, tax, kind, reason);
        await BillingCommands.Touch(w, [invoiceId]);
        await LoadCommands.ReleaseCredit(w, (await CompanyStore.Get(w.Db, invoice.CustomerId))!);
        w.Record(
            EventKinds.InvoiceWrittenOff,
            invoiceId,
            $"{amount.Formatted} of invoice {invoice.Number} written off, {kind.Format().ToLowerInvariant()}: {reason}"
        );
        return (await BillingStore.Invoice(w.Db, invoiceId))!;
    }

    /// <summary>Posts a write-off, each load of the invoice bearing its share.</summary>
    internal static async Task PostWriteOff(
        CommandContext w,
        LocalDate on,
        EntrySource source,
        long sourceId,
        InvoiceRow invoice,
        Money amount,
        Money tax,
        ShortPayReason kind,
        string reason
    )
    {
        var loads = await CorrectionStore.LoadsOf(w.Db, invoice.Id);
        await LedgerStore.Post(
            w,
            Postings.WrittenOff(on, source, sourceId, invoice.Number, invoice.Id, invoice.CustomerId, amount, kind, reason, loads, tax)
        );
    }

    /// <summary>Reverses a write-off: the amount is open again.</summary>
    public static async Task<Outcome<InvoiceRow>> ReverseWriteOff(CommandContext w, long id)
    {
        if (await CorrectionStore.ReverseWriteOff(w, id) is not { } off)
        {
            return new Problem("not.found", "This write-off was not found, or it was already reversed.");
        }

        var invoice = (await BillingStore.Invoice(w.Db, off.InvoiceId, locked: true))!;
        await LedgerStore.Reverse(
            w,
            EntrySource.InvoiceWriteOff,
            id,
            EntrySource.InvoiceWriteOff,
            $"Write-off on {invoice.Number} reversed"
        );
        await BillingCommands.Touch(w, [off.InvoiceId]);
        w.Record(
            EventKinds.InvoiceWriteOffReversed,
            off.InvoiceId,
            $"Write-off of {off.Amount.Formatted} on invoice {invoice.Number} reversed"
        );
        return (await BillingStore.Invoice(w.Db, off.InvoiceId))!;
    }

    /// <summary>Credits a customer for an invoice: what is open of it is reduced, the rest is the customer's credit.</summary>
    public static async Task<Outcome<PaymentRow>> AddCreditMemo(CommandContext w, Mailer mailer, long invoiceId, CreditMemoRequest request)
    {
        if (await BillingStore.Invoice(w.Db, invoiceId, locked: true) is not { } invoice)
        {
            return Problem.Missing("This invoice");
        }

        var decided = CreditMemo.Decide(
            new CreditMemoOrder(request.Amount, request.Reason, request.Why, request.IssuedOn, request.Charge),
            invoice.State,
            invoice.Creditable,
            w.Today
        );
        if (!decided.Ok)
        {
            return decided.Problems;
        }

        var memo = decided.Value;
        var postedOn = await LedgerStore.PostingDay(w, memo.IssuedOn);
        var tax = await CorrectionStore.TaxWithin(w.Db, invoice, memo.Amount, memo.Reason.ReducesPrice());
        var (id, number) = await CorrectionStore.AddMemo(w, invoiceId, invoice.CustomerId, postedOn, memo, tax);
        var loads = await CorrectionStore.LoadsOf(w.Db, invoiceId);
        await LedgerStore.Post(w, Postings.Credited(postedOn, number, id, invoice.Number, invoice.CustomerId, memo, loads, tax));
        if (memo.Applied.Amount > 0)
        {
            var posted = await BillingCommands.Apply(
                w,
                id,
                new AppliedPayment(memo.Amount, [new Application(invoiceId, memo.Applied)]),
                postedOn
            );
            await LedgerStore.Post(w, Postings.CreditUsed(number, id, invoice.CustomerId, posted));
        }

        await BillingCommands.Touch(w, [invoiceId]);
        await LoadCommands.ReleaseCredit(w, (await CompanyStore.Get(w.Db, invoice.CustomerId))!);
        var row = (await BillingStore.Payment(w.Db, id))!;
        if (request.Send && invoice.MailedTo is { } to)
        {
            var business = (await Business.ReadForPrint(w.Db))!;
            await mailer.Send(
                w,
                MailPurpose.Invoice,
                to,
                $"Credit memo {number} for invoice {invoice.Number}",
                $"""
                {invoice.Customer},

                We credited {memo.Amount.Formatted} to your account for invoice {invoice.Number}: {memo.Why}. The credit memo is attached.

                {business.Name}
                {business.Phone}
                """,
                [new MailFile($"{number}.pdf", "application/pdf", await MemoPdf(w.Db, row, row.Memo!))],
                loads[0].LoadId
            );
        }

        foreach (var load in loads)
        {
            w.Record(
                EventKinds.InvoiceCredited,
                invoiceId,
                $"Credit memo {number} of {memo.Amount.Formatted} for invoice {invoice.Number}, {memo.Reason.Format().ToLowerInvariant()}: {memo.Why}",
                loadId: load.LoadId
            );
        }

        return row;
    }

    private static async Task<byte[]> MemoPdf(NpgsqlConnection db, PaymentRow payment, MemoRow memo) =>
        CreditMemoPdf.Of(
            (await Business.ReadForPrint(db))!,
            (await CompanyStore.Get(db, payment.CustomerId))!,
            payment,
            memo,
            await BillingStore.AppliedTo(db, payment.Id)
        );

    /// <summary>Adds charges to a load that is on its way or delivered; or late charges to one that is billed, which an invoice of their
    /// own bills.</summary>
    public static async Task<Outcome<BookedAnswer>> AddCharges(CommandContext w, long loadId, AddedChargesRequest request, bool late)
    {
        if (await LoadWrites.Lock(w.Db, loadId) is null)
        {
            return Problem.Missing("This load");
        }

        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var decided = AddedCharges.Decide(
            sheet.Load.State,
            sheet.Load.Number,
            request.Charges ?? [],
            sheet.Charges.Count,
            w.Today,
            late,
            sheet.Load.Revenue.Currency
        );
        if (!decided.Ok)
        {
            return decided.Problems;
        }

        await LoadWrites.AppendCharges(w, loadId, decided.Value);
        var state = await LoadWrites.Settle(w, loadId);
        w.Record(
            late ? EventKinds.LoadLateCharges : EventKinds.LoadChanged,
            loadId,
            late
                ? $"{sheet.Load.Number}: late charges of {Money.Sum(decided.Value.Select(c => c.Amount)).Formatted} added"
                : $"{sheet.Load.Number}: {string.Join(", ", decided.Value.Select(c => $"{c.Kind.Format().ToLowerInvariant()} {c.Amount.Formatted}"))} added",
            loadId: loadId
        );
        return new BookedAnswer(loadId, sheet.Load.Number, state, []);
    }

    /// <summary>Pays back a customer's unapplied credit.</summary>
    public static async Task<Outcome<PaymentRow>> Refund(CommandContext w, long paymentId, RefundRequest request)
    {
        if (await BillingStore.Payment(w.Db, paymentId, locked: true) is not { } payment)
        {
            return Problem.Missing("This payment");
        }

        var validation = new Validation();
        var amount = payment.State.Refund(request.Amount, validation);
        var reason = validation.Text(request.Reason, "reason", "The reason", 200, required: true);
        var payout = await BillCommands.ReadPayout(
            w,
            new PayoutRequest(request.PaidOn, request.Method, request.Reference),
            validation,
            approvedBy: null
        );
        await BillCommands.CheckLimit(w, SoleMoney.Refund, amount, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var on = await OpenItemStore.FirstDay(w, Accounts.UnappliedReceipts, paymentId, payout.On, amount);
        var id = await CorrectionStore.AddRefund(w, paymentId, payout, on, amount, reason!);
        await LedgerStore.Post(w, Postings.Refunded(on, payment.Customer, id, paymentId, payment.CustomerId, amount));
        w.Record(EventKinds.PaymentRefunded, paymentId, $"{amount.Formatted} refunded to {payment.Customer} by {payout.Method}: {reason}");
        return (await BillingStore.Payment(w.Db, paymentId))!;
    }

    /// <summary>Reverses a refund that was entered by mistake or returned: the amount is the customer's credit again.</summary>
    public static async Task<Outcome<PaymentRow>> ReverseRefund(CommandContext w, long id)
    {
        if (await CorrectionStore.ReverseRefund(w, id) is not { } refund)
        {
            return new Problem("not.found", "This refund was not found, or it was already reversed.");
        }

        var payment = (await BillingStore.Payment(w.Db, refund.PaymentId, locked: true))!;
        await LedgerStore.Reverse(w, EntrySource.Refund, id, EntrySource.Refund, $"Refund to {payment.Customer} reversed");
        w.Record(EventKinds.PaymentRefundReversed, refund.PaymentId, $"Refund of {refund.Amount.Formatted} to {payment.Customer} reversed");
        return payment;
    }
}
