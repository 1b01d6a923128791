using SteadyLark.Core.Basics;
using SteadyLark.Core.Trips;
using SteadyLark.Core.Trips.Loading;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <summary>What was loaded stays where it is: its compartment or deck is stored when it is picked up.</summary>
public static class LoadingCommands
{
    /// <summary>Stores where the freight of a trip was loaded that is on board now, and forgets it for what is not; for trips with liquids or
    /// vehicles.</summary>
    internal static async Task Settle(CommandContext w, long tripId)
    {
        if (await ItineraryStore.Trip(w.Db, tripId) is not { } trip || trip.Trailers.All(t => t.Layout is { Compartments: [], Decks: [] }))
        {
            return;
        }

        var open = await TripSheets.Open(w.Db, trip, w.Now);
        var placed = trip.Trailers.SelectMany(t => TrailerLoading.Of(open.Visits, open.Rig, t, open.Loaded).Placed).ToList();
        foreach (var v in open.Visits.Where(v => v.Begins))
        {
            var known = open.Loaded.Any(l => l.LegId == v.Leg.LegId);
            if (v.Reached && !known)
            {
                await ItineraryStore.SetLoaded(
                    w.Db,
                    v.Leg.LegId,
                    placed.Where(p => p.LegId == v.Leg.LegId).Select(p => new LoadedAt(p.LegId, p.Line, p.Place, p.Amount)).ToList()
                );
            }
            else if (!v.Reached && known)
            {
                await ItineraryStore.SetLoaded(w.Db, v.Leg.LegId, []);
            }
        }
    }

    /// <summary>Why what trips have ahead does not go on their trailers any more, after freight or trailer changed; none when it does.</summary>
    internal static async Task<Problems> Refuses(CommandContext w, IEnumerable<long> trips)
    {
        foreach (var tripId in trips.Distinct())
        {
            if (await ItineraryStore.Trip(w.Db, tripId) is not { EndedAt: null, CanceledAt: null } trip)
            {
                continue;
            }

            var open = await TripSheets.Open(w.Db, trip, w.Now);
            var refused = Itinerary.Overloaded(open.Visits, open.Rig, open.Loaded);
            if (refused.Any)
            {
                return refused;
            }
        }

        return new Problems([]);
    }
}
