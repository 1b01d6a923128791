using System.Globalization;
using Npgsql;
using SteadyLark.Core.Places;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Demo;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Tests.Shared;
using Xunit;
using Xunit.Abstractions;

namespace SteadyLark.Server.Tests.Demo;

/// <summary>What somebody who runs trucks would ask of the demo, computed from its database over the last 52 weeks; and docs/demo.md, which shows
/// it.</summary>
[Collection("Alone")]
public class DemoFigures(ITestOutputHelper output)
{
    /// <summary>What is measured, in its unit, with the range a carrier of this size in this region is in.</summary>
    private static readonly (string What, string Format, double From, double Until)[] Ranges =
    [
        ("loads a week", "0.0", 110, 120),
        ("brokered, % of loads", "0.0", 45, 60),
        ("loads per truck and week", "0.00", 2.8, 3.5),
        ("loaded miles per truck and week", "0", 1600, 1800),
        ("empty miles, %", "0.0", 12, 16),
        ("revenue per loaded mile, all in, $", "0.00", 2.55, 2.90),
        ("accessorials, % of revenue", "0.0", 2, 4),
        ("gross margin of the brokerage, %", "0.0", 13, 16),
        ("driver pay a year, $", "#,##0", 72_000, 88_000),
        ("owner-operators, % of revenue", "0.0", 70, 78),
        ("days from home to home", "0.0", 7, 14),
        ("days from invoice to payment", "0.0", 36, 42),
        ("repairs and tires per mile, $", "0.000", 0.20, 0.26),
        ("insurance per truck and year, $", "#,##0", 12_000, 16_000),
        ("lease per truck and month, $", "#,##0", 2_600, 3_200),
        ("operating ratio, %", "0.0", 93, 98),
    ];

    private const string Sums = """
        with year as (select l.*, g.miles as leg_miles, g.trip_id, g.carrier_id, g.agreed from loads l join legs g on g.load_id = l.id
            where l.delivered_at > timestamptz '2026-11-24 16:42Z' - interval '364 days' and l.delivered_at <= '2026-11-24 16:42Z'),
        ledger as (select l.account, l.debit, l.credit from entry_lines l join entries e on e.id = l.entry_id
            where e.posted_on >= '2025-11-01' and e.posted_on < '2026-11-01')
        select 'loads a week', count(*) / 52.0 from year
        union all select 'brokered, % of loads', 100.0 * count(carrier_id) / count(*) from year
        union all select 'loads per truck and week', count(*) / 52.0 / 22 from year where trip_id is not null
        union all select 'loaded miles per truck and week', sum(leg_miles) / 52.0 / 22 from year where trip_id is not null
        union all select 'revenue per loaded mile, all in, $', sum(revenue) / sum(leg_miles) from year
        union all select 'accessorials, % of revenue', 100 * (select sum(c.amount) from charges c join year y on y.id = c.load_id
            where c.kind not in ('line_haul', 'fuel_surcharge')) / (select sum(revenue) from year)
        union all select 'gross margin of the brokerage, %', 100 * sum(revenue - agreed) / sum(revenue) from year where carrier_id is not null
        union all select 'driver pay a year, $', sum(earned) / 20 from settlements s join drivers d on d.id = s.driver_id
            where d.worker_kind = 'employee' and monday >= '2025-11-17' and monday < '2026-11-16'
        union all select 'days from invoice to payment', sum(a.amount * (p.received_on - i.issued_on)) / sum(a.amount) from payment_applications a
            join payments p on p.id = a.payment_id join invoices i on i.id = a.invoice_id where i.issued_on >= '2025-11-24' and i.issued_on < '2026-09-01'
        union all select 'repairs, $', sum(debit - credit) from ledger where account = '5400'
        union all select 'insurance per truck and year, $', sum(debit - credit) / 25 from ledger where account = '5700'
        union all select 'lease per truck and month, $', sum(x.amount) / 23 / 12 from bill_lines x join bills b on b.id = x.bill_id
            where x.account = '5500' and x.description like '% trucks' and b.billed_on >= '2025-11-01' and b.billed_on < '2026-11-01'
        union all select 'operating ratio, %', 100 * sum(case when account >= '5' then debit - credit else 0 end)
            / sum(case when account between '4' and '49999' then credit - debit else 0 end) from ledger
        -- Their gross pay, before the costs of their trucks, of what their loads earned.
        union all select 'owner-operators, % of revenue', 100 * (select sum(s.earned) from settlements s join drivers d on d.id = s.driver_id
            where d.worker_kind = 'owner_operator' and s.monday >= '2025-11-24') / (select sum(y.revenue) from year y join trips t on t.id = y.trip_id
            join drivers d on d.id = t.driver_id where d.worker_kind = 'owner_operator')
        union all select 'cancellations', count(*) from loads where cancelled_at is not null
        union all select 'freight claims', count(*) from payment_applications where kind = 'claim'
        union all select 'bad debts', count(*) from payment_applications where kind = 'uncollectible'
        union all select 'invoices of several loads', count(*) from (select invoice_id from invoice_loads group by 1 having count(*) > 1) x
        union all select 'loads on a trailer that does not fit', count(*) from year y join trips t on t.id = y.trip_id join trailers r on r.id = t.trailer_id
            where r.equipment <> y.equipment and not (r.equipment = 'reefer' and y.equipment = 'van')
        union all select 'loads against cabotage', count(*) from year y join companies k on k.id = y.carrier_id
            where k.region not in ('AB', 'SK') and not exists (select 1 from stops s join places p on p.id = s.place_id where s.load_id = y.id and p.country <> 'CA')
        """;

    private const string Trips = """
        select t.driver_id, d.worker_kind = 'employee' as our_truck, t.scheduled, g.miles, lower(t.scheduled) as begins, upper(t.scheduled) as ends,
            (select p.latitude from stops s join places p on p.id = s.place_id where s.load_id = g.load_id order by s.seq limit 1) as lat1,
            (select p.longitude from stops s join places p on p.id = s.place_id where s.load_id = g.load_id order by s.seq limit 1) as lon1,
            (select p.latitude from stops s join places p on p.id = s.place_id where s.load_id = g.load_id order by s.seq desc limit 1) as lat2,
            (select p.longitude from stops s join places p on p.id = s.place_id where s.load_id = g.load_id order by s.seq desc limit 1) as lon2,
            h.latitude as home_lat, h.longitude as home_lon
        from trips t join legs g on g.trip_id = t.id join drivers d on d.id = t.driver_id
            join towns h on h.name || ' ' || h.region = d.home_town
        where lower(t.scheduled) > timestamptz '2026-11-24 16:42Z' - interval '364 days' order by t.driver_id, lower(t.scheduled)
        """;

    [Fact]
    public async Task The_demo_is_a_business_that_someone_who_runs_trucks_believes()
    {
        await using var db = await TestDatabase.Make();
        var data = Path.Combine(Path.GetTempPath(), $"lark-{Guid.NewGuid():N}");
        var settings = new LarkSettings(db.AppConnectionString, data, "http://127.0.0.1", null, null, 0, null, null, 10)
        {
            StartsAt = ShiftedClock.Parse("2026-11-24 09:42", new BusinessZone().Zone),
        };
        await using var app = LarkApp.Build(settings, "http://127.0.0.1:0", jobs: false);
        await DemoBusiness.MakeIfNew(app.Services, _ => { });
        await using var open = await db.Source.OpenConnectionAsync();
        var found = (await open.Rows(Sums, r => (What: r.GetString(0), Value: (double)r.GetDecimal(1)))).ToDictionary(
            f => f.What,
            f => f.Value
        );
        await Roads(open, found);

        var lines = Ranges
            .Select(r =>
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"| {r.What} | {found[r.What].ToString(r.Format, CultureInfo.InvariantCulture)} | {r.From.ToString(r.Format, CultureInfo.InvariantCulture)} to {r.Until.ToString(r.Format, CultureInfo.InvariantCulture)} |"
                )
            )
            .ToList();
        lines.ForEach(output.WriteLine);
        foreach (var (what, value) in found)
        {
            output.WriteLine($"{what}: {value}");
        }

        Assert.Empty(await TestBusiness.Disagreements(open));
        Assert.Empty(Ranges.Where(r => found[r.What] < r.From || found[r.What] > r.Until).Select(r => $"{r.What}: {found[r.What]:0.000}"));
        Assert.All(new[] { "cancellations", "freight claims", "bad debts", "invoices of several loads" }, what =>
            Assert.True(found[what] > 0, what)
        );
        Assert.All(new[] { "loads on a trailer that does not fit", "loads against cabotage" }, what => Assert.Equal(0, found[what]));
        var page = await File.ReadAllTextAsync(Path.Combine(Repository.Root, "docs/demo.md"));
        Assert.All(lines, line => Assert.Contains(line, page, StringComparison.Ordinal));
        Directory.Delete(data, recursive: true);
    }

    /// <summary>Empty miles from each delivery to the next pickup, home on the way when there was time to be there for two nights.</summary>
    private static async Task Roads(NpgsqlConnection db, Dictionary<string, double> found)
    {
        var trips = await db.Rows(Trips, r =>
            (
                Driver: r.Long("driver_id"),
                OurTruck: r.Bool("our_truck"),
                Miles: r.Int("miles"),
                Begins: r.Instant("begins"),
                Ends: r.Instant("ends"),
                From: new GeoPoint(r.Double("lat1"), r.Double("lon1")),
                To: new GeoPoint(r.Double("lat2"), r.Double("lon2")),
                Home: new GeoPoint(r.Double("home_lat"), r.Double("home_lon"))
            )
        );
        double empty = 0,
            loaded = 0,
            repaired = 0,
            days = 0;
        var times = 0;
        foreach (var driver in trips.GroupBy(t => t.Driver).Select(g => g.ToList()))
        {
            var (last, milesBefore) = (driver[0].Begins, empty + loaded);
            for (var i = 0; i < driver.Count; i++)
            {
                loaded += driver[i].Miles;
                if (i == 0)
                {
                    continue;
                }

                var (before, next) = (driver[i - 1], driver[i]);
                double Between(GeoPoint a, GeoPoint b) => Routing.Roads.Between(a, b).Miles;
                var home =
                    next.Begins - before.Ends > Routing.Roads.Between(before.To, before.Home).DoorToDoor + NodaTime.Duration.FromHours(43);
                empty += home ? Between(before.To, before.Home) + Between(before.Home, next.From) : Between(before.To, next.From);
                if (home)
                {
                    (days, times, last) = (days + (next.Begins - last).TotalDays, times + 1, next.Begins);
                }
            }

            repaired += driver[0].OurTruck ? empty + loaded - milesBefore : 0;
        }

        found["empty miles, %"] = 100 * empty / (empty + loaded);
        found["days from home to home"] = days / times;
        found["repairs and tires per mile, $"] = found["repairs, $"] / repaired;
    }
}
