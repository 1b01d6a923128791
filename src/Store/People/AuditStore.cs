using NodaTime;
using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

/// <summary>One entry of the audit log.</summary>
/// <param name="Before">As JSON; null when nothing changed.</param>
/// <param name="Sealed">Whether it is in the hash chain.</param>
public sealed record AuditRow(
    long Id,
    Instant At,
    string? Who,
    string Via,
    string? Address,
    string Kind,
    string Subject,
    long SubjectId,
    long? LoadId,
    string Summary,
    string? Before,
    string? After,
    bool Sealed
);

/// <summary>Audit log search criteria; null for any.</summary>
/// <param name="Text">In the text or the kind.</param>
/// <param name="Load">A load's number.</param>
/// <param name="BeforeId">Only entries older than this one, for paging.</param>
public sealed record AuditQuery(
    long? UserId,
    string? Text,
    string? Subject,
    long? SubjectId,
    string? Load,
    Instant? From,
    Instant? Until,
    long? BeforeId
);

/// <summary>The state of the audit log's hash chain.</summary>
/// <param name="Entries">Number of chained entries.</param>
/// <param name="Open">Number of entries not chained yet.</param>
/// <param name="Head">The newest hash, in hexadecimal.</param>
/// <param name="Broken">What is wrong, in sentences; empty when all is well.</param>
public sealed record AuditReport(long Entries, long Open, string Head, IReadOnlyList<string> Broken);

/// <summary>The audit log: events, chained by hash.</summary>
public static class AuditStore
{
    public static Task<List<AuditRow>> Search(NpgsqlConnection db, AuditQuery q, int max) =>
        db.Rows(
            """
            select e.id, e.at, u.name as who, e.via, e.address, e.kind, e.subject, e.subject_id, e.load_id, e.summary, e.before::text,
                e.after::text, exists (select 1 from event_chain c where c.event_id = e.id) as sealed
            from events e left join users u on u.id = e.user_id
            where (@user::bigint is null or e.user_id = @user) and (@subject::text is null or e.subject = @subject) and (@id::bigint is null
                or e.subject_id = @id)
              and (@load::text is null or e.load_id = (select l.id from loads l where l.number = @load))
              and (@from::timestamptz is null or e.at >= @from) and (@until::timestamptz is null or e.at < @until) and (@before::bigint is
                  null or e.id < @before)
              and (@text::text is null or e.summary ilike '%' || @text || '%' or e.kind ilike @text || '%')
            order by e.id desc limit @max
            """,
            r => new AuditRow(
                r.Long("id"),
                r.Instant("at"),
                r.TextOrNull("who"),
                r.Text("via"),
                r.TextOrNull("address"),
                r.Text("kind"),
                r.Text("subject"),
                r.Long("subject_id"),
                r.LongOrNull("load_id"),
                r.Text("summary"),
                r.TextOrNull("before"),
                r.TextOrNull("after"),
                r.Bool("sealed")
            ),
            ("user", q.UserId),
            (
                "text",
                q.Text?.Replace("\\", "\\\\", StringComparison.Ordinal)
                    .Replace("%", "\\%", StringComparison.Ordinal)
                    .Replace("_", "\\_", StringComparison.Ordinal)
            ),
            ("subject", q.Subject),
            ("id", q.SubjectId),
            ("load", q.Load),
            ("from", q.From),
            ("until", q.Until),
            ("before", q.BeforeId),
            ("max", max)
        );

    /// <summary>Chains entries committed since.</summary>
    /// <returns>Number of entries chained.</returns>
    /// <param name="back">How many keys before the last chained event to look for events of transactions that committed later.</param>
    public static Task<int> Seal(NpgsqlConnection db, int max = 5000, long back = WholeWindow) =>
        db.One<int>("select seal_events(@max, @back)", ("max", max), ("back", back));

    /// <summary>As far back as an event can appear: no transaction that records events lasts while others record so many.</summary>
    public const long WholeWindow = 100_000;

    /// <summary>Verifies the whole chain.</summary>
    /// <param name="knownHead">A head recorded earlier that must be in the chain; null for none.</param>
    public static async Task<AuditReport> Verify(NpgsqlConnection db, string? knownHead = null)
    {
        var broken = new List<string>();
        long entries = 0;
        var head = System.Security.Cryptography.SHA256.HashData([]);
        var seenKnown = knownHead is null;
        await using var tx = await db.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);
        for (long from = 0; ; )
        {
            // Each hash is recomputed from the stored one before it: a changed entry breaks two links.
            var rows = await db.Rows(
                """
                select c.n, c.event_id, c.hash, lag(c.hash) over (order by c.n) as previous, e.id is not null as there,
                    event_digest(coalesce(lag(c.hash) over (order by c.n), @head), e) as computed
                from event_chain c left join events e on e.id = c.event_id where c.n > @from and c.n <= @from + 20000 order by c.n
                """,
                r =>
                    (
                        N: r.Long("n"),
                        EventId: r.Long("event_id"),
                        Hash: r.GetFieldValue<byte[]>(2),
                        There: r.Bool("there"),
                        Computed: r.GetFieldValue<byte[]>(5)
                    ),
                ("from", from),
                ("head", head)
            );
            if (rows.Count == 0)
            {
                break;
            }

            foreach (var row in rows)
            {
                if (row.N != entries + 1 && broken.Count < 20)
                {
                    broken.Add($"Entries {entries + 1} to {row.N - 1} of the chain are missing.");
                }

                entries = row.N;
                if ((!row.There || !row.Hash.AsSpan().SequenceEqual(row.Computed)) && broken.Count < 20)
                {
                    broken.Add(
                        row.There
                            ? $"Event {row.EventId} (entry {row.N}) was changed after it was recorded."
                            : $"Event {row.EventId} (entry {row.N}) is missing."
                    );
                }

                seenKnown |=
                    knownHead is not null
                    && string.Equals(Convert.ToHexStringLower(row.Hash), knownHead.Trim(), StringComparison.OrdinalIgnoreCase);
            }

            head = rows[^1].Hash;
            from = rows[^1].N;
        }

        var open = await db.One<long>(
            "select count(*) from events e where not exists (select 1 from event_chain c where c.event_id = e.id)"
        );
        var late = await db.One<long>(
            """
            select count(*) from events e where e.id < coalesce((select max(event_id) from event_chain), 0) - 100000 and not exists (select
            1 from event_chain c where c.event_id = e.id)
            """
        );
        if (late > 0)
        {
            broken.Add($"{late} events are not in the chain, though later ones are.");
        }

        if (!seenKnown)
        {
            broken.Add("The head that was given is not in the chain: it was made anew since.");
        }

        return new AuditReport(entries, open, Convert.ToHexStringLower(head), broken);
    }
}
