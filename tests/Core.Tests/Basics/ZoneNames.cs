using NodaTime;
using SteadyLark.Core.Basics;
using Xunit;

namespace SteadyLark.Core.Tests.Basics;

public class ZoneNames
{
    [Theory]
    [InlineData("America/Denver", "Mountain time")]
    [InlineData("America/Boise", "Mountain time")]
    [InlineData("America/Phoenix", "Mountain time")]
    [InlineData("America/Chicago", "Central time")]
    [InlineData("America/Regina", "Central time")]
    [InlineData("America/Toronto", "Eastern time")]
    [InlineData("America/Los_Angeles", "Pacific time")]
    [InlineData("America/Vancouver", "Pacific time")]
    [InlineData("America/Anchorage", "Alaska time")]
    [InlineData("Pacific/Honolulu", "Hawaii time")]
    [InlineData("America/Halifax", "Atlantic time")]
    [InlineData("America/St_Johns", "Newfoundland time")]
    [InlineData("America/Sao_Paulo", "America/Sao Paulo")]
    public void A_zone_has_its_common_name_in_winter_and_summer(string zone, string name)
    {
        foreach (var at in new[] { Instant.FromUtc(2026, 1, 15, 12, 0), Instant.FromUtc(2026, 7, 15, 12, 0) })
        {
            Assert.Equal(name, DateTimeZoneProviders.Tzdb[zone].Format(at));
        }
    }
}
