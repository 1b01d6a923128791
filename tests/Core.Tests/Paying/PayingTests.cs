using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public class DriverWeekTests
{
    private static readonly LocalDate Monday = new(2026, 11, 9);
    private static readonly DriverAgreement Agreement = new(0.60m, 66m);

    private static WorkedLeg Leg(long id, int miles, int day) => new(id, id, $"20{id:00}", 118, "Missoula to Boise", miles, Monday.PlusDays(day));

    [Fact]
    public void A_week_is_its_legs_its_days_out_and_less_what_was_drawn()
    {
        var week = DriverWeek.Settle(
            Monday, Agreement, [Leg(3, 357, 1), Leg(8, 664, 3), Leg(12, 400, 7)],
            [new DaysOut(Monday.PlusDays(-2), Monday), new DaysOut(Monday.PlusDays(1), Monday.PlusDays(3)), new DaysOut(Monday.PlusDays(3), Monday.PlusDays(3))],
            [new OpenDraw(1, Monday, "on the fuel card", Money.Usd(176)), new OpenDraw(2, Monday.PlusDays(8), null, Money.Usd(50))]);
        Assert.Equal([214.20m, 398.40m], week.Legs.Select(l => l.Amount.Amount));
        Assert.Equal(4, week.PerDiemDays);
        Assert.Equal(Money.Usd(214.20m + 398.40m + 264m - 176m), week.Net);
        Assert.Equal(new LocalDate(2026, 11, 20), week.PayDay);
    }

    [Fact]
    public void A_draw_larger_than_the_week_leaves_the_rest_for_the_next()
    {
        var week = DriverWeek.Settle(Monday, Agreement, [Leg(1, 100, 0)], [], [new OpenDraw(1, Monday, null, Money.Usd(500))]);
        Assert.Equal((Money.Usd(60), Money.Zero()), (week.Deducted, week.Net));
    }

    [Fact]
    public void Every_leg_is_paid_in_exactly_one_week_and_no_draw_takes_more_than_was_earned() =>
        Gen.Select(Gen.Int[1, 2000].List[0, 12], Gen.Int[0, 27].List[12, 12], Gen.Int[1, 90_000].List[0, 4]).Sample((miles, days, draws) =>
        {
            var legs = miles.Select((m, i) => Leg(i + 1, m, days[i])).ToList();
            var open = draws.Select((d, i) => new OpenDraw(i + 1, Monday, null, Money.Usd(d / 100m))).ToList();
            var weeks = Enumerable.Range(0, 4).Select(n => DriverWeek.Settle(Monday.PlusWeeks(n), Agreement, legs, [], open)).ToList();
            return weeks.SelectMany(w => w.Legs).Select(l => l.LegId).Order().SequenceEqual(legs.Select(l => l.LegId))
                && weeks.All(w => w.Net >= Money.Zero() && w.Deducted <= w.Earned && w.Deductions.All(d => d.Amount <= open.First(o => o.DrawId == d.DrawId).Open));
        });

    [Fact]
    public void Weeks_begin_on_monday() =>
        Gen.Int[0, 20_000].Sample(n => DriverWeek.MondayOf(new LocalDate(2000, 1, 1).PlusDays(n)) is var m && m.DayOfWeek == IsoDayOfWeek.Monday && Period.DaysBetween(m, new LocalDate(2000, 1, 1).PlusDays(n)) is >= 0 and < 7);
}

public class BillMatchTests
{
    private static readonly BillMatch Over = BillMatch.Of(Money.Usd(1200), Money.Usd(1340));

    [Fact]
    public void A_bill_over_what_was_agreed_is_approved_only_with_a_reason()
    {
        Assert.Equal(Money.Usd(140), Over.Difference);
        Assert.Equal("over.agreed", Over.Approve(Money.Usd(1340), " ").Problems[0].Code);
        Assert.Equal(Money.Usd(1340), Over.Approve(Money.Usd(1340), "lumper receipt is here").Value);
        Assert.Equal(Money.Usd(1200), Over.Approve(Money.Usd(1200), null).Value);
        Assert.Equal("over.billed", Over.Approve(Money.Usd(1341), "why not").Problems[0].Code);
    }
}
