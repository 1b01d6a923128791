using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Paying;

/// <param name="Amount">In cash; all that is open, less a quick-pay discount, when omitted.</param>
public sealed record BillPaymentRequest(long BillId, Money? Amount);

/// <param name="Reference">The first check number, or a reference that all payments share.</param>
/// <param name="Advise">Whether each payee is emailed a remittance advice, if an address is known.</param>
public sealed record VendorPaymentRequest(
    IReadOnlyList<BillPaymentRequest>? Bills,
    LocalDate? PaidOn,
    string? Method,
    string? Reference = null,
    bool Advise = true
);

/// <summary>The payments made together: one for each payee.</summary>
public sealed record PaymentBatchView(long Id, IReadOnlyList<VendorPaymentRow> Payments);

/// <summary>Pays vendors: several bills with one check or ACH credit, or a bill in parts.</summary>
public sealed class VendorPaymentCommands(Mailer mailer)
{
    public async Task<Outcome<PaymentBatchView>> Pay(CommandContext w, VendorPaymentRequest request)
    {
        var validation = new Validation();
        var payout = Payout.Check(request.PaidOn, request.Method, request.Reference, w.Today, validation);
        var chosen = (request.Bills ?? []).Select(b => new BillChoice(b.BillId, b.Amount)).ToList();
        var bills = await VendorPaymentStore.ToPay(w.Db, chosen.Take(PaymentBatch.MaxBills).Select(c => c.BillId), locked: true);
        var planned = PaymentBatch.Plan(chosen, bills, payout, w.Actor.UserId, (await Business.Read(w.Db))!.TwoPeople);
        validation.AddRange(planned.Problems);
        foreach (var payment in planned.Ok ? planned.Value : [])
        {
            if (w.Actor.UserId is { } payer && await CompanyStore.AddedBy(w.Db, payment.VendorId) == payer)
            {
                await BillCommands.CheckLimit(w, SoleMoney.OwnVendor, payment.Amount, validation);
            }
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var batch = await VendorPaymentStore.AddBatch(w, payout);
        foreach (var payment in planned.Value)
        {
            var (id, paid) = await Add(w, batch, payment, payout);
            if (request.Advise)
            {
                await Advise(w, id, payment, payout with { Reference = payment.Reference }, paid);
            }
        }

        return new PaymentBatchView(batch, await VendorPaymentStore.OfBatch(w.Db, batch));
    }

    /// <summary>Reverses a payment that was entered by mistake or returned: its bills are open again.</summary>
    public async Task<Outcome<VendorPaymentRow>> Reverse(CommandContext w, long id)
    {
        if (await VendorPaymentStore.Get(w.Db, id, locked: true) is not { } payment)
        {
            return Problem.Missing("This payment");
        }

        if (payment.State.ReverseRefusal is { } refused)
        {
            return refused;
        }

        await VendorPaymentStore.Reverse(w, id);
        if (await VendorPaymentStore.HoldBackAdvice(w, id) is { } told)
        {
            var us = (await Business.Read(w.Db))!;
            await mailer.Send(
                w,
                MailPurpose.RemittanceAdvice,
                told,
                $"Payment of {payment.PaidOn:MMM d, uuuu} reversed",
                $"{payment.Payee},\n\nOur payment of {payment.Amount.Formatted} on {payment.PaidOn:ddd MMM d, uuuu}, which we advised, was reversed. The bills it paid are open again.\n\n{us.Name}, {us.Phone}",
                [],
                null
            );
        }

        var numbers = Numbers(payment.Bills.Select(b => b.Number));
        await LedgerStore.Reverse(
            w,
            EntrySource.BillPayment,
            id,
            EntrySource.BillPayment,
            $"Payment of {numbers} to {payment.Payee} reversed"
        );
        foreach (var bill in payment.Bills)
        {
            w.Record(
                EventKinds.BillPaymentReversed,
                bill.BillId,
                $"Payment of bill {bill.Number} to {payment.Payee} reversed",
                loadId: bill.LoadId,
                before: payment
            );
            await BillCommands.Settle(w, bill.LoadId);
        }

        return (await VendorPaymentStore.Get(w.Db, id))!;
    }

    private static async Task<(long Id, IReadOnlyList<(PaidBill Part, BillRow Bill)> Bills)> Add(
        CommandContext w,
        long batch,
        VendorPayment payment,
        Payout payout
    )
    {
        var on = await LedgerStore.PostingDay(w, payout.On);
        var bills = new List<(PaidBill Part, BillRow Bill)>();
        foreach (var part in payment.Bills)
        {
            bills.Add((part, (await BillStore.Get(w.Db, part.BillId))!));
            on = LocalDate.Max(on, await OpenItemStore.FirstDay(w, Accounts.Payable, part.BillId, payout.On, part.Settled));
        }

        var id = await VendorPaymentStore.Add(w, batch, payment, payout, on);
        var parts = new List<(PaidBill, Dimensions)>();
        foreach (var (part, bill) in bills)
        {
            parts.Add((part, await BillCommands.Of(w, bill)));
        }

        await LedgerStore.Post(w, Postings.VendorPaid(on, payment.Payee, Numbers(bills.Select(b => b.Bill.Number)), id, parts));
        foreach (var (part, bill) in bills)
        {
            var discount = part.Discount.Amount > 0 ? $", less {part.Discount.Formatted} for quick pay" : "";
            var rest = bill.Approved!.Value - bill.Paid - part.Settled;
            w.Record(
                EventKinds.BillPaid,
                bill.Id,
                $"Bill {bill.Number} from {bill.Vendor} paid, {part.Amount.Formatted} by {PaymentMethods.Format(payout.Method)}{discount}"
                    + (rest.Amount > 0 ? $"; {rest.Formatted} still open" : ""),
                loadId: bill.LoadId
            );
            await BillCommands.Settle(w, bill.LoadId);
        }

        return (id, bills);
    }

    /// <summary>Emails the payee which bills a payment pays; nothing without an address.</summary>
    private async Task Advise(
        CommandContext w,
        long id,
        VendorPayment payment,
        Payout payout,
        IReadOnlyList<(PaidBill Part, BillRow Bill)> bills
    )
    {
        if (await RemitToStore.AdviceTo(w.Db, payment.VendorId) is not { } to || !Eml.IsAddress(to))
        {
            return;
        }

        var us = (await Business.Read(w.Db))!;
        var besides = await VendorPaymentStore.Besides(w.Db, id);
        var advised = bills
            .Select(b => new AdvisedBill(
                b.Bill.Number,
                b.Bill.BilledOn,
                b.Bill.LoadNumber,
                b.Bill.Amount,
                RemittanceAdvice.Before(b.Bill.Amount, b.Bill.Approved!.Value, besides[b.Bill.Id]),
                b.Part.Discount,
                b.Part.Amount
            ))
            .ToList();
        var mail = await mailer.Send(
            w,
            MailPurpose.RemittanceAdvice,
            to,
            $"Remittance advice from {us.Name}, {payout.On:MMM d, uuuu}",
            RemittanceAdvice.Text(bills[0].Bill.Vendor, payment.Payee, payout, advised, us.Name, us.Phone),
            [],
            null
        );
        await VendorPaymentStore.SetMail(w.Db, id, mail);
    }

    private static string Numbers(IEnumerable<string> numbers)
    {
        var all = numbers.ToList();
        return all.Count == 1
            ? $"bill {all[0]}"
            : $"bills {string.Join(", ", all.Take(4))}" + (all.Count > 4 ? $" and {all.Count - 4} more" : "");
    }
}
