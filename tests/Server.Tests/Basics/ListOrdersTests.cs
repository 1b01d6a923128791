using SteadyLark.Server.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>Orders of long lists are kept while somebody scrolls.</summary>
public class ListOrdersTests
{
    [Fact]
    public async Task A_slow_order_is_read_once_and_a_new_beginning_forgets_it()
    {
        using var orders = new ListOrders();
        var reads = 0;
        Task<List<long>> Read()
        {
            reads++;
            return Task.FromResult(new List<long> { 5, 3, 9, 1 });
        }

        Assert.Null(await orders.Part("a", 0, 2, Read));
        orders.Begin("a", TimeSpan.FromMilliseconds(20));
        Assert.Null(await orders.Part("a", 0, 2, Read));
        orders.Begin("a", TimeSpan.FromSeconds(2));
        Assert.Equal([5, 3], await orders.Part("a", 0, 2, Read));
        Assert.Equal([9, 1], await orders.Part("a", 2, 100, Read));
        Assert.Empty((await orders.Part("a", 4, 100, Read))!);
        Assert.Equal(1, reads);
        Assert.Null(await orders.Part("b", 0, 2, Read));
        orders.Begin("a", TimeSpan.FromSeconds(2));
        Assert.Equal([5], await orders.Part("a", 0, 1, Read));
        Assert.Equal(2, reads);
    }
}
