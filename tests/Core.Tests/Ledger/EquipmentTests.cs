using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using Xunit;

namespace SteadyLark.Core.Tests.Ledger;

/// <summary>Straight-line depreciation and level loan payments.</summary>
public class EquipmentTests
{
    private static readonly Asset Truck = new("Truck 131", new LocalDate(2025, 3, 20), Money.Usd(148_000), Money.Usd(40_000), 60);

    private static readonly Gen<Asset> Assets = Gen.Select(
        Gen.Int[1, 30_000_000],
        Gen.Int[0, 99],
        Gen.Int[1, 240],
        Gen.Int[0, 1000],
        (cents, share, months, day) =>
            new Asset(
                "x",
                new LocalDate(2022, 1, 1).PlusDays(day),
                Money.Usd(cents / 100m),
                Money.Usd(Math.Floor(cents * share / 100m) / 100m),
                months
            )
    );

    [Fact]
    public void A_truck_loses_the_same_each_month_from_the_month_of_its_first_day_until_its_salvage_is_left()
    {
        Assert.Equal(Money.Usd(1_800), Truck.In(new LocalDate(2025, 3, 1)));
        Assert.Equal(Money.Zero(), Truck.In(new LocalDate(2025, 2, 28)));
        Assert.Equal(Money.Usd(18_000), Truck.DepreciatedBy(new LocalDate(2025, 12, 31)));
        Assert.Equal(Money.Usd(108_000), Truck.DepreciatedBy(new LocalDate(2040, 1, 1)));
    }

    [Fact]
    public void The_months_of_an_assets_life_add_up_to_its_cost_less_salvage() =>
        Assets.Sample(a =>
        {
            var months = Enumerable.Range(0, a.Months + 3).Select(i => a.In(a.InService.PlusMonths(i))).ToList();
            Assert.Equal(a.Cost - a.Salvage, Money.Sum(months));
            Assert.All(months, m => Assert.True(m.Amount >= 0));
        });

    [Fact]
    public void The_month_of_its_sale_does_not_count_and_the_rest_is_gain_or_loss()
    {
        var sold = Truck.Sell(new LocalDate(2026, 3, 10), Money.Usd(130_000), new LocalDate(2026, 11, 24)).Value;
        // Twelve months at 1,800: book value 126,400.
        Assert.Equal(Money.Usd(3_600), sold.Gain);
        Assert.Equal(Money.Usd(-126_400), Truck.Sell(new LocalDate(2026, 3, 10), Money.Zero(), new LocalDate(2026, 11, 24)).Value.Gain);
        Assert.Equal("date.sold", Truck.Sell(new LocalDate(2025, 3, 19), Money.Zero(), new LocalDate(2026, 11, 24)).Problems[0].Code);
        Assert.Equal(
            "asset.sold",
            (Truck with { SoldOn = new LocalDate(2026, 1, 1) }).Sell(null, Money.Zero(), new LocalDate(2026, 11, 24)).Problems[0].Code
        );
    }

    [Fact]
    public void A_loan_is_paid_back_in_level_payments()
    {
        // The textbook annuity: 120,000 at 8 % over 60 months is 2,433.17 a month.
        var loan = new Loan("Clark Fork Bank", Money.Usd(120_000), 8m, 60, new LocalDate(2026, 1, 31));
        Assert.Equal(Money.Usd(2_433.17m), loan.Payment);
        var schedule = loan.Schedule();
        Assert.Equal((Money.Usd(800), Money.Usd(1_633.17m)), (schedule[0].Interest, schedule[0].Principal));
        Assert.Equal(
            [new LocalDate(2026, 1, 31), new LocalDate(2026, 2, 28), new LocalDate(2026, 3, 31)],
            schedule.Take(3).Select(p => p.DueOn)
        );
        Assert.Equal(Money.Usd(1_000), new Loan("x", Money.Usd(12_000), 0, 12, new LocalDate(2026, 1, 1)).Payment);
    }

    [Theory]
    [InlineData("2025-12-15", 0, 0)]
    [InlineData("2025-12-31", 0, 412.90)]
    [InlineData("2026-01-15", 0, 800)]
    [InlineData("2026-01-15", 1, 0)]
    [InlineData("2026-01-31", 0, 1207.28)]
    [InlineData("2026-01-31", 1, 407.28)]
    public void Interest_accrues_by_days_between_two_payments(string last, int paid, double accrued)
    {
        // Payments on the 15th from January: 800.00 for the month before, 789.11 for the next, of which 16 of 31 days are 407.28.
        var loan = new Loan("Clark Fork Bank", Money.Usd(120_000), 8m, 60, new LocalDate(2026, 1, 15));
        var day = NodaTime.Text.LocalDatePattern.Iso.Parse(last).Value;
        Assert.Equal((decimal)accrued, loan.Accrued(day, paid).Amount);
    }

    [Fact]
    public void Interest_accrued_and_reversed_leaves_what_the_payments_say() =>
        Gen.Select(Gen.Int[100_000, 50_000_000], Gen.Int[0, 4000], Gen.Int[1, 120], Gen.Int[0, 3000])
            .Sample(
                (cents, hundredths, months, days) =>
                {
                    var loan = new Loan("x", Money.Usd(cents / 100m), hundredths / 100m, months, new LocalDate(2026, 1, 15));
                    var schedule = loan.Schedule();
                    var day = loan.FirstOn.PlusDays(days);

                    // With every payment made on its day, never more than the interest of the next; unpaid, what is due and that part.
                    var due = schedule.Count(p => p.DueOn <= day);
                    var next = due < months ? schedule[due].Interest : Money.Zero();
                    var accrued = loan.Accrued(day, due);
                    return accrued.Amount >= 0
                        && accrued <= next
                        && loan.Accrued(day, 0) == accrued + Money.Sum(schedule.Take(due).Select(p => p.Interest));
                }
            );

    [Fact]
    public void A_loans_payments_pay_back_exactly_what_was_borrowed() =>
        Gen.Select(Gen.Int[1, 50_000_000], Gen.Int[0, 4000], Gen.Int[1, 240])
            .Sample(
                (cents, hundredths, months) =>
                {
                    var loan = new Loan("x", Money.Usd(cents / 100m), hundredths / 100m, months, new LocalDate(2026, 1, 15));
                    var schedule = loan.Schedule();
                    Assert.Equal(loan.Principal, Money.Sum(schedule.Select(p => p.Principal)));
                    Assert.Equal(Money.Zero(), schedule[^1].Left);
                    Assert.All(schedule, p => Assert.True(p.Principal.Amount >= 0 && p.Interest.Amount >= 0 && p.Left.Amount >= 0));
                }
            );

    [Fact]
    public void What_is_entered_is_checked_field_by_field()
    {
        var today = new LocalDate(2026, 11, 24);
        var order = new AssetOrder(
            " ",
            today.PlusDays(1),
            Money.Usd(100),
            Money.Usd(100),
            0,
            null,
            new LoanOrder(null, Money.Usd(101), -1m, 0, null)
        );
        Assert.Equal(
            ["name", "inService", "salvage", "months", "loan.lender", "loan.principal", "loan.percent", "loan.months", "loan.firstOn"],
            Asset.Check(order, today).Problems.Select(p => p.Field)
        );
    }
}
