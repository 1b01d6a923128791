using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public class PayrollTests
{
    private static readonly LocalDate Monday = new(2026, 11, 16);
    private static readonly PayrollTerms Employee = new(WorkerKind.Employee, 7.65m, 7.25m);

    private static readonly DriverAgreement Rates = new([
        new PayRate(PayKind.PerMile, 0.60m, Monday.PlusYears(-1)),
        new PayRate(PayKind.PerDay, 66m, Monday.PlusYears(-1)),
        new PayRate(PayKind.PerHour, 22m, Monday.PlusYears(-1)),
    ]);

    private static SettlementStatement Week(
        PayrollTerms terms,
        int miles,
        decimal deduction = 0,
        DaysOut[]? days = null,
        PayItem[]? items = null,
        OpenAdvance[]? advances = null
    ) =>
        DriverSettlement.Settle(
            Monday,
            Rates,
            miles == 0 ? [] : [new WorkedLeg(1, 1, "6051", 3, "Missoula to Fargo", miles, Monday.PlusDays(3))],
            days ?? [],
            advances ?? [],
            items,
            deduction == 0 ? [] : [new RecurringDeduction(1, "insurance", Money.Usd(deduction), "2200", Monday, null)],
            payroll: terms
        );

    /// <summary>1,000 miles at $0.60 are $600 of wages; three days of per diem are not taxed: 7.65 % of $600 is $45.90.</summary>
    [Fact]
    public void Employer_tax_is_on_wages_without_per_diem()
    {
        var week = Week(Employee, 1000, days: [new DaysOut(Monday, Monday.PlusDays(2))]);
        Assert.Equal((798m, 45.90m, 798m), (week.Earned.Amount, week.EmployerTax.Amount, week.Net.Amount));
        var line = PayrollLine.Of("Lena Haugen", WorkerKind.Employee, week);
        Assert.Equal((600m, 198m, 45.90m), (line.Wages.Amount, line.PerDiem.Amount, line.EmployerTax.Amount));
        Assert.Equal(0m, Week(Employee with { Worker = WorkerKind.OwnerOperator }, 1000).EmployerTax.Amount);
    }

    /// <summary>Three days out count as 36 hours: $261 at $7.25 are left of $300, and $461 of the $500 carry over.</summary>
    [Fact]
    public void Deductions_leave_an_employee_the_minimum_wage_and_the_rest_carries_over()
    {
        var days = new[]
        {
            new DaysOut(Monday, Monday),
            new DaysOut(Monday.PlusDays(1), Monday.PlusDays(1)),
            new DaysOut(Monday.PlusDays(2), Monday.PlusDays(2)),
        };
        var week = Week(Employee, 500, 500m, days);
        Assert.Equal((300m, 261m, 461m), (week.Earned.Amount, week.Net.Amount, week.CarriedOver.Amount));
        var contractor = Week(Employee with { Worker = WorkerKind.Contractor }, 500, 500m, days);
        Assert.Equal((0m, 200m), (contractor.Net.Amount, contractor.CarriedOver.Amount));

        // An advance takes only what is above it.
        var advance = Week(Employee, 500, 0, days, advances: [new OpenAdvance(9, Monday, null, Money.Usd(100))]);
        Assert.Equal((39m, 261m), (advance.Deducted.Amount, advance.Net.Amount));
    }

    [Fact]
    public void The_time_sheet_counts_before_days_out_and_reimbursements_are_never_deducted_from()
    {
        var sheet = new PayItem(1, PayItemKind.Hours, Monday, "yard", 10m, null, null);
        var toll = new PayItem(2, PayItemKind.Reimbursement, Monday, "tolls", null, Money.Usd(40), "5300");
        var week = Week(Employee, 0, 500m, [new DaysOut(Monday, Monday)], [sheet, toll]);
        Assert.Equal((220m, 72.50m + 40m), (week.Earned.Amount, week.Net.Amount));
    }

    [Fact]
    public void Per_diem_needs_a_night_away()
    {
        var day = Week(Employee, 300, days: [new DaysOut(Monday, Monday)]);
        Assert.Equal((1, 180m), (day.DaysOut, day.Earned.Amount));
        Assert.Equal(2 * 66m, Week(Employee, 0, days: [new DaysOut(Monday, Monday.PlusDays(1))]).Earned.Amount);

        // The Sunday of a trip that ends on Monday.
        Assert.Equal(66m, Week(Employee, 0, days: [new DaysOut(Monday.PlusDays(-1), Monday)]).Earned.Amount);
    }

    [Theory]
    [InlineData(WorkerKind.Employee, "5100")]
    [InlineData(WorkerKind.Contractor, "5140")]
    [InlineData(WorkerKind.OwnerOperator, "5020")]
    public void Pay_and_tax_go_to_the_accounts_of_the_kind_of_worker(WorkerKind worker, string account)
    {
        var entry = Postings.SettlementApproved(
            Monday.PlusDays(6),
            "Lena Haugen",
            1,
            5,
            Week(Employee with { Worker = worker }, 1000),
            null
        );
        decimal Of(string code) => entry.Lines.Where(l => l.Account == code).Sum(l => l.Debit - l.Credit);
        var tax = worker == WorkerKind.Employee ? 45.90m : 0m;
        Assert.Equal((600m, tax, -tax, -600m), (Of(account), Of("5130"), Of("2210"), Of("2100")));
    }

    /// <summary>Whatever is earned and deducted: nothing is lost between pay and carryover, an employee keeps the minimum wage, nobody is paid
    /// more than they earned.</summary>
    [Fact]
    public void Net_pay_and_carryover_equal_earnings_less_deductions() =>
        Gen.Select(Gen.Int[0, 3000], Gen.Int[0, 90_000], Gen.Int[0, 6], Gen.Int[0, 40_000], Gen.Enum<WorkerKind>())
            .Sample(
                (miles, deducted, days, advance, worker) =>
                {
                    var terms = Employee with { Worker = worker };
                    var week = Week(
                        terms,
                        miles,
                        deducted / 100m,
                        days == 0 ? [] : [new DaysOut(Monday, Monday.PlusDays(days - 1))],
                        advances: advance == 0 ? [] : [new OpenAdvance(9, Monday, null, Money.Usd(advance / 100m))]
                    );
                    Assert.Equal(week.Earned - week.Deducted, week.Net - week.CarriedOver);
                    Assert.True(week.Net.Amount >= terms.Protected(week.Earned, 0, days).Amount);
                    Assert.True(week.Net <= week.Earned);
                    Assert.True(week.CarriedOver.Amount == 0 || week.Deductions.All(d => d.AdvanceId is null));
                }
            );

    [Theory]
    [InlineData(-1, 7.25, "payrollTaxPercent")]
    [InlineData(7.6501, 7.25, "payrollTaxPercent")]
    [InlineData(7.65, 101, "minimumWage")]
    [InlineData(7.65, 7.255, "minimumWage")]
    public void Settings_are_checked(double tax, double wage, string field)
    {
        var validation = new Validation();
        PayrollTerms.Check((decimal)tax, (decimal)wage, validation);
        Assert.Equal([field], validation.Problems.Select(p => p.Field));
    }
}
