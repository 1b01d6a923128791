using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Places;

/// <param name="Zone">A tz database name.</param>
public sealed record PlaceRow(
    long Id, string Name, string? Address, string Town, string Region, string Country, double Latitude, double Longitude, string Zone, string? Note);

/// <summary>A town of the gazetteer.</summary>
public sealed record TownRow(long Id, string Name, string Region, string Country, double Latitude, double Longitude, string Zone);

public static class PlaceStore
{
    public static async Task<Dictionary<long, KnownPlace>> Known(NpgsqlConnection db, IEnumerable<long> ids) =>
        (await db.Rows("select * from places where id = any(@ids)", Read, ("ids", ids.Distinct().ToArray())))
        .ToDictionary(p => p.Id, p => new KnownPlace(p.Id, p.Name, p.Town, p.Region, new GeoPoint(p.Latitude, p.Longitude), p.Zone));

    public static Task<PlaceRow?> Get(NpgsqlConnection db, long id) => db.Row("select * from places where id = @id", Read, ("id", id));

    /// <summary>Places that look like what was typed, the likeliest first; those used most when nothing was typed.</summary>
    public static Task<List<PlaceRow>> Like(NpgsqlConnection db, string text, int most) =>
        text.Length == 0
            ? db.Rows(
                "select p.* from places p left join (select place_id, count(*) as uses from stops group by place_id) s on s.place_id = p.id order by s.uses desc nulls last, p.name limit @most",
                Read, ("most", most))
            : db.Rows(
                """
                select p.* from places p join findables f on f.kind = 'place' and f.ref_id = p.id
                where f.words ilike '%' || @like || '%' or @text <% f.words
                order by (p.name ilike @like || '%') desc, (f.words ilike '%' || @like || '%') desc, word_similarity(@text, f.words) desc, p.name limit @most
                """,
                Read, ("text", text.ToLowerInvariant()), ("like", Find.Escape(text)), ("most", most));

    public static Task<List<TownRow>> Towns(NpgsqlConnection db, string text, int most) =>
        db.Rows(
            """
            select * from towns where (name || ' ' || region) ilike @like || '%' or @text <% (name || ' ' || region)
            order by (name || ' ' || region) ilike @like || '%' desc, word_similarity(@text, name || ' ' || region) desc, population desc limit @most
            """,
            r => new TownRow(r.Long("id"), r.Text("name"), r.Text("region"), r.Text("country"), r.Double("latitude"), r.Double("longitude"), r.Text("zone")),
            ("text", text), ("like", Find.Escape(text)), ("most", most));

    public static Task<TownRow?> Town(NpgsqlConnection db, long id) =>
        db.Row(
            "select * from towns where id = @id",
            r => new TownRow(r.Long("id"), r.Text("name"), r.Text("region"), r.Text("country"), r.Double("latitude"), r.Double("longitude"), r.Text("zone")),
            ("id", id));

    public static Task<bool> Taken(NpgsqlConnection db, string name, string town, string region) =>
        db.One<bool>(
            "select exists (select 1 from places where lower(name) = lower(@name) and lower(town) = lower(@town) and region = @region)",
            ("name", name), ("town", town), ("region", region));

    public static async Task<long> Add(NpgsqlConnection db, PlaceRow p)
    {
        var id = await db.One<long>(
            """
            insert into places (name, address, town, region, country, latitude, longitude, zone, note)
            values (@name, @address, @town, @region, @country, @lat, @lon, @zone, @note) returning id
            """,
            ("name", p.Name), ("address", p.Address), ("town", p.Town), ("region", p.Region), ("country", p.Country),
            ("lat", p.Latitude), ("lon", p.Longitude), ("zone", p.Zone), ("note", p.Note));
        await db.Run("select find_place(@id)", ("id", id));
        return id;
    }

    public static Task AddTowns(NpgsqlConnection db, IReadOnlyList<TownRow> towns, IReadOnlyList<int> populations) =>
        db.Run(
            "insert into towns (name, region, country, latitude, longitude, zone, population) select * from unnest(@n, @r, @c, @lat, @lon, @z, @p)",
            ("n", towns.Select(t => t.Name).ToArray()), ("r", towns.Select(t => t.Region).ToArray()), ("c", towns.Select(t => t.Country).ToArray()),
            ("lat", towns.Select(t => t.Latitude).ToArray()), ("lon", towns.Select(t => t.Longitude).ToArray()), ("z", towns.Select(t => t.Zone).ToArray()),
            ("p", populations.ToArray()));

    private static PlaceRow Read(NpgsqlDataReader r) =>
        new(r.Long("id"), r.Text("name"), r.TextOrNull("address"), r.Text("town"), r.Text("region"), r.Text("country"),
            r.Double("latitude"), r.Double("longitude"), r.Text("zone"), r.TextOrNull("note"));
}
