using CsCheck;
using SteadyLark.Core.Places;
using Xunit;

namespace SteadyLark.Core.Tests.Places;

public class WhereaboutsTests
{
    private static readonly GeoPoint Butte = new(46.0038, -112.5348);

    [Theory]
    [InlineData(46.0038, -112.5348, "in Butte MT")]
    [InlineData(46.3, -112.5348, "20 mi N of Butte MT")]
    [InlineData(46.0038, -112.0, "26 mi E of Butte MT")]
    [InlineData(45.8, -112.8, "19 mi SW of Butte MT")]
    public void A_location_is_described_by_its_nearest_town(double latitude, double longitude, string summary) =>
        Assert.Equal(summary, Whereabouts.Format(new GeoPoint(latitude, longitude), "Butte MT", Butte));

    [Fact]
    public void Bearings_out_and_back_are_nearly_opposite() =>
        Gen.Select(Gen.Double[30, 55], Gen.Double[-120, -80], Gen.Double[0.1, 2], Gen.Double[0.1, 2])
            .Sample(
                (latitude, longitude, north, east) =>
                {
                    var (a, b) = (new GeoPoint(latitude, longitude), new GeoPoint(latitude + north, longitude + east));
                    return Math.Abs(Math.Abs(Whereabouts.Bearing(a, b) - Whereabouts.Bearing(b, a)) - 180) < 3;
                }
            );
}
