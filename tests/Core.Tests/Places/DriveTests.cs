using CsCheck;
using SteadyLark.Core.Places;
using Xunit;

namespace SteadyLark.Core.Tests.Places;

public class DriveTests
{
    private static readonly Gen<GeoPoint> Point = Gen.Select(Gen.Double[25, 60], Gen.Double[-130, -65], (lat, lon) =>
        new GeoPoint(lat, lon)
    );

    [Fact]
    public void A_degree_of_a_meridian_follows_from_the_mean_radius() =>
        // 2π × 6,371.0088 km / 360 = 111.1951 km = 69.0934 mi.
        Assert.Equal(69.0934, GreatCircle.Miles(new GeoPoint(46, -114), new GeoPoint(47, -114)), 3);

    [Fact]
    public void Distances_are_symmetric_and_satisfy_the_triangle_inequality() =>
        Gen.Select(Point, Point, Point)
            .Sample(
                (a, b, c) =>
                    Math.Abs(GreatCircle.Miles(a, b) - GreatCircle.Miles(b, a)) < 1e-9
                    && GreatCircle.Miles(a, c) <= GreatCircle.Miles(a, b) + GreatCircle.Miles(b, c) + 1e-9
            );

    [Theory]
    [InlineData(7.9, 7.9)]
    [InlineData(8.5, 9)]
    [InlineData(11, 11.5)]
    [InlineData(12, 22.5)]
    [InlineData(20, 31)]
    [InlineData(22, 33)]
    [InlineData(22.5, 43.5)]
    public void A_break_follows_eight_hours_of_driving_and_ten_hours_rest_each_full_eleven(double driving, double whole) =>
        // 49 CFR § 395.3(a)(1), (a)(3)(i) and (ii).
        Assert.Equal(whole, new Drive(driving * 60, driving * 60).DoorToDoor.TotalHours, 3);

    [Fact]
    public void Farther_never_takes_less_time() =>
        Gen.Select(Gen.Double[0, 3000], Gen.Double[0, 500])
            .Sample((minutes, more) => new Drive(0, minutes + more).DoorToDoor >= new Drive(0, minutes).DoorToDoor);

    [Fact]
    public void Manual_miles_are_driven_at_the_same_speed()
    {
        Assert.Equal(new Drive(120, 180), new Drive(100, 150).Set(120));
        Assert.Equal(new Drive(100, 150), new Drive(100, 150).Set(null));
        Assert.Equal(60, new Drive(0, 0).Set(52).Minutes, 6);
    }
}
