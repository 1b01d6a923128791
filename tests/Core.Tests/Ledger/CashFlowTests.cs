using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using Xunit;

namespace SteadyLark.Core.Tests.Ledger;

/// <summary>The cash flow statement explains the change of cash, whatever the balances are.</summary>
public class CashFlowTests
{
    private static readonly (LocalDate From, LocalDate Until) Year = (new LocalDate(2026, 1, 1), new LocalDate(2026, 12, 31));

    private static CashFlow Of(params (Account Account, decimal Amount)[] through) =>
        CashFlow.Of(Year.From, Year.Until, [], through.Select(t => new Balance(t.Account, Money.Usd(t.Amount))).ToList());

    [Fact]
    public void Profit_that_is_not_collected_and_a_truck_that_was_bought_explain_the_cash()
    {
        var flow = Of(
            (Accounts.Bank, 200),
            (Accounts.Receivable, 200),
            (Accounts.Equipment, 1_200),
            (Accounts.AccumulatedDepreciation, -100),
            (Accounts.EquipmentLoans, -700),
            (Accounts.LineHaul, -1_500),
            (Accounts.DriverWages, 600),
            (Accounts.Depreciation, 100)
        );
        Assert.Equal(
            [("Net profit", 800m), ("Depreciation, not paid in cash", 100m), ("Accounts receivable", -200m)],
            flow.Operating.Select(l => (l.Name, l.Amount.Amount))
        );
        Assert.Equal((700m, -1_200m, 700m), (flow.TotalOperating.Amount, flow.TotalInvesting.Amount, flow.TotalFinancing.Amount));
        Assert.Equal(Money.Usd(200), flow.Closing);
    }

    [Fact]
    public void A_truck_that_is_sold_brings_its_proceeds_whatever_the_gain()
    {
        var before = new[] { (Accounts.Equipment, 1_000m), (Accounts.AccumulatedDepreciation, -400m), (Accounts.OwnersEquity, -600m) };
        var flow = CashFlow.Of(
            Year.From,
            Year.Until,
            before.Select(b => new Balance(b.Item1, Money.Usd(b.Item2))).ToList(),
            [
                new Balance(Accounts.Bank, Money.Usd(750)),
                new Balance(Accounts.Depreciation, Money.Usd(50)),
                new Balance(Accounts.EquipmentSold, Money.Usd(-200)),
                new Balance(Accounts.OwnersEquity, Money.Usd(-600)),
            ]
        );
        Assert.Equal((0m, 750m, 0m), (flow.TotalOperating.Amount, flow.TotalInvesting.Amount, flow.TotalFinancing.Amount));
    }

    [Fact]
    public void The_three_parts_always_come_to_the_change_of_cash()
    {
        var balances = Gen.Int[-10_000_000, 10_000_000]
            .Array[Accounts.All.Count - 1]
            .Select(cents =>
                cents
                    .Select((c, i) => new Balance(Accounts.All[i + 1], Money.Usd(c / 100m)))
                    .Append(new Balance(Accounts.All[0], Money.Usd(-cents.Sum(c => (decimal)c) / 100m)))
                    .Where(b => b.Amount.Amount % 3 != 0)
                    .ToList()
            )
            .Select(list =>
                list.Append(new Balance(new Account("3100", "Rest", AccountKind.Equity), -Money.Sum(list.Select(b => b.Amount)))).ToList()
            );
        Gen.Select(balances, balances)
            .Sample(
                (before, through) =>
                {
                    var flow = CashFlow.Of(Year.From, Year.Until, before, through);
                    Assert.Equal(flow.Closing - flow.Opening, flow.TotalOperating + flow.TotalInvesting + flow.TotalFinancing);
                }
            );
    }
}
