using System.Reflection;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.People;

public class EventKindsTests
{
    [Fact]
    public void Each_kind_has_one_name_a_subject_and_topics()
    {
        var fields = typeof(EventKinds)
            .GetFields(BindingFlags.Public | BindingFlags.Static)
            .Select(f => (EventKind)f.GetValue(null)!)
            .ToList();
        Assert.Equal(fields.Count, EventKinds.All.Count);
        Assert.All(fields, k =>
        {
            Assert.Matches(@"^[a-z_]+(\.[a-z_]+){1,2}$", k.Name);
            Assert.Matches("^[a-z_]+$", k.Subject);
            Assert.NotEmpty(k.Topics);
            Assert.Equal(k.Topics.Count, k.Topics.Distinct().Count());
            Assert.Same(k, EventKinds.Of(k.Name));
        });
    }

    [Fact]
    public void Every_topic_is_changed_by_something() =>
        Assert.Empty(Enum.GetValues<Topic>().Except(EventKinds.All.SelectMany(k => k.Topics)));

    [Fact]
    public void A_name_of_an_older_version_is_for_the_audit_log_and_reloads_everything()
    {
        var old = EventKinds.Of("week.approved");
        Assert.Equal(Right.AuditSee, old.Right);
        Assert.Equal(Enum.GetValues<Topic>(), old.Topics);
    }

    [Fact]
    public void Stop_events_and_reports_have_a_kind_each()
    {
        Assert.Equal(["stop.arrived", "stop.left", "stop.delivered"], Enum.GetValues<StopEvent>().Select(e => EventKinds.Of(e).Name));
        Assert.Equal(
            Enum.GetValues<ReportKind>().Select(k => "report." + k.ToString().ToLowerInvariant()),
            Enum.GetValues<ReportKind>().Select(k => EventKinds.Of(k).Name)
        );
    }

    /// <summary>Whoever hears of money in an event has a right to it: kinds about pay, bills, invoices and the books are not for everyone
    /// who sees loads.</summary>
    [Theory]
    [InlineData(Topic.Pay, Right.WagesSee)]
    [InlineData(Topic.Bills, Right.PayingSee)]
    [InlineData(Topic.Payments, Right.BillingSee)]
    public void Kinds_about_money_need_its_right(Topic topic, Right right) =>
        Assert.All(EventKinds.All.Where(k => k.Topics.Contains(topic)), k => Assert.Equal(right, k.Right));
}
