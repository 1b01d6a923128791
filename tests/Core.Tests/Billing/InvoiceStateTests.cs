using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using Xunit;

namespace SteadyLark.Core.Tests.Billing;

public class InvoiceStateTests
{
    [Fact]
    public void An_invoice_is_voided_only_while_nothing_is_paid_on_it()
    {
        var open = new InvoiceState("2207", IsVoid: false, Money.Zero());
        Assert.Null(open.VoidRefusal);
        Assert.Null(open.ResendRefusal);
        Assert.Equal(
            "$250.00 was paid on invoice 2207: reverse the payment first.",
            (open with { Paid = Money.Usd(250) }).VoidRefusal!.Message
        );
        Assert.Equal("Invoice 2207 is already void.", (open with { IsVoid = true }).VoidRefusal!.Message);
        Assert.Equal("Invoice 2207 is void: bill its loads again.", (open with { IsVoid = true }).ResendRefusal!.Message);
    }

    [Fact]
    public void Credit_is_used_while_there_is_some()
    {
        Assert.Null(new PaymentState(false, Money.Usd(0.01m)).UseCreditRefusal);
        Assert.Equal("credit.none", new PaymentState(false, Money.Zero()).UseCreditRefusal!.Code);
        Assert.Equal("credit.none", new PaymentState(true, Money.Usd(50)).UseCreditRefusal!.Code);
        Assert.Equal("payment.reversed", new PaymentState(true, Money.Usd(50)).ReverseRefusal!.Code);
        Assert.Null(new PaymentState(false, Money.Zero()).ReverseRefusal);
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
