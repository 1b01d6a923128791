using CsCheck;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Core.Tests.People;

public class SignInLimitsTests
{
    [Theory]
    [InlineData(5, 5, 5, false, false)]
    [InlineData(6, 6, 6, false, true)]
    [InlineData(6, 6, 6, true, true)]
    [InlineData(1, 1, 31, true, true)]
    [InlineData(1, 51, 1, false, true)]
    [InlineData(1, 5000, 1, true, false)]
    public void Who_must_wait(int both, int ofLogin, int fromAddress, bool known, bool waits) =>
        Assert.Equal(waits, SignInLimits.MustWait(new SignInAttempts(both, ofLogin, fromAddress), known));

    [Fact]
    public void What_strangers_do_elsewhere_never_keeps_the_owner_of_a_name_from_their_own_desk() =>
        Gen.Int[0, 100_000].Sample(strangers => !SignInLimits.MustWait(new SignInAttempts(1, strangers, 1), known: true));

    [Fact]
    public void More_attempts_never_make_it_easier() =>
        Gen.Select(Gen.Int[0, 100], Gen.Int[0, 100], Gen.Int[0, 100], Gen.Bool).Sample((a, b, c, known) =>
            !SignInLimits.MustWait(new SignInAttempts(a, b, c), known) || SignInLimits.MustWait(new SignInAttempts(a + 1, b + 1, c + 1), known));
}

public class EventRightsTests
{
    [Theory]
    [InlineData("settlement.approved", Role.Dispatcher, false)]
    [InlineData("advance.issued", Role.Dispatcher, false)]
    [InlineData("pay.rate_set", Role.Broker, false)]
    [InlineData("bill.entered", Role.Broker, false)]
    [InlineData("invoice.issued", Role.Dispatcher, false)]
    [InlineData("invoice.issued", Role.Broker, true)]
    [InlineData("entry.posted", Role.Broker, false)]
    [InlineData("settlement.approved", Role.Bookkeeper, true)]
    [InlineData("load.covered", Role.Dispatcher, true)]
    [InlineData("stop.left", Role.ReadOnly, true)]
    public void Who_is_told_of_what(string kind, Role role, bool told) => Assert.Equal(told, EventRights.MayHear(role, kind));
}
