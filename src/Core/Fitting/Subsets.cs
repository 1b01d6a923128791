namespace SteadyLark.Core.Fitting;

/// <summary>Subsets as bits: the first of a list is bit 0.</summary>
internal static class Subsets
{
    public static List<T> Of<T>(IReadOnlyList<T> all, int bits) => all.Where((_, i) => (bits >> i & 1) == 1).ToList();

    /// <summary>Every subset's bits, none to all.</summary>
    public static IEnumerable<int> Each<T>(IReadOnlyList<T> all) => Enumerable.Range(0, 1 << all.Count);
}
