using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Tests;

/// <summary>Things that many tests need.</summary>
internal static class Some
{
    public static readonly DateTimeZone Mountain = DateTimeZoneProviders.Tzdb["America/Denver"];
    public static readonly LocalDate Today = new(2026, 11, 23);
    public static readonly Instant Now = Instant.FromUtc(2026, 11, 23, 16, 42);

    public static readonly KnownPlace Creamery = new(
        1,
        "Snowberry Creamery",
        "Great Falls",
        "MT",
        new GeoPoint(47.5002, -111.3008),
        "America/Denver"
    );
    public static readonly KnownPlace ColdStore = new(
        2,
        "Northgate Cold Storage",
        "Spokane",
        "WA",
        new GeoPoint(47.6597, -117.4291),
        "America/Los_Angeles"
    );

    public static readonly Dictionary<long, KnownPlace> Places = new() { [1] = Creamery, [2] = ColdStore };

    /// <summary>A load that can be booked as it stands: Great Falls tomorrow 06:00 to Spokane tomorrow 17:00.</summary>
    public static LoadOrder Order() =>
        new(
            7,
            "PO 77120",
            Equipment.Reefer,
            [
                new StopOrder(StopKind.Pickup, 1, Today.PlusDays(1) + new LocalTime(6, 0), null, null),
                new StopOrder(StopKind.Delivery, 2, Today.PlusDays(1) + new LocalTime(17, 0), null, null),
            ],
            [new FreightOrder("butter", null, 18, 38_400, 34)],
            [new ChargeOrder(ChargeKind.LineHaul, null, 1100.50m)],
            null,
            false
        );

    /// <summary>Straight lines, lengthened: what stands where roads do not matter.</summary>
    public static readonly IRoads Roads = RoadEstimate.Straight;

    public static Outcome<BookedLoad> Book(LoadOrder order) => Booking.Decide(Some.Roads, order, Places, customerKnown: true, Today);

    /// <summary>A stop at a point, promised in hours from now.</summary>
    public static PlannedStop Stop(
        long id,
        StopKind kind,
        KnownPlace place,
        double from,
        double? until = null,
        double? arrived = null,
        double? left = null,
        double? delivered = null
    ) =>
        new(
            id,
            kind,
            place.Point,
            new Span(In(from), In(until ?? from)),
            arrived is { } a ? In(a) : null,
            left is { } l ? In(l) : null,
            delivered is { } d ? In(d) : null
        );

    public static Instant In(double hours) => Now + Duration.FromHours(hours);
}
