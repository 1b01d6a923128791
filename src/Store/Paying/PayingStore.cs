using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Paying;

/// <summary>A carrier's bill.</summary>
/// <param name="Number">The carrier's own.</param>
public sealed record BillRow(
    long Id, long CarrierId, string Carrier, string Number, long LegId, long LoadId, string LoadNumber, string Lane, LocalDate BilledOn, LocalDate DueOn, Money Amount, Money Agreed, Money Difference,
    Money? Approved, string? ApprovedWhy, string? ApprovedBy, Instant? ApprovedAt, LocalDate? PaidOn, string? PaidMethod, string? PaidReference, Instant? VoidedAt);

/// <summary>A delivered leg of a carrier for which no bill came yet.</summary>
public sealed record UnbilledLeg(long LegId, long LoadId, string LoadNumber, long CarrierId, string Carrier, string Lane, Money Agreed, Instant DeliveredAt);

/// <summary>A week that was approved.</summary>
public sealed record SettlementRow(
    long Id, long DriverId, LocalDate Monday, LocalDate PayDay, Money Earned, Money Deducted, Money Net, Instant ApprovedAt, string? ApprovedBy, LocalDate? PaidOn, string? PaidMethod, string? PaidReference);

/// <summary>What settling a driver's week needs.</summary>
public sealed record WeekFacts(IReadOnlyList<WorkedLeg> Legs, IReadOnlyList<DaysOut> DaysOut, IReadOnlyList<OpenDraw> Draws);

public sealed record DrawRow(long Id, long DriverId, LocalDate On, Money Amount, Money Deducted, string? Note);

public static class PayingStore
{
    private const string Lane =
        """
        (select p.town from stops s join places p on p.id = s.place_id where s.load_id = g.load_id order by s.seq limit 1)
        || ' to ' || (select p.town from stops s join places p on p.id = s.place_id where s.load_id = g.load_id order by s.seq desc limit 1)
        """;

    private const string BillSelect =
        $"""
        select b.*, c.name as carrier, g.load_id, l.number as load_number, {Lane} as lane, u.name as approver
        from bills b join companies c on c.id = b.carrier_id join legs g on g.id = b.leg_id join loads l on l.id = g.load_id left join users u on u.id = b.approved_by
        """;

    public static Task<UnbilledLeg?> LegForBill(NpgsqlConnection db, long legId) =>
        db.Row(
            $"""
            select g.id, g.load_id, l.number, g.carrier_id, c.name as carrier, {Lane} as lane, g.agreed, l.delivered_at from legs g join loads l on l.id = g.load_id join companies c on c.id = g.carrier_id
            where g.id = @id and l.delivered_at is not null
            """,
            ReadUnbilled, ("id", legId));

    /// <summary>Delivered legs of carriers whose bill has not come, the oldest first.</summary>
    public static Task<List<UnbilledLeg>> UnbilledLegs(NpgsqlConnection db, int most) =>
        db.Rows(
            $"""
            select g.id, g.load_id, l.number, g.carrier_id, c.name as carrier, {Lane} as lane, g.agreed, l.delivered_at from legs g join loads l on l.id = g.load_id join companies c on c.id = g.carrier_id
            where l.delivered_at is not null and not exists (select 1 from bills b where b.leg_id = g.id and b.voided_at is null) order by l.delivered_at, g.id limit @most
            """,
            ReadUnbilled, ("most", most));

    public static Task<bool> NumberTaken(NpgsqlConnection db, long carrierId, string number) =>
        db.One<bool>("select exists (select 1 from bills where carrier_id = @carrier and lower(number) = lower(@number) and voided_at is null)", ("carrier", carrierId), ("number", number));

    public static Task<bool> LegBilled(NpgsqlConnection db, long legId) => db.One<bool>("select exists (select 1 from bills where leg_id = @leg and voided_at is null)", ("leg", legId));

    public static Task<long> AddBill(Work w, UnbilledLeg leg, string number, LocalDate billedOn, LocalDate dueOn, Money amount) =>
        w.Db.One<long>(
            """
            insert into bills (carrier_id, number, leg_id, billed_on, due_on, amount, agreed, entered_at) values (@carrier, @number, @leg, @billed, @due, @amount, @agreed, @now) returning id
            """,
            ("carrier", leg.CarrierId), ("number", number), ("leg", leg.LegId), ("billed", billedOn), ("due", dueOn), ("amount", amount), ("agreed", leg.Agreed), ("now", w.Now));

    public static async Task<BillRow?> Bill(NpgsqlConnection db, long id, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from bills where id = @id for update", ("id", id));
        }

        return await db.Row($"{BillSelect} where b.id = @id", ReadBill, ("id", id));
    }

    /// <summary>Bills not paid yet, the earliest due first, after a cursor.</summary>
    public static Task<List<BillRow>> OpenBills(NpgsqlConnection db, (LocalDate Due, long Id)? after, int most) =>
        db.Rows(
            $"{BillSelect} where b.voided_at is null and b.paid_on is null and (@due::date is null or (b.due_on, b.id) > (@due, @id)) order by b.due_on, b.id limit @most",
            ReadBill, ("due", after?.Due), ("id", after?.Id ?? 0), ("most", most));

    /// <summary>Bills that were paid, the newest first, before a key.</summary>
    public static Task<List<BillRow>> PaidBills(NpgsqlConnection db, long? before, int most) =>
        db.Rows($"{BillSelect} where b.paid_on is not null and (@before::bigint is null or b.id < @before) order by b.id desc limit @most", ReadBill, ("before", before), ("most", most));

    public static Task Approve(Work w, long billId, Money amount, string? why) =>
        w.Db.Run(
            "update bills set approved = @amount, approved_why = @why, approved_by = @by, approved_at = @now where id = @id",
            ("id", billId), ("amount", amount), ("why", why), ("by", w.Actor.UserId), ("now", w.Now));

    public static Task PayBill(Work w, long billId, LocalDate on, string method, string? reference) =>
        w.Db.Run("update bills set paid_on = @on, paid_method = @method, paid_reference = @reference where id = @id", ("id", billId), ("on", on), ("method", method), ("reference", reference));

    public static Task VoidBill(Work w, long billId) => w.Db.Run("update bills set voided_at = @now where id = @id", ("id", billId), ("now", w.Now));

    /// <summary>What a driver did and drew, as far as no approved week holds it, for the week of <paramref name="monday"/>.</summary>
    public static async Task<WeekFacts> Facts(NpgsqlConnection db, long driverId, LocalDate monday, DateTimeZone zone, Instant now)
    {
        var legs = await db.Rows(
            $"""
            select g.id, g.load_id, l.number, t.truck_id, {Lane} as lane, g.miles, coalesce(g.handed_over_at, l.delivered_at) as delivered_at
            from legs g join trips t on t.id = g.trip_id join loads l on l.id = g.load_id
            where t.driver_id = @driver and coalesce(g.handed_over_at, l.delivered_at) is not null and t.called_off_at is null and not exists (select 1 from settlement_legs sl where sl.leg_id = g.id)
            """,
            r => new WorkedLeg(r.Long("id"), r.Long("load_id"), r.Text("number"), r.LongOrNull("truck_id"), r.Text("lane"), r.Int("miles"), r.Instant("delivered_at").InZone(zone).Date),
            ("driver", driverId));
        var days = await db.Rows(
            "select began_at, coalesce(ended_at, @now) as until_at from trips where driver_id = @driver and began_at is not null and called_off_at is null and coalesce(ended_at, @now) > @from and began_at < @until",
            r => new DaysOut(r.Instant("began_at").InZone(zone).Date, r.Instant("until_at").InZone(zone).Date),
            ("driver", driverId), ("now", now), ("from", zone.AtStartOfDay(monday).ToInstant()), ("until", zone.AtStartOfDay(monday.PlusDays(7)).ToInstant()));
        var draws = await db.Rows(
            "select * from draws where driver_id = @driver and deducted < amount order by drawn_on, id",
            r => new OpenDraw(r.Long("id"), r.Date("drawn_on"), r.TextOrNull("note"), Money.Usd(r.Decimal("amount") - r.Decimal("deducted"))), ("driver", driverId));
        return new WeekFacts(legs, days, draws);
    }

    public static Task<SettlementRow?> Settlement(NpgsqlConnection db, long driverId, LocalDate monday) =>
        db.Row("select s.*, u.name as approver from settlements s left join users u on u.id = s.approved_by where s.driver_id = @driver and s.monday = @monday", ReadSettlement, ("driver", driverId), ("monday", monday));

    public static async Task<SettlementRow?> Settlement(NpgsqlConnection db, long id)
    {
        await db.Run("select 1 from settlements where id = @id for update", ("id", id));
        return await db.Row("select s.*, u.name as approver from settlements s left join users u on u.id = s.approved_by where s.id = @id", ReadSettlement, ("id", id));
    }

    /// <summary>An approved week as it was approved.</summary>
    public static async Task<WeekStatement> Approved(NpgsqlConnection db, SettlementRow s, DateTimeZone zone)
    {
        var legs = await db.Rows(
            $"""
            select sl.leg_id, g.load_id, l.number, t.truck_id, {Lane} as lane, sl.miles, sl.rate, sl.amount, l.delivered_at
            from settlement_legs sl join legs g on g.id = sl.leg_id join loads l on l.id = g.load_id left join trips t on t.id = g.trip_id where sl.settlement_id = @id order by l.delivered_at, sl.leg_id
            """,
            r => new PaidLeg(
                r.Long("leg_id"), r.Long("load_id"), r.Text("number"), r.LongOrNull("truck_id"), r.Text("lane"), r.Int("miles"), r.Decimal("rate"), r.Instant("delivered_at").InZone(zone).Date, r.Usd("amount")),
            ("id", s.Id));
        var (days, rate) = (await db.Row(
            "select per_diem_days, per_diem_rate from settlements where id = @id", r => Tuple.Create(r.Int("per_diem_days"), r.Decimal("per_diem_rate")), ("id", s.Id)))!;
        var deductions = await db.Rows(
            "select d.id, d.drawn_on, d.note, x.amount from draw_deductions x join draws d on d.id = x.draw_id where x.settlement_id = @id order by d.drawn_on, d.id",
            r => new Deduction(r.Long("id"), r.Date("drawn_on"), r.TextOrNull("note"), r.Usd("amount")), ("id", s.Id));
        return new WeekStatement(s.Monday, s.PayDay, legs, days, rate, Money.Usd(days * rate).ToCents(), deductions);
    }

    public static async Task<long> AddSettlement(Work w, long driverId, WeekStatement week)
    {
        var id = await w.Db.One<long>(
            """
            insert into settlements (driver_id, monday, pay_day, earned, deducted, net, per_diem_days, per_diem_rate, approved_by, approved_at)
            values (@driver, @monday, @pay, @earned, @deducted, @net, @days, @rate, @by, @now) returning id
            """,
            ("driver", driverId), ("monday", week.Monday), ("pay", week.PayDay), ("earned", week.Earned), ("deducted", week.Deducted), ("net", week.Net), ("days", week.PerDiemDays), ("rate", week.PerDiemRate),
            ("by", w.Actor.UserId), ("now", w.Now));
        foreach (var leg in week.Legs)
        {
            await w.Db.Run(
                "insert into settlement_legs (settlement_id, leg_id, miles, rate, amount) values (@id, @leg, @miles, @rate, @amount)",
                ("id", id), ("leg", leg.LegId), ("miles", leg.Miles), ("rate", leg.Rate), ("amount", leg.Amount));
        }

        foreach (var d in week.Deductions)
        {
            await w.Db.Run("insert into draw_deductions (settlement_id, draw_id, amount) values (@id, @draw, @amount)", ("id", id), ("draw", d.DrawId), ("amount", d.Amount));
        }

        return id;
    }

    public static Task PaySettlement(Work w, long id, LocalDate on, string method, string? reference) =>
        w.Db.Run("update settlements set paid_on = @on, paid_method = @method, paid_reference = @reference where id = @id", ("id", id), ("on", on), ("method", method), ("reference", reference));

    public static Task<long> AddDraw(Work w, long driverId, LocalDate on, Money amount, string? note) =>
        w.Db.One<long>("insert into draws (driver_id, drawn_on, amount, note) values (@driver, @on, @amount, @note) returning id", ("driver", driverId), ("on", on), ("amount", amount), ("note", note));

    /// <summary>What a driver drew within a week, whatever was deducted of it.</summary>
    public static Task<List<DrawRow>> Draws(NpgsqlConnection db, long driverId, LocalDate from, LocalDate until) =>
        db.Rows(
            "select * from draws where driver_id = @driver and drawn_on between @from and @until order by drawn_on, id",
            r => new DrawRow(r.Long("id"), r.Long("driver_id"), r.Date("drawn_on"), r.Usd("amount"), r.Usd("deducted"), r.TextOrNull("note")), ("driver", driverId), ("from", from), ("until", until));

    private static UnbilledLeg ReadUnbilled(NpgsqlDataReader r) =>
        new(r.Long("id"), r.Long("load_id"), r.Text("number"), r.Long("carrier_id"), r.Text("carrier"), r.Text("lane"), r.Usd("agreed"), r.Instant("delivered_at"));

    private static SettlementRow ReadSettlement(NpgsqlDataReader r) =>
        new(r.Long("id"), r.Long("driver_id"), r.Date("monday"), r.Date("pay_day"), r.Usd("earned"), r.Usd("deducted"), r.Usd("net"), r.Instant("approved_at"), r.TextOrNull("approver"),
            r.DateOrNull("paid_on"), r.TextOrNull("paid_method"), r.TextOrNull("paid_reference"));

    private static BillRow ReadBill(NpgsqlDataReader r) =>
        new(r.Long("id"), r.Long("carrier_id"), r.Text("carrier"), r.Text("number"), r.Long("leg_id"), r.Long("load_id"), r.Text("load_number"), r.Text("lane"), r.Date("billed_on"), r.Date("due_on"),
            r.Usd("amount"), r.Usd("agreed"), r.Usd("amount") - r.Usd("agreed"), r.UsdOrNull("approved"), r.TextOrNull("approved_why"), r.TextOrNull("approver"), r.InstantOrNull("approved_at"),
            r.DateOrNull("paid_on"), r.TextOrNull("paid_method"), r.TextOrNull("paid_reference"), r.InstantOrNull("voided_at"));
}
