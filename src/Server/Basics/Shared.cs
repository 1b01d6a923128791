namespace SteadyLark.Server.Basics;

/// <summary>
/// A value that many requests need at once, never older than the request: requests that arrive while it is being read share the next read,
/// which starts
/// after they arrived.
/// </summary>
/// <param name="read">Reads the value. Runs once at a time.</param>
public sealed class Shared<T>(Func<Task<T>> read)
{
    private readonly Lock _lock = new();
    private Task _running = Task.CompletedTask;
    private Task<T>? _next;

    public Task<T> Get()
    {
        lock (_lock)
        {
            return _next ??= After(_running);
        }
    }

    private async Task<T> After(Task before)
    {
        // A failure is reported to the requests that waited for that read.
        await Task.WhenAny(before);
        await Task.Yield();
        lock (_lock)
        {
            _running = _next!;
            _next = null;
        }

        return await read();
    }
}
