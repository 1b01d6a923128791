using System.Text.Json;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Trips.Runs;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips.Runs;

/// <summary>Runs the planning search in the background. Progress and cancellation are in the database, so that any server can be
/// asked.</summary>
public sealed class RunPlanner(NpgsqlDataSource source, IClock clock, ILogger<RunPlanner> log) : IDisposable
{
    /// <summary>A server without a progress update for this long is gone: another may take over.</summary>
    public static readonly Duration Silence = Duration.FromSeconds(30);

    /// <summary>One at a time per server: each uses all processors.</summary>
    private readonly SemaphoreSlim _one = new(1);

    public void Dispose() => _one.Dispose();

    public void Begin(long id) => _ = Task.Run(() => Plan(id));

    private async Task Plan(long id)
    {
        await _one.WaitAsync();
        try
        {
            await using var db = await source.OpenConnectionAsync();
            if (await RunStore.Get(db, id) is not { State: RunState.Planning } row)
            {
                return;
            }

            var ask = JsonSerializer.Deserialize<RunPlanRequest>(row.Ask, Json.Options)!;
            var before = row.Plan is null ? null : JsonSerializer.Deserialize<RunOrders>(row.Plan, Json.Options);
            using var end = new CancellationTokenSource();
            var told = new Told();
            var began = clock.GetCurrentInstant();
            var time = Duration.FromTimeSpan(RunSolver.Default(ask.All.Count(s => !s.Done)));
            var thinking = Task.Run(() => RunBook.Solve(ask, before, told, end.Token));
            while (await Task.WhenAny(thinking, Task.Delay(400)) != thinking)
            {
                var share = Math.Clamp((clock.GetCurrentInstant() - began) / time, 0, 0.99);
                if (await RunStore.Told(db, id, share, told.Last?.Cost ?? 0, clock.GetCurrentInstant()))
                {
                    await end.CancelAsync();
                }
            }

            var orders = await thinking;
            var left =
                orders.Unserved.Count == 0
                    ? null
                    : $"{orders.Unserved.Count} {(orders.Unserved.Count == 1 ? "stop is" : "stops are")} left out";
            var summary = string.Join(
                "; ",
                new[] { end.IsCancellationRequested ? "stopped early: best result so far" : null, left }.Where(t => t is not null)
            );
            await RunStore.Done(
                db,
                id,
                JsonSerializer.Serialize(orders, Json.Options),
                summary.Length > 0 ? summary : null,
                clock.GetCurrentInstant()
            );
        }
        catch (Exception e)
        {
            log.LogError(e, "A run plan could not be calculated");
            await using var db = await source.OpenConnectionAsync();
            await RunStore.Done(
                db,
                id,
                null,
                "The plan could not be calculated: check the stops and plan again.",
                clock.GetCurrentInstant()
            );
        }
        finally
        {
            _one.Release();
        }
    }

    private sealed class Told : IProgress<RunProgress>
    {
        public RunProgress? Last { get; private set; }

        public void Report(RunProgress value) => Last = value;
    }
}
