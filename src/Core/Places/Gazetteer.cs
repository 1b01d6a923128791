using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace SteadyLark.Core.Places;

/// <param name="Zone">A tz database name.</param>
/// <param name="Population">0 when unknown.</param>
public sealed record Town(string Name, string Region, string Country, GeoPoint Point, string Zone, int Population);

/// <param name="Code">Five digits in the United States; the first three characters of a Canadian code, its forward sortation area.</param>
public sealed record PostalArea(string Code, string Town, string Region, string Country, GeoPoint Point, string Zone);

/// <summary>An address-book place, as the resolver needs it.</summary>
public sealed record NamedPlace(long Id, string Name, string Town, string Region, GeoPoint Point, string Zone);

/// <summary>The kind of a match.</summary>
public enum ResolvedAs
{
    Town,
    PostalCode,
    Coordinates,

    /// <summary>A place of the address book.</summary>
    Place,
}

/// <summary>A candidate for what a text means.</summary>
/// <param name="Confidence">0 to 1; from <see cref="Resolution.Threshold"/> on it may be used without asking.</param>
/// <param name="PlaceId">Key of an address-book place; null otherwise.</param>
public sealed record Candidate(
    ResolvedAs As,
    string Label,
    string Region,
    string Country,
    GeoPoint Point,
    string Zone,
    double Confidence,
    long? PlaceId = null
);

/// <summary>Candidates for what a text means, most likely first.</summary>
/// <param name="Why">In words, when nothing was found or nothing is certain; null when the first is certain.</param>
public sealed record Resolution(IReadOnlyList<Candidate> Candidates, string? Why)
{
    /// <summary>Below this only the user chooses.</summary>
    public const double Threshold = 0.85;

    /// <summary>The certain meaning; null when the user must choose.</summary>
    public Candidate? Sure =>
        Candidates.Count > 0
        && Candidates[0].Confidence >= Threshold
        && (Candidates.Count == 1 || Candidates[0].Confidence - Candidates[1].Confidence >= 0.1)
            ? Candidates[0]
            : null;
}

/// <summary>Towns and postal codes of the United States and Canada, and how people write them.</summary>
public sealed partial class Gazetteer
{
    /// <summary>The most candidates in an answer.</summary>
    private const int Max = 12;

    private static readonly Dictionary<string, string> Expanded = new()
    {
        ["st"] = "saint",
        ["ste"] = "sainte",
        ["ft"] = "fort",
        ["mt"] = "mount",
        ["mtn"] = "mountain",
        ["n"] = "north",
        ["s"] = "south",
        ["e"] = "east",
        ["w"] = "west",
        ["pt"] = "point",
        ["spgs"] = "springs",
        ["hts"] = "heights",
        ["jct"] = "junction",
        ["vly"] = "valley",
        ["ctr"] = "center",
        ["centre"] = "center",
        ["cty"] = "city",
        ["slc"] = "salt lake city",
        ["nyc"] = "new york",
        ["kc"] = "kansas city",
    };

    private readonly Dictionary<string, List<Town>> _byName = [];
    private readonly Dictionary<string, List<(string Name, Town Town)>> _byRegion = [];
    private readonly Dictionary<string, PostalArea> _postal;
    private readonly Dictionary<(int, int), List<Town>> _cells = [];
    private readonly Dictionary<int, List<string>> _byLength = [];

    public Gazetteer(IReadOnlyList<Town> towns, IReadOnlyList<PostalArea> postal)
    {
        Towns = towns;
        foreach (var town in towns)
        {
            var name = Plain(town.Name);
            (_byName.TryGetValue(name, out var list) ? list : _byName[name] = []).Add(town);
            (_byRegion.TryGetValue(town.Region, out var region) ? region : _byRegion[town.Region] = []).Add((name, town));
            var cell = ((int)Math.Floor(town.Point.Latitude), (int)Math.Floor(town.Point.Longitude));
            (_cells.TryGetValue(cell, out var near) ? near : _cells[cell] = []).Add(town);
        }

        foreach (var name in _byName.Keys)
        {
            (_byLength.TryGetValue(name.Length, out var list) ? list : _byLength[name.Length] = []).Add(name);
        }

        _postal = postal.ToDictionary(p => p.Code);
    }

    public IReadOnlyList<Town> Towns { get; }

    /// <summary>Reads towns: name,region,country,latitude,longitude,zone,population with a header.</summary>
    public static List<Town> Read(TextReader text) =>
        Lines(text)
            .Select(c => new Town(c[0], c[1], c[2], Point(c[3], c[4]), c[5], int.Parse(c[6], CultureInfo.InvariantCulture)))
            .ToList();

    /// <summary>Reads postal codes: code,town,region,country,latitude,longitude,zone with a header.</summary>
    public static List<PostalArea> ReadPostal(TextReader text) =>
        Lines(text).Select(c => new PostalArea(c[0], c[1], c[2], c[3], Point(c[4], c[5]), c[6])).ToList();

    /// <summary>The town nearest to a point; null when there is none within about two degrees.</summary>
    public Town? Nearest(GeoPoint point)
    {
        var (row, column) = ((int)Math.Floor(point.Latitude), (int)Math.Floor(point.Longitude));
        return Enumerable
            .Range(row - 1, 3)
            .SelectMany(r => Enumerable.Range(column - 1, 3).SelectMany(c => _cells.GetValueOrDefault((r, c)) ?? []))
            .MinBy(t => GreatCircle.Miles(point, t.Point));
    }

    /// <summary>What a text may mean: a town with or without its state, a postal code, coordinates, an address, or an address-book name. It
    /// never chooses for the user.</summary>
    /// <param name="book">Address-book places that may be meant.</param>
    public Resolution Resolve(string text, IEnumerable<NamedPlace>? book = null)
    {
        var typed = text.Trim();
        if (typed.Length == 0)
        {
            return new Resolution([], "Enter a town and state, a postal code, or a latitude and longitude.");
        }

        if (typed.Length > 300)
        {
            return new Resolution([], "This is too long for a place: enter a town and state.");
        }

        if (Coordinates().Match(typed) is { Success: true } c)
        {
            return AtPoint(c);
        }

        var found = new List<Candidate>();
        var plain = Plain(typed);
        foreach (var place in book ?? [])
        {
            var name = Plain(place.Name);
            var likeness =
                name == plain
                || $"{name} {Plain(place.Town)}" == plain
                || $"{name} {Plain(place.Town)} {place.Region.ToLowerInvariant()}" == plain
                    ? 0.98
                : name.StartsWith(plain, StringComparison.Ordinal) && plain.Length >= 4 ? 0.8
                : Math.Min(0.75, Likeness(name, plain));
            if (likeness >= 0.6)
            {
                found.Add(
                    new Candidate(
                        ResolvedAs.Place,
                        $"{place.Name}, {place.Town} {place.Region}",
                        place.Region,
                        Regions.Country(place.Region),
                        place.Point,
                        place.Zone,
                        likeness,
                        place.Id
                    )
                );
            }
        }

        var rest = Postal(typed, found);
        if (rest is not null && found.All(f => f.As != ResolvedAs.PostalCode))
        {
            Named(rest, found);
        }

        var ranked = found
            .OrderByDescending(f => f.Confidence)
            .ThenByDescending(f => f.As == ResolvedAs.Place)
            .DistinctBy(f => (f.Label, f.Region))
            .Take(Max)
            .ToList();
        var answer = new Resolution(ranked, null);
        return answer.Sure is not null
            ? answer
            : answer with
            {
                Why =
                    ranked.Count == 0
                        ? Abroad(plain) ?? $"No town, postal code or place matches “{typed}”: check the spelling and add the state."
                    : ranked.Count > 1
                        ? $"“{typed}” could be {string.Join(", or ", ranked.Take(4).Select(r => r.Label))}{(ranked.Count > 4 ? ", and others" : "")}: choose one."
                    : $"Did you mean {ranked[0].Label}?",
            };
    }

    /// <summary>Lower case, without accents and periods, abbreviations written out: <c>Ft. Collins</c> is <c>fort collins</c>.</summary>
    public static string Plain(string text) => Plain(Raw(text));

    private static string Plain(IEnumerable<string> words) => string.Join(' ', words.Select(w => Expanded.GetValueOrDefault(w, w)));

    private Resolution AtPoint(Match c)
    {
        var latitude = double.Parse(c.Groups["lat"].Value, CultureInfo.InvariantCulture) * (c.Groups["ns"].Value is "S" or "s" ? -1 : 1);
        var longitude = double.Parse(c.Groups["lon"].Value, CultureInfo.InvariantCulture) * (c.Groups["ew"].Value is "W" or "w" ? -1 : 1);
        if (latitude is < -90 or > 90 || longitude is < -180 or > 180)
        {
            return new Resolution(
                [],
                "Latitude must be between -90 and 90 and longitude between -180 and 180; in North America longitude is negative."
            );
        }

        var point = new GeoPoint(latitude, longitude);
        return Nearest(point) is { } near && GreatCircle.Miles(point, near.Point) is var miles and < 80
            ? new Resolution(
                [
                    new Candidate(
                        ResolvedAs.Coordinates,
                        Whereabouts.Format(point, $"{near.Name} {near.Region}", near.Point),
                        near.Region,
                        near.Country,
                        point,
                        near.Zone,
                        miles < 40 ? 1 : 0.7
                    ),
                ],
                miles < 40 ? null : $"This is {miles:0} miles from the nearest town we know. Is that right?"
            )
            : new Resolution(
                [],
                longitude > 0 && latitude > 0
                    ? "This is outside the United States and Canada: is the minus sign missing from the longitude?"
                    : "This is outside the United States and Canada."
            );
    }

    /// <summary>Extracts a postal code from a text, and what it means.</summary>
    /// <returns>The rest of the text, or null when nothing is left to match.</returns>
    private string? Postal(string typed, List<Candidate> found)
    {
        var m = ZipCode().Match(typed) is { Success: true } zip ? zip : PostalCode().Match(typed);
        if (!m.Success)
        {
            return typed;
        }

        var code = m.Groups["code"].Value.ToUpperInvariant();
        var rest = typed.Remove(m.Index, m.Length).Trim(' ', ',');
        if (!_postal.TryGetValue(code, out var area))
        {
            return rest.Length > 0 ? rest : null;
        }

        // A town next to it must be near; otherwise one of the two is wrong, and both are shown.
        var sure = 0.97;
        if (rest.Length > 0)
        {
            var named = new List<Candidate>();
            Named(rest, named);
            var best = named.OrderByDescending(n => n.Confidence).Take(6).ToList();
            if (best.Count > 0 && best[0].Confidence >= 0.6 && best.All(n => GreatCircle.Miles(n.Point, area.Point) > 45))
            {
                sure = 0.6;
                found.Add(best[0] with { Confidence = 0.6 });
            }
        }

        found.Add(
            new Candidate(
                ResolvedAs.PostalCode,
                $"{m.Value.ToUpperInvariant().Trim()}, {area.Town} {area.Region}",
                area.Region,
                area.Country,
                area.Point,
                area.Zone,
                sure
            )
        );
        return rest;
    }

    /// <summary>A town by name, with its state if given.</summary>
    private void Named(string typed, List<Candidate> found)
    {
        var original = Raw(typed);
        while (original.Count > 1 && original[^1] is "usa" or "us" or "canada" or "america")
        {
            original.RemoveAt(original.Count - 1);
        }

        // The longest ending that is a state is the state, unless it is the whole text.
        string? region = null;
        for (var n = Math.Min(3, original.Count - 1); n >= 1 && region is null; n--)
        {
            region = Regions.Of(string.Join(' ', original.TakeLast(n)));
            if (region is not null)
            {
                original.RemoveRange(original.Count - n, n);
            }
        }

        var words = Plain(original).Split(' ', StringSplitOptions.RemoveEmptyEntries);

        // "New York" alone is the town, and so is "Washington".
        for (var skip = 0; skip < Math.Min(words.Length, 8); skip++)
        {
            var name = string.Join(' ', words.Skip(skip));
            var exact = (_byName.GetValueOrDefault(name) ?? []).Where(t => region is null || t.Region == region).ToList();
            if (exact.Count > 0)
            {
                // Text before a town is a street if it has a number; otherwise it is an unknown name.
                Rank(
                    exact,
                    region,
                    skip == 0 ? 0
                        : original.Take(skip).Any(w => w.Any(char.IsAsciiDigit)) ? 0.05
                        : 0.4,
                    found
                );
                return;
            }
        }

        Mistyped(string.Join(' ', words), region, found);
    }

    private static void Rank(List<Town> towns, string? region, double less, List<Candidate> found)
    {
        var people = Math.Max(1.0, towns.Sum(t => t.Population));
        var max = towns.Max(t => t.Population);
        var kept = new List<Town>();
        foreach (var t in towns.OrderByDescending(t => t.Population).Take(Max))
        {
            // One town in two spellings, or a town and its township.
            if (kept.Any(k => k.Region == t.Region && GreatCircle.Miles(k.Point, t.Point) < 25))
            {
                continue;
            }

            kept.Add(t);
            var share = t.Population / people;
            var confidence =
                region is not null ? 0.99
                : towns.Count == 1 ? 0.9
                : t.Population == max && t.Population >= 150_000 && share > 0.85 ? 0.9
                : 0.35 + (0.4 * share);
            found.Add(new Candidate(ResolvedAs.Town, $"{t.Name} {t.Region}", t.Region, t.Country, t.Point, t.Zone, confidence - less));
        }
    }

    /// <summary>Names that differ by a letter or two.</summary>
    private void Mistyped(string name, string? region, List<Candidate> found)
    {
        if (name.Length < 3)
        {
            return;
        }

        var allowed = name.Length < 6 ? 1 : 2;
        IEnumerable<(string Name, IReadOnlyList<Town> Towns)> known = region is not null
            ? (_byRegion.GetValueOrDefault(region) ?? []).Select(t => (t.Name, (IReadOnlyList<Town>)[t.Town]))
            : Enumerable
                .Range(name.Length - allowed, (allowed * 2) + 1)
                .SelectMany(l => _byLength.GetValueOrDefault(l) ?? [])
                .Select(n => (n, (IReadOnlyList<Town>)_byName[n]));
        foreach (var (other, towns) in known)
        {
            if (Distance(other, name, allowed) is var off && off > allowed)
            {
                continue;
            }

            foreach (var town in towns)
            {
                // Large towns are misspelled more often than small ones.
                var people = Math.Min(0.06, Math.Log10(Math.Max(1, town.Population)) / 100);
                found.Add(
                    new Candidate(
                        ResolvedAs.Town,
                        $"{town.Name} {town.Region}",
                        town.Region,
                        town.Country,
                        town.Point,
                        town.Zone,
                        (region is null ? 0.6 : 0.76) - (0.1 * (off - 1)) + people
                    )
                );
            }
        }
    }

    private static string? Abroad(string plain) =>
        plain.Split(' ').Any(w => w is "mexico" or "mex" or "mx")
            ? "Our maps do not cover Mexico: enter the border crossing on this side, such as Laredo TX or El Paso TX."
            : null;

    private static List<string> Raw(string text) =>
        string.Concat(
                text.Select(Bare)
                    .Select(c =>
                        char.IsLetterOrDigit(c) ? c
                        : c is '\'' or '’' ? '\0'
                        : ' '
                    )
                    .Where(c => c != '\0')
            )
            .Split(' ', StringSplitOptions.RemoveEmptyEntries)
            .ToList();

    /// <summary>A lower-case letter without its accent. Spelled out, because globalization data is not available.</summary>
    private static char Bare(char sign) =>
        char.ToLowerInvariant(sign) switch
        {
            'à' or 'á' or 'â' or 'ã' or 'ä' or 'å' or 'ā' => 'a',
            'ç' or 'č' => 'c',
            'è' or 'é' or 'ê' or 'ë' or 'ē' => 'e',
            'ì' or 'í' or 'î' or 'ï' or 'ī' => 'i',
            'ñ' => 'n',
            'ò' or 'ó' or 'ô' or 'õ' or 'ö' or 'ō' => 'o',
            'ù' or 'ú' or 'û' or 'ü' or 'ū' => 'u',
            'ý' or 'ÿ' => 'y',
            var c => c,
        };

    /// <summary>0 to 1: the share of matching letters, by edit distance.</summary>
    private static double Likeness(string a, string b) =>
        1 - ((double)Distance(a, b, Math.Max(a.Length, b.Length)) / Math.Max(1, Math.Max(a.Length, b.Length)));

    /// <summary>Optimal string alignment distance: insertions, deletions, substitutions and swaps of neighbors; anything over
    /// <paramref name="max"/> is max + 1.</summary>
    private static int Distance(string a, string b, int max)
    {
        if (Math.Abs(a.Length - b.Length) > max)
        {
            return max + 1;
        }

        Span<int> before = stackalloc int[b.Length + 1];
        Span<int> last = stackalloc int[b.Length + 1];
        Span<int> now = stackalloc int[b.Length + 1];
        for (var j = 0; j <= b.Length; j++)
        {
            last[j] = j;
        }

        for (var i = 1; i <= a.Length; i++)
        {
            now[0] = i;
            var min = i;
            for (var j = 1; j <= b.Length; j++)
            {
                var cost = a[i - 1] == b[j - 1] ? 0 : 1;
                now[j] = Math.Min(Math.Min(now[j - 1] + 1, last[j] + 1), last[j - 1] + cost);
                if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                {
                    now[j] = Math.Min(now[j], before[j - 2] + 1);
                }

                min = Math.Min(min, now[j]);
            }

            if (min > max)
            {
                return max + 1;
            }

            last.CopyTo(before);
            now.CopyTo(last);
        }

        return last[b.Length];
    }

    private static IEnumerable<string[]> Lines(TextReader text)
    {
        text.ReadLine();
        while (text.ReadLine() is { } line)
        {
            // A name with a comma is quoted, as the first or second cell.
            yield return line.Contains('"', StringComparison.Ordinal) ? Cells(line) : line.Split(',');
        }
    }

    private static string[] Cells(string line)
    {
        var cells = new List<string>();
        var cell = new StringBuilder();
        var quoted = false;
        foreach (var c in line)
        {
            if (c == '"')
            {
                quoted = !quoted;
            }
            else if (c == ',' && !quoted)
            {
                cells.Add(cell.ToString());
                cell.Clear();
            }
            else
            {
                cell.Append(c);
            }
        }

        cells.Add(cell.ToString());
        return [.. cells];
    }

    private static GeoPoint Point(string latitude, string longitude) =>
        new(double.Parse(latitude, CultureInfo.InvariantCulture), double.Parse(longitude, CultureInfo.InvariantCulture));

    [GeneratedRegex(
        @"^\(?\s*(?<lat>-?\d{1,2}(?:\.\d+)?)\s*°?\s*(?<ns>[NnSs])?\s*[,;\s]\s*(?<lon>-?\d{1,3}(?:\.\d+)?)\s*°?\s*(?<ew>[WwEe])?\s*\)?$"
    )]
    private static partial Regex Coordinates();

    [GeneratedRegex(@"(?<![\d\w])(?<code>\d{5})(?:-\d{4})?(?=\s*(?:,?\s*(?:usa?|u\.s\.a?\.))?\s*$)", RegexOptions.IgnoreCase)]
    private static partial Regex ZipCode();

    [GeneratedRegex(
        @"(?<!\w)(?<code>[ABCEGHJKLMNPRSTVXY]\d[ABCEGHJ-NPRSTV-Z])(?: ?\d[ABCEGHJ-NPRSTV-Z]\d)?(?=\s*(?:,?\s*canada)?\s*$)",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex PostalCode();
}
