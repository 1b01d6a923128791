using NodaTime;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Demo;
using SteadyLark.Store.Basics;
using SteadyLark.Tests.Shared;
using Xunit;

namespace SteadyLark.Server.Tests.Demo;

public class SameDaySameBusiness
{
    /// <summary>What is in a demo, but for what is drawn anew each time on purpose: keys to links, salts, emails' own ids.</summary>
    private static async Task<(List<string> Rows, List<string> Disagreements)> Make(Instant now)
    {
        await using var db = await TestDatabase.Make();
        var data = Path.Combine(Path.GetTempPath(), $"lark-{Guid.NewGuid():N}");
        await using var app = LarkApp.Build(
            new LarkSettings(db.AppConnectionString, data, "http://127.0.0.1", null, null, 0, null, null, 10),
            "http://127.0.0.1:0",
            new SetClock { Now = now },
            jobs: false
        );
        await DemoBusiness.MakeIfNew(app.Services, _ => { }, new DemoSize(45, 1));
        await using var open = await db.Source.OpenConnectionAsync();
        var rows = await open.Rows(
            """
            select 'load ' || number || ' ' || state || ' ' || coalesce(reference, '') said from loads
            union all select 'event ' || kind || ' ' || summary || ' ' || at from events
            union all select 'line ' || e.posted_on || ' ' || e.memo || ' ' || l.account || ' ' || l.debit || ' ' || l.credit from entries e join entry_lines l on l.entry_id = e.id
            union all select 'stop ' || load_id || ' ' || coalesce(arrived_at::text, '') || ' ' || coalesce(left_at::text, '') || ' ' || coalesce(delivered_at::text, '') from stops
            union all select 'mail ' || subject || ' ' || to_address || ' ' || written_at from emails
            order by 1
            """,
            r => r.Text("said")
        );
        Directory.Delete(data, recursive: true);
        return (rows, await TestBusiness.Disagreements(open));
    }

    [Fact]
    public async Task Two_demos_of_one_day_are_identical_and_their_books_agree_with_their_documents()
    {
        var now = Instant.FromUtc(2026, 11, 23, 17, 0);
        var (one, wrong) = await Make(now);
        var (other, _) = await Make(now);
        Assert.Empty(wrong);
        Assert.True(one.Count > 500, $"only {one.Count} things are in it");
        Assert.Equal(one, other);
    }
}
