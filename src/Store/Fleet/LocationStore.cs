using NodaTime;
using Npgsql;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Fleet;

/// <summary>Where trucks and trailers are.</summary>
public static class LocationStore
{
    /// <summary>Where trailer <c>t.trailer_id</c> is before <c>t.begins</c>: where its last trip before leaves it, other than trip <c>t.id</c>, or where it
    /// was seen after that. Joined to trailers <c>t</c>; rows for <see cref="Stand"/>.</summary>
    private const string Before = """
        cross join lateral (
            (select e.place_id, coalesce(b.ended_at, upper(b.scheduled)) as at, n.number, 'trip' as source
                from trip_trailers b join trips n on n.id = b.trip_id join trailer_ends e on e.trip_id = b.trip_id and e.trailer_id = b.trailer_id
                where b.trailer_id = t.trailer_id and b.trip_id is distinct from t.id and b.canceled_at is null and lower(b.scheduled) < t.begins
                order by lower(b.scheduled) desc limit 1)
            union all
            (select u.place_id, u.at, null, 'person' from unit_locations u where u.trailer_id = t.trailer_id order by u.at desc limit 1)
            order by at desc limit 1) x
        join places p on p.id = x.place_id
        """;

    private const string Stood =
        "select t.id, x.at, x.number, x.source, x.place_id, p.latitude, p.longitude, p.town || ' ' || p.region as town from";

    /// <summary>Where each trailer is before a trip: where its trip before leaves it, or where it was seen after that; without those of which
    /// nothing is known.</summary>
    public static async Task<Dictionary<long, UnitStand>> TrailersBefore(NpgsqlConnection db, IEnumerable<long> trips) =>
        (
            await db.Rows(
                $"{Stood} (select id, trailer_id, lower(scheduled) as begins from trips where id = any(@trips)) t {Before}",
                r => (Trip: r.Long("id"), At: Stand(r)),
                ("trips", trips.Distinct().ToArray())
            )
        ).ToDictionary(x => x.Trip, x => x.At);

    /// <summary>Where a trailer is before an instant: where its last trip that begins before it leaves it, or where it was seen after that; null when
    /// nothing is known.</summary>
    /// <param name="exceptTrip">A trip that does not count.</param>
    public static Task<UnitStand?> TrailerBefore(NpgsqlConnection db, long trailerId, Instant before, long? exceptTrip = null) =>
        db.Row(
            $"{Stood} (select @except::bigint as id, @id::bigint as trailer_id, @before::timestamptz as begins) t {Before}",
            Stand,
            ("id", trailerId),
            ("before", before),
            ("except", exceptTrip)
        );

    /// <summary>The load whose freight waits at a transfer in a trailer; null when none does.</summary>
    public static Task<string?> LoadedWith(NpgsqlConnection db, long trailerId) =>
        db.One<string>(
            """
            select l.number from transfers x join leg_ends le on le.ends_id = x.id join legs g on g.id = le.leg_id join trips t on t.id = g.trip_id
            join loads l on l.id = x.load_id
            where coalesce(g.trailer_id, t.trailer_id) = @id and x.method <> 'transload' and x.left_at is not null and x.taken_at is null and l.cancelled_at is null limit 1
            """,
            ("id", trailerId)
        );

    /// <summary>Where each truck is, by truck, as far as anything is known. What a device reported has no town.</summary>
    public static Task<Dictionary<long, UnitStand>> Trucks(NpgsqlConnection db) => Now(db, "truck", "trucks", TripsOfTruck, Device);

    /// <summary>Where each trailer is, by trailer, as far as anything is known: on a trip, from where it is hooked to where it is dropped.</summary>
    public static Task<Dictionary<long, UnitStand>> Trailers(NpgsqlConnection db) => Now(db, "trailer", "trailers", TripsOfTrailer, "");

    /// <summary>Stores where a user saw a truck or trailer.</summary>
    public static Task<long> Seen(CommandContext w, long? truckId, long? trailerId, long placeId, Instant at, string? note) =>
        w.Db.One<long>(
            """
            insert into unit_locations (truck_id, trailer_id, place_id, at, note, entered_by, entered_at)
            values (@truck, @trailer, @place, @at, @note, @by, @now) returning id
            """,
            ("truck", truckId),
            ("trailer", trailerId),
            ("place", placeId),
            ("at", at),
            ("note", note),
            ("by", w.Actor.Name),
            ("now", w.Now)
        );

    private const string Device = """
        union all
        (select null::bigint, s.at, null::text, 'device', s.latitude, s.longitude from positions s where s.truck_id = u.id order by s.at desc limit 1)
        """;

    /// <summary>The last two trips on which something happened, with the time that counts.</summary>
    private const string TripsOfTruck = """
        select t.id, t.number, null::timestamptz as counts_from, null::timestamptz as counts_until from trips t
        where t.truck_id = u.id and t.canceled_at is null and (t.started_at is not null
            or exists (select 1 from trip_stops o where o.trip_id = t.id and o.arrived_at is not null)) order by lower(t.scheduled) desc limit 2
        """;

    private const string TripsOfTrailer = """
        select t.id, t.number, o.hooked_at as counts_from, o.dropped_at as counts_until from trip_trailers o join trips t on t.id = o.trip_id
        where o.trailer_id = u.id and o.canceled_at is null and (o.from_at is null or o.hooked_at is not null) and (o.started_at is not null
            or exists (select 1 from trip_stops s where s.trip_id = t.id and s.arrived_at is not null)) order by lower(o.scheduled) desc limit 2
        """;

    /// <summary>The newest of: the last visit that its last trip reached, what a user entered, what a device reported.</summary>
    private static async Task<Dictionary<long, UnitStand>> Now(NpgsqlConnection db, string unit, string table, string trips, string more) =>
        (
            await db.Rows(
                $"""
                select u.id, x.at, x.number, x.source, x.place_id, coalesce(p.latitude, x.latitude) as latitude, coalesce(p.longitude, x.longitude) as longitude,
                    coalesce(p.town || ' ' || p.region, '') as town
                from {table} u
                cross join lateral (
                    (select v.place_id, v.at, t.number, 'trip' as source, null::float8 as latitude, null::float8 as longitude
                        from ({trips}) t
                        cross join lateral (select v.place_id, v.at from trip_reached v where v.trip_id = t.id
                            and (t.counts_from is null or v.at >= t.counts_from) and (t.counts_until is null or v.at <= t.counts_until)
                            order by v.at desc limit 1) v
                        order by v.at desc limit 1)
                    union all
                    (select l.place_id, l.at, null, 'person', null, null from unit_locations l where l.{unit}_id = u.id order by l.at desc limit 1)
                    {more}
                    order by at desc limit 1) x
                left join places p on p.id = x.place_id
                """,
                r => (Unit: r.Long("id"), At: Stand(r))
            )
        ).ToDictionary(x => x.Unit, x => x.At);

    private static UnitStand Stand(NpgsqlDataReader r) =>
        new(
            new GeoPoint(r.Double("latitude"), r.Double("longitude")),
            r.Text("town"),
            r.Instant("at"),
            r.Enum<StandSource>("source"),
            r.TextOrNull("number"),
            r.LongOrNull("place_id")
        );
}
