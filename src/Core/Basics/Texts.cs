namespace SteadyLark.Core.Basics;

/// <summary>Small changes of texts that are shown.</summary>
public static class Texts
{
    /// <summary>Words in a sentence: <c>a, b and c</c>.</summary>
    /// <param name="words">At least one.</param>
    public static string Listed(this IReadOnlyList<string> words) =>
        words.Count == 1 ? words[0] : $"{string.Join(", ", words.SkipLast(1))} and {words[^1]}";

    /// <summary>With a capital first letter; for a text that is not empty.</summary>
    public static string Capitalized(this string text) => char.ToUpperInvariant(text[0]) + text[1..];

    /// <summary>At most so many characters, an ellipsis at the end where some are left out.</summary>
    /// <param name="most">At least 3.</param>
    public static string Shortened(this string text, int most) => text.Length <= most ? text : text[..(most - 3)] + "…";
}
