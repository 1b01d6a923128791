using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Core.Trips.Loading;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;

namespace SteadyLark.Store.Trips;

/// <summary>A leg on a trip.</summary>
/// <param name="Leg">Its number in its load, from 1.</param>
/// <param name="TrailerId">The trailer its freight is in; null for the one the trip is assigned.</param>
public sealed record TripLegRow(long LegId, long LoadId, int Leg, long? TrailerId);

/// <summary>The legs of a trip, with the chosen order of its visits.</summary>
/// <param name="Stops">Stops of its own.</param>
/// <param name="Order">Ids as in <see cref="PlannedStop.Id"/>; empty for a trip with one leg and no stop of its own.</param>
public sealed record TripLegs(IReadOnlyList<TripLegRow> Legs, IReadOnlyList<TripStop> Stops, IReadOnlyList<long> Order);

/// <summary>What a leg on our truck brings and costs; nulls until it is known.</summary>
/// <param name="Revenue">Its share of the load's, in US dollars.</param>
/// <param name="Pay">Of all its drivers.</param>
/// <param name="CodriverPay">The part of it that is the co-driver's; null without one.</param>
public sealed record LegMoney(Money Revenue, Money? Pay, Money? Cost, Money? CodriverPay = null);

/// <summary>A trip with its crew.</summary>
/// <param name="Until">Until when its drivers, truck and trailer are booked.</param>
/// <param name="CodriverId">The other driver of a team; null for a driver alone.</param>
/// <param name="CodriverShare">Their share of the work, in percent.</param>
public sealed record TripRow(
    long Id,
    string Number,
    long DriverId,
    string Driver,
    string? DriverPhone,
    long TruckId,
    string Truck,
    long? TrailerId,
    string? Trailer,
    Instant From,
    Instant Until,
    Instant? StartedAt,
    Instant? EndedAt,
    Instant? CanceledAt,
    Instant? AcceptedAt,
    [property: System.Text.Json.Serialization.JsonIgnore] Rig Rig,
    string? Name,
    long? CodriverId = null,
    string? Codriver = null,
    string? CodriverPhone = null,
    decimal? CodriverShare = null,
    [property: System.Text.Json.Serialization.JsonIgnore] WorkerKind Worker = WorkerKind.Employee,
    [property: System.Text.Json.Serialization.JsonIgnore] WorkerKind? CodriverWorker = null
)
{
    /// <summary>Whether trailers are hooked or dropped on the way.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool ChangesTrailers { get; init; }

    /// <summary>Its trailers: the one it is assigned, then those it hooks on the way.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public IReadOnlyList<TripTrailer> Trailers => Rig.Trailers;

    /// <summary>When it was closed: everything on it is decided; null while it is not.</summary>
    public Instant? ClosedAt { get; init; }

    public string? ClosedBy { get; init; }

    /// <summary>When it was archived: lists leave it out; null while they show it.</summary>
    public Instant? ArchivedAt { get; init; }

    /// <summary>How far it is, once it is over.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public TripClosing Closing => new(Number, EndedAt is not null, CanceledAt is not null, ClosedAt is not null, ArchivedAt is not null);

    /// <summary>Whether an owner-operator drives, whose lease says what costs are theirs.</summary>
    public bool IsLeased => Worker == WorkerKind.OwnerOperator || CodriverWorker == WorkerKind.OwnerOperator;

    /// <summary>Its drivers: one, or the two of a team.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public IReadOnlyList<long> Crew => CodriverId is { } other ? [DriverId, other] : [DriverId];

    public Span Booked => new(From, Until);
}

/// <summary>Trips with their legs, in the order of their visits.</summary>
public static class ItineraryStore
{
    /// <summary>A trip; null when there is none.</summary>
    /// <param name="locked">One command at a time for this trip.</param>
    public static async Task<TripRow?> Trip(NpgsqlConnection db, long id, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from trips where id = @id for update", ("id", id));
        }

        return (await Rows(db, $"{Select} where t.id = @id", ("id", id))).FirstOrDefault();
    }

    /// <summary>Stores whether a trip is closed and archived.</summary>
    public static Task Close(CommandContext w, long id, bool closed, bool archived) =>
        w.Db.Run(
            """
            update trips set closed_at = case when @closed then coalesce(closed_at, @now) end,
                closed_by = case when @closed then coalesce(closed_by, @by) end,
                archived_at = case when @archived then coalesce(archived_at, @now) end where id = @id
            """,
            ("id", id),
            ("closed", closed),
            ("archived", archived),
            ("now", w.Now),
            ("by", w.Actor.Name)
        );

    /// <summary>Trips that are not over, with a trailer of some kinds.</summary>
    public static Task<List<TripRow>> Open(NpgsqlConnection db, IEnumerable<Equipment> equipment) =>
        Rows(
            db,
            $"""
            {Select} where t.ended_at is null and t.canceled_at is null and exists (select 1 from trip_trailers x join trailers u on u.id = x.trailer_id
                where x.trip_id = t.id and u.equipment = any(@kinds)) order by lower(t.scheduled), t.id
            """,
            ("kinds", equipment.Select(e => EnumCodec.Of(e)).ToArray())
        );

    /// <summary>Trips of a trailer that are not over.</summary>
    public static Task<List<long>> OpenOf(NpgsqlConnection db, long trailerId) =>
        db.Rows(
            "select trip_id from trip_trailers where trailer_id = @trailer and ended_at is null and canceled_at is null order by trip_id",
            r => r.Long("trip_id"),
            ("trailer", trailerId)
        );

    /// <summary>Trips of a span that were not canceled: those that ended after it begins, and those that are not over and planned before it
    /// ends.</summary>
    /// <param name="drivers">Only theirs; all when null.</param>
    public static Task<List<TripRow>> Around(NpgsqlConnection db, Span span, IEnumerable<long>? drivers = null) =>
        Rows(
            db,
            $"""
            {Select} where t.canceled_at is null and (t.ended_at > @from or (t.ended_at is null and lower(t.scheduled) < @until))
                and (@drivers::bigint[] is null or t.driver_id = any(@drivers) or t.codriver_id = any(@drivers)) order by lower(t.scheduled), t.id
            """,
            ("from", span.From),
            ("until", span.Until),
            ("drivers", drivers?.Distinct().ToArray())
        );

    /// <summary>Gives trips to other drivers, trucks and trailers, all at once; they have to be accepted again.</summary>
    public static Task Reassign(NpgsqlConnection db, IReadOnlyCollection<(long Trip, long Driver, long Truck, long? Trailer)> crews) =>
        db.Run(
            """
            set constraints driver_scheduled_once, truck_scheduled_once, trailer_scheduled_once deferred;
            update trips t set driver_id = c.driver, truck_id = c.truck, trailer_id = c.trailer, accepted_at = null
            from unnest(@trips::bigint[], @drivers::bigint[], @trucks::bigint[], @trailers::bigint[]) as c(trip, driver, truck, trailer)
            where t.id = c.trip
            """,
            ("trips", crews.Select(c => c.Trip).ToArray()),
            ("drivers", crews.Select(c => c.Driver).ToArray()),
            ("trucks", crews.Select(c => c.Truck).ToArray()),
            ("trailers", crews.Select(c => c.Trailer).ToArray())
        );

    /// <summary>Puts a co-driver on a trip, or takes the one it has off it; what its legs cost is computed anew.</summary>
    /// <param name="codriver">The driver, and their share of the work in percent; null for a driver alone.</param>
    public static Task SetCodriver(NpgsqlConnection db, long tripId, (long Driver, decimal Share)? codriver) =>
        db.Run(
            """
            update trips set codriver_id = @driver, codriver_share = @share where id = @id;
            update legs set expected_pay = null, codriver_pay = null where trip_id = @id and expected_pay is not null
            """,
            ("id", tripId),
            ("driver", codriver?.Driver),
            ("share", codriver?.Share)
        );

    /// <summary>A driver whom a settlement paid for a leg of a trip; null when nobody is paid yet.</summary>
    public static Task<string?> Paid(NpgsqlConnection db, long tripId) =>
        db.One<string>(
            """
            select d.name from legs g join settlement_legs s on s.leg_id = g.id and s.standing join drivers d on d.id = s.driver_id
            where g.trip_id = @id limit 1
            """,
            ("id", tripId)
        );

    public static Task Name(NpgsqlConnection db, long tripId, string number, string? name) =>
        db.Run("update trips set number = @number, name = @name where id = @id", ("id", tripId), ("number", number), ("name", name));

    /// <summary>Which load and trip legs are of, in the order of their pickup.</summary>
    public static Task<List<(long Leg, long Load, long? Trip)>> Find(NpgsqlConnection db, IEnumerable<long> legs) =>
        db.Rows(
            """
            select g.id, g.load_id, g.trip_id from legs g join loads l on l.id = g.load_id left join transfers x on x.id = g.begins_at
            where g.id = any(@legs) order by coalesce(x.left_at, x.planned_at, l.first_at), g.id
            """,
            r => (r.Long("id"), r.Long("load_id"), r.LongOrNull("trip_id")),
            ("legs", legs.Distinct().ToArray())
        );

    /// <summary>The legs that end and begin at a transfer, in this order, with its load; none when there is no such transfer.</summary>
    public static Task<List<(long Leg, long Load, long? Trip)>> At(NpgsqlConnection db, long transfer) =>
        db.Rows(
            """
            select g.id, g.load_id, g.trip_id from leg_ends le join legs g on g.id = le.leg_id
            where le.begins_id = @transfer or le.ends_id = @transfer order by g.seq
            """,
            r => (r.Long("id"), r.Long("load_id"), r.LongOrNull("trip_id")),
            ("transfer", transfer)
        );

    /// <summary>Our trailers that brought freight to transfers, by transfer.</summary>
    public static async Task<Dictionary<long, (long Id, string Unit)>> TrailersAt(NpgsqlConnection db, IEnumerable<long> transfers) =>
        (
            await db.Rows(
                """
                select le.ends_id, r.id, r.unit from leg_ends le join legs g on g.id = le.leg_id join trips t on t.id = g.trip_id
                join trailers r on r.id = coalesce(g.trailer_id, t.trailer_id) where le.ends_id = any(@transfers)
                """,
                r => (Transfer: r.Long("ends_id"), Trailer: (r.Long("id"), r.Text("unit"))),
                ("transfers", transfers.ToArray())
            )
        ).ToDictionary(x => x.Transfer, x => x.Trailer);

    /// <summary>The legs of trips with their order, by trip.</summary>
    /// <param name="shared">Only of trips with several legs, or with stops of their own.</param>
    public static async Task<Dictionary<long, TripLegs>> Legs(NpgsqlConnection db, IEnumerable<long> trips, bool shared = false)
    {
        var legs = new List<(long Trip, TripLegRow Leg)>();
        var order = new List<(long Trip, long Id)>();
        var stops = new List<TripStopRow>();
        await db.Together(
            [("trips", trips.Distinct().ToArray()), ("shared", shared)],
            (
                """
                select g.trip_id, g.id, g.load_id, g.seq, g.trailer_id from legs g where g.trip_id = any(@trips)
                    and (not @shared or exists (select 1 from legs o where o.trip_id = g.trip_id and o.id <> g.id)
                        or exists (select 1 from trip_stops o where o.trip_id = g.trip_id and not o.skipped)) order by g.trip_id, g.id
                """,
                r =>
                    legs.Add((r.Long("trip_id"), new TripLegRow(r.Long("id"), r.Long("load_id"), r.Int("seq"), r.LongOrNull("trailer_id"))))
            ),
            (
                "select trip_id, coalesce(stop_id, trip_stop_id, -transfer_id) as id from trip_visits where trip_id = any(@trips) order by trip_id, seq",
                r => order.Add((r.Long("trip_id"), r.Long("id")))
            ),
            ($"{TripStopStore.Select} where o.trip_id = any(@trips) and not o.skipped order by o.id", r =>
                stops.Add(TripStopStore.ReadStop(r))
            )
        );
        var own = stops.ToLookup(s => s.TripId, s => s.AsStop());
        var orders = order.ToLookup(o => o.Trip, o => o.Id);
        return legs.GroupBy(l => l.Trip)
            .ToDictionary(g => g.Key, g => new TripLegs(g.Select(l => l.Leg).ToList(), own[g.Key].ToList(), orders[g.Key].ToList()));
    }

    /// <summary>What the legs of trips bring and cost, by leg.</summary>
    public static async Task<Dictionary<long, LegMoney>> Amounts(NpgsqlConnection db, IEnumerable<long> legs) =>
        (
            await db.Rows(
                $"""
                select g.id, {LegSql.Weights} as leg_weights, {LegSql.Place} as leg_place, round(l.revenue * rate_of(l.currency, l.first_at), 2) as revenue,
                    g.expected_pay, g.expected_cost, g.codriver_pay
                from legs g join loads l on l.id = g.load_id where g.id = any(@legs)
                """,
                r =>
                    (
                        Id: r.Long("id"),
                        Money: new LegMoney(
                            DriverAgreement.Share(r.Usd("revenue"), r.Ints("leg_weights"), r.Int("leg_place")),
                            r.UsdOrNull("expected_pay"),
                            r.UsdOrNull("expected_cost"),
                            r.UsdOrNull("codriver_pay")
                        )
                    ),
                ("legs", legs.ToArray())
            )
        ).ToDictionary(x => x.Id, x => x.Money);

    /// <summary>The legs that may be covered, of loads, by load: id and number.</summary>
    public static async Task<ILookup<long, (long Id, int Leg)>> LegIds(NpgsqlConnection db, IEnumerable<long> loads) =>
        (
            await db.Rows(
                "select load_id, id, seq from legs where load_id = any(@loads) and trip_id is null and carrier_id is null",
                r => (Load: r.Long("load_id"), Leg: (r.Long("id"), r.Int("seq"))),
                ("loads", loads.ToArray())
            )
        ).ToLookup(x => x.Load, x => x.Leg);

    /// <summary>What a trip's truck does in order.</summary>
    /// <param name="loads">All loads of the trip, by id; every stop must be known.</param>
    /// <param name="cargo">Null where it matters what is on board, not how large it is.</param>
    public static IReadOnlyList<Visit> Visits(
        IRoads roads,
        TripLegs trip,
        IReadOnlyDictionary<long, LoadRow> loads,
        ILookup<long, CargoLine>? cargo = null
    ) =>
        Itinerary.Of(
            [
                .. trip.Legs.Select(l => loads[l.LoadId].OnTrip(roads, l.LegId, l.Leg, cargo) with { TrailerId = l.TrailerId }),
                .. trip.Stops.Select(s => s.OnTrip()),
            ],
            trip.Order
        );

    /// <summary>The visits of trips that carry several loads or have stops of their own, by trip.</summary>
    /// <param name="trips">Those with one load and no such stop are left out.</param>
    /// <param name="known">Loads that were read already.</param>
    public static async Task<Dictionary<long, IReadOnlyList<Visit>>> SharedVisits(
        NpgsqlConnection db,
        IRoads roads,
        IEnumerable<long> trips,
        IEnumerable<LoadRow> known
    )
    {
        var shared = await Legs(db, trips, shared: true);
        if (shared.Count == 0)
        {
            return [];
        }

        var loads = known.DistinctBy(r => r.Id).ToDictionary(r => r.Id);
        var missing = shared.Values.SelectMany(t => t.Legs.Select(l => l.LoadId)).Where(id => !loads.ContainsKey(id)).ToList();
        foreach (var row in await LoadReads.ByIds(db, missing))
        {
            loads[row.Id] = row;
        }

        return shared.ToDictionary(t => t.Key, t => Visits(roads, t.Value, loads));
    }

    /// <summary>The freight of loads, by load.</summary>
    public static async Task<ILookup<long, CargoLine>> Cargo(NpgsqlConnection db, IEnumerable<long> loads) =>
        (
            await db.Rows(
                $"{FreightLineSql.Select} where f.load_id = any(@loads) order by f.load_id, f.seq",
                r => (Load: r.Long("load_id"), Line: FreightLineSql.Cargo(r)),
                ("loads", loads.Distinct().ToArray())
            )
        ).ToLookup(l => l.Load, l => l.Line);

    /// <summary>Where the freight of trips was loaded.</summary>
    public static Task<List<LoadedAt>> Loaded(NpgsqlConnection db, IEnumerable<long> trips) =>
        db.Rows(
            "select p.* from leg_places p join legs g on g.id = p.leg_id where g.trip_id = any(@trips) order by p.leg_id, p.line, p.place",
            r => new LoadedAt(r.Long("leg_id"), r.Int("line"), r.Int("place"), r.Decimal("amount")),
            ("trips", trips.Distinct().ToArray())
        );

    /// <summary>Stores where the freight of a leg was loaded, in place of what was stored.</summary>
    public static Task SetLoaded(NpgsqlConnection db, long legId, IReadOnlyList<LoadedAt> places) =>
        db.Run(
            """
            delete from leg_places where leg_id = @leg and not (line, place) in (select * from unnest(@lines, @places));
            insert into leg_places (leg_id, line, place, amount) select @leg, l, p, a from unnest(@lines, @places, @amounts) as x (l, p, a)
            on conflict (leg_id, line, place) do update set amount = excluded.amount
            """,
            ("leg", legId),
            ("lines", places.Select(p => p.Line).ToArray()),
            ("places", places.Select(p => p.Place).ToArray()),
            ("amounts", places.Select(p => p.Amount).ToArray())
        );

    /// <summary>What a load's leg is on a trip.</summary>
    /// <param name="leg">Its number, from 1.</param>
    public static TripLeg OnTrip(this LoadRow load, IRoads roads, long legId, int leg, ILookup<long, CargoLine>? cargo)
    {
        var path = load.Path();
        var stops = path.OfLeg(roads, leg - 1);
        return new TripLeg(
            legId,
            load.Id,
            load.Number,
            stops,
            stops.Select(s => load.TownOf(s.Id)).ToList(),
            stops.Select(s => load.ZoneOf(s.Id)).ToList(),
            cargo?[load.Id].ToList() ?? [],
            Empty: load.IsMove && load.Freight is null
        )
        {
            HooksTrailer = path.Begin(leg - 1) is { Method: not TransferMethod.Transload },
            DropsTrailer = path.End(leg - 1) is { Method: not TransferMethod.Transload },
        };
    }

    /// <summary>Stores the order of a trip's visits; a trip with one leg and no stop of its own needs none. What its legs cost is computed
    /// anew.</summary>
    /// <param name="visits">Stops of its own that are not among them were passed by.</param>
    public static async Task Save(NpgsqlConnection db, long tripId, IReadOnlyList<Visit> visits)
    {
        var own = visits.Where(v => !v.Leg.Carries).Select(v => v.Stop.Id).ToArray();
        await db.Run(
            """
            delete from trip_visits where trip_id = @trip;
            update trip_stops set skipped = true where trip_id = @trip and not skipped and arrived_at is null and id <> all(@own)
            """,
            ("trip", tripId),
            ("own", own)
        );
        if (visits.Select(v => v.Leg.LegId).Distinct().Count() > 1)
        {
            await db.Run(
                """
                insert into trip_visits (trip_id, seq, stop_id, transfer_id, trip_stop_id)
                select @trip, n, case when id > 0 and id <> all(@own) then id end, case when id < 0 then -id end, case when id = any(@own) then id end
                from unnest(@ids) with ordinality as v(id, n)
                """,
                ("trip", tripId),
                ("own", own),
                ("ids", Itinerary.Order(visits).ToArray())
            );
        }

        await db.Run("update legs set expected_pay = null where trip_id = @trip and expected_pay is not null", ("trip", tripId));
    }

    /// <summary>Stores which trailers a trip has when, and which of them each leg's freight is in.</summary>
    public static Task SaveTrailers(NpgsqlConnection db, long tripId, IReadOnlyList<Visit> visits, IReadOnlyList<TrailerPart> trailers)
    {
        var legs = Itinerary.Carried(visits);
        return db.Run(
            """
            insert into trip_trailers (trip_id, trailer_id, seq, from_at, until_at, hooked_at, dropped_at)
            select @trip, x.trailer, x.seq, x.from_at, x.until_at, x.hooked, x.dropped
            from unnest(@trailers, @from::timestamptz[], @until::timestamptz[], @hooked::timestamptz[], @dropped::timestamptz[]) with ordinality as
                x (trailer, from_at, until_at, hooked, dropped, seq)
            on conflict (trip_id, trailer_id) do update set seq = excluded.seq, from_at = excluded.from_at, until_at = excluded.until_at,
                hooked_at = excluded.hooked_at, dropped_at = excluded.dropped_at
            where (trip_trailers.seq, trip_trailers.from_at, trip_trailers.until_at, trip_trailers.hooked_at, trip_trailers.dropped_at)
                is distinct from (excluded.seq, excluded.from_at, excluded.until_at, excluded.hooked_at, excluded.dropped_at);
            update legs g set trailer_id = x.trailer from unnest(@legs, @legTrailers::bigint[]) as x (leg, trailer)
            where g.id = x.leg and g.trip_id = @trip and g.trailer_id is distinct from x.trailer;
            delete from trip_trailers where trip_id = @trip and trailer_id <> all(@trailers)
            """,
            ("trip", tripId),
            ("trailers", trailers.Select(t => t.Trailer.Id).ToArray()),
            ("from", trailers.Select(t => t.From).ToArray()),
            ("until", trailers.Select(t => t.Until).ToArray()),
            ("hooked", trailers.Select(t => t.Hooked).ToArray()),
            ("dropped", trailers.Select(t => t.Dropped).ToArray()),
            ("legs", legs.Select(l => l.LegId).ToArray()),
            ("legTrailers", legs.Select(l => l.TrailerId).ToArray())
        );
    }

    private static async Task<List<TripRow>> Rows(NpgsqlConnection db, string sql, params (string Name, object? Value)[] parameters)
    {
        var rows = await db.Rows(sql, Read, parameters);
        var changing = rows.Where(t => t.ChangesTrailers).Select(t => t.Id).ToArray();
        if (changing.Length == 0)
        {
            return rows;
        }

        var others = await db.Rows(
            """
            select x.trip_id, r.id as trailer_id, r.unit as trailer, r.* from trip_trailers x join trailers r on r.id = x.trailer_id
            where x.trip_id = any(@trips) and x.seq > 1 order by x.trip_id, x.seq
            """,
            r => (Trip: r.Long("trip_id"), Trailer: ReadTrailer(r)),
            ("trips", changing)
        );
        return rows.ConvertAll(t => t with { Rig = others.Where(o => o.Trip == t.Id).Aggregate(t.Rig, (rig, o) => rig.With(o.Trailer)) });
    }

    private const string Select = """
        select exists (select 1 from trip_trailers x where x.trip_id = t.id and (x.seq > 1 or x.from_at is not null or x.until_at is not null)) as changes_trailers, t.*, lower(t.scheduled) as from_at, upper(t.scheduled) as until_at, d.name as driver, d.phone as driver_phone, k.unit as truck,
            k.tare_lb as truck_tare, r.unit as trailer, r.equipment, r.length_in, r.width_in, r.height_in, r.payload_lb, r.tare_lb,
            r.compartments, r.deck_names, r.deck_lengths_in, r.deck_heights_in, r.deck_payloads_lb, m.name as codriver, m.phone as codriver_phone, d.worker_kind, m.worker_kind as codriver_kind, coalesce(r.features, '{}') as features
        from trips t join drivers d on d.id = t.driver_id left join drivers m on m.id = t.codriver_id join trucks k on k.id = t.truck_id left join trailers r on r.id = t.trailer_id
        """;

    private static TripTrailer ReadTrailer(NpgsqlDataReader r)
    {
        var equipment = r.Enum<Equipment>("equipment");
        return new TripTrailer(
            r.Long("trailer_id"),
            r.Text("trailer"),
            equipment,
            TrailerSize.Of(
                equipment,
                r.IntOrNull("length_in"),
                r.IntOrNull("width_in"),
                r.IntOrNull("height_in"),
                r.IntOrNull("payload_lb"),
                r.IntOrNull("tare_lb")
            ),
            FleetStore.Layout(r),
            r.Texts("features")
        );
    }

    private static TripRow Read(NpgsqlDataReader r) =>
        new TripRow(
            r.Long("id"),
            r.Text("number"),
            r.Long("driver_id"),
            r.Text("driver"),
            r.TextOrNull("driver_phone"),
            r.Long("truck_id"),
            r.Text("truck"),
            r.LongOrNull("trailer_id"),
            r.TextOrNull("trailer"),
            r.Instant("from_at"),
            r.Instant("until_at"),
            r.InstantOrNull("started_at"),
            r.InstantOrNull("ended_at"),
            r.InstantOrNull("canceled_at"),
            r.InstantOrNull("accepted_at"),
            new Rig(r.IntOrNull("truck_tare") ?? TripLimits.TypicalTruckTareLb, r.Null("trailer_id") ? [] : [ReadTrailer(r)]),
            r.TextOrNull("name"),
            r.LongOrNull("codriver_id"),
            r.TextOrNull("codriver"),
            r.TextOrNull("codriver_phone"),
            r.DecimalOrNull("codriver_share"),
            r.Enum<WorkerKind>("worker_kind"),
            r.EnumOrNull<WorkerKind>("codriver_kind")
        )
        {
            ClosedAt = r.InstantOrNull("closed_at"),
            ClosedBy = r.TextOrNull("closed_by"),
            ArchivedAt = r.InstantOrNull("archived_at"),
            ChangesTrailers = r.Bool("changes_trailers"),
        };
}
