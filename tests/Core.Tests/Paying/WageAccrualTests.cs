using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

/// <summary>Work that one month has and another settles, and work that is reported late.</summary>
public class WageAccrualTests
{
    // A Monday; November ends on the day before December's first Tuesday.
    private static readonly LocalDate Nov23 = new(2026, 11, 23);
    private static readonly LocalDate Nov30 = new(2026, 11, 30);
    private static readonly LocalDate Since = new(2026, 1, 1);
    private static readonly HashSet<LocalDate> None = [];

    private static readonly DriverAgreement ByTheMile = new([
        new PayRate(PayKind.PerMile, 0.60m, Since),
        new PayRate(PayKind.PerDay, 66m, Since),
    ]);

    private static WorkedLeg Leg(long id, int miles, LocalDate on) => new(id, id, $"61{id:00}", 118, "Missoula to Boise", miles, on);

    [Fact]
    public void The_days_of_a_month_in_the_week_that_goes_on_after_it_are_its_wages()
    {
        // November 30, 2026 is a Monday: its week is settled in December.
        WorkedLeg[] legs = [Leg(1, 500, Nov30), Leg(2, 700, Nov30.PlusDays(2))];
        DaysOut[] days = [new(Nov30, Nov30.PlusDays(2))];
        Assert.Equal(Money.Usd(300 + 66), WageAccrual.Earned(Nov30, ByTheMile, legs, days, [], None));
    }

    [Fact]
    public void A_week_of_the_month_that_is_not_approved_yet_is_its_wages_and_an_approved_one_is_not()
    {
        WorkedLeg[] legs = [Leg(1, 500, Nov23.PlusDays(3))];
        Assert.Equal(Money.Usd(300), WageAccrual.Earned(Nov30, ByTheMile, legs, [], [], None));
        // Approved with the week: the caller does not name the leg, and the week's days out are paid.
        Assert.Equal(
            Money.Zero(),
            WageAccrual.Earned(Nov30, ByTheMile, [], [new(Nov23, Nov23.PlusDays(3))], [], new HashSet<LocalDate> { Nov23 })
        );
        // Reported after its week was approved: it is paid in the next.
        Assert.Equal(Money.Usd(300), WageAccrual.Earned(Nov30, ByTheMile, legs, [], [], new HashSet<LocalDate> { Nov23 }));
    }

    [Theory]
    [InlineData("2026-11-30", 200)] // a Monday
    [InlineData("2026-12-31", 800)] // a Thursday
    [InlineData("2026-10-31", 1000)] // a Saturday
    public void A_salary_counts_by_its_working_days(string last, decimal wanted)
    {
        var salary = new DriverAgreement([new PayRate(PayKind.PerWeek, 1000m, Since)]);
        var day = NodaTime.Text.LocalDatePattern.Iso.Parse(last).Value;
        Assert.Equal(wanted, WageAccrual.Earned(day, salary, [], [], [], None).Amount);
    }

    [Fact]
    public void What_is_accrued_is_what_the_settlements_pay_through_the_day() =>
        Gen.Select(Gen.Int[1, 900].List[0, 10], Gen.Int[-20, 20].List[10, 10])
            .Sample(
                (miles, days) =>
                {
                    var legs = miles.Select((m, i) => Leg(i + 1, m, Nov30.PlusDays(days[i]))).ToList();
                    var paid = Enumerable
                        .Range(-4, 9)
                        .SelectMany(n => DriverSettlement.Settle(Nov30.PlusWeeks(n), ByTheMile, legs, [], []).Lines)
                        .Where(l => l.On <= Nov30);
                    return WageAccrual.Earned(Nov30, ByTheMile, legs, [], [], None) == Money.Sum(paid.Select(l => l.Amount));
                }
            );

    [Fact]
    public void The_accrual_is_taken_back_on_the_first_of_the_next_month()
    {
        var entries = Postings.WagesAccrued(new LocalDate(2026, 11, 1), [(5, Money.Usd(366)), (8, Money.Usd(90))]);
        Assert.Equal([Nov30, new LocalDate(2026, 12, 1)], entries.Select(e => e.PostedOn));
        Assert.All(entries, e => Assert.Equal((456m, 202611L), (e.Total, e.SourceId)));
        Assert.All(entries.SelectMany(e => e.Lines).GroupBy(l => (l.Account, l.For.DriverId)), g =>
            Assert.Equal(0, g.Sum(l => l.Debit - l.Credit))
        );
        Assert.Empty(Postings.WagesAccrued(new LocalDate(2026, 11, 1), []));
    }

    [Fact]
    public void Work_reported_after_its_week_was_approved_is_paid_once_in_the_next_week_that_is_not()
    {
        WorkedLeg[] late = [Leg(1, 500, Nov23.PlusDays(3))];
        decimal Paid(LocalDate monday, params LocalDate[] approved) =>
            DriverSettlement.Settle(monday, ByTheMile, late, [], [], approved: approved.ToHashSet()).Earned.Amount;
        Assert.Equal((300m, 0m), (Paid(Nov23), Paid(Nov30)));
        Assert.Equal((0m, 300m, 0m), (Paid(Nov23, Nov23), Paid(Nov30, Nov23), Paid(Nov30.PlusWeeks(1), Nov23)));
        Assert.Equal(300m, Paid(Nov30.PlusWeeks(1), Nov23, Nov30));
    }
}
