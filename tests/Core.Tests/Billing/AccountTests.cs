using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using Xunit;

namespace SteadyLark.Core.Tests.Billing;

/// <summary>Statements of account, terms, and which loads come onto one invoice.</summary>
public class AccountTests
{
    private static readonly LocalDate Day = new(2026, 11, 1);

    [Fact]
    public void A_statement_runs_from_opening_to_closing_balance_on_any_day() =>
        Gen.Select(Gen.Select(Gen.Int[-200, 200], Gen.Int[-500_000, 500_000]).List[0, 30], Gen.Int[-60, 0], Gen.Int[0, 60])
            .Sample(
                (moves, from, until) =>
                {
                    var all = moves
                        .Select((m, i) => new AccountMove(Day.PlusDays(m.Item1), $"move {i}", Money.Usd(m.Item2 / 100m)))
                        .ToList();
                    var statement = AccountStatement.Of(Day.PlusDays(from), Day.PlusDays(until), all, [], Money.Zero());
                    Assert.Equal(Money.Sum(all.Where(m => m.On < Day.PlusDays(from)).Select(m => m.Amount)), statement.Before);
                    Assert.Equal(Money.Sum(all.Where(m => m.On <= Day.PlusDays(until)).Select(m => m.Amount)), statement.Owed);
                    Assert.Equal(statement.Owed, statement.Before + Money.Sum(statement.Lines.Select(l => l.Amount)));
                    Assert.Equal(statement.Lines.Select(l => l.On).Order(), statement.Lines.Select(l => l.On));
                    Assert.All(statement.Lines.Zip(statement.Lines.Skip(1)), pair =>
                        Assert.Equal(pair.First.Balance + pair.Second.Amount, pair.Second.Balance)
                    );
                }
            );

    [Fact]
    public void Open_amounts_are_aged_as_of_the_last_day()
    {
        var open = new[] { 0, 1, 30, 31, 60, 61, 90, 91 }
            .Select(
                (late, i) => new OwedInvoice($"{i}", Day.PlusDays(-late - 30), Day.PlusDays(-late), Money.Usd(100m), Money.Usd(10m + i))
            )
            .ToList();
        var ages = AccountStatement.Of(Day, Day, [], open, Money.Zero()).Aging;
        Assert.Equal(
            [10m, 23m, 27m, 31m, 17m],
            new[] { AgingBucket.NotDue, AgingBucket.Days1To30, AgingBucket.Days31To60, AgingBucket.Days61To90, AgingBucket.Over90 }.Select(
                b => ages[b].Amount
            )
        );
        Assert.Equal("7", AccountStatement.Of(Day, Day, [], open, Money.Zero()).Open[0].Number);
    }

    [Theory]
    [InlineData(0, "due on receipt", true)]
    [InlineData(30, "net 30", true)]
    [InlineData(120, "net 120", true)]
    [InlineData(121, "net 121", false)]
    [InlineData(-1, "net -1", false)]
    public void Terms_are_days_after_the_date(int days, string summary, bool may)
    {
        Assert.Equal(summary, Terms.Format(days));
        Assert.Equal(Day.PlusDays(days), Terms.DueOn(Day, days));
        var validation = new Validation();
        Terms.Check(days, validation, "terms");
        Assert.Equal(may, validation.Ok);
    }

    [Fact]
    public void Every_load_is_on_one_invoice_and_an_invoice_has_one_customer() =>
        Gen.Select(Gen.Int[1, 200], Gen.Int[1, 12])
            .List[0, 60]
            .Sample(loads =>
            {
                var one = loads.GroupBy(l => l.Item1).Select(g => ((long)g.Key, (long)g.First().Item2)).ToList();
                var parts = BillingRun.Parts(one.Concat(one), c => c % 2 == 0);
                Assert.Equal(one.Select(l => l.Item1).Order(), parts.SelectMany(p => p.LoadIds).Order());
                Assert.All(parts, p => Assert.All(p.LoadIds, l => Assert.Equal(p.CustomerId, one.Single(x => x.Item1 == l).Item2)));
                Assert.All(parts.GroupBy(p => p.CustomerId), g =>
                    Assert.True(g.Key % 2 == 0 ? g.Count() == 1 : g.All(p => p.LoadIds.Count == 1))
                );
            });
}
