using System.Text.RegularExpressions;

namespace SteadyLark.Core.Documents;

/// <summary>A load that an unfiled document may belong to.</summary>
/// <param name="Numbers">Our number, the customer's reference and its other references.</param>
public sealed record TrayLoad(long LoadId, string Number, IReadOnlyList<string> Numbers);

/// <summary>Suggests what a document is and where it belongs, from its name and text; a person decides.</summary>
public sealed record TraySuggestion(long? LoadId, DocumentKind? Kind, string? Why);

public static partial class Tray
{
    private static readonly (string Words, DocumentKind Kind)[] Signs =
    [
        (@"proof of delivery|\bpod\b|received in good order", DocumentKind.Pod),
        (@"lumper|unloading (fee|receipt)", DocumentKind.LumperReceipt),
        (@"scale (ticket|weight)|weigh(ed|ing|master)", DocumentKind.ScaleTicket),
        (@"rate confirmation|load confirmation", DocumentKind.RateConfirmation),
        (@"bill of lading|\bbol\b|straight bill", DocumentKind.Bol),
        (@"\binvoice\b|amount due|remit to", DocumentKind.CarrierBill),
    ];

    /// <summary>Words in a document that could be a reference number: at least three characters, with a digit.</summary>
    public static IReadOnlySet<string> Numbers(string text) =>
        Token()
            .Matches(text)
            .Select(m => m.Value.Trim('-', '/', '.').ToUpperInvariant())
            .Where(w => w.Length >= 3 && w.Any(char.IsAsciiDigit))
            .Take(4000)
            .ToHashSet();

    /// <summary>The load whose numbers appear in the text: our own number counts most, then the longest number; none when two loads are
    /// equally likely.</summary>
    public static TraySuggestion Suggest(string fileName, string text, IEnumerable<TrayLoad> loads)
    {
        var all = $"{Path.GetFileNameWithoutExtension(fileName).Replace('_', ' ')}\n{text}";
        var numbers = Numbers(all);
        var hits = loads
            .Select(l =>
                (
                    Load: l,
                    Hit: l.Numbers.Where(w => w.Length >= 3 && numbers.Contains(w.Trim().ToUpperInvariant()))
                        .OrderByDescending(w => w == l.Number ? 1000 : w.Length)
                        .FirstOrDefault()
                )
            )
            .Where(x => x.Hit is not null)
            .Select(x => (x.Load, x.Hit, Weight: x.Hit == x.Load.Number ? 1000 : x.Hit!.Length))
            .OrderByDescending(x => x.Weight)
            .Take(2)
            .ToList();
        var kind = Signs
            .Where(s => Regex.IsMatch(all, s.Words, RegexOptions.IgnoreCase))
            .Select(s => (DocumentKind?)s.Kind)
            .FirstOrDefault();
        return hits.Count == 0 || (hits.Count == 2 && hits[0].Weight == hits[1].Weight)
            ? new TraySuggestion(
                null,
                kind,
                hits.Count == 2 ? $"{hits[0].Hit} is on both {hits[0].Load.Number} and {hits[1].Load.Number}" : null
            )
            : new TraySuggestion(
                hits[0].Load.LoadId,
                kind,
                hits[0].Hit == hits[0].Load.Number ? "it shows our load number" : $"it shows {hits[0].Hit}"
            );
    }

    [GeneratedRegex(@"[\p{L}\d][\p{L}\d\-/\.]*")]
    private static partial Regex Token();
}
