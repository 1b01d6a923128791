using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Claims;

namespace SteadyLark.Store.Paying;

/// <summary>A payment to a vendor: one check, or one ACH credit.</summary>
/// <param name="AdviceTo">Where its remittance advice was emailed, or null.</param>
/// <param name="Bills">What it pays.</param>
public sealed record VendorPaymentRow(
    long Id,
    long BatchId,
    long VendorId,
    string Payee,
    LocalDate PaidOn,
    string Method,
    string? Reference,
    Money Amount,
    string? PaidBy,
    Instant? ReversedAt,
    string? AdviceTo,
    IReadOnlyList<PaidBillRow> Bills
)
{
    [System.Text.Json.Serialization.JsonIgnore]
    public VendorPaymentState State => new(Payee, ReversedAt is not null);
}

/// <summary>A bill that a payment pays, in full or in part.</summary>
public sealed record PaidBillRow(long BillId, string Number, long? LoadId, Money Amount, Money Discount);

/// <summary>An approved bill that can be paid, for choosing.</summary>
/// <param name="Payee">The vendor, or its factor.</param>
/// <param name="Open">What is still to pay, without a quick-pay discount.</param>
/// <param name="Hold">Why it may not be paid now; null when it may.</param>
public sealed record PayableBill(
    long Id,
    string Number,
    long VendorId,
    string Vendor,
    string Payee,
    string? LoadNumber,
    LocalDate DueOn,
    Money Open,
    Money Discount,
    long? ApprovedById,
    string? Hold
);

/// <summary>Payments to vendors.</summary>
public static class VendorPaymentStore
{
    /// <summary>Bills as read for paying them.</summary>
    public static async Task<IReadOnlyDictionary<long, BillToPay>> ToPay(
        NpgsqlConnection db,
        IEnumerable<long> billIds,
        bool locked = false
    )
    {
        var ids = billIds.ToArray();
        if (locked)
        {
            await db.Run("select 1 from bills where id = any(@ids) order by id for update", ("ids", ids));
        }

        var claims = await ClaimStore.OfBills(db, ids);
        var bills = await db.Rows(
            $"""
            select b.*, coalesce((select x.factor from remit_tos x where x.id = {RemitToStore.Current}), c.name) as payee, c.pay_when_paid,
                exists (select 1 from remit_tos x where x.company_id = c.id and x.state = 'proposed') as remit_pending, l.number as load_number,
                (select bool_and(i.paid >= i.total) from invoice_loads x join invoices i on i.id = x.invoice_id
                    where x.load_id = g.load_id and i.voided_at is null) as customer_paid
            from bills b join companies c on c.id = b.vendor_id left join legs g on g.id = b.leg_id left join loads l on l.id = g.load_id
            where b.id = any(@ids)
            """,
            r => new BillToPay(
                r.Long("id"),
                r.Long("vendor_id"),
                r.Text("payee"),
                new BillState(
                    r.Text("number"),
                    !r.Null("approved"),
                    r.DateOrNull("paid_on"),
                    !r.Null("voided_at"),
                    r.Bool("is_expense"),
                    r.Decimal("paid") > 0
                ),
                r.MoneyOrNull("approved"),
                r.Money("paid"),
                r.Money("quick_pay_discount"),
                r.LongOrNull("approved_by"),
                PayHolds.Of(
                    r.Text("number"),
                    r.TextOrNull("load_number"),
                    r.Bool("pay_when_paid"),
                    !r.Null("customer_paid") && r.Bool("customer_paid"),
                    r.Bool("remit_pending"),
                    r.LongOrNull("leg_id") is { } leg ? claims[leg].FirstOrDefault(c => c.HoldsPay)?.Number : null
                )
            ),
            ("ids", ids)
        );
        return bills.ToDictionary(b => b.Id);
    }

    /// <summary>Approved bills that are not paid in full, by payee and due date.</summary>
    public static async Task<List<PayableBill>> Payable(NpgsqlConnection db, int max)
    {
        var rows = await db.Rows(
            """
            select b.id, c.name as vendor, l.number as load_number, coalesce(b.quick_pay_on, b.due_on) as due from bills b join companies c on
                c.id = b.vendor_id left join legs g on g.id = b.leg_id left join loads l on l.id = g.load_id
            where b.approved is not null and b.paid_on is null and b.voided_at is null order by due, b.id limit @max
            """,
            r => (Id: r.Long("id"), Vendor: r.Text("vendor"), Load: r.TextOrNull("load_number"), Due: r.Date("due")),
            ("max", max)
        );
        var bills = await ToPay(db, rows.Select(r => r.Id));
        return rows.Select(r =>
            {
                var b = bills[r.Id];
                var cash = b.Open - b.QuickPayDiscount;
                return new PayableBill(
                    r.Id,
                    b.State.Number,
                    b.VendorId,
                    r.Vendor,
                    b.Payee,
                    r.Load,
                    r.Due,
                    cash,
                    b.QuickPayDiscount,
                    b.ApprovedBy,
                    b.Hold?.Message
                );
            })
            .OrderBy(b => b.Payee, StringComparer.OrdinalIgnoreCase)
            .ThenBy(b => b.DueOn)
            .ToList();
    }

    public static Task<long> AddBatch(CommandContext w, Payout payout) =>
        w.Db.One<long>(
            "insert into payment_batches (paid_on, method, made_by, made_at) values (@on, @method, @by, @now) returning id",
            ("on", payout.On),
            ("method", payout.Method),
            ("by", w.Actor.UserId),
            ("now", w.Now)
        );

    public static async Task<string> NextDebitMemo(CommandContext w) => (await w.Db.One<string>("select next_in_series('debit_memo')"))!;

    /// <param name="memoWhy">For a debit memo: why.</param>
    public static async Task<long> Add(
        CommandContext w,
        long batchId,
        VendorPayment payment,
        Payout payout,
        LocalDate postedOn,
        string? memoWhy = null
    )
    {
        var id = await w.Db.One<long>(
            """
            insert into vendor_payments (batch_id, vendor_id, payee, paid_on, posted_on, method, reference, amount, currency, paid_by,
                paid_at, memo_why) values (@batch, @vendor, @payee, @on, @posted, @method, @reference, @amount, @currency, @by, @now, @why) returning id
            """,
            ("batch", batchId),
            ("vendor", payment.VendorId),
            ("payee", payment.Payee),
            ("on", payout.On),
            ("posted", postedOn),
            ("method", payout.Method),
            ("reference", payment.Reference),
            ("amount", payment.Amount),
            ("currency", payment.Amount.Currency),
            ("by", w.Actor.UserId),
            ("now", w.Now),
            ("why", memoWhy)
        );
        await w.Db.Run(
            "insert into bill_payments (payment_id, bill_id, amount, discount) select @id, x.* from unnest(@bills, @amounts, @discounts) as x",
            ("id", id),
            ("bills", payment.Bills.Select(b => b.BillId).ToArray()),
            ("amounts", payment.Bills.Select(b => b.Amount.Amount).ToArray()),
            ("discounts", payment.Bills.Select(b => b.Discount.Amount).ToArray())
        );
        return id;
    }

    /// <summary>What stands against the bills of a payment besides it, by bill, oldest first, as a remittance advice names it.</summary>
    public static async Task<ILookup<long, (LocalDate On, string Method, string? Reference, Money Amount, string? Why)>> Besides(
        NpgsqlConnection db,
        long paymentId
    ) =>
        (
            await db.Rows(
                """
                select x.bill_id, p.paid_on, p.method, p.reference, p.currency, x.amount + x.discount as amount, p.memo_why from bill_payments x
                join vendor_payments p on p.id = x.payment_id
                where x.bill_id in (select bill_id from bill_payments where payment_id = @payment) and x.standing and p.id <> @payment
                order by p.id
                """,
                r =>
                    (
                        Bill: r.Long("bill_id"),
                        Part: (r.Date("paid_on"), r.Text("method"), r.TextOrNull("reference"), r.Money("amount"), r.TextOrNull("memo_why"))
                    ),
                ("payment", paymentId)
            )
        ).ToLookup(x => x.Bill, x => x.Part);

    public static Task SetMail(NpgsqlConnection db, long id, long mailId) =>
        db.Run("update vendor_payments set email_id = @mail where id = @id", ("id", id), ("mail", mailId));

    /// <summary>Holds a payment's remittance advice back while it is not sent yet.</summary>
    /// <returns>Where it went when it was sent already; null when it was stopped, or there is none.</returns>
    public static async Task<string?> HoldBackAdvice(CommandContext w, long id) =>
        await w.Db.One<long?>("select email_id from vendor_payments where id = @id", ("id", id)) is { } mail
        && !await MailStore.HoldBack(w, mail)
            ? await w.Db.One<string>("select to_address from emails where id = @id and held_back_at is null", ("id", mail))
            : null;

    /// <summary>Marks a payment as reversed: its bills are open again.</summary>
    public static async Task Reverse(CommandContext w, long id)
    {
        await w.Db.Run("update bill_payments set standing = false where payment_id = @id", ("id", id));
        await w.Db.Run("update vendor_payments set reversed_at = @now where id = @id", ("id", id), ("now", w.Now));
        await ClaimStore.ReverseRecoveryOf(w, id);
    }

    public static async Task<VendorPaymentRow?> Get(NpgsqlConnection db, long id, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from vendor_payments where id = @id for update", ("id", id));
        }

        return (await Read(db, "p.id = @id", ("id", id))).FirstOrDefault();
    }

    /// <summary>A bill's payments, oldest first, reversed ones too.</summary>
    public static Task<List<VendorPaymentRow>> OfBill(NpgsqlConnection db, long billId) =>
        Read(db, "p.id in (select payment_id from bill_payments where bill_id = @bill)", ("bill", billId));

    /// <summary>The payments of a batch that stand.</summary>
    public static Task<List<VendorPaymentRow>> OfBatch(NpgsqlConnection db, long batchId) =>
        Read(db, "p.batch_id = @batch and p.reversed_at is null", ("batch", batchId));

    private static async Task<List<VendorPaymentRow>> Read(NpgsqlConnection db, string where, (string, object?) parameter)
    {
        var bills = (
            await db.Rows(
                $"""
                select x.payment_id, x.bill_id, b.currency, b.number, g.load_id, x.amount, x.discount from bill_payments x join bills b on
                    b.id = x.bill_id left join legs g on g.id = b.leg_id join vendor_payments p on p.id = x.payment_id where {where}
                    order by x.payment_id, x.bill_id
                """,
                r =>
                    (
                        Payment: r.Long("payment_id"),
                        Bill: new PaidBillRow(
                            r.Long("bill_id"),
                            r.Text("number"),
                            r.LongOrNull("load_id"),
                            r.Money("amount"),
                            r.Money("discount")
                        )
                    ),
                parameter
            )
        ).ToLookup(x => x.Payment, x => x.Bill);
        return await db.Rows(
            $"select p.*, u.name as payer, m.to_address as advice_to from vendor_payments p left join users u on u.id = p.paid_by left join emails m on m.id = p.email_id and m.held_back_at is null where {where} order by p.id",
            r => new VendorPaymentRow(
                r.Long("id"),
                r.Long("batch_id"),
                r.Long("vendor_id"),
                r.Text("payee"),
                r.Date("paid_on"),
                r.Text("method"),
                r.TextOrNull("reference"),
                r.Money("amount"),
                r.TextOrNull("payer"),
                r.InstantOrNull("reversed_at"),
                r.TextOrNull("advice_to"),
                bills[r.Long("id")].ToList()
            ),
            parameter
        );
    }
}
