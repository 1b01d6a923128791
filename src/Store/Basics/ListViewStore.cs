using System.Text.Json.Nodes;
using Npgsql;

namespace SteadyLark.Store.Basics;

/// <summary>A saved view of a list: the asking user's own, or one that another user shares.</summary>
/// <param name="Own">Whether it is the asking user's.</param>
/// <param name="By">Who saved it.</param>
public sealed record SavedView(long Id, string Name, bool Shared, bool Own, string By, JsonObject Definition);

/// <summary>Saved views of lists.</summary>
public static class ListViewStore
{
    /// <summary>A user's views of a list, and those others share; one's own first.</summary>
    public static Task<List<SavedView>> All(NpgsqlConnection db, long user, string list) =>
        db.Rows(
            """
            select v.*, v.user_id = @user as own, u.name as by_name from list_views v join users u on u.id = v.user_id
            where v.list = @list and (v.user_id = @user or v.shared) order by v.user_id <> @user, lower(v.name), v.id
            """,
            r => new SavedView(
                r.Long("id"),
                r.Text("name"),
                r.Bool("shared"),
                r.Bool("own"),
                r.Text("by_name"),
                JsonNode.Parse(r.Text("definition"))!.AsObject()
            ),
            ("user", user),
            ("list", list)
        );

    /// <summary>Saves a view under a name, replacing the user's own of the same name.</summary>
    public static Task<long> Save(CommandContext w, string list, string name, bool shared, JsonObject definition) =>
        w.Db.One<long>(
            """
            insert into list_views (user_id, list, name, shared, definition, saved_at) values (@user, @list, @name, @shared, @definition::jsonb, @now)
            on conflict (user_id, list, lower(name))
            do update set name = excluded.name, shared = excluded.shared, definition = excluded.definition, saved_at = excluded.saved_at
            returning id
            """,
            ("user", w.Actor.UserId),
            ("list", list),
            ("name", name),
            ("shared", shared),
            ("definition", definition.ToJsonString()),
            ("now", w.Now)
        );

    /// <summary>Deletes a view of the user's own.</summary>
    public static async Task<bool> Delete(CommandContext w, string list, long id) =>
        await w.Db.Run(
            "delete from list_views where id = @id and list = @list and user_id = @user",
            ("id", id),
            ("list", list),
            ("user", w.Actor.UserId)
        ) == 1;
}
