using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Core.Trips.Loading;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's trips with several trailers: two pups with a load each, and a truck that drops its trailer at a receiver and goes on with
/// another one.</summary>
internal static class DemoTrailers
{
    /// <summary>So many lanes are tried at most.</summary>
    private const int Tries = 6;

    /// <param name="w">As the dispatcher.</param>
    /// <param name="rates">The rate table of the loads of the pups.</param>
    /// <param name="origins">Van shippers close to each other,</param>
    /// <param name="destinations">and receivers that lie one after the other.</param>
    public static async Task Write(
        CoverCommands cover,
        CommandContext w,
        DemoCast cast,
        long rates,
        IReadOnlyList<int> origins,
        IReadOnlyList<long> destinations
    )
    {
        var drivers = cast.OffPhone();
        var pups = await Pups(w, cast.Customers[origins[0]].PlaceId);
        _ = await DemoShared.Try(w, () => Doubles(cover, w, cast, rates, origins, destinations, pups, drivers));
        foreach (var (first, there, next, end) in Chains(cast).Take(Tries))
        {
            if (await DemoShared.Try(w, () => DropAndHook(cover, w, cast, (first, there), (next, end), drivers)))
            {
                return;
            }
        }
    }

    /// <summary>Two trailers of 28 feet at a place; others of the fleet are as long as usual.</summary>
    private static async Task<List<TrailerRow>> Pups(CommandContext w, long place)
    {
        var pups = new List<TrailerRow>();
        foreach (var unit in new[] { "2801", "2802" })
        {
            var id = await FleetStore.AddTrailer(w.Db, unit, Equipment.Van);
            var pup = new TrailerRow(id, unit, Equipment.Van, true, 336, 98, 108, 22_500, 7_000) { Layout = TrailerLayout.None };
            await FleetStore.ChangeTrailer(w.Db, pup);
            _ = await LocationStore.Seen(w, null, id, place, w.Now - Duration.FromHours(30), null);
            pups.Add(pup);
        }

        return pups;
    }

    private static async Task<bool> Doubles(
        CoverCommands cover,
        CommandContext w,
        DemoCast cast,
        long rates,
        IReadOnlyList<int> origins,
        IReadOnlyList<long> destinations,
        IReadOnlyList<TrailerRow> pups,
        IReadOnlySet<long> drivers
    )
    {
        var one = await DemoShared.Book(w, cast, rates, origins[0], destinations[0], "LTL 4470", (14, 19_600));
        var other = await DemoShared.Book(w, cast, rates, origins[^1], destinations[1 % destinations.Count], "LTL 4476", (12, 16_900));
        return await DemoShared.Cover(w, cover, one, [pups[0]], drivers) is { } trip
            && await Stop(w, trip, TripStopKind.Hook, null, pups[1].Id)
            && (await TripCommands.Add(w, other, null, new CoverByTripRequest(trip, AllowLate: true))).Ok;
    }

    /// <summary>The trailer stays at the receiver to be unloaded; another one, empty, stands there for the next load.</summary>
    private static async Task<bool> DropAndHook(
        CoverCommands cover,
        CommandContext w,
        DemoCast cast,
        (int Customer, long To) first,
        (int Customer, long To) next,
        IReadOnlySet<long> drivers
    )
    {
        var vans = await DemoShared.Vans(w);
        var stands = await LocationStore.Trailers(w.Db);
        var held = (await FleetStore.HeldUnits(w.Db, new(w.Now, w.Now + Duration.FromDays(5)))).Select(h => h.TrailerId).ToHashSet();
        if (
            vans.Find(v => !held.Contains(v.Id) && stands.TryGetValue(v.Id, out var at) && at.Source == StandSource.Person) is not { } empty
        )
        {
            return false;
        }

        _ = await LocationStore.Seen(w, null, empty.Id, first.To, w.Now - Duration.FromHours(5), null);
        var one = await DemoShared.Truckload(w, cast, first.Customer, first.To, "DH 2204", 1, 22, 34_800);
        var other = await DemoShared.Truckload(w, cast, next.Customer, next.To, "DH 2207", 2, 20, 31_500);
        return await DemoShared.Cover(w, cover, one, vans.Where(v => v != empty).ToList(), drivers) is { } trip
            && (await OwnTrailer(w, trip)) is { } own
            && await Stop(w, trip, TripStopKind.Drop, first.To, own)
            && await Stop(w, trip, TripStopKind.Hook, first.To, empty.Id)
            && (await TripCommands.Add(w, other, null, new CoverByTripRequest(trip, AllowLate: true, TrailerId: empty.Id))).Ok;
    }

    private static async Task<long?> OwnTrailer(CommandContext w, long trip) => (await ItineraryStore.Trip(w.Db, trip))?.TrailerId;

    private static async Task<bool> Stop(CommandContext w, long trip, TripStopKind kind, long? place, long trailer) =>
        (await TripStopCommands.Add(w, trip, new TripStopRequest(kind, place, null, AllowLate: true, TrailerId: trailer))).Ok;

    /// <summary>A load, and another one from close to where it is delivered.</summary>
    private static IEnumerable<(int First, long There, int Next, long End)> Chains(DemoCast cast)
    {
        var (vans, receivers) = (cast.VanShippers(), cast.UsReceivers());
        return from first in vans
            from there in receivers
            where GreatCircle.Miles(From(first), At(there)) is > 180 and < 380
            from next in vans
            where next != first && GreatCircle.Miles(At(there), From(next)) < 45
            from end in receivers.Where(r => GreatCircle.Miles(From(next), At(r)) is > 150 and < 380).Take(1)
            select (first, there, next, end);

        GeoPoint From(int customer) => At(cast.Customers[customer].PlaceId);
        GeoPoint At(long place) => cast.Known[place].Point;
    }
}
