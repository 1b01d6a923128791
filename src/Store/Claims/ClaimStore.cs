using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Claims;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Claims;

/// <summary>A cargo claim.</summary>
/// <param name="Memo">The standing credit memo of its decision.</param>
/// <param name="CarrierClaimed">What we claim from the carrier.</param>
public sealed record ClaimRow(
    long Id,
    string Number,
    long LoadId,
    string LoadNumber,
    long? CustomerId,
    string? Customer,
    long? LegId,
    long? CarrierId,
    string? Carrier,
    ClaimKind Kind,
    string Description,
    Instant OpenedAt,
    long? ReportId,
    LocalDate? DeliveredOn,
    LocalDate? FiledOn,
    [property: SeenWith(Right.BillingSee, Right.RatesSee)] Money? Claimed,
    LocalDate? AcknowledgedOn,
    ClaimOutcome? Outcome,
    LocalDate? DecidedOn,
    [property: SeenWith(Right.BillingSee, Right.RatesSee)] Money Allowed,
    string? DecidedWhy,
    long? MemoId,
    string? Memo,
    LocalDate? CarrierFiledOn,
    [property: SeenWith(Right.MarginsSee, Right.PayingSee)] Money? CarrierClaimed,
    [property: SeenWith(Right.MarginsSee, Right.PayingSee)] Money Recovered,
    Instant? ReleasedAt,
    string? ReleasedWhy
)
{
    public ClaimStatus Status => Facts().Status;

    /// <summary>Whether it holds the carrier's pay.</summary>
    public bool HoldsPay => Facts().HoldsPay;

    /// <summary>The claim as Core decides about it.</summary>
    public Claim Facts() =>
        new(
            Number,
            DeliveredOn,
            FiledOn,
            Claimed,
            AcknowledgedOn,
            Outcome,
            Allowed,
            LegId is not null,
            CarrierFiledOn,
            Recovered,
            ReleasedAt is not null
        );
}

/// <summary>What a carrier paid for a claim.</summary>
/// <param name="PaymentId">For a debit memo, the payment that stands for it.</param>
public sealed record RecoveryRow(
    long Id,
    long ClaimId,
    [property: SeenWith(Right.MarginsSee, Right.PayingSee)] Money Amount,
    LocalDate ReceivedOn,
    string Method,
    string? Reference,
    long? PaymentId,
    bool Stands
);

/// <summary>Cargo claims.</summary>
public static class ClaimStore
{
    private const string Select = """
        select m.*, l.currency, coalesce(g.currency, 'USD') as carrier_currency, l.number as load_number, l.customer_id, c.name as customer, g.carrier_id, k.name as carrier, p.reference as memo,
               (l.delivered_at at time zone (select s.zone from stops s where s.load_id = l.id order by s.seq desc limit 1))::date as
                   delivered_on
        from claims m join loads l on l.id = m.load_id left join companies c on c.id = l.customer_id left join legs g on g.id = m.leg_id
            left join companies k on k.id = g.carrier_id left join payments p on p.id = m.memo_id and p.reversed_at is null
        """;

    /// <summary>The currency of a recovery <c>r</c>: the carrier's.</summary>
    private const string RecoveredIn =
        "(select coalesce(g.currency, 'USD') from claims m left join legs g on g.id = m.leg_id where m.id = r.claim_id) as currency";

    public static async Task<ClaimRow?> Get(NpgsqlConnection db, long id, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from claims where id = @id for update", ("id", id));
        }

        return await db.Row($"{Select} where m.id = @id", Read, ("id", id));
    }

    public static Task<List<ClaimRow>> OfLoad(NpgsqlConnection db, long loadId) =>
        db.Rows($"{Select} where m.load_id = @load order by m.id", Read, ("load", loadId));

    /// <summary>Claims that need somebody: not decided, or decided and not recovered; oldest first.</summary>
    public static Task<List<ClaimRow>> Open(NpgsqlConnection db) =>
        db.Rows(
            $"{Select} where m.outcome is null or (m.leg_id is not null and m.recovered < m.allowed and m.carrier_filed_on is null) order by m.id limit 500",
            Read
        );

    /// <summary>Claims on the legs of bills, by leg.</summary>
    public static async Task<ILookup<long, ClaimRow>> OfBills(NpgsqlConnection db, long[] billIds) =>
        (
            await db.Rows(
                $"{Select} where m.leg_id in (select b.leg_id from bills b where b.id = any(@bills)) order by m.id",
                Read,
                ("bills", billIds)
            )
        ).ToLookup(c => c.LegId!.Value);

    public static async Task<long> Add(CommandContext w, long loadId, long? legId, ClaimKind kind, string description, long? reportId) =>
        await w.Db.One<long>(
            """
            insert into claims (number, load_id, leg_id, report_id, kind, description, opened_at, opened_by)
            values (next_in_series('claim'), @load, @leg, @report, @kind, @description, @now, @by) returning id
            """,
            ("load", loadId),
            ("leg", legId),
            ("report", reportId),
            ("kind", kind),
            ("description", description),
            ("now", w.Now),
            ("by", w.Actor.UserId)
        );

    /// <summary>The carrier's leg of a load on which the freight was when something happened to it: the last one that a carrier moved;
    /// null when our own truck delivered it.</summary>
    public static Task<long?> CarrierLeg(NpgsqlConnection db, long loadId) =>
        db.One<long?>(
            "select case when carrier_id is not null then id end from legs where load_id = @load order by seq desc limit 1",
            ("load", loadId)
        );

    /// <summary>The number of a claim on a leg, or null.</summary>
    public static Task<string?> OnLeg(NpgsqlConnection db, long legId) =>
        db.One<string?>("select number from claims where leg_id = @leg order by id limit 1", ("leg", legId));

    public static Task File(CommandContext w, long id, LocalDate on, Money amount) =>
        w.Db.Run("update claims set filed_on = @on, claimed = @amount where id = @id", ("id", id), ("on", on), ("amount", amount));

    public static Task Acknowledge(CommandContext w, long id) =>
        w.Db.Run("update claims set acknowledged_on = @on where id = @id", ("id", id), ("on", w.Today));

    public static Task Decide(CommandContext w, long id, ClaimOutcome outcome, Money allowed, string why) =>
        w.Db.Run(
            """
            update claims set outcome = @outcome, decided_on = @on, allowed = @allowed, decided_why = @why, memo_id = null where id = @id
            """,
            ("id", id),
            ("outcome", outcome),
            ("on", w.Today),
            ("allowed", allowed),
            ("why", why)
        );

    public static Task SetMemo(CommandContext w, long id, long memoId) =>
        w.Db.Run("update claims set memo_id = @memo where id = @id", ("id", id), ("memo", memoId));

    public static Task Reopen(CommandContext w, long id) =>
        w.Db.Run(
            """
            update claims set outcome = null, decided_on = null, allowed = 0, decided_why = null, memo_id = null, released_at = null,
                released_why = null where id = @id
            """,
            ("id", id)
        );

    public static Task FileWithCarrier(CommandContext w, long id, LocalDate on, Money amount) =>
        w.Db.Run(
            "update claims set carrier_filed_on = @on, carrier_claimed = @amount where id = @id",
            ("id", id),
            ("on", on),
            ("amount", amount)
        );

    public static Task Release(CommandContext w, long id, string why) =>
        w.Db.Run("update claims set released_at = @now, released_why = @why where id = @id", ("id", id), ("now", w.Now), ("why", why));

    public static Task<List<RecoveryRow>> Recoveries(NpgsqlConnection db, long claimId) =>
        db.Rows($"select r.*, {RecoveredIn} from claim_recoveries r where claim_id = @claim order by id", ReadRecovery, ("claim", claimId));

    /// <param name="paymentId">For a debit memo, the payment that stands for it.</param>
    public static Task<long> AddRecovery(
        CommandContext w,
        long claimId,
        Payout receipt,
        LocalDate postedOn,
        Money amount,
        long? paymentId
    ) =>
        w.Db.One<long>(
            """
            insert into claim_recoveries (claim_id, amount, received_on, posted_on, method, reference, payment_id) values (@claim, @amount,
            @on, @posted, @method, @reference, @payment) returning id
            """,
            ("claim", claimId),
            ("amount", amount),
            ("on", receipt.On),
            ("posted", postedOn),
            ("method", receipt.Method),
            ("reference", receipt.Reference),
            ("payment", paymentId)
        );

    /// <summary>Marks a recovery in money as reversed; null when there is none that stands.</summary>
    public static async Task<RecoveryRow?> ReverseRecovery(CommandContext w, long id) =>
        (
            await w.Db.Rows(
                $"update claim_recoveries r set standing = false where id = @id and standing and payment_id is null returning r.*, {RecoveredIn}",
                ReadRecovery,
                ("id", id)
            )
        ).FirstOrDefault();

    /// <summary>Marks the recovery of a debit memo as reversed, if there is one.</summary>
    public static Task ReverseRecoveryOf(CommandContext w, long paymentId) =>
        w.Db.Run("update claim_recoveries set standing = false where payment_id = @id and standing", ("id", paymentId));

    private static RecoveryRow ReadRecovery(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("claim_id"),
            r.Money("amount"),
            r.Date("received_on"),
            r.Text("method"),
            r.TextOrNull("reference"),
            r.LongOrNull("payment_id"),
            r.Bool("standing")
        );

    private static ClaimRow Read(NpgsqlDataReader r)
    {
        var carrier = r.Currency("carrier_currency");
        return new(
            r.Long("id"),
            r.Text("number"),
            r.Long("load_id"),
            r.Text("load_number"),
            r.LongOrNull("customer_id"),
            r.TextOrNull("customer"),
            r.LongOrNull("leg_id"),
            r.LongOrNull("carrier_id"),
            r.TextOrNull("carrier"),
            r.Enum<ClaimKind>("kind"),
            r.Text("description"),
            r.Instant("opened_at"),
            r.LongOrNull("report_id"),
            r.DateOrNull("delivered_on"),
            r.DateOrNull("filed_on"),
            r.MoneyOrNull("claimed"),
            r.DateOrNull("acknowledged_on"),
            r.EnumOrNull<ClaimOutcome>("outcome"),
            r.DateOrNull("decided_on"),
            r.Money("allowed"),
            r.TextOrNull("decided_why"),
            r.TextOrNull("memo") is null ? null : r.LongOrNull("memo_id"),
            r.TextOrNull("memo"),
            r.DateOrNull("carrier_filed_on"),
            r.Null("carrier_claimed") ? null : new Money(r.Decimal("carrier_claimed"), carrier),
            new Money(r.Decimal("recovered"), carrier),
            r.InstantOrNull("released_at"),
            r.TextOrNull("released_why")
        );
    }
}
