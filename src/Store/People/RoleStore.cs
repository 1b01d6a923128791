using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

/// <param name="Rights">By name.</param>
/// <param name="Edited">Whether a standard role's rights were edited.</param>
/// <param name="Fixed">Whether its rights cannot be edited: the owner's and the drivers'.</param>
public sealed record RoleRow(long Id, string Name, Role? Standard, IReadOnlyList<string> Rights, bool Edited, bool Fixed, int Users);

public static class RoleStore
{
    private const string Select =
        "select r.*, (select count(*)::int from users u where u.role_id = r.id and u.active) as users from roles r";

    public static Task<List<RoleRow>> All(NpgsqlConnection db) =>
        db.Rows($"{Select} order by r.standard is null, case when r.standard is not null then r.id end, lower(r.name)", Read);

    public static Task<RoleRow?> Get(NpgsqlConnection db, long id) => db.Row($"{Select} where r.id = @id", Read, ("id", id));

    public static Task<bool> NameTaken(NpgsqlConnection db, string name, long? except) =>
        db.One<bool>(
            "select exists (select 1 from roles where lower(name) = lower(@name) and id <> coalesce(@except::bigint, -1))",
            ("name", name),
            ("except", except)
        );

    /// <summary>Whether any user has it, including deactivated ones.</summary>
    public static Task<bool> IsUsed(NpgsqlConnection db, long id) =>
        db.One<bool>("select exists (select 1 from users where role_id = @id)", ("id", id));

    public static Task<long> Add(NpgsqlConnection db, string name, IEnumerable<string> rights) =>
        db.One<long>("insert into roles (name, rights) values (@name, @rights) returning id", ("name", name), ("rights", rights.ToArray()));

    public static Task Change(NpgsqlConnection db, long id, string name, IEnumerable<string>? rights) =>
        db.Run(
            "update roles set name = @name, rights = @rights where id = @id",
            ("id", id),
            ("name", name),
            ("rights", rights?.ToArray() ?? (object)DBNull.Value)
        );

    public static Task Remove(NpgsqlConnection db, long id) => db.Run("delete from roles where id = @id and standard is null", ("id", id));

    private static RoleRow Read(NpgsqlDataReader r)
    {
        var standard = r.EnumOrNull<Role>("standard");
        var stored = r.Null("rights") ? null : r.Texts("rights");
        return new RoleRow(
            r.Long("id"),
            r.Text("name"),
            standard,
            Rights.Of(standard, stored).Select(x => x.Name()).Order().ToList(),
            standard is not null && stored is not null,
            standard is Role.Owner or Role.Driver,
            r.Int("users")
        );
    }
}
