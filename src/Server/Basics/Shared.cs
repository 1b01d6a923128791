namespace SteadyLark.Server.Basics;

/// <summary>
/// Something that many ask for at once and that must be as new as their question: whoever asks while it is being read shares the next reading, which
/// starts only after they asked.
/// </summary>
/// <param name="read">Reads it. Runs once at a time.</param>
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
        // Whether it failed is the business of those who waited for it.
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
