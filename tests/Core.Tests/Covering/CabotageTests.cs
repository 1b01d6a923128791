using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using Xunit;

namespace SteadyLark.Core.Tests.Covering;

public class CabotageTests
{
    private static IReadOnlyList<(StopKind, string?)> Stops(string written) =>
        written.Split(' ').Select(s => (s[0] == 'P' ? StopKind.Pickup : StopKind.Delivery, s.Length > 1 ? s[1..] : null)).ToList();

    [Theory]
    [InlineData("CA", "PUS DUS", true)]
    [InlineData("US", "PCA DCA", true)]
    [InlineData("US", "PUS DUS", false)]
    // In and out are what a foreign truck is for.
    [InlineData("CA", "PCA DUS", false)]
    [InlineData("CA", "PUS DCA", false)]
    [InlineData("CA", "PCA DUS PUS DCA", false)]
    // A pickup abroad, and a later delivery there, whatever is between.
    [InlineData("CA", "PUS DCA DUS", true)]
    [InlineData("CA", "PCA PUS DUS", true)]
    [InlineData(null, "PUS DUS", false)]
    [InlineData("CA", "P DUS", false)]
    public void It_is_freight_from_and_to_a_country_not_ones_own(string? home, string stops, bool happens)
    {
        Assert.Equal(happens, Cabotage.Happens(home, Stops(stops)));
        var validation = new Validation();
        Cabotage.Check(validation, "Coulee Run", home, Stops(stops), null);
        Assert.Equal(happens ? "cabotageReason" : null, validation.Problems.SingleOrDefault()?.Field);
        validation = new Validation();
        Cabotage.Check(validation, "Coulee Run", home, Stops(stops), "incident to an international trip");
        Assert.True(validation.Ok);
    }

    [Theory]
    [InlineData("Missoula MT", "US")]
    [InlineData("Lethbridge, AB", "CA")]
    [InlineData("Home", null)]
    [InlineData(null, null)]
    public void A_home_town_tells_the_country(string? town, string? country) => Assert.Equal(country, Cabotage.CountryOfTown(town));
}
