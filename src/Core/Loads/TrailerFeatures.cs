using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>A feature of the company's list, as its users edit it.</summary>
/// <param name="Was">Its name before; null for a new one.</param>
public sealed record FeatureOrder(string? Was, string? Name);

/// <summary>How often a feature is used now.</summary>
/// <param name="Trailers">Active trailers that have it.</param>
/// <param name="Loads">Loads that require it and are not delivered.</param>
public sealed record FeatureUse(string Name, int Trailers, int Loads);

/// <summary>What a trailer has besides its kind, such as a liftgate or tarps, and what a load requires. The company edits the list; a name stands for
/// the feature everywhere.</summary>
public static class TrailerFeatures
{
    /// <summary>The most features a company lists.</summary>
    public const int Most = 60;

    /// <summary>The most characters of a name.</summary>
    public const int MaxName = 30;

    /// <summary>What vehicles that do not run require; it stays on the list.</summary>
    public const string Winch = "winch";

    /// <summary>Checks the list as edited: names are unique, and one that is left out is not in use.</summary>
    /// <returns>The list in its order: each with its name before, null for a new one.</returns>
    public static Outcome<IReadOnlyList<(string? Was, string Name)>> CheckList(
        IReadOnlyList<FeatureOrder?>? features,
        IReadOnlyList<FeatureUse> now
    )
    {
        var validation = new Validation();
        var rows = features ?? [];
        if (rows.Count > Most)
        {
            return new Problem("too.many", $"At most {Most} features can be listed.", "features");
        }

        var list = new List<(string? Was, string Name)>();
        for (var i = 0; i < rows.Count; i++)
        {
            var at = $"features[{i}].name";
            var name = validation.Text(rows[i]?.Name, at, "The name of the feature", MaxName, required: true)?.ToLowerInvariant();
            var was = rows[i]?.Was is { } old ? now.FirstOrDefault(f => f.Name == old)?.Name : null;
            if (rows[i]?.Was is not null && was is null)
            {
                validation.Add("unknown", "This feature is no longer on the list: reload the page.", at);
            }

            if (name is not null && list.Any(f => f.Name == name))
            {
                validation.Add("name.taken", $"There are two features named {name}.", at);
            }

            list.Add((was, name ?? ""));
        }

        foreach (var gone in now.Where(f => f.Trailers + f.Loads > 0 && list.All(l => l.Was != f.Name)))
        {
            validation.Add(
                "feature.used",
                gone.Trailers > 0
                    ? $"{gone.Name.Capitalized()} cannot be removed: {Count(gone.Trailers, "trailer has", "trailers have")} it. Take it off them first."
                    : $"{gone.Name.Capitalized()} cannot be removed: {Count(gone.Loads, "load requires", "loads require")} it.",
                "features"
            );
        }

        if (now.Any(f => f.Name == Winch) && !list.Contains((Winch, Winch)))
        {
            validation.Add("feature.winch", "Winch stays on the list: vehicles that do not run require it.", "features");
        }

        return validation.Ok ? list : validation.Problems;
    }

    /// <summary>Reads the features chosen for a trailer or a load.</summary>
    /// <param name="known">The company's list.</param>
    /// <returns>In the order of the list, each once.</returns>
    public static IReadOnlyList<string> Read(
        IReadOnlyList<string?>? chosen,
        IReadOnlyList<string> known,
        string field,
        Validation validation
    )
    {
        var wanted = (chosen ?? []).Select(c => c?.Trim().ToLowerInvariant() ?? "").Where(c => c.Length > 0).ToHashSet();
        if (wanted.FirstOrDefault(w => !known.Contains(w)) is { } unknown)
        {
            var shown = unknown.Length > MaxName ? unknown[..MaxName] + "…" : unknown;
            validation.Add("unknown", $"{shown} is not on the list of features: choose from the list, or add it in Setup.", field);
        }

        return known.Where(wanted.Contains).ToList();
    }

    /// <summary>What a trailer lacks that a load requires, in a few words; null when it lacks nothing.</summary>
    /// <example>no liftgate, tarps</example>
    public static string? Lacks(IEnumerable<string> has, IEnumerable<string> required)
    {
        var missing = required.Except(has).ToList();
        return missing.Count == 0 ? null : $"no {string.Join(", ", missing)}";
    }

    /// <summary>Why a trailer cannot lose features: a load on a trip of its that is not over requires them; null when it can.</summary>
    /// <param name="now">What it has after the change.</param>
    /// <param name="required">Of its trips that are not over: load and feature.</param>
    public static Problem? TakenOffRefusal(string unit, IReadOnlyList<string> now, IEnumerable<(string Load, string Feature)> required) =>
        required.Where(r => !now.Contains(r.Feature)).Select(r => ((string Load, string Feature)?)r).FirstOrDefault() is { } missing
            ? new Problem(
                "trailer.features",
                $"Load {missing.Load}, which trailer {unit} is assigned to, requires {missing.Feature}: assign another trailer first.",
                "features"
            )
            : null;

    /// <summary>Why a load that is covered cannot require more: a trailer of ours assigned to it lacks it; null when it can.</summary>
    /// <param name="trailers">Of its legs that are not over.</param>
    public static Problem? AddedRefusal(
        IReadOnlyList<string> required,
        IEnumerable<(string Unit, IReadOnlyList<string> Features)> trailers
    ) =>
        trailers
            .Select(t => (t.Unit, Lacks: Lacks(t.Features, required)))
            .Where(t => t.Lacks is not null)
            .Select(t => new Problem(
                "trailer.features",
                $"Trailer {t.Unit}, which is assigned to this load, has {t.Lacks}: assign another trailer first, or add it to this one in Setup.",
                "features"
            ))
            .FirstOrDefault();

    private static string Count(int n, string one, string many) => $"{n} {(n == 1 ? one : many)}";
}
