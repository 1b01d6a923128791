using System.Text.Json;
using NodaTime;
using Npgsql;
using SteadyLark.Core.People;

namespace SteadyLark.Store.Basics;

/// <summary>An event, as shown and as sent to open pages.</summary>
/// <param name="Cursor">Position in commit order; a page that reconnects asks for what came after it.</param>
/// <param name="Summary">In plain words.</param>
public sealed record EventRow(
    string Cursor,
    long Id,
    Instant At,
    string? Who,
    string Via,
    string Kind,
    string Subject,
    long SubjectId,
    long? LoadId,
    long? DriverId,
    [property: System.Text.Json.Serialization.JsonIgnore] long? CodriverId,
    string Summary
)
{
    /// <summary>What it can change on pages.</summary>
    public IReadOnlyList<Topic> Topics => EventKinds.Of(Kind).Topics;
}

/// <summary>An event of a running command.</summary>
internal sealed record RecordedEvent(
    Instant At,
    Actor By,
    EventKind Kind,
    string Subject,
    long SubjectId,
    string Summary,
    long? LoadId,
    long? DriverId,
    object? Before,
    object? After
);

/// <summary>What happened since a snapshot.</summary>
/// <param name="Snapshot">The newest snapshot.</param>
/// <param name="Events">Their kinds and loads, in no order; null when there are too many to follow.</param>
public sealed record Changes(string Snapshot, IReadOnlyList<(EventKind Kind, long? LoadId)>? Events);

/// <summary>A position in commit order.</summary>
public readonly record struct EventCursor(ulong Xid, long Id)
{
    /// <summary>Whether it comes after another.</summary>
    public bool IsAfter(EventCursor other) => (Xid, Id).CompareTo((other.Xid, other.Id)) > 0;

    public override string ToString() => $"{Xid}-{Id}";

    public static EventCursor? Parse(string? text)
    {
        var parts = (text ?? "").Split('-');
        return parts.Length == 2 && ulong.TryParse(parts[0], out var xid) && long.TryParse(parts[1], out var id)
            ? new EventCursor(xid, id)
            : null;
    }
}

public static class Events
{
    private const string Columns =
        "e.xid::text || '-' || e.id as cursor, e.id, e.at, u.name as who, e.via, e.kind, e.subject, e.subject_id, e.load_id, e.driver_id, e.codriver_id, e.summary";

    /// <summary>Writes recorded events in their order, in one statement.</summary>
    internal static async Task Write(NpgsqlConnection db, IReadOnlyList<RecordedEvent> events)
    {
        if (events.Count == 0)
        {
            return;
        }

        await db.Run(
            """
            insert into events (at, user_id, via, kind, subject, subject_id, load_id, driver_id, codriver_id, summary, before, after, address)
            select at, user_id, via, kind, subject, subject_id, load_id, driver_id, case when team and driver_id is not null then (
                select t.codriver_id from legs g join trips t on t.id = g.trip_id where g.load_id = e.load_id and t.driver_id = e.driver_id
                    and t.codriver_id is not null limit 1) end, summary, before::jsonb, after::jsonb, address
            from unnest(@at::timestamptz[], @user::bigint[], @via::text[], @kind::text[], @subject::text[], @id::bigint[], @load::bigint[],
                @driver::bigint[], @team::boolean[],
                @summary::text[], @before::text[], @after::text[], @address::text[]) with ordinality
                as e (at, user_id, via, kind, subject, subject_id, load_id, driver_id, team, summary, before, after, address, place)
            order by place
            """,
            ("at", Each(e => e.At)),
            ("user", Each(e => e.By.UserId)),
            ("via", Each(e => EnumCodec.Of(e.By.Via))),
            ("kind", Each(e => e.Kind.Name)),
            ("subject", Each(e => e.Subject)),
            ("id", Each(e => e.SubjectId)),
            ("load", Each(e => e.LoadId)),
            ("driver", Each(e => e.DriverId)),
            ("team", Each(e => e.Kind.ForTeam)),
            ("summary", Each(e => e.Summary)),
            ("before", Each(e => Stored(e.Before))),
            ("after", Each(e => Stored(e.After))),
            ("address", Each(e => e.By.Address))
        );

        T[] Each<T>(Func<RecordedEvent, T> value) => events.Select(value).ToArray();

        static string? Stored(object? value) => value is null ? null : JsonSerializer.Serialize(value, StoredJson.Options);
    }

    /// <summary>The database's snapshot: which transactions are visible.</summary>
    public static async Task<string> Snapshot(NpgsqlConnection db) => (await db.One<string>("select pg_current_snapshot()::text"))!;

    /// <summary>More events than this are not worth following one by one.</summary>
    private const int MaxChanges = 500;

    /// <summary>What became visible since a snapshot, and a snapshot to ask from next time. What commits between the two may be reported
    /// twice, never missed.</summary>
    public static async Task<Changes> Since(NpgsqlConnection db, string snapshot)
    {
        var now = "";
        var events = new List<(EventKind, long?)>();
        await db.Together(
            [("seen", snapshot), ("most", MaxChanges + 1)],
            ("select pg_current_snapshot()::text as snapshot", r => now = r.Text("snapshot")),
            (
                """
                select kind, load_id from events
                where xid >= pg_snapshot_xmin(@seen::pg_snapshot) and not pg_visible_in_snapshot(xid, @seen::pg_snapshot)
                order by xid, id limit @most
                """,
                r => events.Add((EventKinds.Of(r.Text("kind")), r.LongOrNull("load_id")))
            )
        );
        return new Changes(now, events.Count > MaxChanges ? null : events);
    }

    /// <summary>Has the connection notified of every event that is committed.</summary>
    public static Task Listen(NpgsqlConnection db) => db.Run("listen lark_events");

    /// <summary>Events after a position, as far as settled: up to the oldest transaction still running.</summary>
    public static Task<List<EventRow>> After(NpgsqlConnection db, EventCursor after, int max, long? driverId = null) =>
        db.Rows(
            $"""
            select {Columns} from events e left join users u on u.id = e.user_id
            where (e.xid, e.id) > (@xid::text::xid8, @id) and e.xid < pg_snapshot_xmin(pg_current_snapshot()) and (@driver::bigint is null
                or @driver in (e.driver_id, e.codriver_id))
            order by e.xid, e.id limit @most
            """,
            Read,
            ("xid", after.Xid.ToString()),
            ("id", after.Id),
            ("most", max),
            ("driver", driverId)
        );

    /// <summary>The newest settled position.</summary>
    public static async Task<EventCursor> Newest(NpgsqlConnection db) =>
        EventCursor.Parse(
            await db.One<string>(
                """
                select xid::text || '-' || id from events where xid < pg_snapshot_xmin(pg_current_snapshot()) order by xid desc, id desc
                limit 1
                """
            )
        ) ?? new EventCursor(0, 0);

    /// <summary>Whether a transaction that wrote events is still running.</summary>
    public static Task<bool> Unsettled(NpgsqlConnection db, EventCursor after) =>
        // In order, so that the prepared plan reads the end of the index, not the table from its beginning.
        db.One<bool>(
            "select coalesce((select true from events where (xid, id) > (@xid::text::xid8, @id) order by xid, id limit 1), false)",
            ("xid", after.Xid.ToString()),
            ("id", after.Id)
        );

    public static Task<List<EventRow>> OfLoad(NpgsqlConnection db, long loadId, int max = 200) =>
        db.Rows(
            $"select {Columns} from events e left join users u on u.id = e.user_id where e.load_id = @load order by e.id desc limit @most",
            Read,
            ("load", loadId),
            ("most", max)
        );

    /// <summary>The history of several loads together, newest first; what is said of each of them at once appears once.</summary>
    public static Task<List<EventRow>> OfLoads(NpgsqlConnection db, IEnumerable<long> loadIds, int max = 200) =>
        db.Rows(
            $"""
            select * from (
                select distinct on (e.at, e.summary) {Columns} from events e left join users u on u.id = e.user_id
                where e.load_id = any(@loads) order by e.at, e.summary, e.id) x
            order by id desc limit @most
            """,
            Read,
            ("loads", loadIds.ToArray()),
            ("most", max)
        );

    /// <summary>The history of one record, newest first.</summary>
    public static Task<List<EventRow>> Of(NpgsqlConnection db, string subject, long subjectId, int max = 100) =>
        db.Rows(
            $"""
            select distinct on (e.at, e.summary) {Columns} from events e left join users u on u.id = e.user_id where e.subject = @subject
            and e.subject_id = @id order by e.at desc, e.summary, e.id limit @most
            """,
            Read,
            ("subject", subject),
            ("id", subjectId),
            ("most", max)
        );

    private static EventRow Read(NpgsqlDataReader r) =>
        new(
            r.Text("cursor"),
            r.Long("id"),
            r.Instant("at"),
            r.TextOrNull("who"),
            r.Text("via"),
            r.Text("kind"),
            r.Text("subject"),
            r.Long("subject_id"),
            r.LongOrNull("load_id"),
            r.LongOrNull("driver_id"),
            r.LongOrNull("codriver_id"),
            r.Text("summary")
        );
}

/// <summary>How before and after are stored in events.</summary>
public static class StoredJson
{
    public static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web);
}
