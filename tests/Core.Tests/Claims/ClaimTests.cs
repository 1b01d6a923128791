using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Claims;
using Xunit;

namespace SteadyLark.Core.Tests.Claims;

/// <summary>The deadlines of 49 CFR 370 and 49 USC 14706(e), and what holds a carrier's pay.</summary>
public class ClaimTests
{
    private static readonly LocalDate Filed = new(2026, 11, 2);

    private static readonly Claim Reported = new(
        "CL-1001",
        new LocalDate(2026, 10, 28),
        null,
        null,
        null,
        null,
        Money.Zero(),
        ByCarrier: true,
        null,
        Money.Zero(),
        false
    );

    private static readonly Claim Open = Reported with { FiledOn = Filed, Claimed = Money.Usd(420) };

    [Fact]
    public void A_claim_is_acknowledged_within_30_days_decided_within_120_and_then_reported_on_every_60()
    {
        Assert.Equal((new LocalDate(2027, 7, 28), "49 USC 14706(e)(1)"), (Reported.Next(Filed)!.On, Reported.Next(Filed)!.Rule));
        Assert.Equal(new LocalDate(2026, 12, 2), Open.Next(Filed)!.On);
        var acknowledged = Open with { AcknowledgedOn = Filed.PlusDays(3) };
        Assert.Equal(new LocalDate(2027, 3, 2), acknowledged.Next(Filed.PlusDays(120))!.On);
        Assert.Equal(
            [new LocalDate(2027, 5, 1), new LocalDate(2027, 5, 1), new LocalDate(2027, 6, 30)],
            new[] { 121, 180, 181 }.Select(days => acknowledged.Next(Filed.PlusDays(days))!.On)
        );
        Assert.Equal("49 CFR 370.9(b)", acknowledged.Next(Filed.PlusDays(121))!.Rule);
    }

    [Fact]
    public void The_next_deadline_is_never_past_once_the_claim_is_acknowledged() =>
        Gen.Int[0, 2000]
            .Sample(days =>
            {
                var today = Filed.PlusDays(days);
                var next = (Open with { AcknowledgedOn = Filed }).Next(today)!;
                Assert.InRange(Period.DaysBetween(today, next.On), 0, Claim.DecideDays);
            });

    [Fact]
    public void A_decided_claim_asks_for_our_claim_against_the_carrier_until_it_is_filed_or_recovered()
    {
        var paid = Open with { Outcome = ClaimOutcome.Paid, Allowed = Money.Usd(420) };
        Assert.Equal("file our claim with the carrier", paid.Next(Filed)!.What);
        Assert.Null((paid with { CarrierFiledOn = Filed }).Next(Filed));
        Assert.Null((paid with { ByCarrier = false }).Next(Filed));
        Assert.Null((Open with { Outcome = ClaimOutcome.Declined }).Next(Filed));
    }

    [Theory]
    [InlineData(null, 0, 0, false, true)]
    [InlineData(ClaimOutcome.Declined, 0, 0, false, false)]
    [InlineData(ClaimOutcome.Settled, 300, 299, false, true)]
    [InlineData(ClaimOutcome.Settled, 300, 300, false, false)]
    [InlineData(ClaimOutcome.Paid, 420, 0, true, false)]
    public void Pay_is_held_until_what_was_allowed_is_recovered_or_it_is_released(
        ClaimOutcome? outcome,
        int allowed,
        int recovered,
        bool released,
        bool held
    )
    {
        var claim = Open with { Outcome = outcome, Allowed = Money.Usd(allowed), Recovered = Money.Usd(recovered), IsReleased = released };
        Assert.Equal(held, claim.HoldsPay);
        Assert.False((claim with { ByCarrier = false }).HoldsPay);
    }

    [Fact]
    public void A_decision_allows_all_some_or_none_of_what_was_claimed()
    {
        Assert.Equal(Money.Usd(420), Open.Decide(ClaimOutcome.Paid, null, "ours").Value.Allowed);
        Assert.Equal(Money.Usd(300), Open.Decide(ClaimOutcome.Settled, Money.Usd(300), "salvage").Value.Allowed);
        Assert.Equal(Money.Zero(), Open.Decide(ClaimOutcome.Declined, Money.Usd(300), "act of God").Value.Allowed);
        Assert.Equal("claim.amount", Open.Decide(ClaimOutcome.Settled, Money.Usd(420), "x").Problems[0].Code);
        Assert.Equal("claim.not.filed", Reported.Decide(ClaimOutcome.Declined, null, "x").Problems[0].Code);
        Assert.True(Reported.Decide(ClaimOutcome.Withdrawn, null, "nothing came").Ok);
        Assert.Equal(["why", "outcome"], Open.Decide(null, null, null).Problems.Select(p => p.Field));
    }
}
