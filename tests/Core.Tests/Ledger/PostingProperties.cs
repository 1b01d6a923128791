using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Ledger;

/// <summary>Each movement of money as an entry: what it debits and credits, for whom, whatever the amounts.</summary>
public class PostingProperties
{
    private static readonly LocalDate On = new(2026, 11, 24);
    private static readonly Gen<Money> Amount = Gen.Int[1, 5_000_000].Select(c => Money.Usd(c / 100m));
    private static readonly Dimensions Carrier = new(CarrierId: 4);

    private static decimal Balance(Entry entry, Account account) =>
        entry.Lines.Where(l => l.Account == account.Code).Sum(l => l.Debit - l.Credit);

    private static bool Balances(Entry entry) => PostingTests.Balances(entry);

    [Fact]
    public void An_invoice_makes_a_receivable_of_the_unbilled_revenue_of_its_loads() =>
        Amount
            .List[1, 6]
            .Sample(amounts =>
            {
                var entry = Postings.InvoiceIssued(On, "I-1", 9, 7, amounts.Select((a, i) => (i + 1L, a)).ToList());
                return Balances(entry)
                    && Balance(entry, Accounts.Receivable) == amounts.Sum(a => a.Amount)
                    && entry.Lines.All(l => l.For.CustomerId == 7)
                    && entry.Lines.Single(l => l.Account == Accounts.Receivable.Code).ItemId == 9
                    && entry
                        .Lines.Where(l => l.Account == Accounts.Unbilled.Code)
                        .Select(l => (l.ItemId, l.For.LoadId, l.Credit))
                        .SequenceEqual(amounts.Select((a, i) => ((long?)i + 1, (long?)i + 1, a.Amount)));
            });

    [Fact]
    public void What_is_applied_on_the_day_of_the_payment_and_later_leaves_the_same_books() =>
        Gen.Select(Amount, Gen.Int[1, 99], Gen.Int[0, 9])
            .Sample(
                (amount, percent, days) =>
                {
                    var part = Money.Usd(Math.Round(amount.Amount * percent / 100, 2));
                    if (part.Amount is 0)
                    {
                        return true;
                    }

                    var entries = Postings.PaymentReceived(
                        On,
                        "check 1",
                        5,
                        7,
                        amount,
                        [new PostedApplication(1, part, On.PlusDays(days))]
                    );
                    decimal After(Account account) => entries.Sum(e => Balance(e, account));
                    return entries.All(Balances)
                        && entries.Count == (days == 0 ? 1 : 2)
                        && entries[^1].PostedOn == On.PlusDays(days)
                        && Balance(entries[0], Accounts.Receivable) == (days == 0 ? -part.Amount : 0)
                        && After(Accounts.Bank) == amount.Amount
                        && After(Accounts.Receivable) == -part.Amount
                        && After(Accounts.UnappliedReceipts) == -(amount - part).Amount;
                }
            );

    [Theory]
    [InlineData(ShortPayReason.Concession, "4900")]
    [InlineData(ShortPayReason.Claim, "4910")]
    [InlineData(ShortPayReason.Uncollectible, "6500")]
    public void A_write_off_goes_to_the_account_of_its_reason_and_to_its_loads(ShortPayReason kind, string account) =>
        Gen.Select(Amount, Amount.List[1, 5])
            .Sample(
                (amount, totals) =>
                {
                    var loads = totals.Select((t, i) => (i + 1L, t)).ToList();
                    var entry = Postings.WrittenOff(On, EntrySource.WriteOff, 5, "I-1", 9, 7, amount, kind, "short", loads);
                    return Balances(entry)
                        && Balance(entry, Accounts.Receivable) == -amount.Amount
                        && entry.Lines.Where(l => l.Account == account).Sum(l => l.Debit) == amount.Amount
                        && entry.Lines.Where(l => l.Account == account).All(l => l.For.LoadId is not null);
                }
            );

    [Fact]
    public void A_bill_that_is_received_reduced_and_paid_leaves_nothing_payable() =>
        Gen.Select(Amount.List[1, 5], Gen.Int[0, 100])
            .Sample(
                (amounts, percent) =>
                {
                    var lines = amounts.Select((a, i) => new BillLine("5000", null, a, i + 1, null, null)).ToList();
                    var total = Money.Sum(amounts);
                    var by = Money.Usd(Math.Round(total.Amount * percent / 200, 2));
                    var received = Postings.BillReceived(On, "Two Forks Trucking", "B-1", 3, lines, Carrier);
                    var discount = Money.Usd(Math.Round((total - by).Amount * 3 / 100, 2));
                    var paid = Postings.VendorPaid(
                        On,
                        "Two Forks Trucking",
                        "bill B-1",
                        9,
                        [(new PaidBill(3, total - by - discount, discount), Carrier)]
                    );
                    var reduced =
                        by.Amount > 0
                            ? Postings.BillReduced(On, "Two Forks Trucking", "B-1", 3, VendorBill.Less(lines, by), Carrier)
                            : null;
                    Entry[] all = [received, paid, .. reduced is null ? Array.Empty<Entry>() : [reduced]];
                    return all.All(Balances)
                        && all.Sum(e => Balance(e, Accounts.Payable)) == 0
                        && all.Sum(e => Balance(e, Accounts.Bank)) == -(total - by - discount).Amount
                        && all.Sum(e => Balance(e, Accounts.QuickPayDiscounts)) == -discount.Amount
                        && all.SelectMany(e => e.Lines).All(l => l.For.CarrierId == 4)
                        && all.Sum(e => e.Lines.Where(l => l.Account == "5000").Sum(l => l.Debit - l.Credit)) == (total - by).Amount;
                }
            );

    [Fact]
    public void An_expense_was_never_owed()
    {
        var entry = Postings.Spent(
            On,
            "Lolo Tire and Axle",
            "77",
            3,
            [new BillLine("5400", "tires", Money.Usd(412.50m), null, 118, null)],
            new Dimensions(VendorId: 8)
        );
        Assert.True(Balances(entry));
        Assert.Equal(-412.50m, Balance(entry, Accounts.Bank));
        Assert.Equal(0, Balance(entry, Accounts.Payable));
        Assert.Equal((118L, 8L), (entry.Lines[0].For.TruckId!.Value, entry.Lines[0].For.VendorId!.Value));
    }

    [Fact]
    public void A_settlement_and_its_payment_leave_no_wages_payable_and_take_the_advance_back() =>
        Gen.Select(Gen.Int[0, 3000], Gen.Int[0, 150_000], Gen.Int[0, 40_000], Gen.Int[0, 30_000])
            .Sample(
                (miles, advance, deduction, spent) =>
                {
                    var monday = new LocalDate(2026, 11, 16);
                    var agreement = new DriverAgreement([
                        new PayRate(PayKind.PerMile, 0.60m, monday),
                        new PayRate(PayKind.PerDay, 66m, monday),
                    ]);
                    List<PayItem> items = [];
                    if (deduction > 0)
                    {
                        items.Add(new PayItem(1, PayItemKind.Deduction, monday, "damage", null, Money.Usd(deduction / 100m), "2200"));
                    }

                    if (spent > 0)
                    {
                        items.Add(new PayItem(2, PayItemKind.Reimbursement, monday, "scale", null, Money.Usd(spent / 100m), "5300"));
                    }

                    var week = DriverSettlement.Settle(
                        monday,
                        agreement,
                        miles > 0 ? [new WorkedLeg(1, 1, "6001", 118, "Missoula to Boise", miles, monday.PlusDays(2))] : [],
                        miles > 0 ? [new DaysOut(monday, monday.PlusDays(2))] : [],
                        advance > 0 ? [new OpenAdvance(9, monday, null, Money.Usd(advance / 100m))] : [],
                        items
                    );
                    if (week.IsEmpty)
                    {
                        return true;
                    }

                    var approved = Postings.SettlementApproved(On, "Lena Haugen", 1, 5, week, week.CarriedOver.Amount > 0 ? 12 : null);
                    var taken = week.Deductions.Where(d => d.AdvanceId is not null).Sum(d => d.Amount.Amount);
                    var wages = Balance(approved, Accounts.DriverWages) + Balance(approved, Accounts.DriverPerDiem);
                    return Balances(approved)
                        && approved.Lines.All(l => l.For.DriverId == 5)
                        && wages == week.Earned.Amount
                        && Balance(approved, Accounts.WagesPayable) == -week.Net.Amount
                        && Balance(approved, Accounts.DriverAdvances) == week.CarriedOver.Amount - taken
                        && (
                            week.Net.Amount == 0
                            || Balance(approved, Accounts.WagesPayable)
                                + Balance(Postings.SettlementPaid(On, "Lena Haugen", 1, 5, week.Net), Accounts.WagesPayable)
                                == 0
                        );
                }
            );

    [Fact]
    public void An_advance_is_owed_back_until_it_is_deducted()
    {
        var entry = Postings.AdvanceIssued(On, "Lena Haugen", 4, 5, Money.Usd(150));
        Assert.Equal((150m, -150m), (Balance(entry, Accounts.DriverAdvances), Balance(entry, Accounts.Bank)));
        Assert.All(entry.Lines, l => Assert.Equal(5, l.For.DriverId));
    }

    [Fact]
    public void A_reversal_undoes_an_entry_line_by_line() =>
        Gen.Select(Amount, Amount)
            .Sample(
                (haul, fuel) =>
                {
                    var entry = Postings.InvoiceIssued(On, "I-1", 9, 7, [(1, haul), (2, fuel)]);
                    var back = entry.Reversed(On.PlusDays(3), "voided", EntrySource.InvoiceVoid);
                    return Balances(back)
                        && back.SourceId == entry.SourceId
                        && back.Lines.Zip(entry.Lines)
                            .All(p =>
                                p.First.Account == p.Second.Account
                                && p.First.For == p.Second.For
                                && p.First.ItemId == p.Second.ItemId
                                && p.First.Debit == p.Second.Credit
                                && p.First.Credit == p.Second.Debit
                            );
                }
            );

    [Theory]
    [InlineData(100, 99.99)]
    [InlineData(100.001, 100.001)]
    [InlineData(-5, -5)]
    public void Unbalanced_entries_and_fractional_cents_are_refused(double debit, double credit) =>
        Assert.Throws<InvalidOperationException>(() =>
            Entry.Of(
                On,
                "wrong",
                EntrySource.Journal,
                1,
                [new EntryLine("1000", (decimal)debit, 0, Dimensions.None), new EntryLine("4000", 0, (decimal)credit, Dimensions.None)]
            )
        );

    [Fact]
    public void An_entry_of_nothing_is_refused() =>
        Assert.Throws<InvalidOperationException>(() =>
            Postings.VendorPaid(On, "Two Forks Trucking", "bill B-1", 9, [(new PaidBill(3, Money.Zero(), Money.Zero()), Carrier)])
        );
}
