using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Core.Tests.People;

public class FreshnessTests
{
    [Fact]
    public void A_delivery_waits_for_billing_and_pay_and_a_note_changes_nothing()
    {
        Assert.Equal("billing paying deliveries", Parts(EventKinds.StopDelivered));
        Assert.Equal("", Parts(EventKinds.ReportNote));
    }

    [Theory]
    [InlineData("load.booked", "week")]
    [InlineData("load.covered", "week")]
    [InlineData("tender.sent", "week")]
    [InlineData("tender.declined", "week")]
    [InlineData("tender.expired", "week")]
    [InlineData("tender.accepted", "")]
    [InlineData("tender.signed", "")]
    [InlineData("carrier.dispatched", "")]
    [InlineData("load.changed", "billing week deliveries")]
    [InlineData("stop.arrived", "deliveries")]
    [InlineData("document.added", "billing")]
    [InlineData("report.refused", "billing week")]
    [InlineData("invoice.issued", "billing payments")]
    [InlineData("payment.received", "billing payments")]
    [InlineData("bill.entered", "billing paying")]
    [InlineData("settlement.approved", "paying")]
    [InlineData("pay.rate_set", "billing paying week")]
    [InlineData("company.changed", "billing paying week")]
    [InlineData("mail.sent", "")]
    public void Each_kind_changes_the_parts_it_can_change(string kind, string parts) => Assert.Equal(parts, Parts(EventKinds.Of(kind)));

    private static string Parts(EventKind kind) =>
        string.Join(
            ' ',
            new (string Name, bool Changes)[]
            {
                ("billing", Freshness.ChangesBilling(kind)),
                ("paying", Freshness.ChangesPaying(kind)),
                ("week", Freshness.ChangesWeek(kind)),
                ("deliveries", Freshness.ChangesDeliveries(kind)),
                ("payments", Freshness.ChangesDaysToPay(kind)),
            }
                .Where(p => p.Changes)
                .Select(p => p.Name)
        );

    [Fact]
    public void Names_and_the_fleet_change_all_loads_and_a_new_session_none()
    {
        Assert.All(
            new[] { EventKinds.CompanyChanged, EventKinds.DriverChanged, EventKinds.PlaceChanged, EventKinds.SetupFieldChanged },
            k => Assert.True(Freshness.ChangesAllLoads(k))
        );
        Assert.All(new[] { EventKinds.SessionEnded, EventKinds.RunsPlanned, EventKinds.BillPaid }, k =>
            Assert.False(Freshness.ChangesAllLoads(k))
        );
    }

    /// <summary>A kind that nobody has thought of is read again: the sets name what is known to change nothing.</summary>
    [Fact]
    public void Every_kind_about_money_owed_to_us_changes_billing() =>
        Assert.All(EventKinds.All.Where(k => k.Topics.Contains(Topic.Invoices) || k.Topics.Contains(Topic.Payments)), k =>
            Assert.True(Freshness.ChangesBilling(k))
        );
}
