using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

public class LegSharesTests
{
    private static SharedLeg Leg(int miles, decimal? share = null, bool byPercent = false, bool settled = false) =>
        new(share, miles, "Ruth Tallbear", byPercent, settled);

    private static string? Refused(decimal[]? shares, params SharedLeg[] legs) =>
        LegShares.Check(LoadState.Covered, "8846", legs, shares) is { Any: true } p ? p[0].Message : null;

    [Fact]
    public void Legs_share_by_miles_until_a_user_sets_percentages()
    {
        Assert.Equal([66.67m, 33.33m], LegShares.Percents([Leg(200), Leg(100)]));
        Assert.Equal([50m, 50m], LegShares.Percents([Leg(0), Leg(0)]));
        Assert.Equal([12.5m, 87.5m], LegShares.Percents([Leg(200, 12.5m), Leg(100, 87.5m)]));
        Assert.Equal(
            Money.Usd(125m),
            DriverAgreement.Share(Money.Usd(1_000), [LegShares.Weight(12.5m, 200), LegShares.Weight(87.5m, 100)], 0)
        );
    }

    [Fact]
    public void A_user_is_asked_when_pay_depends_on_shares_that_nobody_set()
    {
        Assert.True(LegShares.Asks([Leg(200), Leg(100, byPercent: true)]));
        Assert.False(LegShares.Asks([Leg(200), Leg(100)]));
        Assert.False(LegShares.Asks([Leg(100, byPercent: true)]));
        Assert.False(LegShares.Asks([Leg(200, 40m), Leg(100, 60m, byPercent: true)]));
        Assert.False(LegShares.Asks([Leg(200), Leg(100, byPercent: true, settled: true)]));
    }

    [Fact]
    public void Shares_that_do_not_make_a_whole_are_refused_in_words()
    {
        Assert.Null(Refused([40m, 60m], Leg(200), Leg(100)));
        Assert.Null(Refused([0m, 100m], Leg(200), Leg(100)));
        Assert.Null(Refused(null, Leg(200, 40m), Leg(100, 60m)));
        Assert.Equal("The shares add up to 99.99 %: they have to make 100 %.", Refused([40m, 59.99m], Leg(200), Leg(100)));
        Assert.Equal("Enter a share for each of the 2 legs.", Refused([100m], Leg(200), Leg(100)));
        Assert.Equal("Each share is a percentage from 0 to 100 with at most two decimals.", Refused([-1m, 101m], Leg(200), Leg(100)));
        Assert.Equal(
            "Each share is a percentage from 0 to 100 with at most two decimals.",
            Refused([33.333m, 66.667m], Leg(200), Leg(100))
        );
        Assert.Equal("Load 8846 has one leg: split it first.", Refused([100m], Leg(200)));
        Assert.Equal(
            "Ruth Tallbear is paid for this load already: its shares can no longer be changed.",
            Refused([40m, 60m], Leg(200, settled: true), Leg(100))
        );
        Assert.Equal("load.state", LegShares.Check(LoadState.Cancelled, "8846", [Leg(200), Leg(100)], [40m, 60m])[0].Code);
    }

    [Fact]
    public void Shares_of_the_revenue_add_up_to_it_however_they_are_set() =>
        Gen.Select(Gen.Int[0, 10_000].List[1, 6], Gen.Int[1, 999_999], Gen.Bool)
            .Sample(
                (parts, cents, set) =>
                {
                    var percents = Apportion.Of(100m, parts.Select(p => (decimal)p).ToList(), 2);
                    var legs = parts.Select((p, i) => Leg(p, set ? percents[i] : null)).ToList();
                    Assert.Equal(100m, LegShares.Percents(legs).Sum());
                    var weights = legs.Select(l => LegShares.Weight(l.Share, l.Miles)).ToList();
                    var whole = Money.Usd(cents / 100m);
                    Assert.Equal(whole, Money.Sum(parts.Select((_, i) => DriverAgreement.Share(whole, weights, i))));
                }
            );
}
