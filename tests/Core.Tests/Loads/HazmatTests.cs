using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using Xunit;

namespace SteadyLark.Core.Tests.Loads;

public class HazmatTests
{
    private static Outcome<BookedLoad> Book(
        string? number = null,
        string? name = null,
        string? hazard = null,
        string? group = null,
        string? phone = null,
        bool marked = true
    ) =>
        Some.Book(
            Some.Order() with
            {
                Freight = [new FreightOrder("paint", 4, 1, 900, null, null, null, null, marked, number, name, hazard, group, phone)],
            }
        );

    /// <summary>The order of 49 CFR 172.202(b); the examples of 172.202(b) and 172.203 in its form.</summary>
    [Theory]
    [InlineData("2744", "Cyclobutyl chloroformate", "class 6.1 ( 8,3)", "pg ii", "UN2744, Cyclobutyl chloroformate, 6.1 (8, 3), PG II")]
    [InlineData("na 1993", "Combustible liquid, n.o.s.", "3", "III", "NA1993, Combustible liquid, n.o.s., 3, PG III")]
    [InlineData("UN1950", "Aerosols, flammable", "2.1", null, "UN1950, Aerosols, flammable, 2.1")]
    [InlineData("UN0323", "Cartridges, power device", "1.4s", null, "UN0323, Cartridges, power device, 1.4S")]
    public void It_is_described_in_the_order_of_a_shipping_paper(string number, string name, string hazard, string? group, string said)
    {
        var hazmat = Book(number, name, hazard, group, "406-555-0199").Value.Freight[0].Hazmat;
        Assert.Equal(said, hazmat.Describe());
        Assert.Null(hazmat.Lacks());
    }

    [Theory]
    [InlineData("UN19933", null, null, null, "freight[0].unNumber")]
    [InlineData("paint", null, null, null, "freight[0].unNumber")]
    [InlineData(null, "Paint", "10", null, "freight[0].hazardClass")]
    [InlineData(null, "Paint", "4.4", null, "freight[0].hazardClass")]
    [InlineData(null, "Paint", "3 (", null, "freight[0].hazardClass")]
    [InlineData(null, "Paint", "3", "IV", "freight[0].packingGroup")]
    [InlineData(null, "Aerosols", "2.1", "II", "freight[0].packingGroup")]
    public void What_no_regulation_knows_is_refused(string? number, string? name, string? hazard, string? group, string field) =>
        Assert.Equal(field, Book(number, name, hazard, group).Problems.Single().Field);

    [Theory]
    [InlineData("UN1263", null, "freight[0].unNumber")]
    [InlineData(null, "Paint", "freight[0].hazmatName")]
    public void Other_freight_has_no_description_of_hazmat(string? number, string? name, string field) =>
        Assert.Equal(field, Book(number, name, marked: false).Problems.Single().Field);

    [Fact]
    public void A_load_is_booked_with_what_is_known_and_says_what_its_papers_lack()
    {
        Assert.Equal("UN number, proper shipping name, hazard class, emergency phone", Book().Value.Freight[0].Hazmat.Lacks());
        Assert.Equal("packing group, emergency phone", Book("1263", "Paint", "3").Value.Freight[0].Hazmat.Lacks());
        Assert.Null(Hazmat.Unknown with { Name = "x" } == Hazmat.Unknown ? "same" : null);
    }
}
