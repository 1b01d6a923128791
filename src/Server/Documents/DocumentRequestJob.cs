using NodaTime;
using Npgsql;
using Quartz;
using SteadyLark.Core.Documents;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Documents;

/// <summary>Requests missing documents automatically once they are due.</summary>
[DisallowConcurrentExecution]
public sealed class DocumentRequestJob(NpgsqlDataSource source, IClock clock, BusinessZone zone, DocumentRequestCommands asks) : IJob
{
    public async ValueTask Execute(IJobExecutionContext context, CancellationToken cancellationToken = default) => await Look();

    /// <summary>Sends the requests that are due. Anyone who cannot be reached is left to a person.</summary>
    internal async Task<int> Look()
    {
        var asked = 0;
        await using var w = await CommandContext.Begin(
            source,
            new Actor(null, "Steady Lark", Via.System),
            clock.GetCurrentInstant(),
            zone.Zone,
            Routing.Roads
        );
        if (!await Locks.Try(w, LockKey.DocumentRequests))
        {
            return 0;
        }

        var after = await DocumentRequestStore.AfterHours(w.Db);
        foreach (
            var missing in (await DocumentRequestStore.Missing(w.Db)).Where(m =>
                DocumentRequestPolicy.IsDue(m.DeliveredAt, m.LastAsked, m.Asked, after, w.Now)
            )
        )
        {
            await LoadWrites.Lock(w.Db, missing.LoadId);
            asked += (await asks.Ask(w, missing.LoadId)).Ok ? 1 : 0;
        }

        await w.Commit();
        return asked;
    }
}
