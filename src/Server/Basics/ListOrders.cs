using System.Text.Json;
using Microsoft.Extensions.Caching.Memory;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>
/// The orders of long lists that took long to sort, kept for a minute after they were last used: who scrolls asks for one part after the
/// other of the same order. Only keys are kept; rows are always read anew, as their reader may see them. Asking for the first rows with a
/// count begins a new order.
/// </summary>
public sealed class ListOrders : IDisposable
{
    /// <summary>An order that is sorted faster is not worth keeping.</summary>
    private static readonly TimeSpan Slow = TimeSpan.FromMilliseconds(200);

    private static readonly TimeSpan Kept = TimeSpan.FromMinutes(1);

    /// <summary>Keys in all orders together: 8 bytes each.</summary>
    private const long MaxKeys = 4_000_000;

    private readonly MemoryCache _orders = new(new MemoryCacheOptions { SizeLimit = MaxKeys });

    /// <param name="Keys">All keys in order; null while only the first rows were asked for.</param>
    private sealed record Order(long[]? Keys);

    /// <summary>What one user asks of one list.</summary>
    public static string Name(ListSource list, long? user, ListRequest request) =>
        $"{list.Name}/{user}/{JsonSerializer.Serialize(request)}";

    /// <summary>The keys at some positions; null when the order is not kept.</summary>
    /// <param name="read">Reads all keys, when this order was slow to begin with.</param>
    public async Task<IReadOnlyList<long>?> Part(string name, long from, int count, Func<Task<List<long>>> read)
    {
        if (!_orders.TryGetValue(name, out Order? order))
        {
            return null;
        }

        if (order!.Keys is null)
        {
            order = new Order([.. await read()]);
            Keep(name, order);
        }

        return from >= order.Keys!.Length
            ? Array.Empty<long>()
            : order.Keys.AsMemory((int)from, (int)Math.Min(count, order.Keys.Length - from)).ToArray();
    }

    /// <summary>Begins a new order.</summary>
    /// <param name="took">How long its first rows took.</param>
    public void Begin(string name, TimeSpan took)
    {
        _orders.Remove(name);
        if (took > Slow)
        {
            Keep(name, new Order(null));
        }
    }

    private void Keep(string name, Order order) =>
        _orders.Set(name, order, new MemoryCacheEntryOptions { SlidingExpiration = Kept, Size = 1 + (order.Keys?.Length ?? 0) });

    public void Dispose() => _orders.Dispose();
}
