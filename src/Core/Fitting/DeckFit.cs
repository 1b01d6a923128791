using System.Globalization;
using System.Numerics;

namespace SteadyLark.Core.Fitting;

/// <summary>Vehicles on the decks of a car hauler: every distribution over the decks is considered.</summary>
public static class DeckFit
{
    /// <param name="payload">On all decks together; null for no limit.</param>
    /// <param name="gap">Between vehicles on a deck.</param>
    public static FitAnswer Fit(IReadOnlyList<FitDeck> decks, decimal? payload, bool winch, decimal gap, IReadOnlyList<FitVehicle> vehicles)
    {
        var weights = Subsets.Each(vehicles).Select(m => Subsets.Of(vehicles, m).Sum(v => v.Weight)).ToArray();
        // The vehicles on the decks so far, each set with the one before its last deck.
        var reached = new List<Dictionary<int, int>> { new() { [0] = 0 } };
        foreach (var deck in decks)
        {
            var holds = Subsets.Each(vehicles).Where(m => Holds(deck, Subsets.Of(vehicles, m), gap, winch)).ToList();
            var next = new Dictionary<int, int>();
            foreach (var before in reached[^1].Keys)
            {
                foreach (var set in holds.Where(s => (s & before) == 0))
                {
                    next.TryAdd(before | set, before);
                }
            }

            reached.Add(next);
        }

        var best = reached[^1]
            .Keys.Where(m => payload is null || weights[m] <= payload)
            .MaxBy(m => (BitOperations.PopCount((uint)m), weights[m]));
        var placed = new List<FitPlace>();
        var at = best;
        for (var i = decks.Count; i > 0; i--)
        {
            var before = reached[i][at];
            // The next delivery stands at the end from which the deck is unloaded.
            var row = Subsets.Of(vehicles, at & ~before).OrderByDescending(v => v.Stop).ToList();
            placed.InsertRange(0, row.Select((v, n) => new FitPlace(v.Id!, $"{decks[i - 1].Id} {n + 1}", 1)));
            at = before;
        }

        return FitAnswer.Of(
            placed,
            Subsets.Of(vehicles, ~best).Select(v => new FitLeft(v.Id!, Why(v, decks, payload, weights[best], winch))).ToList(),
            vehicles.ToDictionary(v => v.Id!, v => v.Stop)
        );
    }

    private static bool Holds(FitDeck deck, List<FitVehicle> some, decimal gap, bool winch) =>
        some.Count == 0
        || (
            some.Sum(v => v.Length) + (gap * (some.Count - 1)) <= deck.Length
            && some.Max(v => v.Height) <= deck.Height
            && some.Sum(v => v.Weight) <= deck.Payload
            && (winch || some.All(v => v.Runs))
        );

    private static string Why(FitVehicle v, IReadOnlyList<FitDeck> decks, decimal? payload, decimal loaded, bool winch)
    {
        string Over(decimal by, string what) => string.Create(CultureInfo.InvariantCulture, $"{by:0.##} {what}");
        return !v.Runs && !winch ? "does not run, and there is no winch"
            : decks.Max(d => d.Height) < v.Height ? Over(v.Height - decks.Max(d => d.Height), "inches too tall for every deck")
            : decks.Max(d => d.Length) < v.Length ? Over(v.Length - decks.Max(d => d.Length), "inches too long for every deck")
            : decks.Max(d => d.Payload) < v.Weight ? Over(v.Weight - decks.Max(d => d.Payload), "pounds too heavy for every deck")
            : payload is { } most && loaded + v.Weight > most ? Over(loaded + v.Weight - most, "pounds over the payload")
            : "no deck has room for it beside the others";
    }
}
