namespace SteadyLark.Core.Billing;

/// <summary>A week's invoices in one batch.</summary>
public static class BillingRun
{
    public const int MaxLoads = 2000;

    /// <summary>Which loads go on one invoice: all of a customer that wants one invoice, each on its own otherwise. In the order of the
    /// loads.</summary>
    /// <param name="together">Whether a customer wants its loads on one invoice.</param>
    public static IReadOnlyList<(long CustomerId, IReadOnlyList<long> LoadIds)> Parts(
        IEnumerable<(long LoadId, long CustomerId)> loads,
        Func<long, bool> together
    ) =>
        loads
            .Distinct()
            .GroupBy(l => together(l.CustomerId) ? (l.CustomerId, 0L) : (l.CustomerId, l.LoadId))
            .Select(g => (g.Key.Item1, (IReadOnlyList<long>)g.Select(l => l.LoadId).ToList()))
            .ToList();
}
