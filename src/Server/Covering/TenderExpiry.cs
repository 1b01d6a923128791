using NodaTime;
using Npgsql;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;

namespace SteadyLark.Server.Covering;

/// <summary>Ends tenders that carriers did not answer in time, so that their loads are open again.</summary>
public sealed class TenderExpiry(NpgsqlDataSource source, IClock clock, BusinessZone zone, ILogger<TenderExpiry> log) : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        Jobs.Every(TimeSpan.FromSeconds(10), "Tender expiry", log, ExpireDue, stoppingToken);

    /// <summary>Ends all tenders that are due.</summary>
    public async Task ExpireDue()
    {
        await using var db = await source.OpenConnectionAsync();
        foreach (var (load, tender) in await CoverStore.Unanswered(db, clock.GetCurrentInstant()))
        {
            await using var w = await CommandContext.Begin(
                source,
                new Actor(null, "Steady Lark", Via.System),
                clock.GetCurrentInstant(),
                zone.Zone,
                Routing.Roads
            );
            if (await TenderCommands.Expire(w, load, tender))
            {
                await w.Commit();
            }
        }
    }
}
