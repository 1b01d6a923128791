using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Places;
using SteadyLark.Store.Tracking;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's split loads: loaded trailers that stand where a driver dropped them, and loads ahead that change trucks on the
/// way.</summary>
internal static class DemoSplits
{
    /// <summary>How long before now a trailer was dropped.</summary>
    private static readonly Duration Dropped = Duration.FromHours(3);

    public static async Task Write(CommandContext w, DemoCast cast)
    {
        var desk = w.At(w.Now, cast.Staff["ines"]);
        await Standing(desk, cast, most: 2);
        await Ahead(desk, most: 2);
    }

    /// <summary>Loads on the way with plenty of time: the trailer was dropped in the town the truck was near, and nobody has the rest yet.</summary>
    private static async Task Standing(CommandContext w, DemoCast cast, int most)
    {
        var rows = (await LoadReads.InStates(w.Db, [LoadState.Rolling], null, 200)).Where(l => l.TripId is not null).ToList();
        var used = new HashSet<long>();
        var seen = await PositionStore.Last(w.Db, rows.Select(l => l.TripId!.Value), w.Now - LoadViews.SeenWithin);
        foreach (
            var load in rows.Where(l => l.Stops.Count == 2 && l.Stops[0].LeftAt < w.Now - (Dropped * 2)).OrderByDescending(l => l.LastAt)
        )
        {
            if (
                most == 0
                || load.LastAt < w.Now + Duration.FromHours(20)
                || !seen.TryGetValue(load.TripId!.Value, out var at)
                || Routing.Gazetteer.Nearest(at.Point) is not { } near
                || await TownOf(w, near.Name, near.Region) is not { } town
                || Routing.Roads.Between(near.Point, load.Stops[1].Point).Miles < 200
                || !used.Add(town.Id)
            )
            {
                continue;
            }

            var left = w.Now - Dropped;
            var split = await SplitCommands.Split(
                w.At(left - Duration.FromHours(2), cast.Staff["ines"]),
                load.Id,
                Order(town, left, TransferMethod.Drop)
            );
            if (split.Ok)
            {
                await SplitCommands.Record(
                    w.At(left, cast.Staff["ines"]),
                    load.Id,
                    split.Value.TransferId,
                    new TransferEventRequest(TransferEvent.Left, left)
                );
                most--;
            }
        }
    }

    /// <summary>Long open loads, which wait to be covered leg by leg.</summary>
    private static async Task Ahead(CommandContext w, int most)
    {
        var rows = await LoadReads.InStates(w.Db, [LoadState.Booked], null, 200);
        foreach (
            var load in rows.Where(l => l.Stops.Count == 2 && l.FirstAt > w.Now + Duration.FromHours(20) && l.Miles is > 700 and < 1400)
        )
        {
            if (most == 0 || load.LastAt - load.FirstAt < Duration.FromHours(36) || await Halfway(w, load) is not { } town)
            {
                continue;
            }

            var middle = load.FirstAt!.Value + ((load.LastAt!.Value - load.FirstAt.Value) / 2);
            var split = await SplitCommands.Split(w, load.Id, Order(town, middle, most == 2 ? TransferMethod.Drop : TransferMethod.Swap));
            if (split.Ok)
            {
                most--;
            }
        }
    }

    internal static async Task<TownRow?> Halfway(CommandContext w, LoadRow load)
    {
        var line = Routing.Router.Route([load.Stops[0].Point, load.Stops[1].Point])?.Line;
        return line is { Count: > 2 } && Routing.Gazetteer.Nearest(line[line.Count / 2]) is { } near
            ? await TownOf(w, near.Name, near.Region)
            : null;
    }

    private static async Task<TownRow?> TownOf(CommandContext w, string name, string region) =>
        (await PlaceStore.Towns(w.Db, $"{name} {region}", 5)).FirstOrDefault(t => t.Name == name && t.Region == region);

    internal static SplitRequest Order(TownRow town, Instant at, TransferMethod method) =>
        new(null, town.Id, at.InZone(DateTimeZoneProviders.Tzdb[town.Zone]).LocalDateTime.With(TimeAdjusters.TruncateToMinute), method);
}
