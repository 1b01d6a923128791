using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Core.Tests.People;

public class ViewLimitsTests
{
    private static readonly ViewedLoad Load = new(CustomerId: 3, OfficeId: 1, Assigned: true, DriverGroups: [2], FirstAt: Some.Now);

    private static bool Sees(ViewLimits limits, ViewedLoad load) => limits.Sees(load, Some.Now, Some.Mountain);

    [Fact]
    public void Without_limits_everything_is_seen()
    {
        Assert.True(Sees(ViewLimits.None, Load));
        Assert.True(Sees(ViewLimits.None, new ViewedLoad(null, null, false, [], null)));
        Assert.False(ViewLimits.None.IsLimited);
        Assert.Null(ViewLimits.None.Summary);
    }

    [Fact]
    public void A_load_must_be_within_each_limit()
    {
        Assert.True(Sees(new ViewLimits(Customers: [3, 4]), Load));
        Assert.False(Sees(new ViewLimits(Customers: [4]), Load));
        Assert.True(Sees(new ViewLimits(Offices: [1]), Load));
        Assert.False(Sees(new ViewLimits(Offices: [2]), Load));
        Assert.False(Sees(new ViewLimits(Customers: [3], Offices: [2]), Load));
        Assert.True(Sees(new ViewLimits(Customers: [3], Offices: [1], DriverGroups: [2], DaysAhead: 0), Load));
    }

    [Fact]
    public void Records_without_customer_or_office_are_hidden_by_those_limits()
    {
        Assert.False(Sees(new ViewLimits(Customers: [3]), Load with { CustomerId = null }));
        Assert.False(Sees(new ViewLimits(Offices: [1]), Load with { OfficeId = null }));
    }

    [Fact]
    public void A_driver_group_sees_its_drivers_and_uncovered_loads_but_no_carriers_loads()
    {
        var limits = new ViewLimits(DriverGroups: [2]);
        Assert.True(Sees(limits, Load with { Assigned = false, DriverGroups = [] }));
        Assert.False(Sees(limits, Load with { DriverGroups = [1] }));
        Assert.False(Sees(limits, Load with { DriverGroups = [] }));
        // Handed over in mid-trip: the groups of both drivers see it.
        Assert.True(Sees(limits, Load with { DriverGroups = [1, 2] }));
    }

    /// <summary>16:42 UTC on November 23, 2026 is 9:42 in the morning in Montana.</summary>
    [Theory]
    [InlineData(0, "2026-11-24T06:59:59Z", true)]
    [InlineData(0, "2026-11-24T07:00:00Z", false)]
    [InlineData(1, "2026-11-25T06:59:59Z", true)]
    [InlineData(1, "2026-11-25T07:00:00Z", false)]
    [InlineData(7, "2026-12-01T06:59:59Z", true)]
    [InlineData(7, "2026-12-01T07:00:00Z", false)]
    [InlineData(0, "2026-01-01T00:00:00Z", true)]
    public void Days_ahead_end_with_the_companys_day(int days, string first, bool seen) =>
        Assert.Equal(
            seen,
            Sees(new ViewLimits(DaysAhead: days), Load with { FirstAt = NodaTime.Text.InstantPattern.General.Parse(first).Value })
        );

    [Fact]
    public void A_draft_without_an_appointment_is_never_too_far_ahead() =>
        Assert.True(Sees(new ViewLimits(DaysAhead: 0), Load with { FirstAt = null }));

    [Fact]
    public void Days_ahead_follow_the_clock_change()
    {
        // The night to November 1 has 25 hours: two days after October 31 end at 7:00 UTC, not at 6:00.
        var now = Instant.FromUtc(2026, 10, 31, 18, 0);
        Assert.Equal(Instant.FromUtc(2026, 11, 3, 7, 0), new ViewLimits(DaysAhead: 2).Until(now, Some.Mountain));
    }

    [Fact]
    public void Rights_over_the_whole_company_are_withheld_from_whoever_is_limited()
    {
        var owner = Rights.Of(Role.Owner);
        Assert.Equal(owner, ViewLimits.None.Within(owner));
        foreach (
            var limits in new[]
            {
                new ViewLimits(Customers: [1]),
                new ViewLimits(Offices: [1]),
                new ViewLimits(DriverGroups: [1]),
                new ViewLimits(DaysAhead: 3),
            }
        )
        {
            var rights = limits.Within(owner);
            Assert.Empty(rights.Intersect(ViewLimits.WholeCompany));
            Assert.Equal(owner.Count - ViewLimits.WholeCompany.Count, rights.Count);
        }
    }

    [Fact]
    public void An_owner_is_never_limited_and_a_driver_in_days_only()
    {
        Assert.Equal("limits", new ViewLimits(DaysAhead: 3).RefusesRole(Role.Owner)?.Field);
        Assert.Equal("limits", new ViewLimits(Customers: [1]).RefusesRole(Role.Driver)?.Field);
        Assert.Null(new ViewLimits(DaysAhead: 3).RefusesRole(Role.Driver));
        Assert.Null(new ViewLimits(Customers: [1]).RefusesRole(Role.Dispatcher));
        Assert.Null(new ViewLimits(Customers: [1]).RefusesRole(null));
        Assert.Null(ViewLimits.None.RefusesRole(Role.Owner));
    }

    [Fact]
    public void A_load_is_booked_for_the_office_chosen_else_ones_own_else_the_only_one_seen()
    {
        Assert.Equal(2, ViewLimits.None.OfficeFor(2, 1).Value);
        Assert.Equal(1, ViewLimits.None.OfficeFor(null, 1).Value);
        Assert.Null(ViewLimits.None.OfficeFor(null, null).Value);
        Assert.Equal(4, new ViewLimits(Offices: [4]).OfficeFor(null, null).Value);
        Assert.Equal("officeId", new ViewLimits(Offices: [4, 5]).OfficeFor(null, null).Problems[0].Field);
        Assert.Equal("officeId", new ViewLimits(Offices: [4]).OfficeFor(5, 4).Problems[0].Field);
        Assert.Equal("officeId", new ViewLimits(Offices: [4]).OfficeFor(null, 5).Problems[0].Field);
    }

    /// <summary>Whatever one may book, one sees afterwards.</summary>
    [Fact]
    public void Nobody_books_a_load_that_they_would_not_see() =>
        Gen.Select(Gen.Long[1, 3].Array[0, 3], Gen.Long[1, 3].Array[0, 3], Gen.Long[0, 3], Gen.Long[0, 3], Gen.Long[0, 3])
            .Sample(
                (customers, offices, customer, chosen, own) =>
                {
                    var limits = new ViewLimits(customers.Length > 0 ? customers : null, offices.Length > 0 ? offices : null);
                    long? Key(long k) => k == 0 ? null : k;
                    var office = limits.OfficeFor(Key(chosen), Key(own));
                    var booked = office.Ok && limits.RefusesCustomer(Key(customer)) is null;
                    return !booked || Sees(limits, new ViewedLoad(Key(customer), office.Value, false, [], Some.Now));
                }
            );

    [Fact]
    public void A_driver_stays_in_the_groups_that_one_sees()
    {
        Assert.Null(ViewLimits.None.RefusesGroup(null));
        Assert.Null(new ViewLimits(DriverGroups: [2]).RefusesGroup(2));
        Assert.Equal("groupId", new ViewLimits(DriverGroups: [2]).RefusesGroup(3)?.Field);
        Assert.Equal("groupId", new ViewLimits(DriverGroups: [2]).RefusesGroup(null)?.Field);
    }

    [Fact]
    public void Limits_are_checked_as_they_are_entered()
    {
        var validation = new Validation();
        var limits = ViewLimits.Named(validation, new ViewLimits([9, 3, 9], null, [2], 5));
        Assert.True(validation.Ok);
        Assert.Equal([3, 9], limits.Customers!);
        Assert.Same(ViewLimits.None, ViewLimits.Named(validation, null));
        foreach (
            var (wrong, field) in new[]
            {
                (new ViewLimits(Customers: []), "limits.customers"),
                (new ViewLimits(Offices: []), "limits.offices"),
                (new ViewLimits(DriverGroups: []), "limits.driverGroups"),
                (new ViewLimits(DaysAhead: -1), "limits.daysAhead"),
                (new ViewLimits(DaysAhead: ViewLimits.MaxDaysAhead + 1), "limits.daysAhead"),
                (new ViewLimits(Customers: Enumerable.Range(0, ViewLimits.MaxNamed + 1).Select(i => (long)i).ToList()), "limits.customers"),
            }
        )
        {
            var refused = new Validation();
            ViewLimits.Named(refused, wrong);
            Assert.Equal(field, refused.Problems.Single().Field);
        }
    }

    [Theory]
    [InlineData(1, "1 customer, 2 driver groups, loads up to tomorrow")]
    [InlineData(0, "1 customer, 2 driver groups, loads up to today")]
    [InlineData(9, "1 customer, 2 driver groups, loads up to 9 days ahead")]
    public void A_limited_user_reads_what_is_limited(int days, string words) =>
        Assert.Equal(words, new ViewLimits([7], null, [1, 2], days).Summary);

    [Fact]
    public void Answers_computed_for_one_limit_serve_no_other()
    {
        var rights = Rights.Of(Role.Dispatcher);
        string Key(ViewLimits limits) => new Access(rights) { Limits = limits }.Key;
        Assert.Equal(Key(new ViewLimits([1, 2])), Key(new ViewLimits([2, 1])));
        ViewLimits[] all =
        [
            ViewLimits.None,
            new([1]),
            new([2]),
            new(null, [1]),
            new(null, null, [1]),
            new(null, null, null, 1),
            new(null, null, null, 11),
            new([1], [1]),
        ];
        Assert.Equal(all.Length, all.Select(Key).Distinct().Count());
    }
}
