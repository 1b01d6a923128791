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

    /// <summary>What was open when the books begin here, as a document of its own against account 3900.</summary>
    /// <param name="id">The document's key.</param>
    public static Entry Opening(LocalDate on, OpeningItem item, long id)
    {
        var (source, of, account) = item.Kind switch
        {
            OpeningKind.Invoice => (EntrySource.Invoice, new Dimensions(CustomerId: item.PartyId), Accounts.Receivable),
            OpeningKind.Bill => (
                EntrySource.Bill,
                item.IsCarrier ? new Dimensions(CarrierId: item.PartyId) : new Dimensions(VendorId: item.PartyId),
                Accounts.Payable
            ),
            OpeningKind.Advance => (EntrySource.Advance, new Dimensions(DriverId: item.PartyId), Accounts.DriverAdvances),
            _ => (EntrySource.Payment, new Dimensions(CustomerId: item.PartyId), Accounts.UnappliedReceipts),
        };
        var owed = item.Kind is OpeningKind.Invoice or OpeningKind.Advance;
        return Of(
            on,
            $"Opening balance, {item.Kind.ToString().ToLowerInvariant()} {item.Number} of {item.Party}".Replace(
                "  ",
                " ",
                StringComparison.Ordinal
            ),
            source,
            id,
            owed
                ? [Debit(account, item.Amount, of, id), Credit(Accounts.OpeningBalances, item.Amount, of)]
                : [Debit(Accounts.OpeningBalances, item.Amount, of), Credit(account, item.Amount, of, id)]
        );
    }

    /// <summary>Shares of an amount by load; all of it without a load for an invoice from before the books began here.</summary>
    private static IEnumerable<(Dimensions Of, Money Amount)> ByLoad(
        Money amount,
        IReadOnlyList<(long LoadId, Money Total)> loads,
        Dimensions customer
    ) =>
        loads.Count == 0
            ? [(customer, amount)]
            : amount
                .Split(loads.Select(l => l.Total.Amount).ToList())
                .Zip(loads, (share, l) => (customer with { LoadId = l.LoadId }, share));

    /// <summary>Invoice: the unbilled revenue of its loads becomes a receivable, and with it the tax that we pay over.</summary>
    /// <param name="loads">Each load with its charges.</param>
    public static Entry InvoiceIssued(
        LocalDate on,
        string number,
        long invoiceId,
        long customerId,
        IReadOnlyList<(long LoadId, Money Total)> loads,
        Money tax = default
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
                .Prepend(Debit(Accounts.Receivable, Money.Sum(loads.Select(l => l.Total)) + tax, customer, invoiceId))
                .Append(Credit(Accounts.SalesTax, tax, customer))
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
                    Debit(Accounts.BankIn(amount.Currency), amount, customer),
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
    /// <param name="tax">The tax within the amount, which is no longer owed.</param>
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
        IReadOnlyList<(long LoadId, Money Total)> loads,
        Money tax = default
    )
    {
        var customer = new Dimensions(CustomerId: customerId);
        return Of(
            on,
            $"{kind.Format()} on {invoice}: {reason}",
            source,
            sourceId,
            [
                .. ByLoad(amount - tax, loads, customer).Select(s => Debit(WriteOffAccount(kind), s.Amount, s.Of)),
                Debit(Accounts.SalesTax, tax, customer),
                Credit(Accounts.Receivable, amount, customer, invoiceId),
            ]
        );
    }

    /// <summary>A credit memo: revenue is reduced by its reason, and the customer has a credit of that amount, applied or not.</summary>
    /// <param name="paymentId">The payment that stands for the memo.</param>
    /// <param name="loads">The invoice's loads with their totals: each bears its share.</param>
    /// <param name="tax">The tax within the amount, which is no longer owed.</param>
    public static Entry Credited(
        LocalDate on,
        string number,
        long paymentId,
        string invoice,
        long customerId,
        CreditMemo memo,
        IReadOnlyList<(long LoadId, Money Total)> loads,
        Money tax = default
    )
    {
        var customer = new Dimensions(CustomerId: customerId);
        var account = memo.Reason switch
        {
            CreditReason.Concession => Accounts.Concessions,
            CreditReason.Claim => Accounts.ClaimsAllowed,
            _ => RevenueAccount(memo.Charge),
        };
        return Of(
            on,
            $"Credit memo {number} for {invoice}, {memo.Reason.Format().ToLowerInvariant()}: {memo.Why}",
            EntrySource.CreditMemo,
            paymentId,
            [
                .. ByLoad(memo.Amount - tax, loads, customer).Select(s => Debit(account, s.Amount, s.Of)),
                Debit(Accounts.SalesTax, tax, customer),
                Credit(Accounts.UnappliedReceipts, memo.Amount, customer, paymentId),
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
            [Debit(Accounts.UnappliedReceipts, amount, of, paymentId), Credit(Accounts.BankIn(amount.Currency), amount, of)]
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
                .. lines.Select(l => Debit(l.Account, l.Amount, For(l, of))),
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
                .. less.Select(l => Credit(l.Account, l.Amount, For(l, of))),
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
                .. more.Select(l => Debit(l.Account, l.Amount, For(l, of))),
                Credit(Accounts.Payable, Money.Sum(more.Select(l => l.Amount)), of, billId),
            ]
        );

    /// <summary>A vendor is paid for one or more bills; quick-pay discounts reduce what the freight cost.</summary>
    /// <param name="numbers">The bills' numbers, for the memo.</param>
    /// <param name="bills">Each with its dimensions.</param>
    public static Entry VendorPaid(
        LocalDate on,
        string payee,
        string numbers,
        long paymentId,
        IReadOnlyList<(PaidBill Part, Dimensions For)> bills
    ) =>
        Of(
            on,
            $"Paid {payee}, {numbers}",
            EntrySource.BillPayment,
            paymentId,
            [
                .. bills.Select(b => Debit(Accounts.Payable, b.Part.Settled, b.For, b.Part.BillId)),
                .. bills.Select(b => Credit(Accounts.QuickPayDiscounts, b.Part.Discount, b.For)),
                Credit(
                    Accounts.BankIn(bills[0].Part.Amount.Currency),
                    Money.Sum(bills.Select(b => b.Part.Amount)),
                    bills.Count == 1 ? bills[0].For : bills[0].For with { LoadId = null }
                ),
            ]
        );

    /// <summary>A debit memo: what is owed on a bill is reduced without a payment.</summary>
    /// <param name="account">What it reduces or recovers: the account of the bill, or claims recovered.</param>
    public static Entry VendorDebited(
        LocalDate on,
        string vendor,
        string number,
        long paymentId,
        PaidBill part,
        Dimensions of,
        string account,
        string why
    ) =>
        Of(
            on,
            $"Debit memo {number} to {vendor}: {why}",
            EntrySource.BillPayment,
            paymentId,
            [Debit(Accounts.Payable, part.Settled, of, part.BillId), Credit(account, part.Settled, of)]
        );

    /// <summary>A carrier pays for a freight claim.</summary>
    public static Entry ClaimRecovered(LocalDate on, string number, long recoveryId, long carrierId, long loadId, Money amount)
    {
        var of = new Dimensions(LoadId: loadId, CarrierId: carrierId);
        return Of(
            on,
            $"Received for claim {number}",
            EntrySource.ClaimRecovery,
            recoveryId,
            [Debit(Accounts.BankIn(amount.Currency), amount, of), Credit(Accounts.ClaimsRecovered, amount, of)]
        );
    }

    /// <summary>An expense already paid: no payable in between.</summary>
    public static Entry Spent(LocalDate on, string vendor, string number, long billId, IReadOnlyList<BillLine> lines, Dimensions of) =>
        Of(
            on,
            $"Expense at {vendor}, {number}",
            EntrySource.Expense,
            billId,
            [
                .. lines.Select(l => Debit(l.Account, l.Amount, For(l, of))),
                Credit(Accounts.BankIn(lines[0].Amount.Currency), Money.Sum(lines.Select(l => l.Amount)), of),
            ]
        );

    /// <summary>An expense on a trip: owed to the card's issuer, or to the driver who paid it until a settlement reimburses them.</summary>
    /// <param name="lines">From <see cref="Trips.TripExpense.Lines"/>, in US dollars.</param>
    /// <param name="payItemId">The driver's reimbursement; null for a company card.</param>
    public static Entry TripExpense(
        LocalDate on,
        string memo,
        long expenseId,
        string account,
        IReadOnlyList<(Dimensions For, Money Amount)> lines,
        long driverId,
        long? payItemId
    ) =>
        Of(
            on,
            memo,
            EntrySource.TripExpense,
            expenseId,
            [
                .. lines.Select(l => Debit(account, l.Amount, l.For)),
                Credit(
                    payItemId is null ? Accounts.CompanyCards : Accounts.ReimbursementsPayable,
                    Money.Sum(lines.Select(l => l.Amount)),
                    new Dimensions(DriverId: driverId),
                    payItemId
                ),
            ]
        );

    /// <summary>A quarter's interest on owner-operators' escrow, added to it.</summary>
    /// <param name="month">The last month of the quarter.</param>
    public static Entry EscrowInterest(LocalDate month, IReadOnlyList<(long DriverId, Money Amount)> earned) =>
        Of(
            month.With(DateAdjusters.EndOfMonth),
            $"Escrow interest through {month:MMMM uuuu}",
            EntrySource.EscrowInterest,
            WageAccrual.Key(month),
            earned.SelectMany(e =>
                new[]
                {
                    Debit(Accounts.Interest, e.Amount, new Dimensions(DriverId: e.DriverId)),
                    Credit(Accounts.Escrow, e.Amount, new Dimensions(DriverId: e.DriverId)),
                }
            )
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
                Credit(Accounts.BankIn(amount.Currency), amount, new Dimensions(DriverId: driverId)),
            ]
        );

    /// <summary>
    /// A driver settlement is approved: pay by load and truck, per diem and reimbursements, less deductions, each to its account; and an
    /// employee's employer payroll tax. What is carried over becomes a receivable like an advance; the rest is owed to the driver.
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
                        l.Kind == PayKind.PerDay ? Accounts.DriverPerDiem : PayAccount(week.Worker),
                        l.Amount,
                        driverOnly with
                        {
                            LoadId = l.LoadId,
                            TruckId = l.TruckId,
                        }
                    )
                ),
                .. week.Reimbursements.Select(r =>
                    Debit(
                        r.Account,
                        r.Amount,
                        driverOnly with
                        {
                            LoadId = r.LoadId,
                        },
                        Accounts.IsControl.Contains(r.Account) ? r.ItemId : null
                    )
                ),
                .. week.Deductions.Select(d => Credit(d.Account, d.Amount, driverOnly, d.AdvanceId)),
                Debit(Accounts.DriverAdvances, week.CarriedOver, driverOnly, carriedAdvanceId),
                Credit(Accounts.WagesPayable, week.Net, driverOnly, settlementId),
                Debit(Accounts.DriverPayrollTaxes, week.EmployerTax, driverOnly),
                Credit(Accounts.PayrollTaxesPayable, week.EmployerTax, driverOnly),
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
                Credit(Accounts.BankIn(net.Currency), net, new Dimensions(DriverId: driverId)),
            ]
        );

    /// <summary>Wages for days of a month whose settlements post after it: an expense on its last day, taken back on the first of the next,
    /// where the settlement counts.</summary>
    /// <param name="month">Its first day.</param>
    /// <param name="earned">Each driver with an amount above zero.</param>
    /// <returns>Both entries; none when nobody earned anything.</returns>
    public static IReadOnlyList<Entry> WagesAccrued(LocalDate month, IReadOnlyList<(long DriverId, Money Earned)> earned) =>
        AccruedFor(
            month,
            "Wages",
            EntrySource.WageAccrual,
            Accounts.DriverWages,
            Accounts.AccruedWages,
            earned.Select(e => (new Dimensions(DriverId: e.DriverId), e.Earned)).ToList()
        );

    /// <summary>Loan interest that belongs to a month and is paid after it: on its last day, and back on the first of the next.</summary>
    /// <param name="accrued">Of each loan, with its truck.</param>
    public static IReadOnlyList<Entry> InterestAccrued(LocalDate month, IReadOnlyList<(long? TruckId, Money Amount)> accrued) =>
        AccruedFor(
            month,
            "Interest",
            EntrySource.InterestAccrual,
            Accounts.Interest,
            Accounts.AccruedInterest,
            accrued.Select(a => (new Dimensions(TruckId: a.TruckId), a.Amount)).ToList()
        );

    /// <summary>An expense on the last day of a month, and back on the first of the next; nothing without amounts.</summary>
    private static IReadOnlyList<Entry> AccruedFor(
        LocalDate month,
        string what,
        EntrySource source,
        Account expense,
        Account accrued,
        IReadOnlyList<(Dimensions Of, Money Amount)> amounts
    )
    {
        if (amounts.Count == 0)
        {
            return [];
        }

        var memo = $"{what} accrued for {month:MMMM uuuu}";
        var entry = Of(
            month.With(DateAdjusters.EndOfMonth),
            memo,
            source,
            WageAccrual.Key(month),
            [.. amounts.Select(a => Debit(expense, a.Amount, a.Of)), .. amounts.Select(a => Credit(accrued, a.Amount, a.Of))]
        );
        return [entry, entry.Reversed(month.PlusMonths(1), $"{memo}, reversed", source)];
    }

    /// <summary>Equipment is bought, from the bank and by its loan.</summary>
    public static Entry EquipmentBought(LocalDate on, Asset asset, long assetId, long? truckId, Loan? loan)
    {
        var of = new Dimensions(TruckId: truckId);
        var borrowed = loan?.Principal ?? Money.Zero();
        return Of(
            on,
            $"{asset.Name} bought",
            EntrySource.Equipment,
            assetId,
            [
                Debit(Accounts.Equipment, asset.Cost, of),
                Credit(Accounts.EquipmentLoans, borrowed, of),
                Credit(Accounts.Bank, asset.Cost - borrowed, of),
            ]
        );
    }

    /// <summary>A month's depreciation, on its last day.</summary>
    /// <param name="month">Its first day.</param>
    /// <param name="due">Each asset's; below zero for what was too much before. Not all zero.</param>
    public static Entry Depreciated(LocalDate month, IReadOnlyList<(long? TruckId, Money Amount)> due) =>
        Of(
            month.With(DateAdjusters.EndOfMonth),
            $"Depreciation for {month:MMMM uuuu}",
            EntrySource.Depreciation,
            WageAccrual.Key(month),
            due.SelectMany(d => DepreciationLines(d.Amount, new Dimensions(TruckId: d.TruckId)))
        );

    /// <summary>Equipment is sold: its cost and depreciation leave the books, and the difference to the proceeds is a gain or a loss.</summary>
    /// <param name="depreciated">All of it by the day of the sale.</param>
    /// <param name="notPosted">What of that no month has posted yet; below zero when one posted too much.</param>
    public static Entry EquipmentSold(
        LocalDate on,
        Asset asset,
        long assetId,
        long? truckId,
        Money proceeds,
        Money depreciated,
        Money notPosted
    )
    {
        var of = new Dimensions(TruckId: truckId);
        var gain = proceeds - (asset.Cost - depreciated);
        return Of(
            on,
            $"{asset.Name} sold",
            EntrySource.EquipmentSale,
            assetId,
            [
                .. DepreciationLines(notPosted, of),
                Debit(Accounts.Bank, proceeds, of),
                Debit(Accounts.AccumulatedDepreciation, depreciated, of),
                Credit(Accounts.Equipment, asset.Cost, of),
                Signed(Accounts.EquipmentSold.Code, -gain, of),
            ]
        );
    }

    private static IEnumerable<EntryLine> DepreciationLines(Money amount, Dimensions of) =>
        [Signed(Accounts.Depreciation.Code, amount, of), Signed(Accounts.AccumulatedDepreciation.Code, -amount, of)];

    /// <summary>A loan payment: interest is an expense, the rest reduces the loan.</summary>
    public static Entry LoanPaid(LocalDate on, Loan loan, long paymentId, long? truckId, LoanPayment payment)
    {
        var of = new Dimensions(TruckId: truckId);
        return Of(
            on,
            $"Loan of {loan.Lender}, payment {payment.Number} of {loan.Months}",
            EntrySource.LoanPayment,
            paymentId,
            [
                Debit(Accounts.Interest, payment.Interest, of),
                Debit(Accounts.EquipmentLoans, payment.Principal, of),
                Credit(Accounts.Bank, payment.Amount, of),
            ]
        );
    }

    /// <summary>The opening balance.</summary>
    public static Entry Opening(LocalDate on, Money bank) =>
        Of(on, "Opening balance", EntrySource.Opening, 0, [Debit(Accounts.Bank, bank), Credit(Accounts.OwnersEquity, bank)]);

    public static Account RevenueAccount(ChargeKind kind) =>
        kind switch
        {
            ChargeKind.LineHaul or ChargeKind.Discount => Accounts.LineHaul,
            ChargeKind.FuelSurcharge => Accounts.FuelSurcharge,
            _ => Accounts.Accessorials,
        };

    private static Account PayAccount(WorkerKind worker) =>
        worker switch
        {
            WorkerKind.Employee => Accounts.DriverWages,
            WorkerKind.OwnerOperator => Accounts.OwnerOperators,
            _ => Accounts.ContractDrivers,
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
            TripId = line.TripId,
        };
}
