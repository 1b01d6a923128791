using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Places;

namespace SteadyLark.Store.Covering;

/// <summary>A tender as the carrier's link shows it.</summary>
public sealed record TenderSheet(
    long Id,
    long LegId,
    long LoadId,
    string LoadNumber,
    long CarrierId,
    string Carrier,
    string? CarrierEmail,
    Money Amount,
    Tender Tender,
    string? SignedBy,
    int Revision,
    CarrierDispatch? Dispatch
);

/// <summary>Lane history: a load between the same two towns that a carrier hauled.</summary>
public sealed record LanePay(string LoadNumber, string Carrier, [property: SeenWith(Right.MarginsSee)] Money Agreed, LocalDate On);

/// <summary>A transfer: where and when freight changed trucks.</summary>
public sealed record TransferAt(Instant At, PlaceRow Place);

/// <summary>The transfers at which a leg begins and ends; null at the ends of the load.</summary>
public sealed record LegStretch(TransferAt? From, TransferAt? To);

public static class CoverStore
{
    public static async Task<(long Id, string Number)> AddTrip(
        CommandContext w,
        long driverId,
        long truckId,
        long? trailerId,
        Span scheduled
    )
    {
        var number = (await w.Db.One<string>("select next_in_series('trip')"))!;
        var id = await w.Db.One<long>(
            """
            insert into trips (number, driver_id, truck_id, trailer_id, scheduled) values (@number, @driver, @truck, @trailer,
            tstzrange(@from, @until)) returning id
            """,
            ("number", number),
            ("driver", driverId),
            ("truck", truckId),
            ("trailer", trailerId),
            ("from", scheduled.From),
            ("until", scheduled.Until)
        );
        return (id, number);
    }

    public static Task AssignTrip(NpgsqlConnection db, long legId, long tripId) =>
        db.Run("update legs set trip_id = @trip where id = @leg", ("leg", legId), ("trip", tripId));

    public static async Task AssignCarrier(NpgsqlConnection db, long legId, long carrierId, IReadOnlyList<FlatCharge> charges)
    {
        await db.Run(
            "update legs set carrier_id = @carrier, agreed = @agreed, currency = @currency where id = @leg",
            ("leg", legId),
            ("carrier", carrierId),
            ("agreed", CarrierPay.Sum(charges)),
            ("currency", CarrierPay.Sum(charges).Currency)
        );
        await WriteCharges(db, legId, charges);
    }

    /// <summary>Replaces what a carrier is paid for a leg.</summary>
    public static async Task ChangeCharges(NpgsqlConnection db, long legId, IReadOnlyList<FlatCharge> charges)
    {
        await db.Run("update legs set agreed = @agreed where id = @leg", ("leg", legId), ("agreed", CarrierPay.Sum(charges)));
        await db.Run("delete from carrier_charges where leg_id = @leg and until_transfer is null", ("leg", legId));
        await WriteCharges(db, legId, charges);
    }

    private static async Task WriteCharges(NpgsqlConnection db, long legId, IReadOnlyList<FlatCharge> charges)
    {
        for (var i = 0; i < charges.Count; i++)
        {
            var c = charges[i];
            await db.Run(
                """
                insert into carrier_charges (leg_id, seq, kind, description, amount, authorized_by, authorized_on,
                authorization_reference) values
                (@leg, @seq, @kind, @description, @amount, @by, @on, @ref)
                """,
                ("leg", legId),
                ("seq", i + 1),
                ("kind", c.Kind),
                ("description", c.Description),
                ("amount", c.Amount),
                ("by", c.Authorization?.By),
                ("on", c.Authorization?.On),
                ("ref", c.Authorization?.Reference)
            );
        }
    }

    /// <summary>What the carriers of a load are paid, in order, by leg.</summary>
    public static async Task<ILookup<long, CarrierChargeRow>> Charges(NpgsqlConnection db, long loadId) =>
        (await db.Rows(ChargesSql, Charge, ("id", loadId))).ToLookup(c => c.Leg, c => c.Charge);

    /// <summary>What the carriers of load <c>@id</c> are paid; rows for <see cref="Charge"/>.</summary>
    internal const string ChargesSql = """
        select c.*, g.currency from carrier_charges c join legs g on g.id = c.leg_id where g.load_id = @id and c.until_transfer is null
        order by c.leg_id, c.seq
        """;

    internal static (long Leg, CarrierChargeRow Charge) Charge(NpgsqlDataReader r) =>
        (
            r.Long("leg_id"),
            new CarrierChargeRow(
                r.Long("id"),
                r.Enum<ChargeKind>("kind"),
                r.TextOrNull("description"),
                r.Money("amount"),
                LoadReads.Authorization(r)
            )
        );

    /// <summary>Records who comes for the freight of a carrier's leg.</summary>
    public static Task Dispatch(NpgsqlConnection db, long legId, CarrierDispatch d) =>
        db.Run(
            """
            update legs set carrier_driver = @driver, carrier_driver_phone = @phone, carrier_truck = @truck, carrier_trailer = @trailer
            where id = @leg
            """,
            ("leg", legId),
            ("driver", d.Driver),
            ("phone", d.Phone),
            ("truck", d.Truck),
            ("trailer", d.Trailer)
        );

    /// <summary>Unassigns a leg: its trip is canceled, its tender ended.</summary>
    /// <param name="end">How; with who said so, and why, when a carrier declined.</param>
    public static async Task Undo(CommandContext w, long legId, TenderEnd end, string? by = null, string? why = null)
    {
        await w.Db.Run(
            "update trips set canceled_at = @now where id = (select trip_id from legs where id = @leg)",
            ("leg", legId),
            ("now", w.Now)
        );
        await EndTender(w, legId, end, by, why);
        await w.Db.Run(
            """
            update legs set trip_id = null, carrier_id = null, agreed = null, currency = 'USD', carrier_driver = null, carrier_driver_phone = null,
                carrier_truck = null, carrier_trailer = null where id = @leg;
            delete from carrier_charges where leg_id = @leg
            """,
            ("leg", legId)
        );
    }

    /// <summary>Ends a leg's open tender.</summary>
    public static Task EndTender(CommandContext w, long legId, TenderEnd end, string? by = null, string? why = null) =>
        w.Db.Run(
            "update tenders set ended_at = @now, ended_as = @as, ended_by = @by, ended_why = @why where leg_id = @leg and ended_at is null",
            ("leg", legId),
            ("now", w.Now),
            ("as", end),
            ("by", by),
            ("why", why)
        );

    /// <summary>
    /// Updates a trip from its stops: started with its first arrival or with the handover to it, ended when the last stop is done or it was
    /// handed over.
    /// </summary>
    public static Task SettleTrip(NpgsqlConnection db, long tripId) =>
        db.Run(
            """
            update trips t set
                started_at = case when x.seq = 1 then x.arrived else x.taken_over end,
                ended_at = coalesce(x.handed_over_at, case when x.done then x.ended end)
            from (select g.seq, le.ended_at as handed_over_at, le.began_at as taken_over,
                         min(s.arrived_at) as arrived, max(coalesce(s.left_at, s.delivered_at, s.refused_at)) as ended,
                         bool_and(s.left_at is not null or s.delivered_at is not null) as done
                  from legs g join leg_ends le on le.leg_id = g.id join stops s on s.load_id = g.load_id where g.trip_id = @trip
                  group by g.id, le.ended_at, le.began_at) x
            where t.id = @trip
            """,
            ("trip", tripId)
        );

    /// <summary>Ends a load's last leg, and its trip, at a transfer, and begins the next leg, which nobody has yet.</summary>
    /// <returns>The leg that begins, and the transfer.</returns>
    public static async Task<(long Leg, long Transfer)> Transfer(
        NpgsqlConnection db,
        long loadId,
        LegRow before,
        long placeId,
        Instant at,
        HandoverPlan plan
    )
    {
        var transfer = await db.One<long>(
            "insert into transfers (load_id, place_id, happened_at) values (@load, @place, @at) returning id",
            ("load", loadId),
            ("place", placeId),
            ("at", at)
        );
        await db.Run("update legs set miles = @miles where id = @leg", ("leg", before.Id), ("miles", plan.MilesDone));
        var leg = await db.One<long>(
            "insert into legs (load_id, seq, miles, begins_at) values (@load, @seq, @miles, @transfer) returning id",
            ("load", loadId),
            ("seq", before.Seq + 1),
            ("miles", plan.MilesAhead),
            ("transfer", transfer)
        );
        if (before.TripId is { } trip)
        {
            await SettleTrip(db, trip);
        }

        return (leg, transfer);
    }

    /// <summary>Changes what a carrier is paid that was replaced on the way, and keeps what it was paid until then.</summary>
    public static async Task Replaced(NpgsqlConnection db, long legId, long transfer, IReadOnlyList<FlatCharge> charges)
    {
        await db.Run(
            "update carrier_charges set until_transfer = @transfer where leg_id = @leg and until_transfer is null",
            ("leg", legId),
            ("transfer", transfer)
        );
        await ChangeCharges(db, legId, charges);
    }

    /// <summary>Undoes a load's last transfer: the leg that it began is deleted, its trip canceled, its tenders kept with the leg before, which
    /// continues at the pay it had.</summary>
    /// <returns>Whether that leg's carrier pay changes back.</returns>
    public static async Task<bool> UndoTransfer(CommandContext w, long loadId, LegRow before, LegRow leg)
    {
        await w.Db.Run("update trips set canceled_at = @now where id = @trip", ("trip", leg.TripId), ("now", w.Now));
        var transfer = await w.Db.One<long>("select begins_at from legs where id = @leg", ("leg", leg.Id));
        await w.Db.Run("update tenders set leg_id = @before where leg_id = @leg", ("leg", leg.Id), ("before", before.Id));
        await w.Db.Run("delete from carrier_charges where leg_id = @leg", ("leg", leg.Id));
        await w.Db.Run("delete from legs where id = @leg and load_id = @load", ("leg", leg.Id), ("load", loadId));
        await w.Db.Run(
            """
            delete from carrier_charges where leg_id = @leg and until_transfer is null
                and exists (select 1 from carrier_charges where leg_id = @leg and until_transfer = @transfer)
            """,
            ("leg", before.Id),
            ("transfer", transfer)
        );
        var restored = await w.Db.Run(
            "update carrier_charges set until_transfer = null where until_transfer = @transfer",
            ("transfer", transfer)
        );
        await w.Db.Run(
            """
            update legs set miles = @miles, agreed = case when carrier_id is not null then (select sum(amount) from carrier_charges
                where leg_id = legs.id and until_transfer is null) end where id = @leg
            """,
            ("leg", before.Id),
            ("miles", before.Miles + leg.Miles)
        );
        await w.Db.Run("delete from transfers where id = @id", ("id", transfer));
        if (before.TripId is { } trip)
        {
            await SettleTrip(w.Db, trip);
        }

        return restored > 0;
    }

    /// <summary>How long a trip is booked.</summary>
    public static async Task<Span> CommitmentOf(NpgsqlConnection db, long tripId) =>
        (
            await db.Row(
                "select lower(scheduled) as from_at, upper(scheduled) as until_at from trips where id = @id",
                r => Tuple.Create(new Span(r.Instant("from_at"), r.Instant("until_at"))),
                ("id", tripId)
            )
        )!.Item1;

    /// <summary>Where and when a leg took the freight over; null for the first.</summary>
    public static Task<TookOver?> TookOverAt(NpgsqlConnection db, long legId) =>
        db.Row(
            """
            select p.latitude, p.longitude, le.began_at from leg_ends le join places p on p.id = le.began_place_id where le.leg_id = @id
            """,
            r => new TookOver(new GeoPoint(r.Double("latitude"), r.Double("longitude")), r.Instant("began_at")),
            ("id", legId)
        );

    /// <summary>The transfers at which a leg begins and ends, with when; null at the ends of the load.</summary>
    public static async Task<LegStretch> Stretch(NpgsqlConnection db, long legId)
    {
        var ends = await db.Rows(
            """
            select le.began_at as at, le.began_place_id as place_id, 0 as side from leg_ends le where le.leg_id = @id and le.began_at is not null
            union all select le.ended_at, le.ended_place_id, 1 from leg_ends le where le.leg_id = @id and le.ended_at is not null
            """,
            r => (At: r.Instant("at"), Place: r.Long("place_id"), Side: r.Int("side")),
            ("id", legId)
        );
        var found = new TransferAt?[2];
        foreach (var end in ends)
        {
            found[end.Side] = new TransferAt(end.At, (await PlaceStore.Get(db, end.Place))!);
        }

        return new LegStretch(found[0], found[1]);
    }

    /// <summary>The driver accepts a trip; once.</summary>
    public static async Task<bool> AcceptTrip(CommandContext w, long tripId) =>
        await w.Db.Run("update trips set accepted_at = @now where id = @id and accepted_at is null", ("id", tripId), ("now", w.Now)) == 1;

    /// <summary>Books a trip's driver, truck and trailer for another time, for example when a stop was added.</summary>
    public static Task Commitment(NpgsqlConnection db, long tripId, Span span) =>
        db.Run(
            "update trips set scheduled = tstzrange(@from, @until) where id = @id",
            ("id", tripId),
            ("from", span.From),
            ("until", span.Until)
        );

    /// <param name="acceptedBy">Who accepted by phone; null for a tender that waits for its answer.</param>
    public static Task<long> AddTender(
        CommandContext w,
        long legId,
        long carrierId,
        Money amount,
        string token,
        Instant? expires,
        string? acceptedBy
    ) =>
        w.Db.One<long>(
            """
            insert into tenders (leg_id, carrier_id, amount, token, sent_at, expires_at, accepted_at, accepted_by, accepted_via)
            values (@leg, @carrier, @amount, @token, @now, @expires, case when @by::text is not null then @now end, @by,
                case when @by::text is not null then 'phone' end) returning id
            """,
            ("leg", legId),
            ("carrier", carrierId),
            ("amount", amount),
            ("token", LinkToken.Hash(token)),
            ("now", w.Now),
            ("expires", expires),
            ("by", acceptedBy)
        );

    /// <summary>Replaces a leg's accepted tender by one with its charges of now, to be signed again.</summary>
    /// <returns>The new tender and its revision.</returns>
    public static async Task<(long Id, int Revision)> Revise(CommandContext w, long legId, string token)
    {
        await EndTender(w, legId, TenderEnd.Replaced);
        return (
            await w.Db.Rows(
                """
                insert into tenders (leg_id, carrier_id, amount, token, sent_at, accepted_at, accepted_by, accepted_via, revision)
                select g.id, g.carrier_id, g.agreed, @token, @now, o.accepted_at, o.accepted_by, o.accepted_via, o.revision + 1
                from legs g join lateral (select * from tenders where leg_id = g.id order by id desc limit 1) o on true where g.id = @leg
                returning id, revision
                """,
                r => (r.Long("id"), r.Int("revision")),
                ("leg", legId),
                ("token", LinkToken.Hash(token)),
                ("now", w.Now)
            )
        )[0];
    }

    public static async Task<(long LegId, long CarrierId, Instant SentAt, int Revision)> TenderToDraw(NpgsqlConnection db, long id) =>
        (
            await db.Rows(
                "select leg_id, carrier_id, sent_at, revision from tenders where id = @id",
                r => (r.Long("leg_id"), r.Long("carrier_id"), r.Instant("sent_at"), r.Int("revision")),
                ("id", id)
            )
        )[0];

    /// <summary>Loads whose tender should have been answered by now, with the tender; the first few.</summary>
    public static Task<List<(long LoadId, long TenderId)>> Unanswered(NpgsqlConnection db, Instant now) =>
        db.Rows(
            """
            select g.load_id, t.id from tenders t join legs g on g.id = t.leg_id where t.accepted_at is null and t.ended_at is null and
                t.expires_at <= @now order by t.expires_at limit 50
            """,
            r => (r.Long("load_id"), r.Long("id")),
            ("now", now)
        );

    /// <summary>A tender by the token of its link, in any state.</summary>
    public static Task<TenderSheet?> TenderByToken(NpgsqlConnection db, string token) =>
        db.Row(
            """
            select t.*, g.load_id, g.currency, l.number, c.name as carrier, c.email, g.carrier_driver, g.carrier_driver_phone, g.carrier_truck,
                g.carrier_trailer from tenders t join legs g on g.id = t.leg_id join loads l on l.id =
                g.load_id
            join companies c on c.id = t.carrier_id where t.token = @token
            """,
            r => new TenderSheet(
                r.Long("id"),
                r.Long("leg_id"),
                r.Long("load_id"),
                r.Text("number"),
                r.Long("carrier_id"),
                r.Text("carrier"),
                r.TextOrNull("email"),
                r.Money("amount"),
                new Tender(
                    r.Instant("sent_at"),
                    r.InstantOrNull("expires_at"),
                    r.InstantOrNull("accepted_at"),
                    r.TextOrNull("accepted_by"),
                    r.InstantOrNull("signed_at"),
                    r.EnumOrNull<TenderEnd>("ended_as")
                ),
                r.TextOrNull("signed_by"),
                r.Int("revision"),
                LoadReads.Dispatch(r)
            ),
            ("token", LinkToken.Hash(token))
        );

    /// <summary>The carrier accepts; on its link that is its signature, too.</summary>
    public static Task<int> Accept(CommandContext w, long tenderId, string by, AcceptedVia via) =>
        w.Db.Run(
            """
            update tenders set accepted_at = coalesce(accepted_at, @now), accepted_by = coalesce(accepted_by, @by), accepted_via =
                coalesce(accepted_via, @via), signed_at = case when @via = 'link' then @now end, signed_by = case when @via = 'link' then @by end
            where id = @id and signed_at is null and ended_at is null
            """,
            ("id", tenderId),
            ("now", w.Now),
            ("by", by),
            ("via", via)
        );

    /// <summary>What carriers were paid between this load's towns, newest first.</summary>
    public static Task<List<LanePay>> LaneHistory(NpgsqlConnection db, long loadId, int max) =>
        db.Rows(
            """
            select e.number, c.name, g.agreed, g.currency, (e.first_at at time zone (select s.zone from stops s where s.load_id = e.id order by s.seq
                limit 1))::date as on_day
            from loads e join legs g on g.load_id = e.id and g.carrier_id is not null join companies c on c.id = g.carrier_id
            where e.lane = (select lane from loads where id = @load) and e.id <> @load order by e.first_at desc limit @most
            """,
            r => new LanePay(r.Text("number"), r.Text("name"), r.Money("agreed"), r.Date("on_day")),
            ("load", loadId),
            ("most", max)
        );
}
