using NodaTime;
using Npgsql;
using SteadyLark.Core.Documents;

namespace SteadyLark.Store.Basics;

public sealed record MailRow(
    long Id,
    string Direction,
    string From,
    string To,
    string Subject,
    long? LoadId,
    string? LoadNumber,
    Instant WrittenAt,
    Instant? SendAfter,
    Instant? SentAt,
    Instant? HeldBackAt,
    int Attempts,
    string? LastError,
    Instant? DoneAt,
    string? QuarantinedWhy = null,
    MailPurpose Purpose = MailPurpose.Other
);

/// <summary>The email outbox and inbox.</summary>
public static class MailStore
{
    private const string Select = """
        select m.id, m.direction, m.from_address, m.to_address, m.subject, m.load_id, m.written_at, m.send_after, m.sent_at, m.held_back_at,
        m.attempts, m.last_error, m.done_at, m.quarantined_why, m.purpose, l.number as load_number from emails m left join loads l on l.id =
        m.load_id
        """;

    /// <summary>Adds an email to the outbox. It is sent after <paramref name="hold"/>, and can be held back until then.</summary>
    /// <param name="awaitsTender">The tender whose document must be drawn first, or null.</param>
    public static Task<long> Out(
        CommandContext w,
        MailPurpose purpose,
        string from,
        string to,
        string subject,
        string messageId,
        byte[] eml,
        long? loadId,
        Duration hold,
        long? awaitsTender = null
    ) =>
        w.Db.One<long>(
            """
            insert into emails (direction, from_address, to_address, subject, eml, message_id, load_id, written_at, send_after, purpose,
                awaits_tender_id, tender_id)
            values ('out', @from, @to, @subject, @eml, @mid, @load, @now, @after, @purpose, @tender, @tender) returning id
            """,
            ("from", from),
            ("to", to),
            ("subject", subject),
            ("eml", eml),
            ("mid", messageId),
            ("load", loadId),
            ("now", w.Now),
            ("after", w.Now + hold),
            ("purpose", purpose),
            ("tender", awaitsTender)
        );

    /// <summary>Stores an incoming email, once. It is identified by its content: its own headers cannot hide another.</summary>
    /// <param name="quarantined">Why it could not be read, or null.</param>
    /// <returns>Its key, or null when it is already stored.</returns>
    public static async Task<long?> In(
        CommandContext w,
        string from,
        string to,
        string subject,
        string messageId,
        byte[] eml,
        long? loadId,
        string? quarantined = null
    )
    {
        var id = await w.Db.One<long>(
            """
            insert into emails (direction, from_address, to_address, subject, eml, message_id, load_id, written_at, content_hash,
                quarantined_why)
            values ('in', @from, @to, @subject, @eml, @mid, @load, @now, sha256(@eml), @why) on conflict (content_hash) where direction =
                'in' do nothing returning id
            """,
            ("from", from),
            ("to", to),
            ("subject", subject),
            ("eml", eml),
            ("mid", messageId),
            ("load", loadId),
            ("now", w.Now),
            ("why", quarantined)
        );
        return id == 0 ? null : id;
    }

    /// <summary>Holds back an email that was not sent yet.</summary>
    public static async Task<bool> HoldBack(CommandContext w, long mailId) =>
        await w.Db.Run(
            """
            update emails set held_back_at = @now where id = @id and direction = 'out' and sent_at is null and held_back_at is null and
            claimed_until is null
            """,
            ("id", mailId),
            ("now", w.Now)
        ) == 1;

    /// <summary>Holds back a leg's unsent rate confirmations.</summary>
    public static Task<int> HoldBackOfLeg(CommandContext w, long legId) =>
        w.Db.Run(
            """
            update emails set held_back_at = @now where tender_id in (select id from tenders where leg_id = @leg) and sent_at is null
            and held_back_at is null and claimed_until is null
            """,
            ("leg", legId),
            ("now", w.Now)
        );

    /// <summary>Whether a leg's latest rate confirmation was sent.</summary>
    public static Task<bool> SentOfLeg(NpgsqlConnection db, long legId) =>
        db.One<bool>(
            """
            select coalesce((select sent_at is not null from emails where tender_id in (select id from tenders where leg_id = @leg)
            and held_back_at is null order by id desc limit 1), false)
            """,
            ("leg", legId)
        );

    /// <summary>
    /// Claims the next email to send, so that no other server sends it too; null when none is waiting. Claims expire: an email whose
    /// server was lost while sending is sent again.
    /// </summary>
    public static async Task<(long Id, byte[] Eml, int Attempts)?> Claim(CommandContext w)
    {
        var row = await w.Db.Row(
            """
            update emails set claimed_until = @until where id = (
                select id from emails where direction = 'out' and sent_at is null and held_back_at is null and awaits_tender_id is null and
                    send_after <= @now and (claimed_until is null or claimed_until < @now)
                order by send_after limit 1 for update skip locked)
            returning id, eml, attempts
            """,
            r => new
            {
                Id = r.Long("id"),
                Eml = r.GetFieldValue<byte[]>(1),
                Attempts = r.Int("attempts"),
            },
            ("now", w.Now),
            ("until", w.Now + Duration.FromMinutes(5))
        );
        return row is null ? null : (row.Id, row.Eml, row.Attempts);
    }

    /// <summary>The next email that awaits its document; null when none does.</summary>
    public static async Task<(long MailId, long LoadId, long TenderId)?> NextAwaiting(NpgsqlConnection db)
    {
        var row = await db.Row(
            """
            select id, load_id, awaits_tender_id from emails where awaits_tender_id is not null and held_back_at is null order by id limit 1
            """,
            r => Tuple.Create(r.Long("id"), r.Long("load_id"), r.Long("awaits_tender_id"))
        );
        return row is null ? null : (row.Item1, row.Item2, row.Item3);
    }

    /// <summary>An email that still awaits its document, locked; null when it no longer does.</summary>
    public static Task<byte[]?> Awaiting(CommandContext w, long id) =>
        w.Db.One<byte[]>(
            "select eml from emails where id = @id and awaits_tender_id is not null and held_back_at is null for update",
            ("id", id)
        );

    /// <summary>Gives an email its document: it can be sent.</summary>
    public static Task Complete(CommandContext w, long id, byte[] eml) =>
        w.Db.Run("update emails set eml = @eml, awaits_tender_id = null where id = @id", ("id", id), ("eml", eml));

    /// <summary>Loads with one of these numbers, and the email addresses known for each.</summary>
    public static Task<List<EmailLoad>> LoadsNamed(NpgsqlConnection db, IReadOnlyList<string> numbers) =>
        db.Rows(
            """
            select l.id, l.number, l.state in ('billed', 'closed', 'cancelled') as closed,
                   array_remove(array[c.email] || array(select k.email from legs g join companies k on k.id = g.carrier_id where g.load_id =
                       l.id)
                       || array(select d.email from legs g join trip_crew t on t.trip_id = g.trip_id join drivers d on d.id = t.driver_id where
                           g.load_id = l.id), null) as addresses
            from loads l left join companies c on c.id = l.customer_id where lower(l.number) = any(@numbers)
            """,
            r => new EmailLoad(r.Long("id"), r.Text("number"), r.Bool("closed"), r.GetFieldValue<string[]>(3)),
            ("numbers", numbers.Select(n => n.ToLowerInvariant()).ToArray())
        );

    public static Task Sent(CommandContext w, long id) =>
        w.Db.Run(
            "update emails set sent_at = @now, attempts = attempts + 1, last_error = null, claimed_until = null where id = @id",
            ("id", id),
            ("now", w.Now)
        );

    /// <summary>Sending failed: retried with doubling delays, up to an hour.</summary>
    public static Task Failed(CommandContext w, long id, string error, int attempts) =>
        w.Db.Run(
            "update emails set attempts = attempts + 1, last_error = @error, send_after = @after, claimed_until = null where id = @id",
            ("id", id),
            ("error", error),
            ("after", w.Now + Duration.FromSeconds(Math.Min(3600, 15 * Math.Pow(2, Math.Min(attempts, 10)))))
        );

    public static Task<List<MailRow>> OfLoad(NpgsqlConnection db, long loadId) =>
        db.Rows($"{Select} where m.load_id = @load order by m.id desc", Read, ("load", loadId));

    public static Task<List<MailRow>> InOpen(NpgsqlConnection db) =>
        db.Rows($"{Select} where m.direction = 'in' and m.done_at is null order by m.id limit 100", Read);

    public static Task<MailRow?> Get(NpgsqlConnection db, long id) => db.Row($"{Select} where m.id = @id", Read, ("id", id));

    /// <summary>The purpose of emails we sent.</summary>
    public static Task<List<(long Id, MailPurpose Purpose)>> Purposes(NpgsqlConnection db, IEnumerable<long> ids) =>
        db.Rows(
            "select id, purpose from emails where id = any(@ids) and direction = 'out'",
            r => (r.Long("id"), r.Enum<MailPurpose>("purpose")),
            ("ids", ids.ToArray())
        );

    public static Task<byte[]?> Eml(NpgsqlConnection db, long id) => db.One<byte[]>("select eml from emails where id = @id", ("id", id));

    public static Task<int> Done(CommandContext w, long id) =>
        w.Db.Run("update emails set done_at = @now where id = @id and direction = 'in' and done_at is null", ("id", id), ("now", w.Now));

    private static MailRow Read(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Text("direction"),
            r.Text("from_address"),
            r.Text("to_address"),
            r.Text("subject"),
            r.LongOrNull("load_id"),
            r.TextOrNull("load_number"),
            r.Instant("written_at"),
            r.InstantOrNull("send_after"),
            r.InstantOrNull("sent_at"),
            r.InstantOrNull("held_back_at"),
            r.Int("attempts"),
            r.TextOrNull("last_error"),
            r.InstantOrNull("done_at"),
            r.TextOrNull("quarantined_why"),
            r.Enum<MailPurpose>("purpose")
        );
}
