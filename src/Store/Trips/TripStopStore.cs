using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Trips;

/// <summary>A stop of a trip's own.</summary>
/// <param name="TrailerId">The trailer that is hooked or dropped there; null at other stops.</param>
public sealed record TripStopRow(
    long Id,
    long TripId,
    TripStopKind Kind,
    long PlaceId,
    string Place,
    string? Address,
    string Town,
    string Zone,
    double Latitude,
    double Longitude,
    long? TrailerId,
    int? Minutes,
    string? Note,
    Instant? ArrivedAt,
    Instant? LeftAt,
    Instant? PlannedAt,
    string? Trailer = null
)
{
    public TripStop AsStop() =>
        new(
            Id,
            Kind,
            new GeoPoint(Latitude, Longitude),
            Place,
            Town,
            WallClock.Zone(Zone) ?? DateTimeZone.Utc,
            Minutes is { } m ? Duration.FromMinutes(m) : null,
            ArrivedAt,
            LeftAt,
            Note,
            PlannedAt,
            TrailerId,
            Trailer
        );
}

/// <summary>Stops of trips' own.</summary>
public static class TripStopStore
{
    internal const string Select = """
        select o.*, p.name as place, p.address, p.town || ' ' || p.region as town, p.zone, p.latitude, p.longitude, tr.unit as trailer
        from trip_stops o join places p on p.id = o.place_id left join trailers tr on tr.id = o.trailer_id
        """;

    /// <summary>A stop that was not passed by, of a trip; null when there is none.</summary>
    public static Task<TripStopRow?> Get(NpgsqlConnection db, long tripId, long id) =>
        db.Row($"{Select} where o.id = @id and o.trip_id = @trip and not o.skipped", ReadStop, ("id", id), ("trip", tripId));

    /// <summary>The id of a stop that is added.</summary>
    public static Task<long> NewId(NpgsqlConnection db) => db.One<long>("select nextval('stops_id_seq')");

    public static Task Add(CommandContext w, long tripId, TripStop stop, long placeId) =>
        w.Db.Run(
            """
            insert into trip_stops (id, trip_id, kind, place_id, trailer_id, minutes, note, planned_at, added_by, added_at)
            values (@id, @trip, @kind, @place, @trailer, @minutes, @note, @planned, @by, @now)
            """,
            ("id", stop.Id),
            ("trip", tripId),
            ("kind", stop.Kind),
            ("place", placeId),
            ("trailer", stop.TrailerId),
            ("minutes", stop.Service is { } s ? (int?)s.TotalMinutes : null),
            ("note", stop.Note),
            ("planned", stop.Planned),
            ("by", w.Actor.Name),
            ("now", w.Now)
        );

    public static Task Remove(NpgsqlConnection db, long id) => db.Run("delete from trip_stops where id = @id", ("id", id));

    /// <summary>Sets when a trip starts at its start; null for no set time.</summary>
    public static Task Plan(NpgsqlConnection db, long id, Instant? at) =>
        db.Run("update trip_stops set planned_at = @at where id = @id", ("id", id), ("at", at));

    /// <summary>The place of a visit, by its id as in <see cref="PlannedStop.Id"/>.</summary>
    public static Task<long> PlaceOf(NpgsqlConnection db, long visit) =>
        db.One<long>(
            """
            select place_id from stops where id = @id union all select place_id from trip_stops where id = @id
            union all select place_id from transfers where id = -@id
            """,
            ("id", visit)
        );

    public static Task Record(NpgsqlConnection db, TripStop stop) =>
        db.Run(
            "update trip_stops set arrived_at = @arrived, left_at = @left where id = @id",
            ("id", stop.Id),
            ("arrived", stop.Arrived),
            ("left", stop.Left)
        );

    internal static TripStopRow ReadStop(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("trip_id"),
            r.Enum<TripStopKind>("kind"),
            r.Long("place_id"),
            r.Text("place"),
            r.TextOrNull("address"),
            r.Text("town"),
            r.Text("zone"),
            r.Double("latitude"),
            r.Double("longitude"),
            r.LongOrNull("trailer_id"),
            r.IntOrNull("minutes"),
            r.TextOrNull("note"),
            r.InstantOrNull("arrived_at"),
            r.InstantOrNull("left_at"),
            r.InstantOrNull("planned_at"),
            r.TextOrNull("trailer")
        );
}
