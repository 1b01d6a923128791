using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public class PayOrderTests
{
    private static readonly List<Account> Chart = [.. Accounts.All, .. Accounts.ToBeginWith];

    private static (PayItem? Item, List<string?> Fields) Item(PayItemOrder order)
    {
        var validation = new Validation();
        var item = order.Check(Chart, Some.Today, validation);
        return (item, validation.Problems.Select(p => p.Field).ToList());
    }

    [Fact]
    public void Hours_have_no_amount_and_everything_else_has_no_hours()
    {
        var hours = Item(new PayItemOrder(PayItemKind.Hours, "yard work", null, 6.25m, Money.Usd(99), null, null)).Item!;
        Assert.Equal((6.25m, (Money?)null, Some.Today), (hours.Hours, hours.Amount, hours.On));
        var lumper = Item(new PayItemOrder(PayItemKind.Reimbursement, "lumper", null, 3, Money.Usd(120), null, 9)).Item!;
        Assert.Equal(
            ((decimal?)null, Money.Usd(120), Accounts.DriverReimbursements.Code, 9L),
            (lumper.Hours, lumper.Amount!.Value, lumper.Account, lumper.LoadId!.Value)
        );
        Assert.Equal(
            Accounts.Withheld.Code,
            Item(new PayItemOrder(PayItemKind.Deduction, "uniform", null, null, Money.Usd(20), null, null)).Item!.Account
        );
    }

    [Theory]
    [InlineData(0)]
    [InlineData(24.01)]
    [InlineData(7.125)]
    public void Hours_are_part_of_a_day_to_the_hundredth(decimal hours) =>
        Assert.Equal(["hours"], Item(new PayItemOrder(PayItemKind.Hours, "yard work", null, hours, null, null, null)).Fields);

    [Fact]
    public void What_is_missing_is_said_at_once() =>
        Assert.Equal(["what", "on", "kind"], Item(new PayItemOrder(null, " ", new LocalDate(2062, 1, 1), null, null, null, null)).Fields);

    [Fact]
    public void Accounts_kept_by_documents_take_no_pay_item() =>
        Assert.Equal(
            ["account"],
            Item(new PayItemOrder(PayItemKind.Reimbursement, "lumper", null, null, Money.Usd(20), Accounts.Receivable.Code, null)).Fields
        );

    [Fact]
    public void Hours_need_an_hourly_rate_on_their_day()
    {
        var hours = Item(new PayItemOrder(PayItemKind.Hours, "yard work", null, 5, null, null, null)).Item!;
        var later = new DriverAgreement([new PayRate(PayKind.PerHour, 24, Some.Today.PlusDays(1))]);
        Assert.Equal(
            "R. Begaye has no hourly rate on Nov 23: add one to the pay rates first.",
            hours.RateRefusal("R. Begaye", later)!.Message
        );
        Assert.Null((hours with { On = Some.Today.PlusDays(1) }).RateRefusal("R. Begaye", later));
    }

    [Theory]
    [InlineData(PayKind.PerMile, 0.62, true)]
    [InlineData(PayKind.PerMile, 0.62001, false)]
    [InlineData(PayKind.PercentOfLineHaul, 100, true)]
    [InlineData(PayKind.PercentOfLineHaul, 100.5, false)]
    [InlineData(PayKind.PerHour, -1, false)]
    public void Rates_have_a_range_of_their_kind(PayKind kind, decimal rate, bool ok)
    {
        var validation = new Validation();
        Assert.Equal(ok, new PayRateOrder(kind, rate, null).Check(Some.Today, validation) is not null);
        Assert.Equal(ok ? [] : ["rate"], validation.Problems.Select(p => p.Field));
    }

    [Fact]
    public void A_recurring_deduction_ends_after_it_starts()
    {
        var validation = new Validation();
        Assert.Null(
            new RecurringDeductionOrder("insurance", Money.Usd(38.5m), null, Some.Today, Some.Today.PlusDays(-1)).Check(
                Chart,
                Some.Today,
                validation
            )
        );
        Assert.Equal(["until"], validation.Problems.Select(p => p.Field));
        Assert.Equal(
            Accounts.Withheld.Code,
            new RecurringDeductionOrder("insurance", Money.Usd(38.5m), " ", null, null).Check(Chart, Some.Today, new Validation())!.Account
        );
    }
}
