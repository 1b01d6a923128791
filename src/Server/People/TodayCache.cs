using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.People;

/// <summary>
/// Today, kept up to date by event: after an event only the part is read again that it can have changed (<see cref="Freshness"/>), once for
/// all open
/// pages. A user with a limited view has it read through row security each time.
/// </summary>
public sealed class TodayCache
{
    private readonly CallerReads _reads;
    private readonly NpgsqlDataSource _source;
    private readonly OpenLoads _loads;
    private readonly IClock _clock;
    private readonly BusinessZone _zone;
    private readonly Shared<Known> _shared;
    private Known? _last;

    public TodayCache(CallerReads reads, NpgsqlDataSource source, OpenLoads loads, IClock clock, BusinessZone zone)
    {
        (_reads, _source, _loads, _clock, _zone) = (reads, source, loads, clock, zone);
        _shared = new Shared<Known>(Read);
    }

    /// <param name="access">Determines what is in it.</param>
    public async Task<TodayView> For(Access access)
    {
        if (access.Limits.IsLimited)
        {
            return await Limited(access);
        }

        var (facts, loads) = (_shared.Get(), _loads.All());
        return Today.View((await facts).Facts, await loads, access, _clock.GetCurrentInstant(), _zone.Zone);
    }

    private async Task<TodayView> Limited(Access access)
    {
        var now = _clock.GetCurrentInstant();
        var today = now.InZone(_zone.Zone).Date;
        await using var db = await _reads.Open(access);
        var facts = await TodayFacts.Read(db, today, _zone.Zone);
        return Today.View(
            facts,
            await LoadViews.Lines(db, await LoadReads.InStates(db, OpenLoads.States, null, 6000), now, _zone.Zone),
            access,
            now,
            _zone.Zone
        );
    }

    private async Task<Known> Read()
    {
        await using var db = await _source.OpenConnectionAsync();
        var today = _clock.GetCurrentInstant().InZone(_zone.Zone).Date;
        var changes =
            _last is { } last && last.On == today ? await Events.Since(db, last.Snapshot) : new Changes(await Events.Snapshot(db), null);
        if (changes.Events is { Count: 0 })
        {
            return _last = _last! with { Snapshot = changes.Snapshot };
        }

        // The parts are read at once, on connections of their own. What fails leaves everything to the next question.
        var facts = _last?.Facts;
        var billing = Part(changes, Freshness.ChangesBilling, facts?.Billing, other => Today.ReadBilling(other, today));
        var paying = Part(changes, Freshness.ChangesPaying, facts?.Paying, other => Today.ReadPaying(other, today, _zone.Zone));
        var week = Part(changes, Freshness.ChangesWeek, facts?.Week, other => Today.ReadWeek(other, today, _zone.Zone));
        var deliveries = Part(changes, Freshness.ChangesDeliveries, facts?.Deliveries, other =>
            Today.ReadDeliveries(other, today, _zone.Zone)
        );
        var payments = Part(changes, Freshness.ChangesDaysToPay, facts?.Payments, other => Today.ReadPayments(other, today));
        var desk = await Today.ReadDesk(db);
        return _last = new Known(
            changes.Snapshot,
            today,
            new TodayFacts(await billing, await paying, await week, await deliveries, await payments, desk)
        );
    }

    private async Task<T> Part<T>(Changes changes, Func<EventKind, bool> changed, T? known, Func<NpgsqlConnection, Task<T>> read)
        where T : class
    {
        if (known is not null && changes.Events?.Any(e => changed(e.Kind)) == false)
        {
            return known;
        }

        await using var db = await _source.OpenConnectionAsync();
        return await read(db);
    }

    private sealed record Known(string Snapshot, LocalDate On, TodayFacts Facts);
}
