using NodaTime;
using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Loads;

/// <summary>
/// The loads that are booked, covered or rolling, with their ETAs, kept in memory. Each question first asks the database which events
/// became visible
/// since the last one, and reads only the loads they name, with the other loads of their drivers; so an answer is never older than the
/// question.
/// ETAs move with the clock and the trucks' positions: they are computed anew after <see cref="Fresh"/>. For users with a limited view see
/// row security.
/// </summary>
public sealed class OpenLoads
{
    /// <summary>How long an ETA is good.</summary>
    public static readonly Duration Fresh = Duration.FromSeconds(15);

    /// <summary>The states of an open load.</summary>
    public static readonly IReadOnlyList<LoadState> States = [LoadState.Booked, LoadState.Tendered, LoadState.Covered, LoadState.Rolling];

    private const int Most = 10_000;

    private readonly NpgsqlDataSource _source;
    private readonly IClock _clock;
    private readonly BusinessZone _zone;
    private readonly Shared<Board> _shared;
    private Board? _last;

    public OpenLoads(NpgsqlDataSource source, IClock clock, BusinessZone zone)
    {
        (_source, _clock, _zone) = (source, clock, zone);
        _shared = new Shared<Board>(Read);
    }

    /// <summary>All of them, earliest first.</summary>
    public async Task<IReadOnlyList<LoadLine>> All() => (await _shared.Get()).InOrder;

    private async Task<Board> Read()
    {
        await using var db = await _source.OpenConnectionAsync();
        var now = _clock.GetCurrentInstant();
        return _last = _last is { } last && now >= last.At ? await Newer(db, last, now) : await Whole(db, now);
    }

    private async Task<Board> Whole(NpgsqlConnection db, Instant now)
    {
        var snapshot = await Events.Snapshot(db);
        var lines = await LoadViews.Lines(db, await LoadReads.InStates(db, States, null, Most), now, _zone.Zone);
        return new Board(snapshot, now, lines.ToDictionary(l => l.Load.Id));
    }

    private async Task<Board> Newer(NpgsqlConnection db, Board last, Instant now)
    {
        var changes = await Events.Since(db, last.Snapshot);
        if (changes.Events is null || changes.Events.Any(e => e.LoadId is null && Freshness.ChangesAllLoads(e.Kind)))
        {
            return await Whole(db, now);
        }

        var changed = changes.Events.Select(e => e.LoadId).OfType<long>().ToHashSet();
        if (changed.Count == 0 && now - last.At < Fresh)
        {
            return last with { Snapshot = changes.Snapshot };
        }

        var rows = last.Lines.Values.Select(l => l.Load).Where(l => !changed.Contains(l.Id)).ToList();
        var read = changed.Count == 0 ? [] : (await LoadReads.ByIds(db, changed)).Where(l => States.Contains(l.State)).ToList();
        if (now - last.At >= Fresh)
        {
            return new Board(
                changes.Snapshot,
                now,
                (await LoadViews.Lines(db, [.. rows, .. read], now, _zone.Zone)).ToDictionary(l => l.Load.Id)
            );
        }

        // A driver's loads determine each other's ETAs.
        var drivers = read.SelectMany(l => l.Crew)
            .Concat(changed.SelectMany(id => last.Lines.GetValueOrDefault(id)?.Load.Crew ?? []))
            .ToHashSet();
        List<LoadRow> again = [.. read, .. rows.Where(l => l.Crew.Any(drivers.Contains))];
        var lines = last.Lines.Where(l => !changed.Contains(l.Key)).ToDictionary();
        foreach (var line in await LoadViews.Lines(db, again, now, _zone.Zone))
        {
            lines[line.Load.Id] = line;
        }

        return new Board(changes.Snapshot, last.At, lines);
    }

    private sealed record Board(string Snapshot, Instant At, IReadOnlyDictionary<long, LoadLine> Lines)
    {
        public IReadOnlyList<LoadLine> InOrder { get; } =
            Lines.Values.OrderBy(l => l.Load.FirstAt ?? Instant.MaxValue).ThenBy(l => l.Load.Id).ToList();
    }
}
