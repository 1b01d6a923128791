using NodaTime;
using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>Readiness of this server.</summary>
/// <param name="Database">"ok", or what is wrong with the database.</param>
/// <param name="Disk">"ok", or how little disk space is left.</param>
/// <param name="Jobs">"ok", or which background jobs are stuck.</param>
public sealed record ReadinessReport(bool Ready, string Database, string Disk, string Jobs);

/// <summary>The checks behind <c>/readyz</c>.</summary>
public sealed class Readiness(NpgsqlDataSource source, LarkSettings settings)
{
    /// <summary>How late a scheduled job may start.</summary>
    private static readonly Duration Patience = Duration.FromMinutes(5);

    /// <summary>Free space below which nothing more is accepted: 200 MB.</summary>
    public const long MinFreeBytes = 200L * 1024 * 1024;

    public async Task<ReadinessReport> Check()
    {
        List<string> stuck = [.. Basics.Jobs.Stuck()];
        var (database, disk) = (await Database(stuck), Disk());
        var jobs = stuck.Count == 0 ? "ok" : $"stuck: {string.Join(", ", stuck)}";
        return new ReadinessReport(database == "ok" && disk == "ok" && jobs == "ok", database, disk, jobs);
    }

    private async Task<string> Database(List<string> stuck)
    {
        try
        {
            using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(3));
            await using var db = await source.OpenConnectionAsync(patience.Token);
            await Business.Read(db);
            // The scheduler runs on real time, whatever the business's clock reads.
            stuck.AddRange(await ScheduleStore.Stuck(db, SystemClock.Instance.GetCurrentInstant(), Patience));
            return "ok";
        }
        catch (Exception e) when (e is NpgsqlException or OperationCanceledException or TimeoutException)
        {
            return "not responding";
        }
    }

    private string Disk()
    {
        try
        {
            var free = new DriveInfo(Path.GetFullPath(settings.Data)).AvailableFreeSpace;
            return free >= MinFreeBytes ? "ok" : $"only {free / 1024 / 1024} MB free";
        }
        catch (Exception e) when (e is IOException or ArgumentException or UnauthorizedAccessException)
        {
            return "cannot be read";
        }
    }
}
