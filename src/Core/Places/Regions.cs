namespace SteadyLark.Core.Places;

/// <summary>States and provinces as people write them.</summary>
public static class Regions
{
    private static readonly string[] Written =
    [
        "AL alabama|ala",
        "AK alaska",
        "AZ arizona|ariz",
        "AR arkansas|ark",
        "CA california|calif|cal",
        "CO colorado|colo",
        "CT connecticut|conn",
        "DE delaware|del",
        "DC district of columbia|d c|wash dc",
        "FL florida|fla",
        "GA georgia",
        "HI hawaii",
        "ID idaho|ida",
        "IL illinois|ill|ills",
        "IN indiana|ind",
        "IA iowa",
        "KS kansas|kans|kan",
        "KY kentucky|ken|kent",
        "LA louisiana",
        "ME maine",
        "MD maryland",
        "MA massachusetts|mass",
        "MI michigan|mich",
        "MN minnesota|minn",
        "MS mississippi|miss",
        "MO missouri",
        "MT montana|mont",
        "NE nebraska|nebr|neb",
        "NV nevada|nev",
        "NH new hampshire|n h",
        "NJ new jersey|n j|jersey",
        "NM new mexico|n m|n mex|new mex",
        "NY new york|n y",
        "NC north carolina|n c|n carolina|n car",
        "ND north dakota|n d|n dakota|n dak|no dak",
        "OH ohio",
        "OK oklahoma|okla",
        "OR oregon|ore|oreg",
        "PA pennsylvania|penn|penna",
        "PR puerto rico",
        "RI rhode island|r i",
        "SC south carolina|s c|s carolina|s car",
        "SD south dakota|s d|s dakota|s dak|so dak",
        "TN tennessee|tenn",
        "TX texas|tex",
        "UT utah",
        "VT vermont",
        "VA virginia|virg",
        "WA washington|wash|wn",
        "WV west virginia|w v|w va|w virginia|wva",
        "WI wisconsin|wis|wisc",
        "WY wyoming|wyo",
        "AB alberta|alta",
        "BC british columbia|b c",
        "MB manitoba|man",
        "NB new brunswick|n b",
        "NL newfoundland and labrador|newfoundland|nfld|labrador",
        "NS nova scotia|n s",
        "NT northwest territories|n w t|nwt",
        "NU nunavut",
        "ON ontario|ont",
        "PE prince edward island|p e i|pei",
        "QC quebec|que|pq",
        "SK saskatchewan|sask",
        "YT yukon|yukon territory",
    ];

    private static readonly Dictionary<string, string> ByName = Written
        .SelectMany(w => w[3..].Split('|').Append(w[..2].ToLowerInvariant()).Select(n => (Name: n, Code: w[..2])))
        .ToDictionary(x => x.Name, x => x.Code);

    private static readonly HashSet<string> Canadian = ["AB", "BC", "MB", "NB", "NL", "NS", "NT", "NU", "ON", "PE", "QC", "SK", "YT"];

    /// <summary>The two letters of a state or province, or null. The input is lower case, single-spaced, without periods.</summary>
    public static string? Of(string written) => ByName.GetValueOrDefault(written);

    /// <summary>US or CA.</summary>
    public static string Country(string region) => Canadian.Contains(region) ? "CA" : "US";

    /// <summary>Zones: the divisions of the US Census Bureau ("Census Regions and Divisions of the United States"), and Canada's provinces
    /// as its statistical agency groups them.</summary>
    public static readonly IReadOnlyDictionary<string, string[]> Zones = new Dictionary<string, string[]>(StringComparer.OrdinalIgnoreCase)
    {
        ["New England"] = ["CT", "ME", "MA", "NH", "RI", "VT"],
        ["Middle Atlantic"] = ["NJ", "NY", "PA"],
        ["East North Central"] = ["IL", "IN", "MI", "OH", "WI"],
        ["West North Central"] = ["IA", "KS", "MN", "MO", "NE", "ND", "SD"],
        ["South Atlantic"] = ["DE", "DC", "FL", "GA", "MD", "NC", "SC", "VA", "WV"],
        ["East South Central"] = ["AL", "KY", "MS", "TN"],
        ["West South Central"] = ["AR", "LA", "OK", "TX"],
        ["Mountain"] = ["AZ", "CO", "ID", "MT", "NV", "NM", "UT", "WY"],
        ["Pacific"] = ["CA", "OR", "WA"],
        ["Atlantic Canada"] = ["NB", "NL", "NS", "PE"],
        ["Central Canada"] = ["ON", "QC"],
        ["Prairies"] = ["AB", "MB", "SK"],
        ["West Coast"] = ["BC"],
    };

    /// <summary>The states and provinces named in a text: codes or names separated by commas, or a zone; null for empty input, an empty set
    /// when not recognized.</summary>
    public static IReadOnlySet<string>? Zone(string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
        {
            return null;
        }

        return text.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .SelectMany(part =>
                Zones.TryGetValue(part, out var zone) ? zone
                : Of(part.ToLowerInvariant().Replace(".", "", StringComparison.Ordinal)) is { } one ? [one]
                : []
            )
            .ToHashSet();
    }
}
