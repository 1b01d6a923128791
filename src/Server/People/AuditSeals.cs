using Npgsql;
using SteadyLark.Server.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <summary>Hash-chains new audit log entries every few seconds.</summary>
public sealed class AuditSeals(NpgsqlDataSource source, ILogger<AuditSeals> log) : BackgroundService
{
    private static readonly TimeSpan Turn = TimeSpan.FromSeconds(5);

    /// <summary>Keys looked back at in most turns; every so many turns, and at the start, the whole window.</summary>
    private const long ShortWindow = 3000;
    private const int WholeEvery = 120;

    private int _turn;

    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        Jobs.Every(
            Turn,
            "sealing the audit log",
            log,
            async () =>
            {
                var back = _turn++ % WholeEvery == 0 ? AuditStore.WholeWindow : ShortWindow;
                for (var count = -1; count != 0 && !stoppingToken.IsCancellationRequested; )
                {
                    await using var db = await source.OpenConnectionAsync(stoppingToken);
                    count = await AuditStore.Seal(db, back: back);
                }
            },
            stoppingToken
        );
}
