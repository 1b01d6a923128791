using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Trips;
using SteadyLark.Core.Trips.Loading;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Fleet;

public sealed record DriverRow(
    long Id,
    string Name,
    string ShortName,
    string? Phone,
    string? Email,
    string? HomeTown,
    bool Active,
    long? GroupId = null,
    string? Group = null,
    WorkerKind Worker = WorkerKind.Employee,
    Instant? HomeBy = null
);

/// <summary>Time a driver is off.</summary>
public sealed record TimeOffRow(long Id, long DriverId, Instant From, Instant Until, string? Note)
{
    [System.Text.Json.Serialization.JsonIgnore]
    public Span Span => new(From, Until);
}

/// <param name="TareLb">Its own weight with fuel and driver; null for a typical one.</param>
public sealed record TruckRow(long Id, string Unit, string? Make, bool Active, int? TareLb = null);

/// <param name="LengthIn">Inside, as are width and height; each figure is null for a typical trailer of its kind.</param>
/// <param name="TareLb">Its own weight.</param>
public sealed record TrailerRow(
    long Id,
    string Unit,
    Equipment Equipment,
    bool Active,
    int? LengthIn = null,
    int? WidthIn = null,
    int? HeightIn = null,
    int? PayloadLb = null,
    int? TareLb = null
)
{
    /// <summary>What it has besides its kind, in the order of the company's list.</summary>
    public IReadOnlyList<string> Features { get; init; } = [];

    /// <summary>Its compartments or decks.</summary>
    public TrailerLayout Layout { get; init; } = TrailerLayout.None;

    /// <summary>Its figures, typical ones where none are entered.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public TrailerSize Size => TrailerSize.Of(Equipment, LengthIn, WidthIn, HeightIn, PayloadLb, TareLb);

    [System.Text.Json.Serialization.JsonIgnore]
    public CrewTrailer ForCrew => new(Unit, Equipment, Active, Features);

    [System.Text.Json.Serialization.JsonIgnore]
    public TripTrailer OnTrip => new(Id, Unit, Equipment, Size, Layout, Features);
}

/// <summary>A driver as a candidate for a load: their bookings, where they will be free, and their last equipment.</summary>
/// <param name="FreeAt">When their last booking before the wanted time ends; null when there is none.</param>
/// <param name="FreeTown">Where that is.</param>
public sealed record DriverChoice(
    long Id,
    string Name,
    string? HomeTown,
    IReadOnlyList<CommitmentRow> Commitments,
    string? FreeTown,
    double? FreeLatitude,
    double? FreeLongitude,
    Instant? FreeAt,
    long? LastTruckId,
    long? LastTrailerId,
    double? HomeLatitude,
    double? HomeLongitude
);

/// <summary>A driver's booking, or their time off.</summary>
/// <param name="Trip">Null for time off.</param>
public sealed record CommitmentRow(string? Trip, string? LoadNumber, Instant From, Instant Until, bool UnderWay)
{
    public bool Off => Trip is null;
}

public static class FleetStore
{
    private const string DriverSelect = "select d.*, g.name as group_name from drivers d left join driver_groups g on g.id = d.group_id";

    /// <summary>What other loads trailers haul.</summary>
    public static async Task<EquipmentMatches> Matches(NpgsqlConnection db) =>
        new(
            await db.Rows("select trailer, load from equipment_matches order by trailer, load", r => new EquipmentMatch(
                r.Enum<Equipment>("trailer"),
                r.Enum<Equipment>("load")
            ))
        );

    public static async Task SetMatches(NpgsqlConnection db, EquipmentMatches matches)
    {
        await db.Run("delete from equipment_matches");
        foreach (var m in matches.Also)
        {
            await db.Run(
                "insert into equipment_matches (trailer, load) values (@trailer, @load)",
                ("trailer", m.Trailer),
                ("load", m.Load)
            );
        }
    }

    /// <summary>The company's list of trailer features, in its order.</summary>
    public static Task<List<string>> Features(NpgsqlConnection db) =>
        db.Rows("select name from trailer_features order by seq, name", r => r.Text("name"));

    /// <summary>The same, with how often each is used.</summary>
    public static Task<List<FeatureUse>> FeatureUses(NpgsqlConnection db) =>
        db.Rows(
            """
            select f.name, (select count(*)::int from trailers t where t.active and t.features @> array[f.name]) as trailers,
                (select count(*)::int from loads l where l.required_features @> array[f.name] and l.required_features <> '{}'
                    and l.state in ('draft', 'booked', 'tendered', 'covered', 'rolling')) as loads
            from trailer_features f order by f.seq, f.name
            """,
            r => new FeatureUse(r.Text("name"), r.Int("trailers"), r.Int("loads"))
        );

    /// <summary>What loads on a trailer's trips that are not over require: load and feature.</summary>
    public static Task<List<(string Load, string Feature)>> RequiredOf(NpgsqlConnection db, long trailerId) =>
        db.Rows(
            """
            select l.number, f.name from trips t join legs g on g.trip_id = t.id join loads l on l.id = g.load_id cross join unnest(l.required_features) as f (name)
            where coalesce(g.trailer_id, t.trailer_id) = @id and t.ended_at is null and t.canceled_at is null order by t.id, l.id
            """,
            r => (r.Text("number"), r.Text("name")),
            ("id", trailerId)
        );

    /// <summary>Trailers of ours on a load's legs that are not over, with what they have.</summary>
    public static Task<List<(string Unit, IReadOnlyList<string> Features)>> TrailersOf(NpgsqlConnection db, long loadId) =>
        db.Rows(
            """
            select r.unit, r.features from legs g join trips t on t.id = g.trip_id join trailers r on r.id = coalesce(g.trailer_id, t.trailer_id)
            where g.load_id = @id and t.ended_at is null and t.canceled_at is null order by g.seq
            """,
            r => (r.Text("unit"), (IReadOnlyList<string>)r.Texts("features")),
            ("id", loadId)
        );

    /// <summary>Replaces the list; a feature that is renamed is renamed wherever it is used.</summary>
    public static async Task SetFeatures(NpgsqlConnection db, IReadOnlyList<(string? Was, string Name)> list)
    {
        await db.Run("delete from trailer_features");
        await db.Run(
            "insert into trailer_features (name, seq) select n, seq from unnest(@names) with ordinality as f (n, seq)",
            ("names", list.Select(f => f.Name).ToArray())
        );
        var renamed = list.Where(f => f.Was is not null && f.Was != f.Name).ToList();
        if (renamed.Count == 0)
        {
            return;
        }

        // At once, so that two features may swap their names.
        foreach (var (table, column) in new[] { ("trailers", "features"), ("loads", "required_features") })
        {
            await db.Run(
                $"""
                update {table} set {column} = (select array_agg(coalesce(r.now, u.name) order by u.at)
                    from unnest({column}) with ordinality as u (name, at) left join unnest(@was, @now) as r (was, now) on r.was = u.name)
                where {column} && @was
                """,
                ("was", renamed.Select(f => f.Was!).ToArray()),
                ("now", renamed.Select(f => f.Name).ToArray())
            );
        }
    }

    public static Task<List<DriverRow>> Drivers(NpgsqlConnection db) => db.Rows($"{DriverSelect} order by d.name", ReadDriver);

    /// <param name="locked">One command at a time for this driver.</param>
    public static async Task<DriverRow?> Driver(NpgsqlConnection db, long id, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from drivers where id = @id for update", ("id", id));
        }

        return await db.Row($"{DriverSelect} where d.id = @id", ReadDriver, ("id", id));
    }

    public static Task<List<TruckRow>> Trucks(NpgsqlConnection db) =>
        db.Rows("select * from trucks order by unit", r => new TruckRow(
            r.Long("id"),
            r.Text("unit"),
            r.TextOrNull("make"),
            r.Bool("active"),
            r.IntOrNull("tare_lb")
        ));

    public static Task<List<TrailerRow>> Trailers(NpgsqlConnection db) =>
        db.Rows("select * from trailers order by unit", r => new TrailerRow(
            r.Long("id"),
            r.Text("unit"),
            r.Enum<Equipment>("equipment"),
            r.Bool("active"),
            r.IntOrNull("length_in"),
            r.IntOrNull("width_in"),
            r.IntOrNull("height_in"),
            r.IntOrNull("payload_lb"),
            r.IntOrNull("tare_lb")
        )
        {
            Features = r.Texts("features"),
            Layout = Layout(r),
        });

    /// <summary>A trailer's compartments or decks; its features say whether it has a winch.</summary>
    internal static TrailerLayout Layout(NpgsqlDataReader r)
    {
        var (names, lengths) = (r.Texts("deck_names"), r.Ints("deck_lengths_in"));
        var (heights, payloads) = (r.Ints("deck_heights_in"), r.Ints("deck_payloads_lb"));
        return new TrailerLayout(
            r.Decimals("compartments"),
            names.Select((n, i) => new TrailerDeck(n, lengths[i], heights[i], payloads[i])).ToList(),
            r.Texts("features").Contains(TrailerFeatures.Winch)
        );
    }

    public static async Task<long> AddDriver(NpgsqlConnection db, DriverRow d)
    {
        var id = await db.One<long>(
            """
            insert into drivers (name, short_name, phone, email, home_town, group_id, worker_kind) values (@name, @short, @phone, @email,
                @home, @group, @worker) returning id
            """,
            ("name", d.Name),
            ("short", d.ShortName),
            ("phone", d.Phone),
            ("email", d.Email),
            ("home", d.HomeTown),
            ("group", d.GroupId),
            ("worker", d.Worker)
        );
        await db.Run("select find_driver(@id)", ("id", id));
        return id;
    }

    public static Task<long> AddTruck(NpgsqlConnection db, string unit, string? make) =>
        db.One<long>("insert into trucks (unit, make) values (@unit, @make) returning id", ("unit", unit), ("make", make));

    public static Task<long> AddTrailer(NpgsqlConnection db, string unit, Equipment equipment) =>
        db.One<long>(
            "insert into trailers (unit, equipment) values (@unit, @equipment) returning id",
            ("unit", unit),
            ("equipment", equipment)
        );

    /// <returns>The driver's key.</returns>
    public static async Task<long> ChangeDriver(NpgsqlConnection db, DriverRow d)
    {
        await db.Run(
            """
            update drivers set name = @name, short_name = @short, phone = @phone, email = @email, home_town = @home, active = @active,
            group_id = @group, worker_kind = @worker where id = @id
            """,
            ("id", d.Id),
            ("name", d.Name),
            ("short", d.ShortName),
            ("phone", d.Phone),
            ("email", d.Email),
            ("home", d.HomeTown),
            ("active", d.Active),
            ("group", d.GroupId),
            ("worker", d.Worker)
        );
        await db.Run("select find_driver(@id)", ("id", d.Id));
        return d.Id;
    }

    /// <returns>The truck's key.</returns>
    public static async Task<long> ChangeTruck(NpgsqlConnection db, TruckRow t)
    {
        await db.Run(
            "update trucks set unit = @unit, make = @make, active = @active, tare_lb = @tare where id = @id",
            ("id", t.Id),
            ("unit", t.Unit),
            ("make", t.Make),
            ("active", t.Active),
            ("tare", t.TareLb)
        );
        return t.Id;
    }

    /// <returns>The trailer's key.</returns>
    public static async Task<long> ChangeTrailer(NpgsqlConnection db, TrailerRow t)
    {
        await db.Run(
            """
            update trailers set unit = @unit, equipment = @equipment, active = @active, length_in = @length, width_in = @width,
                height_in = @height, payload_lb = @payload, tare_lb = @tare, features = @features, compartments = @compartments,
                deck_names = @names, deck_lengths_in = @lengths, deck_heights_in = @heights, deck_payloads_lb = @payloads where id = @id
            """,
            ("compartments", t.Layout.Compartments.ToArray()),
            ("names", t.Layout.Decks.Select(d => d.Name).ToArray()),
            ("lengths", t.Layout.Decks.Select(d => d.LengthIn).ToArray()),
            ("heights", t.Layout.Decks.Select(d => d.HeightIn).ToArray()),
            ("payloads", t.Layout.Decks.Select(d => d.PayloadLb).ToArray()),
            ("features", t.Features.ToArray()),
            ("id", t.Id),
            ("unit", t.Unit),
            ("equipment", t.Equipment),
            ("active", t.Active),
            ("length", t.LengthIn),
            ("width", t.WidthIn),
            ("height", t.HeightIn),
            ("payload", t.PayloadLb),
            ("tare", t.TareLb)
        );
        return t.Id;
    }

    /// <summary>Time off that ends after an instant, of one driver or all, earliest first.</summary>
    public static Task<List<TimeOffRow>> TimeOff(NpgsqlConnection db, Instant after, long? driverId = null) =>
        db.Rows(
            """
            select id, driver_id, lower(off) as from_at, upper(off) as until_at, note from time_off
            where upper(off) > @after and (@driver::bigint is null or driver_id = @driver) order by lower(off), id
            """,
            r => new TimeOffRow(r.Long("id"), r.Long("driver_id"), r.Instant("from_at"), r.Instant("until_at"), r.TextOrNull("note")),
            ("after", after),
            ("driver", driverId)
        );

    public static Task<long> AddTimeOff(NpgsqlConnection db, long driverId, Span off, string? note) =>
        db.One<long>(
            "insert into time_off (driver_id, off, note) values (@driver, tstzrange(@from, @until), @note) returning id",
            ("driver", driverId),
            ("from", off.From),
            ("until", off.Until),
            ("note", note)
        );

    public static Task RemoveTimeOff(NpgsqlConnection db, long id) => db.Run("delete from time_off where id = @id", ("id", id));

    public static Task SetHomeBy(NpgsqlConnection db, long driverId, Instant? by) =>
        db.Run("update drivers set home_by = @by where id = @id", ("id", driverId), ("by", by));

    /// <summary>A trip that still holds a driver, truck or trailer; null when there is none.</summary>
    public static Task<string?> Commitment(NpgsqlConnection db, CommitmentKind kind, long id, Instant now) =>
        db.One<string>(
            $"""
            select t.number from {(
                kind switch
                {
                    CommitmentKind.Driver => "trip_crew x join trips t on t.id = x.trip_id where x.driver_id = @id",
                    CommitmentKind.Truck => "trips x join trips t on t.id = x.id where x.truck_id = @id",
                    _ => "trip_trailers x join trips t on t.id = x.trip_id where x.trailer_id = @id",
                }
            )}
                and x.canceled_at is null and x.ended_at is null and (x.started_at is not null or upper(x.scheduled) > @now)
            order by lower(x.scheduled) limit 1
            """,
            ("id", id),
            ("now", now)
        );

    /// <summary>Bookings of drivers, a truck and a trailer around a span, and the drivers' time off, with the names a refusal needs.</summary>
    public static Task<List<Commitment>> Commitments(
        NpgsqlConnection db,
        IReadOnlyCollection<long> drivers,
        long truckId,
        long? trailerId,
        Span wanted,
        long? exceptTrip = null
    ) =>
        db.Rows(
            """
            select p.*, (select string_agg(l.number, ', ') from legs g join loads l on l.id = g.load_id where g.trip_id = p.trip_id) as
                loads
            from (
                select x.kind, x.id, x.name, t.id as trip_id, t.number, lower(t.scheduled) as from_at, upper(t.scheduled) as until_at
                from trips t
                cross join lateral (
                    select 'driver' as kind, d.id, d.short_name as name from drivers d where d.id in (t.driver_id, t.codriver_id) and d.id = any(@drivers)
                    union all select 'truck', k.id, 'Truck ' || k.unit from trucks k where k.id = t.truck_id and k.id = @truck
                    ) x
                where (t.driver_id = any(@drivers) or t.codriver_id = any(@drivers) or t.truck_id = @truck)
                  and t.scheduled && tstzrange(@from, @until) and t.canceled_at is null and t.ended_at is null
                  and t.id is distinct from @except::bigint
                union all
                select 'trailer', k.id, 'Trailer ' || k.unit, t.id, t.number, lower(x.scheduled), upper(x.scheduled)
                from trip_trailers x join trips t on t.id = x.trip_id join trailers k on k.id = x.trailer_id
                where x.trailer_id = @trailer and x.scheduled && tstzrange(@from, @until) and x.canceled_at is null and x.ended_at is null
                  and t.id is distinct from @except::bigint
                union all
                select 'driver', d.id, d.short_name, null, null, lower(o.off), upper(o.off) from time_off o join drivers d on d.id = o.driver_id
                where o.driver_id = any(@drivers) and o.off && tstzrange(@from, @until)) p
            """,
            r => new Commitment(
                r.Enum<CommitmentKind>("kind"),
                r.Long("id"),
                r.Text("name"),
                r.TextOrNull("number"),
                r.TextOrNull("loads") ?? "",
                new Span(r.Instant("from_at"), r.Instant("until_at"))
            ),
            ("drivers", drivers.ToArray()),
            ("truck", truckId),
            ("trailer", trailerId ?? 0),
            ("from", wanted.From),
            ("until", wanted.Until),
            ("except", exceptTrip)
        );

    /// <summary>Trucks and trailers booked within a span, with their drivers; each row has one of the two.</summary>
    public static Task<List<(long? TruckId, long? TrailerId, string Driver)>> HeldUnits(NpgsqlConnection db, Span span) =>
        db.Rows(
            """
            select t.truck_id, null::bigint as trailer_id, d.short_name from trips t join drivers d on d.id = t.driver_id
            where t.scheduled && tstzrange(@from, @until) and t.canceled_at is null and t.ended_at is null
            union all
            select null, x.trailer_id, d.short_name from trip_trailers x join trips t on t.id = x.trip_id join drivers d on d.id = t.driver_id
            where x.scheduled && tstzrange(@from, @until) and x.canceled_at is null and x.ended_at is null
            """,
            r => (r.LongOrNull("truck_id"), r.LongOrNull("trailer_id"), r.Text("short_name")),
            ("from", span.From),
            ("until", span.Until)
        );

    /// <summary>Every active driver with their bookings from a day ago on, and where they will be free before
    /// <paramref name="before"/>.</summary>
    /// <param name="only">Only these drivers; all when null.</param>
    public static async Task<List<DriverChoice>> Choices(
        NpgsqlConnection db,
        Instant now,
        Instant before,
        IReadOnlyCollection<long>? only = null
    )
    {
        var ids = only?.ToArray();
        var commitments = await db.Rows(
            """
            select c.driver_id, t.number, lower(t.scheduled) as from_at, upper(t.scheduled) as until_at, t.started_at is not null as
                under_way,
                   (select string_agg(l.number, ', ') from legs g join loads l on l.id = g.load_id where g.trip_id = t.id) as loads
            from trip_crew c join trips t on t.id = c.trip_id where c.canceled_at is null and c.ended_at is null and upper(c.scheduled) > @since
                and (@only::bigint[] is null or c.driver_id = any(@only))
            union all select driver_id, null, lower(off), upper(off), false, null from time_off where upper(off) > @since
                and (@only::bigint[] is null or driver_id = any(@only))
            order by from_at
            """,
            r =>
                (
                    Driver: r.Long("driver_id"),
                    Commitment: new CommitmentRow(
                        r.TextOrNull("number"),
                        r.TextOrNull("loads"),
                        r.Instant("from_at"),
                        r.Instant("until_at"),
                        r.Bool("under_way")
                    )
                ),
            ("since", now - Duration.FromDays(1)),
            ("only", ids)
        );
        var byDriver = commitments.ToLookup(p => p.Driver, p => p.Commitment);
        return await db.Rows(
            """
            select d.id, d.name, d.home_town, f.town, f.region, f.latitude, f.longitude, f.free_at, f.truck_id, f.trailer_id, h.latitude as
                home_latitude, h.longitude as home_longitude
            from drivers d
            left join lateral (select latitude, longitude from towns where name || ' ' || region = d.home_town order by population desc
                limit 1) h on true
            left join lateral (
                select p.town, p.region, p.latitude, p.longitude, coalesce(t.ended_at, upper(t.scheduled)) as free_at, t.truck_id,
                    -- The one hooked last that is not dropped on the way.
                    coalesce((select x.trailer_id from trip_trailers x where x.trip_id = t.id and x.until_at is null order by x.seq desc limit 1),
                        t.trailer_id) as trailer_id
                from trip_crew c join trips t on t.id = c.trip_id join trip_ends e on e.trip_id = t.id join places p on p.id = e.place_id
                where c.driver_id = d.id and c.canceled_at is null and lower(c.scheduled) < @before
                -- Bookings of one driver never overlap: the one that begins last ends last.
                order by lower(c.scheduled) desc limit 1) f on true
            where d.active and (@only::bigint[] is null or d.id = any(@only)) order by d.name
            """,
            r => new DriverChoice(
                r.Long("id"),
                r.Text("name"),
                r.TextOrNull("home_town"),
                byDriver[r.Long("id")].ToList(),
                r.TextOrNull("town") is { } town ? $"{town} {r.Text("region")}" : r.TextOrNull("home_town"),
                r.Null("latitude") ? null : r.Double("latitude"),
                r.Null("longitude") ? null : r.Double("longitude"),
                r.InstantOrNull("free_at"),
                r.LongOrNull("truck_id"),
                r.LongOrNull("trailer_id"),
                r.Null("home_latitude") ? null : r.Double("home_latitude"),
                r.Null("home_longitude") ? null : r.Double("home_longitude")
            ),
            ("before", before),
            ("only", ids)
        );
    }

    private static DriverRow ReadDriver(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Text("name"),
            r.Text("short_name"),
            r.TextOrNull("phone"),
            r.TextOrNull("email"),
            r.TextOrNull("home_town"),
            r.Bool("active"),
            r.LongOrNull("group_id"),
            r.TextOrNull("group_name"),
            r.Enum<WorkerKind>("worker_kind"),
            r.InstantOrNull("home_by")
        );
}
