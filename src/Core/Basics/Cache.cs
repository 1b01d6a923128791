using System.Collections.Concurrent;

namespace SteadyLark.Core.Basics;

/// <summary>A cache of values that never change once computed. It starts over when it is full.</summary>
/// <param name="max">How many are kept.</param>
public sealed class Cache<TKey, TValue>(int max)
    where TKey : notnull
{
    private readonly ConcurrentDictionary<TKey, TValue> _known = new();

    public TValue Get(TKey key, Func<TKey, TValue> find)
    {
        if (_known.TryGetValue(key, out var known))
        {
            return known;
        }

        if (_known.Count >= max)
        {
            _known.Clear();
        }

        return _known[key] = find(key);
    }
}
