using System.Globalization;
using System.Reflection;
using Npgsql;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Places;

/// <summary>Towns of the United States and Canada with their coordinates and zones. Names, places and people counts from GeoNames (CC BY 4.0), zones from the tz boundaries.</summary>
public static class Gazetteer
{
    public static IReadOnlyList<(TownRow Town, int Population)> Read()
    {
        using var stream = Assembly.GetExecutingAssembly().GetManifestResourceStream("towns.csv")!;
        using var reader = new StreamReader(stream);
        reader.ReadLine();
        var towns = new List<(TownRow, int)>(17_000);
        while (reader.ReadLine() is { } line)
        {
            // A name with a comma stands in quotes; nothing after it does.
            var quoted = line.StartsWith('"') ? line.IndexOf("\",", StringComparison.Ordinal) : -1;
            var name = quoted > 0 ? line[1..quoted] : line[..line.IndexOf(',', StringComparison.Ordinal)];
            var rest = line[((quoted > 0 ? quoted + 1 : name.Length) + 1)..].Split(',');
            towns.Add((
                new TownRow(0, name, rest[0], rest[1], double.Parse(rest[2], CultureInfo.InvariantCulture), double.Parse(rest[3], CultureInfo.InvariantCulture), rest[4]),
                int.Parse(rest[5], CultureInfo.InvariantCulture)));
        }

        return towns;
    }

    public static Task Fill(NpgsqlConnection db, IReadOnlyList<(TownRow Town, int Population)> towns) =>
        PlaceStore.AddTowns(db, towns.Select(t => t.Town).ToList(), towns.Select(t => t.Population).ToList());
}
