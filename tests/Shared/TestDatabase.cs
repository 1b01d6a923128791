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
        Source = Database.Open(ConnectionString);
    }

    public string ConnectionString { get; }

    public NpgsqlDataSource Source { get; }

    public static async Task<TestDatabase> Make()
    {
        var server = Environment.GetEnvironmentVariable("LARK_TEST_POSTGRES")
            ?? throw new InvalidOperationException("These tests need a PostgreSQL cluster: run './lark test', or set LARK_TEST_POSTGRES to a connection string without a database.");
        var made = new TestDatabase(server, $"t_{Guid.NewGuid():N}");
        await made.OnServer($"create database {made._name}");
        await Database.Migrate(made.ConnectionString);
        return made;
    }

    public async ValueTask DisposeAsync()
    {
        await Source.DisposeAsync();
        NpgsqlConnection.ClearAllPools();
        await OnServer($"drop database if exists {_name} with (force)");
    }

    private async Task OnServer(string sql)
    {
        await using var source = NpgsqlDataSource.Create($"{_server};Database=postgres;Pooling=false");
        await using var db = await source.OpenConnectionAsync();
        await db.Run(sql);
    }
}
