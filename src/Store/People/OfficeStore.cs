using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

/// <summary>An office or a driver group.</summary>
public sealed record UnitRow(long Id, string Name, bool Active);

/// <summary>Kinds of organizational units.</summary>
public enum UnitKind
{
    Office,
    DriverGroup,
}

/// <summary>Offices and driver groups, by which loads, drivers and users' views are divided.</summary>
public static class OfficeStore
{
    public static Task<List<UnitRow>> All(NpgsqlConnection db, UnitKind kind) =>
        db.Rows($"select id, name, active from {Table(kind)} order by lower(name)", r => new UnitRow(
            r.Long("id"),
            r.Text("name"),
            r.Bool("active")
        ));

    public static Task<bool> NameTaken(NpgsqlConnection db, UnitKind kind, string name, long? except) =>
        db.One<bool>(
            $"select exists (select 1 from {Table(kind)} where lower(name) = lower(@name) and id is distinct from @except::bigint)",
            ("name", name),
            ("except", except)
        );

    public static Task<long> Add(NpgsqlConnection db, UnitKind kind, string name) =>
        db.One<long>($"insert into {Table(kind)} (name) values (@name) returning id", ("name", name));

    public static Task Change(NpgsqlConnection db, UnitKind kind, UnitRow unit) =>
        db.Run(
            $"update {Table(kind)} set name = @name, active = @active where id = @id",
            ("id", unit.Id),
            ("name", unit.Name),
            ("active", unit.Active)
        );

    public static Task<bool> Has(NpgsqlConnection db, UnitKind kind, long id) => db.Has(Table(kind), id);

    /// <summary>The field of the limits that names something unknown, or null.</summary>
    public static async Task<string?> Unknown(NpgsqlConnection db, ViewLimits limits)
    {
        foreach (
            var (ids, field, from) in new[]
            {
                (limits.Customers, "customers", "companies where is_customer and"),
                (limits.Offices, "offices", "offices where"),
                (limits.DriverGroups, "driverGroups", "driver_groups where"),
            }
        )
        {
            if (ids is not null && await db.One<long>($"select count(*) from {from} id = any(@ids)", ("ids", ids.ToArray())) != ids.Count)
            {
                return field;
            }
        }

        return null;
    }

    private static string Table(UnitKind kind) => kind == UnitKind.Office ? "offices" : "driver_groups";
}
