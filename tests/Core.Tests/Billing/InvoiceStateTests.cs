using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using Xunit;

namespace SteadyLark.Core.Tests.Billing;

public class InvoiceStateTests
{
    [Fact]
    public void An_invoice_is_voided_only_while_nothing_is_paid_on_it()
    {
        var open = new InvoiceState("2207", IsVoid: false, Money.Zero(), Money.Usd(900));
        Assert.Null(open.VoidRefusal);
        Assert.Null(open.ResendRefusal);
        Assert.Equal(
            "$250.00 of invoice 2207 was paid, credited or written off: reverse that first.",
            (open with { Paid = Money.Usd(250) }).VoidRefusal!.Message
        );
        Assert.Equal("Invoice 2207 is already void.", (open with { IsVoid = true }).VoidRefusal!.Message);
        Assert.Equal("Invoice 2207 is void: bill its loads again.", (open with { IsVoid = true }).ResendRefusal!.Message);
    }

    [Fact]
    public void Credit_is_used_while_there_is_some()
    {
        Assert.Null(new PaymentState(false, Money.Usd(0.01m), Money.Zero()).UseCreditRefusal);
        Assert.Equal("credit.none", new PaymentState(false, Money.Zero(), Money.Zero()).UseCreditRefusal!.Code);
        Assert.Equal("credit.none", new PaymentState(true, Money.Usd(50), Money.Zero()).UseCreditRefusal!.Code);
        Assert.Equal("payment.reversed", new PaymentState(true, Money.Usd(50), Money.Zero()).ReverseRefusal!.Code);
        Assert.Null(new PaymentState(false, Money.Zero(), Money.Zero()).ReverseRefusal);
    }

    [Fact]
    public void A_write_off_without_a_payment_is_never_more_than_is_open_and_says_why()
    {
        var state = new InvoiceState("2207", IsVoid: false, Money.Usd(100), Money.Usd(800));
        Assert.Equal(
            (Money.Usd(800), ShortPayReason.Uncollectible, "bankrupt"),
            state.WriteOff(null, ShortPayReason.Uncollectible, "bankrupt").Value
        );
        Assert.Equal(Money.Usd(50), state.WriteOff(Money.Usd(50), ShortPayReason.Claim, "two cases short").Value.Amount);
        Assert.Equal(["reason", "kind"], state.WriteOff(null, null, " ").Problems.Select(p => p.Field));
        Assert.Equal("currency", state.WriteOff(new Money(50, Currency.CAD), ShortPayReason.Claim, "x").Problems.Single().Code);
        Assert.Equal("over.open", state.WriteOff(Money.Usd(800.01m), ShortPayReason.Claim, "x").Problems.Single().Code);
        Assert.Equal("invoice.closed", (state with { IsVoid = true }).WriteOff(null, ShortPayReason.Claim, "x").Problems.Single().Code);
        Assert.Equal(
            "invoice.closed",
            (state with { Open = Money.Zero() }).WriteOff(null, ShortPayReason.Claim, "x").Problems.Single().Code
        );
    }

    [Fact]
    public void A_refund_is_never_more_than_the_credit_and_keeps_its_payment_from_being_reversed()
    {
        static (Money, string?) Refund(PaymentState state, Money? wanted)
        {
            var validation = new Validation();
            return (state.Refund(wanted, validation), validation.Problems.Select(p => p.Code).FirstOrDefault());
        }

        var credit = new PaymentState(false, Money.Usd(50), Money.Zero());
        Assert.Equal((Money.Usd(50), null), Refund(credit, null));
        Assert.Equal((Money.Usd(20), null), Refund(credit, Money.Usd(20)));
        Assert.Equal((Money.Usd(50), "currency"), Refund(credit, new Money(20, Currency.CAD)));
        Assert.Equal("over.credit", Refund(credit, Money.Usd(50.01m)).Item2);
        Assert.Equal("credit.none", Refund(credit with { Unapplied = Money.Zero() }, null).Item2);
        Assert.Equal("payment.refunded", (credit with { Refunded = Money.Usd(20) }).ReverseRefusal!.Code);
    }

    [Fact]
    public void Money_received_has_a_known_method_and_no_future_date()
    {
        var validation = new Validation();
        PaymentState.Check("barter", Some.Today.PlusDays(1), Some.Today, validation);
        Assert.Equal(["receivedOn", "method"], validation.Problems.Select(p => p.Field));
        var ok = new Validation();
        PaymentState.Check("check", Some.Today, Some.Today, ok);
        Assert.True(ok.Ok);
    }
}
