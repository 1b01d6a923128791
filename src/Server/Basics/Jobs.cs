namespace SteadyLark.Server.Basics;

/// <summary>Recurring background work.</summary>
public static class Jobs
{
    private static readonly System.Collections.Concurrent.ConcurrentDictionary<string, (DateTimeOffset At, TimeSpan Turn)> LastRuns = new();

    /// <summary>Jobs whose last successful run is so long ago that they must be stuck: five intervals, and at least two minutes.</summary>
    public static IReadOnlyList<string> Stuck() =>
        LastRuns
            .Where(r => TimeProvider.System.GetUtcNow() - r.Value.At > TimeSpan.FromSeconds(Math.Max(120, r.Value.Turn.TotalSeconds * 5)))
            .Select(r => r.Key)
            .Order()
            .ToList();

    /// <summary>
    /// Runs something at every interval until the server stops. Errors are logged and the work is retried at the next interval: a database
    /// or mail
    /// server that is down for a while ends no job.
    /// </summary>
    /// <param name="what">What is delayed meanwhile, for the log.</param>
    public static async Task Every(TimeSpan turn, string what, ILogger log, Func<Task> act, CancellationToken stopping)
    {
        LastRuns[what] = (TimeProvider.System.GetUtcNow(), turn);
        using var timer = new PeriodicTimer(turn);
        while (!stopping.IsCancellationRequested)
        {
            try
            {
                if (!await timer.WaitForNextTickAsync(stopping))
                {
                    return;
                }

                await act();
                LastRuns[what] = (TimeProvider.System.GetUtcNow(), turn);
            }
            catch (Exception) when (stopping.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
            {
                log.LogWarning("{What} waits: {Reason}", what, e.Message);
            }
        }
    }
}
