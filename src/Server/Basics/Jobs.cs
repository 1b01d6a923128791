namespace SteadyLark.Server.Basics;

/// <summary>Work that is looked at again and again in the background.</summary>
public static class Jobs
{
    /// <summary>
    /// Does something at every turn until the server stops. Whatever goes wrong in a turn is said and tried again at the next: a database or a mail
    /// server that is away for a while ends no job.
    /// </summary>
    /// <param name="what">What waits meanwhile, for the log.</param>
    public static async Task Every(TimeSpan turn, string what, ILogger log, Func<Task> act, CancellationToken stopping)
    {
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
