using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Demo;
using SteadyLark.Server.Line;
using SteadyLark.Store.Basics;
using SteadyLark.Tests.Shared;
using Xunit;

namespace SteadyLark.Server.Tests.Demo;

/// <summary>Tests that run alone: they hold transactions open for long, and events are read up to the oldest transaction of the whole
/// cluster.</summary>
[CollectionDefinition("Alone", DisableParallelization = true)]
public class Alone;

[Collection("Alone")]
public partial class AnyMoment
{
    [GeneratedRegex("`([^`]+)`")]
    private static partial Regex Backticks();

    public static TheoryData<string, string> Moments =>
        new()
        {
            { "a Monday at 06:00", "2026-11-23 06:00" },
            { "a Friday at 17:00", "2026-11-27 17:00" },
            { "the last day of a month", "2026-09-30 11:00" },
            { "January 1", "2027-01-01 09:00" },
            { "the spring clock change", "2027-03-14 02:30" },
            { "the fall clock change", "2026-11-01 01:30" },
            { "February 29", "2028-02-29 13:00" },
            { "a holiday", "2026-07-04 15:00" },
        };

    /// <summary>What the README's five minutes need, with the least of each.</summary>
    private const string Needed = """
        select 'a late load of a known driver', count(*)::int, 1 from loads l join legs g on g.load_id = l.id join trips t on t.id = g.trip_id where l.state = 'rolling'
        union all select 'a load without an update', count(*)::int, 1 from loads l join legs g on g.load_id = l.id where l.state = 'rolling' and g.carrier_id is not null
        union all select 'uncovered loads', count(*)::int, 2 from loads where state = 'booked'
        union all select 'drafts', count(*)::int, 3 from loads where state = 'draft'
        union all select 'loads delivered and ready to bill', count(*)::int, 1 from loads l where state = 'delivered' and exists (select 1 from documents p where p.load_id = l.id and p.kind = 'pod')
        union all select 'open invoices', count(*)::int, 5 from invoices where paid < total and voided_at is null
        union all select 'bills to approve or pay', count(*)::int, 1 from bills where paid_on is null and voided_at is null
        union all select 'settlements to approve or pay', (select count(distinct t.driver_id)::int from legs g join trips t on t.id = g.trip_id join loads l on l.id = g.load_id
            where l.delivered_at is not null and not exists (select 1 from settlement_legs x join settlements s on s.id = x.settlement_id where x.leg_id = g.id and s.paid_on is not null)), 1
        union all select 'an email in the simulator', count(*)::int, 1 from emails where sent_at is not null
        union all select 'haugen on the road', count(*)::int, 1 from loads l join legs g on g.load_id = l.id join trips t on t.id = g.trip_id join drivers d on d.id = t.driver_id where l.state = 'rolling' and d.name = 'Lena Haugen'
        """;

    [Theory]
    [MemberData(nameof(Moments))]
    public async Task The_demo_has_what_the_five_minutes_need(string moment, string local)
    {
        await using var db = await TestDatabase.Make();
        var data = Path.Combine(Path.GetTempPath(), $"lark-{Guid.NewGuid():N}");
        var settings = new LarkSettings(db.AppConnectionString, data, "http://127.0.0.1", null, null, 0, null, null, 10)
        {
            StartsAt = ShiftedClock.Parse(local, new BusinessZone().Zone),
        };
        await using var app = LarkApp.Build(settings, "http://127.0.0.1:0", jobs: false);
        await DemoBusiness.MakeIfNew(app.Services, _ => { }, new DemoSize(60, 1));
        await using var open = await db.Source.OpenConnectionAsync();
        var lacking = (await open.Rows(Needed, r => (What: r.GetString(0), There: r.GetInt32(1), Needed: r.GetInt32(2))))
            .Where(n => n.There < n.Needed)
            .Select(n => $"{moment}: {n.What}, {n.There} of {n.Needed}");
        Assert.Empty(lacking);
        Assert.Empty(await TestBusiness.Disagreements(open));

        var now = app.Services.GetRequiredService<IClock>().GetCurrentInstant();
        var sentences = Backticks()
            .Matches(
                File.ReadLines(Path.Combine(Repository.Root, "README.md"))
                    .Single(l => l.StartsWith("2. Press `/`", StringComparison.Ordinal))
            )
            .Select(m => m.Groups[1].Value)
            .Skip(1)
            .ToList();
        Assert.Equal(3, sentences.Count);
        foreach (var sentence in sentences)
        {
            var answer = await LineCommands.Answer(open, sentence, new Access(Rights.Of(Role.Owner)), now, new BusinessZone().Zone);
            Assert.True(
                answer.Actions is [{ Problem: null, Doubt: null }, ..],
                $"{moment}: “{sentence}” {(answer.Actions is [var first, ..] ? $"{first.Title}: {first.Problem}{first.Doubt}" : "records nothing")}"
            );
        }

        Directory.Delete(data, recursive: true);
    }

    [Theory]
    [InlineData("2026-11-24 09:42", "2026-11-24T16:42:00Z")]
    [InlineData("2026-11-24T09:42", "2026-11-24T16:42:00Z")]
    [InlineData("2026-11-24T09:42:30", "2026-11-24T16:42:30Z")]
    [InlineData("2026-11-24T16:42:00Z", "2026-11-24T16:42:00Z")]
    [InlineData("2026-11-24T11:42:00-05:00", "2026-11-24T16:42:00Z")]
    [InlineData("2027-03-14 02:30", "2027-03-14T09:30:00Z")]
    [InlineData("2026-11-01 01:30", "2026-11-01T07:30:00Z")]
    public void The_clock_setting_accepts_common_forms(string text, string instant) =>
        Assert.Equal(instant, ShiftedClock.Parse(text, new BusinessZone().Zone).ToString());

    [Theory]
    [InlineData("tomorrow")]
    [InlineData("2026-02-30 09:00")]
    [InlineData("09:42")]
    public void An_invalid_clock_setting_stops_the_start_with_a_sentence(string text) =>
        Assert.Contains(
            text,
            Assert.Throws<InvalidOperationException>(() => ShiftedClock.Parse(text, new BusinessZone().Zone)).Message,
            StringComparison.Ordinal
        );

    [Fact]
    public async Task A_set_clock_runs()
    {
        var clock = new ShiftedClock(Instant.FromUtc(2028, 2, 29, 12, 0));
        var first = clock.GetCurrentInstant();
        await Task.Delay(30);
        Assert.InRange(clock.GetCurrentInstant() - first, Duration.FromMilliseconds(20), Duration.FromSeconds(20));
    }
}
