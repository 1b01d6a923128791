using System.Collections.Concurrent;

namespace SteadyLark.Core.Basics;

/// <summary>What was found out once and does not change, kept for the next who asks; when there is too much of it, it begins anew.</summary>
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
