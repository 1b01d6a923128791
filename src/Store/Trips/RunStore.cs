using NodaTime;
using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Trips;

public enum RunState
{
    /// <summary>A server is planning it.</summary>
    Planning,
    Ready,
    Failed,
}

/// <param name="Ask">JSON, as is <paramref name="Plan"/>.</param>
/// <param name="Progress">Share of the time used, 0 to 1.</param>
/// <param name="Summary">A note about it, such as why it failed.</param>
public sealed record RunRow(
    long Id,
    string Name,
    string Ask,
    string? Plan,
    RunState State,
    float Progress,
    double? Cost,
    string? Summary,
    string MadeBy,
    Instant MadeAt,
    Instant ChangedAt,
    int Version
);

/// <summary>A plan in a list.</summary>
public sealed record RunHead(long Id, string Name, RunState State, string MadeBy, Instant ChangedAt);

public static class RunStore
{
    public static Task<List<RunHead>> Newest(NpgsqlConnection db, int max) =>
        db.Rows(
            "select id, name, state, created_by, changed_at from run_plans order by changed_at desc limit @most",
            r => new RunHead(r.Long("id"), r.Text("name"), r.Enum<RunState>("state"), r.Text("created_by"), r.Instant("changed_at")),
            ("most", max)
        );

    public static Task<RunRow?> Get(NpgsqlConnection db, long id, bool locked = false) =>
        db.Row(
            $"select *, ask::text as ask_text, plan::text as plan_text from run_plans where id = @id{(locked ? " for update" : "")}",
            Read,
            ("id", id)
        );

    public static Task<long> Add(CommandContext w, string name, string ask) =>
        w.Db.One<long>(
            """
            insert into run_plans (name, ask, state, created_by, created_at, changed_at) values (@name, @ask::jsonb, 'planning', @by, @now,
            @now) returning id
            """,
            ("name", name),
            ("ask", ask),
            ("by", w.Actor.Name),
            ("now", w.Now)
        );

    /// <summary>Replaces the request and restarts planning.</summary>
    public static Task Replan(CommandContext w, long id, string ask) =>
        w.Db.Run(
            """
            update run_plans set ask = @ask::jsonb, state = 'planning', progress = 0, cost = null, cancel_asked = false, summary = null,
            changed_at = @now, version = version + 1 where id = @id
            """,
            ("id", id),
            ("ask", ask),
            ("now", w.Now)
        );

    /// <summary>Stores a manual change.</summary>
    public static Task Change(CommandContext w, long id, string ask, string plan) =>
        w.Db.Run(
            "update run_plans set ask = @ask::jsonb, plan = @plan::jsonb, changed_at = @now, version = version + 1 where id = @id",
            ("id", id),
            ("ask", ask),
            ("plan", plan),
            ("now", w.Now)
        );

    /// <summary>Updates the progress of planning.</summary>
    /// <returns>Whether planning was canceled.</returns>
    public static Task<bool> Told(NpgsqlConnection db, long id, double progress, double cost, Instant now) =>
        db.One<bool>(
            """
            update run_plans set progress = @progress, cost = @cost, changed_at = @now where id = @id and state = 'planning' returning
            cancel_asked
            """,
            ("id", id),
            ("progress", (float)progress),
            ("cost", cost),
            ("now", now)
        );

    public static Task Cancel(NpgsqlConnection db, long id) =>
        db.Run("update run_plans set cancel_asked = true where id = @id and state = 'planning'", ("id", id));

    public static Task Done(NpgsqlConnection db, long id, string? plan, string? summary, Instant now) =>
        db.Run(
            """
            update run_plans set plan = coalesce(@plan::jsonb, plan), state = case when @plan::jsonb is null then 'failed' else 'ready' end,
            progress = 1, summary = @summary, changed_at = @now, version = version + 1 where id = @id and state = 'planning'
            """,
            ("id", id),
            ("plan", plan),
            ("summary", summary),
            ("now", now)
        );

    private static RunRow Read(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Text("name"),
            r.Text("ask_text"),
            r.TextOrNull("plan_text"),
            r.Enum<RunState>("state"),
            r.GetFloat(r.GetOrdinal("progress")),
            r.Null("cost") ? null : r.Double("cost"),
            r.TextOrNull("summary"),
            r.Text("created_by"),
            r.Instant("created_at"),
            r.Instant("changed_at"),
            r.Int("version")
        );
}
