using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Store.Tests.Basics;

public class EventOrder(Stocked s) : IClassFixture<Stocked>
{
    [Fact]
    public async Task A_reader_misses_nothing_when_a_slow_writer_commits_after_a_quick_one()
    {
        await using var reader = await s.Db.Source.OpenConnectionAsync();
        for (var i = 0; i < 100 && await Events.Unsettled(reader, await Events.Newest(reader)); i++)
        {
            await Task.Delay(50);
        }

        var at = await Events.Newest(reader);
        await using var slow = await s.Begin();
        slow.Record(EventKinds.LoadChanged, 1, "slow, written first");
        await slow.WriteEvents();
        await using (var quick = await s.Begin())
        {
            quick.Record(EventKinds.LoadChanged, 2, "quick, committed first");
            await quick.Commit();
        }

        // The quick one waits for the slow one, so that a place in the order is never passed too early.
        Assert.DoesNotContain(await Events.After(reader, at, 10), e => e.Summary == "quick, committed first");
        Assert.True(await Events.Unsettled(reader, at));
        await slow.Commit();

        // Transactions of other databases in the cluster hold the order back too, though not for long.
        var both = await Events.After(reader, at, 10);
        for (var i = 0; i < 100 && both.Count < 2; i++)
        {
            await Task.Delay(50);
            both = await Events.After(reader, at, 10);
        }

        Assert.Equal(["slow, written first", "quick, committed first"], both.Select(e => e.Summary));
        Assert.DoesNotContain(await Events.After(reader, EventCursor.Parse(both[^1].Cursor)!.Value, 10), e =>
            e.Summary is "slow, written first" or "quick, committed first"
        );
    }

    [Fact]
    public async Task Events_are_never_rewritten()
    {
        await s.Refusal(w =>
        {
            w.Record(EventKinds.LoadChanged, 1, "something");
            return w.WriteEvents();
        });
        Assert.Equal("LK001", await s.Refusal(w => w.Db.Run("update events set summary = 'else'")));
        Assert.Equal("LK001", await s.Refusal(w => w.Db.Run("delete from events")));
    }
}
