using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Paying;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Billing;

/// <summary>A refund of a payment's unapplied credit.</summary>
public sealed record RefundRow(
    long Id,
    LocalDate PaidOn,
    string Method,
    string? Reference,
    Money Amount,
    string Reason,
    string? PaidBy,
    bool Stands
);

/// <summary>Write-offs without a payment, and refunds.</summary>
public static class CorrectionStore
{
    /// <summary>An invoice's loads with their totals.</summary>
    public static Task<List<(long LoadId, Money Total)>> LoadsOf(NpgsqlConnection db, long invoiceId) =>
        db.Rows(
            "select x.load_id, i.currency, sum(x.amount) as total from invoice_lines x join invoices i on i.id = x.invoice_id where i.id = @id group by x.load_id, i.currency order by x.load_id",
            r => (r.Long("load_id"), r.Money("total")),
            ("id", invoiceId)
        );

    /// <summary>The tax within an amount that an invoice is reduced by, from <see cref="SalesTax.Within"/>.</summary>
    /// <param name="reducesPrice">From <see cref="ShortPayReasons.ReducesPrice"/>; without it there is none.</param>
    public static async Task<Money> TaxWithin(NpgsqlConnection db, InvoiceRow invoice, Money amount, bool reducesPrice) =>
        !reducesPrice || invoice.Tax.Amount == 0
            ? Money.Zero(amount.Currency)
            : SalesTax.Within(
                amount,
                invoice.Total,
                invoice.Tax,
                (
                    await db.Rows(
                        """
                        select i.currency, coalesce(sum(x.amount), 0) as amount, coalesce(sum(x.tax), 0) as tax from invoices i
                        left join lateral (
                            select a.write_off as amount, a.tax from payment_applications a where a.invoice_id = i.id and a.standing
                                and a.kind in ('concession', 'uncollectible')
                            union all select p.amount, p.tax from payments p where p.memo_invoice_id = i.id and p.reversed_at is null
                                and p.memo_reason <> 'claim') x on true
                        where i.id = @id group by i.id
                        """,
                        r => (r.Money("amount"), r.Money("tax")),
                        ("id", invoice.Id)
                    )
                )[0]
            );

    public static Task<long> AddWriteOff(
        CommandContext w,
        long invoiceId,
        LocalDate on,
        Money amount,
        Money tax,
        ShortPayReason kind,
        string reason
    ) =>
        w.Db.One<long>(
            """
            insert into payment_applications (invoice_id, posted_on, amount, write_off, tax, kind, reason) values (@invoice, @on, 0, @amount,
            @tax, @kind, @reason) returning id
            """,
            ("invoice", invoiceId),
            ("on", on),
            ("amount", amount),
            ("tax", tax),
            ("kind", kind),
            ("reason", reason)
        );

    /// <summary>Marks a write-off as reversed; null when there is none that stands.</summary>
    public static async Task<(long InvoiceId, Money Amount)?> ReverseWriteOff(CommandContext w, long id) =>
        (
            await w.Db.Rows(
                """
                update payment_applications set standing = false where id = @id and payment_id is null and standing returning invoice_id,
                write_off, (select currency from invoices where id = invoice_id) as currency
                """,
                r => ((long InvoiceId, Money Amount)?)(r.Long("invoice_id"), r.Money("write_off")),
                ("id", id)
            )
        ).FirstOrDefault();

    /// <summary>Stores a credit memo as the payment that stands for it.</summary>
    public static async Task<(long Id, string Number)> AddMemo(
        CommandContext w,
        long invoiceId,
        long customerId,
        LocalDate postedOn,
        CreditMemo memo,
        Money tax
    )
    {
        var number = (await w.Db.One<string>("select next_in_series('credit_memo')"))!;
        var id = await w.Db.One<long>(
            """
            insert into payments (customer_id, received_on, posted_on, method, reference, amount, tax, currency, memo_invoice_id,
                memo_reason, memo_why)
            values (@customer, @on, @posted, 'credit_memo', @number, @amount, @tax, @currency, @invoice, @reason, @why) returning id
            """,
            ("customer", customerId),
            ("on", memo.IssuedOn),
            ("posted", postedOn),
            ("number", number),
            ("amount", memo.Amount),
            ("tax", tax),
            ("currency", memo.Amount.Currency),
            ("invoice", invoiceId),
            ("reason", memo.Reason),
            ("why", memo.Why)
        );
        return (id, number);
    }

    public static Task<long> AddRefund(CommandContext w, long paymentId, Payout payout, LocalDate postedOn, Money amount, string reason) =>
        w.Db.One<long>(
            """
            insert into refunds (payment_id, paid_on, posted_on, method, reference, amount, reason, paid_by) values (@payment, @on, @posted,
            @method, @reference, @amount, @reason, @by) returning id
            """,
            ("payment", paymentId),
            ("on", payout.On),
            ("posted", postedOn),
            ("method", payout.Method),
            ("reference", payout.Reference),
            ("amount", amount),
            ("reason", reason),
            ("by", w.Actor.UserId)
        );

    /// <summary>Marks a refund as reversed; null when there is none that stands.</summary>
    public static async Task<(long PaymentId, Money Amount)?> ReverseRefund(CommandContext w, long id) =>
        (
            await w.Db.Rows(
                "update refunds set standing = false where id = @id and standing returning payment_id, amount, (select currency from payments where id = payment_id) as currency",
                r => ((long PaymentId, Money Amount)?)(r.Long("payment_id"), r.Money("amount")),
                ("id", id)
            )
        ).FirstOrDefault();

    public static Task<List<RefundRow>> Refunds(NpgsqlConnection db, long paymentId) =>
        db.Rows(
            """
            select f.*, p.currency, u.name as payer from refunds f join payments p on p.id = f.payment_id left join users u on u.id = f.paid_by where f.payment_id = @id order by f.paid_on,
            f.id
            """,
            r => new RefundRow(
                r.Long("id"),
                r.Date("paid_on"),
                r.Text("method"),
                r.TextOrNull("reference"),
                r.Money("amount"),
                r.Text("reason"),
                r.TextOrNull("payer"),
                r.Bool("standing")
            ),
            ("id", paymentId)
        );
}
