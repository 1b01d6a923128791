using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Line;

/// <summary>A stop with the town callers use for it, and its time zone.</summary>
public sealed record StopInTown(PlannedStop Stop, string Town, DateTimeZone Zone);

/// <summary>What a sentence records at one stop of one load.</summary>
/// <param name="At">When it happened.</param>
/// <param name="Problem">Why it cannot be recorded; null when it can.</param>
/// <param name="Doubt">Why it is unlikely; null when nothing contradicts it. It can still be recorded after a second confirmation.</param>
/// <param name="Change">The stop afterwards; null with a problem.</param>
public sealed record StopSentence(StopEvent Event, PlannedStop Stop, Instant At, string? Problem, string? Doubt, StopChange? Change)
{
    /// <summary>Below this share of the planned driving time a trip is doubted: plans use a loaded truck's usual speeds, and some drivers
    /// are faster.</summary>
    public const double FastestShare = 0.8;

    /// <summary>
    /// Finds what happened at which stop. A named town must be the stop's town: "spokane at stop" is never recorded in Fargo, even when
    /// Fargo is next.
    /// "6179 at tacoma" is an arrival when Tacoma is a stop of the load. Null when the sentence says nothing about a stop of this load.
    /// </summary>
    /// <param name="stops">All stops of the load in order.</param>
    /// <param name="covered">Whether a driver or carrier has the load.</param>
    public static StopSentence? Read(Sentence sentence, IReadOnlyList<StopInTown> stops, bool covered, Instant now, IRoads roads)
    {
        var named = stops.Where(s => sentence.Words.Any(w => Names(w, s.Town))).ToList();
        if (
            sentence.Event is null
            && (sentence.AtWord is not { } town || (named = stops.Where(s => Names(town, s.Town)).ToList()).Count == 0)
        )
        {
            return null;
        }

        var word = sentence.Event ?? StopEvent.Arrived;
        if (word == StopEvent.Delivered)
        {
            // "The Kalispell load was delivered" names the load by its pickup.
            named.RemoveAll(s => s.Stop.Kind == StopKind.Pickup);
        }

        var planned = stops.Select(s => s.Stop).ToList();
        var expected = Sentences.StopFor(word, planned);
        var stop =
            named.Count == 0 || named.Any(s => s.Stop == expected) ? expected : (named.FirstOrDefault(s => !s.Stop.Done) ?? named[^1]).Stop;
        if (stop is null)
        {
            return null;
        }

        var index = planned.IndexOf(stop);
        var at = sentence.When(now, stops[index].Zone);
        var decided = StopWork.Decide(planned, stop.Id, word, at, sentence.ReceivedBy, covered, now);
        return decided.Ok
            ? new StopSentence(
                word,
                stop,
                at,
                null,
                stop.Arrived is null ? DoubtAt(stops, index, decided.Value.Arrived ?? at, roads) : null,
                decided.Value
            )
            : new StopSentence(word, stop, at, decided.Problems[0].Message, null, null);
    }

    /// <summary>
    /// What remains to be recorded for a load whose stop was recorded earlier. "6145 delivered, 3 cases short" on a delivered load still reports
    /// the shortage, and the name of
    /// the signer is kept as a note. Otherwise the sentence is returned unchanged.
    /// </summary>
    public static Sentence AfterTheFact(Sentence sentence, StopSentence? happened, IReadOnlyList<PlannedStop> stops)
    {
        var over = stops.Count > 0 && stops.All(s => s.Done) && sentence.Event is null or StopEvent.Delivered && happened?.Change is null;
        return (over, sentence) switch
        {
            (true, { Report: not null, Report: not ReportKind.Note }) => sentence with
            {
                Event = null,
                Reason = sentence.Reason ?? (sentence.ReceivedBy is { } who ? $"signed by {who}" : null),
                ReceivedBy = null,
            },
            (true, { Report: null, ReceivedBy: { } by }) => sentence with
            {
                Event = null,
                Report = ReportKind.Note,
                Reason = $"signed by {by}",
                ReceivedBy = null,
            },
            _ => sentence,
        };
    }

    /// <summary>Why a truck can hardly have arrived by then: it left the stop before too late for the drive. Null when it can, or the stop
    /// before is unknown.</summary>
    public static string? DoubtAt(IReadOnlyList<StopInTown> stops, int index, Instant arrived, IRoads roads)
    {
        if (index == 0 || (stops[index - 1].Stop.Left ?? stops[index - 1].Stop.Delivered) is not { } left)
        {
            return null;
        }

        var (from, to) = (stops[index - 1], stops[index]);
        var drive = roads.Along([from.Stop.Point, .. to.Stop.Via ?? [], to.Stop.Point]);
        var earliest = left + Duration.FromMinutes(Math.Floor(drive.Minutes * FastestShare));
        return arrived >= earliest
            ? null
            : $"It left {from.Town} at {left.InZone(from.Zone).TimeOfDay:HH:mm}, {drive.WholeMiles:#,##0} miles away: {to.Town} is not possible before {earliest.InZone(to.Zone).LocalDateTime.Format()}.";
    }

    /// <summary>Whether a word names a town: its whole name or its first word, in any case.</summary>
    private static bool Names(string word, string town) =>
        word.Length >= 3
        && (
            string.Equals(word, town, StringComparison.OrdinalIgnoreCase)
            || string.Equals(word, town.Split(' ')[0], StringComparison.OrdinalIgnoreCase)
        );
}
