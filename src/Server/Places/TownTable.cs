using Npgsql;
using SteadyLark.Core.Places;
using SteadyLark.Formats.Places;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Places;

/// <summary>The gazetteer's towns in the database, for SQL lookups.</summary>
public static class TownTable
{
    public static IReadOnlyList<(TownRow Town, int Population)> Read()
    {
        using var text = Atlas.Towns();
        return Gazetteer
            .Read(text)
            .Select(t => (new TownRow(0, t.Name, t.Region, t.Country, t.Point.Latitude, t.Point.Longitude, t.Zone), t.Population))
            .ToList();
    }

    public static Task Fill(NpgsqlConnection db, IReadOnlyList<(TownRow Town, int Population)> towns) =>
        PlaceStore.AddTowns(db, towns.Select(t => t.Town).ToList(), towns.Select(t => t.Population).ToList());
}
