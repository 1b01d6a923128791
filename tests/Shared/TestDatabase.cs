using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Tests.Shared;

/// <summary>A database of its own in the cluster of the tests, migrated and empty; dropped at the end.</summary>
public sealed class TestDatabase : IAsyncDisposable
{
    private readonly string _server;
    private readonly string _name;

    private TestDatabase(string server, string name)
    {
        _server = server;
        _name = name;
        ConnectionString = $"{server};Database={name};Maximum Pool Size=40";
        AppConnectionString = new NpgsqlConnectionStringBuilder(ConnectionString)
        {
            Username = "lark_app",
            Password = AppPassword,
        }.ConnectionString;
        Source = Database.Open(ConnectionString);
    }

    private const string AppPassword = "lark-app-in-tests";

    private static readonly SemaphoreSlim RoleGate = new(1);

    private static bool _hasRole;

    /// <summary>As the database's owner.</summary>
    public string ConnectionString { get; }

    /// <summary>As the application's own role.</summary>
    public string AppConnectionString { get; }

    public NpgsqlDataSource Source { get; }

    /// <param name="through">The last migration to run; all when null.</param>
    public static async Task<TestDatabase> Make(string? through = null)
    {
        var server = Environment.GetEnvironmentVariable("LARK_TEST_POSTGRES")
            ?? throw new InvalidOperationException(
                "These tests need a PostgreSQL cluster: run './lark test', or set LARK_TEST_POSTGRES to a connection string without a database."
            );
        var made = new TestDatabase(server, $"t_{Guid.NewGuid():N}");
        await made.OnServer($"create database {made._name}");
        await Database.Migrate(made.ConnectionString, through);
        await made.AllowApp();
        return made;
    }

    public async ValueTask DisposeAsync()
    {
        await Source.DisposeAsync();
        NpgsqlConnection.ClearAllPools();
        await OnServer($"drop database if exists {_name} with (force)");
    }

    /// <summary>Lets the application's role sign in, once for all databases of the cluster.</summary>
    private async Task AllowApp()
    {
        await RoleGate.WaitAsync();
        try
        {
            if (!_hasRole)
            {
                await OnServer($"select pg_advisory_lock(731004); alter role lark_app login password '{AppPassword}'");
                _hasRole = true;
            }
        }
        finally
        {
            RoleGate.Release();
        }
    }

    private async Task OnServer(string sql)
    {
        await using var source = NpgsqlDataSource.Create($"{_server};Database=postgres;Pooling=false");
        await using var db = await source.OpenConnectionAsync();
        await db.Run(sql);
    }
}
