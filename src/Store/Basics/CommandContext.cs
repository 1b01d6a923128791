using NodaTime;
using Npgsql;
using SteadyLark.Core.People;

namespace SteadyLark.Store.Basics;

/// <summary>The channel of a command.</summary>
public enum Via
{
    Page,
    Line,
    Phone,
    Api,
    Outside,
    System,
}

/// <summary>Who does something; no user for outsiders and the system itself.</summary>
/// <param name="Access">What they may do; null for outsiders and the system, which are not bound by rights.</param>
/// <param name="Address">Their network address, if any.</param>
public sealed record Actor(long? UserId, string Name, Via Via, long? DriverId = null, Access? Access = null, string? Address = null)
{
    public bool May(Right right) => Access?.Has(right) ?? true;
}

/// <summary>One command's transaction: its reads, changes, events and postings are committed together, or not at all.</summary>
public sealed class CommandContext : IAsyncDisposable
{
    private readonly NpgsqlTransaction _transaction;
    private readonly bool _ownsConnection;

    private CommandContext(NpgsqlConnection db, NpgsqlTransaction transaction, Actor actor, Instant now, DateTimeZone zone, bool ownsConnection)
    {
        Db = db;
        _transaction = transaction;
        Actor = actor;
        Now = now;
        Zone = zone;
        _ownsConnection = ownsConnection;
    }

    public NpgsqlConnection Db { get; }

    public Actor Actor { get; }

    /// <summary>The current time, the same for the whole command.</summary>
    public Instant Now { get; }

    /// <summary>The company's time zone.</summary>
    public DateTimeZone Zone { get; }

    public LocalDate Today => Now.InZone(Zone).Date;

    public static async Task<CommandContext> Begin(NpgsqlDataSource source, Actor actor, Instant now, DateTimeZone zone)
    {
        var db = await source.OpenConnectionAsync();
        return new CommandContext(db, await db.BeginTransactionAsync(), actor, now, zone, ownsConnection: true);
    }

    /// <summary>The same transaction at another time and by another user: how the demo's history is written.</summary>
    public CommandContext At(Instant now, Actor? actor = null) => new(Db, _transaction, actor ?? Actor, now, Zone, ownsConnection: false);

    public Task Commit() => _transaction.CommitAsync();

    public async ValueTask DisposeAsync()
    {
        if (_ownsConnection)
        {
            await _transaction.DisposeAsync();
            await Db.DisposeAsync();
        }
    }
}
