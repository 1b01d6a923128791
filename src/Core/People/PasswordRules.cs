using SteadyLark.Core.Basics;

namespace SteadyLark.Core.People;

/// <summary>
/// Which passwords are refused: too short, too long, common ones, and those made of one's own name. No rules about character types and no
/// expiry (NIST SP 800-63B § 5.1.1.2).
/// </summary>
public static class PasswordRules
{
    /// <summary>Characters.</summary>
    public const int Min = 12;

    /// <summary>Characters; what is longer would only cost time to hash.</summary>
    public const int Max = 128;

    /// <param name="common">Common passwords in lower case.</param>
    /// <param name="own">The user's own username, names, email and company.</param>
    /// <returns>The problem, or null when the password may be used.</returns>
    public static Problem? Refuses(string? password, IReadOnlySet<string> common, IEnumerable<string?> own, string field = "password")
    {
        if (string.IsNullOrEmpty(password))
        {
            return new Problem("missing", "A password is required.", field);
        }

        if (password.Length is < Min or > Max)
        {
            return new Problem("password.length", $"A password must have {Min} to {Max} characters.", field);
        }

        var lower = password.ToLowerInvariant();
        if (
            lower.Distinct().Count() < 5
            || Stem(lower).Length < 4
            || Repeats(lower)
            || common.Contains(lower)
            || common.Contains(Stem(lower))
        )
        {
            return new Problem("password.common", "This password is too easy to guess: use several unrelated words.", field);
        }

        // What must remain of it without one's own names.
        var rest = lower;
        foreach (var word in own.SelectMany(Words).Distinct().OrderByDescending(w => w.Length))
        {
            rest = rest.Replace(word, "", StringComparison.Ordinal);
        }

        return rest.Length < Min / 2
            ? new Problem("password.own", "This password is mostly your own or the company's name: use several unrelated words.", field)
            : null;
    }

    /// <summary>Without digits and symbols at its ends: <c>dragon</c> of <c>dragon123456!</c>.</summary>
    private static string Stem(string lower) => lower.Trim([.. "0123456789!@#$%^&*()-_=+.,;:?/ "]);

    /// <summary>Whether it repeats one part of at most half its length: <c>trucktrucktruck</c>.</summary>
    private static bool Repeats(string lower) =>
        Enumerable.Range(1, lower.Length / 2).Any(n => lower.Select((c, i) => c == lower[i % n]).All(same => same));

    private static IEnumerable<string> Words(string? text) =>
        (text ?? "").ToLowerInvariant().Split([.. " @.,-_'"], StringSplitOptions.RemoveEmptyEntries).Where(w => w.Length >= 3);
}
