using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;

namespace SteadyLark.Store.Basics;

/// <summary>Deletes technical records beyond their <see cref="Retention"/>.</summary>
public static class PurgeStore
{
    /// <summary>The most rows of a table deleted at once, so that no lock is held for long.</summary>
    public const int Batch = 5000;

    /// <summary>Deletes one batch of each table. Several servers may do so at once: each takes other rows.</summary>
    /// <returns>Rows deleted.</returns>
    public static async Task<int> Purge(NpgsqlConnection db, Instant now) =>
        await Delete(db, "idempotency_keys", "at", now - Retention.IdempotencyKeys)
        + await Delete(db, "sessions", "ends_at", now - Retention.Sessions)
        + await Delete(db, "account_links", "ends_at", now - Retention.AccountLinks)
        + await Delete(db, "sign_in_failures", "at", now - Retention.SignInFailures);

    private static Task<int> Delete(NpgsqlConnection db, string table, string column, Instant before) =>
        db.Run(
            $"""
            delete from {table} where ctid = any(array(select ctid from {table} where {column} < @before limit {Batch} for update skip
            locked))
            """,
            ("before", before)
        );
}
