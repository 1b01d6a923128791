using NodaTime;
using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Billing;

/// <summary>One invoice of a billing run.</summary>
/// <param name="Failed">Why it failed, in plain words.</param>
public sealed record RunPart(
    int Seq,
    long CustomerId,
    string Customer,
    IReadOnlyList<string> Loads,
    IReadOnlyList<long> LoadIds,
    bool Done,
    long? InvoiceId,
    string? Invoice,
    Core.Basics.Money? Total,
    string? Failed
);

/// <summary>A billing run with its progress.</summary>
public sealed record RunView(long Id, Instant At, string By, int Parts, int Done, int Failed, IReadOnlyList<RunPart> All);

/// <summary>A part claimed by a server.</summary>
public sealed record RunJob(long RunId, int Seq, long UserId, string UserName, IReadOnlyList<long> LoadIds);

public static class BillingRunStore
{
    public static async Task<long> Add(CommandContext w, IReadOnlyList<(long CustomerId, IReadOnlyList<long> LoadIds)> parts)
    {
        var id = await w.Db.One<long>(
            "insert into billing_runs (at, by_user) values (@now, @by) returning id",
            ("now", w.Now),
            ("by", w.Actor.UserId)
        );
        for (var i = 0; i < parts.Count; i++)
        {
            await w.Db.Run(
                "insert into billing_run_parts (run_id, seq, customer_id, load_ids) values (@run, @seq, @customer, @loads)",
                ("run", id),
                ("seq", i + 1),
                ("customer", parts[i].CustomerId),
                ("loads", parts[i].LoadIds.ToArray())
            );
        }

        return id;
    }

    /// <summary>The next waiting part, locked so that no other server takes it; null when none is waiting.</summary>
    public static Task<RunJob?> Next(CommandContext w) =>
        w.Db.Row(
            """
            select p.run_id, p.seq, p.load_ids, r.by_user, u.name from billing_run_parts p join billing_runs r on r.id = p.run_id join users
                u on u.id = r.by_user
            where p.done_at is null order by p.run_id, p.seq limit 1 for update of p skip locked
            """,
            r => new RunJob(
                r.Long("run_id"),
                r.Int("seq"),
                r.Long("by_user"),
                r.Text("name"),
                r.GetFieldValue<long[]>(r.GetOrdinal("load_ids"))
            )
        );

    public static Task Done(CommandContext w, RunJob job, long? invoiceId, string? failed) =>
        w.Db.Run(
            "update billing_run_parts set done_at = @now, invoice_id = @invoice, failed = @failed where run_id = @run and seq = @seq",
            ("run", job.RunId),
            ("seq", job.Seq),
            ("now", w.Now),
            ("invoice", invoiceId),
            ("failed", failed)
        );

    public static async Task<RunView?> Get(NpgsqlConnection db, long id)
    {
        var parts = await db.Rows(
            """
            select p.*, c.name as customer, i.number, i.total, (select array_agg(l.number order by l.number) from loads l where l.id =
                any(p.load_ids)) as loads
            from billing_run_parts p join companies c on c.id = p.customer_id left join invoices i on i.id = p.invoice_id where p.run_id =
                @id order by p.seq
            """,
            r => new RunPart(
                r.Int("seq"),
                r.Long("customer_id"),
                r.Text("customer"),
                r.Texts("loads"),
                r.GetFieldValue<long[]>(r.GetOrdinal("load_ids")),
                !r.Null("done_at"),
                r.LongOrNull("invoice_id"),
                r.TextOrNull("number"),
                r.UsdOrNull("total"),
                r.TextOrNull("failed")
            ),
            ("id", id)
        );
        return await db.Row(
            "select r.*, u.name from billing_runs r join users u on u.id = r.by_user where r.id = @id",
            r => new RunView(
                r.Long("id"),
                r.Instant("at"),
                r.Text("name"),
                parts.Count,
                parts.Count(p => p.Done),
                parts.Count(p => p.Failed is not null),
                parts
            ),
            ("id", id)
        );
    }

    /// <summary>Whether a load is waiting in a run.</summary>
    public static Task<List<long>> Waiting(NpgsqlConnection db) =>
        db.Rows("select unnest(load_ids) as id from billing_run_parts where done_at is null", r => r.Long("id"));
}
