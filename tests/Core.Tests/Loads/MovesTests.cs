using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Loads;

public class MovesTests
{
    private static readonly DateTimeZone Zone = DateTimeZoneProviders.Tzdb["America/Denver"];
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 16, 42);
    private static readonly GeoPoint Butte = new(46.0, -112.53);
    private static readonly GeoPoint Helena = new(46.59, -112.04);

    private static MovedTrailer Trailer(UnitStand? stands = null, bool active = true, string? loaded = null) =>
        new("5312", active, Equipment.Van, stands, loaded);

    private static string? Says(MovedTrailer? trailer, string? what = null, Equipment? equipment = null, Instant? ready = null) =>
        Moves.Check(trailer, trailer is not null, what, equipment, Butte, "Butte MT", ready ?? Now, Now, Zone).SingleOrDefault()?.Message;

    private static UnitStand At(GeoPoint point, string town, Instant at) => new(point, town, at, StandSource.Trip, "412", 7);

    [Fact]
    public void A_trailer_is_moved_from_where_it_is_when_it_is_there_and_empty()
    {
        Assert.Null(Says(Trailer()));
        Assert.Null(Says(Trailer(At(Butte, "Butte MT", Now - Duration.FromHours(9)))));
        Assert.Equal(
            "Trailer 5312 is not in Butte MT: it was left in Helena MT by trip 412 on Tue Nov 24, 00:42.",
            Says(Trailer(At(Helena, "Helena MT", Now - Duration.FromHours(9))))
        );
        Assert.Equal(
            "Trailer 5312 comes to Butte MT with trip 412 on Wed Nov 25, 01:42: enter a later time.",
            Says(Trailer(At(Butte, "Butte MT", Now + Duration.FromHours(16))))
        );
        Assert.Null(Says(Trailer(At(Butte, "Butte MT", Now + Duration.FromHours(16))), ready: Now + Duration.FromHours(16)));
        Assert.Equal("Trailer 5312 stands loaded with load 6151: assign the next leg of that load instead.", Says(Trailer(loaded: "6151")));
        Assert.Equal("Choose one of our trailers.", Says(Trailer(active: false)));
    }

    [Fact]
    public void Freight_of_our_own_is_named_with_its_equipment()
    {
        Assert.Equal("Choose the trailer to move, or enter what is moved.", Says(null));
        Assert.Equal("Equipment is required: choose the trailer type.", Says(null, "24 empty pallets"));
        Assert.Null(Says(null, "24 empty pallets", Equipment.Van));
        Assert.Equal(("Move", "Move of trailer 5312"), (Moves.Title(null), Moves.Title("5312")));
    }

    [Fact]
    public void A_move_needs_times_in_order()
    {
        string Wrong(Instant? from, Instant? by)
        {
            var validation = new Validation();
            Moves.CheckTimes(from, by, validation);
            return string.Join(' ', validation.Problems.Select(p => p.Field));
        }

        Assert.Equal("from by", Wrong(null, null));
        Assert.Equal("by", Wrong(Now, Now));
        Assert.Equal("", Wrong(Now, Now + Duration.FromMinutes(1)));
    }

    [Theory]
    [InlineData(false, LoadState.Delivered)]
    [InlineData(true, LoadState.Closed)]
    public void A_delivered_move_is_closed_when_its_driver_is_paid(bool paid, LoadState state)
    {
        StopFacts[] done = [new(StopKind.Pickup, true, true, false), new(StopKind.Delivery, true, true, true)];
        Assert.Equal(state, LoadStates.Derive(new LoadFacts(false, false, false, done, [LegCover.Covered], false, false, paid, true)));
        // A customer's load waits for its invoice.
        Assert.Equal(
            LoadState.Delivered,
            LoadStates.Derive(new LoadFacts(false, false, false, done, [LegCover.Covered], false, false, paid))
        );
    }

    [Fact]
    public void A_move_has_no_customer_and_no_charges()
    {
        var order = new LoadOrder(7, null, Equipment.Van, [], [], [new ChargeOrder(ChargeKind.LineHaul, null, 100m)], null, true)
        {
            Move = new MoveOf(3),
        };
        var decided = Booking.Decide(Some.Roads, order, new Dictionary<long, KnownPlace>(), true, new LocalDate(2026, 11, 24));
        Assert.Equal("move.bills", decided.Problems.Single().Code);
        var without = Booking.Decide(
            Some.Roads,
            order with
            {
                CustomerId = null,
                Charges = [],
            },
            new Dictionary<long, KnownPlace>(),
            false,
            new LocalDate(2026, 11, 24)
        );
        Assert.Equal((3L, Money.Zero()), (without.Value.Move!.TrailerId!.Value, without.Value.Revenue));
    }
}
