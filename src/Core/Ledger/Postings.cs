using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Pricing;
using static SteadyLark.Core.Ledger.Entry;

namespace SteadyLark.Core.Ledger;

/// <summary>An amount of revenue with its kind and dimensions.</summary>
public sealed record RevenueLine(ChargeKind Kind, Money Amount, Dimensions For);

/// <summary>The posting rules, in one place.</summary>
public static class Postings
{
    /// <summary>Invoice: debit receivables, credit revenue by kind and load.</summary>
    public static Entry InvoiceIssued(LocalDate on, string number, long invoiceId, long customerId, IReadOnlyList<RevenueLine> lines) =>
        Of(
            on,
            $"Invoice {number}",
            EntrySource.Invoice,
            invoiceId,
            lines
                .Select(l => Credit(RevenueAccount(l.Kind), l.Amount, l.For with { CustomerId = customerId }))
                .Prepend(Debit(Accounts.Receivable, Money.Sum(lines.Select(l => l.Amount)), new Dimensions(CustomerId: customerId)))
        );

    /// <summary>
    /// Payment received: what is applied or written off reduces receivables; the rest is the customer's unapplied credit.
    /// </summary>
    /// <param name="writeOff">What the customer short-paid and we wrote off.</param>
    public static Entry PaymentReceived(
        LocalDate on,
        string reference,
        long paymentId,
        long customerId,
        Money amount,
        Money applied,
        Money writeOff
    )
    {
        var customer = new Dimensions(CustomerId: customerId);
        return Of(
            on,
            $"Received {reference}".TrimEnd(),
            EntrySource.Payment,
            paymentId,
            [
                Debit(Accounts.Bank, amount, customer),
                Debit(Accounts.ShortPays, writeOff, customer),
                Credit(Accounts.Receivable, applied + writeOff, customer),
                Credit(Accounts.UnappliedReceipts, amount - applied, customer),
            ]
        );
    }

    /// <summary>A customer's credit is applied to invoices.</summary>
    public static Entry CreditUsed(LocalDate on, string customer, long paymentId, long customerId, Money applied, Money writeOff)
    {
        var of = new Dimensions(CustomerId: customerId);
        return Of(
            on,
            $"Credit from {customer} applied",
            EntrySource.CreditUse,
            paymentId,
            [
                Debit(Accounts.UnappliedReceipts, applied, of),
                Debit(Accounts.ShortPays, writeOff, of),
                Credit(Accounts.Receivable, applied + writeOff, of),
            ]
        );
    }

    /// <summary>A bill is a payable from its date, approved or not.</summary>
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
                Credit(Accounts.Payable, Money.Sum(lines.Select(l => l.Amount)), of),
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
                Debit(Accounts.Payable, Money.Sum(less.Select(l => l.Amount)), of),
                .. less.Select(l => new EntryLine(l.Account, 0, l.Amount.Amount, For(l, of))),
            ]
        );

    public static Entry BillPaid(LocalDate on, string vendor, string number, long billId, Money amount, Dimensions of) =>
        Of(
            on,
            $"Paid bill {number} from {vendor}",
            EntrySource.BillPayment,
            billId,
            [Debit(Accounts.Payable, amount, of), Credit(Accounts.Bank, amount, of)]
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
    public static Entry AdvanceIssued(LocalDate on, string driver, long drawId, long driverId, Money amount) =>
        Of(
            on,
            $"Advance to {driver}",
            EntrySource.Advance,
            drawId,
            [
                Debit(Accounts.DriverAdvances, amount, new Dimensions(DriverId: driverId)),
                Credit(Accounts.Bank, amount, new Dimensions(DriverId: driverId)),
            ]
        );

    /// <summary>
    /// A driver settlement is approved: wages by load and truck, per diem and reimbursements, less deductions, each to its account. A
    /// shortfall
    /// becomes a receivable like an advance; the rest is owed to the driver.
    /// </summary>
    public static Entry SettlementApproved(LocalDate on, string driver, long settlementId, long driverId, SettlementStatement week)
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
                .. week.Deductions.Select(d => new EntryLine(d.Account, 0, d.Amount.Amount, driverOnly)),
                Debit(Accounts.DriverAdvances, week.CarriedOver, driverOnly),
                Credit(Accounts.WagesPayable, week.Net, driverOnly),
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
                Debit(Accounts.WagesPayable, net, new Dimensions(DriverId: driverId)),
                Credit(Accounts.Bank, net, new Dimensions(DriverId: driverId)),
            ]
        );

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

    private static Dimensions For(BillLine line, Dimensions of) =>
        of with
        {
            LoadId = line.LoadId,
            TruckId = line.TruckId,
            DriverId = line.DriverId,
        };
}
