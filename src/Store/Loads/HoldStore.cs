using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Loads;

/// <summary>Holds, separate from a load's state.</summary>
public static class HoldStore
{
    public static Task<List<HoldRow>> Of(NpgsqlConnection db, long loadId) =>
        db.Rows(
            "select h.*, u.name as lifter from holds h left join users u on u.id = h.lifted_by where h.load_id = @id order by h.id",
            r => new HoldRow(
                r.Long("id"),
                r.Enum<HoldKind>("kind"),
                r.Text("reason"),
                r.Instant("placed_at"),
                r.InstantOrNull("lifted_at"),
                r.TextOrNull("lifter"),
                r.TextOrNull("lifted_why")
            ),
            ("id", loadId)
        );

    /// <summary>Places a hold, or updates the reason of an existing one of its kind.</summary>
    public static Task Place(CommandContext w, long loadId, HoldKind kind, string reason) =>
        w.Db.Run(
            """
            insert into holds (load_id, kind, reason, placed_at, placed_by) values (@load, @kind, @reason, @now, @by)
            on conflict (load_id, kind) where lifted_at is null do update set reason = excluded.reason
            """,
            ("load", loadId),
            ("kind", kind),
            ("reason", reason),
            ("now", w.Now),
            ("by", w.Actor.UserId)
        );

    /// <param name="passed">Whether a person overrode it, as opposed to its reason being resolved.</param>
    /// <returns>Whether there was one.</returns>
    public static async Task<bool> Release(CommandContext w, long loadId, HoldKind kind, string why, bool passed) =>
        await w.Db.Run(
            """
            update holds set lifted_at = @now, lifted_by = @by, lifted_why = @why where load_id = @load and kind = @kind and lifted_at is
            null
            """,
            ("load", loadId),
            ("kind", kind),
            ("now", w.Now),
            ("by", passed ? w.Actor.UserId : null),
            ("why", why)
        ) > 0;

    /// <summary>Whether someone overrode this load's hold: it is not held again for the same reason.</summary>
    public static Task<bool> WasPassed(NpgsqlConnection db, long loadId, HoldKind kind) =>
        db.One<bool>(
            "select exists (select 1 from holds where load_id = @load and kind = @kind and lifted_by is not null)",
            ("load", loadId),
            ("kind", kind)
        );

    /// <summary>Loads returned to dispatch, oldest first.</summary>
    public static Task<List<(long LoadId, string Number, string Reason, NodaTime.Instant At)>> ReturnedToDispatch(NpgsqlConnection db) =>
        db.Rows(
            """
            select l.id, l.number, h.reason, h.placed_at from holds h join loads l on l.id = h.load_id where h.kind = 'billing' and
            h.lifted_at is null and l.cancelled_at is null order by h.id limit 100
            """,
            r => (r.Long("id"), r.Text("number"), r.Text("reason"), r.Instant("placed_at"))
        );

    /// <summary>A customer's loads on credit hold, oldest first.</summary>
    public static Task<List<long>> CreditHeld(NpgsqlConnection db, long customerId) =>
        db.Rows(
            """
            select l.id from holds h join loads l on l.id = h.load_id where l.payer_id = @customer and h.kind = 'credit' and h.lifted_at
            is null and l.cancelled_at is null order by l.id
            """,
            r => r.Long("id"),
            ("customer", customerId)
        );

    /// <summary>What a customer owes, without one load: open on invoices, and not billed yet.</summary>
    public static async Task<CreditExposure> Exposure(CommandContext w, long customerId, long exceptLoad)
    {
        var db = w.Db;
        // Of two concurrent bookings for one customer, the second sees the first.
        await db.Run("select 1 from companies where id = @id for no key update", ("id", customerId));
        return (
            await db.Row(
                """
                select (select currency from companies where id = @id) as currency, (select coalesce(sum(total - paid), 0) from invoices where customer_id = @id and voided_at is null and paid <
                    total) as owed,
                       (select coalesce(sum(revenue), 0) from loads where payer_id = @id and id <> @except and state in ('booked',
                           'tendered', 'covered', 'rolling', 'delivered')) as unbilled,
                       (select coalesce(greatest(@today - min(due_on), 0), 0) from invoices where customer_id = @id and voided_at is null
                           and paid < total) as oldest
                """,
                r => new CreditExposure(r.Money("owed"), r.Money("unbilled"), r.Int("oldest")),
                ("id", customerId),
                ("except", exceptLoad),
                ("today", w.Today)
            )
        )!;
    }
}
