using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Loads;

/// <summary>Custom fields of loads.</summary>
public static class CustomFieldStore
{
    public static Task<List<CustomField>> All(NpgsqlConnection db) =>
        db.Rows("select * from custom_fields where retired_at is null order by seq, id", r => new CustomField(
            r.Long("id"),
            r.Text("name"),
            r.Enum<CustomFieldKind>("kind"),
            r.Texts("choices"),
            r.Bool("required")
        ));

    public static Task<bool> NameTaken(NpgsqlConnection db, string name, long except) =>
        db.One<bool>(
            "select exists (select 1 from custom_fields where lower(name) = lower(@name) and retired_at is null and id <> @except)",
            ("name", name),
            ("except", except)
        );

    public static Task<long> Add(NpgsqlConnection db, CustomField f) =>
        db.One<long>(
            """
            insert into custom_fields (name, kind, choices, required, seq) values (@name, @kind, @choices, @required, (select
            coalesce(max(seq), 0) + 1 from custom_fields)) returning id
            """,
            ("name", f.Name),
            ("kind", f.Kind),
            ("choices", f.Choices.ToArray()),
            ("required", f.Required)
        );

    /// <summary>Edits a field's name, choices and whether it is required; its type stays, because values exist.</summary>
    public static async Task<bool> Change(NpgsqlConnection db, CustomField f) =>
        await db.Run(
            """
            update custom_fields set name = @name, choices = @choices, required = @required, version = version + 1 where id = @id and
            retired_at is null
            """,
            ("id", f.Id),
            ("name", f.Name),
            ("choices", f.Choices.ToArray()),
            ("required", f.Required)
        ) == 1;

    /// <summary>Deactivates a field for new loads; existing values stay.</summary>
    public static async Task<bool> Deactivate(CommandContext w, long id) =>
        await w.Db.Run("update custom_fields set retired_at = @now where id = @id and retired_at is null", ("id", id), ("now", w.Now)) == 1;
}
