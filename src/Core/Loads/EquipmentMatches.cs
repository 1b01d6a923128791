using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>A trailer that hauls loads of another kind: a reefer with its unit off hauls dry freight.</summary>
public sealed record EquipmentMatch(Equipment Trailer, Equipment Load);

/// <summary>Which trailers haul which loads; the company edits the table. Every trailer hauls loads of its own kind.</summary>
public sealed record EquipmentMatches(IReadOnlyList<EquipmentMatch> Also)
{
    /// <summary>Every trailer hauls its own kind only.</summary>
    public static readonly EquipmentMatches Same = new([]);

    /// <param name="needed">Null for any.</param>
    public bool Fits(Equipment trailer, Equipment? needed) =>
        needed is null || trailer == needed || Also.Contains(new EquipmentMatch(trailer, needed.Value));

    /// <summary>The kinds of loads a trailer hauls, its own first.</summary>
    public IReadOnlyList<Equipment> Hauls(Equipment trailer) =>
        [trailer, .. Also.Where(m => m.Trailer == trailer).Select(m => m.Load).Order()];

    /// <summary>Checks a table as entered; a kind's own row is left out.</summary>
    /// <param name="matches">Trailer and load of each; null where nothing was chosen.</param>
    public static Outcome<EquipmentMatches> Check(IReadOnlyList<(Equipment? Trailer, Equipment? Load)> matches)
    {
        var kinds = Enum.GetValues<Equipment>();
        return
            matches.Count <= kinds.Length * kinds.Length
            && matches.All(m => m is { Trailer: { } t, Load: { } l } && Enum.IsDefined(t) && Enum.IsDefined(l))
            ? new EquipmentMatches(
                matches.Where(m => m.Trailer != m.Load).Select(m => new EquipmentMatch(m.Trailer!.Value, m.Load!.Value)).Distinct().ToList()
            )
            : new Problem("unknown", "Choose the trailer and the loads it hauls from the list.", "matches");
    }
}
