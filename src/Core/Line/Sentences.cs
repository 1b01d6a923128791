using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Line;

/// <summary>
/// Parses short sentences from phone calls: English, in nearly any order. Each rule consumes what it recognizes;
/// what is left identifies the load. Rules run from the most specific (a note, a reason, a name) to the least (a bare number).
/// </summary>
public static partial class Sentences
{
    private const string Count = @"(?:\d{1,3}(?:\.5)?|an?|half an?|a couple(?: of)?|one|two|three|four|five|six)";
    private const string Unit = @"(?:hours?|hrs?|h|minutes?|mins?|m)";
    private const string Pieces =
        @"(?:pieces?|pcs|cases?|pallets?|skids?|boxes|box|bags?|drums?|totes?|units?|cartons?|ctns?|bundles?|rolls?|cs|plts?)";
    private const string Clock =
        @"(?:(?<h>\d{1,2}):(?<m>\d{2}) ?(?<ap>am?|pm?)?|(?<h>\d{1,2}) ?(?<ap>am|pm|a|p)|(?<h>[01]\d|2[0-3])(?<m>[0-5]\d)|(?<word>noon|midnight))";
    private const string Day =
        @"(?<day>today|tonight|tomorrow|tom|mon(?:day)?|tue(?:s|sday)?|wed(?:nesday)?|thu(?:rs|rsday)?|fri(?:day)?|sat(?:urday)?|sun(?:day)?)";

    private static readonly (StopEvent Event, string[] Phrases)[] Verbs =
    [
        (
            StopEvent.Delivered,
            [
                "was delivered",
                "is delivered",
                "got delivered",
                "has delivered",
                "delivered",
                "unloaded",
                "is empty",
                "empty now",
                "all empty",
                "pod signed",
                "made delivery",
                "dropped it off",
                "got unloaded",
            ]
        ),
        (
            StopEvent.Left,
            [
                "loaded and left",
                "loaded and rolling",
                "loaded and gone",
                "has left",
                "just left",
                "left loaded",
                "left",
                "departed",
                "is loaded",
                "got loaded",
                "all loaded",
                "loaded out",
                "loaded",
                "is rolling",
                "rolling",
                "pulled out",
                "on the road",
                "on his way",
                "on her way",
                "under way",
            ]
        ),
        (
            StopEvent.Arrived,
            [
                "at the stop",
                "at stop",
                "has arrived",
                "just arrived",
                "arrived",
                "at the pickup",
                "at pickup",
                "at the delivery",
                "at delivery",
                "at the shipper",
                "at shipper",
                "at the receiver",
                "at receiver",
                "at the consignee",
                "at consignee",
                "at the customer",
                "at the dock",
                "at dock",
                "in the door",
                "backed in",
                "checked in",
                "on site",
                "on location",
                "is here",
                "is there",
                "got there",
                "made it",
                "waiting to load",
                "waiting to unload",
            ]
        ),
    ];

    private static readonly (ReportKind Kind, string[] Phrases)[] Troubles =
    [
        (
            ReportKind.Refused,
            [
                "was refused",
                "got refused",
                "is refused",
                "refused",
                "was rejected",
                "got rejected",
                "rejected",
                "turned away",
                "would not take it",
                "wouldn't take it",
                "won't take it",
                "will not take it",
                "won't unload him",
                "won't unload it",
            ]
        ),
        (
            ReportKind.Damaged,
            [
                "was damaged",
                "is damaged",
                "came damaged",
                "arrived damaged",
                "damaged",
                "has damage",
                "damage",
                "crushed",
                "broken open",
                "wet freight",
                "came wet",
            ]
        ),
        (ReportKind.Short, ["came up short", "came in short", "came short", "is short", "was short", "shortage", "short", "missing"]),
        (
            ReportKind.Breakdown,
            [
                "broke down",
                "breakdown",
                "has broken down",
                "breakdown",
                "blew a tire",
                "blown tire",
                "flat tire",
                "has a flat",
                "won't start",
                "engine light",
                "in the shop",
                "at the shop",
                "got towed",
                "being towed",
                "needs a tow",
                "truck died",
                "reefer quit",
                "reefer is down",
                "reefer down",
            ]
        ),
        (
            ReportKind.Delay,
            [
                "will be late",
                "going to be late",
                "gonna be late",
                "running late",
                "running behind",
                "is running late",
                "is late",
                "is delayed",
                "was delayed",
                "got delayed",
                "delayed",
                "delay",
                "held up",
                "is stuck",
                "stuck",
                "snowed in",
                "shut down for weather",
                "shut down",
                "road closed",
                "won't make it",
                "won't make",
                "can't make it",
                "behind schedule",
                "is behind",
                "behind",
                "late",
            ]
        ),
    ];

    private static readonly string[] Weekdays = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];

    private static readonly HashSet<string> SmallWords =
    [
        "the",
        "a",
        "an",
        "is",
        "it",
        "was",
        "has",
        "just",
        "at",
        "from",
        "for",
        "of",
        "with",
        "in",
        "on",
        "and",
        "he",
        "she",
        "they",
        "driver",
        "load",
        "truck",
        "now",
        "says",
        "said",
        "be",
        "by",
        "he's",
        "she's",
        "they're",
        "it's",
        "number",
        "no",
        "his",
        "her",
        "their",
        "there",
        "about",
        "around",
        "will",
        "until",
        "till",
        "that",
        "this",
        "to",
        "us",
        "hey",
        "hi",
        "please",
        "ok",
        "okay",
        "also",
        "still",
        "up",
        "as",
        "are",
        "were",
        "him",
        "came",
        "got",
        "going",
        "near",
        "receiver",
        "shipper",
        "consignee",
        "not",
    ];

    /// <summary>Never fails: what is not recognized stays among the words.</summary>
    public static Sentence Read(string text)
    {
        var rest = " " + Spaces().Replace(text.Trim(), " ") + " ";
        string? reason = null,
            receivedBy = null,
            seal = null;
        int? ago = null,
            pieces = null,
            late = null,
            newDay = null;
        LocalTime? time = null,
            newTime = null;
        ReportKind? report = null;
        IsoDayOfWeek? newWeekday = null;

        rest = Note().Replace(rest, m => Take(() => (report, reason) = (ReportKind.Note, m.Groups["note"].Value.Trim())), 1);
        if (report == ReportKind.Note)
        {
            // "note 2041 call before": the first number names the load.
            if (string.IsNullOrWhiteSpace(rest) && LeadingNumber().Match(reason!) is { Success: true } leading)
            {
                (rest, reason) = ($" {leading.Groups["n"].Value} ", reason![leading.Length..].Trim());
            }

            return new Sentence(null, report, null, null, null, null, null, null, null, null, null, reason, Left(rest, summary: true));
        }

        rest = Because().Replace(rest, m => Take(() => reason = m.Groups["why"].Value.Trim().TrimEnd('.')), 1);
        rest = SignedBy().Replace(rest, m => Take(() => receivedBy = m.Groups["who"].Value.Trim()), 1);
        rest = SealNumber().Replace(rest, m => Take(() => seal = m.Groups["seal"].Value), 1);
        rest = Ago().Replace(rest, m => Take(() => ago = Minutes(m)), 1);
        rest = NewTimeSaid()
            .Replace(
                rest,
                m =>
                    ToTime(m) is { } t
                        ? Take(() => (newTime, newDay, newWeekday, report) = (t, DaysAhead(m), Weekday(m), ReportKind.Delay))
                        : m.Value,
                1
            );
        rest = LateBy().Replace(rest, m => Take(() => (late, report) = (Minutes(m), ReportKind.Delay)), 1);
        if (late is null)
        {
            rest = ByLate().Replace(rest, m => Take(() => (late, report) = (Minutes(m), ReportKind.Delay)), 1);
        }

        rest = WhatCount().Replace(rest, m => Take(() => (pieces, report) = (Number(m.Groups["n"].Value), What(m))), 1);
        if (pieces is null)
        {
            rest = CountWhat().Replace(rest, m => Take(() => (pieces, report) = (Number(m.Groups["n"].Value), What(m))), 1);
        }

        rest = Ends().Replace(rest, " ");
        rest = WithCount().Replace(rest, " ");

        // The segment between commas that holds the exception, and those after it that give the reason.
        if (report is null or ReportKind.Delay)
        {
            (rest, report, var why) = Trouble(rest, report, time: newTime is not null || late is not null);
            reason ??= why;
        }
        else
        {
            (rest, var why) = After(rest);
            reason ??= why;
        }

        rest = Spaces().Replace($" {rest.Replace(',', ' ').Replace(';', ' ')} ", " ");
        rest = ClockTime().Replace(rest, m => ToTime(m) is { } t ? Take(() => time = t) : m.Value, 1);
        StopEvent? word = null;
        var after = 0;
        foreach (var (verb, phrases) in Verbs)
        {
            // "Got loaded, left 0830" says the same thing twice.
            foreach (var phrase in phrases.Where(_ => word is null || word == verb))
            {
                if (Cut(ref rest, phrase) is var at && at >= 0)
                {
                    (word, after) = (verb, Math.Max(after, at));
                }
            }
        }

        if (seal is not null && word is null)
        {
            word = StopEvent.Left;
        }

        var words = Left(rest, word is not null || report is not null);

        // A bare number in a sentence about a stop is a time if something else tells the load: "2041 left 0940", "okafor delivered 1405".
        if (word is not null && time is null && ago is null && words.Count > 1)
        {
            var last = words.FindLastIndex(w => BareTime().IsMatch(w));
            if (
                last >= 0
                && (words.Count(w => w.All(char.IsAsciiDigit)) > 1 || rest.LastIndexOf(words[last], StringComparison.Ordinal) >= after)
                && ToTime(BareTime().Match(words[last])) is { } t
            )
            {
                time = t;
                words.RemoveAt(last);
            }
        }

        // A seal number alone is searched for, like any other.
        if (words.Count == 0 && seal is not null && report is null)
        {
            return new Sentence(null, null, null, null, null, null, null, null, null, null, null, null, [seal]);
        }

        // With only an exception, a time is the new ETA.
        if (word is null && report is ReportKind.Delay or ReportKind.Breakdown && newTime is null && time is not null)
        {
            (newTime, time) = (time, null);
        }

        var atWord =
            word is null && report is null && AtPlace().Match(rest) is { Success: true } atPlace ? atPlace.Groups["town"].Value : null;
        return new Sentence(
            word,
            report,
            time,
            ago,
            receivedBy,
            seal,
            pieces,
            late,
            newTime,
            newDay,
            newWeekday,
            reason,
            atWord is null ? words : Left(rest, summary: true),
            atWord
        );

        static string Take(Action keep)
        {
            keep();
            return " ";
        }
    }

    /// <summary>The stop an event is about: the one in progress, else the next. Null when none fits.</summary>
    public static PlannedStop? StopFor(StopEvent word, IReadOnlyList<PlannedStop> stops)
    {
        var next = stops.FirstOrDefault(s =>
            s.Left is null && !(s.Done && stops.SkipWhile(x => x != s).Skip(1).Any(x => x.Arrived is not null))
        );
        return word switch
        {
            StopEvent.Arrived => stops.FirstOrDefault(s => !s.Done) is { Arrived: null } s ? s : null,
            StopEvent.Delivered => stops.FirstOrDefault(s => !s.Done) is { Kind: StopKind.Delivery } s ? s : null,
            _ => next,
        };
    }

    /// <returns>Where the phrase was, or -1.</returns>
    private static int Cut(ref string rest, string phrase)
    {
        var at = rest.IndexOf($" {phrase} ", StringComparison.OrdinalIgnoreCase);
        if (at >= 0)
        {
            rest = rest[..at] + " " + rest[(at + phrase.Length + 1)..];
        }

        return at;
    }

    /// <summary>Finds an exception phrase. Later segments that hold nothing else are its reason.</summary>
    private static (string Remains, ReportKind? Kind, string? Why) Trouble(string rest, ReportKind? known, bool time)
    {
        var segments = Segments(rest);
        foreach (var (kind, phrases) in Troubles)
        {
            // For a delay already recognized, the text after a comma is the reason.
            for (var i = 0; i < (kind == ReportKind.Delay && known is not null ? 1 : segments.Count); i++)
            {
                foreach (var phrase in phrases)
                {
                    var segment = segments[i];
                    var at = Cut(ref segment, phrase);
                    if (at < 0)
                    {
                        continue;
                    }

                    // "Delivered late" adds nothing: the stop's own time shows it.
                    if (
                        kind == ReportKind.Delay
                        && phrase is "late" or "behind"
                        && known is null
                        && Verbs.Any(v => v.Phrases.Any(p => rest.Contains($" {p} ", StringComparison.OrdinalIgnoreCase)))
                    )
                    {
                        segments[i] = segment;
                        return (string.Join(',', segments), null, null);
                    }

                    // "Broke down near Drummond": the town is where the truck is, not where the load goes.
                    string? where = null;
                    if (
                        kind is ReportKind.Breakdown or ReportKind.Delay
                        && Place().Match(segment[at..]) is { Success: true } place
                        && Left(segment[..at], summary: true).Count > 0
                    )
                    {
                        where = $"{phrase} {place.Value.Trim()}";
                        segment = segment[..at] + " ";
                    }

                    segments[i] = segment;
                    var (left, why) = Why(segments, i + 1);
                    why = where is null || why is null ? where ?? why : $"{where}, {why}";
                    why ??=
                        kind == ReportKind.Breakdown || phrase is "snowed in" or "road closed" or "shut down for weather" or "reefer quit"
                            ? phrase
                            : null;
                    return (left, kind, why);
                }
            }
        }

        if (known is null)
        {
            return (rest, null, null);
        }

        var (after, reason) = Why(segments, 1);
        return (after, known, time ? reason : null);
    }

    /// <summary>The segments between commas, each padded with a space.</summary>
    private static List<string> Segments(string rest) =>
        rest.Split([',', ';']).Select(s => $" {Spaces().Replace(s.Trim(' ', '.', '!'), " ")} ").ToList();

    private static (string Remains, string? Why) After(string rest) => Why(Segments(rest), 1);

    /// <summary>Segments from an index on that hold words, without a verb or a bare number, are the reason.</summary>
    private static (string Remains, string? Why) Why(List<string> segments, int from)
    {
        var why = new List<string>();
        for (var i = segments.Count - 1; i >= Math.Max(1, from); i--)
        {
            var segment = segments[i].Trim();
            if (
                segment.Length == 0
                || !segment.Any(char.IsLetter)
                || (
                    !segment.StartsWith("not ", StringComparison.OrdinalIgnoreCase)
                    && (
                        ClockTime().IsMatch($" {segment} ")
                        || Verbs.Any(v => v.Phrases.Any(p => $" {segment} ".Contains($" {p} ", StringComparison.OrdinalIgnoreCase)))
                    )
                )
            )
            {
                continue;
            }

            why.Insert(0, segment);
            segments[i] = " ";
        }

        return (string.Join(',', segments), why.Count == 0 ? null : string.Join(", ", why));
    }

    private static List<string> Left(string rest, bool summary) =>
        rest.Split([' ', ',', ';', '!', '?'], StringSplitOptions.RemoveEmptyEntries)
            .Select(w => w.Trim('.', ':', '#', '"', '“', '”'))
            .Where(w => w.Length > 0)
            .Where(w => !summary || !SmallWords.Contains(w.ToLowerInvariant()))
            .ToList();

    private static ReportKind What(Match m) =>
        m.Groups["what"].Value.ToLowerInvariant() is "short" or "missing" or "shy" ? ReportKind.Short : ReportKind.Damaged;

    private static int Number(string text) => int.Parse(text, CultureInfo.InvariantCulture);

    private static int Minutes(Match m)
    {
        var words = m.Groups["n"].Value.ToLowerInvariant();
        var count = words switch
        {
            "a" or "an" or "one" => 1m,
            "half an" or "half a" => 0.5m,
            "a couple" or "a couple of" or "two" => 2m,
            "three" => 3m,
            "four" => 4m,
            "five" => 5m,
            "six" => 6m,
            _ => decimal.Parse(words, CultureInfo.InvariantCulture),
        };
        if (m.Groups["half"].Success)
        {
            count += 0.5m;
        }

        return (int)Math.Round(count * (m.Groups["unit"].Value.StartsWith('h') || m.Groups["unit"].Value.StartsWith('H') ? 60 : 1));
    }

    /// <summary>Days from today to a day given relative to it; null when none was given.</summary>
    private static int? DaysAhead(Match m) =>
        m.Groups["day"].Value.ToLowerInvariant() switch
        {
            "" => null,
            "today" or "tonight" => 0,
            "tomorrow" or "tom" => 1,
            _ => null,
        };

    /// <summary>A weekday given by name; null when none was given.</summary>
    private static IsoDayOfWeek? Weekday(Match m) =>
        Array.FindIndex(Weekdays, w => m.Groups["day"].Value.StartsWith(w, StringComparison.OrdinalIgnoreCase)) is var at and >= 0
            ? (IsoDayOfWeek)(at + 1)
            : null;

    private static LocalTime? ToTime(Match m)
    {
        if (m.Groups["word"].Success)
        {
            return m.Groups["word"].Value.StartsWith("n", StringComparison.OrdinalIgnoreCase) ? LocalTime.Noon : LocalTime.Midnight;
        }

        var hour = Number(m.Groups["h"].Value);
        var minute = m.Groups["m"].Success && m.Groups["m"].Length > 0 ? Number(m.Groups["m"].Value) : 0;
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

    [GeneratedRegex(@" (?:at|in) (?<town>\p{L}{3,})(?: \p{L}+){0,2} +$", RegexOptions.IgnoreCase)]
    private static partial Regex AtPlace();

    [GeneratedRegex(@"[.:!?](?= )")]
    private static partial Regex Ends();

    [GeneratedRegex(@" with \d{1,6} " + Pieces + "(?= |,)", RegexOptions.IgnoreCase)]
    private static partial Regex WithCount();

    [GeneratedRegex(@"^ +(?:near|outside|in|at|on|by|west of|east of|north of|south of|past) .+$", RegexOptions.IgnoreCase)]
    private static partial Regex Place();

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();

    [GeneratedRegex(@"(?: |^)(?:note(?:d| that)?|remark|fyi|memo)(?:[:,]| -)? (?<note>\S.*)$", RegexOptions.IgnoreCase)]
    private static partial Regex Note();

    [GeneratedRegex(@"^(?:load )?#?(?<n>\d{3,})[ ,:]+", RegexOptions.IgnoreCase)]
    private static partial Regex LeadingNumber();

    [GeneratedRegex(@",? (?:because of|because|due to|on account of|reason(?: is|:)?|owing to) (?<why>[^,;]+)", RegexOptions.IgnoreCase)]
    private static partial Regex Because();

    [GeneratedRegex(
        @" (?:signed(?: for)? by|received by|taken by|signed) (?<who>[\p{L}][\p{L}'\-. ]*?)(?= at \d| \d|,|;| $)",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex SignedBy();

    [GeneratedRegex(
        @",? (?:with )?seal(?:ed)?(?: (?:number|no\.?|nr\.?|is|it|intact))*[ #:]+(?<seal>(?=[A-Za-z\-]*\d)[A-Za-z0-9\-]{3,20})(?=[ ,;.])",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex SealNumber();

    [GeneratedRegex(@",? (?<n>" + Count + @") ?(?<unit>" + Unit + @")(?<half> and a half)? ago(?=[ ,;.])", RegexOptions.IgnoreCase)]
    private static partial Regex Ago();

    [GeneratedRegex(
        @",? (?:(?:new|revised|updated|his|her|the)? ?(?:eta|etas)(?: is| of| now|:)?|new time(?: is|:)?|new appointment(?: is|:)?|(?:now )?expected(?: at| by| in)?|(?:will|he'll|she'll|they'll|should|can|could) be there(?: at| by| around| about)?|be there (?:at|by|around)|(?:delayed |late |pushed |moved |held up |held )?(?:until|till|til)|not before|(?:delayed|pushed|moved|rescheduled|resched) to)(?: (?:(?:on|next) )?"
            + Day
            + @")?(?:,? (?:at|by|around))? "
            + Clock
            + @"(?: (?:on )?"
            + Day
            + @")?(?=[ ,;.])",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex NewTimeSaid();

    [GeneratedRegex(
        @"(?: (?:running|going to be|gonna be|will be|be|is|about|around|approximately))* (?<n>"
            + Count
            + @") ?(?<unit>"
            + Unit
            + @")(?<half> and a half)? (?:late|behind(?: schedule)?|delay(?:ed)?|out)(?=[ ,;.])",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex LateBy();

    [GeneratedRegex(
        @"(?: (?:running|is|will be|was|got|going to be|gonna be))* (?:delayed|delay|late|behind|held up|stuck)(?: by| of| about| around| for|:)* (?<n>"
            + Count
            + @") ?(?<unit>"
            + Unit
            + @")(?<half> and a half)?(?=[ ,;.])",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex ByLate();

    [GeneratedRegex(
        @",? (?:is |was |came (?:up )?|were )?(?<what>short|missing|shy|damaged|crushed|broken)(?: by| of|:)? (?<n>\d{1,6})(?: "
            + Pieces
            + @")?(?: of \w+)?(?=[ ,;.])",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex WhatCount();

    [GeneratedRegex(
        @",? (?:(?<n>\d{1,6}) "
            + Pieces
            + @"(?: of \w+)?|(?<n>\d{1,2}))(?: is| are| was| were| came| came up| arrived)? (?<what>short|missing|shy|damaged|crushed|broken|wet)(?=[ ,;.])",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex CountWhat();

    [GeneratedRegex(
        @" (?:(?:at|@) ?)?(?:(?<h>\d{1,2}):(?<m>\d{2}) ?(?<ap>am?|pm?)?|(?<h>\d{1,2})(?<m>\d{2})? ?(?<ap>am|pm|a|p)|(?<=at |@ ?)(?<h>\d{2})(?<m>\d{2})|(?<=at )(?<h>\d{1,2})|(?<=at )(?<word>noon|midnight))(?= |,)",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex ClockTime();

    [GeneratedRegex(@"^(?<h>\d{2})(?<m>\d{2})$")]
    private static partial Regex BareTime();
}
