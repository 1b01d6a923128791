using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Paying;

/// <summary>Money that one person paid out, which another has not confirmed yet.</summary>
/// <param name="Payee">The vendor, or the driver of an advance.</param>
/// <param name="Mine">Whether the reader entered it, and so does not confirm it.</param>
public sealed record SolePaymentRow(
    SolePaymentKind Kind,
    long Id,
    LocalDate On,
    string Payee,
    string? What,
    [property: SeenWith(Right.PayingSee)] Money Amount,
    string EnteredBy,
    bool Mine
);

/// <summary>Expenses entered as already paid, and advances, until a second person confirms them.</summary>
public static class SolePaymentStore
{
    private const string Open = """
        select 'expense' as kind, b.id, b.paid_on as on_day, c.name as payee, b.number as what, b.amount, b.currency, u.name as entered_by, u.id as
            user_id from bills b join companies c on c.id = b.vendor_id join users u on u.id = b.paid_by
        where b.is_expense and b.confirmed_at is null and b.voided_at is null
        union all
        select 'advance', a.id, a.issued_on, d.name, a.note, a.amount, 'USD', u.name, u.id from advances a join drivers d on d.id = a.driver_id
            join users u on u.id = a.entered_by
        where a.confirmed_at is null and a.standing
        """;

    /// <summary>The oldest first.</summary>
    public static Task<List<SolePaymentRow>> All(NpgsqlConnection db, long? reader) =>
        db.Rows($"select * from ({Open}) x order by on_day, kind, id limit 500", r => new SolePaymentRow(
            r.Enum<SolePaymentKind>("kind"),
            r.Long("id"),
            r.Date("on_day"),
            r.Text("payee"),
            r.TextOrNull("what"),
            r.Money("amount"),
            r.Text("entered_by"),
            r.Long("user_id") == reader
        ));

    public static Task<int> Count(NpgsqlConnection db) => db.One<int>($"select count(*)::int from ({Open}) x");

    /// <summary>Who paid it and whether it is confirmed, locked; null when there is none.</summary>
    public static Task<SolePayment?> Get(NpgsqlConnection db, SolePaymentKind kind, long id) =>
        kind == SolePaymentKind.Expense
            ? db.Row(
                """
                select b.id as subject, c.name || ', ' || b.number as what, b.paid_by, b.confirmed_at, b.voided_at is null as stands from bills b join companies c
                on c.id = b.vendor_id where b.id = @id and b.is_expense for update of b
                """,
                Read,
                ("id", id)
            )
            : db.Row(
                """
                select d.id as subject, d.name as what, a.entered_by as paid_by, a.confirmed_at, a.standing as stands from advances a join drivers d on
                d.id = a.driver_id where a.id = @id and a.carried_from is null for update of a
                """,
                Read,
                ("id", id)
            );

    public static Task Confirm(CommandContext w, SolePaymentKind kind, long id) =>
        w.Db.Run(
            kind == SolePaymentKind.Expense
                ? "update bills set confirmed_by = @by, confirmed_at = @now where id = @id"
                : "update advances set confirmed_by = @by, confirmed_at = @now where id = @id",
            ("id", id),
            ("by", w.Actor.UserId),
            ("now", w.Now)
        );

    private static SolePayment Read(NpgsqlDataReader r) =>
        new(r.Long("subject"), r.Text("what"), r.LongOrNull("paid_by"), !r.Null("confirmed_at"), r.Bool("stands"));
}
