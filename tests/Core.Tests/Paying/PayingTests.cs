using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public class DriverWeekTests
{
    private static readonly LocalDate Monday = new(2026, 11, 9);
    private static readonly LocalDate Since = new(2026, 1, 1);
    private static readonly DriverAgreement Agreement = new([
        new PayRate(PayKind.PerMile, 0.60m, Since),
        new PayRate(PayKind.PerDay, 66m, Since),
    ]);

    private static WorkedLeg Leg(long id, int miles, int day) =>
        new(id, id, $"20{id:00}", 118, "Missoula to Boise", miles, Monday.PlusDays(day));

    [Fact]
    public void A_settlement_is_legs_and_days_out_less_advances()
    {
        var week = DriverSettlement.Settle(
            Monday,
            Agreement,
            [Leg(3, 357, 1), Leg(8, 664, 3), Leg(12, 400, 7)],
            [
                new DaysOut(Monday.PlusDays(-2), Monday),
                new DaysOut(Monday.PlusDays(1), Monday.PlusDays(3)),
                new DaysOut(Monday.PlusDays(3), Monday.PlusDays(3)),
            ],
            [new OpenAdvance(1, Monday, "on the fuel card", Money.Usd(176)), new OpenAdvance(2, Monday.PlusDays(8), null, Money.Usd(50))]
        );
        Assert.Equal([214.20m, 398.40m], week.Legs.Select(l => l.Amount.Amount));
        Assert.Equal(4, week.DaysOut);
        Assert.Equal(Money.Usd(214.20m + 398.40m + 264m - 176m), week.Net);
        Assert.Equal(new LocalDate(2026, 11, 20), week.PayDay);
    }

    [Fact]
    public void An_advance_larger_than_the_week_leaves_the_rest_for_the_next()
    {
        var week = DriverSettlement.Settle(Monday, Agreement, [Leg(1, 100, 0)], [], [new OpenAdvance(1, Monday, null, Money.Usd(500))]);
        Assert.Equal((Money.Usd(60), Money.Zero()), (week.Deducted, week.Net));
    }

    [Fact]
    public void Every_leg_is_paid_in_exactly_one_week_and_no_advance_takes_more_than_was_earned() =>
        Gen.Select(Gen.Int[1, 2000].List[0, 12], Gen.Int[0, 27].List[12, 12], Gen.Int[1, 90_000].List[0, 4])
            .Sample(
                (miles, days, advances) =>
                {
                    var legs = miles.Select((m, i) => Leg(i + 1, m, days[i])).ToList();
                    var open = advances.Select((d, i) => new OpenAdvance(i + 1, Monday, null, Money.Usd(d / 100m))).ToList();
                    var weeks = Enumerable
                        .Range(0, 4)
                        .Select(n => DriverSettlement.Settle(Monday.PlusWeeks(n), Agreement, legs, [], open))
                        .ToList();
                    return weeks.SelectMany(w => w.Legs).Select(l => l.LegId).Order().SequenceEqual(legs.Select(l => l.LegId))
                        && weeks.All(w =>
                            w.Net >= Money.Zero()
                            && w.Deducted <= w.Earned
                            && w.CarriedOver.Amount == 0
                            && w.Deductions.All(d => d.Amount <= open.First(o => o.AdvanceId == d.AdvanceId).Open)
                        );
                }
            );

    [Fact]
    public void Each_pay_rate_pays_its_unit_from_its_start_date()
    {
        var agreement = new DriverAgreement([
            new(PayKind.PercentOfLineHaul, 25m, Since),
            new(PayKind.PerExtraStop, 30m, Since),
            new(PayKind.PerEmptyMile, 0.40m, Since),
            new(PayKind.PerHour, 22.50m, Since),
            new(PayKind.PerWeek, 100m, Since),
            new(PayKind.PerMile, 0.50m, Since),
            new(PayKind.PerMile, 0.55m, Monday.PlusDays(3)),
            new(PayKind.PerDay, 66m, Since),
            new(PayKind.PerDay, 0m, Monday),
        ]);
        var early = Leg(1, 100, 1) with { LineHaul = Money.Usd(1000.10m), Stops = 4, EmptyMiles = 35 };
        var late = Leg(2, 100, 4) with { LineHaul = Money.Usd(400m) };
        var week = DriverSettlement.Settle(
            Monday,
            agreement,
            [early, late],
            [new DaysOut(Monday, Monday.PlusDays(2))],
            [],
            [
                new PayItem(7, PayItemKind.Hours, Monday.PlusDays(5), "yard", 3.5m, null, null),
                new PayItem(8, PayItemKind.Extra, Monday, "tarp", null, Money.Usd(40), null),
                new PayItem(9, PayItemKind.Reimbursement, Monday, "scale", null, Money.Usd(15), "5300"),
            ]
        );
        Assert.Equal(
            [
                (PayKind.PerMile, 50m),
                (PayKind.PerEmptyMile, 14m),
                (PayKind.PercentOfLineHaul, 250.03m),
                (PayKind.PerExtraStop, 60m),
                (PayKind.PerMile, 55m),
                (PayKind.PercentOfLineHaul, 100m),
                (null, 40m),
                (PayKind.PerHour, 78.75m),
                (PayKind.PerWeek, 100m),
            ],
            week.Lines.Select(l => (l.Kind, l.Amount.Amount))
        );
        Assert.Equal(3, week.DaysOut);
        Assert.Equal((Money.Usd(15), "5300"), (week.Reimbursements[0].Amount, week.Reimbursements[0].Account));
        Assert.Equal(week.Earned + Money.Usd(15), week.Net);
    }

    [Theory]
    [InlineData(new[] { 300, 600 }, new[] { 333.33, 666.67 })]
    [InlineData(new[] { 0, 0, 0 }, new[] { 333.33, 333.34, 333.33 })]
    [InlineData(new[] { 500 }, new[] { 1000.0 })]
    public void A_split_load_shares_its_line_haul_by_miles_to_the_cent(int[] miles, double[] shares) =>
        Assert.Equal(
            shares.Select(s => Money.Usd((decimal)s)),
            miles.Select((_, leg) => DriverAgreement.Share(Money.Usd(1000), miles, leg))
        );

    [Fact]
    public void Deductions_beyond_the_week_are_carried_over_and_advances_wait()
    {
        var recurring = new[]
        {
            new RecurringDeduction(1, "insurance", Money.Usd(80), "2200", Monday, null),
            new RecurringDeduction(2, "ended", Money.Usd(500), "2200", Monday.PlusDays(-30), Monday.PlusDays(-1)),
        };
        var week = DriverSettlement.Settle(
            Monday,
            Agreement,
            [Leg(1, 100, 0)],
            [],
            [new OpenAdvance(4, Monday, null, Money.Usd(10))],
            [new PayItem(3, PayItemKind.Deduction, Monday, "damage", null, Money.Usd(50), "2200")],
            recurring
        );
        Assert.Equal(
            (Money.Usd(60), Money.Usd(130), Money.Zero(), Money.Usd(70)),
            (week.Earned, week.Deducted, week.Net, week.CarriedOver)
        );
        Assert.DoesNotContain(week.Deductions, d => d.AdvanceId is not null);
        // The next week takes the shortfall like an advance, and its own deduction first.
        var next = DriverSettlement.Settle(
            Monday.PlusWeeks(1),
            Agreement,
            [Leg(2, 200, 8)],
            [],
            [new OpenAdvance(5, Monday.PlusDays(6), "carried over", Money.Usd(70))],
            [],
            recurring
        );
        Assert.Equal((Money.Usd(120), Money.Zero(), Money.Zero()), (next.Deducted, next.Net, next.CarriedOver));
        Assert.Equal(Money.Usd(40), next.Deductions.Single(d => d.AdvanceId == 5).Amount);
    }

    [Fact]
    public void Over_any_weeks_net_pay_and_carryover_equal_earnings_less_deductions() =>
        Gen.Select(Gen.Int[0, 400].Array[6], Gen.Int[0, 300].Array[6], Gen.Int[0, 200])
            .Sample(
                (miles, off, weekly) =>
                {
                    var recurring = weekly > 0 ? new[] { new RecurringDeduction(1, "x", Money.Usd(weekly), "2200", Monday, null) } : [];
                    var advances = new List<OpenAdvance>();
                    var (earned, kept, paid, id) = (0m, 0m, 0m, 100L);
                    for (var n = 0; n < 6; n++)
                    {
                        var monday = Monday.PlusWeeks(n);
                        List<PayItem> items =
                            off[n] > 0 ? [new PayItem(n + 1, PayItemKind.Deduction, monday, "y", null, Money.Usd(off[n]), "2200")] : [];
                        var week = DriverSettlement.Settle(
                            monday,
                            Agreement,
                            miles[n] > 0 ? [Leg(n + 1, miles[n], n * 7)] : [],
                            [],
                            advances,
                            items,
                            recurring
                        );
                        advances = advances
                            .Select(d =>
                                d with
                                {
                                    Open = d.Open - Money.Sum(week.Deductions.Where(x => x.AdvanceId == d.AdvanceId).Select(x => x.Amount)),
                                }
                            )
                            .Where(d => d.Open.Amount > 0)
                            .ToList();
                        if (week.CarriedOver.Amount > 0)
                        {
                            advances.Add(new OpenAdvance(++id, monday.PlusDays(6), null, week.CarriedOver));
                        }

                        earned += week.Earned.Amount;
                        kept += week.Deductions.Where(d => d.AdvanceId is null).Sum(d => d.Amount.Amount);
                        paid += week.Net.Amount;
                    }

                    return paid - advances.Sum(d => d.Open.Amount) == earned - kept;
                }
            );

    [Fact]
    public void Weeks_begin_on_monday() =>
        Gen.Int[0, 20_000]
            .Sample(n =>
                DriverSettlement.MondayOf(new LocalDate(2000, 1, 1).PlusDays(n)) is var m
                && m.DayOfWeek == IsoDayOfWeek.Monday
                && Period.DaysBetween(m, new LocalDate(2000, 1, 1).PlusDays(n)) is >= 0 and < 7
            );
}

public class VendorBillTests
{
    private static readonly IReadOnlyList<Account> Chart =
    [
        .. Accounts.All,
        .. Accounts.ToBeginWith,
        new("5295", "Old fuel", AccountKind.Expense, Inactive: true),
    ];

    private static BillLineOrder Line(string account, decimal amount) => new(account, null, Money.Usd(amount), null, null, null);

    [Fact]
    public void Bill_lines_add_up_to_the_amount_in_accounts_open_to_entry()
    {
        Assert.Equal("5000", VendorBill.Lines(Money.Usd(700), null, 4, Chart).Value.Single().Account);
        Assert.Equal("lines", VendorBill.Lines(Money.Usd(700), null, null, Chart).Problems[0].Field);
        Assert.Equal(2, VendorBill.Lines(Money.Usd(700), [Line("5400", 500), Line("6100", 200)], null, Chart).Value.Count);
        Assert.Equal(
            "$50.00",
            VendorBill.Lines(Money.Usd(700), [Line("5400", 650)], null, Chart).Problems[0].Message.Split(": ")[1].Split(' ')[0]
        );
        foreach (var (account, code) in new[] { ("2000", "account.kept"), ("5295", "account.retired"), ("9999", "account.unknown") })
        {
            Assert.Equal(
                (code, "lines[0].account"),
                (
                    VendorBill.Lines(Money.Usd(1), [Line(account, 1)], null, Chart).Problems[0].Code,
                    VendorBill.Lines(Money.Usd(1), [Line(account, 1)], null, Chart).Problems[0].Field
                )
            );
        }
    }

    [Fact]
    public void A_bill_approved_for_less_reduces_its_last_lines() =>
        Gen.Select(Gen.Int[1, 90_000].List[1, 6], Gen.Int[0, 100])
            .Sample(
                (cents, percent) =>
                {
                    var lines = cents.Select(c => new BillLine("5400", null, Money.Usd(c / 100m), null, null, null)).ToList();
                    var by = Money.Usd(Math.Round(lines.Sum(l => l.Amount.Amount) * percent / 100, 2));
                    var less = VendorBill.Less(lines, by);
                    return Money.Sum(less.Select(l => l.Amount)) == by && less.All(l => l.Amount.Amount > 0);
                }
            );

    [Fact]
    public void Approver_and_payer_differ_where_the_company_requires_it()
    {
        Assert.NotNull(TwoPeople.Refuses(3, 3, required: true));
        Assert.Null(TwoPeople.Refuses(3, 4, required: true));
        Assert.Null(TwoPeople.Refuses(3, 3, required: false));
    }
}

public class BillMatchTests
{
    private static readonly BillMatch Over = BillMatch.Of(Money.Usd(1200), Money.Usd(1340));

    [Fact]
    public void A_bill_over_the_agreed_amount_is_approved_only_with_a_reason()
    {
        Assert.Equal(Money.Usd(140), Over.Difference);
        Assert.Equal("over.agreed", Over.Approve(Money.Usd(1340), " ").Problems[0].Code);
        Assert.Equal(Money.Usd(1340), Over.Approve(Money.Usd(1340), "lumper receipt is here").Value);
        Assert.Equal(Money.Usd(1200), Over.Approve(Money.Usd(1200), null).Value);
        Assert.Equal("over.billed", Over.Approve(Money.Usd(1341), "why not").Problems[0].Code);
    }
}
