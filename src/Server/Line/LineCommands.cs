using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Line;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Line;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Line;

/// <summary>Something that the line would do, shown before Enter does it.</summary>
/// <param name="Title">What would be recorded: 2041: left at 09:42.</param>
/// <param name="Detail">Of which load and stop.</param>
/// <param name="Button">The verb on the button.</param>
/// <param name="Problem">Why it cannot be done; null when it can.</param>
public sealed record LineAction(string Title, string Detail, string Button, long LoadId, long StopId, StopWord Word, Instant At, string? ReceivedBy, string? Problem);

/// <summary>What the line answers to what was typed.</summary>
/// <param name="Actions">What it would do, the likeliest first; empty when nothing was said to have happened.</param>
/// <param name="Found">What it found.</param>
public sealed record LineAnswer(IReadOnlyList<LineAction> Actions, IReadOnlyList<Found> Found);

/// <summary>The words of a call, turned into what one would do.</summary>
public static class LineCommands
{
    private const int MostActions = 3;

    public static async Task<LineAnswer> Answer(NpgsqlConnection db, string text, bool mayRoll, bool seesMoney, Instant now, DateTimeZone zone)
    {
        var sentence = Sentences.Read(text);
        var kinds = seesMoney ? null : new[] { "load", "company", "driver", "place" };
        var found = await FindStore.Find(db, sentence.Words, kinds, 12);
        if (sentence.Word is not { } word || !mayRoll)
        {
            return new LineAnswer([], found);
        }

        var loads = found.Where(f => f.Kind == "load").ToList();
        if (loads.Count < 8)
        {
            loads = await FindStore.Find(db, sentence.Words, ["load"], 30);
        }

        var rows = (await LoadReads.ByIds(db, loads.Select(l => l.Id)))
            .Where(l => l.State is LoadState.Covered or LoadState.Rolling or LoadState.Delivered).ToDictionary(l => l.Id);
        var actions = loads.Where(l => rows.ContainsKey(l.Id)).Select(l => Action(rows[l.Id], word, sentence, now, zone)).OfType<LineAction>()
            .OrderBy(a => a.Problem is not null).Take(MostActions).ToList();
        return new LineAnswer(actions, found);
    }

    private static LineAction? Action(LoadRow load, StopWord word, Sentence sentence, Instant now, DateTimeZone zone)
    {
        if (!load.Stops.All(s => s.CanBePlanned))
        {
            return null;
        }

        var planned = load.Stops.Select(s => s.Planned()).ToList();
        if (Sentences.StopFor(word, planned) is not { } stop)
        {
            return null;
        }

        var row = load.Stops.First(s => s.Id == stop.Id);
        var stopZone = WallClock.Zone(row.Zone) ?? zone;
        var at = sentence.When(now, stopZone);
        var problem = StopWork.Decide(planned, stop.Id, word, at, sentence.ReceivedBy, load.Who is not null, now) is { Ok: false } refused ? refused.Problems[0].Message : null;
        var said = word switch
        {
            StopWord.Arrived => "at stop",
            StopWord.Delivered => "delivered",
            _ => row.Kind == StopKind.Pickup ? "loaded and left" : "left",
        };
        return new LineAction(
            $"{load.Number}: {said} {at.InZone(stopZone).TimeOfDay:HH:mm} in {row.Town}" + (sentence.ReceivedBy is { } by ? $", signed {by}" : ""),
            $"{load.Customer}, {load.Stops[0].Town} to {load.Stops[^1].Town} · {load.Who}" + (row.ArrivedAt is { } arrived && word != StopWord.Arrived ? $", arrived {arrived.InZone(stopZone).TimeOfDay:HH:mm}" : ""),
            "Record it", load.Id, stop.Id, word, at, sentence.ReceivedBy, problem);
    }
}
