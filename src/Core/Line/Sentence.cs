using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Line;

/// <summary>What a caller said, taken apart.</summary>
/// <param name="Word">What happened at a stop, or null when nothing was said to have happened and one only looks.</param>
/// <param name="Time">The wall-clock time that was said, or null for now.</param>
/// <param name="MinutesAgo">For "20 min ago"; null otherwise.</param>
/// <param name="ReceivedBy">Who signed, when it was said.</param>
/// <param name="Words">What is left: numbers and words that tell which load is meant.</param>
public sealed record Sentence(StopWord? Word, LocalTime? Time, int? MinutesAgo, string? ReceivedBy, IReadOnlyList<string> Words)
{
    /// <summary>When it happened: the latest past moment with that wall-clock time at the stop; now when no time was said.</summary>
    public Instant When(Instant now, DateTimeZone zone)
    {
        if (MinutesAgo is { } minutes)
        {
            return now - Duration.FromMinutes(minutes);
        }

        if (Time is not { } time)
        {
            return now;
        }

        var today = now.InZone(zone).Date;
        var at = Basics.WallClock.ResolveLeniently(today + time, zone);
        return at <= now + StopWork.ClockDrift ? at : Basics.WallClock.ResolveLeniently(today.PlusDays(-1) + time, zone);
    }
}

/// <summary>Reads the short sentences that are said on the phone. English, in any order, small words ignored.</summary>
public static partial class Sentences
{
    private static readonly (StopWord Word, string[] Phrases)[] Verbs =
    [
        (StopWord.Delivered, ["was delivered", "is delivered", "got delivered", "delivered", "unloaded", "is empty", "pod signed"]),
        (StopWord.Left, ["has left", "just left", "left", "departed", "is loaded", "got loaded", "loaded", "is rolling", "pulled out", "on the road"]),
        (StopWord.Arrived, ["at the stop", "at stop", "has arrived", "just arrived", "arrived", "at the pickup", "at pickup", "at the delivery", "at delivery",
            "at the shipper", "at shipper", "at the receiver", "at receiver", "at the dock", "at dock", "checked in", "on site", "is here", "is there"]),
    ];

    private static readonly HashSet<string> SmallWords =
        ["the", "a", "an", "is", "it", "was", "has", "just", "at", "from", "for", "of", "with", "in", "on", "and", "he", "she", "they", "driver", "load", "truck", "now", "says", "said"];

    /// <summary>Never fails: what is not understood stays among the words.</summary>
    public static Sentence Read(string text)
    {
        var rest = " " + Spaces().Replace(text.Trim(), " ") + " ";
        string? receivedBy = null;
        rest = SignedBy().Replace(rest, m => Take(m, () => receivedBy = m.Groups["who"].Value.Trim()), 1);

        // Commas part what was said; from here on only the words count.
        rest = Spaces().Replace($" {rest.Replace(',', ' ').Replace(';', ' ')} ", " ");
        int? ago = null;
        rest = Ago().Replace(
            rest,
            m => Take(m, () => ago = int.Parse(m.Groups["n"].Value, CultureInfo.InvariantCulture) * (m.Groups["unit"].Value.StartsWith('h') ? 60 : 1)),
            1);

        LocalTime? time = null;
        rest = ClockTime().Replace(rest, m => ToTime(m) is { } t ? Take(m, () => time = t) : m.Value, 1);

        StopWord? word = null;
        foreach (var (verb, phrases) in Verbs)
        {
            foreach (var phrase in phrases)
            {
                var at = rest.IndexOf($" {phrase} ", StringComparison.OrdinalIgnoreCase);
                if (word is null && at >= 0)
                {
                    word = verb;
                    rest = rest[..at] + " " + rest[(at + phrase.Length + 1)..];
                }
            }
        }

        var words = rest
            .Split([' ', ',', ';', '.', '!', '?'], StringSplitOptions.RemoveEmptyEntries)
            .Where(w => word is null || !SmallWords.Contains(w.ToLowerInvariant()))
            .ToList();

        // A second bare number in a sentence about a stop is a time: "2041 left 0940".
        if (word is not null && time is null && ago is null && words.Count(w => w.All(char.IsAsciiDigit)) > 1)
        {
            var last = words.FindLastIndex(w => w.All(char.IsAsciiDigit));
            if (BareTime().Match(words[last]) is { Success: true } m && ToTime(m) is { } t)
            {
                time = t;
                words.RemoveAt(last);
            }
        }

        return new Sentence(word, time, ago, receivedBy, words);

        static string Take(Match match, Action keep)
        {
            keep();
            return " ";
        }
    }

    /// <summary>The stop a word is about: the one being worked, else the next to come. Null when none fits.</summary>
    public static PlannedStop? StopFor(StopWord word, IReadOnlyList<PlannedStop> stops)
    {
        var next = stops.FirstOrDefault(s => s.Left is null && !(s.Done && stops.SkipWhile(x => x != s).Skip(1).Any(x => x.Arrived is not null)));
        return word switch
        {
            StopWord.Arrived => stops.FirstOrDefault(s => !s.Done) is { Arrived: null } s ? s : null,
            StopWord.Delivered => stops.FirstOrDefault(s => !s.Done) is { Kind: StopKind.Delivery } s ? s : null,
            _ => next,
        };
    }

    private static LocalTime? ToTime(Match m)
    {
        var hour = int.Parse(m.Groups["h"].Value, CultureInfo.InvariantCulture);
        var minute = m.Groups["m"].Success && m.Groups["m"].Length > 0 ? int.Parse(m.Groups["m"].Value, CultureInfo.InvariantCulture) : 0;
        var half = m.Groups["ap"].Value.ToLowerInvariant();
        if (half.Length > 0)
        {
            if (hour is < 1 or > 12)
            {
                return null;
            }

            hour = (hour % 12) + (half[0] == 'p' ? 12 : 0);
        }

        return hour < 24 && minute < 60 ? new LocalTime(hour, minute) : null;
    }

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();

    [GeneratedRegex(@" (?:signed(?: for)? by|received by|signed) (?<who>[\p{L}][\p{L}'\-. ]*?)(?= at \d| \d|,|;| $)", RegexOptions.IgnoreCase)]
    private static partial Regex SignedBy();

    [GeneratedRegex(@" (?<n>\d{1,3}) ?(?<unit>min|mins|minutes|m|h|hour|hours|hr|hrs) ago(?=[ ,;.])", RegexOptions.IgnoreCase)]
    private static partial Regex Ago();

    [GeneratedRegex(@" (?:(?:at|@) ?)?(?:(?<h>\d{1,2}):(?<m>\d{2}) ?(?<ap>am?|pm?)?|(?<h>\d{1,2}) ?(?<ap>am|pm|a|p)|(?<=at |@ ?)(?<h>\d{2})(?<m>\d{2}))(?= |,)", RegexOptions.IgnoreCase)]
    private static partial Regex ClockTime();

    [GeneratedRegex(@"^(?<h>\d{2})(?<m>\d{2})$")]
    private static partial Regex BareTime();
}
