using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using Npgsql;
using SteadyLark.Core.People;

namespace SteadyLark.Store.Basics;

/// <summary>
/// Connections that read on behalf of a user. A limited user's connection takes a role from which the database hides the rest
/// (row security, migration 0027) and which cannot write. The pool resets role and setting when the connection is returned.
/// </summary>
public static class Reads
{
    public static async Task<NpgsqlConnection> Open(
        NpgsqlDataSource source,
        ViewLimits limits,
        Instant now,
        DateTimeZone zone,
        CancellationToken cancel = default
    )
    {
        var db = await source.OpenConnectionAsync(cancel);
        if (!limits.IsLimited)
        {
            return db;
        }

        try
        {
            await db.Run(
                "select set_config('lark.view', @view, false), set_config('role', 'lark_limited', false)",
                ("view", Setting(limits, now, zone))
            );
            return db;
        }
        catch
        {
            await db.DisposeAsync();
            throw;
        }
    }

    /// <summary>Begins to read everything as of one moment, so that no two statements disagree about what a command changed in between.</summary>
    public static ValueTask<NpgsqlTransaction> Snapshot(NpgsqlConnection db) =>
        db.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);

    /// <summary>Tables with a key <c>id</c> whose rows can be hidden.</summary>
    public static readonly IReadOnlySet<string> Hideable = new HashSet<string>
    {
        "loads",
        "companies",
        "drivers",
        "invoices",
        "payments",
        "bills",
        "settlements",
        "documents",
        "emails",
        "legs",
        "transfers",
        "trips",
        "pay_items",
        "trip_expenses",
        "run_plans",
        "billing_runs",
        "vendor_payments",
        "payment_batches",
        "remit_tos",
        "claims",
        "claim_recoveries",
        "events",
    };

    /// <summary>Which of these rows the reader may see.</summary>
    /// <param name="table">One of <see cref="Hideable"/>.</param>
    public static async Task<bool> SeesAll(NpgsqlConnection db, string table, IReadOnlyCollection<long> ids) =>
        Hideable.Contains(table)
            ? await db.One<long>($"select count(*) from {table} where id = any(@ids)", ("ids", ids.Distinct().ToArray()))
                == ids.Distinct().Count()
            : throw new ArgumentOutOfRangeException(nameof(table), table, "is not a table whose rows may be hidden");

    /// <summary>The limits in the form the policies read.</summary>
    private static string Setting(ViewLimits limits, Instant now, DateTimeZone zone) =>
        JsonSerializer.Serialize(
            new
            {
                limits.Customers,
                limits.Offices,
                limits.DriverGroups,
                until = limits.Until(now, zone) is { } until ? InstantPattern.ExtendedIso.Format(until) : null,
            },
            StoredJson.Options
        );
}
