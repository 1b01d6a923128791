using NodaTime;
using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

/// <param name="LastStep">The last time step whose code was used.</param>
public sealed record SecondFactor(byte[] Secret, bool Confirmed, long LastStep);

public static class SecondFactorStore
{
    public static Task<SecondFactor?> Of(NpgsqlConnection db, long userId) =>
        db.Row(
            "select * from second_factors where user_id = @user for update",
            r => new SecondFactor(r.GetFieldValue<byte[]>(r.GetOrdinal("secret")), !r.Null("confirmed_at"), r.Long("last_step")),
            ("user", userId)
        );

    /// <summary>Starts setting one up, unless one is confirmed.</summary>
    public static Task Begin(NpgsqlConnection db, long userId, byte[] secret) =>
        db.Run(
            """
            insert into second_factors (user_id, secret) values (@user, @secret) on conflict (user_id) do update set secret = @secret,
            last_step = 0 where second_factors.confirmed_at is null
            """,
            ("user", userId),
            ("secret", secret)
        );

    public static async Task Confirm(NpgsqlConnection db, long userId, Instant now, IEnumerable<string> recoveryHashes)
    {
        await db.Run("update second_factors set confirmed_at = @now where user_id = @user", ("user", userId), ("now", now));
        await db.Run("delete from recovery_codes where user_id = @user", ("user", userId));
        await db.Run(
            "insert into recovery_codes (user_id, code_hash) select @user, unnest(@hashes)",
            ("user", userId),
            ("hashes", recoveryHashes.ToArray())
        );
    }

    /// <summary>Marks a time step as used. False when it or a later one already was.</summary>
    public static async Task<bool> UseStep(NpgsqlConnection db, long userId, long step) =>
        await db.Run(
            "update second_factors set last_step = @step where user_id = @user and last_step < @step",
            ("user", userId),
            ("step", step)
        ) == 1;

    public static async Task<bool> UseRecoveryCode(NpgsqlConnection db, long userId, string hash, Instant now) =>
        await db.Run(
            "update recovery_codes set used_at = @now where user_id = @user and code_hash = @hash and used_at is null",
            ("user", userId),
            ("hash", hash),
            ("now", now)
        ) == 1;

    public static Task<int> RecoveryCodesLeft(NpgsqlConnection db, long userId) =>
        db.One<int>("select count(*)::int from recovery_codes where user_id = @user and used_at is null", ("user", userId));

    public static async Task Remove(NpgsqlConnection db, long userId)
    {
        await db.Run("delete from recovery_codes where user_id = @user", ("user", userId));
        await db.Run("delete from second_factors where user_id = @user", ("user", userId));
    }
}
