using Npgsql;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Loads;

/// <summary>Exceptions and notes reported for loads.</summary>
public static class ReportStore
{
    private const string Select = "select r.*, u.name as who from reports r left join users u on u.id = r.by_user";

    public static Task<List<ReportRow>> Of(NpgsqlConnection db, long loadId) =>
        db.Rows($"{Select} where r.load_id = @load and r.undone_at is null order by r.id desc", Read, ("load", loadId));

    public static Task<ReportRow?> Get(NpgsqlConnection db, long loadId, long id) =>
        db.Row($"{Select} where r.id = @id and r.load_id = @load and r.undone_at is null", Read, ("id", id), ("load", loadId));

    public static async Task<long> Add(CommandContext w, long loadId, Report r)
    {
        if (r.Kind == ReportKind.Refused)
        {
            await w.Db.Run("update stops set refused_at = @now where id = @id", ("id", r.StopId), ("now", w.Now));
        }

        return await w.Db.One<long>(
            """
            insert into reports (load_id, stop_id, kind, note, expected_at, pieces, at, by_user, via)
            values (@load, @stop, @kind, @note, @expected, @pieces, @now, @by, @via) returning id
            """,
            ("load", loadId),
            ("stop", r.StopId),
            ("kind", r.Kind),
            ("note", r.Note),
            ("expected", r.ExpectedAt),
            ("pieces", r.Pieces),
            ("now", w.Now),
            ("by", w.Actor.UserId),
            ("via", w.Actor.Via)
        );
    }

    public static async Task Undo(CommandContext w, ReportRow r)
    {
        await w.Db.Run("update reports set undone_at = @now where id = @id", ("id", r.Id), ("now", w.Now));
        if (r.Kind == ReportKind.Refused)
        {
            await w.Db.Run("update stops set refused_at = null where id = @id and left_at is null", ("id", r.StopId));
        }
    }

    private static ReportRow Read(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.LongOrNull("stop_id"),
            r.Enum<ReportKind>("kind"),
            r.Text("note"),
            r.InstantOrNull("expected_at"),
            r.IntOrNull("pieces"),
            r.Instant("at"),
            r.TextOrNull("who")
        );
}
