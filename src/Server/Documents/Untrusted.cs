namespace SteadyLark.Server.Documents;

/// <summary>
/// Reads files from outside, two at a time, and gives up on one that takes too long. What was given up keeps its place until it ends, so that a flood of costly
/// files waits for itself and not for everybody.
/// </summary>
public static class Untrusted
{
    private static readonly SemaphoreSlim Places = new(2);

    /// <summary>How long one file may take.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(15);

    /// <param name="read">What is to be done with the file; must not touch anything else.</param>
    /// <param name="otherwise">The answer when it takes too long, or no place comes free in time.</param>
    public static async Task<T> Run<T>(Func<T> read, T otherwise)
    {
        if (!await Places.WaitAsync(Patience))
        {
            return otherwise;
        }

        var reading = Task.Run(read);
        _ = reading.ContinueWith(_ => Places.Release(), TaskScheduler.Default);
        return await Task.WhenAny(reading, Task.Delay(Patience)) == reading ? await reading : otherwise;
    }
}
