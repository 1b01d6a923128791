using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;
using Xunit;

namespace SteadyLark.Store.Tests.Trips;

public class TripPromises(Stocked s) : IClassFixture<Stocked>
{
    private static Span Day(int from, int until) => new(Stocked.Now + Duration.FromDays(from), Stocked.Now + Duration.FromDays(until));

    [Fact]
    public async Task Drivers_trucks_and_trailers_are_never_double_booked()
    {
        Assert.Null(await s.Refusal(w => CoverStore.AddTrip(w, s.Drivers[0], s.Trucks[0], s.Trailers[0], Day(0, 2))));
        Assert.Equal(
            "driver_scheduled_once",
            await s.Refusal(w => CoverStore.AddTrip(w, s.Drivers[0], s.Trucks[1], s.Trailers[1], Day(1, 3)))
        );
        Assert.Equal(
            "truck_scheduled_once",
            await s.Refusal(w => CoverStore.AddTrip(w, s.Drivers[1], s.Trucks[0], s.Trailers[1], Day(1, 3)))
        );
        Assert.Equal(
            "trailer_scheduled_once",
            await s.Refusal(w => CoverStore.AddTrip(w, s.Drivers[1], s.Trucks[1], s.Trailers[0], Day(1, 3)))
        );

        // One ends as the next begins; a trip called off promises nothing.
        Assert.Null(await s.Refusal(w => CoverStore.AddTrip(w, s.Drivers[0], s.Trucks[0], s.Trailers[0], Day(2, 3))));
        Assert.Null(
            await s.Refusal(async w =>
            {
                await w.Db.Run(
                    "update trips set canceled_at = @now where upper(scheduled) <= @until",
                    ("now", w.Now),
                    ("until", Day(0, 2).Until)
                );
                await CoverStore.AddTrip(w, s.Drivers[0], s.Trucks[0], s.Trailers[0], Day(1, 2));
            })
        );
    }

    [Fact]
    public async Task Two_trips_of_a_driver_are_never_active_at_once()
    {
        Assert.Null(
            await s.Refusal(async w =>
            {
                await CoverStore.AddTrip(w, s.Drivers[1], s.Trucks[1], s.Trailers[1], Day(20, 21));
                await CoverStore.AddTrip(w, s.Drivers[1], s.Trucks[1], s.Trailers[1], Day(22, 23));
            })
        );
        Assert.EndsWith(
            "under_way_once",
            await s.Refusal(w => w.Db.Run("update trips set started_at = @now where driver_id = @d", ("now", w.Now), ("d", s.Drivers[1])))
        );
    }

    [Fact]
    public async Task Of_two_concurrent_bookings_of_a_driver_the_database_accepts_one()
    {
        var tries = await Task.WhenAll(
            Enumerable.Range(0, 8).Select(_ => s.Refusal(w => CoverStore.AddTrip(w, s.Drivers[0], s.Trucks[0], null, Day(40, 41))))
        );
        Assert.Single(tries, t => t is null);
        Assert.All(tries.Where(t => t is not null), t => Assert.Contains("scheduled_once", t, StringComparison.Ordinal));
    }
}
