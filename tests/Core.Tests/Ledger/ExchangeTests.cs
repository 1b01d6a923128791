using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using Xunit;

namespace SteadyLark.Core.Tests.Ledger;

/// <summary>Documents in Canadian dollars in books kept in US dollars (FASB ASC 830-20).</summary>
public sealed class ExchangeTests
{
    private static readonly LocalDate On = new(2026, 11, 10);
    private static readonly Dimensions Customer = new(CustomerId: 7);

    private static Money Cad(decimal amount) => new(amount, Currency.CAD);

    private static Carried Item(Account account, long item, decimal own, decimal booked) =>
        new(account.Code, item, own, booked, Dimensions.None);

    private static EntryLine Debit(Account account, Money amount, Dimensions of, long? item = null) =>
        new(account.Code, amount.Amount, 0, of, item, amount.Currency);

    private static EntryLine Credit(Account account, Money amount, Dimensions of, long? item = null) =>
        new(account.Code, 0, amount.Amount, of, item, amount.Currency);

    private static decimal Booked(Entry entry, Account account) => entry.Lines.Where(l => l.Account == account.Code).Sum(l => l.Booked);

    private static Entry Paid(decimal amount, decimal rate, params Carried[] open) =>
        Exchange.Translate(
            Postings.PaymentReceived(On, "wire", 5, 7, Cad(amount), [new PostedApplication(9, Cad(amount), On)])[0],
            rate,
            open
        );

    [Theory]
    [InlineData("0.73", -750, 730, 20)]
    [InlineData("0.78", -750, 780, -30)]
    [InlineData("0.75", -750, 750, 0)]
    public void A_receivable_is_settled_at_what_it_was_booked_at_and_the_difference_is_a_gain_or_loss(
        string rate,
        int receivable,
        int bank,
        int loss
    )
    {
        var entry = Paid(
            1000m,
            decimal.Parse(rate, System.Globalization.CultureInfo.InvariantCulture),
            Item(Accounts.Receivable, 9, 1000m, 750m)
        );
        Assert.Equal(
            (receivable, bank, loss),
            (
                (int)Booked(entry, Accounts.Receivable),
                (int)Booked(entry, Accounts.BankCad),
                (int)Booked(entry, Accounts.ExchangeDifferences)
            )
        );
        Assert.False(entry.NeedsRate);
    }

    [Fact]
    public void A_payment_in_part_takes_its_share_and_the_last_one_takes_the_rest()
    {
        // 100.00 booked at 73.33: a third of it is 24.44.
        var first = Paid(33.33m, 0.74m, Item(Accounts.Receivable, 9, 100m, 73.33m));
        Assert.Equal(-24.44m, Booked(first, Accounts.Receivable));
        var last = Paid(66.67m, 0.74m, Item(Accounts.Receivable, 9, 66.67m, 48.89m));
        Assert.Equal(-48.89m, Booked(last, Accounts.Receivable));
    }

    [Fact]
    public void An_overpayment_is_a_credit_at_the_rate_of_its_day()
    {
        var entry = Exchange.Translate(
            Postings.PaymentReceived(On, "wire", 5, 7, Cad(150m), [new PostedApplication(9, Cad(100m), On)])[0],
            0.72m,
            [Item(Accounts.Receivable, 9, 100m, 75m)]
        );
        Assert.Equal(
            [108m, -75m, -36m, 3m],
            new[] { Accounts.BankCad, Accounts.Receivable, Accounts.UnappliedReceipts, Accounts.ExchangeDifferences }.Select(a =>
                Booked(entry, a)
            )
        );
    }

    [Fact]
    public void Cents_of_rounding_are_no_exchange_difference()
    {
        var of = new Dimensions(LoadId: 3, CustomerId: 7);
        var entry = Exchange.Translate(
            Postings.Accrued(
                On,
                "8801",
                3,
                [
                    Credit(Accounts.LineHaul, Cad(0.77m), of),
                    Credit(Accounts.FuelSurcharge, Cad(0.77m), of),
                    Credit(Accounts.Accessorials, Cad(0.77m), of),
                    Debit(Accounts.Unbilled, Cad(2.31m), of, 3),
                ]
            ),
            0.7300m,
            []
        );
        Assert.Equal(0m, Booked(entry, Accounts.ExchangeDifferences));
        Assert.Equal(1.69m, Booked(entry, Accounts.Unbilled));
        Assert.Equal(0m, entry.Lines.Sum(l => l.Booked));
    }

    [Fact]
    public void However_an_item_grows_and_is_settled_nothing_of_it_stays_in_the_books()
    {
        var step = Gen.Select(Gen.Int[-90, 100], Gen.Int[6200, 8200]);
        step.List[1, 12]
            .Sample(steps =>
            {
                var (own, booked, difference) = (0m, 0m, 0m);
                foreach (var (percent, rate) in steps.Append((-100, 7000)))
                {
                    var amount = percent > 0 ? percent * 13.37m : Math.Round(own * percent / 100m, 2);
                    if (amount == 0)
                    {
                        continue;
                    }

                    var (a, b) = amount > 0 ? (Accounts.Receivable, Accounts.LineHaul) : (Accounts.LineHaul, Accounts.Receivable);
                    var money = Cad(Math.Abs(amount));
                    var entry = Exchange.Translate(
                        Entry.Of(
                            On,
                            "a step",
                            EntrySource.Journal,
                            1,
                            [
                                Debit(a, money, Customer, a == Accounts.Receivable ? 9 : null),
                                Credit(b, money, Customer, b == Accounts.Receivable ? 9 : null),
                            ]
                        ),
                        rate / 10_000m,
                        [Item(Accounts.Receivable, 9, own, booked)]
                    );
                    own += amount;
                    booked += Booked(entry, Accounts.Receivable);
                    difference += Booked(entry, Accounts.ExchangeDifferences);
                    if (entry.Lines.Sum(l => l.Booked) != 0 || booked < 0)
                    {
                        return false;
                    }
                }

                return own == 0 && booked == 0 && Math.Abs(difference) < 10_000;
            });
    }

    [Fact]
    public void A_reversal_takes_back_the_very_dollars_that_were_posted()
    {
        var entry = Paid(1000m, 0.73m, Item(Accounts.Receivable, 9, 1000m, 750m));
        var back = entry.Reversed(On.PlusDays(20), "bounced", EntrySource.PaymentReversal);
        Assert.All(entry.Lines.Zip(back.Lines), pair =>
            Assert.Equal((-pair.First.Booked, -pair.First.Signed), (pair.Second.Booked, pair.Second.Signed))
        );
    }

    [Fact]
    public void At_a_months_end_items_are_measured_and_go_back_on_the_first_while_the_bank_keeps_its_worth()
    {
        var entries = Exchange.Remeasured(
            new LocalDate(2026, 11, 1),
            0.70m,
            [
                Item(Accounts.Receivable, 9, 1000m, 750m),
                Item(Accounts.Payable, 4, -500m, -372m),
                new Carried(Accounts.BankCad.Code, null, 200m, 151m, Dimensions.None),
            ]
        );
        Assert.Equal(
            [new LocalDate(2026, 11, 30), new LocalDate(2026, 12, 1), new LocalDate(2026, 11, 30)],
            entries.Select(e => e.PostedOn)
        );
        Assert.Equal([-50m, 50m, 0m], entries.Select(e => Booked(e, Accounts.Receivable)));
        Assert.Equal([22m, -22m, 0m], entries.Select(e => Booked(e, Accounts.Payable)));
        Assert.Equal([28m, -28m, 11m], entries.Select(e => Booked(e, Accounts.ExchangeDifferences)));
        Assert.Equal(-11m, Booked(entries[2], Accounts.BankCad));
        Assert.Empty(Exchange.Remeasured(new LocalDate(2026, 11, 1), 0.75m, [Item(Accounts.Receivable, 9, 1000m, 750m)]));
    }

    [Fact]
    public void A_transfer_says_what_the_Canadian_dollars_cost()
    {
        JournalLine Line(Account account, Money? debit, Money? credit) => new(account.Code, debit, credit, Dimensions.None);
        var chart = Accounts.All;
        var sent = Journal.Draft(
            On,
            "Transfer",
            [Line(Accounts.BankCad, Cad(1000m), null), Line(Accounts.Bank, null, Money.Usd(735.20m))],
            chart
        );
        Assert.Equal((1000m, 735.20m), (sent.Value.Lines[0].Signed, sent.Value.Lines[0].Booked));
        var fee = Journal.Draft(
            On,
            "Transfer with a fee",
            [
                Line(Accounts.BankCad, null, Cad(1000m)),
                Line(Accounts.Bank, Money.Usd(720m), null),
                Line(Accounts.ExchangeDifferences, Money.Usd(10m), null),
            ],
            chart
        );
        Assert.Equal(-730m, fee.Value.Lines[0].Booked);

        // In the wrong currency, on the same side, twice.
        Assert.Equal(
            "currency",
            Journal
                .Draft(On, "x", [Line(Accounts.BankCad, Money.Usd(1m), null), Line(Accounts.Bank, null, Money.Usd(1m))], chart)
                .Problems[0]
                .Code
        );
        Assert.Equal(
            "unbalanced",
            Journal
                .Draft(On, "x", [Line(Accounts.BankCad, Cad(1m), null), Line(Accounts.Bank, Money.Usd(1m), null)], chart)
                .Problems[0]
                .Code
        );
        Assert.Equal(
            "lines",
            Journal.Draft(On, "x", [Line(Accounts.BankCad, Cad(1m), null), Line(Accounts.BankCad, null, Cad(1m))], chart).Problems[0].Field
        );
    }

    [Theory]
    [InlineData("0.7231", null)]
    [InlineData("7.231", "usd")]
    [InlineData("0.39", "usd")]
    [InlineData("0.7231001", "usd")]
    public void A_rate_is_dollars_for_one_Canadian_dollar(string usd, string? refused)
    {
        var rate = Exchange.Draft(Currency.CAD, On, decimal.Parse(usd, System.Globalization.CultureInfo.InvariantCulture), On);
        Assert.Equal(refused, rate.Ok ? null : rate.Problems[0].Field);
        Assert.Equal(["currency", "on", "usd"], Exchange.Draft(null, null, null, On).Problems.Select(p => p.Field));
    }

    [Fact]
    public void Amounts_are_converted_to_the_cent_and_sums_name_each_currency()
    {
        Assert.Equal(Money.Usd(723.10m), Exchange.InBooks(Cad(1000m), 0.7231m));
        Assert.Equal(Cad(1382.93m), Exchange.From(Money.Usd(1000m), Currency.CAD, 0.7231m));
        Assert.Equal("$1,850.00 and CA$420.50", Money.FormatSum([Cad(400m), Money.Usd(1850m), Cad(20.50m)]));
        Assert.Equal("$0.00", Money.FormatSum([]));
        Assert.Equal(Cad(5m), Money.Zero() + Cad(5m));
        Assert.Equal(Cad(-5m), Money.Zero() - Cad(5m));
        Assert.Equal(Cad(5m), Money.Sum([Money.Zero(), Cad(5m)]));
        Assert.Throws<InvalidOperationException>(() => Money.Usd(1m) + Cad(5m));
    }
}
