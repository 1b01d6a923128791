using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Loads;

/// <summary>The business's own fields on loads.</summary>
public static class CustomFieldStore
{
    public static Task<List<CustomField>> All(NpgsqlConnection db) =>
        db.Rows(
            "select * from own_fields where retired_at is null order by seq, id",
            r => new CustomField(r.Long("id"), r.Text("name"), r.Enum<CustomFieldKind>("kind"), r.GetFieldValue<string[]>(r.GetOrdinal("choices")), r.Bool("required")));

    public static Task<bool> NameTaken(NpgsqlConnection db, string name, long except) =>
        db.One<bool>("select exists (select 1 from own_fields where lower(name) = lower(@name) and retired_at is null and id <> @except)", ("name", name), ("except", except));

    public static Task<long> Add(NpgsqlConnection db, CustomField f) =>
        db.One<long>(
            "insert into own_fields (name, kind, choices, required, seq) values (@name, @kind, @choices, @required, (select coalesce(max(seq), 0) + 1 from own_fields)) returning id",
            ("name", f.Name), ("kind", f.Kind), ("choices", f.Choices.ToArray()), ("required", f.Required));

    /// <summary>Changes a field's name, choices and whether it must be filled; what it takes stays, for there are values.</summary>
    public static async Task<bool> Change(NpgsqlConnection db, CustomField f) =>
        await db.Run(
            "update own_fields set name = @name, choices = @choices, required = @required, version = version + 1 where id = @id and retired_at is null",
            ("id", f.Id), ("name", f.Name), ("choices", f.Choices.ToArray()), ("required", f.Required)) == 1;

    /// <summary>Takes a field off new loads; what was written stays on the old ones.</summary>
    public static async Task<bool> Deactivate(CommandContext w, long id) => await w.Db.Run("update own_fields set retired_at = @now where id = @id and retired_at is null", ("id", id), ("now", w.Now)) == 1;
}
