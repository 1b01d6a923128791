using NodaTime;

namespace SteadyLark.Core.Basics;

/// <summary>Time zone names for documents and sentences.</summary>
public static class ZoneName
{
    private static readonly Dictionary<string, string> ByAbbreviation = new()
    {
        ["N"] = "Newfoundland",
        ["A"] = "Atlantic",
        ["E"] = "Eastern",
        ["C"] = "Central",
        ["M"] = "Mountain",
        ["P"] = "Pacific",
        ["AK"] = "Alaska",
        ["H"] = "Hawaii",
    };

    /// <summary><c>Mountain time</c>, from the zone's abbreviation at an instant (MST, MDT); the zone's own name where North America has no
    /// common one.</summary>
    public static string Format(this DateTimeZone zone, Instant at)
    {
        var abbreviation = zone.GetZoneInterval(at).Name;
        return
            abbreviation.EndsWith('T')
            && abbreviation.Length is 3 or 4
            && abbreviation[^2] is 'S' or 'D'
            && ByAbbreviation.TryGetValue(abbreviation[..^2], out var name)
            ? $"{name} time"
            : zone.Id.Replace('_', ' ');
    }
}
