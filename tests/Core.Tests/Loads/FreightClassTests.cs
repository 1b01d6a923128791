using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using Xunit;

namespace SteadyLark.Core.Tests.Loads;

public class FreightClassTests
{
    [Theory]
    [InlineData(0.9, 400)]
    [InlineData(1, 300)]
    [InlineData(3.9, 250)]
    [InlineData(4, 175)]
    [InlineData(6, 125)]
    [InlineData(8, 100)]
    [InlineData(10, 92.5)]
    [InlineData(12, 85)]
    [InlineData(15, 70)]
    [InlineData(22.4, 70)]
    [InlineData(22.5, 65)]
    [InlineData(30, 60)]
    [InlineData(35, 55)]
    [InlineData(49.9, 55)]
    [InlineData(50, 50)]
    public void Steps_of_the_density_scale(double density, double expected) =>
        Assert.Equal((decimal)expected, FreightClass.OfDensity((decimal)density));

    [Fact]
    public void Denser_freight_is_never_of_a_higher_class() =>
        Gen.Select(Gen.Decimal[0, 80], Gen.Decimal[0, 20])
            .Sample(
                (density, more) =>
                {
                    Assert.Contains(FreightClass.OfDensity(density), FreightClass.All);
                    Assert.True(FreightClass.OfDensity(density + more) <= FreightClass.OfDensity(density));
                }
            );

    [Fact]
    public void Density_needs_weight_count_and_all_dimensions()
    {
        Assert.Equal(11.3m, FreightClass.Density(2, 48, 40, 48, 1_200));
        Assert.Null(FreightClass.Density(2, 48, 40, null, 1_200));
        Assert.Null(FreightClass.Density(null, 48, 40, 48, 1_200));
        Assert.Null(FreightClass.Density(2, 48, 40, 48, null));
    }

    [Fact]
    public void A_class_that_does_not_exist_is_refused()
    {
        var validation = new Validation();
        FreightClass.Check(92.5m, "freight[0].freightClass", "The class", validation);
        FreightClass.Check(null, "freight[0].freightClass", "The class", validation);
        Assert.True(validation.Ok);
        FreightClass.Check(90, "freight[0].freightClass", "The class", validation);
        Assert.StartsWith(
            "The class must be one of 50, 55, 60, 65, 70, 77.5, 85,",
            validation.Problems[0].Message,
            StringComparison.Ordinal
        );
    }
}
