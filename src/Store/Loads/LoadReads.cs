using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;

namespace SteadyLark.Store.Loads;

/// <summary>Where the next page of a list begins.</summary>
public readonly record struct LoadCursor(Instant At, long Id);

public static class LoadReads
{
    // Put together once and interned, so that they are prepared (Sql.Command).
    private static readonly string InStatesSql = string.Intern(
        $"""
        {RowsOf(
            "select * from loads where state = any(@states) and (not @toCover or to_cover is not null) and (@at::timestamptz is null or (coalesce(first_at, 'infinity'), id) > (@at, @id))"
                + " order by coalesce(first_at, 'infinity'), id limit @most"
        )}
        order by coalesce(l.first_at, 'infinity'), l.id
        """
    );

    private static readonly string ByIdsSql = string.Intern(RowsOf("select * from loads where id = any(@ids)"));

    private static readonly string OfDriverSql = string.Intern(
        RowsOf(
            """
            select x.* from loads x where exists (select 1 from legs y join trip_crew z on z.trip_id = y.trip_id where y.load_id = x.id and
            z.driver_id = @driver and z.canceled_at is null and (z.ended_at is null or z.ended_at > @since))
            """,
            """
            select x.* from legs x join trip_crew y on y.trip_id = x.trip_id join leg_ends le on le.leg_id = x.id where x.load_id = l.id
                and y.driver_id = @driver and y.canceled_at is null and (y.ended_at is null or y.ended_at > @since) and le.ended_at is null
                order by x.seq limit 1
            """
        ) + " where g.id is not null order by lower(t.scheduled)"
    );

    /// <summary>The leg of load <c>l</c> in progress: the first whose freight was not left at its end.</summary>
    private const string InProgress = """
        select x.* from legs x where x.load_id = l.id and not exists (select 1 from legs n join transfers e on e.id = n.begins_at
            where n.load_id = x.load_id and n.seq = x.seq + 1 and e.left_at is not null) order by x.seq limit 1
        """;

    /// <summary>Rows of the loads selected by <paramref name="which"/>: first those few, then what belongs to them.</summary>
    /// <param name="leg">Selects the leg that a row is about.</param>
    private static string RowsOf(string which, string leg = InProgress) =>
        $"""
            select l.*, c.name as customer, mt.unit as moves_trailer, z.name as bill_to, f.description as freight, f.weight_lb, f.temperature_f, coalesce(f.hazmat, false) as hazmat,
                h.reason as held,
                   coalesce(d.short_name || coalesce(' / ' || m.short_name, ''), k.name) as who, g.id as leg_id, coalesce(g.seq, 1) as leg_seq, t.driver_id, t.codriver_id, g.carrier_id, g.trip_id, t.number as trip, g.agreed, g.currency as agreed_currency,
                   round(l.revenue * rate_of(l.currency, l.first_at), 2) as booked_revenue,
                   (g.carrier_id is null or td.signed_at is not null) as confirmed, case when td.accepted_at is null then td.expires_at end as
                       tender_expires
            from ({which}) l
            left join companies c on c.id = l.customer_id
            left join companies z on z.id = l.bill_to_id
            left join trailers mt on mt.id = l.moves_trailer_id
            left join lateral (select string_agg(description, ', ' order by seq) as description, sum(weight_lb)::int as weight_lb,
                min(temperature_f) as temperature_f, bool_or(hazmat) as hazmat
                               from freight_lines where load_id = l.id) f on true
            left join lateral ({leg}) g on true
            left join trips t on t.id = g.trip_id
            left join drivers d on d.id = t.driver_id
            left join drivers m on m.id = t.codriver_id
            left join companies k on k.id = g.carrier_id
            left join tenders td on td.leg_id = g.id and td.ended_at is null
            left join lateral (select string_agg(reason, ' ' order by id) as reason from holds where load_id = l.id and lifted_at is null) h
                on true
            """;

    /// <summary>Loads in some states, earliest first, after a cursor.</summary>
    /// <param name="toCover">Only those with a leg to be covered.</param>
    public static async Task<List<LoadRow>> InStates(
        NpgsqlConnection db,
        IEnumerable<LoadState> states,
        LoadCursor? after,
        int max,
        bool toCover = false
    ) =>
        await WithStops(
            db,
            await db.Rows(
                InStatesSql,
                ReadRow,
                ("states", states.Select(s => EnumCodec.Of(s)).ToArray()),
                ("toCover", toCover),
                ("at", after?.At),
                ("id", after?.Id ?? 0),
                ("most", max)
            )
        );

    /// <summary>Loads in any state, newest first, before a key.</summary>
    public static async Task<List<LoadRow>> Newest(NpgsqlConnection db, long? before, int max, long? customerId = null) =>
        await WithStops(
            db,
            await db.Rows(
                $"{RowsOf("select * from loads where (@before::bigint is null or id < @before) and (@customer::bigint is null or customer_id = @customer) order by id desc limit @most")} order by l.id desc",
                ReadRow,
                ("before", before),
                ("most", max),
                ("customer", customerId)
            )
        );

    public static async Task<List<LoadRow>> ByIds(NpgsqlConnection db, IEnumerable<long> ids) =>
        await WithStops(db, await db.Rows(ByIdsSql, ReadRow, ("ids", ids.ToArray())));

    /// <summary>A driver's loads: ahead, in progress, and finished since an instant.</summary>
    public static async Task<List<LoadRow>> OfDriver(NpgsqlConnection db, long driverId, Instant since) =>
        await WithStops(db, await db.Rows(OfDriverSql, ReadRow, ("driver", driverId), ("since", since)));

    /// <summary>How long a tracking link works after delivery.</summary>
    public static readonly Duration TrackedAfterDelivery = Duration.FromDays(14);

    /// <summary>How long a tracking link works at most.</summary>
    public static readonly Duration TrackLinkLifetime = Duration.FromDays(90);

    /// <summary>The load of a valid tracking link; 0 when the link is unknown, revoked or expired.</summary>
    public static Task<long> ByTrackToken(NpgsqlConnection db, string token, Instant now) =>
        db.One<long>(
            """
            select l.id from track_links t join loads l on l.id = t.load_id
            where t.token = @token and t.revoked_at is null and t.created_at > @oldest and (l.delivered_at is null or l.delivered_at >
                @delivered)
            """,
            ("token", LinkToken.Hash(token)),
            ("oldest", now - TrackLinkLifetime),
            ("delivered", now - TrackedAfterDelivery)
        );

    /// <summary>The number of the leg of a load that a driver has, from 1: the first of theirs whose freight they did not leave at a transfer;
    /// 0 when there is none.</summary>
    public static Task<int> LegOf(NpgsqlConnection db, long loadId, long? driverId) =>
        db.One<int>(
            """
            select g.seq from legs g join trips t on t.id = g.trip_id join leg_ends le on le.leg_id = g.id
            where g.load_id = @load and @driver in (t.driver_id, t.codriver_id) and le.ended_at is null order by g.seq limit 1
            """,
            ("load", loadId),
            ("driver", driverId)
        );

    public static Task<bool> NumberTaken(NpgsqlConnection db, string number) =>
        db.One<bool>("select exists (select 1 from loads where number = @number)", ("number", number));

    /// <summary>A customer's newest booked load; 0 when there is none.</summary>
    public static Task<long> LastOf(NpgsqlConnection db, long customerId) =>
        db.One<long>(
            "select id from loads where customer_id = @id and not is_draft and cancelled_at is null order by id desc limit 1",
            ("id", customerId)
        );

    public static async Task<LoadSheet?> Sheet(NpgsqlConnection db, long id)
    {
        var row = (await ByIds(db, [id])).FirstOrDefault();
        if (row is null)
        {
            return null;
        }

        List<FreightRow> freight = [];
        List<ChargeRow> charges = [];
        List<ReferenceRow> references = [];
        List<CustomValueRow> own = [];
        List<LoadLink> replacedBy = [];
        List<LoadLink> replaces = [];
        await db.Together(
            [("id", id)],
            ($"{FreightLineSql.Select} where f.load_id = @id order by f.seq", r => freight.Add(FreightLineSql.Row(r))),
            ("select c.*, l.currency from charges c join loads l on l.id = c.load_id where l.id = @id order by c.seq", r =>
                charges.Add(
                    new ChargeRow(
                        r.Long("id"),
                        r.Enum<ChargeKind>("kind"),
                        r.TextOrNull("description"),
                        r.Enum<ChargeBasis>("basis"),
                        r.DecimalOrNull("rate"),
                        r.DecimalOrNull("quantity"),
                        r.Money("amount"),
                        r.DecimalOrNull("minimum"),
                        Authorization(r),
                        ClassRatesStore.Rating(r.TextOrNull("rating"))
                    )
                )
            ),
            ("select kind, value, stop_seq from load_references where load_id = @id order by stop_seq nulls first, seq", r =>
                references.Add(new ReferenceRow(r.Enum<ReferenceKind>("kind"), r.Text("value"), r.IntOrNull("stop_seq")))
            ),
            (
                """
                select f.id, f.name, v.value from custom_values v join custom_fields f on f.id = v.field_id where v.load_id = @id order by
                f.seq, f.id
                """,
                r => own.Add(new CustomValueRow(r.Long("id"), r.Text("name"), r.Text("value")))
            ),
            (
                """
                select r.old_id = @id as later, l.id, l.number from load_replacements r join loads l on l.id = case when r.old_id = @id then r.new_id else r.old_id end
                where @id in (r.old_id, r.new_id) order by l.id
                """,
                r => (r.Bool("later") ? replacedBy : replaces).Add(new LoadLink(r.Long("id"), r.Text("number")))
            )
        );
        var holds = await HoldStore.Of(db, id);
        var legs = await Legs(db, id);
        var invoices = await db.Rows(
            """
            select i.*, il.supplement from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = @id and il.standing order
            by il.supplement, i.id
            """,
            r =>
                (
                    Supplement: r.Bool("supplement"),
                    Invoice: new LoadInvoice(
                        r.Long("id"),
                        r.Text("number"),
                        r.Date("issued_on"),
                        r.Date("due_on"),
                        r.Money("total"),
                        r.Money("paid")
                    )
                ),
            ("id", id)
        );
        var reports = await ReportStore.Of(db, id);
        return (
            await db.Row(
                """
                select l.driver_instructions, l.carrier_instructions, l.booked_at, l.cancelled_why, u.name as booked_by, l.office_id, o.name
                as office from loads l left join users u on u.id = l.booked_by left join offices o on o.id = l.office_id where l.id = @id
                """,
                r => new LoadSheet(
                    row,
                    r.TextOrNull("driver_instructions"),
                    r.TextOrNull("carrier_instructions"),
                    r.TextOrNull("booked_by"),
                    r.Instant("booked_at"),
                    r.TextOrNull("cancelled_why"),
                    freight,
                    charges,
                    references,
                    own,
                    holds,
                    reports,
                    legs,
                    invoices.FirstOrDefault(i => !i.Supplement).Invoice,
                    invoices.Where(i => i.Supplement).Select(i => i.Invoice).ToList(),
                    r.LongOrNull("office_id"),
                    r.TextOrNull("office")
                )
                {
                    ReplacedBy = replacedBy,
                    Replaces = replaces,
                },
                ("id", id)
            )
        )!;
    }

    /// <summary>The legs in order.</summary>
    public static async Task<List<LegRow>> Legs(NpgsqlConnection db, long loadId)
    {
        var charges = new List<(long Leg, CarrierChargeRow Charge)>();
        var legs = new List<LegRow>();
        await db.Together(
            [("id", loadId)],
            (CoverStore.ChargesSql, r => charges.Add(CoverStore.Charge(r))),
            (
                """
                select g.*, exists (select 1 from trip_trailers x where x.trip_id = g.trip_id
                        and (x.seq > 1 or x.from_at is not null or x.until_at is not null)) as changes_trailers, le.ended_at, lc.cost as booked_cost, hp.town as handover_town, t.accepted_at as driver_accepted_at, t.number as trip, t.driver_id, d.name as driver,
                    d.phone as driver_phone, t.truck_id, tk.unit as truck, tr.id as on_trailer_id, tr.unit as trailer,
                       t.codriver_id, cd.name as codriver, cd.phone as codriver_phone,
                       k.name as carrier, k.phone as carrier_phone, td.id as tender_id, td.sent_at, td.expires_at, td.accepted_at, td.accepted_by, td.accepted_via, td.signed_at, td.signed_by,
                       td.revision, array(select x.number from legs o join loads x on x.id = o.load_id
                           where o.trip_id = g.trip_id and o.id <> g.id order by o.id) as rides_with,
                       b.id as bill_id, b.number as bill_number, coalesce(b.approved, b.amount) as billed, b.paid_on as bill_paid_on,
                           st.settlement_id, st.paid_on as settlement_paid_on
                from legs g
                join leg_costs lc on lc.leg_id = g.id join leg_ends le on le.leg_id = g.id
                left join trips t on t.id = g.trip_id left join drivers d on d.id = t.driver_id left join drivers cd on cd.id = t.codriver_id left join trucks tk on tk.id = t.truck_id left
                    join trailers tr on tr.id = coalesce(g.trailer_id, t.trailer_id)
                left join companies k on k.id = g.carrier_id left join tenders td on td.leg_id = g.id and td.ended_at is null
                left join bills b on b.leg_id = g.id and b.voided_at is null
                left join lateral (select min(sl.settlement_id) as settlement_id, case when bool_and(se.paid_on is not null) then max(se.paid_on) end as paid_on
                    from settlement_legs sl join settlements se on se.id = sl.settlement_id where sl.leg_id = g.id and sl.standing) st on true
                left join places hp on hp.id = le.ended_place_id
                where g.load_id = @id order by g.seq
                """,
                r =>
                    legs.Add(
                        new LegRow(
                            r.Long("id"),
                            r.Int("seq"),
                            r.Int("miles"),
                            r.InstantOrNull("ended_at"),
                            r.TextOrNull("handover_town"),
                            r.LongOrNull("begins_at"),
                            r.InstantOrNull("driver_accepted_at"),
                            r.LongOrNull("trip_id"),
                            r.TextOrNull("trip"),
                            r.LongOrNull("driver_id"),
                            r.TextOrNull("driver"),
                            r.TextOrNull("driver_phone"),
                            r.LongOrNull("truck_id"),
                            r.TextOrNull("truck"),
                            r.LongOrNull("on_trailer_id"),
                            r.TextOrNull("trailer"),
                            r.UsdOrNull("expected_pay"),
                            r.Null("expected_cost")
                                ? null
                                : new LegCost(
                                    r.Usd("expected_pay"),
                                    r.Usd("cost_payroll_tax"),
                                    r.Usd("cost_fuel"),
                                    r.Usd("cost_tolls"),
                                    r.Usd("cost_truck"),
                                    r.Usd("cost_other")
                                )
                                {
                                    Codriver = r.UsdOrNull("codriver_pay") ?? Money.Zero(),
                                },
                            r.IntOrNull("truck_miles"),
                            r.IntOrNull("empty_miles"),
                            r.DecimalOrNull("truck_days"),
                            r.Texts("rides_with"),
                            r.LongOrNull("carrier_id"),
                            r.TextOrNull("carrier"),
                            r.TextOrNull("carrier_phone"),
                            r.MoneyOrNull("agreed"),
                            r.Null("tender_id")
                                ? null
                                : new TenderRow(
                                    r.Long("tender_id"),
                                    r.Instant("sent_at"),
                                    r.InstantOrNull("expires_at"),
                                    r.InstantOrNull("accepted_at"),
                                    r.TextOrNull("accepted_by"),
                                    r.EnumOrNull<AcceptedVia>("accepted_via"),
                                    r.InstantOrNull("signed_at"),
                                    r.TextOrNull("signed_by"),
                                    r.Int("revision")
                                ),
                            Dispatch(r),
                            r.LongOrNull("bill_id"),
                            r.TextOrNull("bill_number"),
                            r.MoneyOrNull("billed"),
                            r.DateOrNull("bill_paid_on"),
                            r.LongOrNull("settlement_id"),
                            r.DateOrNull("settlement_paid_on"),
                            r.UsdOrNull("booked_cost"),
                            charges.Where(c => c.Leg == r.Long("id")).Select(c => c.Charge).ToList(),
                            r.DecimalOrNull("share"),
                            r.LongOrNull("codriver_id"),
                            r.TextOrNull("codriver"),
                            r.TextOrNull("codriver_phone"),
                            r.UsdOrNull("codriver_pay")
                        )
                        {
                            ChangesTrailers = r.Bool("changes_trailers"),
                        }
                    )
            )
        );
        return legs;
    }

    /// <summary>Who agreed to a charge; null when nobody is named.</summary>
    internal static ChargeAuthorization? Authorization(NpgsqlDataReader r) =>
        r.TextOrNull("authorized_by") is { } by
            ? new ChargeAuthorization(by, r.DateOrNull("authorized_on"), r.TextOrNull("authorization_reference"))
            : null;

    /// <summary>A carrier's driver and truck; null until they are entered.</summary>
    internal static CarrierDispatch? Dispatch(NpgsqlDataReader r) =>
        r.TextOrNull("carrier_driver") is { } driver
            ? new CarrierDispatch(driver, r.Text("carrier_driver_phone"), r.Text("carrier_truck"), r.TextOrNull("carrier_trailer"))
            : null;

    private const string StopsSql = """
        select s.*, p.name as place, p.address, p.town, p.region, coalesce(s.zone, p.zone) as place_zone, p.latitude, p.longitude,
            p.service_minutes, p.booking_note,
               (select r.expected_at from reports r where r.stop_id = s.id and r.expected_at is not null and r.undone_at is null order
                   by r.id desc limit 1) as told_at
        from stops s left join places p on p.id = s.place_id where s.load_id = any(@ids) order by s.load_id, s.seq
        """;

    /// <summary>Where each driver with work now last finished something, for the first stop of their next trip.</summary>
    public static async Task<Dictionary<long, (GeoPoint Point, Instant Free)>> LastEnds(NpgsqlConnection db, IEnumerable<long> driverIds) =>
        (
            await db.Rows(
                """
                select d.id, e.latitude, e.longitude, e.ended_at from unnest(@ids) as d(id)
                cross join lateral (
                    select p.latitude, p.longitude, t.ended_at from trip_crew t join trip_ends te on te.trip_id = t.trip_id join places p on
                        p.id = te.place_id
                    where t.driver_id = d.id and t.ended_at is not null order by t.ended_at desc limit 1) e
                """,
                r => (Id: r.Long("id"), Point: new GeoPoint(r.Double("latitude"), r.Double("longitude")), Free: r.Instant("ended_at")),
                ("ids", driverIds.Distinct().ToArray())
            )
        ).ToDictionary(x => x.Id, x => (x.Point, x.Free));

    private static async Task<List<LoadRow>> WithStops(NpgsqlConnection db, List<LoadRow> rows)
    {
        var (stops, transfers) = (new List<StopRow>(), new List<TransferRow>());
        await db.Together(
            [("ids", rows.Select(r => r.Id).ToArray())],
            (StopsSql, r => stops.Add(ReadStop(r))),
            (TransfersSql, r => transfers.Add(ReadTransfer(r)))
        );
        var (stopsOf, transfersOf) = (stops.ToLookup(s => s.LoadId), transfers.ToLookup(t => t.LoadId));
        return rows.Select(r => r with { Stops = stopsOf[r.Id].ToList(), Transfers = transfersOf[r.Id].ToList() }).ToList();
    }

    private const string TransfersSql = """
        select x.*, p.name as place, p.address, p.town, p.region, p.zone, p.latitude, p.longitude, coalesce(d.short_name, k.name) as next_who
        from transfers x join places p on p.id = x.place_id join legs g on g.begins_at = x.id left join trips t on t.id = g.trip_id
        left join drivers d on d.id = t.driver_id left join companies k on k.id = g.carrier_id
        where x.load_id = any(@ids) order by x.load_id, g.seq
        """;

    private static TransferRow ReadTransfer(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("load_id"),
            r.Int("after_stops"),
            r.Enum<TransferMethod>("method"),
            r.Long("place_id"),
            r.Text("place"),
            r.TextOrNull("address"),
            r.Text("town"),
            r.Text("region"),
            r.Text("zone"),
            r.Double("latitude"),
            r.Double("longitude"),
            r.InstantOrNull("planned_at"),
            r.InstantOrNull("left_at"),
            r.InstantOrNull("taken_at"),
            r.TextOrNull("next_who")
        );

    private static StopRow ReadStop(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("load_id"),
            r.Int("seq"),
            r.Enum<StopKind>("kind"),
            r.LongOrNull("place_id"),
            r.TextOrNull("place"),
            r.TextOrNull("address"),
            r.TextOrNull("town"),
            r.TextOrNull("region"),
            r.TextOrNull("place_zone"),
            r.Null("latitude") ? null : r.Double("latitude"),
            r.Null("longitude") ? null : r.Double("longitude"),
            r.LocalOrNull("from_local"),
            r.LocalOrNull("until_local"),
            r.InstantOrNull("from_at"),
            r.InstantOrNull("until_at"),
            r.TextOrNull("note"),
            r.InstantOrNull("arrived_at"),
            r.TextOrNull("arrived_via"),
            r.InstantOrNull("left_at"),
            r.TextOrNull("left_via"),
            r.InstantOrNull("delivered_at"),
            r.TextOrNull("delivered_via"),
            r.TextOrNull("received_by"),
            r.InstantOrNull("told_at"),
            r.InstantOrNull("refused_at"),
            r.IntOrNull("service_minutes"),
            r.Null("road_miles") ? null : (double)r.Decimal("road_miles"),
            r.IntOrNull("miles_set"),
            r.TextOrNull("miles_why"),
            r.TextOrNull("miles_by"),
            r.InstantOrNull("miles_at"),
            Via(r),
            r.TextOrNull("booking_note")
        );

    private static List<ShapingPoint>? Via(NpgsqlDataReader r)
    {
        var names = r.Texts("via_names");
        if (names.Length == 0)
        {
            return null;
        }

        var (latitudes, longitudes) = (
            r.GetFieldValue<double[]>(r.GetOrdinal("via_latitudes")),
            r.GetFieldValue<double[]>(r.GetOrdinal("via_longitudes"))
        );
        return names.Select((n, i) => new ShapingPoint(n, new GeoPoint(latitudes[i], longitudes[i]))).ToList();
    }

    private static LoadRow ReadRow(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Text("number"),
            r.Enum<LoadState>("state"),
            r.LongOrNull("customer_id"),
            r.Bool("is_move") ? Moves.Title(r.TextOrNull("moves_trailer")) : r.TextOrNull("customer"),
            r.TextOrNull("reference"),
            r.EnumOrNull<Equipment>("equipment"),
            r.TextOrNull("freight"),
            r.IntOrNull("weight_lb"),
            r.IntOrNull("temperature_f"),
            r.Bool("hazmat"),
            r.IntOrNull("miles"),
            r.Money("revenue"),
            r.Usd("booked_revenue"),
            r.Null("agreed") ? null : new Money(r.Decimal("agreed"), r.Currency("agreed_currency")),
            r.InstantOrNull("first_at"),
            r.InstantOrNull("last_at"),
            r.TextOrNull("who"),
            r.LongOrNull("driver_id"),
            r.LongOrNull("carrier_id"),
            r.LongOrNull("trip_id"),
            r.TextOrNull("trip"),
            r.Bool("confirmed"),
            r.InstantOrNull("tender_expires"),
            r.TextOrNull("held"),
            r.Int("version"),
            r.LongOrNull("bill_to_id"),
            r.TextOrNull("bill_to"),
            r.EnumOrNull<FreightTerms>("freight_terms"),
            r.LongOrNull("leg_id"),
            r.Int("leg_seq"),
            r.IntOrNull("to_cover"),
            [],
            [],
            r.LongOrNull("codriver_id"),
            r.Bool("is_move"),
            r.LongOrNull("moves_trailer_id"),
            r.TextOrNull("moves_trailer")
        )
        {
            Features = r.Texts("required_features"),
            Cod = r.MoneyOrNull("cod") is { } cod
                ? new CodRow(
                    cod,
                    r.MoneyOrNull("cod_collected"),
                    r.EnumOrNull<CodMethod>("cod_method"),
                    r.InstantOrNull("cod_collected_at"),
                    r.TextOrNull("cod_collected_by")
                )
                : null,
        };
}
