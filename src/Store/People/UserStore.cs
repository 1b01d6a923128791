using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

/// <param name="Standard">Their standard role; null for a custom role.</param>
/// <param name="OfficeId">The office of loads they book.</param>
/// <param name="Invited">Whether they have not chosen a password yet.</param>
public sealed record UserRow(
    long Id,
    string Login,
    string Name,
    string? Email,
    long RoleId,
    string RoleName,
    Role? Standard,
    long? DriverId,
    bool Active,
    bool Invited,
    bool SecondFactor,
    Instant? LastSeenAt,
    long? OfficeId,
    ViewLimits Limits
);

/// <summary>The user of a session or token.</summary>
/// <param name="MustEnroll">Whether they must set up a second factor before anything else.</param>
public sealed record SignedIn(
    long UserId,
    string Login,
    string Name,
    string RoleName,
    long? DriverId,
    IReadOnlySet<Right> Rights,
    Instant ConfirmedAt,
    bool MustEnroll,
    Instant LastSeenAt,
    ViewLimits Limits,
    long? OfficeId
)
{
    public Access Access =>
        new(MustEnroll ? new HashSet<Right> { Right.SessionOwn } : Limits.Within(Rights), DriverId)
        {
            Limits = Limits,
            OfficeId = OfficeId,
        };
}

/// <summary>Users, their passwords and preferences.</summary>
public static class UserStore
{
    private const string Select = """
        select u.*, r.name as role_name, r.standard, u.password_hash is null as invited, exists (select 1 from second_factors f where
            f.user_id = u.id and f.confirmed_at is not null) as second_factor,
               (select max(s.last_seen_at) from sessions s where s.user_id = u.id) as last_seen_at
        from users u join roles r on r.id = u.role_id
        """;

    public static Task<List<UserRow>> All(NpgsqlConnection db) => db.Rows($"{Select} order by u.id", Read);

    public static Task<UserRow?> Get(NpgsqlConnection db, long id) => db.Row($"{Select} where u.id = @id", Read, ("id", id));

    public static Task Lock(NpgsqlConnection db, long id) => db.Run("select 1 from users where id = @id for update", ("id", id));

    /// <summary>The active user with a username or email address.</summary>
    public static Task<UserRow?> Named(NpgsqlConnection db, string name) =>
        db.Row($"{Select} where u.active and (u.login = lower(@name) or lower(u.email) = lower(@name))", Read, ("name", name));

    public static Task<int> ActiveOwners(NpgsqlConnection db) =>
        db.One<int>("select count(*)::int from users u join roles r on r.id = u.role_id where u.active and r.standard = 'owner'");

    public static Task<string?> PasswordHash(NpgsqlConnection db, long id) =>
        db.One<string>("select password_hash from users where id = @id", ("id", id));

    public static Task SetPasswordHash(NpgsqlConnection db, long id, string hash) =>
        db.Run("update users set password_hash = @hash where id = @id", ("id", id), ("hash", hash));

    public static async Task<Preferences> Preferences(NpgsqlConnection db, long id) =>
        (
            await db.Row(
                "select clock, date_order from users where id = @id",
                r => new Preferences(r.EnumOrNull<ClockStyle>("clock"), r.EnumOrNull<DateOrder>("date_order")),
                ("id", id)
            )
        )!;

    public static Task SetPreferences(NpgsqlConnection db, long id, Preferences p) =>
        db.Run(
            "update users set clock = @clock, date_order = @order where id = @id",
            ("id", id),
            ("clock", p.Clock),
            ("order", p.DateOrder)
        );

    /// <summary>A user with a standard role and a password, for a new company, the demo and tests.</summary>
    public static Task<long> Add(
        NpgsqlConnection db,
        string login,
        string name,
        Role role,
        string passwordHash,
        long? driverId,
        string? email = null
    ) =>
        db.One<long>(
            """
            insert into users (login, name, role_id, for_drivers, password_hash, driver_id, email)
            select @login, @name, id, for_drivers, @hash, @driver, @email from roles where standard = @role returning id
            """,
            ("login", login),
            ("name", name),
            ("role", role),
            ("hash", passwordHash),
            ("driver", driverId),
            ("email", email)
        );

    /// <summary>A user who has yet to choose a password.</summary>
    public static Task<long> Invite(CommandContext w, string login, string name, string email, long roleId, long? driverId) =>
        w.Db.One<long>(
            """
            insert into users (login, name, email, role_id, for_drivers, driver_id, created_at, created_by)
            select @login, @name, @email, id, for_drivers, @driver, @now, @by from roles where id = @role returning id
            """,
            ("login", login),
            ("name", name),
            ("email", email),
            ("role", roleId),
            ("driver", driverId),
            ("now", w.Now),
            ("by", w.Actor.UserId)
        );

    public static Task Change(NpgsqlConnection db, long id, string name, string? email, long roleId) =>
        db.Run(
            """
            update users u set name = @name, email = @email, role_id = r.id, for_drivers = r.for_drivers from roles r where u.id = @id and
            r.id = @role
            """,
            ("id", id),
            ("name", name),
            ("email", email),
            ("role", roleId)
        );

    /// <summary>Sets a user's office and view limits.</summary>
    public static Task SetView(NpgsqlConnection db, long id, long? officeId, ViewLimits limits) =>
        db.Run(
            """
            update users set office_id = @office, view_customers = @customers, view_offices = @offices, view_driver_groups = @groups,
            view_days_ahead = @days where id = @id
            """,
            ("id", id),
            ("office", officeId),
            ("customers", limits.Customers?.ToArray()),
            ("offices", limits.Offices?.ToArray()),
            ("groups", limits.DriverGroups?.ToArray()),
            ("days", limits.DaysAhead)
        );

    /// <summary>Deactivates or reactivates a user. Their sessions, links and tokens end.</summary>
    public static async Task SetActive(CommandContext w, long id, bool active)
    {
        await w.Db.Run(
            "update users set active = @active, deactivated_at = @at where id = @id",
            ("id", id),
            ("active", active),
            ("at", active ? null : w.Now)
        );
        if (!active)
        {
            await SessionStore.EndAll(w.Db, id, w.Now);
            await w.Db.Run(
                "update api_tokens set revoked_at = @now where user_id = @id and revoked_at is null",
                ("id", id),
                ("now", w.Now)
            );
            await w.Db.Run("update account_links set used_at = @now where user_id = @id and used_at is null", ("id", id), ("now", w.Now));
        }
    }

    private static UserRow Read(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Text("login"),
            r.Text("name"),
            r.TextOrNull("email"),
            r.Long("role_id"),
            r.Text("role_name"),
            r.EnumOrNull<Role>("standard"),
            r.LongOrNull("driver_id"),
            r.Bool("active"),
            r.Bool("invited"),
            r.Bool("second_factor"),
            r.InstantOrNull("last_seen_at"),
            r.LongOrNull("office_id"),
            ReadLimits(r)
        );

    internal const string LimitColumns = "u.view_customers, u.view_offices, u.view_driver_groups, u.view_days_ahead, u.office_id";

    internal static ViewLimits ReadLimits(NpgsqlDataReader r) =>
        new(Ids(r, "view_customers"), Ids(r, "view_offices"), Ids(r, "view_driver_groups"), r.IntOrNull("view_days_ahead"));

    private static long[]? Ids(NpgsqlDataReader r, string column) => r.Null(column) ? null : r.GetFieldValue<long[]>(r.GetOrdinal(column));
}
