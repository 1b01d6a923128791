using NodaTime;
using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Places;

/// <param name="Zone">A tz database name.</param>
/// <param name="GeofenceMiles">Geofence radius in miles; null for the company default, or for a polygon.</param>
/// <param name="Geofence">Corners of a polygon geofence.</param>
/// <param name="Docks">Where to go on site.</param>
/// <param name="Hours">Loading and unloading hours.</param>
/// <param name="ServiceMinutes">Usual loading or unloading time.</param>
/// <param name="Appointments">How to make an appointment.</param>
/// <param name="BookingNote">A note shown when booking.</param>
public sealed record PlaceRow(
    long Id,
    string Name,
    string? Address,
    string Town,
    string Region,
    string Country,
    double Latitude,
    double Longitude,
    string Zone,
    string? Note,
    double? GeofenceMiles = null,
    IReadOnlyList<GeoPoint>? Geofence = null,
    string? Docks = null,
    string? Hours = null,
    int? ServiceMinutes = null,
    string? Appointments = null,
    string? BookingNote = null
)
{
    [System.Text.Json.Serialization.JsonIgnore]
    public GeoPoint Point => new(Latitude, Longitude);
}

/// <summary>A town of the gazetteer.</summary>
public sealed record TownRow(long Id, string Name, string Region, string Country, double Latitude, double Longitude, string Zone);

public static class PlaceStore
{
    public static async Task<Dictionary<long, KnownPlace>> Known(NpgsqlConnection db, IEnumerable<long> ids) =>
        (await db.Rows("select * from places where id = any(@ids)", Read, ("ids", ids.Distinct().ToArray()))).ToDictionary(
            p => p.Id,
            p => new KnownPlace(
                p.Id,
                p.Name,
                p.Town,
                p.Region,
                p.Point,
                p.Zone,
                p.ServiceMinutes is { } minutes ? Duration.FromMinutes(minutes) : null
            )
        );

    public static Task<PlaceRow?> Get(NpgsqlConnection db, long id) => db.Row("select * from places where id = @id", Read, ("id", id));

    /// <summary>Places similar to what was typed, most likely first; the most used when nothing was typed.</summary>
    public static Task<List<PlaceRow>> Like(NpgsqlConnection db, string text, int max) =>
        text.Length == 0
            ? db.Rows(
                """
                select p.* from places p left join (select place_id, count(*) as uses from stops group by place_id) s on s.place_id = p.id
                order by s.uses desc nulls last, p.name limit @most
                """,
                Read,
                ("most", max)
            )
            : db.Rows(
                """
                select p.* from places p join search_entries f on f.kind = 'place' and f.ref_id = p.id
                where f.words ilike '%' || @like || '%' or @text <% f.words
                order by (p.name ilike @like || '%') desc, (f.words ilike '%' || @like || '%') desc, word_similarity(@text, f.words) desc,
                    p.name limit @most
                """,
                Read,
                ("text", text.ToLowerInvariant()),
                ("like", Find.Escape(text)),
                ("most", max)
            );

    public static Task<List<TownRow>> Towns(NpgsqlConnection db, string text, int max) =>
        db.Rows(
            """
            select * from towns where (name || ' ' || region) ilike @like || '%' or @text <% (name || ' ' || region)
            order by (name || ' ' || region) ilike @like || '%' desc, word_similarity(@text, name || ' ' || region) desc, population desc
                limit @most
            """,
            r => new TownRow(
                r.Long("id"),
                r.Text("name"),
                r.Text("region"),
                r.Text("country"),
                r.Double("latitude"),
                r.Double("longitude"),
                r.Text("zone")
            ),
            ("text", text),
            ("like", Find.Escape(text)),
            ("most", max)
        );

    public static Task<TownRow?> Town(NpgsqlConnection db, long id) =>
        db.Row(
            "select * from towns where id = @id",
            r => new TownRow(
                r.Long("id"),
                r.Text("name"),
                r.Text("region"),
                r.Text("country"),
                r.Double("latitude"),
                r.Double("longitude"),
                r.Text("zone")
            ),
            ("id", id)
        );

    public static Task<bool> Taken(NpgsqlConnection db, string name, string town, string region, long? but = null) =>
        db.One<bool>(
            """
            select exists (select 1 from places where lower(name) = lower(@name) and lower(town) = lower(@town) and region = @region and id
            is distinct from @but)
            """,
            ("but", but),
            ("name", name),
            ("town", town),
            ("region", region)
        );

    public static async Task<long> Add(NpgsqlConnection db, PlaceRow p)
    {
        var id = await db.One<long>(
            """
            insert into places (name, address, town, region, country, latitude, longitude, zone, note, fence_miles, fence_latitudes,
                fence_longitudes, docks, hours, service_minutes, appointments, booking_note)
            values (@name, @address, @town, @region, @country, @lat, @lon, @zone, @note, @fence, @fenceLat, @fenceLon, @docks, @hours,
                @service, @appointments, @bookingNote) returning id
            """,
            Parameters(p)
        );
        await db.Run("select find_place(@id)", ("id", id));
        return id;
    }

    /// <summary>The place that stands for a town as such; null when there is none yet.</summary>
    public static Task<PlaceRow?> OfTown(NpgsqlConnection db, TownRow town) =>
        db.Row(
            "select * from places where lower(name) = lower(@name) and lower(town) = lower(@name) and region = @region",
            Read,
            ("name", town.Name),
            ("region", town.Region)
        );

    /// <summary>Updates a place.</summary>
    public static async Task Change(NpgsqlConnection db, PlaceRow p)
    {
        await db.Run(
            """
            update places set name = @name, address = @address, town = @town, region = @region, country = @country, latitude = @lat,
                longitude = @lon, zone = @zone, note = @note, fence_miles = @fence,
                fence_latitudes = @fenceLat, fence_longitudes = @fenceLon, docks = @docks, hours = @hours, service_minutes = @service,
                    appointments = @appointments, booking_note = @bookingNote, version = version + 1
            where id = @id
            """,
            [("id", p.Id), .. Parameters(p)]
        );
        await db.Run("select find_place(@id)", ("id", p.Id));
    }

    private static (string, object?)[] Parameters(PlaceRow p) =>
        [
            ("name", p.Name),
            ("address", p.Address),
            ("town", p.Town),
            ("region", p.Region),
            ("country", p.Country),
            ("lat", p.Latitude),
            ("lon", p.Longitude),
            ("zone", p.Zone),
            ("note", p.Note),
            ("fence", p.GeofenceMiles),
            ("fenceLat", p.Geofence?.Select(f => f.Latitude).ToArray()),
            ("fenceLon", p.Geofence?.Select(f => f.Longitude).ToArray()),
            ("docks", p.Docks),
            ("hours", p.Hours),
            ("service", p.ServiceMinutes),
            ("appointments", p.Appointments),
            ("bookingNote", p.BookingNote),
        ];

    public static Task<bool> HasTowns(NpgsqlConnection db) => db.One<bool>("select exists (select 1 from towns)");

    public static Task AddTowns(NpgsqlConnection db, IReadOnlyList<TownRow> towns, IReadOnlyList<int> populations) =>
        db.Run(
            """
            insert into towns (name, region, country, latitude, longitude, zone, population) select * from unnest(@n, @r, @c, @lat, @lon,
            @z, @p)
            """,
            ("n", towns.Select(t => t.Name).ToArray()),
            ("r", towns.Select(t => t.Region).ToArray()),
            ("c", towns.Select(t => t.Country).ToArray()),
            ("lat", towns.Select(t => t.Latitude).ToArray()),
            ("lon", towns.Select(t => t.Longitude).ToArray()),
            ("z", towns.Select(t => t.Zone).ToArray()),
            ("p", populations.ToArray())
        );

    private static PlaceRow Read(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Text("name"),
            r.TextOrNull("address"),
            r.Text("town"),
            r.Text("region"),
            r.Text("country"),
            r.Double("latitude"),
            r.Double("longitude"),
            r.Text("zone"),
            r.TextOrNull("note"),
            r.Null("fence_miles") ? null : (double)r.Decimal("fence_miles"),
            Geofence(r),
            r.TextOrNull("docks"),
            r.TextOrNull("hours"),
            r.IntOrNull("service_minutes"),
            r.TextOrNull("appointments"),
            r.TextOrNull("booking_note")
        );

    private static List<GeoPoint>? Geofence(NpgsqlDataReader r) =>
        r.Null("fence_latitudes")
            ? null
            : r.GetFieldValue<double[]>(r.GetOrdinal("fence_latitudes"))
                .Zip(r.GetFieldValue<double[]>(r.GetOrdinal("fence_longitudes")), (a, o) => new GeoPoint(a, o))
                .ToList();
}
