using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Places;

/// <summary>Places that a request names: one of the address book, or any town.</summary>
public static class PlaceRequests
{
    /// <summary>The place, or the one that stands for the town, which is added to the address book when there is none; null when neither is known.</summary>
    public static async Task<PlaceRow?> Find(CommandContext w, long? placeId, long? townId)
    {
        if (placeId is { } id && await PlaceStore.Get(w.Db, id) is { } place)
        {
            return place;
        }

        return townId is { } t && await PlaceStore.Town(w.Db, t) is { } town ? await OfTown(w, town) : null;
    }

    private static async Task<PlaceRow> OfTown(CommandContext w, TownRow town)
    {
        if (await PlaceStore.OfTown(w.Db, town) is { } known)
        {
            return known;
        }

        var place = new PlaceRow(0, town.Name, null, town.Name, town.Region, town.Country, town.Latitude, town.Longitude, town.Zone, null);
        var id = await PlaceStore.Add(w.Db, place);
        w.Record(EventKinds.PlaceAdded, id, $"{town.Name} {town.Region} added to the address book");
        return place with { Id = id };
    }
}
