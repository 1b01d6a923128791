using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Line;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Line;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Line;

/// <summary>Something the line would do, shown before Enter does it.</summary>
/// <param name="Title">What would be recorded: "2041: left at 09:42".</param>
/// <param name="Detail">The load and stop.</param>
/// <param name="Button">The button's label.</param>
/// <param name="Event">What happened at the stop, or null when there is only a report.</param>
/// <param name="Report">The report that goes with or replaces the event, or null.</param>
/// <param name="Problem">Why it cannot be recorded; null when it can.</param>
/// <param name="Doubt">Why it is unlikely; null when nothing contradicts it. A second confirmation records it.</param>
public sealed record LineAction(
    string Title,
    string Detail,
    string Button,
    long LoadId,
    long? StopId,
    StopEvent? Event,
    Instant At,
    string? ReceivedBy,
    string? Seal,
    ReportRequest? Report,
    string? Problem,
    string? Doubt
);

/// <summary>The line's response to what was typed.</summary>
/// <param name="Actions">Possible actions, most likely first; empty when the sentence records nothing.</param>
/// <param name="Found">What it found.</param>
public sealed record LineAnswer(IReadOnlyList<LineAction> Actions, IReadOnlyList<Found> Found);

/// <summary>Turns a sentence into possible actions.</summary>
public static class LineCommands
{
    private const int MaxActions = 3;

    public static async Task<LineAnswer> Answer(NpgsqlConnection db, string text, Access access, Instant now, DateTimeZone zone)
    {
        var sentence = Sentences.Read(text);
        var kinds = FoundKinds.Of(access);
        var mayRoll = access.Has(Right.LoadsRoll);
        var found = await FindStore.Find(db, sentence.Words, kinds, 12);
        if ((sentence.Event is null && sentence.Report is null && sentence.AtWord is null && sentence.ReceivedBy is null) || !mayRoll)
        {
            return new LineAnswer([], found);
        }

        var loads = found.Where(f => f.Kind == "load").ToList();
        if (loads.Count < 8)
        {
            loads = await FindStore.Find(db, sentence.Words, ["load"], 30);
        }

        var rows = (await LoadReads.ByIds(db, loads.Select(l => l.Id)))
            .Where(l =>
                l.State is LoadState.Covered or LoadState.Rolling or LoadState.Delivered
                || (sentence.Report == ReportKind.Note && l.State != LoadState.Cancelled)
            )
            .ToDictionary(l => l.Id);
        var actions = loads
            .Where(l => rows.ContainsKey(l.Id))
            .Select(l => Action(rows[l.Id], sentence, now, zone))
            .OfType<LineAction>()
            .OrderBy(a => a.Problem is not null)
            .Take(MaxActions)
            .ToList();
        return new LineAnswer(actions, found);
    }

    private static LineAction? Action(LoadRow load, Sentence sentence, Instant now, DateTimeZone zone)
    {
        if (!load.Stops.All(s => s.CanBePlanned) && sentence.Report != ReportKind.Note)
        {
            return null;
        }

        var stops = load
            .Stops.Where(s => s.CanBePlanned)
            .Select(s => new StopInTown(s.Planned(), s.Town ?? "", WallClock.Zone(s.Zone) ?? zone))
            .ToList();
        var planned = stops.Select(s => s.Stop).ToList();
        var detail =
            $"{load.Customer}, {(load.Stops.Count > 0 ? $"{load.Stops[0].Town} to {load.Stops[^1].Town}" : "no stops yet")} · {load.Who ?? "not covered yet"}";
        string? summary = null,
            problem = null;
        var happened = StopSentence.Read(sentence, stops, load.Who is not null, now, Routing.Roads);
        sentence = StopSentence.AfterTheFact(sentence, happened, planned);
        if (sentence.Event is null && sentence.Report is not null)
        {
            happened = null;
        }

        // The event must not be lost next to the report.
        if (happened is null && (sentence.Event is not null || sentence.Report is null))
        {
            return null;
        }

        if (happened is not null)
        {
            problem = happened.Problem;
            var at = stops.First(s => s.Stop == happened.Stop);
            if (happened.Change is { } change)
            {
                // The report of the same sentence follows.
                planned[planned.IndexOf(happened.Stop)] = happened.Stop with
                {
                    Arrived = change.Arrived,
                    Left = change.Left,
                    Delivered = change.Delivered,
                };
            }

            var verb = happened.Event switch
            {
                StopEvent.Arrived => "at stop",
                StopEvent.Delivered => "delivered",
                _ => at.Stop.Kind == StopKind.Pickup ? "loaded and left" : "left",
            };
            summary =
                $"{verb} {happened.At.InZone(at.Zone).TimeOfDay:HH:mm} in {at.Town}"
                + (sentence.Seal is { } seal ? $", seal {seal}" : "")
                + (sentence.ReceivedBy is { } by ? $", signed {by}" : "");
            detail +=
                at.Stop.Arrived is { } arrived && happened.Event != StopEvent.Arrived
                    ? $", arrived {arrived.InZone(at.Zone).TimeOfDay:HH:mm}"
                    : "";
        }

        ReportRequest? request = null;
        if (sentence.Report is { } kind)
        {
            var towns = stops.Select(s => s.Town).ToList();
            var ahead = planned.FindIndex(s => !s.Done && s.Arrived is null);
            var expected = ahead < 0 ? null : sentence.ExpectedAt(planned[ahead].Window.Until, now, stops[ahead].Zone);
            var words = sentence.Reason
                ?? (
                    sentence.LateBy is { } late ? $"{Duration.FromMinutes(late).Format()} late"
                    : kind == ReportKind.Delay ? "late"
                    : kind.Format()
                );
            var decided = Reports.Decide(
                planned,
                towns,
                new ReportOrder(kind, null, words, expected, sentence.Pieces),
                load.Who is not null,
                now
            );
            problem ??= decided.Ok ? null : decided.Problems[0].Message;
            request = new ReportRequest(kind, decided.Ok ? decided.Value.StopId : null, words, expected, sentence.Pieces);
            var town = decided.Ok && decided.Value.StopId is { } id ? towns[planned.FindIndex(s => s.Id == id)] : null;
            var newTime = expected is { } e ? $", now {e.InZone(stops[ahead].Zone).LocalDateTime.Format()}" : "";
            var report =
                kind == ReportKind.Note
                    ? $"note “{words}”"
                    : $"{(sentence.Pieces is { } n ? $"{n} " : "")}{kind.Format()}{(town is null ? "" : $" for {town}")}{newTime}"
                        + (words == kind.Format() ? "" : $": {words}");
            summary = summary is null ? report : $"{summary}; {report}";
        }

        return new LineAction(
            $"{load.Number}: {summary}",
            detail,
            happened?.Doubt is null ? "Record it" : "Record it anyway",
            load.Id,
            happened?.Stop.Id,
            happened?.Event,
            happened?.At ?? now,
            sentence.ReceivedBy,
            sentence.Seal,
            request,
            problem,
            happened?.Doubt
        );
    }
}
