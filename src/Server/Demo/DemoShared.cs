using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's less-than-truckload freight: a trip of tomorrow that carries several customers' loads, and open loads that fit it.</summary>
internal static class DemoShared
{
    /// <summary>Pallets and pounds of the loads; the first ones ride together, the others are open.</summary>
    private static readonly (int Pallets, int Pounds)[] Sizes = [(6, 8_400), (4, 6_150), (5, 7_900), (3, 4_200), (4, 5_600)];

    private const int Together = 3;

    /// <summary>So many drivers nearby are asked for a load.</summary>
    private const int Nearest = 12;

    public static async Task Write(CoverCommands cover, CommandContext w, DemoCast cast)
    {
        var desk = w.At(w.Now, cast.Staff["ines"]);
        if (Lanes(cast).FirstOrDefault() is not { Origins: { } origins, Destinations: { } destinations })
        {
            return;
        }

        var rates = await Rates(w);
        var loads = new List<long>();
        for (var i = 0; i < Sizes.Length; i++)
        {
            loads.Add(
                await Book(
                    desk,
                    cast,
                    rates.Id,
                    origins[i % origins.Count],
                    destinations[i % destinations.Count],
                    $"LTL {4410 + (i * 7)}",
                    Sizes[i]
                )
            );
        }

        // Without a driver nearby they all wait for a truck.
        if (await Cover(desk, cover, loads[0], await Vans(w)) is { } trip)
        {
            foreach (var load in loads.Skip(1).Take(Together - 1))
            {
                _ = await TripCommands.Add(desk, load, null, new CoverByTripRequest(trip));
            }
        }

        await DemoTrailers.Write(cover, desk, cast, rates.Id, origins, destinations);
    }

    /// <summary>Makes something, or leaves nothing of it when it cannot be made.</summary>
    internal static async Task<bool> Try(CommandContext w, Func<Task<bool>> make)
    {
        var saved = await w.Save();
        var made = await make();
        if (!made)
        {
            await w.RollBack(saved);
        }

        return made;
    }

    /// <summary>Van trailers of the usual length.</summary>
    internal static async Task<List<TrailerRow>> Vans(CommandContext w) =>
        (await FleetStore.Trailers(w.Db)).Where(t => t is { Active: true, Equipment: Equipment.Van, LengthIn: null }).ToList();

    /// <summary>A rate table with usual proportions: the rates rise with distance and class, and fall with weight.</summary>
    private static async Task<ClassRates> Rates(CommandContext w)
    {
        int[] breaks = [0, 500, 1_000, 2_000, 5_000, 10_000];
        decimal[] shares = [1m, 0.85m, 0.72m, 0.6m, 0.47m, 0.38m];
        (int Miles, decimal PerCwt)[] distances =
        [
            (250, 54m),
            (500, 66m),
            (750, 77m),
            (1_000, 87m),
            (1_500, 104m),
            (2_000, 119m),
            (3_000, 146m),
        ];
        var rows = distances
            .SelectMany(d =>
                FreightClass.All.Select(c => new ClassRateRow(
                    d.Miles,
                    c,
                    shares.Select(s => Math.Round(d.PerCwt * s * (0.25m + (c * 0.0075m)), 2)).ToList()
                ))
            )
            .ToList();
        return (
            await ClassRatesCommands.Save(
                w,
                null,
                new ClassRatesRequest("Midwest LTL", 58, 185, 21.5m, Rates: new ClassRatesFile(breaks, rows))
            )
        ).Value;
    }

    /// <summary>Shippers close to each other with receivers that lie one after the other on the way to the farthest.</summary>
    private static IEnumerable<(List<int> Origins, List<long> Destinations)> Lanes(DemoCast cast)
    {
        var vans = cast.VanShippers();
        foreach (var first in vans)
        {
            var from = Point(cast, cast.Customers[first].PlaceId);
            var origins = vans.Where(i => GreatCircle.Miles(from, Point(cast, cast.Customers[i].PlaceId)) < 60).ToList();
            if (origins.Count < 2)
            {
                continue;
            }

            foreach (var destinations in Along(cast, from))
            {
                yield return (origins, destinations);
            }
        }
    }

    /// <summary>Receivers that lie one after the other on the way from a point to the first of them, the farthest.</summary>
    internal static IEnumerable<List<long>> Along(DemoCast cast, GeoPoint from)
    {
        var receivers = cast.UsReceivers();
        foreach (var last in receivers.Where(r => GreatCircle.Miles(from, Point(cast, r)) is > 300 and < 480))
        {
            var whole = GreatCircle.Miles(from, Point(cast, last));
            var on = receivers
                .Select(r => (r, Away: GreatCircle.Miles(from, Point(cast, r)), Left: GreatCircle.Miles(Point(cast, r), Point(cast, last))))
                .Where(r => r.Away > 120 && r.Away + r.Left < whole * 1.06)
                .OrderBy(r => r.Away)
                .Select(r => r.r)
                .ToList();
            if (on.Count >= 3)
            {
                yield return [last, on[0], on[^2], on[on.Count / 2]];
            }
        }
    }

    private static GeoPoint Point(DemoCast cast, long place) => cast.Known[place].Point;

    /// <summary>Picked up tomorrow in the morning, delivered in the afternoon or, farther away, the day after.</summary>
    internal static async Task<long> Book(
        CommandContext w,
        DemoCast cast,
        long rates,
        int customer,
        long to,
        string reference,
        (int Pallets, int Pounds) size
    )
    {
        var (data, id, from) = cast.Customers[customer];
        var (pallets, pounds) = size;
        var day = w.Now.InZone(w.Zone).Date.PlusDays(1);
        var miles = Routing.Roads.Between(Point(cast, from), Point(cast, to)).WholeMiles;
        var until = day.PlusDays(miles < 250 ? 0 : 1);
        var booked = await LoadCommands.Book(
            w,
            new LoadRequest(
                id,
                reference,
                Equipment.Van,
                [
                    new StopRequest(StopKind.Pickup, from, day + new LocalTime(7, 0), day + new LocalTime(14, 0), null),
                    new StopRequest(
                        StopKind.Delivery,
                        to,
                        until + new LocalTime(miles < 250 ? 11 : 7, 0),
                        until + new LocalTime(19, 0),
                        null
                    ),
                ],
                [new FreightRequest(data.Freight, null, pallets, pounds, null, 48, 40, 60)],
                [
                    new ChargeRequest(ChargeKind.LineHaul, null, null, ChargeBasis.ByClass, ClassRatesId: rates),
                    new ChargeRequest(ChargeKind.FuelSurcharge, null, null, ChargeBasis.Percent, 21.5m),
                ],
                null,
                false
            )
        );
        return booked.Value.Id;
    }

    /// <summary>Books a full van, picked up so many days from today in the morning and delivered the day after.</summary>
    internal static async Task<long> Truckload(
        CommandContext w,
        DemoCast cast,
        int customer,
        long to,
        string reference,
        int days,
        int pallets,
        int pounds
    )
    {
        var (data, id, from) = cast.Customers[customer];
        var day = w.Now.InZone(w.Zone).Date.PlusDays(days);
        var booked = await LoadCommands.Book(
            w,
            new LoadRequest(
                id,
                reference,
                Equipment.Van,
                [
                    new StopRequest(StopKind.Pickup, from, day + new LocalTime(7, 0), day + new LocalTime(15, 0), null),
                    new StopRequest(
                        StopKind.Delivery,
                        to,
                        day.PlusDays(1) + new LocalTime(7, 0),
                        day.PlusDays(1) + new LocalTime(15, 0),
                        null
                    ),
                ],
                [new FreightRequest(data.Freight, null, pallets, pounds, null, 48, 40, 60)],
                [
                    new ChargeRequest(ChargeKind.LineHaul, null, null, ChargeBasis.PerMile, 2.35m),
                    new ChargeRequest(ChargeKind.FuelSurcharge, null, null, ChargeBasis.PerMile, 0.45m),
                ],
                null,
                false
            )
        );
        return booked.Value.Id;
    }

    /// <summary>Assigns the first driver nearby who is free with a van, and returns the trip.</summary>
    /// <param name="trailers">Those to choose from.</param>
    /// <param name="only">Drivers to choose from; all when null.</param>
    internal static async Task<long?> Cover(
        CommandContext w,
        CoverCommands cover,
        long load,
        IReadOnlyList<TrailerRow> trailers,
        IReadOnlySet<long>? only = null
    )
    {
        var row = (await LoadReads.ByIds(w.Db, [load]))[0];
        var from = row.Stops[0].Point;
        var drivers = (await FleetStore.Choices(w.Db, w.Now, row.Stops[0].UntilAt!.Value))
            .Where(d => d.FreeLatitude is not null && d.LastTruckId is not null && only?.Contains(d.Id) != false)
            .OrderBy(d => GreatCircle.Miles(from, new GeoPoint(d.FreeLatitude!.Value, d.FreeLongitude!.Value)))
            .Take(Nearest)
            .ToList();
        var stands = await LocationStore.Trailers(w.Db);
        foreach (var driver in drivers)
        {
            var free = new GeoPoint(driver.FreeLatitude!.Value, driver.FreeLongitude!.Value);
            double Away(TrailerRow van) =>
                van.Id == driver.LastTrailerId ? 0
                : stands.TryGetValue(van.Id, out var at) && at.Source == StandSource.Person
                    ? GreatCircle.Miles(free, at.Point) + GreatCircle.Miles(at.Point, from)
                : double.MaxValue;
            foreach (var van in trailers.OrderBy(Away).Take(3))
            {
                var saved = await w.Save();
                var hooks = van.Id != driver.LastTrailerId || (stands.TryGetValue(van.Id, out var at) && !at.IsAt(free));
                if (
                    (await cover.ByDriver(w, load, null, new CoverByDriverRequest(driver.Id, driver.LastTruckId, van.Id))).Ok
                    && (await LoadReads.ByIds(w.Db, [load]))[0].TripId is { } trip
                    && (!hooks || (await TripStopCommands.Add(w, trip, new TripStopRequest(TripStopKind.Hook, null, null))).Ok)
                )
                {
                    return trip;
                }

                await w.RollBack(saved);
            }
        }

        return null;
    }
}
