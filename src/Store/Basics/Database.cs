using DbUp;
using DbUp.Engine;
using DbUp.Engine.Output;
using Npgsql;

namespace SteadyLark.Store.Basics;

/// <summary>Connecting to the database and migrating it.</summary>
public static class Database
{
    /// <summary>A connection pool that reads and writes NodaTime values.</summary>
    public static NpgsqlDataSource Open(string connectionString)
    {
        var builder = new NpgsqlDataSourceBuilder(connectionString);
        // Queries here are short: JIT compilation costs more than it saves. And the data is in memory or on an SSD, where a random read
        // costs hardly
        // more than a sequential one; the default, for spinning disks, makes the planner read whole tables where an index would do.
        builder.ConnectionStringBuilder.Options ??= "-c jit=off -c random_page_cost=1.1";
        builder.UseNodaTime();
        return builder.Build();
    }

    /// <summary>Whether a connection from the pool still works.</summary>
    public static async Task<bool> Answers(NpgsqlConnection db) => await db.One<int>("select 1") == 1;

    /// <summary>Whether there are migrations this database has not run.</summary>
    public static async Task<bool> IsBehind(string connectionString)
    {
        await using var source = NpgsqlDataSource.Create(connectionString);
        await using var db = await source.OpenConnectionAsync();
        if (!await db.One<bool>("select to_regclass('public.schemaversions') is not null"))
        {
            return true;
        }

        var seen = (await db.Rows("select scriptname from schemaversions", r => r.GetString(0))).ToHashSet();
        return Scripts().Any(s => !seen.Contains(s));
    }

    private static IEnumerable<string> Scripts() =>
        typeof(Database).Assembly.GetManifestResourceNames().Where(n => n.EndsWith(".sql", StringComparison.Ordinal));

    /// <summary>Runs the numbered .sql files this database has not run, each in its own transaction. Several servers may try at once: one
    /// does it.</summary>
    /// <param name="through">The number of the last file to run, such as <c>0034</c>, for tests of a migration; all when null.</param>
    /// <returns>The names of the files that were run.</returns>
    public static async Task<IReadOnlyList<string>> Migrate(string connectionString, string? through = null)
    {
        await using var source = NpgsqlDataSource.Create(connectionString);
        await using var db = await source.OpenConnectionAsync();
        await Locks.Take(db, LockKey.Migrations);
        try
        {
            var result = DeployChanges
                .To.PostgresqlDatabase(connectionString)
                .WithScriptsEmbeddedInAssembly(typeof(Database).Assembly, n =>
                    n.EndsWith(".sql", StringComparison.Ordinal)
                    && (through is null || string.CompareOrdinal(n.Split('.')[^2][..4], through) <= 0)
                )
                .WithTransactionPerScript()
                .WithVariablesDisabled()
                .LogTo(new NoOpUpgradeLog())
                .Build()
                .PerformUpgrade();
            return result.Successful
                ? result.Scripts.Select(s => s.Name).ToList()
                : throw new InvalidOperationException(
                    $"Migration {(result.ErrorScript as SqlScript)?.Name} failed: {result.Error.Message}",
                    result.Error
                );
        }
        finally
        {
            await Locks.Release(db, LockKey.Migrations);
        }
    }
}
