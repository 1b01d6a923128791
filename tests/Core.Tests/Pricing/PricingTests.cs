using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Pricing;

/// <summary>Charges made out, margins, and the least rate.</summary>
public class PricingTests
{
    private static readonly Money Haul = Money.Usd(1850m);

    [Theory]
    [InlineData(ChargeBasis.PerMile, 2.35, 612, null, 1438.20)]
    [InlineData(ChargeBasis.PerMile, 0.0001, 50, null, 0.01)]
    [InlineData(ChargeBasis.PerCwt, 4.25, null, 41_250, 1753.13)]
    [InlineData(ChargeBasis.Percent, 18.5, null, null, 342.25)]
    public void A_rate_times_its_quantity_is_rounded_to_the_cent_half_a_cent_away_from_zero(
        ChargeBasis basis,
        double rate,
        int? miles,
        int? weight,
        double amount
    )
    {
        var charge = ChargePrices.Price(basis, null, (decimal)rate, miles, weight, Haul).Value;
        Assert.Equal(Money.Usd((decimal)amount), charge.Amount);
        Assert.Equal((decimal)rate, charge.Rate);
    }

    [Theory]
    [InlineData(ChargeBasis.PerMile, "quantity")]
    [InlineData(ChargeBasis.PerCwt, "quantity")]
    [InlineData(ChargeBasis.Percent, "quantity")]
    public void A_rates_quantity_must_be_known(ChargeBasis basis, string code) =>
        Assert.Equal(code, ChargePrices.Price(basis, null, 2m, null, null, null).Problems[0].Code);

    [Theory]
    [InlineData(null, "missing")]
    [InlineData(0.0, "rate")]
    [InlineData(-1.0, "rate")]
    [InlineData(100_000.5, "rate")]
    [InlineData(1.00001, "rate")]
    public void An_invalid_rate_is_refused(double? rate, string code) =>
        Assert.Equal(code, ChargePrices.Price(ChargeBasis.PerMile, null, (decimal?)rate, 100, null, null).Problems[0].Code);

    [Fact]
    public void A_flat_charge_keeps_its_amount_and_may_be_empty()
    {
        Assert.Equal(Money.Usd(75m), ChargePrices.Price(ChargeBasis.Flat, 75m, null, null, null, null).Value.Amount);
        Assert.Equal(Money.Zero(), ChargePrices.Price(ChargeBasis.Flat, null, null, null, null, null).Value.Amount);
        Assert.Equal("amount", ChargePrices.Price(ChargeBasis.Flat, -0.01m, null, null, null, null).Problems[0].Code);
        Assert.Equal("amount", ChargePrices.Price(ChargeBasis.Flat, Money.Limit + 1, null, null, null, null).Problems[0].Code);
        Assert.Equal("too.large", ChargePrices.Price(ChargeBasis.PerMile, null, 100_000m, int.MaxValue, null, null).Problems[0].Code);
    }

    [Fact]
    public void The_minimum_rate_covers_the_miles_and_is_at_most_a_step_above() =>
        Gen.Select(Gen.Int[0, 1500], Gen.Int[0, 4000], Gen.Int[0, 500], Gen.OneOf(Gen.Const(1), Gen.Const(5), Gen.Const(25), Gen.Const(50)))
            .Sample(
                (empty, loaded, cents, step) =>
                {
                    var min = MinimumRate.Of(empty, loaded, cents / 100m, step).Amount;
                    var worth = (empty + loaded) * (cents / 100m);
                    Assert.True(min >= worth && min < worth + step && min % step == 0);
                }
            );

    [Fact]
    public void A_margin_is_revenue_less_cost_and_its_percentage()
    {
        Assert.Equal(new Margin(Money.Usd(350m), 18.9m), Margin.Of(Haul, Money.Usd(1500m)));
        Assert.Equal(new Margin(Money.Usd(-150m), -8.1m), Margin.Of(Haul, Money.Usd(2000m)));
        Assert.Null(Margin.Of(Money.Zero(), Haul).Percent);
    }
}
