using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Documents;

/// <summary>A load needs a POD of every delivery: a receiver signs for its own freight only. A POD that names no delivery is of all of
/// them.</summary>
public static class Pods
{
    /// <summary>The deliveries without a POD, in order.</summary>
    /// <param name="deliveries">The keys of the load's deliveries; without those that were refused.</param>
    /// <param name="pods">Of each POD, the delivery it is of; null for all.</param>
    public static IReadOnlyList<long> Missing(IEnumerable<long> deliveries, IReadOnlyCollection<long?> pods) =>
        pods.Contains(null) ? [] : deliveries.Where(d => !pods.Contains(d)).ToList();

    /// <summary>The kinds of documents a load has: the POD among them only when no delivery lacks one.</summary>
    public static IReadOnlyList<DocumentKind> Present(
        IEnumerable<DocumentKind> kinds,
        IEnumerable<long> deliveries,
        IReadOnlyCollection<long?> pods
    ) => pods.Count > 0 && Missing(deliveries, pods).Count == 0 ? kinds.ToList() : kinds.Where(k => k != DocumentKind.Pod).ToList();

    /// <summary>The delivery of which a driver sends a document: the last one reached; null when there is one delivery only.</summary>
    /// <param name="deliveries">The load's deliveries in order, and whether the truck arrived.</param>
    public static long? Where(DocumentKind kind, IReadOnlyList<(long Stop, bool Arrived)> deliveries) =>
        kind == DocumentKind.Pod && deliveries.Count > 1 && deliveries.Any(d => d.Arrived) ? deliveries.Last(d => d.Arrived).Stop : null;

    /// <summary>The delivery a document is of, checked; null for all.</summary>
    /// <param name="stop">As given with the document.</param>
    /// <param name="deliveries">The load's deliveries.</param>
    public static Outcome<long?> Of(DocumentKind kind, long? stop, IEnumerable<long> deliveries) =>
        stop is null ? (long?)null
        : kind != DocumentKind.Pod ? new Problem("pod.stop", "Only a POD is of one delivery.", "stop")
        : deliveries.Contains(stop.Value) ? stop
        : new Problem("pod.stop", "This is not a delivery of the load.", "stop");
}
