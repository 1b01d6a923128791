using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

public sealed record UserRow(long Id, string Login, string Name, Role Role, long? DriverId, bool Active);

public static class UserStore
{
    public static Task<List<UserRow>> All(NpgsqlConnection db) => db.Rows("select * from users order by id", Read);

    public static Task<UserRow?> ByLogin(NpgsqlConnection db, string login) => db.Row("select * from users where login = @login", Read, ("login", login));

    public static Task<string?> PasswordHash(NpgsqlConnection db, long id) => db.One<string>("select password_hash from users where id = @id", ("id", id));

    public static Task SetPasswordHash(NpgsqlConnection db, long id, string hash) => db.Run("update users set password_hash = @hash where id = @id", ("id", id), ("hash", hash));

    public static async Task<Preferences> Preferences(NpgsqlConnection db, long id) =>
        (await db.Row("select clock, date_order from users where id = @id", r => new Preferences(r.EnumOrNull<ClockStyle>("clock"), r.EnumOrNull<DateOrder>("date_order")), ("id", id)))!;

    public static Task SetPreferences(NpgsqlConnection db, long id, Preferences p) =>
        db.Run("update users set clock = @clock, date_order = @order where id = @id", ("id", id), ("clock", p.Clock), ("order", p.DateOrder));

    public static Task<long> Add(NpgsqlConnection db, string login, string name, Role role, string passwordHash, long? driverId) =>
        db.One<long>(
            "insert into users (login, name, role, password_hash, driver_id) values (@login, @name, @role, @hash, @driver) returning id",
            ("login", login), ("name", name), ("role", role), ("hash", passwordHash), ("driver", driverId));

    public static Task BeginSession(NpgsqlConnection db, Guid id, long userId, string address, Instant now, Instant ends) =>
        db.Run("insert into sessions (id, user_id, began_at, ends_at, address) values (@id, @user, @now, @ends, @address)", ("id", id), ("user", userId), ("now", now), ("ends", ends), ("address", address));

    /// <summary>Whether somebody signed in with this name from this address since a moment.</summary>
    public static Task<bool> HasSignedIn(NpgsqlConnection db, string login, string address, Instant since) =>
        db.One<bool>("select exists (select 1 from sessions s join users u on u.id = s.user_id where u.login = @login and s.address = @address and s.began_at > @since)", ("login", login), ("address", address), ("since", since));

    public static Task EndSession(NpgsqlConnection db, Guid id, Instant now) => db.Run("update sessions set ends_at = @now where id = @id and ends_at > @now", ("id", id), ("now", now));

    /// <summary>The user of a session that has not ended; null otherwise, also when he may not sign in any more.</summary>
    public static Task<UserRow?> OfSession(NpgsqlConnection db, Guid id, Instant now) =>
        db.Row("select u.* from sessions s join users u on u.id = s.user_id where s.id = @id and s.ends_at > @now and u.active", Read, ("id", id), ("now", now));

    public static Task AddFailure(NpgsqlConnection db, string login, string address, Instant now) =>
        db.Run("insert into sign_in_failures (login, address, at) values (@login, @address, @now)", ("login", login), ("address", address), ("now", now));

    /// <summary>Attempts since a moment that did not end well, or have not ended yet.</summary>
    public static async Task<SignInAttempts> Attempts(NpgsqlConnection db, string login, string address, Instant since) =>
        (await db.Row(
            """
            select count(*) filter (where login = @login and address = @address)::int as both, count(*) filter (where login = @login)::int as of_login,
                   count(*) filter (where address = @address)::int as from_address
            from sign_in_failures where at > @since and (login = @login or address = @address)
            """,
            r => new SignInAttempts(r.Int("both"), r.Int("of_login"), r.Int("from_address")), ("login", login), ("address", address), ("since", since)))!;

    /// <summary>Takes back what was counted for a name from an address: it turned out to be its owner.</summary>
    public static Task ForgetFailures(NpgsqlConnection db, string login, string address) =>
        db.Run("delete from sign_in_failures where login = @login and address = @address", ("login", login), ("address", address));

    private static UserRow Read(NpgsqlDataReader r) => new(r.Long("id"), r.Text("login"), r.Text("name"), r.Enum<Role>("role"), r.LongOrNull("driver_id"), r.Bool("active"));
}
