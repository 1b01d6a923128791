using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Core.Tests.People;

public class RightsTests
{
    [Fact]
    public void A_driver_has_his_own_and_nothing_else() => Assert.Equal([Right.TripsOwn, Right.SessionOwn], Rights.Of(Role.Driver).Order().Reverse().OrderBy(r => r == Right.SessionOwn));

    [Fact]
    public void Who_only_reads_changes_nothing()
    {
        Right[] changing = [Right.LoadsBook, Right.LoadsCover, Right.LoadsRoll, Right.CompaniesEdit, Right.DocumentsAdd, Right.BillingInvoice, Right.BillingReceive, Right.PayingEnter, Right.PayingApprove, Right.PayingPay, Right.OutsideUse];
        Assert.DoesNotContain(changing, r => Rights.Has(Role.ReadOnly, r));
    }

    [Fact]
    public void Dispatchers_and_brokers_do_not_touch_the_money() =>
        Assert.All(new[] { Role.Dispatcher, Role.Broker }, role => Assert.False(Rights.Has(role, Right.PayingPay) || Rights.Has(role, Right.PayingApprove) || Rights.Has(role, Right.BillingReceive)));

    [Fact]
    public void Rights_are_named_after_the_deed() => Assert.Equal("loads.book", Right.LoadsBook.Name());
}
