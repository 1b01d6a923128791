using NodaTime;
using Npgsql;
using Quartz;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>Purges old idempotency keys, sessions, links and sign-in failures.</summary>
[DisallowConcurrentExecution]
public sealed class PurgeJob(NpgsqlDataSource source, IClock clock) : IJob
{
    public async ValueTask Execute(IJobExecutionContext context, CancellationToken cancellationToken = default) => await Purge();

    /// <summary>Deletes batch after batch until little is left.</summary>
    public async Task Purge()
    {
        await using var db = await source.OpenConnectionAsync();
        while (await PurgeStore.Purge(db, clock.GetCurrentInstant()) >= PurgeStore.Batch) { }
    }
}
