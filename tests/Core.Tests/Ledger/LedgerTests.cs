using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Ledger;

public class PostingTests
{
    private static readonly Gen<Money> Amount = Gen.Int[1, 10_000_000].Select(c => Money.Usd(c / 100m));

    private static bool Balances(Entry e) => e.Lines.Sum(l => l.Debit) == e.Lines.Sum(l => l.Credit) && e.Lines.Count >= 2 && e.Lines.All(l => (l.Debit == 0) != (l.Credit == 0));

    [Fact]
    public void Every_movement_of_money_balances_whatever_the_amounts() =>
        Gen.Select(Amount.List[1, 8], Amount, Amount, Gen.Int[0, 100]).Sample((charges, amount, other, share) =>
        {
            var applied = Money.Usd(Math.Round(amount.Amount * share / 100, 2));
            var day = Some.Today;
            var legs = charges.Select((c, i) => new PaidLeg(i, i, "x", null, "lane", 1, 1, day, c)).ToList();
            var week = new WeekStatement(day, day, legs, 1, 66, Money.Usd(66), [new Deduction(1, day, null, Money.Min(other, Money.Sum(charges)))]);
            Entry[] entries =
            [
                Postings.InvoiceIssued(day, "I-1", 1, 7, charges.Select((c, i) => new RevenueLine((ChargeKind)(i % 8), c, Dimensions.None)).ToList()),
                Postings.PaymentReceived(day, "check 1", 1, 7, amount, applied),
                Postings.BillReceived(day, "x", "1", 1, amount, Dimensions.None),
                Postings.BillReduced(day, "x", "1", 1, amount, Dimensions.None),
                Postings.BillPaid(day, "x", "1", 1, amount, Dimensions.None),
                Postings.DrawGiven(day, "x", 1, 1, amount),
                Postings.WeekApproved(day, "x", 1, 1, week),
                Postings.WeekPaid(day, "x", 1, 1, amount),
            ];
            return entries.All(Balances) && entries.All(e => Balances(e.Reversed(day, "back", EntrySource.InvoiceVoid)));
        });

    [Fact]
    public void A_reversal_undoes_every_account()
    {
        var entry = Postings.PaymentReceived(Some.Today, "check 1", 1, 7, Money.Usd(100), Money.Usd(60));
        var both = entry.Lines.Concat(entry.Reversed(Some.Today, "bounced", EntrySource.PaymentReversal).Lines);
        Assert.All(both.GroupBy(l => l.Account), g => Assert.Equal(0, g.Sum(l => l.Debit - l.Credit)));
    }

    [Fact]
    public void What_does_not_balance_cannot_be_made() =>
        Assert.Throws<InvalidOperationException>(() => Entry.Of(Some.Today, "x", EntrySource.Opening, 0, [new EntryLine("1000", 5, 0, Dimensions.None), new EntryLine("3000", 0, 4, Dimensions.None)]));

    [Theory]
    [InlineData(0, AgeBucket.NotDue)]
    [InlineData(1, AgeBucket.Days1To30)]
    [InlineData(30, AgeBucket.Days1To30)]
    [InlineData(31, AgeBucket.Days31To60)]
    [InlineData(90, AgeBucket.Days61To90)]
    [InlineData(91, AgeBucket.Over90)]
    public void Ages_are_counted_from_the_due_date(int days, AgeBucket bucket) => Assert.Equal(bucket, Aging.Bucket(Some.Today, Some.Today.PlusDays(days)));

    [Fact]
    public void Months_of_any_length_age_by_days() => Assert.Equal(AgeBucket.Days31To60, Aging.Bucket(new LocalDate(2026, 1, 31), new LocalDate(2026, 3, 3)));
}
