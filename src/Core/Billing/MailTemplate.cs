using System.Text.RegularExpressions;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Billing;

/// <summary>Words of a mail with names in braces, such as <c>{invoice}</c>, that are filled when it is written.</summary>
public static partial class MailTemplate
{
    public static readonly IReadOnlyList<string> Names = ["invoice", "total", "due", "loads", "references", "customer", "business", "phone"];

    /// <summary>The words with each name filled; names that are not known stay as they were written.</summary>
    public static string Fill(string words, IReadOnlyDictionary<string, string> values) =>
        Braced().Replace(words, m => values.TryGetValue(m.Groups[1].Value.ToLowerInvariant(), out var value) ? value : m.Value);

    public static IEnumerable<Problem> Unknown(string? words, string field) =>
        Braced().Matches(words ?? "").Select(m => m.Groups[1].Value).Where(n => !Names.Contains(n.ToLowerInvariant())).Distinct()
            .Select(n => new Problem("name.unknown", $"{{{n}}} is not a placeholder; use {string.Join(", ", Names.Select(k => $"{{{k}}}"))}.", field));

    /// <summary>Mail addresses with commas, semicolons or line ends between.</summary>
    public static IReadOnlyList<string> Addresses(string? text) =>
        (text ?? "").Split([',', ';', '\n'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Distinct(StringComparer.OrdinalIgnoreCase).ToList();

    [GeneratedRegex(@"\{([A-Za-z ]+)\}")]
    private static partial Regex Braced();
}
