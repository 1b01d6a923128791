using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Pricing;

public class PreviewTests
{
    private static readonly ChargeInput Haul = new(ChargeKind.LineHaul, ChargeBasis.PerMile, null, 2.5m);

    private static PricedBy By(int? miles, int? weightLb = null) => new(miles, [new("Freight line 1", null, weightLb)], []);

    [Fact]
    public void Charges_come_to_their_sum_and_a_rate_per_mile()
    {
        var preview = ChargePrices.Preview(
            [Haul, new(ChargeKind.FuelSurcharge, ChargeBasis.Percent, null, 12.5m), new(ChargeKind.Other, ChargeBasis.PerCwt, null, 3.25m)],
            By(344, 38_400),
            Money.Usd(2300)
        );
        Assert.Equal([Money.Usd(860), Money.Usd(107.5m), Money.Usd(1248)], preview.Charges.Select(a => a.Amount!.Value));
        Assert.Equal((Money.Usd(2215.5m), 6.44m, true), (preview.Total, preview.PerMile!.Value, preview.IsBelowMinimum));
    }

    [Fact]
    public void What_cannot_be_priced_yet_is_left_out()
    {
        var preview = ChargePrices.Preview(
            [Haul, new(null, ChargeBasis.Percent, null, null), new(ChargeKind.Lumper, ChargeBasis.Flat, 80, null)],
            By(null),
            null
        );
        Assert.Equal([null, null, Money.Usd(80)], preview.Charges.Select(c => c.Amount));
        Assert.Equal((Money.Usd(80), (decimal?)null, false), (preview.Total, preview.PerMile, preview.IsBelowMinimum));
    }

    [Fact]
    public void A_percentage_listed_before_the_line_haul_is_of_it_all_the_same() =>
        Assert.Equal(
            Money.Usd(86),
            ChargePrices.Preview([new(ChargeKind.FuelSurcharge, ChargeBasis.Percent, null, 10), Haul], By(344), null).Charges[0].Amount
        );

    [Fact]
    public void A_percentage_without_a_line_haul_is_not_a_problem_of_its_own()
    {
        var priced = ChargePrices.PriceAll([Haul, new(ChargeKind.FuelSurcharge, ChargeBasis.Percent, null, 10)], By(null));
        Assert.Equal(["quantity", ChargePrices.NoLineHaul], priced.Select(p => p.Problems[0].Code));
    }

    [Fact]
    public void Nothing_entered_is_not_below_the_minimum() =>
        Assert.False(ChargePrices.Preview([], By(344), Money.Usd(500)).IsBelowMinimum);

    /// <summary>Decimal arithmetic throughout: 0.1 a mile over n miles is n dimes exactly, whatever n is.</summary>
    [Fact]
    public void Cents_are_exact() =>
        Gen.Int[1, 6000]
            .Sample(miles =>
                Assert.Equal(Money.Usd(miles * 0.1m), ChargePrices.Preview([Haul with { Rate = 0.1m }], By(miles), null).Total)
            );
}
