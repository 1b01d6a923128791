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
    public void Strangers_never_lock_out_the_owner_of_a_name_at_a_known_address() =>
        Gen.Int[0, 100_000].Sample(strangers => !SignInLimits.MustWait(new SignInAttempts(1, strangers, 1), known: true));

    [Fact]
    public void More_attempts_never_make_it_easier() =>
        Gen.Select(Gen.Int[0, 100], Gen.Int[0, 100], Gen.Int[0, 100], Gen.Bool)
            .Sample(
                (a, b, c, known) =>
                    !SignInLimits.MustWait(new SignInAttempts(a, b, c), known)
                    || SignInLimits.MustWait(new SignInAttempts(a + 1, b + 1, c + 1), known)
            );
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
    [InlineData("session.failed", Role.Bookkeeper, false)]
    [InlineData("role.changed", Role.Owner, true)]
    [InlineData("load.paid", Role.Dispatcher, false)]
    public void Events_are_visible_by_right(string kind, Role role, bool told) =>
        Assert.Equal(told, EventRights.MayHear(new Access(Rights.Of(role)), kind));

    [Theory]
    [InlineData("load.covered", "2087 assigned to Two Forks at $1,850.00", "2087 assigned to Two Forks at $–")]
    [InlineData("load.changed", "line haul $900 instead of $1,100.50.", "line haul $– instead of $–.")]
    [InlineData("setup.company_changed", "minimum rate $1.90 per mile", "minimum rate $– per mile")]
    [InlineData("invoice.issued", "Invoice I-1101 for $1,298.59", "Invoice I-1101 for $1,298.59")]
    public void Amounts_are_left_out_for_whoever_may_not_see_them(string kind, string sentence, string trimmed)
    {
        Assert.Equal(trimmed, EventRights.Trim(new Access(new HashSet<Right> { Right.LoadsSee, Right.BillingSee }), kind, sentence));
        Assert.Equal(sentence, EventRights.Trim(new Access(Rights.Of(Role.Broker)), kind, sentence));
    }
}
