using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Store.Covering;

/// <summary>A tender as the carrier's link shows it.</summary>
public sealed record TenderSheet(
    long Id,
    long LegId,
    int LegSeq,
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
        string number;
        do
        {
            // Trips may have numbers that users chose.
            number = (await w.Db.One<string>("select next_in_series('trip')"))!;
        } while (await TripNumberTaken(w.Db, number));

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

    /// <summary>Whether a trip has a number, but for one trip.</summary>
    public static Task<bool> TripNumberTaken(NpgsqlConnection db, string number, long tripId = 0) =>
        db.One<bool>("select exists (select 1 from trips where number = @number and id <> @id)", ("number", number), ("id", tripId));

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

    /// <summary>Unassigns a leg: its tender ends, and its trip is canceled unless it carries other legs.</summary>
    /// <param name="end">How; with who said so, and why, when a carrier declined.</param>
    public static async Task Undo(CommandContext w, long legId, TenderEnd end, string? by = null, string? why = null)
    {
        await LeaveTrip(w, legId);
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

    /// <summary>Removes a leg's visits from its trip, and cancels a trip that has no other leg.</summary>
    private static Task LeaveTrip(CommandContext w, long legId) =>
        w.Db.Run(
            """
            delete from trip_visits v using legs g where g.id = @leg and v.trip_id = g.trip_id and (
                v.stop_id in (select id from stops where load_id = g.load_id) or v.transfer_id in (select id from transfers where load_id = g.load_id));
            update trips t set canceled_at = @now from legs g where g.id = @leg and t.id = g.trip_id
                and not exists (select 1 from legs o where o.trip_id = t.id and o.id <> g.id)
            """,
            ("leg", legId),
            ("now", w.Now)
        );

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
    /// Updates a trip from its legs: started with the first arrival or with the freight it took at a transfer, ended when each leg's freight was
    /// left at a transfer or its last stop is done.
    /// </summary>
    public static Task SettleTrip(NpgsqlConnection db, long tripId) =>
        db.Run(
            """
            update trips t set started_at = x.started, ended_at = x.ended
            from (select min(y.started) as started, case when bool_and(y.ended is not null) then max(y.ended) end as ended
                from (select case when le.begins_id is null then min(s.arrived_at) else le.began_at end as started,
                        coalesce(le.ended_at, case when le.ends_id is null and bool_and(s.left_at is not null or s.delivered_at is not null)
                            then max(coalesce(s.left_at, s.delivered_at, s.refused_at)) end) as ended
                    from legs g join leg_ends le on le.leg_id = g.id join stops s on s.load_id = g.load_id where g.trip_id = @trip
                    group by g.id, le.begins_id, le.began_at, le.ends_id, le.ended_at) y having count(*) > 0) x
            where t.id = @trip;
            """ + ShareAnewSql,
            ("trip", tripId)
        );

    /// <summary>The miles and costs of a trip's legs are shared anew when next its loads are settled; nothing for a trip with one leg and no stop of its own.</summary>
    public static Task ShareAnew(NpgsqlConnection db, long tripId) => db.Run(ShareAnewSql, ("trip", tripId));

    private const string ShareAnewSql = """
        update legs g set expected_pay = null where g.trip_id = @trip and g.expected_pay is not null
            and (exists (select 1 from legs o where o.trip_id = g.trip_id and o.id <> g.id)
                or exists (select 1 from trip_stops o where o.trip_id = g.trip_id and not o.skipped))
        """;

    /// <summary>Ends a leg at a transfer, where a new leg begins that nobody has yet; later legs move up.</summary>
    /// <returns>The leg that begins, and the transfer.</returns>
    public static async Task<(long Leg, long Transfer)> Split(
        NpgsqlConnection db,
        long loadId,
        LegRow before,
        long placeId,
        Transfer at,
        (int Before, int After) miles
    )
    {
        var transfer = await db.One<long>(
            """
            insert into transfers (load_id, place_id, after_stops, planned_at, left_at, taken_at, method)
            values (@load, @place, @after, @planned, @left, @taken, @method) returning id
            """,
            ("load", loadId),
            ("place", placeId),
            ("after", at.AfterStops),
            ("planned", at.PlannedAt),
            ("left", at.LeftAt),
            ("taken", at.TakenAt),
            ("method", at.Method)
        );
        await SetShares(db, loadId, null);
        await db.Run("update legs set seq = seq + 1 where load_id = @load and seq > @seq", ("load", loadId), ("seq", before.Seq));
        var leg = await db.One<long>(
            "insert into legs (load_id, seq, miles, begins_at) values (@load, @seq, @miles, @transfer) returning id",
            ("load", loadId),
            ("seq", before.Seq + 1),
            ("miles", miles.After),
            ("transfer", transfer)
        );
        await SetMiles(db, before.Id, miles.Before);
        if (before.TripId is { } trip)
        {
            await SettleTrip(db, trip);
        }

        return (leg, transfer);
    }

    /// <summary>Joins a leg that nobody has to the one before it; the transfer between them is removed, and later legs move down. Its tenders
    /// are kept with the leg before.</summary>
    public static async Task Join(CommandContext w, long loadId, LegRow before, LegRow leg, int miles)
    {
        await SetShares(w.Db, loadId, null);
        await w.Db.Run("update tenders set leg_id = @before where leg_id = @leg", ("leg", leg.Id), ("before", before.Id));
        await w.Db.Run("delete from legs where id = @leg and load_id = @load", ("leg", leg.Id), ("load", loadId));
        await w.Db.Run("update legs set seq = seq - 1 where load_id = @load and seq > @seq", ("load", loadId), ("seq", leg.Seq));
        await w.Db.Run("delete from transfers where id = @id", ("id", leg.BeginsAt));
        await SetMiles(w.Db, before.Id, miles);
        if (before.TripId is { } trip)
        {
            await SettleTrip(w.Db, trip);
        }
    }

    /// <summary>Sets the shares of a load's legs in percent, in order; null to share by miles. What the legs cost is computed anew.</summary>
    public static Task SetShares(NpgsqlConnection db, long loadId, IReadOnlyList<decimal>? shares) =>
        db.Run(
            """
            update legs set share = (@shares::numeric[])[seq], expected_pay = null
            where load_id = @load and share is distinct from (@shares::numeric[])[seq]
            """,
            ("load", loadId),
            ("shares", shares?.ToArray())
        );

    /// <summary>Moves a planned transfer.</summary>
    public static Task MoveTransfer(NpgsqlConnection db, long id, long placeId, Transfer to) =>
        db.Run(
            "update transfers set place_id = @place, after_stops = @after, planned_at = @planned, method = @method where id = @id",
            ("id", id),
            ("place", placeId),
            ("after", to.AfterStops),
            ("planned", to.PlannedAt),
            ("method", to.Method)
        );

    /// <summary>Records when freight was left at a transfer and taken there, or that it was not.</summary>
    public static Task RecordTransfer(NpgsqlConnection db, Transfer transfer) =>
        db.Run(
            "update transfers set left_at = @left, taken_at = @taken where id = @id",
            ("id", transfer.Id),
            ("left", transfer.LeftAt),
            ("taken", transfer.TakenAt)
        );

    public static Task SetMiles(NpgsqlConnection db, long legId, int miles) =>
        db.Run("update legs set miles = @miles where id = @leg", ("leg", legId), ("miles", miles));

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

    /// <summary>Undoes a handover: the leg that it began is deleted and its trip canceled; the leg before continues at the pay it
    /// had.</summary>
    /// <returns>Whether that leg's carrier pay changes back.</returns>
    public static async Task<bool> UndoHandover(CommandContext w, long loadId, LegRow before, LegRow leg)
    {
        await LeaveTrip(w, leg.Id);
        await w.Db.Run("delete from carrier_charges where leg_id = @leg", ("leg", leg.Id));
        await w.Db.Run(
            """
            delete from carrier_charges where leg_id = @leg and until_transfer is null
                and exists (select 1 from carrier_charges where leg_id = @leg and until_transfer = @transfer)
            """,
            ("leg", before.Id),
            ("transfer", leg.BeginsAt)
        );
        var restored = await w.Db.Run(
            "update carrier_charges set until_transfer = null where until_transfer = @transfer",
            ("transfer", leg.BeginsAt)
        );
        await w.Db.Run(
            """
            update legs set agreed = (select sum(amount) from carrier_charges where leg_id = legs.id and until_transfer is null)
            where id = @leg and carrier_id is not null
            """,
            ("leg", before.Id)
        );
        await Join(w, loadId, before, leg, before.Miles + leg.Miles);
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

    /// <summary>A trip that changed waits for its driver's acceptance again.</summary>
    public static Task NotAccepted(NpgsqlConnection db, long tripId) =>
        db.Run("update trips set accepted_at = null where id = @id", ("id", tripId));

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
            select t.*, g.load_id, g.seq, g.currency, l.number, c.name as carrier, c.email, g.carrier_driver, g.carrier_driver_phone, g.carrier_truck,
                g.carrier_trailer from tenders t join legs g on g.id = t.leg_id join loads l on l.id =
                g.load_id
            join companies c on c.id = t.carrier_id where t.token = @token
            """,
            r => new TenderSheet(
                r.Long("id"),
                r.Long("leg_id"),
                r.Int("seq"),
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
