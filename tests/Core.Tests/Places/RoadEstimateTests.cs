using CsCheck;
using SteadyLark.Core.Places;
using Xunit;

namespace SteadyLark.Core.Tests.Places;

public class RoadEstimateTests
{
    private static readonly Gen<GeoPoint> Point = Gen.Select(Gen.Double[25, 60], Gen.Double[-130, -65], (lat, lon) => new GeoPoint(lat, lon));

    [Fact]
    public void A_degree_of_a_meridian_is_as_long_as_the_mean_radius_says() =>
        // 2π × 6,371.0088 km / 360 = 111.1951 km = 69.0934 mi.
        Assert.Equal(69.0934, RoadEstimate.StraightMiles(new GeoPoint(46, -114), new GeoPoint(47, -114)), 3);

    [Fact]
    public void Distances_are_symmetric_and_keep_the_triangle() =>
        Gen.Select(Point, Point, Point).Sample((a, b, c) =>
            Math.Abs(RoadEstimate.StraightMiles(a, b) - RoadEstimate.StraightMiles(b, a)) < 1e-9
            && RoadEstimate.StraightMiles(a, c) <= RoadEstimate.StraightMiles(a, b) + RoadEstimate.StraightMiles(b, c) + 1e-9);

    [Theory]
    [InlineData(100, 0)]
    [InlineData(572, 0)]
    [InlineData(573, 10)]
    [InlineData(1144, 10)]
    [InlineData(1145, 20)]
    public void Ten_hours_rest_follow_each_full_eleven_of_driving(int miles, int rest)
    {
        // 49 CFR § 395.3(a)(1) and (a)(3)(i); 572 miles are eleven hours at 52 miles an hour.
        Assert.Equal(rest, (RoadEstimate.DoorToDoor(miles) - RoadEstimate.Driving(miles)).TotalHours, 6);
    }

    [Fact]
    public void Farther_never_takes_less_time() =>
        Gen.Select(Gen.Int[0, 3000], Gen.Int[0, 500]).Sample((miles, more) => RoadEstimate.DoorToDoor(miles + more) >= RoadEstimate.DoorToDoor(miles));
}
