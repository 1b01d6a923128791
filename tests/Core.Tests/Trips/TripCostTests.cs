using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

/// <summary>What a trip is expected to cost and to leave.</summary>
public class TripCostTests
{
    private static readonly CostFigures TestBusiness = new(6.5m, 3.90m, 0.62m, 0.21m, 148m, 0.18m);

    [Fact]
    public void Each_part_uses_the_cost_assumptions()
    {
        var cost = TripCost.Of(TestBusiness, Money.Usd(2400m), 650, 40, Duration.FromHours(30), null, KnownCosts.None);
        Assert.Equal((390.00m, 7.20m, 403.00m), (cost.Fuel.Amount, cost.Tolls.Amount, cost.Driver.Amount));

        // A day and a quarter: 650 × 0.21 + 1.25 × 148, where 30 hours are five quarters of a day.
        Assert.Equal((1.25m, 321.50m), (cost.Days, cost.Fixed.Amount));
        Assert.Equal((1121.70m, 1278.30m), (cost.Total.Amount, cost.Profit.Amount));
        Assert.Equal((1.97m, 1022.64m), (cost.ProfitPerMile!.Value.Amount, cost.ProfitPerDay.Amount));
    }

    [Fact]
    public void Entered_costs_replace_calculated_ones_and_others_add_up()
    {
        var known = new KnownCosts(Money.Usd(420.15m), Money.Zero(), Money.Usd(89m));
        var cost = TripCost.Of(TestBusiness, Money.Usd(2400m), 650, 40, Duration.FromHours(30), Money.Usd(350m), known);
        Assert.Equal((420.15m, 0m, 350m, 89m), (cost.Fuel.Amount, cost.Tolls.Amount, cost.Driver.Amount, cost.Other.Amount));
        Assert.Equal(420.15m + 350m + 321.50m + 89m, cost.Total.Amount);
    }

    [Fact]
    public void Parts_add_up_to_the_total_for_any_trip() =>
        Gen.Select(Gen.Double[0, 4000], Gen.Double[0, 300], Gen.Int[0, 200], Gen.Int[0, 900_000])
            .Sample(
                (miles, tolls, hours, cents) =>
                {
                    var cost = TripCost.Of(
                        TestBusiness,
                        Money.Usd(cents / 100m),
                        miles,
                        tolls,
                        Duration.FromHours(hours),
                        null,
                        KnownCosts.None
                    );
                    Assert.Equal(cost.Total, Money.Sum([cost.Fuel, cost.Tolls, cost.Driver, cost.Fixed, cost.Other]));
                    Assert.Equal(Money.Usd(cents / 100m), cost.Total + cost.Profit);
                    Assert.True(cost.Days >= 0.25m && cost.Days * 4 == Math.Floor(cost.Days * 4) && cost.Days * 24 >= hours);
                    Assert.Equal(miles < 1, cost.ProfitPerMile is null);
                }
            );
}
