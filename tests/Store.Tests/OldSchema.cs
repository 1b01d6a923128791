using Npgsql;
using SteadyLark.Store.Basics;
using SteadyLark.Tests.Shared;
using Xunit;

namespace SteadyLark.Store.Tests;

/// <summary>A database as an older version left it, and its migration.</summary>
/// <param name="through">The last migration that version had.</param>
public abstract class OldSchema(string through) : IAsyncLifetime
{
    private TestDatabase _db = null!;

    protected NpgsqlConnection Connection { get; private set; } = null!;

    public async Task InitializeAsync()
    {
        _db = await TestDatabase.Make(through);
        Connection = await _db.Source.OpenConnectionAsync();
    }

    public async Task DisposeAsync()
    {
        await Connection.DisposeAsync();
        await _db.DisposeAsync();
    }

    protected Task Migrate() => Database.Migrate(_db.ConnectionString);
}
