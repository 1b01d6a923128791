using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

/// <summary>One sign-in, as its user sees it.</summary>
public sealed record SessionRow(Guid Id, Instant BeganAt, Instant LastSeenAt, string Address, string? Device);

/// <summary>Sessions, sign-in attempts, and API tokens.</summary>
public static class SessionStore
{
    private const string WhoIs =
        "u.id as user_id, u.login, u.name, u.driver_id, r.name as role_name, r.standard, r.rights, " + UserStore.LimitColumns;

    public static Task Begin(
        NpgsqlConnection db,
        Guid id,
        long userId,
        string address,
        string? device,
        bool mustEnroll,
        Instant now,
        Instant ends
    ) =>
        db.Run(
            """
            insert into sessions (id, user_id, started_at, ends_at, address, confirmed_at, last_seen_at, device, must_enroll) values (@id,
            @user, @now, @ends, @address, @now, @now, @device, @enroll)
            """,
            ("id", id),
            ("user", userId),
            ("now", now),
            ("ends", ends),
            ("address", address),
            ("device", device),
            ("enroll", mustEnroll)
        );

    /// <summary>Whether anyone signed in with this name from this address since an instant.</summary>
    public static Task<bool> HasSignedIn(NpgsqlConnection db, string login, string address, Instant since) =>
        db.One<bool>(
            """
            select exists (select 1 from sessions s join users u on u.id = s.user_id where u.login = @login and s.address = @address and
            s.started_at > @since)
            """,
            ("login", login),
            ("address", address),
            ("since", since)
        );

    public static Task End(NpgsqlConnection db, Guid id, Instant now) =>
        db.Run("update sessions set ends_at = @now where id = @id and ends_at > @now", ("id", id), ("now", now));

    /// <summary>Ends a user's sessions, all or all but one.</summary>
    public static Task<int> EndAll(NpgsqlConnection db, long userId, Instant now, Guid? except = null) =>
        db.Run(
            "update sessions set ends_at = @now where user_id = @user and ends_at > @now and (@except::uuid is null or id <> @except)",
            ("user", userId),
            ("now", now),
            ("except", except)
        );

    public static Task<List<SessionRow>> Of(NpgsqlConnection db, long userId, Instant now) =>
        db.Rows(
            "select * from sessions where user_id = @user and ends_at > @now order by last_seen_at desc, started_at desc",
            r => new SessionRow(
                r.GetGuid(r.GetOrdinal("id")),
                r.Instant("started_at"),
                r.Instant("last_seen_at"),
                r.Text("address"),
                r.TextOrNull("device")
            ),
            ("user", userId),
            ("now", now)
        );

    /// <summary>Records that the password was entered again.</summary>
    public static Task Confirm(NpgsqlConnection db, Guid id, Instant now) =>
        db.Run("update sessions set confirmed_at = @now where id = @id", ("id", id), ("now", now));

    /// <summary>The required second factor is now set up.</summary>
    public static Task Enrolled(NpgsqlConnection db, long userId) =>
        db.Run("update sessions set must_enroll = false where user_id = @user", ("user", userId));

    public static Task Seen(NpgsqlConnection db, Guid id, Instant now) =>
        db.Run("update sessions set last_seen_at = @now where id = @id", ("id", id), ("now", now));

    /// <summary>The user of a valid session; null otherwise, also when they were deactivated.</summary>
    public static Task<SignedIn?> User(NpgsqlConnection db, Guid id, Instant now) =>
        db.Row(
            $"""
            select {WhoIs}, s.confirmed_at, s.must_enroll, s.last_seen_at from sessions s join users u on u.id = s.user_id join roles r on
            r.id = u.role_id where s.id = @id and s.ends_at > @now and u.active
            """,
            Read,
            ("id", id),
            ("now", now)
        );

    public static Task AddAttempt(NpgsqlConnection db, string login, string address, Instant now) =>
        db.Run(
            "insert into sign_in_failures (login, address, at) values (@login, @address, @now)",
            ("login", login),
            ("address", address),
            ("now", now)
        );

    /// <summary>Attempts since an instant that failed or are in progress.</summary>
    public static async Task<SignInAttempts> Attempts(NpgsqlConnection db, string login, string address, Instant since) =>
        (
            await db.Row(
                """
                select count(*) filter (where login = @login and address = @address)::int as both, count(*) filter (where login =
                    @login)::int as of_login,
                       count(*) filter (where address = @address)::int as from_address
                from sign_in_failures where at > @since and (login = @login or address = @address)
                """,
                r => new SignInAttempts(r.Int("both"), r.Int("of_login"), r.Int("from_address")),
                ("login", login),
                ("address", address),
                ("since", since)
            )
        )!;

    /// <summary>Clears the attempts with a name from an address after a successful sign-in.</summary>
    public static Task ForgetAttempts(NpgsqlConnection db, string login, string address) =>
        db.Run("delete from sign_in_failures where login = @login and address = @address", ("login", login), ("address", address));

    internal static SignedIn Read(NpgsqlDataReader r) =>
        new(
            r.Long("user_id"),
            r.Text("login"),
            r.Text("name"),
            r.Text("role_name"),
            r.LongOrNull("driver_id"),
            Rights.Of(r.EnumOrNull<Role>("standard"), r.Null("rights") ? null : r.Texts("rights")),
            r.Instant("confirmed_at"),
            r.Bool("must_enroll"),
            r.Instant("last_seen_at"),
            UserStore.ReadLimits(r),
            r.LongOrNull("office_id")
        );
}
