using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Paying;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Documents;

namespace SteadyLark.Store.Paying;

/// <summary>A bill: a carrier's for a leg, or any vendor's.</summary>
/// <param name="Number">The vendor's own number.</param>
/// <param name="LegId">Null for a bill that is not for a leg, as are load, lane, agreed amount and difference.</param>
/// <param name="Accounts">The accounts of its lines.</param>
/// <param name="DueOn">By quick pay, if that was agreed.</param>
/// <param name="HasPod">Whether its load has a POD; true for a bill without a load.</param>
/// <param name="Paid">What payments settled of it, discounts included.</param>
/// <param name="PaidOn">When it was paid in full.</param>
/// <param name="Spent">Whether it is an expense already paid.</param>
public sealed record BillRow(
    long Id,
    long VendorId,
    string Vendor,
    string Number,
    long? LegId,
    long? LoadId,
    string? LoadNumber,
    string? Lane,
    string Accounts,
    LocalDate BilledOn,
    LocalDate DueOn,
    Money Amount,
    Money? Agreed,
    Money? Difference,
    Money? Approved,
    string? ApprovedWhy,
    string? ApprovedBy,
    long? ApprovedById,
    Instant? ApprovedAt,
    Money Paid,
    Money QuickPayDiscount,
    LocalDate? PaidOn,
    string? PaidMethod,
    string? PaidReference,
    string? PaidBy,
    bool Spent,
    string? Note,
    Instant? VoidedAt,
    bool HasPod
)
{
    [System.Text.Json.Serialization.JsonIgnore]
    public BillState State =>
        new(Number, Approved is not null, PaidOn, VoidedAt is not null, Spent, Paid.Amount > 0, HasPod ? null : LoadNumber);
}

/// <summary>A bill line.</summary>
public sealed record BillLineRow(
    string Account,
    string AccountName,
    string? Description,
    Money Amount,
    long? LoadId,
    string? LoadNumber,
    long? TruckId,
    string? Truck,
    long? DriverId,
    string? Driver,
    int Line,
    Money ChargedBack,
    long? TripId = null,
    string? Trip = null
);

/// <summary>A carrier's delivered leg without a bill.</summary>
public sealed record UnbilledLeg(
    long LegId,
    long LoadId,
    string LoadNumber,
    long CarrierId,
    string Carrier,
    string Lane,
    Money Agreed,
    Instant DeliveredAt
);

public static class BillStore
{
    /// <summary>The lane of a leg's load; the leg is <c>g</c>.</summary>
    internal const string Lane = """
        (select p.town from stops s join places p on p.id = s.place_id where s.load_id = g.load_id order by s.seq limit 1)
        || ' to ' || (select p.town from stops s join places p on p.id = s.place_id where s.load_id = g.load_id order by s.seq desc limit 1)
        """;

    private const string BillSelect = $"""
        select b.*, c.name as vendor, g.load_id, l.number as load_number, {Lane} as lane, u.name as approver, p.name as payer,
               (select string_agg(distinct a.name, ', ') from bill_lines x join accounts a on a.code = x.account where x.bill_id = b.id) as
                   accounts,
               b.leg_id is null or l.cancelled_at is not null as needs_no_pod, {DocumentFacts.Columns}
        from bills b join companies c on c.id = b.vendor_id left join legs g on g.id = b.leg_id left join loads l on l.id = g.load_id left
            join users u on u.id = b.approved_by left join users p on p.id = b.paid_by
        """;

    public static Task<UnbilledLeg?> LegForBill(NpgsqlConnection db, long legId) =>
        db.Row(
            $"""
            select g.id, g.load_id, l.number, g.carrier_id, c.name as carrier, {Lane} as lane, g.agreed, g.currency, coalesce(l.delivered_at, l.cancelled_at) as
                delivered_at from legs g join
                loads l on l.id = g.load_id join companies c on c.id = g.carrier_id
            where g.id = @id and coalesce(l.delivered_at, l.cancelled_at) is not null
            """,
            ReadUnbilled,
            ("id", legId)
        );

    /// <summary>The bills of a leg, void ones too.</summary>
    public static Task<List<BillRow>> OfLeg(NpgsqlConnection db, long legId) =>
        db.Rows($"{BillSelect} where b.leg_id = @leg order by b.id", Read, ("leg", legId));

    /// <summary>Carriers' delivered legs without a bill, oldest first.</summary>
    public static Task<List<UnbilledLeg>> UnbilledLegs(NpgsqlConnection db, int max) =>
        db.Rows(
            $"""
            select g.id, g.load_id, l.number, g.carrier_id, c.name as carrier, {Lane} as lane, g.agreed, g.currency, coalesce(l.delivered_at, l.cancelled_at) as
                delivered_at from legs g join
                loads l on l.id = g.load_id join companies c on c.id = g.carrier_id
            where g.agreed > 0 and coalesce(l.delivered_at, l.cancelled_at) is not null and not exists (select 1 from bills b where b.leg_id = g.id and b.voided_at
                is null) order by coalesce(l.delivered_at, l.cancelled_at), g.id limit @most
            """,
            ReadUnbilled,
            ("most", max)
        );

    /// <summary>A vendor's bill with this number, unless void, or null.</summary>
    public static Task<BillRow?> OfNumber(NpgsqlConnection db, long vendorId, string number) =>
        db.Row(
            $"{BillSelect} where b.vendor_id = @vendor and lower(b.number) = lower(@number) and b.voided_at is null",
            Read,
            ("vendor", vendorId),
            ("number", number)
        );

    /// <summary>Those of some bill numbers that a vendor has sent before, in lower case.</summary>
    public static async Task<HashSet<(long Vendor, string Number)>> NumbersTaken(
        NpgsqlConnection db,
        IEnumerable<(long Vendor, string Number)> numbers
    )
    {
        var all = numbers.ToList();
        return (
            await db.Rows(
                """
                select b.vendor_id, lower(b.number) as number from bills b
                join unnest(@vendors, @numbers) as v(vendor, number) on v.vendor = b.vendor_id and v.number = lower(b.number)
                where b.voided_at is null
                """,
                r => (r.Long("vendor_id"), r.Text("number")),
                ("vendors", all.Select(n => n.Vendor).ToArray()),
                ("numbers", all.Select(n => n.Number.ToLowerInvariant()).ToArray())
            )
        ).ToHashSet();
    }

    public static Task<bool> LegBilled(NpgsqlConnection db, long legId) =>
        db.One<bool>("select exists (select 1 from bills where leg_id = @leg and voided_at is null)", ("leg", legId));

    public static async Task<long> Add(CommandContext w, long vendorId, UnbilledLeg? leg, EnteredBill bill, LocalDate postedOn)
    {
        var id = await w.Db.One<long>(
            """
            insert into bills (vendor_id, number, leg_id, billed_on, posted_on, due_on, amount, currency, agreed, note, entered_at)
            values (@vendor, @number, @leg, @billed, @posted, @due, @amount, @currency, @agreed, @note, @now) returning id
            """,
            ("vendor", vendorId),
            ("number", bill.Number),
            ("leg", leg?.LegId),
            ("billed", bill.BilledOn),
            ("posted", postedOn),
            ("due", bill.DueOn),
            ("amount", bill.Amount),
            ("currency", bill.Amount.Currency),
            ("agreed", leg is null ? null : leg.Agreed + bill.Tax),
            ("note", bill.Note),
            ("now", w.Now)
        );
        for (var i = 0; i < bill.Lines.Count; i++)
        {
            var l = bill.Lines[i];
            await w.Db.Run(
                """
                insert into bill_lines (bill_id, seq, account, description, amount, load_id, truck_id, driver_id, trip_id) values (@bill, @seq,
                @account, @what, @amount, @load, @truck, @driver, @trip)
                """,
                ("bill", id),
                ("seq", i + 1),
                ("account", l.Account),
                ("what", l.Description),
                ("amount", l.Amount),
                ("load", l.LoadId),
                ("truck", l.TruckId),
                ("driver", l.DriverId),
                ("trip", l.TripId)
            );
        }

        return id;
    }

    public static async Task<BillRow?> Get(NpgsqlConnection db, long id, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from bills where id = @id for update", ("id", id));
        }

        return await db.Row($"{BillSelect} where b.id = @id", Read, ("id", id));
    }

    public static Task<List<BillLineRow>> Lines(NpgsqlConnection db, long billId) =>
        db.Rows(
            """
            select x.*, (select b.currency from bills b where b.id = x.bill_id) as currency, a.name as account_name, l.number, t.unit, d.short_name, tr.number as trip, (select coalesce(sum(i.amount), 0) from pay_items i where
                i.bill_id = x.bill_id and i.bill_seq = x.seq and i.removed_at is null) as charged_back from bill_lines x join accounts a on a.code = x.account
            left join loads l on l.id = x.load_id left join trucks t on t.id = x.truck_id left join drivers d on d.id = x.driver_id left join trips tr on tr.id = x.trip_id where
                x.bill_id = @id order by x.seq
            """,
            r => new BillLineRow(
                r.Text("account"),
                r.Text("account_name"),
                r.TextOrNull("description"),
                r.Money("amount"),
                r.LongOrNull("load_id"),
                r.TextOrNull("number"),
                r.LongOrNull("truck_id"),
                r.TextOrNull("unit"),
                r.LongOrNull("driver_id"),
                r.TextOrNull("short_name"),
                r.Int("seq"),
                r.Money("charged_back"),
                r.LongOrNull("trip_id"),
                r.TextOrNull("trip")
            ),
            ("id", billId)
        );

    /// <summary>Unpaid bills, earliest due first, after a cursor.</summary>
    public static Task<List<BillRow>> Open(NpgsqlConnection db, (LocalDate Due, long Id)? after, int max) =>
        db.Rows(
            $"{BillSelect} where b.voided_at is null and b.paid_on is null and (@due::date is null or (coalesce(b.quick_pay_on, b.due_on), b.id) > (@due, @id)) order by coalesce(b.quick_pay_on, b.due_on), b.id limit @most",
            Read,
            ("due", after?.Due),
            ("id", after?.Id ?? 0),
            ("most", max)
        );

    /// <summary>Paid bills, newest first, before a key.</summary>
    public static Task<List<BillRow>> Paid(NpgsqlConnection db, long? before, int max) =>
        db.Rows(
            $"{BillSelect} where b.paid_on is not null and b.voided_at is null and (@before::bigint is null or b.id < @before) order by b.id desc limit @most",
            Read,
            ("before", before),
            ("most", max)
        );

    public static Task Approve(CommandContext w, long billId, Money amount, string? why, QuickPay? quickPay = null) =>
        w.Db.Run(
            """
            update bills set approved = @amount, approved_why = @why, approved_by = @by, approved_at = @now,
                quick_pay_discount = coalesce(@discount, 0), quick_pay_on = @quick where id = @id
            """,
            ("id", billId),
            ("amount", amount),
            ("why", why),
            ("discount", quickPay?.Discount),
            ("quick", quickPay?.DueOn),
            ("by", w.Actor.UserId),
            ("now", w.Now)
        );

    public static Task Unapprove(CommandContext w, long billId) =>
        w.Db.Run(
            """
            update bills set approved = null, approved_why = null, approved_by = null, approved_at = null, quick_pay_discount = 0,
                quick_pay_on = null where id = @id
            """,
            ("id", billId)
        );

    /// <summary>Marks an expense as paid when it was entered.</summary>
    public static Task Spend(CommandContext w, long billId, Payout payout) =>
        w.Db.Run(
            """
            update bills set paid_on = @on, paid_method = @method, paid_reference = @reference, paid_by = @by, is_expense = true where id
            = @id
            """,
            ("id", billId),
            ("on", payout.On),
            ("method", payout.Method),
            ("reference", payout.Reference),
            ("by", w.Actor.UserId)
        );

    public static Task Void(CommandContext w, long billId) =>
        w.Db.Run("update bills set voided_at = @now where id = @id", ("id", billId), ("now", w.Now));

    private static UnbilledLeg ReadUnbilled(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("load_id"),
            r.Text("number"),
            r.Long("carrier_id"),
            r.Text("carrier"),
            r.Text("lane"),
            r.Money("agreed"),
            r.Instant("delivered_at")
        );

    private static BillRow Read(NpgsqlDataReader r)
    {
        var (amount, agreed) = (r.Money("amount"), r.MoneyOrNull("agreed"));
        return new BillRow(
            r.Long("id"),
            r.Long("vendor_id"),
            r.Text("vendor"),
            r.Text("number"),
            r.LongOrNull("leg_id"),
            r.LongOrNull("load_id"),
            r.TextOrNull("load_number"),
            r.TextOrNull("lane"),
            r.TextOrNull("accounts") ?? "",
            r.Date("billed_on"),
            r.DateOrNull("quick_pay_on") ?? r.Date("due_on"),
            amount,
            agreed,
            amount - agreed,
            r.MoneyOrNull("approved"),
            r.TextOrNull("approved_why"),
            r.TextOrNull("approver"),
            r.LongOrNull("approved_by"),
            r.InstantOrNull("approved_at"),
            r.Money("paid"),
            r.Money("quick_pay_discount"),
            r.DateOrNull("paid_on"),
            r.TextOrNull("paid_method"),
            r.TextOrNull("paid_reference"),
            r.TextOrNull("payer"),
            r.Bool("is_expense"),
            r.TextOrNull("note"),
            r.InstantOrNull("voided_at"),
            r.Bool("needs_no_pod") || DocumentFacts.Of(r).Contains(DocumentKind.Pod)
        );
    }
}
