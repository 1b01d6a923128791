using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public sealed class SolePaymentTests
{
    [Theory]
    [InlineData(1, false, true, "pay.same.person")]
    [InlineData(2, false, true, null)]
    [InlineData(2, true, true, "payment.confirmed")]
    [InlineData(2, false, false, "payment.void")]
    public void Another_person_confirms_a_payment_once(int user, bool confirmed, bool stands, string? refused) =>
        Assert.Equal(refused, new SolePayment(9, "Sinclair Tire, 12", 1, confirmed, stands).ConfirmRefusal(user)?.Code);
}
