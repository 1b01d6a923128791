using System.Globalization;
using System.Numerics;

namespace SteadyLark.Core.Fitting;

/// <summary>
/// Orders in the compartments of a tank. A compartment holds one product; orders of one product share compartments unless one is exclusive; an
/// order may use several. Every assignment of compartments is considered, so that a placement is found when there is one.
/// </summary>
public static class TankFit
{
    /// <summary>Up to so many orders every choice of what to leave behind is tried; above it, the smallest orders stay behind first.</summary>
    private const int Exhaustive = 12;

    public static FitAnswer Fit(IReadOnlyList<decimal> compartments, IReadOnlyList<FitOrder> orders, IReadOnlyList<(string, string)> apart)
    {
        var chosen = Choose(compartments, orders, apart);
        var groups = Groups(chosen);
        var sets = Assign(compartments, groups.Select(g => g.Sum(o => o.Gallons)).ToList())!;
        var placed = groups.Zip(sets, (g, set) => Pour(g, set, compartments)).SelectMany(p => p).ToList();
        var left = orders.Except(chosen).Select(o => new FitLeft(o.Id!, Why(o, chosen, compartments, apart))).ToList();
        return FitAnswer.Of(placed, left, orders.ToDictionary(o => o.Id!, o => o.Stop));
    }

    /// <summary>The orders to load: all when they fit, else as few left behind as possible, and of those choices the most gallons.</summary>
    private static List<FitOrder> Choose(
        IReadOnlyList<decimal> compartments,
        IReadOnlyList<FitOrder> orders,
        IReadOnlyList<(string, string)> apart
    )
    {
        bool Fits(IReadOnlyList<FitOrder> some) =>
            some.Sum(o => o.Gallons) <= compartments.Sum()
            && !some.Any(o => Conflict(o, some, apart) is not null)
            && Assign(compartments, Groups(some).Select(g => g.Sum(o => o.Gallons)).ToList()) is not null;

        if (Fits(orders))
        {
            return orders.ToList();
        }

        if (orders.Count <= Exhaustive)
        {
            return Subsets
                .Each(orders)
                .OrderByDescending(m => BitOperations.PopCount((uint)m))
                .ThenByDescending(m => Subsets.Of(orders, m).Sum(o => o.Gallons))
                .Select(m => Subsets.Of(orders, m))
                .First(Fits);
        }

        var kept = new List<FitOrder>();
        foreach (var order in orders.OrderByDescending(o => o.Gallons))
        {
            kept.Add(order);
            if (!Fits(kept))
            {
                kept.RemoveAt(kept.Count - 1);
            }
        }

        return orders.Where(kept.Contains).ToList();
    }

    /// <summary>Orders that share compartments: those of one product, each exclusive one alone.</summary>
    private static List<List<FitOrder>> Groups(IReadOnlyList<FitOrder> orders) =>
        orders.GroupBy(o => (o.Product, Alone: o.Exclusive ? o.Id : null)).Select(g => g.OrderByDescending(o => o.Stop).ToList()).ToList();

    /// <summary>The compartments of each group as bits, none in two groups; null when there is no such assignment.</summary>
    private static List<int>? Assign(IReadOnlyList<decimal> compartments, IReadOnlyList<decimal> demands)
    {
        if (demands.Count > compartments.Count)
        {
            return null;
        }

        var all = (1 << compartments.Count) - 1;
        var sums = Sums(compartments);
        // A set that could do without a compartment is never needed.
        var smallest = Subsets.Each(compartments).Select(m => Subsets.Of(compartments, m).DefaultIfEmpty().Min()).ToArray();
        // The compartments in use after each group, each with those before it.
        var reached = new List<Dictionary<int, int>> { new() { [0] = 0 } };
        foreach (var demand in demands)
        {
            var next = new Dictionary<int, int>();
            foreach (var used in reached[^1].Keys)
            {
                var free = all & ~used;
                for (var set = free; set > 0; set = (set - 1) & free)
                {
                    if (sums[set] >= demand && sums[set] - smallest[set] < demand)
                    {
                        next.TryAdd(used | set, used);
                    }
                }
            }

            if (next.Count == 0)
            {
                return null;
            }

            reached.Add(next);
        }

        // The fewest compartments in use.
        var at = reached[^1].Keys.MinBy(k => BitOperations.PopCount((uint)k));
        var sets = new List<int>();
        for (var i = demands.Count; i > 0; i--)
        {
            var before = reached[i][at];
            sets.Insert(0, at & ~before);
            at = before;
        }

        return sets;
    }

    private static decimal[] Sums(IReadOnlyList<decimal> compartments) =>
        Subsets.Each(compartments).Select(m => Subsets.Of(compartments, m).Sum()).ToArray();

    /// <summary>A group's orders in its compartments, the last stop's first.</summary>
    private static IEnumerable<FitPlace> Pour(List<FitOrder> group, int set, IReadOnlyList<decimal> compartments)
    {
        var (order, rest) = (0, group[0].Gallons);
        for (var c = 0; c < compartments.Count && order < group.Count; c++)
        {
            for (var room = (set >> c & 1) == 1 ? compartments[c] : 0; room > 0 && order < group.Count; )
            {
                var amount = Math.Min(room, rest);
                yield return new FitPlace(group[order].Id!, $"compartment {c + 1}", amount);
                (room, rest) = (room - amount, rest - amount);
                if (rest == 0 && ++order < group.Count)
                {
                    rest = group[order].Gallons;
                }
            }
        }
    }

    /// <summary>A product among others that may not ride with an order's.</summary>
    private static string? Conflict(FitOrder order, IEnumerable<FitOrder> others, IReadOnlyList<(string A, string B)> apart) =>
        others
            .Select(o => o.Product!)
            .FirstOrDefault(p => apart.Any(x => (x.A == order.Product && x.B == p) || (x.B == order.Product && x.A == p)));

    private static string Why(
        FitOrder order,
        IReadOnlyList<FitOrder> chosen,
        IReadOnlyList<decimal> compartments,
        IReadOnlyList<(string, string)> apart
    )
    {
        if (Conflict(order, chosen, apart) is { } other)
        {
            return $"{order.Product} may not ride with {other}";
        }

        var most = Most(order, chosen, compartments);
        return most <= 0
            ? "no compartment is left"
            : string.Create(
                CultureInfo.InvariantCulture,
                $"only {most:0.##} of {order.Gallons:0.##} gallons fit: {order.Gallons - most:0.##} too much"
            );
    }

    /// <summary>The most gallons of an order that fit beside the others: what the compartments hold that they can do without.</summary>
    private static decimal Most(FitOrder order, IReadOnlyList<FitOrder> chosen, IReadOnlyList<decimal> compartments)
    {
        var same = order.Exclusive ? [] : chosen.Where(o => o.Product == order.Product && !o.Exclusive).ToList();
        var others = Groups(chosen.Except(same).ToList()).Select(g => g.Sum(o => o.Gallons)).ToList();
        var sums = Sums(compartments);
        foreach (var set in Subsets.Each(compartments).Skip(1).OrderByDescending(m => sums[m]))
        {
            var rest = Subsets.Of(compartments, ~set);
            if (others.Count == 0 || (rest.Count > 0 && Assign(rest, others) is not null))
            {
                return sums[set] - same.Sum(o => o.Gallons);
            }
        }

        return 0;
    }
}
