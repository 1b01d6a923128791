using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

/// <summary>Escrow and chargebacks of owner-operators (49 CFR 376.12(h) and (k)).</summary>
public class EscrowTests
{
    private static readonly LocalDate Monday = new(2026, 11, 16);
    private static readonly DriverAgreement Agreement = new([new PayRate(PayKind.PerMile, 1.10m, Monday.PlusYears(-1))]);
    private static readonly PayrollTerms Lease = new(WorkerKind.OwnerOperator, 7.65m, 7.25m);

    private static RecurringDeduction Deposit(decimal weekly, decimal upTo, decimal held) =>
        new(3, "escrow", Money.Usd(weekly), "2250", Monday.PlusMonths(-3), null, Money.Usd(upTo), Money.Usd(held));

    private static SettlementStatement Settle(int miles, params RecurringDeduction[] recurring) =>
        DriverSettlement.Settle(
            Monday,
            Agreement,
            [new WorkedLeg(1, 1, "8001", 4, "lane", miles, Monday.PlusDays(2))],
            [],
            [],
            null,
            recurring,
            payroll: Lease
        );

    [Theory]
    [InlineData(100, 2500, 1000, 100)]
    [InlineData(100, 2500, 2440, 60)]
    [InlineData(100, 2500, 2500, 0)]
    [InlineData(100, 2500, 2600, 0)]
    public void A_deposit_stops_at_the_agreed_amount(double weekly, double upTo, double held, double taken) =>
        Assert.Equal((decimal)taken, Settle(1000, Deposit((decimal)weekly, (decimal)upTo, (decimal)held)).Deducted.Amount);

    [Fact]
    public void A_deposit_comes_after_other_deductions_and_is_never_carried_over()
    {
        // 100 miles at 1.10 are 110.00; 90.00 for insurance leave 20.00 of the 100.00 to deposit.
        var insurance = new RecurringDeduction(2, "insurance", Money.Usd(90), "2200", Monday.PlusYears(-1), null);
        var week = Settle(100, Deposit(100, 2500, 0), insurance);
        Assert.Equal([("insurance", 90m), ("escrow", 20m)], week.Deductions.Select(d => (d.What, d.Amount.Amount)));
        Assert.Equal((0m, 0m), (week.Net.Amount, week.CarriedOver.Amount));

        // The insurance is carried over where the pay does not reach; the deposit is not taken.
        var thin = Settle(50, Deposit(100, 2500, 0), insurance);
        Assert.Equal((35m, 1), (thin.CarriedOver.Amount, thin.Deductions.Count));
    }

    [Fact]
    public void Interest_is_of_each_day_s_balance()
    {
        var (from, until) = (new LocalDate(2026, 10, 1), new LocalDate(2026, 12, 31));
        ItemMove[] held = [new(new LocalDate(2026, 5, 1), 2000m)];
        Assert.Equal(21.17m, Escrow.Interest(held, from, until, 4.2m).Amount);

        // Another thousand for the last 31 days: 1000 × 31 × 4.2 % / 365 more.
        ItemMove[] more = [.. held, new(new LocalDate(2026, 12, 1), 1000m)];
        Assert.Equal(24.74m, Escrow.Interest(more, from, until, 4.2m).Amount);

        // Nothing after it went back, and nothing of what comes later.
        ItemMove[] back = [.. held, new(from, -2000m), new(until.PlusDays(1), 900m)];
        Assert.Equal(0m, Escrow.Interest(back, from, until, 4.2m).Amount);
        Assert.True(Escrow.PaysInterest(new LocalDate(2026, 12, 1)));
        Assert.False(Escrow.PaysInterest(new LocalDate(2026, 11, 1)));
        Assert.Equal(new LocalDate(2026, 10, 1), Escrow.QuarterOf(new LocalDate(2026, 12, 5)));
    }

    [Fact]
    public void A_quarter_earns_what_its_months_earn_to_the_cent() =>
        Gen.Select(Gen.Select(Gen.Int[0, 150], Gen.Int[1, 500_00]).List[0, 8], Gen.Int[0, 8000])
            .Sample(
                (deposits, rate) =>
                {
                    var first = new LocalDate(2026, 10, 1);
                    var moves = deposits.Select(d => new ItemMove(first.PlusDays(d.Item1 - 60), d.Item2 / 100m)).ToList();
                    Money Of(LocalDate from, LocalDate until) => Escrow.Interest(moves, from, until, rate / 1000m);
                    var months = Enumerable.Range(0, 3).Sum(m => Of(first.PlusMonths(m), first.PlusMonths(m + 1).PlusDays(-1)).Amount);
                    var whole = Of(first, first.PlusMonths(3).PlusDays(-1)).Amount;
                    return Math.Abs(whole - months) <= 0.02m && whole >= 0;
                }
            );

    [Fact]
    public void Only_an_owner_operator_is_charged_back_and_never_more_than_the_line()
    {
        Outcome<PayItem> Charge(WorkerKind worker, decimal open, decimal? amount) =>
            ChargeBack.Of(
                "F-881",
                "Two Forks Fuel",
                "5200",
                "diesel",
                Money.Usd(open),
                amount is { } a ? Money.Usd(a) : null,
                "Ray",
                worker,
                Monday
            );
        var item = Charge(WorkerKind.OwnerOperator, 412.50m, null).Value;
        Assert.Equal(
            (PayItemKind.Deduction, 412.50m, "5200", "diesel, bill F-881 from Two Forks Fuel"),
            (item.Kind, item.Amount!.Value.Amount, item.Account, item.What)
        );
        Assert.Equal(100m, Charge(WorkerKind.OwnerOperator, 412.50m, 100m).Value.Amount!.Value.Amount);
        Assert.Equal("driverId", Charge(WorkerKind.Employee, 412.50m, null).Problems.Single().Field);
        Assert.Equal("over.line", Charge(WorkerKind.OwnerOperator, 412.50m, 412.51m).Problems.Single().Code);
        Assert.Equal("charged.back", Charge(WorkerKind.OwnerOperator, 0, null).Problems.Single().Code);
    }

    [Theory]
    [InlineData(null, "2250", "upTo")]
    [InlineData(2500.0, "5200", null)]
    public void Escrow_is_held_on_its_own_account_and_has_an_agreed_amount(double? upTo, string account, string? field)
    {
        var validation = new Validation();
        var chart = Accounts.All.Concat(Accounts.ToBeginWith).ToList();
        var order = new RecurringDeductionOrder(
            "escrow",
            Money.Usd(100),
            account,
            Monday,
            null,
            upTo is { } u ? Money.Usd((decimal)u) : null
        ).Check(chart, Monday, validation);
        Assert.Equal(field, validation.Problems.FirstOrDefault()?.Field);
        Assert.Equal(field is null ? "2250" : null, order?.Account);
    }
}
