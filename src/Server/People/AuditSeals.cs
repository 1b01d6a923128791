using Npgsql;
using SteadyLark.Server.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <summary>Hash-chains new audit log entries every few seconds.</summary>
public sealed class AuditSeals(NpgsqlDataSource source, ILogger<AuditSeals> log) : BackgroundService
{
    private static readonly TimeSpan Turn = TimeSpan.FromSeconds(5);

    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        Jobs.Every(
            Turn,
            "sealing the audit log",
            log,
            async () =>
            {
                for (var count = -1; count != 0 && !stoppingToken.IsCancellationRequested; )
                {
                    await using var db = await source.OpenConnectionAsync(stoppingToken);
                    count = await AuditStore.Seal(db);
                }
            },
            stoppingToken
        );
}
