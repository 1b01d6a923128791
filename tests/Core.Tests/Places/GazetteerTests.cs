using SteadyLark.Core.Places;
using SteadyLark.Formats.Places;
using Xunit;

namespace SteadyLark.Core.Tests.Places;

/// <summary>What people mean when they write a place.</summary>
public class GazetteerTests
{
    private static readonly Gazetteer Known = Atlas.Gazetteer();

    [Theory]
    [InlineData("Butte MT", "Butte MT")]
    [InlineData("butte, montana", "Butte MT")]
    [InlineData("saint paul minn", "Saint Paul MN")]
    [InlineData("St. Paul, MN", "Saint Paul MN")]
    [InlineData("Ft. Collins, CO", "Fort Collins CO")]
    [InlineData("ft worth tex", "Fort Worth TX")]
    [InlineData("Mt Vernon, Wash.", "Mount Vernon WA")]
    [InlineData("Montréal QC", "Montréal QC")]
    [InlineData("montreal que", "Montréal QC")]
    [InlineData("Lethbridge, Alberta, Canada", "Lethbridge AB")]
    [InlineData("Chicago", "Chicago IL")]
    [InlineData("Williston N.D.", "Williston ND")]
    [InlineData("1200 Mill Road, Great Falls, MT", "Great Falls MT")]
    [InlineData("Coeur d'Alene Idaho", "Coeur d'Alene ID")]
    [InlineData("New York NY", "New York NY")]
    [InlineData("West Fargo, N Dak, USA", "West Fargo ND")]
    public void A_town_is_found_in_any_common_form(string typed, string meant) => Assert.Equal(meant, Known.Resolve(typed).Sure?.Label);

    [Theory]
    [InlineData("59701", "Butte", "MT")]
    [InlineData("59701-1234", "Butte", "MT")]
    [InlineData("Butte MT 59701", "Butte", "MT")]
    [InlineData("T1J 0P3", "Lethbridge", "AB")]
    [InlineData("t1j0p3", "Lethbridge", "AB")]
    public void A_postal_code_is_found(string typed, string town, string region)
    {
        var sure = Known.Resolve(typed).Sure!;
        Assert.Equal((ResolvedAs.PostalCode, region), (sure.As, sure.Region));
        Assert.Contains(town, sure.Label, StringComparison.Ordinal);
    }

    [Fact]
    public void Coordinates_are_named_by_the_nearest_town()
    {
        var sure = Known.Resolve("46.87,-113.99").Sure!;
        Assert.Equal((ResolvedAs.Coordinates, "in Missoula MT", "America/Denver"), (sure.As, sure.Label, sure.Zone));
        Assert.Equal("MT", Known.Resolve("46.87 N, 113.99 W").Sure?.Region);
        Assert.Contains("minus", Known.Resolve("46.87, 113.99").Why, StringComparison.Ordinal);
        Assert.Empty(Known.Resolve("30.0, -140.0").Candidates);
        Assert.Contains("between -90 and 90", Known.Resolve("95, -100").Why, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("Springfield")]
    [InlineData("Salem")]
    [InlineData("Fairview")]
    [InlineData("Franklin")]
    public void A_name_of_many_towns_is_left_to_the_user(string typed)
    {
        var answer = Known.Resolve(typed);
        Assert.Null(answer.Sure);
        Assert.True(answer.Candidates.Count >= 8);
        Assert.Contains("choose one", answer.Why, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("Missuola MT", "Missoula MT")]
    [InlineData("Bilings, Mont", "Billings MT")]
    [InlineData("Spokan WA", "Spokane WA")]
    [InlineData("Sacremento CA", "Sacramento CA")]
    [InlineData("Albuquerqe NM", "Albuquerque NM")]
    [InlineData("Saskatoom SK", "Saskatoon SK")]
    public void A_misspelled_town_is_suggested_and_not_chosen(string typed, string meant)
    {
        var answer = Known.Resolve(typed);
        Assert.Null(answer.Sure);
        Assert.Equal(meant, answer.Candidates[0].Label);
        Assert.NotNull(answer.Why);
    }

    [Fact]
    public void An_unknown_place_is_explained()
    {
        Assert.Contains("spelling", Known.Resolve("Qwertyuiop Xyzzy").Why, StringComparison.Ordinal);
        Assert.Contains("Mexico", Known.Resolve("Monterrey, Nuevo Leon, Mexico").Why, StringComparison.Ordinal);
        Assert.Contains("Enter a town", Known.Resolve("  ").Why, StringComparison.Ordinal);

        // A code and a town that lie far apart: one of them is wrong.
        var both = Known.Resolve("Fargo ND 59701");
        Assert.Null(both.Sure);
        Assert.Equal(["Fargo ND", "59701, Butte MT"], both.Candidates.Select(c => c.Label).Order(StringComparer.Ordinal).Reverse());
    }

    [Fact]
    public void Address_book_names_come_first()
    {
        NamedPlace[] book = [new(7, "Snowberry Creamery", "Great Falls", "MT", new GeoPoint(47.5, -111.3), "America/Denver")];
        Assert.Equal(7, Known.Resolve("snowberry creamery", book).Sure?.PlaceId);
        Assert.Equal(7, Known.Resolve("Snowbery Creamery", book).Candidates[0].PlaceId);
        Assert.Null(Known.Resolve("Snowbery Creamery", book).Sure);
    }

    /// <summary>Towns in states that two zones share, by the boundaries of 49 CFR part 71 and the provinces' own acts.</summary>
    [Theory]
    [InlineData("Coeur d'Alene ID", "America/Los_Angeles")]
    [InlineData("Boise ID", "America/Boise")]
    [InlineData("Ontario OR", "America/Boise")]
    [InlineData("Burns OR", "America/Los_Angeles")]
    [InlineData("Dickinson ND", "America/Denver")]
    [InlineData("Bismarck ND", "America/Chicago")]
    [InlineData("Rapid City SD", "America/Denver")]
    [InlineData("Sioux Falls SD", "America/Chicago")]
    [InlineData("Scottsbluff NE", "America/Denver")]
    [InlineData("North Platte NE", "America/Chicago")]
    [InlineData("Goodland KS", "America/Denver")]
    [InlineData("El Paso TX", "America/Denver")]
    [InlineData("Pensacola FL", "America/Chicago")]
    [InlineData("Tallahassee FL", "America/New_York")]
    [InlineData("Ironwood MI", "America/Menominee")]
    [InlineData("Evansville IN", "America/Chicago")]
    [InlineData("Indianapolis IN", "America/Indiana/Indianapolis")]
    [InlineData("Bowling Green KY", "America/Chicago")]
    [InlineData("Louisville KY", "America/Kentucky/Louisville")]
    [InlineData("Chattanooga TN", "America/New_York")]
    [InlineData("Nashville TN", "America/Chicago")]
    [InlineData("Phoenix AZ", "America/Phoenix")]
    [InlineData("Chinle AZ", "America/Denver")]
    [InlineData("Regina SK", "America/Regina")]
    [InlineData("Cranbrook BC", "America/Edmonton")]
    [InlineData("Dawson Creek BC", "America/Dawson_Creek")]
    public void A_town_has_its_countys_time_zone(string town, string zone)
    {
        var tz = NodaTime.DateTimeZoneProviders.Tzdb;
        var here = tz[Known.Resolve(town).Sure!.Zone];
        foreach (var at in new[] { NodaTime.Instant.FromUtc(2026, 1, 15, 18, 0), NodaTime.Instant.FromUtc(2026, 7, 15, 18, 0) })
        {
            Assert.Equal(tz[zone].GetUtcOffset(at), here.GetUtcOffset(at));
        }
    }
}
