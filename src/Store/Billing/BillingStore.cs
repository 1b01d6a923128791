using System.Text.Json.Serialization;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;

namespace SteadyLark.Store.Billing;

/// <summary>A row of the invoice list.</summary>
/// <param name="Supplement">A standing invoice that bills late charges of its loads, or null.</param>
/// <param name="Credited">Its credit memos.</param>
/// <param name="Creditable">What of it no concession or billing error has credited yet.</param>
/// <param name="Tax">GST or HST within the total.</param>
public sealed record InvoiceRow(
    long Id,
    string Number,
    long CustomerId,
    string Customer,
    LocalDate IssuedOn,
    LocalDate DueOn,
    Money Total,
    Money Paid,
    Money Open,
    string? MailedTo,
    Instant? MailSentAt,
    Instant? VoidedAt,
    LocalDate? DeliveredOn,
    LocalDate? LastPaidOn,
    IReadOnlyList<string> Loads,
    string? Supplement,
    Money Credited,
    Money Creditable,
    Money Tax,
    bool IsOpening = false
)
{
    [JsonIgnore]
    public InvoiceState State => new(Number, VoidedAt is not null, Paid, Open, Supplement, Credited, IsOpening);
}

public sealed record InvoiceLineRow(long LoadId, string LoadNumber, string Description, Money Amount);

/// <summary>A payment or a write-off of an invoice.</summary>
/// <param name="PaymentId">Null for a write-off without a payment, as is the method.</param>
/// <param name="WriteOff">Written off.</param>
/// <param name="Kind">Why it was written off.</param>
public sealed record InvoicePayment(
    long Id,
    long? PaymentId,
    LocalDate On,
    string? Method,
    string? Reference,
    Money Amount,
    Money WriteOff,
    ShortPayReason? Kind,
    string? Reason,
    bool Stands
);

public sealed record InvoiceSheet(
    InvoiceRow Invoice,
    IReadOnlyList<InvoiceLineRow> Lines,
    IReadOnlyList<InvoicePayment> Payments,
    IReadOnlyList<DocumentKind> Documents,
    IReadOnlyList<EventRow> Events,
    IReadOnlyList<InvoiceTax> Taxes
);

/// <summary>A delivered load that is not invoiced, or one with late charges that are not.</summary>
/// <param name="Revenue">What is not invoiced yet.</param>
/// <param name="Missing">Required documents that are missing.</param>
/// <param name="Held">Why it is on hold for billing.</param>
/// <param name="RequestedAt">When its missing documents were last requested.</param>
/// <param name="Late">Whether it is invoiced but for late charges.</param>
/// <param name="Canceled">Whether it was canceled, and its truck is charged for; <paramref name="DeliveredAt"/> is when.</param>
public sealed record UnbilledRow(
    long LoadId,
    string Number,
    long CustomerId,
    string Customer,
    string? Reference,
    string From,
    string To,
    Money Revenue,
    Instant DeliveredAt,
    Instant? PodAt,
    IReadOnlyList<DocumentKind> Documents,
    IReadOnlyList<DocumentKind> Missing,
    string? Held,
    Instant? RequestedAt,
    bool Late,
    bool Canceled = false
);

/// <summary>A payment's application to an invoice.</summary>
public sealed record AppliedRow(long InvoiceId, string Number, Money Amount);

/// <summary>A payment received, or a credit memo.</summary>
/// <param name="Memo">Why the customer was credited; null for a payment.</param>
public sealed record PaymentRow(
    long Id,
    long CustomerId,
    string Customer,
    LocalDate ReceivedOn,
    string Method,
    string? Reference,
    Money Amount,
    Money Applied,
    Money Refunded,
    Money Unapplied,
    Instant? ReversedAt,
    MemoRow? Memo = null
)
{
    [JsonIgnore]
    public PaymentState State => new(ReversedAt is not null, Unapplied, Refunded);
}

/// <summary>The invoice a credit memo is for, and why.</summary>
public sealed record MemoRow(long InvoiceId, string Invoice, CreditReason Reason, string Why);

public static class BillingStore
{
    private static readonly string[] Stops = Core.Loads.Credit.BillingHolds.Select(k => EnumCodec.Of(k)).ToArray();

    private const string PaymentSelect = """
        select p.*, c.name as customer, i.number as memo_invoice from payments p join companies c on c.id = p.customer_id left join invoices i
        on i.id = p.memo_invoice_id
        """;

    private const string InvoiceSelect = """
        select i.*, c.name as customer, m.sent_at as mail_sent_at,
               (select array_agg(l.number order by l.number) from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id =
                   i.id) as loads,
               (select max((l.delivered_at at time zone (select s.zone from stops s where s.load_id = l.id order by s.seq desc limit
                   1))::date)
                from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id) as delivered_on,
               (select min(x.number) from invoice_loads o join invoice_loads s on s.load_id = o.load_id and s.supplement and s.standing
                   join invoices x on x.id = s.invoice_id where o.invoice_id = i.id and not o.supplement and o.standing) as supplement,
               k.credited, k.not_owed,
               (select max(p.received_on) from payment_applications a join payments p on p.id = a.payment_id where a.invoice_id = i.id and
                   a.standing) as last_paid_on
        from invoices i join companies c on c.id = i.customer_id left join emails m on m.id = i.email_id
        cross join lateral (select coalesce(sum(p.amount), 0) as credited, coalesce(sum(p.amount) filter (where p.memo_reason <> 'claim'), 0)
            as not_owed from payments p where p.memo_invoice_id = i.id and p.reversed_at is null) k
        """;

    /// <summary>What billing needs to know about loads, each locked against being billed twice.</summary>
    public static async Task<List<BillableLoad>> Billable(CommandContext w, IEnumerable<long> loadIds)
    {
        var ids = loadIds.Distinct().Order().ToArray();
        await w.Db.Run("select 1 from loads where id = any(@ids) order by id for update", ("ids", ids));
        var charges = (
            await w.Db.Rows(
                """
                select c.*, o.currency from charges c join loads o on o.id = c.load_id where c.load_id = any(@ids) and not exists (select 1 from invoice_lines l where l.charge_id = c.id
                    and l.standing) order by c.load_id, c.seq
                """,
                r =>
                    (
                        Load: r.Long("load_id"),
                        Charge: new BillableCharge(
                            r.Long("id"),
                            r.Enum<ChargeKind>("kind"),
                            r.TextOrNull("description"),
                            r.Money("amount"),
                            ClassRatesStore.Rating(r.TextOrNull("rating"))?.Described
                        )
                    ),
                ("ids", ids)
            )
        ).ToLookup(c => c.Load, c => c.Charge);
        return await w.Db.Rows(
            $"""
            select l.*, c.name as customer, exists (select 1 from invoice_loads il where il.load_id = l.id and
                il.standing) as on_invoice, {DocumentFacts.Columns},
                   (select string_agg(h.reason, ' ' order by h.id) from holds h where h.load_id = l.id and h.lifted_at is null and
                       h.kind = any(@stops)) as held,
                       b.required_documents as required,
                   array(select p.region from stops s left join places p on p.id = s.place_id where s.load_id = l.id order by s.seq) as regions
            from loads l join companies c on c.id = l.payer_id left join billing_settings b on b.customer_id = l.payer_id
                where l.id = any(@ids) order by l.number
            """,
            r => new BillableLoad(
                r.Long("id"),
                r.Text("number"),
                r.Long("payer_id"),
                r.Text("customer"),
                r.Enum<LoadState>("state"),
                r.Bool("on_invoice"),
                DocumentFacts.Of(r),
                charges[r.Long("id")].ToList(),
                r.TextOrNull("held"),
                BillingSettingsStore.KindsOrNull(r, "required"),
                SalesTax.Province(r.GetFieldValue<string?[]>(r.GetOrdinal("regions")))
            ),
            ("ids", ids),
            ("stops", Stops)
        );
    }

    public static async Task<(long Id, string Number)> AddInvoice(
        CommandContext w,
        InvoiceDraft draft,
        LocalDate postedOn,
        string? mailTo,
        IReadOnlyList<DocumentKind> documents
    )
    {
        var number = (await w.Db.One<string>("select next_in_series('invoice')"))!;
        var id = await w.Db.One<long>(
            """
            insert into invoices (number, customer_id, issued_on, posted_on, due_on, total, tax, currency, mailed_to, attachments)
            values (@number, @customer, @issued, @posted, @due, @total, @tax, @currency, @to, @attachments) returning id
            """,
            ("number", number),
            ("customer", draft.CustomerId),
            ("issued", draft.IssuedOn),
            ("posted", postedOn),
            ("due", draft.DueOn),
            ("total", draft.Total),
            ("tax", draft.Tax),
            ("currency", draft.Total.Currency),
            ("to", mailTo),
            ("attachments", BillingSettingsStore.Kinds(documents))
        );
        for (var i = 0; i < draft.Lines.Count; i++)
        {
            var line = draft.Lines[i];
            await w.Db.Run(
                """
                insert into invoice_lines (invoice_id, seq, load_id, charge_id, description, amount) values (@invoice, @seq, @load, @charge,
                @description, @amount)
                """,
                ("invoice", id),
                ("seq", i + 1),
                ("load", line.LoadId),
                ("charge", line.ChargeId),
                ("description", line.Description),
                ("amount", line.Amount)
            );
        }

        for (var i = 0; i < draft.Taxes.Count; i++)
        {
            var tax = draft.Taxes[i];
            await w.Db.Run(
                "insert into invoice_taxes (invoice_id, seq, name, percent, taxed, amount) values (@invoice, @seq, @name, @percent, @taxed, @amount)",
                ("invoice", id),
                ("seq", i + 1),
                ("name", tax.Name),
                ("percent", tax.Percent),
                ("taxed", tax.On),
                ("amount", tax.Amount)
            );
        }

        foreach (var load in draft.Lines.Select(l => l.LoadId).Distinct())
        {
            await w.Db.Run(
                "insert into invoice_loads (invoice_id, load_id, supplement) values (@invoice, @load, @supplement)",
                ("invoice", id),
                ("load", load),
                ("supplement", draft.Supplements.Contains(load))
            );
        }

        return (id, number);
    }

    /// <summary>An invoice of another system that was open when the books began here: a number, two dates and what is open.</summary>
    public static Task<long> AddOpening(CommandContext w, Core.Ledger.OpeningItem item, LocalDate postedOn) =>
        w.Db.One<long>(
            """
            insert into invoices (number, customer_id, issued_on, posted_on, due_on, total, currency, is_opening) values (@number, @customer, @issued,
            @posted, @due, @total, @currency, true) returning id
            """,
            ("number", item.Number),
            ("customer", item.PartyId),
            ("issued", item.On),
            ("posted", postedOn),
            ("due", item.DueOn),
            ("total", item.Amount),
            ("currency", item.Amount.Currency)
        );

    /// <summary>Those of some numbers that an invoice has, in lower case.</summary>
    public static async Task<HashSet<string>> NumbersTaken(NpgsqlConnection db, IEnumerable<string> numbers) =>
        (
            await db.Rows(
                "select lower(number) as number from invoices where lower(number) = any(@numbers)",
                r => r.Text("number"),
                ("numbers", numbers.Select(n => n.ToLowerInvariant()).ToArray())
            )
        ).ToHashSet();

    /// <summary>Stores the invoice's own pages as sent.</summary>
    public static async Task KeepSheet(CommandContext w, long invoiceId, byte[] pdf)
    {
        var hash = System.Security.Cryptography.SHA256.HashData(pdf);
        await w.Db.Run(
            "insert into document_files (sha256, bytes) values (@hash, @bytes) on conflict do nothing",
            ("hash", hash),
            ("bytes", pdf)
        );
        await w.Db.Run("update invoices set sheet_sha256 = @hash where id = @id", ("id", invoiceId), ("hash", hash));
    }

    /// <summary>The invoice's own pages as sent; null when not kept.</summary>
    public static Task<byte[]?> KeptSheet(NpgsqlConnection db, long invoiceId) =>
        db.One<byte[]>(
            "select b.bytes from invoices i join document_files b on b.sha256 = i.sheet_sha256 where i.id = @id",
            ("id", invoiceId)
        );

    /// <summary>Updates the invoice's search text.</summary>
    public static Task Find(NpgsqlConnection db, long invoiceId) => db.Run("select find_invoice(@id)", ("id", invoiceId));

    /// <summary>Holds back the invoice's email if it was not sent yet, and says whether it did.</summary>
    public static async Task<bool> HoldBackMail(CommandContext w, long invoiceId) =>
        await w.Db.One<long>("select coalesce(email_id, 0) from invoices where id = @id", ("id", invoiceId)) is var mail and > 0
        && await MailStore.HoldBack(w, mail);

    public static Task SetMail(NpgsqlConnection db, long invoiceId, long mailId) =>
        db.Run("update invoices set email_id = @mail where id = @id", ("id", invoiceId), ("mail", mailId));

    public static async Task Void(CommandContext w, long invoiceId)
    {
        await w.Db.Run("update invoices set voided_at = @now where id = @id", ("id", invoiceId), ("now", w.Now));
        await w.Db.Run(
            "update invoice_loads set standing = false where invoice_id = @id; update invoice_lines set standing = false where invoice_id = @id",
            ("id", invoiceId)
        );
    }

    public static Task<List<long>> LoadsOf(NpgsqlConnection db, long invoiceId) =>
        db.Rows("select load_id from invoice_loads where invoice_id = @id order by load_id", r => r.Long("load_id"), ("id", invoiceId));

    public static Task<InvoiceRow?> Invoice(NpgsqlConnection db, long id, bool locked = false)
    {
        return locked ? Locked() : db.Row($"{InvoiceSelect} where i.id = @id", ReadInvoice, ("id", id));

        async Task<InvoiceRow?> Locked()
        {
            await db.Run("select 1 from invoices where id = @id for update", ("id", id));
            return await Invoice(db, id);
        }
    }

    public static async Task<InvoiceSheet?> Sheet(NpgsqlConnection db, long id) =>
        await Invoice(db, id) is not { } invoice
            ? null
            : new InvoiceSheet(
                invoice,
                await db.Rows(
                    """
                    select il.*, l.number, i.currency from invoice_lines il join loads l on l.id = il.load_id join invoices i on i.id = il.invoice_id where il.invoice_id = @id order by il.seq
                    """,
                    r => new InvoiceLineRow(r.Long("load_id"), r.Text("number"), r.Text("description"), r.Money("amount")),
                    ("id", id)
                ),
                await db.Rows(
                    """
                    select a.id, a.payment_id, i.currency, a.amount, a.write_off, a.kind, a.reason, a.standing, coalesce(p.received_on, a.posted_on) as
                        on_day, p.method, p.reference
                    from payment_applications a join invoices i on i.id = a.invoice_id left join payments p on p.id = a.payment_id where
                        i.id = @id order by on_day, a.id
                    """,
                    r => new InvoicePayment(
                        r.Long("id"),
                        r.LongOrNull("payment_id"),
                        r.Date("on_day"),
                        r.TextOrNull("method"),
                        r.TextOrNull("reference"),
                        r.Money("amount"),
                        r.Money("write_off"),
                        r.EnumOrNull<ShortPayReason>("kind"),
                        r.TextOrNull("reason"),
                        r.Bool("standing")
                    ),
                    ("id", id)
                ),
                (
                    await db.Rows(
                        "select attachments from invoices where id = @id",
                        r => BillingSettingsStore.Kinds(r, "attachments"),
                        ("id", id)
                    )
                )[0],
                await Events.Of(db, "invoice", id),
                await db.Rows(
                    "select t.*, i.currency from invoice_taxes t join invoices i on i.id = t.invoice_id where i.id = @id order by t.seq",
                    r => new InvoiceTax(r.Text("name"), r.Decimal("percent"), r.Money("taxed"), r.Money("amount")),
                    ("id", id)
                )
            );

    /// <summary>Open invoices, earliest due first, after a cursor; of one customer or of all.</summary>
    public static Task<List<InvoiceRow>> Open(NpgsqlConnection db, long? customerId, (LocalDate Due, long Id)? after, int max) =>
        db.Rows(
            $"""
            {InvoiceSelect} where i.voided_at is null and i.paid < i.total and (@customer::bigint is null or i.customer_id = @customer)
              and (@due::date is null or (i.due_on, i.id) > (@due, @id)) order by i.due_on, i.id limit @most
            """,
            ReadInvoice,
            ("customer", customerId),
            ("due", after?.Due),
            ("id", after?.Id ?? 0),
            ("most", max)
        );

    /// <summary>All invoices, newest first, before a key.</summary>
    public static Task<List<InvoiceRow>> Newest(NpgsqlConnection db, long? before, int max) =>
        db.Rows(
            $"{InvoiceSelect} where (@before::bigint is null or i.id < @before) order by i.id desc limit @most",
            ReadInvoice,
            ("before", before),
            ("most", max)
        );

    /// <summary>Delivered loads without an invoice, and canceled ones with a charge, oldest first.</summary>
    public static Task<List<UnbilledRow>> Unbilled(NpgsqlConnection db, int max) =>
        db.Rows(
            $"""
            select l.id, l.number, l.payer_id, l.currency, c.name as customer, l.reference, case when l.late_charges > 0 then l.late_charges else
                l.revenue end as revenue, l.late_charges > 0 as late, coalesce(l.delivered_at, l.cancelled_at) as
                delivered_at, l.cancelled_at is not null as canceled, a.town as from_town, b.town as
                to_town,
                   (select max(p.added_at) from documents p where p.load_id = l.id and p.kind = 'pod' and p.removed_at is null) as pod_at,
                   {DocumentFacts.Columns}, w.required_documents as required,
                   (select string_agg(h.reason, ' ' order by h.id) from holds h where h.load_id = l.id and h.lifted_at is null and
                       h.kind = any(@stops)) as held,
                       (select max(k.asked_at) from document_requests k where k.load_id = l.id) as asked_at
            from loads l join companies c on c.id = l.payer_id left join billing_settings w on w.customer_id = l.payer_id
            join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) a on
                true
            join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1)
                b on true
            where l.state = 'delivered' or l.late_charges > 0 or l.id in (select c.load_id from charges c join
                loads x on x.id = c.load_id and x.state = 'cancelled' where c.kind = 'truck_ordered_not_used' and not exists (select 1 from
                invoice_loads il where il.load_id = c.load_id and il.standing)) order by coalesce(l.delivered_at, l.cancelled_at), l.id limit @most
            """,
            r =>
            {
                var documents = DocumentFacts.Of(r);
                return new UnbilledRow(
                    r.Long("id"),
                    r.Text("number"),
                    r.Long("payer_id"),
                    r.Text("customer"),
                    r.TextOrNull("reference"),
                    r.Text("from_town"),
                    r.Text("to_town"),
                    r.Money("revenue"),
                    r.Instant("delivered_at"),
                    r.InstantOrNull("pod_at"),
                    documents,
                    r.Bool("canceled")
                        ? []
                        : Core.Documents.RequiredDocuments.Missing(BillingSettingsStore.KindsOrNull(r, "required"), documents),
                    r.TextOrNull("held"),
                    r.InstantOrNull("asked_at"),
                    r.Bool("late"),
                    r.Bool("canceled")
                );
            },
            ("most", max),
            ("stops", Stops)
        );

    /// <summary>A customer's open invoices, locked, oldest due first.</summary>
    public static async Task<List<OpenInvoice>> OpenOf(CommandContext w, long customerId)
    {
        await w.Db.Run(
            "select 1 from invoices where customer_id = @customer and voided_at is null and paid < total order by id for update",
            ("customer", customerId)
        );
        return await w.Db.Rows(
            """
            select id, number, customer_id, currency, total - paid as open from invoices where customer_id = @customer and voided_at is null and paid
            < total order by due_on, id
            """,
            r => new OpenInvoice(r.Long("id"), r.Text("number"), r.Long("customer_id"), r.Money("open")),
            ("customer", customerId)
        );
    }

    public static async Task<long> AddPayment(
        CommandContext w,
        long customerId,
        LocalDate on,
        LocalDate postedOn,
        string method,
        string? reference,
        Money amount
    )
    {
        var id = await w.Db.One<long>(
            """
            insert into payments (customer_id, received_on, posted_on, method, reference, amount, currency) values (@customer, @on, @posted,
            @method, @reference, @amount, @currency) returning id
            """,
            ("customer", customerId),
            ("on", on),
            ("posted", postedOn),
            ("method", method),
            ("reference", reference),
            ("amount", amount),
            ("currency", amount.Currency)
        );
        return id;
    }

    /// <summary>Stores a payment's applications, each on the day it posts.</summary>
    public static async Task Apply(
        CommandContext w,
        long paymentId,
        IEnumerable<(Application Application, LocalDate On, Money Tax)> applied
    )
    {
        foreach (var (a, on, tax) in applied)
        {
            await w.Db.Run(
                """
                insert into payment_applications (payment_id, invoice_id, posted_on, amount, write_off, tax, kind, reason) values (@payment,
                @invoice, @on, @amount, @go, @tax, @kind, @reason)
                """,
                ("payment", paymentId),
                ("on", on),
                ("kind", a.Kind),
                ("invoice", a.InvoiceId),
                ("amount", a.Amount),
                ("go", a.WriteOff),
                ("tax", tax),
                ("reason", a.Reason)
            );
        }
    }

    public static async Task<List<long>> ReversePayment(CommandContext w, long paymentId)
    {
        var invoices = await w.Db.Rows(
            "update payment_applications set standing = false where payment_id = @id and standing returning invoice_id",
            r => r.Long("invoice_id"),
            ("id", paymentId)
        );
        await w.Db.Run("update payments set reversed_at = @now where id = @id", ("id", paymentId), ("now", w.Now));
        return invoices;
    }

    /// <summary>Invoices a payment is applied to now.</summary>
    public static Task<List<AppliedRow>> AppliedTo(NpgsqlConnection db, long paymentId) =>
        db.Rows(
            """
            select i.id, i.number, i.currency, a.amount from payment_applications a join invoices i on i.id = a.invoice_id where a.payment_id = @id and
            a.standing order by i.number
            """,
            r => new AppliedRow(r.Long("id"), r.Text("number"), r.Money("amount")),
            ("id", paymentId)
        );

    public static async Task<PaymentRow?> Payment(NpgsqlConnection db, long id, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from payments where id = @id for update", ("id", id));
        }

        return await db.Row($"{PaymentSelect} where p.id = @id", ReadPayment, ("id", id));
    }

    public static Task<List<PaymentRow>> Payments(NpgsqlConnection db, long? before, int max) =>
        db.Rows(
            $"{PaymentSelect} where (@before::bigint is null or p.id < @before) order by p.id desc limit @most",
            ReadPayment,
            ("before", before),
            ("most", max)
        );

    private static PaymentRow ReadPayment(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("customer_id"),
            r.Text("customer"),
            r.Date("received_on"),
            r.Text("method"),
            r.TextOrNull("reference"),
            r.Money("amount"),
            r.Money("applied"),
            r.Money("refunded"),
            r.InstantOrNull("reversed_at") is null
                ? r.Money("amount") - r.Money("applied") - r.Money("refunded")
                : Money.Zero(r.Currency()),
            r.InstantOrNull("reversed_at"),
            r.LongOrNull("memo_invoice_id") is { } invoice
                ? new MemoRow(invoice, r.Text("memo_invoice"), r.Enum<CreditReason>("memo_reason"), r.Text("memo_why"))
                : null
        );

    private static InvoiceRow ReadInvoice(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Text("number"),
            r.Long("customer_id"),
            r.Text("customer"),
            r.Date("issued_on"),
            r.Date("due_on"),
            r.Money("total"),
            r.Money("paid"),
            r.Money("total") - r.Money("paid"),
            r.TextOrNull("mailed_to"),
            r.InstantOrNull("mail_sent_at"),
            r.InstantOrNull("voided_at"),
            r.DateOrNull("delivered_on"),
            r.DateOrNull("last_paid_on"),
            r.Null("loads") ? [] : r.Texts("loads"),
            r.TextOrNull("supplement"),
            r.Money("credited"),
            r.Money("total") - r.Money("not_owed"),
            r.Money("tax"),
            r.Bool("is_opening")
        );
}
