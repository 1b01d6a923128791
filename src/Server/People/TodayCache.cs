using System.Collections.Concurrent;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <summary>
/// What needs attention, computed once for everyone who asks at the same time: every open page asks after every event. A result is used until
/// anything is written to the database, or until the clock has moved on, because lateness depends on it.
/// </summary>
public sealed class TodayCache(CallerReads reads, IClock clock, BusinessZone zone)
{
    private static readonly Duration Fresh = Duration.FromSeconds(15);
    private readonly ConcurrentDictionary<string, Entry> _last = new();

    /// <param name="access">Determines what is in it.</param>
    public async Task<TodayView> For(Access access)
    {
        string seen;
        await using (var db = await reads.Open(Access.Nobody))
        {
            // Equal snapshots see equal rows.
            seen = await TodayStore.Snapshot(db);
        }

        var now = clock.GetCurrentInstant();
        var answer = _last.AddOrUpdate(access.Key, _ => Begin(), (_, was) => was.Seen == seen && now >= was.At && now - was.At < Fresh && !was.View.Value.IsFaulted ? was : Begin());
        return await answer.View.Value;

        Entry Begin() => new(seen, now, new Lazy<Task<TodayView>>(() => Today.Of(reads, access, now, zone.Zone)));
    }

    private sealed record Entry(string Seen, Instant At, Lazy<Task<TodayView>> View);
}
