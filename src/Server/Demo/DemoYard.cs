using NodaTime;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's spare trailers: each stands at a shipper whose freight it hauls, as a user saw it in the last days.</summary>
internal static class DemoYard
{
    public static async Task Write(CommandContext w, DemoCast cast)
    {
        var known = await LocationStore.Trailers(w.Db);
        var spare = (await FleetStore.Trailers(w.Db)).Where(t => t.Active && !known.ContainsKey(t.Id)).ToList();
        foreach (var kind in spare.GroupBy(t => t.Equipment))
        {
            var shippers = cast.Customers.Where(c => c.Data.Equipment == kind.Key).Select(c => c.PlaceId).ToList();
            foreach (var (trailer, i) in kind.Select((t, i) => (t, i)).Take(shippers.Count * 2))
            {
                var seen = w.Now - Duration.FromHours(20 + (31 * i % 90));
                await LocationStore.Seen(w, null, trailer.Id, shippers[i % shippers.Count], seen, null);
            }
        }
    }
}
