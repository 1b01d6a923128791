using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Places;
using Xunit;

namespace SteadyLark.Core.Tests.Covering;

public class DriverFitTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 23, 16, 42);
    private static readonly DateTimeZone Denver = DateTimeZoneProviders.Tzdb["America/Denver"];

    private static Instant In(double hours) => Now + Duration.FromHours(hours);

    private static Span From(double hours, double until) => new(In(hours), In(until));

    /// <summary>So many hours from when they begin.</summary>
    private static Func<Instant, Span> For(double hours) => at => new Span(at, at + Duration.FromHours(hours));

    /// <summary>Fifty miles an hour on the road, so that hours are easily told.</summary>
    private static Drive Hours(double hours) => new(hours * 50, hours * 60, false);

    [Fact]
    public void A_driver_booked_for_part_of_the_time_is_blocked_until_then()
    {
        DriverBooking[] bookings = [new(From(-5, 2), "2040"), new(From(10, 20), "2041")];
        Assert.Equal(
            "assigned to 2041 until Tue Nov 24, 05:42",
            DriverFit.Blocked(bookings, For(18), From(12, 14), In(2), Hours(1), Now, Denver)
        );
        Assert.Null(DriverFit.Blocked(bookings, For(10), From(20, 22), In(20), Hours(1), Now, Denver));
        Assert.Equal(
            "assigned to another load until Tue Nov 24, 05:42",
            DriverFit.Blocked([new(From(10, 20), null)], For(18), From(12, 14), null, null, Now, Denver)
        );
    }

    [Theory]
    [InlineData(8, 16, 10.0)] // free at 10:00, open from 8:00 to 16:00
    [InlineData(8, 10, 10.0)]
    [InlineData(8, 9.9, null)]
    [InlineData(11, 12, 11.0)]
    public void A_crew_that_is_free_before_the_pickup_closes_can_take_it(double opens, double closes, double? begins) =>
        Assert.Equal(
            begins is { } b ? From(b, b + 5) : null,
            Availability.Earliest([From(2, 10), From(20, 30)], For(5), In(opens), In(closes))
        );

    [Fact]
    public void A_gap_between_bookings_is_used_only_when_the_trip_fits_into_it()
    {
        Span[] booked = [From(0, 10), From(14, 20)];
        Assert.Equal(From(10, 14), Availability.Earliest(booked, For(4), In(8), In(22)));
        Assert.Equal(From(20, 24.5), Availability.Earliest(booked, For(4.5), In(8), In(22)));
        Assert.Null(Availability.Earliest(booked, For(4.5), In(8), In(19)));
    }

    [Fact]
    public void The_earliest_time_overlaps_nothing_begins_while_the_pickup_is_open_and_no_earlier_one_would_do() =>
        Gen.Select(Gen.Select(Gen.Int[0, 60], Gen.Int[1, 20]).List[0, 6], Gen.Int[1, 20], Gen.Int[0, 30], Gen.Int[0, 30])
            .Sample(
                (bookings, hours, opens, open) =>
                {
                    var booked = bookings.Select(b => From(b.Item1, b.Item1 + b.Item2)).ToList();
                    bool Fits(int at) => booked.All(b => !b.Overlaps(From(at, at + hours)));
                    var wanted = Enumerable.Range(opens, open + 1).Where(Fits).Select(at => (Span?)From(at, at + hours)).FirstOrDefault();
                    return Availability.Earliest(booked, For(hours), In(opens), In(opens + open)) == wanted;
                }
            );

    [Theory]
    [InlineData(0.0, 4.0, 3.0, "would miss pickup by 1 h")]
    [InlineData(2.0, 1.0, 3.0, null)]
    [InlineData(2.5, 1.0, 3.0, "would miss pickup by 30 min")]
    [InlineData(-8.0, 2.0, 3.0, null)]
    public void A_driver_who_cannot_be_there_in_time_is_blocked(double freeIn, double drive, double pickupBy, string? blocked) =>
        Assert.Equal(blocked, DriverFit.Blocked([], For(8), From(1, pickupBy), In(freeIn), Hours(drive), Now, Denver));

    [Fact]
    public void Without_a_known_location_nobody_is_blocked_for_distance() =>
        Assert.Null(DriverFit.Blocked([], For(8), From(0, 0.1), null, null, Now, Denver));

    [Fact]
    public void A_long_empty_drive_counts_its_rest() =>
        // Twelve hours of driving take eleven, ten off, and one more, with a break of half an hour.
        Assert.StartsWith(
            "would miss pickup",
            DriverFit.Blocked([], For(20), From(20, 22), Now, Hours(12), Now, Denver),
            StringComparison.Ordinal
        );

    [Fact]
    public void Candidates_are_ranked_by_availability_then_margin_per_day_then_empty_miles_then_name()
    {
        DriverRank[] drivers =
        [
            new(false, Money.Usd(2000), 5, "Ada"),
            new(true, null, 10, "Bea"),
            new(true, Money.Usd(500), null, "Cy"),
            new(true, Money.Usd(500), 80, "Dov"),
            new(true, Money.Usd(900), 300, "Eli"),
            new(true, null, 10, "Abe"),
        ];
        Assert.Equal(["Eli", "Dov", "Cy", "Abe", "Bea", "Ada"], DriverFit.Rank(drivers, d => d).Select(d => d.Name));
    }

    [Fact]
    public void Any_ranking_keeps_everyone_and_never_puts_a_blocked_driver_before_an_available_one() =>
        Gen.Select(Gen.Bool, Gen.Int[-500, 500], Gen.Int[0, 400], Gen.Bool)
            .List[0, 20]
            .Sample(list =>
            {
                var drivers = list.Select(
                        (d, i) => new DriverRank(d.Item1, d.Item4 ? null : Money.Usd(d.Item2), d.Item3 > 350 ? null : d.Item3, $"D{i:00}")
                    )
                    .ToList();
                var ranked = DriverFit.Rank(drivers, d => d);
                Assert.Equal(drivers.OrderBy(d => d.Name), ranked.OrderBy(d => d.Name));
                Assert.Equal(ranked.OrderBy(d => !d.Available).Select(d => d.Available), ranked.Select(d => d.Available));
                Assert.All(ranked.Zip(ranked.Skip(1)).Where(p => p.First.Available == p.Second.Available), p =>
                    Assert.True((p.First.PerDay?.Amount ?? 0) >= (p.Second.PerDay?.Amount ?? 0))
                );
                // The order does not depend on how they came.
                Assert.Equal(ranked, DriverFit.Rank(Enumerable.Reverse(drivers), d => d));
            });

    [Fact]
    public void Carriers_are_ranked_by_eligibility_then_loads_on_the_lane_then_name()
    {
        CarrierRank[] carriers = [new(false, 40, "Two Forks"), new(true, 1, "Long Bench"), new(true, 7, "Rimrock"), new(true, 1, "Basalt")];
        Assert.Equal(["Rimrock", "Basalt", "Long Bench", "Two Forks"], CarrierRank.Order(carriers, c => c).Select(c => c.Name));
    }
}
