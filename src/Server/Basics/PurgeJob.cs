using NodaTime;
using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>Purges old idempotency keys, sessions, links and sign-in failures every ten minutes.</summary>
public sealed class PurgeJob(NpgsqlDataSource source, IClock clock, ILogger<PurgeJob> log) : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) => Jobs.Every(TimeSpan.FromMinutes(10), "Purging old records", log, Purge, stoppingToken);

    /// <summary>Deletes batch after batch until little is left.</summary>
    public async Task Purge()
    {
        await using var db = await source.OpenConnectionAsync();
        while (await PurgeStore.Purge(db, clock.GetCurrentInstant()) >= PurgeStore.Batch)
        {
        }
    }
}
