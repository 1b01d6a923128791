using NodaTime;
using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

public enum AccountLinkKind
{
    FirstRun,
    Invitation,
    Reset,
}

/// <summary>A valid one-time link.</summary>
public sealed record AccountLink(AccountLinkKind Kind, long? UserId, Instant EndsAt);

/// <summary>Links for the first run, invitations and password resets, stored as hashes.</summary>
public static class AccountLinkStore
{
    /// <summary>Creates a link; earlier ones of the same kind and user end.</summary>
    /// <returns>Its token.</returns>
    public static async Task<string> Make(NpgsqlConnection db, AccountLinkKind kind, long? userId, Instant now, Duration lasts)
    {
        var token = LinkToken.New();
        await db.Run(
            "update account_links set used_at = @now where kind = @kind and user_id is not distinct from @user and used_at is null",
            ("kind", kind),
            ("user", userId),
            ("now", now)
        );
        await db.Run(
            "insert into account_links (token_hash, kind, user_id, created_at, ends_at) values (@hash, @kind, @user, @now, @ends)",
            ("hash", LinkToken.Hash(token)),
            ("kind", kind),
            ("user", userId),
            ("now", now),
            ("ends", now + lasts)
        );
        return token;
    }

    /// <summary>A valid link; null when it never existed, was used, replaced, or has expired.</summary>
    public static Task<AccountLink?> Find(NpgsqlConnection db, string token, Instant now) =>
        db.Row(
            """
            select a.* from account_links a left join users u on u.id = a.user_id
            where a.token_hash = @hash and a.used_at is null and a.ends_at > @now and (a.user_id is null or u.active)
            """,
            r => new AccountLink(r.Enum<AccountLinkKind>("kind"), r.LongOrNull("user_id"), r.Instant("ends_at")),
            ("hash", LinkToken.Hash(token)),
            ("now", now)
        );

    /// <summary>How many links were created for a user since an instant.</summary>
    public static Task<int> MadeSince(NpgsqlConnection db, long userId, Instant since) =>
        db.One<int>(
            "select count(*)::int from account_links where user_id = @user and created_at > @since",
            ("user", userId),
            ("since", since)
        );

    /// <summary>Marks a link as used. False when someone else just used it.</summary>
    public static async Task<bool> Use(NpgsqlConnection db, string token, Instant now) =>
        await db.Run(
            "update account_links set used_at = @now where token_hash = @hash and used_at is null and ends_at > @now",
            ("hash", LinkToken.Hash(token)),
            ("now", now)
        ) == 1;
}
