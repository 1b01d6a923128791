using NodaTime;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's relay: two loads of tomorrow that run toward each other. Their drivers meet halfway, swap trailers, and are home in the
/// evening.</summary>
internal static class DemoRelay
{
    /// <summary>So many lanes are tried at most.</summary>
    private const int Tries = 8;

    public static async Task Write(CoverCommands cover, CommandContext w, DemoCast cast)
    {
        var desk = w.At(w.Now, cast.Staff["ines"]);
        foreach (var (one, other) in Pairs(cast).Take(Tries))
        {
            if (await DemoShared.Try(desk, () => Meet(desk, cover, cast, one, other)))
            {
                return;
            }
        }
    }

    /// <summary>A day's drive there and back to the middle, with freight in both directions.</summary>
    private static IEnumerable<((int Customer, long To) One, (int Customer, long To) Other)> Pairs(DemoCast cast)
    {
        var vans = cast.VanShippers();
        return from one in vans
            from other in vans
            where one < other
            let miles = Routing.Roads.Between(Point(one), Point(other)).Miles
            where miles is > 330 and < 500
            let there = Nearest(Point(other))
            let back = Nearest(Point(one))
            where
                GreatCircle.Miles(cast.Known[there].Point, Point(other)) < 60 && GreatCircle.Miles(cast.Known[back].Point, Point(one)) < 60
            select ((one, there), (other, back));

        GeoPoint Point(int customer) => cast.Known[cast.Customers[customer].PlaceId].Point;
        long Nearest(GeoPoint to) => cast.UsReceivers().MinBy(r => GreatCircle.Miles(cast.Known[r].Point, to));
    }

    private static async Task<bool> Meet(
        CommandContext w,
        CoverCommands cover,
        DemoCast cast,
        (int Customer, long To) one,
        (int Customer, long To) other
    )
    {
        var vans = await DemoShared.Vans(w);
        var drivers = cast.OffPhone();
        var loads = new List<LoadRow>();
        foreach (var (customer, to) in new[] { one, other })
        {
            var i = loads.Count;
            var load = await DemoShared.Truckload(w, cast, customer, to, $"RT {7120 + (i * 3)}", 1, 20 + (i * 2), 31_000 + (i * 2_400));
            if (await DemoShared.Cover(w, cover, load, vans, drivers) is null)
            {
                return false;
            }

            loads.Add((await LoadReads.ByIds(w.Db, [load]))[0]);
        }

        if (await DemoSplits.Halfway(w, loads[0]) is not { } town)
        {
            return false;
        }

        var half = Routing.Roads.Between(loads[0].Stops[0].Point, loads[0].Stops[1].Point).DoorToDoor / 2;
        var at = loads[0].FirstAt!.Value + Duration.FromHours(4) + half;
        return (
            await SplitCommands.Relay(
                w,
                cover,
                loads[0].Id,
                DemoSplits.Order(town, at, TransferMethod.Swap) with
                {
                    SwapWithLoadId = loads[1].Id,
                }
            )
        ).Ok;
    }
}
