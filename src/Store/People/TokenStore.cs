using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

/// <summary>An API token as its owner sees it; the token itself is shown only once.</summary>
public sealed record TokenRow(
    long Id,
    string Name,
    IReadOnlyList<string> Rights,
    Instant MadeAt,
    Instant EndsAt,
    Instant? RevokedAt,
    Instant? LastUsedAt,
    string User
);

/// <summary>The user of an API token, with what both may do.</summary>
public sealed record TokenUser(long TokenId, SignedIn User, IReadOnlySet<Right> TokenRights, Instant? LastUsedAt)
{
    public Access Access => User.Access.Through(TokenRights);
}

public static class TokenStore
{
    /// <summary>A user's tokens, or everyone's; the newest first.</summary>
    public static Task<List<TokenRow>> Of(NpgsqlConnection db, long? userId) =>
        db.Rows(
            """
            select t.*, u.name as user_name from api_tokens t join users u on u.id = t.user_id where @user::bigint is null or t.user_id =
            @user order by t.id desc
            """,
            r => new TokenRow(
                r.Long("id"),
                r.Text("name"),
                r.Texts("rights"),
                r.Instant("created_at"),
                r.Instant("ends_at"),
                r.InstantOrNull("revoked_at"),
                r.InstantOrNull("last_used_at"),
                r.Text("user_name")
            ),
            ("user", userId)
        );

    public static Task<long> Add(CommandContext w, string name, string hash, IReadOnlyList<string> rights, Instant ends) =>
        w.Db.One<long>(
            """
            insert into api_tokens (user_id, name, token_hash, rights, created_at, ends_at) values (@user, @name, @hash, @rights, @now,
            @ends) returning id
            """,
            ("user", w.Actor.UserId),
            ("name", name),
            ("hash", hash),
            ("rights", rights.ToArray()),
            ("now", w.Now),
            ("ends", ends)
        );

    /// <param name="userId">Whose it must be; null for anyone's.</param>
    /// <returns>Its name, or null when there is no such token in use.</returns>
    public static Task<string?> Revoke(CommandContext w, long id, long? userId) =>
        w.Db.One<string>(
            """
            update api_tokens set revoked_at = @now where id = @id and revoked_at is null and (@user::bigint is null or user_id = @user)
            returning name
            """,
            ("id", id),
            ("now", w.Now),
            ("user", userId)
        );

    public static Task<TokenUser?> User(NpgsqlConnection db, string hash, Instant now) =>
        db.Row(
            $"""
            select t.id as token_id, t.rights as token_rights, t.last_used_at, u.id as user_id, u.login, u.name, u.driver_id, r.name as
                role_name, r.standard, r.rights, {UserStore.LimitColumns},
                   t.created_at as confirmed_at, false as must_enroll, t.created_at as last_seen_at
            from api_tokens t join users u on u.id = t.user_id join roles r on r.id = u.role_id
            where t.token_hash = @hash and t.revoked_at is null and t.ends_at > @now and u.active
            """,
            r => new TokenUser(
                r.Long("token_id"),
                SessionStore.Read(r),
                Rights.Of(null, r.Texts("token_rights")),
                r.InstantOrNull("last_used_at")
            ),
            ("hash", hash),
            ("now", now)
        );

    public static Task Used(NpgsqlConnection db, long id, Instant now) =>
        db.Run("update api_tokens set last_used_at = @now where id = @id", ("id", id), ("now", now));
}
