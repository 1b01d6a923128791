using Npgsql;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.People;

/// <summary>The streaming replica, when there is one: it serves exports and reports, which may be some seconds late. While it does not
/// answer, the main database does.</summary>
public sealed class Replica(NpgsqlDataSource main, LarkSettings settings, ILogger<Replica> log) : IAsyncDisposable
{
    /// <summary>How long a replica that did not answer is left alone.</summary>
    private static readonly TimeSpan Rest = TimeSpan.FromSeconds(30);

    private readonly NpgsqlDataSource? _source = settings.Replica is { } replica ? Database.Open(replica) : null;
    private long _restsUntil;

    /// <summary>Where to read.</summary>
    public async Task<NpgsqlDataSource> Source()
    {
        if (_source is null || Environment.TickCount64 < Interlocked.Read(ref _restsUntil))
        {
            return main;
        }

        try
        {
            await using var db = await _source.OpenConnectionAsync();
            return await Database.Answers(db) ? _source : main;
        }
        catch (Exception e) when (e is NpgsqlException or TimeoutException)
        {
            Interlocked.Exchange(ref _restsUntil, Environment.TickCount64 + (long)Rest.TotalMilliseconds);
            log.LogWarning("The replica does not answer ({Reason}): the main database serves its reads", e.Message);
            return main;
        }
    }

    public ValueTask DisposeAsync() => _source?.DisposeAsync() ?? ValueTask.CompletedTask;
}
