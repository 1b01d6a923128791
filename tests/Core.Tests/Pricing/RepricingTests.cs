using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Pricing;

public class RepricingTests
{
    private static StoredCharge Charge(long id, ChargeKind kind, ChargeBasis basis, decimal? rate, decimal? quantity, decimal amount) =>
        new(id, kind, basis, rate, quantity, Money.Usd(amount));

    private static readonly StoredCharge[] Load =
    [
        Charge(1, ChargeKind.FuelSurcharge, ChargeBasis.Percent, 18m, 1000m, 180m),
        Charge(2, ChargeKind.LineHaul, ChargeBasis.PerMile, 2m, 500m, 1000m),
        Charge(3, ChargeKind.Lumper, ChargeBasis.Flat, null, null, 75m),
        Charge(4, ChargeKind.Other, ChargeBasis.PerCwt, 0.5m, 384m, 192m),
    ];

    [Fact]
    public void Charges_by_the_mile_follow_the_miles_and_percentages_the_new_line_haul() =>
        Assert.Equal(
            [(1L, 1100m, 198m), (2L, 550m, 1100m), (3L, null, 75m), (4L, 384m, 192m)],
            ChargePrices.ForMiles(Load, 550).Select(c => (c.Id, c.Quantity, c.Amount.Amount))
        );

    [Fact]
    public void A_percentage_is_of_all_line_hauls_flat_ones_too()
    {
        StoredCharge[] charges = [.. Load, Charge(5, ChargeKind.LineHaul, ChargeBasis.Flat, null, null, 400m)];
        Assert.Equal(270m, ChargePrices.ForMiles(charges, 550)[0].Amount.Amount);
    }

    private static readonly Gen<StoredCharge[]> AnyCharges = Gen.Select(Gen.Int[0, 3], Gen.Bool, Gen.Int[1, 99_999])
        .Array[1, 8]
        .Select(list =>
            list.Select(
                    (c, i) =>
                    {
                        var kind = c.Item2 ? ChargeKind.LineHaul : ChargeKind.Detention;
                        var basis = (ChargeBasis)c.Item1;
                        var rate = c.Item3 / 10_000m;
                        return kind == ChargeKind.LineHaul && basis == ChargeBasis.Percent
                            ? Charge(i, kind, ChargeBasis.Flat, null, null, c.Item3 / 100m)
                            : Charge(
                                i,
                                kind,
                                basis,
                                basis == ChargeBasis.Flat ? null : rate,
                                basis == ChargeBasis.Flat ? null : 1m,
                                c.Item3 / 100m
                            );
                    }
                )
                .ToArray()
        );

    [Fact]
    public void Repricing_twice_or_in_another_order_is_the_same() =>
        Gen.Select(AnyCharges, Gen.Int[0, 3000])
            .Sample(
                (charges, miles) =>
                {
                    var once = ChargePrices.ForMiles(charges, miles);
                    Assert.Equal(once, ChargePrices.ForMiles(once, miles));
                    Assert.Equal(once.OrderBy(c => c.Id), ChargePrices.ForMiles(charges.Reverse().ToList(), miles).OrderBy(c => c.Id));
                    Assert.Equal(charges.Select(c => (c.Id, c.Kind, c.Basis, c.Rate)), once.Select(c => (c.Id, c.Kind, c.Basis, c.Rate)));
                }
            );

    [Fact]
    public void More_miles_never_make_a_load_cheaper() =>
        Gen.Select(AnyCharges, Gen.Int[0, 3000], Gen.Int[0, 3000])
            .Sample(
                (charges, a, b) =>
                    Assert.True(
                        Money.Sum(ChargePrices.ForMiles(charges, Math.Min(a, b)).Select(c => c.Amount)).Amount
                            <= Money.Sum(ChargePrices.ForMiles(charges, Math.Max(a, b)).Select(c => c.Amount)).Amount
                    )
            );
}
