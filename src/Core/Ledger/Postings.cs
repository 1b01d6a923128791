using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Pricing;
using static SteadyLark.Core.Ledger.Entry;

namespace SteadyLark.Core.Ledger;

/// <summary>A part of a payment applied to an invoice, on the day it posts.</summary>
public sealed record PostedApplication(long InvoiceId, Money Amount, LocalDate On);

/// <summary>The posting rules, in one place.</summary>
public static class Postings
{
    /// <summary>A delivered load's revenue and carrier costs, or their change: what should be recognized less what is.</summary>
    /// <param name="lines">From <see cref="Accruals.Change"/>.</param>
    public static Entry Accrued(LocalDate on, string number, long loadId, IReadOnlyList<EntryLine> lines) =>
        Of(on, $"Load {number} delivered", EntrySource.Accrual, loadId, lines);

    /// <summary>Invoice: the unbilled revenue of its loads becomes a receivable.</summary>
    /// <param name="loads">Each load with its total.</param>
    public static Entry InvoiceIssued(
        LocalDate on,
        string number,
        long invoiceId,
        long customerId,
        IReadOnlyList<(long LoadId, Money Total)> loads
    )
    {
        var customer = new Dimensions(CustomerId: customerId);
        return Of(
            on,
            $"Invoice {number}",
            EntrySource.Invoice,
            invoiceId,
            loads
                .Select(l => Credit(Accounts.Unbilled, l.Total, customer with { LoadId = l.LoadId }, l.LoadId))
                .Prepend(Debit(Accounts.Receivable, Money.Sum(loads.Select(l => l.Total)), customer, invoiceId))
        );
    }

    /// <summary>
    /// Payment received: what is applied reduces the receivables of its invoices, the rest is the customer's unapplied credit. What is
    /// applied on a later day than the payment's is credit until then.
    /// </summary>
    /// <param name="applied">Each with its day, on or after <paramref name="on"/>.</param>
    /// <returns>One entry for the payment, and one for each later day.</returns>
    public static IReadOnlyList<Entry> PaymentReceived(
        LocalDate on,
        string reference,
        long paymentId,
        long customerId,
        Money amount,
        IReadOnlyList<PostedApplication> applied
    )
    {
        var customer = new Dimensions(CustomerId: customerId);
        var now = applied.Where(a => a.On == on).ToList();
        return
        [
            Of(
                on,
                $"Received {reference}".TrimEnd(),
                EntrySource.Payment,
                paymentId,
                [
                    Debit(Accounts.Bank, amount, customer),
                    .. now.Select(a => Credit(Accounts.Receivable, a.Amount, customer, a.InvoiceId)),
                    Credit(Accounts.UnappliedReceipts, amount - Money.Sum(now.Select(a => a.Amount)), customer, paymentId),
                ]
            ),
            .. CreditUsed(reference, paymentId, customerId, applied.Where(a => a.On != on)),
        ];
    }

    /// <summary>A customer's credit is applied to invoices: one entry for each day.</summary>
    public static IReadOnlyList<Entry> CreditUsed(string reference, long paymentId, long customerId, IEnumerable<PostedApplication> applied)
    {
        var customer = new Dimensions(CustomerId: customerId);
        return applied
            .Where(a => a.Amount.Amount > 0)
            .GroupBy(a => a.On)
            .OrderBy(day => day.Key)
            .Select(day =>
                Of(
                    day.Key,
                    $"Credit of {reference} applied",
                    EntrySource.CreditUse,
                    paymentId,
                    [
                        Debit(Accounts.UnappliedReceipts, Money.Sum(day.Select(a => a.Amount)), customer, paymentId),
                        .. day.Select(a => Credit(Accounts.Receivable, a.Amount, customer, a.InvoiceId)),
                    ]
                )
            )
            .ToList();
    }

    /// <summary>
    /// What a customer does not pay of an invoice, by its reason: a concession or a claim reduces revenue, an uncollectible amount is a
    /// credit loss (FASB ASC 326-20-35-8).
    /// </summary>
    /// <param name="source">A short pay's with the payment's key, or that of a write-off without a payment with its own.</param>
    /// <param name="loads">The invoice's loads with their totals: each bears its share.</param>
    public static Entry WrittenOff(
        LocalDate on,
        EntrySource source,
        long sourceId,
        string invoice,
        long invoiceId,
        long customerId,
        Money amount,
        ShortPayReason kind,
        string reason,
        IReadOnlyList<(long LoadId, Money Total)> loads
    )
    {
        var customer = new Dimensions(CustomerId: customerId);
        var shares = amount.Split(loads.Select(l => l.Total.Amount).ToList());
        return Of(
            on,
            $"{kind.Format()} on {invoice}: {reason}",
            source,
            sourceId,
            [
                .. loads.Select((l, i) => Debit(WriteOffAccount(kind), shares[i], customer with { LoadId = l.LoadId })),
                Credit(Accounts.Receivable, amount, customer, invoiceId),
            ]
        );
    }

    /// <summary>A customer's unapplied credit is paid back.</summary>
    public static Entry Refunded(LocalDate on, string customer, long refundId, long paymentId, long customerId, Money amount)
    {
        var of = new Dimensions(CustomerId: customerId);
        return Of(
            on,
            $"Refunded to {customer}",
            EntrySource.Refund,
            refundId,
            [Debit(Accounts.UnappliedReceipts, amount, of, paymentId), Credit(Accounts.Bank, amount, of)]
        );
    }

    /// <summary>A bill is a payable from its date, approved or not; what a carrier bills above the agreed amount is not, until it is
    /// approved.</summary>
    /// <param name="lines">The accepted amount.</param>
    /// <param name="of">The vendor of the bill.</param>
    public static Entry BillReceived(
        LocalDate on,
        string vendor,
        string number,
        long billId,
        IReadOnlyList<BillLine> lines,
        Dimensions of
    ) =>
        Of(
            on,
            $"Bill {number} from {vendor}",
            EntrySource.Bill,
            billId,
            [
                .. lines.Select(l => new EntryLine(l.Account, l.Amount.Amount, 0, For(l, of))),
                Credit(Accounts.Payable, Money.Sum(lines.Select(l => l.Amount)), of, billId),
            ]
        );

    /// <summary>Approved for less than billed: the difference is not owed.</summary>
    public static Entry BillReduced(LocalDate on, string vendor, string number, long billId, IReadOnlyList<BillLine> less, Dimensions of) =>
        Of(
            on,
            $"Bill {number} from {vendor} reduced on approval",
            EntrySource.BillReduction,
            billId,
            [
                Debit(Accounts.Payable, Money.Sum(less.Select(l => l.Amount)), of, billId),
                .. less.Select(l => new EntryLine(l.Account, 0, l.Amount.Amount, For(l, of))),
            ]
        );

    /// <summary>Approved for more than agreed: what was disputed is owed, too.</summary>
    public static Entry BillIncreased(
        LocalDate on,
        string vendor,
        string number,
        long billId,
        IReadOnlyList<BillLine> more,
        Dimensions of
    ) =>
        Of(
            on,
            $"Bill {number} from {vendor} approved above the agreed amount",
            EntrySource.BillIncrease,
            billId,
            [
                .. more.Select(l => new EntryLine(l.Account, l.Amount.Amount, 0, For(l, of))),
                Credit(Accounts.Payable, Money.Sum(more.Select(l => l.Amount)), of, billId),
            ]
        );

    public static Entry BillPaid(LocalDate on, string vendor, string number, long billId, Money amount, Dimensions of) =>
        Of(
            on,
            $"Paid bill {number} from {vendor}",
            EntrySource.BillPayment,
            billId,
            [Debit(Accounts.Payable, amount, of, billId), Credit(Accounts.Bank, amount, of)]
        );

    /// <summary>An expense already paid: no payable in between.</summary>
    public static Entry Spent(LocalDate on, string vendor, string number, long billId, IReadOnlyList<BillLine> lines, Dimensions of) =>
        Of(
            on,
            $"Expense at {vendor}, {number}",
            EntrySource.Expense,
            billId,
            [
                .. lines.Select(l => new EntryLine(l.Account, l.Amount.Amount, 0, For(l, of))),
                Credit(Accounts.Bank, Money.Sum(lines.Select(l => l.Amount)), of),
            ]
        );

    /// <summary>An advance to a driver is a receivable until a settlement deducts it.</summary>
    public static Entry AdvanceIssued(LocalDate on, string driver, long advanceId, long driverId, Money amount) =>
        Of(
            on,
            $"Advance to {driver}",
            EntrySource.Advance,
            advanceId,
            [
                Debit(Accounts.DriverAdvances, amount, new Dimensions(DriverId: driverId), advanceId),
                Credit(Accounts.Bank, amount, new Dimensions(DriverId: driverId)),
            ]
        );

    /// <summary>
    /// A driver settlement is approved: wages by load and truck, per diem and reimbursements, less deductions, each to its account. A
    /// shortfall becomes a receivable like an advance; the rest is owed to the driver.
    /// </summary>
    /// <param name="carriedAdvanceId">The advance that a shortfall becomes; null without one.</param>
    public static Entry SettlementApproved(
        LocalDate on,
        string driver,
        long settlementId,
        long driverId,
        SettlementStatement week,
        long? carriedAdvanceId
    )
    {
        var driverOnly = new Dimensions(DriverId: driverId);
        return Of(
            on,
            $"{driver}, week of {week.Monday:MMM d}",
            EntrySource.Settlement,
            settlementId,
            [
                .. week.Lines.Select(l =>
                    Debit(
                        l.Kind == PayKind.PerDay ? Accounts.DriverPerDiem : Accounts.DriverWages,
                        l.Amount,
                        driverOnly with
                        {
                            LoadId = l.LoadId,
                            TruckId = l.TruckId,
                        }
                    )
                ),
                .. week.Reimbursements.Select(r => new EntryLine(r.Account, r.Amount.Amount, 0, driverOnly with { LoadId = r.LoadId })),
                .. week.Deductions.Select(d => new EntryLine(d.Account, 0, d.Amount.Amount, driverOnly, d.AdvanceId)),
                Debit(Accounts.DriverAdvances, week.CarriedOver, driverOnly, carriedAdvanceId),
                Credit(Accounts.WagesPayable, week.Net, driverOnly, settlementId),
            ]
        );
    }

    public static Entry SettlementPaid(LocalDate on, string driver, long settlementId, long driverId, Money net) =>
        Of(
            on,
            $"Paid {driver}",
            EntrySource.SettlementPayment,
            settlementId,
            [
                Debit(Accounts.WagesPayable, net, new Dimensions(DriverId: driverId), settlementId),
                Credit(Accounts.Bank, net, new Dimensions(DriverId: driverId)),
            ]
        );

    /// <summary>Wages for days of a month whose settlements post after it: an expense on its last day, taken back on the first of the next,
    /// where the settlement counts.</summary>
    /// <param name="month">Its first day.</param>
    /// <param name="earned">Each driver with an amount above zero.</param>
    /// <returns>Both entries; none when nobody earned anything.</returns>
    public static IReadOnlyList<Entry> WagesAccrued(LocalDate month, IReadOnlyList<(long DriverId, Money Earned)> earned)
    {
        if (earned.Count == 0)
        {
            return [];
        }

        var accrued = Of(
            month.With(DateAdjusters.EndOfMonth),
            $"Wages accrued for {month:MMMM uuuu}",
            EntrySource.WageAccrual,
            WageAccrual.Key(month),
            [
                .. earned.Select(e => Debit(Accounts.DriverWages, e.Earned, new Dimensions(DriverId: e.DriverId))),
                .. earned.Select(e => Credit(Accounts.AccruedWages, e.Earned, new Dimensions(DriverId: e.DriverId))),
            ]
        );
        return [accrued, accrued.Reversed(month.PlusMonths(1), $"Wages accrued for {month:MMMM uuuu}, reversed", EntrySource.WageAccrual)];
    }

    /// <summary>The opening balance.</summary>
    public static Entry Opening(LocalDate on, Money bank) =>
        Of(on, "Opening balance", EntrySource.Opening, 0, [Debit(Accounts.Bank, bank), Credit(Accounts.OwnersEquity, bank)]);

    public static Account RevenueAccount(ChargeKind kind) =>
        kind switch
        {
            ChargeKind.LineHaul => Accounts.LineHaul,
            ChargeKind.FuelSurcharge => Accounts.FuelSurcharge,
            _ => Accounts.Accessorials,
        };

    private static Account WriteOffAccount(ShortPayReason kind) =>
        kind switch
        {
            ShortPayReason.Concession => Accounts.Concessions,
            ShortPayReason.Claim => Accounts.ClaimsAllowed,
            _ => Accounts.CreditLoss,
        };

    private static Dimensions For(BillLine line, Dimensions of) =>
        of with
        {
            LoadId = line.LoadId,
            TruckId = line.TruckId,
            DriverId = line.DriverId,
        };
}
