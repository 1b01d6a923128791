using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Pricing;
using static SteadyLark.Core.Ledger.Entry;

namespace SteadyLark.Core.Ledger;

/// <summary>An amount of revenue with what it is for and what it belongs to.</summary>
public sealed record RevenueLine(ChargeKind Kind, Money Amount, Dimensions For);

/// <summary>How each movement of money is entered. One place, so that the books can be read from it.</summary>
public static class Postings
{
    /// <summary>The customer owes us; the revenue is earned by kind and load.</summary>
    public static Entry InvoiceIssued(LocalDate on, string number, long invoiceId, long customerId, IReadOnlyList<RevenueLine> lines) =>
        Of(on, $"Invoice {number}", EntrySource.Invoice, invoiceId,
            lines.Select(l => Credit(RevenueAccount(l.Kind), l.Amount, l.For with { CustomerId = customerId }))
                .Prepend(Debit(Accounts.Receivable, Money.Sum(lines.Select(l => l.Amount)), new Dimensions(CustomerId: customerId))));

    /// <summary>Money came in; what is applied to invoices is no longer owed, the rest is the customer's credit.</summary>
    public static Entry PaymentReceived(LocalDate on, string reference, long paymentId, long customerId, Money amount, Money applied)
    {
        var customer = new Dimensions(CustomerId: customerId);
        return Of(on, $"Received {reference}".TrimEnd(), EntrySource.Payment, paymentId,
        [
            Debit(Accounts.Bank, amount, customer),
            Credit(Accounts.Receivable, applied, customer),
            Credit(Accounts.UnappliedReceipts, amount - applied, customer),
        ]);
    }

    /// <summary>A carrier's bill is a payable from the day of the bill, whether approved yet or not.</summary>
    public static Entry BillReceived(LocalDate on, string carrier, string number, long billId, Money amount, Dimensions of) =>
        Of(on, $"Bill {number} from {carrier}", EntrySource.Bill, billId,
            [Debit(Accounts.PurchasedTransportation, amount, of), Credit(Accounts.Payable, amount, of)]);

    /// <summary>Approved for less than was billed: the difference is not owed.</summary>
    public static Entry BillReduced(LocalDate on, string carrier, string number, long billId, Money by, Dimensions of) =>
        Of(on, $"Bill {number} from {carrier} approved for less", EntrySource.BillReduction, billId,
            [Debit(Accounts.Payable, by, of), Credit(Accounts.PurchasedTransportation, by, of)]);

    public static Entry BillPaid(LocalDate on, string carrier, string number, long billId, Money amount, Dimensions of) =>
        Of(on, $"Paid bill {number} from {carrier}", EntrySource.BillPayment, billId,
            [Debit(Accounts.Payable, amount, of), Credit(Accounts.Bank, amount, of)]);

    /// <summary>What a driver drew ahead is owed back to us until a week's pay takes it.</summary>
    public static Entry DrawGiven(LocalDate on, string driver, long drawId, long driverId, Money amount) =>
        Of(on, $"{driver} drew ahead", EntrySource.Draw, drawId,
            [Debit(Accounts.DriverAdvances, amount, new Dimensions(DriverId: driverId)), Credit(Accounts.Bank, amount, new Dimensions(DriverId: driverId))]);

    /// <summary>A driver's week is approved: wages by leg, per diem, less what he drew; the rest is owed to him.</summary>
    public static Entry WeekApproved(LocalDate on, string driver, long settlementId, long driverId, WeekStatement week)
    {
        var him = new Dimensions(DriverId: driverId);
        return Of(on, $"{driver}, week of {week.Monday:d MMM}", EntrySource.Week, settlementId,
            week.Legs.Select(l => Debit(Accounts.DriverWages, l.Amount, him with { LoadId = l.LoadId, TruckId = l.TruckId }))
                .Append(Debit(Accounts.DriverPerDiem, week.PerDiem, him))
                .Append(Credit(Accounts.DriverAdvances, week.Deducted, him))
                .Append(Credit(Accounts.WagesPayable, week.Net, him)));
    }

    public static Entry WeekPaid(LocalDate on, string driver, long settlementId, long driverId, Money net) =>
        Of(on, $"Paid {driver}", EntrySource.WeekPayment, settlementId,
            [Debit(Accounts.WagesPayable, net, new Dimensions(DriverId: driverId)), Credit(Accounts.Bank, net, new Dimensions(DriverId: driverId))]);

    /// <summary>What the business began with.</summary>
    public static Entry Opening(LocalDate on, Money bank) =>
        Of(on, "Opening balance", EntrySource.Opening, 0, [Debit(Accounts.Bank, bank), Credit(Accounts.OwnersEquity, bank)]);

    public static Account RevenueAccount(ChargeKind kind) => kind switch
    {
        ChargeKind.LineHaul => Accounts.LineHaul,
        ChargeKind.FuelSurcharge => Accounts.FuelSurcharge,
        _ => Accounts.Accessorials,
    };
}
