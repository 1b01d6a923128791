using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public class SettlementStateTests
{
    private static readonly LocalDate Friday = new(2026, 11, 20);

    [Fact]
    public void An_approved_settlement_can_be_paid_or_its_approval_reversed()
    {
        var state = new SettlementState("Moses Okafor", null, Money.Zero());
        Assert.Null(state.PayRefusal);
        Assert.Null(state.UnapproveRefusal);
        Assert.Equal("settlement.state", state.UnpayRefusal!.Code);
    }

    [Fact]
    public void A_paid_settlement_can_only_have_its_payment_reversed()
    {
        var state = new SettlementState("Moses Okafor", Friday, Money.Zero());
        Assert.Equal("This settlement was already paid on Nov 20.", state.PayRefusal!.Message);
        Assert.Equal("This settlement was paid on Nov 20: reverse the payment first.", state.UnapproveRefusal!.Message);
        Assert.Null(state.UnpayRefusal);
    }

    [Fact]
    public void An_approval_stands_while_a_later_settlement_deducts_its_carryover() =>
        Assert.Equal(
            "A later settlement for Moses Okafor deducted $12.50 of this one's carryover: reverse that approval first.",
            new SettlementState("Moses Okafor", null, Money.Usd(12.5m)).UnapproveRefusal!.Message
        );

    [Theory]
    [InlineData(16, true)]
    [InlineData(22, true)]
    [InlineData(23, false)]
    public void A_week_is_approved_once_its_sunday_is_over(int day, bool refused) =>
        Assert.Equal(
            refused,
            SettlementState.NotYet(new LocalDate(2026, 11, 16), new LocalDate(2026, 11, day)) is { Code: "settlement.running" }
        );

    [Fact]
    public void An_advance_is_voided_before_it_is_deducted_and_a_carryover_never()
    {
        var advance = new AdvanceState(false, Money.Zero(), false);
        Assert.Null(advance.VoidRefusal);
        Assert.Equal("advance.void", (advance with { IsVoid = true }).VoidRefusal!.Code);
        Assert.Equal("advance.deducted", (advance with { Deducted = Money.Usd(20) }).VoidRefusal!.Code);
        Assert.Equal("advance.carried", (advance with { IsCarryover = true }).VoidRefusal!.Code);
    }
}
