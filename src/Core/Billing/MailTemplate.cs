using System.Text.RegularExpressions;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Billing;

/// <summary>Email text with names in braces, such as <c>{invoice}</c>, filled in when the email is written.</summary>
public static partial class MailTemplate
{
    public static readonly IReadOnlyList<string> Names =
    [
        "invoice",
        "total",
        "due",
        "loads",
        "references",
        "customer",
        "business",
        "phone",
    ];

    /// <summary>The text with each name filled in; unknown names are left as they are.</summary>
    public static string Fill(string words, IReadOnlyDictionary<string, string> values) =>
        Braced().Replace(words, m => values.TryGetValue(m.Groups[1].Value.ToLowerInvariant(), out var value) ? value : m.Value);

    public static IEnumerable<Problem> Unknown(string? words, string field) =>
        Braced()
            .Matches(words ?? "")
            .Select(m => m.Groups[1].Value)
            .Where(n => !Names.Contains(n.ToLowerInvariant()))
            .Distinct()
            .Select(n => new Problem(
                "name.unknown",
                $"{{{n}}} is not a placeholder; use {string.Join(", ", Names.Select(k => $"{{{k}}}"))}.",
                field
            ));

    /// <summary>Email addresses separated by commas, semicolons or line breaks.</summary>
    public static IReadOnlyList<string> Addresses(string? text) =>
        (text ?? "")
            .Split([',', ';', '\n'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .ToList();

    [GeneratedRegex(@"\{([A-Za-z ]+)\}")]
    private static partial Regex Braced();
}
