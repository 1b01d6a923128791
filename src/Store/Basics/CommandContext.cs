using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;

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
    private const string Savepoint = "saved";

    private readonly NpgsqlTransaction _transaction;
    private readonly bool _ownsConnection;
    private readonly List<RecordedEvent> _events;

    private CommandContext(
        NpgsqlConnection db,
        NpgsqlTransaction transaction,
        Actor actor,
        Instant now,
        DateTimeZone zone,
        IRoads roads,
        List<RecordedEvent>? events = null
    )
    {
        Db = db;
        _transaction = transaction;
        Actor = actor;
        Now = now;
        Zone = zone;
        Roads = roads;
        _ownsConnection = events is null;
        _events = events ?? [];
    }

    public NpgsqlConnection Db { get; }

    public Actor Actor { get; }

    /// <summary>The current time, the same for the whole command.</summary>
    public Instant Now { get; }

    /// <summary>The company's time zone.</summary>
    public DateTimeZone Zone { get; }

    public IRoads Roads { get; }

    public LocalDate Today => Now.InZone(Zone).Date;

    public static async Task<CommandContext> Begin(NpgsqlDataSource source, Actor actor, Instant now, DateTimeZone zone, IRoads roads)
    {
        var db = await source.OpenConnectionAsync();
        return new CommandContext(db, await db.BeginTransactionAsync(), actor, now, zone, roads);
    }

    /// <summary>The same transaction at another time and by another user: how the demo's history is written.</summary>
    public CommandContext At(Instant now, Actor? actor = null) => new(Db, _transaction, actor ?? Actor, now, Zone, Roads, _events);

    /// <summary>Records an event, which is written when the command commits.</summary>
    /// <param name="summary">What was done, in plain words.</param>
    /// <param name="subject">What it is about, where it is not the kind's usual subject.</param>
    public void Record(
        EventKind kind,
        long subjectId,
        string summary,
        long? loadId = null,
        long? driverId = null,
        object? before = null,
        object? after = null,
        string? subject = null
    ) => _events.Add(new RecordedEvent(Now, Actor, kind, subject ?? kind.Subject, subjectId, summary, loadId, driverId, before, after));

    /// <summary>A point to which <see cref="RollBack"/> returns.</summary>
    /// <returns>How many events were recorded before it.</returns>
    public async Task<int> Save()
    {
        await _transaction.SaveAsync(Savepoint);
        return _events.Count;
    }

    /// <summary>Takes back what was done since <see cref="Save"/>, its events included.</summary>
    public async Task RollBack(int saved)
    {
        await _transaction.RollbackAsync(Savepoint);
        _events.RemoveRange(saved, _events.Count - saved);
    }

    /// <summary>Writes the events recorded so far, without committing.</summary>
    public async Task WriteEvents()
    {
        await Events.Write(Db, _events);
        _events.Clear();
    }

    /// <summary>Writes the recorded events and commits.</summary>
    public async Task Commit()
    {
        await WriteEvents();
        await _transaction.CommitAsync();
    }

    public async ValueTask DisposeAsync()
    {
        if (_ownsConnection)
        {
            await _transaction.DisposeAsync();
            await Db.DisposeAsync();
        }
    }
}
