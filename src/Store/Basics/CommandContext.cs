using NodaTime;
using Npgsql;
using SteadyLark.Core.People;

namespace SteadyLark.Store.Basics;

/// <summary>Through what a command came.</summary>
public enum Via
{
    Page,
    Line,
    Phone,
    Api,
    Outside,
    System,
}

/// <summary>Who does something; no user for the outside world and the system itself.</summary>
/// <param name="Access">What they may do; null for the outside world and the system, which are not bound by rights.</param>
/// <param name="Address">The network address they came from, where there is one.</param>
public sealed record Actor(long? UserId, string Name, Via Via, long? DriverId = null, Access? Access = null, string? Address = null)
{
    public bool May(Right right) => Access?.Has(right) ?? true;
}

/// <summary>One command's transaction: what it reads, changes, tells and posts is committed as one, or not at all.</summary>
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

    /// <summary>The present, the same for the whole command.</summary>
    public Instant Now { get; }

    /// <summary>The business's zone, in which its days begin and end.</summary>
    public DateTimeZone Zone { get; }

    public LocalDate Today => Now.InZone(Zone).Date;

    public static async Task<CommandContext> Begin(NpgsqlDataSource source, Actor actor, Instant now, DateTimeZone zone)
    {
        var db = await source.OpenConnectionAsync();
        return new CommandContext(db, await db.BeginTransactionAsync(), actor, now, zone, ownsConnection: true);
    }

    /// <summary>The same transaction at another moment and by another hand: how the demo business lives its past.</summary>
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
