using System.Text.RegularExpressions;

namespace SteadyLark.Core.Documents;

/// <summary>A load that an incoming email may be about.</summary>
/// <param name="IsClosed">Billed, closed or canceled: its documents no longer change.</param>
/// <param name="Addresses">Known email addresses of its customer, carriers and drivers.</param>
public sealed record EmailLoad(long LoadId, string Number, bool IsClosed, IReadOnlyList<string> Addresses);

/// <summary>Where an incoming email and its attachments go. Nothing in an email is trusted.</summary>
public static partial class InboundEmail
{
    /// <summary>
    /// Load numbers named in a subject: only those after a word that says so, such as <c>load 6145</c>, <c>Load #6145</c> or <c>our load
    /// no. MT-7</c>.
    /// A bare number could be anything: a year, an amount, a phone number.
    /// </summary>
    public static IReadOnlyList<string> LoadNumbers(string subject) =>
        Named()
            .Matches(subject)
            .Select(m => m.Groups[1].Value.TrimEnd('-', '.', '/'))
            .Where(n => n.Any(char.IsAsciiDigit))
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .Take(5)
            .ToList();

    /// <summary>
    /// The load to which attachments are filed automatically: one named in the subject, still open, with a known sender. Null when a
    /// person must decide: the attachments then wait in the tray. Senders can be forged, so this saves work and proves nothing.
    /// </summary>
    public static EmailLoad? FiledTo(string from, IEnumerable<EmailLoad> named) =>
        named.FirstOrDefault(l =>
            !l.IsClosed && l.Addresses.Any(a => string.Equals(a.Trim(), from.Trim(), StringComparison.OrdinalIgnoreCase))
        );

    [GeneratedRegex(@"\bload(?:\s+(?:no\.?|number|nr\.?))?\s*[:#]?\s*([A-Za-z0-9][A-Za-z0-9\-./]{1,29})", RegexOptions.IgnoreCase)]
    private static partial Regex Named();
}
