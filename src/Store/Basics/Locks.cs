using Npgsql;

namespace SteadyLark.Store.Basics;

/// <summary>What only one server, or one command, does at a time. The numbers are PostgreSQL's advisory lock keys.</summary>
public enum LockKey
{
    Migrations = 731001,
    FirstRun = 731002,
    AuditSeals = 731003,
    ClosingBooks = 731012,
    DocumentRequests = 731013,
    StandIns = 731014,
}

/// <summary>Advisory locks: on a connection until released, or in a transaction until it ends.</summary>
public static class Locks
{
    /// <summary>Waits for the lock, and keeps it to the end of the transaction.</summary>
    public static Task Take(CommandContext w, LockKey key) => w.Db.Run("select pg_advisory_xact_lock(@key)", ("key", (long)key));

    /// <summary>Takes the lock to the end of the transaction, if nobody has it.</summary>
    public static Task<bool> Try(CommandContext w, LockKey key) =>
        w.Db.One<bool>("select pg_try_advisory_xact_lock(@key)", ("key", (long)key));

    /// <summary>Waits for the lock, and keeps it until released.</summary>
    internal static Task Take(NpgsqlConnection db, LockKey key) => db.Run("select pg_advisory_lock(@key)", ("key", (long)key));

    /// <summary>Takes the lock until released, if nobody has it.</summary>
    public static Task<bool> Try(NpgsqlConnection db, LockKey key) => db.One<bool>("select pg_try_advisory_lock(@key)", ("key", (long)key));

    public static Task Release(NpgsqlConnection db, LockKey key) => db.Run("select pg_advisory_unlock(@key)", ("key", (long)key));
}
