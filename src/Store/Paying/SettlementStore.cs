using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Store.Paying;

/// <summary>An approved settlement.</summary>
/// <param name="AcknowledgedAt">When the driver acknowledged it.</param>
/// <param name="CarryoverDeducted">How much of its carryover later settlements have deducted.</param>
public sealed record SettlementRow(
    long Id,
    long DriverId,
    string Driver,
    LocalDate Monday,
    LocalDate PayDay,
    Money Earned,
    Money Reimbursed,
    Money Deducted,
    Money CarriedOver,
    Money Net,
    Money EmployerTax,
    Instant ApprovedAt,
    string? ApprovedBy,
    long? ApprovedById,
    Instant? AcknowledgedAt,
    LocalDate? PaidOn,
    string? PaidMethod,
    string? PaidReference,
    string? PaidBy,
    Money CarryoverDeducted
)
{
    [System.Text.Json.Serialization.JsonIgnore]
    public SettlementState State => new(Driver, PaidOn, CarryoverDeducted);
}

/// <summary>Input of a driver settlement.</summary>
/// <param name="Payroll">Of the driver and the company, as they are now.</param>
/// <param name="Approved">Mondays of the driver's approved settlements.</param>
public sealed record SettlementFacts(
    IReadOnlyList<WorkedLeg> Legs,
    IReadOnlyList<DaysOut> DaysOut,
    IReadOnlyList<OpenAdvance> Advances,
    IReadOnlyList<PayItem> Items,
    IReadOnlyList<RecurringDeduction> Recurring,
    IReadOnlySet<LocalDate> Approved,
    PayrollTerms Payroll
);

/// <summary>A change of a driver's escrow, and what was held after it.</summary>
public sealed record EscrowLine(
    LocalDate On,
    string What,
    [property: SeenWith(Right.WagesSee)] Money Amount,
    [property: SeenWith(Right.WagesSee)] Money Balance
);

public sealed record AdvanceRow(long Id, long DriverId, LocalDate On, Money Amount, Money Deducted, string? Note);

/// <summary>A pay item that no approved settlement took yet, or the one that did.</summary>
public sealed record PayItemRow(
    long Id,
    long DriverId,
    PayItemKind Kind,
    LocalDate On,
    string What,
    decimal? Hours,
    Money? Amount,
    string? Account,
    string? AccountName,
    long? LoadId,
    string? LoadNumber,
    string? EnteredBy
);

/// <summary>Drivers' pay rates, pay items and settlements.</summary>
public static class SettlementStore
{
    private const string SettlementSelect = """
        select s.*, d.name as driver, u.name as approver, p.name as payer,
               (select coalesce(sum(a.deducted), 0) from advances a where a.carried_from = s.id) as carryover_deducted
        from settlements s join drivers d on d.id = s.driver_id left join users u on u.id = s.approved_by left join users p on p.id =
            s.paid_by
        """;

    /// <summary>Each driver's pay rates.</summary>
    public static async Task<Dictionary<long, DriverAgreement>> Agreements(NpgsqlConnection db, IEnumerable<long> driverIds)
    {
        var ids = driverIds.Distinct().ToArray();
        var rates = (
            await db.Rows(
                "select * from driver_rates where driver_id = any(@ids) order by from_on",
                r => (Driver: r.Long("driver_id"), Rate: new PayRate(r.Enum<PayKind>("kind"), r.Decimal("rate"), r.Date("from_on"))),
                ("ids", ids)
            )
        ).ToLookup(r => r.Driver, r => r.Rate);
        return ids.ToDictionary(id => id, id => new DriverAgreement(rates[id].ToList()));
    }

    public static async Task<DriverAgreement> Agreement(NpgsqlConnection db, long driverId) => (await Agreements(db, [driverId]))[driverId];

    public static Task SetRate(NpgsqlConnection db, long driverId, PayRate rate, long? by, Instant now) =>
        db.Run(
            """
            insert into driver_rates (driver_id, kind, rate, from_on, agreed_by, agreed_at) values (@driver, @kind, @rate, @from, @by, @now)
            on conflict (driver_id, kind, from_on) do update set rate = @rate, agreed_by = @by, agreed_at = @now
            """,
            ("driver", driverId),
            ("kind", rate.Kind),
            ("rate", rate.Rate),
            ("from", rate.From),
            ("by", by),
            ("now", now)
        );

    public static Task<List<RecurringDeduction>> Recurring(NpgsqlConnection db, long driverId) =>
        db.Rows(
            $"""
            select d.*, case when d.up_to is not null then coalesce({EscrowHeld}, 0) end as held from standing_deductions d
            where d.driver_id = @driver order by d.id
            """,
            ReadRecurring,
            ("driver", driverId)
        );

    /// <summary>What is held of a driver's escrow, as SQL.</summary>
    private const string EscrowHeld =
        "(select sum(x.credit - x.debit) from entry_lines x where x.account = '2250' and x.driver_id = d.driver_id)";

    /// <summary>Every change of drivers' escrow through a day, by driver.</summary>
    public static async Task<ILookup<long, ItemMove>> EscrowMoves(NpgsqlConnection db, LocalDate until) =>
        (
            await db.Rows(
                """
                select x.driver_id, e.posted_on, sum(x.credit - x.debit) as amount from entry_lines x join entries e on e.id = x.entry_id
                where x.account = '2250' and x.driver_id is not null and e.posted_on <= @until group by x.driver_id, e.posted_on
                """,
                r => (Driver: r.Long("driver_id"), Move: new ItemMove(r.Date("posted_on"), r.Decimal("amount"))),
                ("until", until)
            )
        ).ToLookup(m => m.Driver, m => m.Move);

    /// <summary>A driver's escrow, change by change, oldest first.</summary>
    public static Task<List<EscrowLine>> EscrowLines(NpgsqlConnection db, long driverId) =>
        db.Rows(
            """
            select e.posted_on, e.memo, x.credit - x.debit as amount, sum(x.credit - x.debit) over (order by e.posted_on, e.id, x.seq) as
                balance
            from entry_lines x join entries e on e.id = x.entry_id where x.account = '2250' and x.driver_id = @driver
            order by e.posted_on, e.id, x.seq
            """,
            r => new EscrowLine(r.Date("posted_on"), r.Text("memo"), r.Usd("amount"), r.Usd("balance")),
            ("driver", driverId)
        );

    public static Task<long> AddRecurring(NpgsqlConnection db, long driverId, RecurringDeduction d) =>
        db.One<long>(
            """
            insert into standing_deductions (driver_id, name, amount, account, from_on, until_on, up_to) values (@driver, @name, @amount,
            @account, @from, @until, @upTo) returning id
            """,
            ("driver", driverId),
            ("name", d.Name),
            ("amount", d.Amount),
            ("account", d.Account),
            ("from", d.From),
            ("until", d.Until),
            ("upTo", d.UpTo)
        );

    public static Task<int> EndRecurring(NpgsqlConnection db, long driverId, long id, LocalDate until) =>
        db.Run(
            """
            update standing_deductions set until_on = greatest(@until, from_on) where id = @id and driver_id = @driver and (until_on is null
            or until_on > @until)
            """,
            ("id", id),
            ("driver", driverId),
            ("until", until)
        );

    /// <param name="bill">The bill's line it charges back, or null.</param>
    public static Task<long> AddItem(CommandContext w, long driverId, PayItem item, (long Id, int Line)? bill = null) =>
        w.Db.One<long>(
            """
            insert into pay_items (driver_id, kind, happened_on, what, hours, amount, account, load_id, entered_by, entered_at, bill_id,
                bill_seq)
            values (@driver, @kind, @on, @what, @hours, @amount, @account, @load, @by, @now, @bill, @line) returning id
            """,
            ("driver", driverId),
            ("kind", item.Kind),
            ("on", item.On),
            ("what", item.What),
            ("hours", item.Hours),
            ("amount", item.Amount),
            ("account", item.Account),
            ("load", item.LoadId),
            ("by", w.Actor.UserId),
            ("now", w.Now),
            ("bill", bill?.Id),
            ("line", bill?.Line)
        );

    private const string NotTaken = """
        i.removed_at is null and not exists (select 1 from settlement_lines x where x.item_id = i.id and x.standing) and not exists (select
            1 from settlement_reimbursements x where x.item_id = i.id and x.standing)
        and not exists (select 1 from settlement_deductions x where x.item_id = i.id and x.standing)
        """;

    /// <summary>Removes a pay item that is in no approved settlement.</summary>
    /// <returns>The item, or null when there is none or it was settled.</returns>
    public static Task<PayItemRow?> VoidItem(CommandContext w, long itemId) =>
        w.Db.Row(
            $"""
            with gone as (update pay_items i set removed_at = @now where i.id = @id and {NotTaken} returning *)
            select i.*, a.name as account_name, l.number, u.name as by_name from gone i left join accounts a on a.code = i.account left join
                loads l on l.id = i.load_id left join users u on u.id = i.entered_by
            """,
            ReadItem,
            ("id", itemId),
            ("now", w.Now)
        );

    /// <summary>A driver's pay items through a day that no approved settlement took.</summary>
    public static Task<List<PayItemRow>> OpenItems(NpgsqlConnection db, long driverId, LocalDate until) =>
        db.Rows(
            $"""
            select i.*, a.name as account_name, l.number, u.name as by_name from pay_items i left join accounts a on a.code = i.account left
                join loads l on l.id = i.load_id left join users u on u.id = i.entered_by
            where i.driver_id = @driver and i.happened_on <= @until and {NotTaken} order by i.happened_on, i.id
            """,
            ReadItem,
            ("driver", driverId),
            ("until", until)
        );

    /// <summary>A driver's unsettled legs, days out, pay items, advances and recurring deductions.</summary>
    /// <param name="from">Days out count from this day</param>
    /// <param name="until">through this one, as do pay items.</param>
    /// <param name="settledAfter">Also legs of settlements whose week ends after this day; none when null.</param>
    public static async Task<SettlementFacts> Facts(
        NpgsqlConnection db,
        long driverId,
        LocalDate from,
        LocalDate until,
        DateTimeZone zone,
        Instant now,
        LocalDate? settledAfter = null
    )
    {
        var legs = await db.Rows(
            $"""
            select g.id, g.load_id, l.number, t.truck_id, {BillStore.Lane} as lane, coalesce(g.truck_miles, g.miles) as miles, coalesce(g.empty_miles, 0) as empty_miles, coalesce(le.ended_at, l.delivered_at) as
                delivered_at,
                   {LegSql.Points} as stops, {LegSql.Weights} as leg_weights, {LegSql.Place} as leg_place, {LegSql.LineHaul} as line_haul, c.seat, coalesce(t.codriver_share, 0) as codriver_share
            from trip_crew c join trips t on t.id = c.trip_id join legs g on g.trip_id = t.id join leg_ends le on le.leg_id = g.id join loads l on l.id = g.load_id
            where c.driver_id = @driver and coalesce(le.ended_at, l.delivered_at) is not null and t.canceled_at is null and not exists
                (select 1 from settlement_legs sl join settlements s on s.id = sl.settlement_id where sl.leg_id = g.id and sl.driver_id = @driver and sl.standing and
                    (@after::date is null or s.monday + 6 <= @after))
            """,
            r => new WorkedLeg(
                r.Long("id"),
                r.Long("load_id"),
                r.Text("number"),
                r.LongOrNull("truck_id"),
                r.Text("lane"),
                r.Int("miles"),
                r.Instant("delivered_at").InZone(zone).Date,
                r.Int("stops"),
                DriverAgreement.Share(r.Usd("line_haul"), r.Ints("leg_weights"), r.Int("leg_place")),
                r.Int("empty_miles"),
                new CrewPart(r.Decimal("codriver_share"), r.Int("seat") == 2)
            ),
            ("driver", driverId),
            ("after", settledAfter)
        );
        var days = await db.Rows(
            """
            select started_at, coalesce(ended_at, @now) as until_at from trip_crew where driver_id = @driver and started_at is not null and
            canceled_at is null and coalesce(ended_at, @now) > @from and started_at < @until
            """,
            r => new DaysOut(r.Instant("started_at").InZone(zone).Date, r.Instant("until_at").InZone(zone).Date),
            ("driver", driverId),
            ("now", now),
            ("from", zone.AtStartOfDay(from).ToInstant()),
            ("until", zone.AtStartOfDay(until.PlusDays(1)).ToInstant())
        );
        var advances = await db.Rows(
            "select * from advances where driver_id = @driver and deducted < amount and standing order by issued_on, id",
            r => new OpenAdvance(
                r.Long("id"),
                r.Date("issued_on"),
                r.TextOrNull("note"),
                Money.Usd(r.Decimal("amount") - r.Decimal("deducted"))
            ),
            ("driver", driverId)
        );
        var items = (await OpenItems(db, driverId, until))
            .Select(i => new PayItem(i.Id, i.Kind, i.On, i.What, i.Hours, i.Amount, i.Account, i.LoadId))
            .ToList();
        var approved = await db.Rows(
            "select monday from settlements where driver_id = @driver and reversed_at is null",
            r => r.Date("monday"),
            ("driver", driverId)
        );
        var payroll = await db.Row(
            "select d.worker_kind, b.payroll_tax_percent, b.minimum_wage from drivers d cross join business b where d.id = @driver",
            r => new PayrollTerms(r.Enum<WorkerKind>("worker_kind"), r.Decimal("payroll_tax_percent"), r.Decimal("minimum_wage")),
            ("driver", driverId)
        );
        return new SettlementFacts(legs, days, advances, items, await Recurring(db, driverId), approved.ToHashSet(), payroll!);
    }

    public static Task<SettlementRow?> OfWeek(NpgsqlConnection db, long driverId, LocalDate monday) =>
        db.Row(
            $"{SettlementSelect} where s.driver_id = @driver and s.monday = @monday and s.reversed_at is null",
            ReadSettlement,
            ("driver", driverId),
            ("monday", monday)
        );

    /// <summary>An approved settlement, locked; null when there is none or it was reversed.</summary>
    public static async Task<SettlementRow?> Get(NpgsqlConnection db, long id)
    {
        await db.Run("select 1 from settlements where id = @id for update", ("id", id));
        return await db.Row($"{SettlementSelect} where s.id = @id and s.reversed_at is null", ReadSettlement, ("id", id));
    }

    /// <summary>A settlement as it was approved.</summary>
    public static async Task<SettlementStatement> Approved(NpgsqlConnection db, SettlementRow s)
    {
        var lines = await db.Rows(
            $"""
            select x.*, g.load_id, l.number, t.truck_id, case when x.what = '' then {BillStore.Lane} else x.what end as said
            from settlement_lines x left join legs g on g.id = x.leg_id left join loads l on l.id = g.load_id left join trips t on t.id =
                g.trip_id where x.settlement_id = @id order by x.seq
            """,
            r => new PayLine(
                r.EnumOrNull<PayKind>("kind"),
                r.Text("said"),
                r.Decimal("quantity"),
                r.Decimal("rate"),
                r.Date("on_day"),
                r.Usd("amount"),
                r.LongOrNull("leg_id"),
                r.LongOrNull("load_id"),
                r.TextOrNull("number"),
                r.LongOrNull("truck_id"),
                r.LongOrNull("item_id")
            ),
            ("id", s.Id)
        );
        var spent = await db.Rows(
            """
            select x.item_id, x.amount, i.happened_on, i.what, i.account, i.load_id from settlement_reimbursements x join pay_items i on
            i.id = x.item_id where x.settlement_id = @id order by i.happened_on, i.id
            """,
            r => new Reimbursement(
                r.Long("item_id"),
                r.Date("happened_on"),
                r.Text("what"),
                r.Usd("amount"),
                r.Text("account"),
                r.LongOrNull("load_id")
            ),
            ("id", s.Id)
        );
        var kept = await db.Rows(
            """
            select x.amount, x.item_id, x.standing_id, coalesce(i.happened_on, @sunday) as on_day, coalesce(i.what, d.name) as what,
                coalesce(i.account, d.account) as account
            from settlement_deductions x left join pay_items i on i.id = x.item_id left join standing_deductions d on d.id = x.standing_id
                where x.settlement_id = @id order by x.seq
            """,
            r => new Deduction(
                r.Date("on_day"),
                r.Text("what"),
                r.Usd("amount"),
                r.Text("account"),
                ItemId: r.LongOrNull("item_id"),
                RecurringId: r.LongOrNull("standing_id")
            ),
            ("id", s.Id),
            ("sunday", s.Monday.PlusDays(6))
        );
        var advances = await db.Rows(
            """
            select d.id, d.issued_on, d.note, x.amount from advance_deductions x join advances d on d.id = x.advance_id where
            x.settlement_id = @id order by d.issued_on, d.id
            """,
            r => new Deduction(
                r.Date("issued_on"),
                r.TextOrNull("note") ?? "advance",
                r.Usd("amount"),
                Accounts.DriverAdvances.Code,
                AdvanceId: r.Long("id")
            ),
            ("id", s.Id)
        );
        var (days, miles, worker) = (
            await db.Row(
                "select s.days_out, s.miles, d.worker_kind from settlements s join drivers d on d.id = s.driver_id where s.id = @id",
                r => Tuple.Create(r.Int("days_out"), r.Int("miles"), r.Enum<WorkerKind>("worker_kind")),
                ("id", s.Id)
            )
        )!;
        return new SettlementStatement(s.Monday, s.PayDay, lines, days, miles, spent, [.. kept, .. advances])
        {
            Worker = worker,
            EmployerTax = s.EmployerTax,
            Protected = s.CarriedOver.Amount > 0 ? s.Net : Money.Zero(),
        };
    }

    /// <summary>Stores an approved settlement; a shortfall becomes an advance, whose key is null without one.</summary>
    public static async Task<(long Id, long? CarriedAdvanceId)> Add(CommandContext w, long driverId, SettlementStatement week)
    {
        var id = await w.Db.One<long>(
            """
            insert into settlements (driver_id, monday, pay_day, earned, reimbursed, deducted, carried_over, net, employer_tax, days_out,
                miles, approved_by, approved_at)
            values (@driver, @monday, @pay, @earned, @reimbursed, @deducted, @carried, @net, @tax, @days, @miles, @by, @now) returning id
            """,
            ("driver", driverId),
            ("monday", week.Monday),
            ("pay", week.PayDay),
            ("earned", week.Earned),
            ("reimbursed", week.Reimbursed),
            ("deducted", week.Deducted),
            ("carried", week.CarriedOver),
            ("net", week.Net),
            ("tax", week.EmployerTax),
            ("days", week.DaysOut),
            ("miles", week.Miles),
            ("by", w.Actor.UserId),
            ("now", w.Now)
        );
        foreach (var (leg, amount) in week.Legs)
        {
            await w.Db.Run(
                "insert into settlement_legs (settlement_id, driver_id, leg_id, amount) values (@id, @driver, @leg, @amount)",
                ("id", id),
                ("driver", driverId),
                ("leg", leg),
                ("amount", amount)
            );
        }

        for (var i = 0; i < week.Lines.Count; i++)
        {
            var l = week.Lines[i];
            await w.Db.Run(
                """
                insert into settlement_lines (settlement_id, seq, kind, what, quantity, rate, on_day, amount, leg_id, item_id) values (@id,
                @seq, @kind, @what, @quantity, @rate, @on, @amount, @leg, @item)
                """,
                ("id", id),
                ("seq", i + 1),
                ("kind", l.Kind),
                ("what", l.What),
                ("quantity", l.Quantity),
                ("rate", l.Rate),
                ("on", l.On),
                ("amount", l.Amount),
                ("leg", l.LegId),
                ("item", l.ItemId)
            );
        }

        foreach (var r in week.Reimbursements)
        {
            await w.Db.Run(
                "insert into settlement_reimbursements (settlement_id, item_id, amount) values (@id, @item, @amount)",
                ("id", id),
                ("item", r.ItemId),
                ("amount", r.Amount)
            );
        }

        var seq = 0;
        foreach (var d in week.Deductions)
        {
            _ = d.AdvanceId is { } advance
                ? await w.Db.Run(
                    "insert into advance_deductions (settlement_id, advance_id, amount) values (@id, @advance, @amount)",
                    ("id", id),
                    ("advance", advance),
                    ("amount", d.Amount)
                )
                : await w.Db.Run(
                    """
                    insert into settlement_deductions (settlement_id, seq, item_id, standing_id, amount) values (@id, @seq, @item,
                    @standing, @amount)
                    """,
                    ("id", id),
                    ("seq", ++seq),
                    ("item", d.ItemId),
                    ("standing", d.RecurringId),
                    ("amount", d.Amount)
                );
        }

        if (week.CarriedOver.Amount > 0)
        {
            var carried = await w.Db.One<long>(
                """
                insert into advances (driver_id, issued_on, amount, note, carried_from) values (@driver, @on, @amount, @note, @id)
                returning id
                """,
                ("driver", driverId),
                ("on", week.Monday.PlusDays(6)),
                ("amount", week.CarriedOver),
                ("note", $"carried over from the week of {week.Monday:MMM d}"),
                ("id", id)
            );
            return (id, carried);
        }

        return (id, null);
    }

    public static Task Pay(CommandContext w, long id, Payout payout) =>
        w.Db.Run(
            "update settlements set paid_on = @on, paid_method = @method, paid_reference = @reference, paid_by = @by where id = @id",
            ("id", id),
            ("on", payout.On),
            ("method", payout.Method),
            ("reference", payout.Reference),
            ("by", w.Actor.UserId)
        );

    /// <summary>Reopens the settlement for payment.</summary>
    public static Task Unpay(CommandContext w, long id) =>
        w.Db.Run(
            "update settlements set paid_on = null, paid_method = null, paid_reference = null, paid_by = null where id = @id",
            ("id", id)
        );

    /// <summary>Reverses the approval: its legs, items and advances are free again.</summary>
    public static Task Unapprove(CommandContext w, long id) =>
        w.Db.Run("update settlements set reversed_at = @now where id = @id", ("id", id), ("now", w.Now));

    /// <summary>The driver acknowledged their settlement.</summary>
    public static Task<int> Seen(CommandContext w, long driverId, LocalDate monday) =>
        w.Db.Run(
            """
            update settlements set acknowledged_at = coalesce(acknowledged_at, @now) where driver_id = @driver and monday = @monday and
            reversed_at is null
            """,
            ("driver", driverId),
            ("monday", monday),
            ("now", w.Now)
        );

    public static Task<long> AddAdvance(CommandContext w, long driverId, LocalDate on, Money amount, string? note) =>
        w.Db.One<long>(
            "insert into advances (driver_id, issued_on, amount, note, entered_by) values (@driver, @on, @amount, @note, @by) returning id",
            ("driver", driverId),
            ("on", on),
            ("amount", amount),
            ("note", note),
            ("by", w.Actor.UserId)
        );

    /// <summary>An advance, locked, with what can be done with it; null when there is none.</summary>
    public static Task<Tuple<AdvanceRow, AdvanceState>?> Advance(NpgsqlConnection db, long id) =>
        db.Row(
            "select * from advances where id = @id for update",
            r =>
                Tuple.Create(
                    ReadAdvance(r),
                    new AdvanceState(!r.Bool("standing"), r.Usd("deducted"), r.LongOrNull("carried_from") is not null)
                ),
            ("id", id)
        );

    public static Task VoidAdvance(CommandContext w, long id) =>
        w.Db.Run("update advances set standing = false where id = @id", ("id", id));

    /// <summary>A driver's advances within a week, deducted or not.</summary>
    public static Task<List<AdvanceRow>> Advances(NpgsqlConnection db, long driverId, LocalDate from, LocalDate until) =>
        db.Rows(
            """
            select * from advances where driver_id = @driver and issued_on between @from and @until and carried_from is null and standing
            order by issued_on, id
            """,
            ReadAdvance,
            ("driver", driverId),
            ("from", from),
            ("until", until)
        );

    private static AdvanceRow ReadAdvance(NpgsqlDataReader r) =>
        new AdvanceRow(r.Long("id"), r.Long("driver_id"), r.Date("issued_on"), r.Usd("amount"), r.Usd("deducted"), r.TextOrNull("note"));

    private static RecurringDeduction ReadRecurring(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Text("name"),
            r.Usd("amount"),
            r.Text("account"),
            r.Date("from_on"),
            r.DateOrNull("until_on"),
            r.UsdOrNull("up_to"),
            r.UsdOrNull("held")
        );

    private static PayItemRow ReadItem(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("driver_id"),
            r.Enum<PayItemKind>("kind"),
            r.Date("happened_on"),
            r.Text("what"),
            r.DecimalOrNull("hours"),
            r.UsdOrNull("amount"),
            r.TextOrNull("account"),
            r.TextOrNull("account_name"),
            r.LongOrNull("load_id"),
            r.TextOrNull("number"),
            r.TextOrNull("by_name")
        );

    private static SettlementRow ReadSettlement(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("driver_id"),
            r.Text("driver"),
            r.Date("monday"),
            r.Date("pay_day"),
            r.Usd("earned"),
            r.Usd("reimbursed"),
            r.Usd("deducted"),
            r.Usd("carried_over"),
            r.Usd("net"),
            r.Usd("employer_tax"),
            r.Instant("approved_at"),
            r.TextOrNull("approver"),
            r.LongOrNull("approved_by"),
            r.InstantOrNull("acknowledged_at"),
            r.DateOrNull("paid_on"),
            r.TextOrNull("paid_method"),
            r.TextOrNull("paid_reference"),
            r.TextOrNull("payer"),
            r.Usd("carryover_deducted")
        );
}
