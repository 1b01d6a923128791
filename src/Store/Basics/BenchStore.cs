using NodaTime;
using Npgsql;
using SteadyLark.Core.Covering;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Loads;

namespace SteadyLark.Store.Basics;

/// <summary>What only the benchmark asks of the database.</summary>
public static class BenchStore
{
    /// <summary>Makes sure the benchmark's own database exists next to the configured one.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="fresh">Drop it first.</param>
    /// <returns>Its connection string.</returns>
    public static async Task<string> Prepare(string configured, string name, bool fresh)
    {
        await using var source = NpgsqlDataSource.Create(new NpgsqlConnectionStringBuilder(configured) { Database = "postgres" });
        await using var db = await source.OpenConnectionAsync();
        if (fresh)
        {
            await db.Run($"drop database if exists {name} with (force)");
        }

        if (!await db.One<bool>("select exists (select 1 from pg_database where datname = @name)", ("name", name)))
        {
            await db.Run($"create database {name}");
        }

        return new NpgsqlConnectionStringBuilder(configured)
        {
            Database = name,
            CommandTimeout = 1800,
            MaxPoolSize = 50,
        }.ConnectionString;
    }

    public static Task Analyze(NpgsqlConnection db) => db.Run("analyze");

    public static async Task<(long Loads, long Events, long EntryLines)> Size(NpgsqlConnection db) =>
        (
            await db.One<long>("select count(*) from loads"),
            await db.One<long>("select count(*) from events"),
            await db.One<long>("select count(*) from entry_lines")
        );

    /// <summary>Loads that ran, in an order of their own.</summary>
    public static Task<List<long>> SomeLoads(NpgsqlConnection db, int max) =>
        db.Rows(
            "select id from loads where state in ('closed', 'billed', 'rolling', 'delivered') order by md5(id::text) limit @most",
            r => r.Long("id"),
            ("most", max)
        );

    /// <summary>The least SQL for the first rows of the list of loads, and how many there are.</summary>
    public static async Task<long> NewestLoads(NpgsqlConnection db, int most)
    {
        _ = await db.Rows(
            """
            select l.id, l.number, l.state, c.name, a.town, z.town, l.first_at, d.name, k.name, l.revenue
            from (select * from loads order by booked_at desc nulls last, id desc limit @most) l
            join companies c on c.id = l.customer_id
            left join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) a on true
            left join lateral (
                select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1
            ) z on true
            left join lateral (select * from legs g where g.load_id = l.id order by g.seq desc limit 1) g on true
            left join trips t on t.id = g.trip_id left join drivers d on d.id = t.driver_id left join companies k on k.id = g.carrier_id
            """,
            r => r.GetString(1),
            ("most", most)
        );
        return await db.One<long>("select count(*) from loads");
    }

    /// <summary>The least SQL for revenue by customer and month of delivery.</summary>
    public static Task<List<decimal>> RevenueByCustomerAndMonth(NpgsqlConnection db) =>
        db.Rows(
            """
            select sum(l.revenue) as revenue from loads l left join companies c on c.id = l.customer_id
            group by rollup (c.name, date_trunc('month', l.delivered_at))
            """,
            r => r.DecimalOrNull("revenue") ?? 0
        );

    /// <summary>The newest closed load.</summary>
    public static async Task<LoadSheet> Closed(NpgsqlConnection db) =>
        (await LoadReads.Sheet(db, await db.One<long>("select id from loads where state = 'closed' order by id desc limit 1")))!;

    /// <summary>The least a booking does in the database.</summary>
    public static Task NextNumber(NpgsqlConnection db) => db.One<string>("select next_in_series('load')");

    /// <summary>Carriers of our country fit for any load, hazardous or not, delivered by a day.</summary>
    public static async Task<List<long>> Carriers(NpgsqlConnection db, LocalDate by)
    {
        var required = (await CompanySettingsStore.Read(db)).CarrierRequirements;
        return (await CompanyStore.List(db, null, true, null, 10_000))
            .Where(c =>
                c.Carrier is not null
                && Cabotage.Country(c.Region) == "US"
                && CarrierFitness.Check(CompanyStore.Record(c), required, new CarriedFreight(by, true)) is { Any: false }
            )
            .Select(c => c.Id)
            .ToList();
    }

    public static Task<long> FirstStop(NpgsqlConnection db, long loadId) =>
        db.One<long>("select id from stops where load_id = @id order by seq limit 1", ("id", loadId));

    /// <summary>Trips that are planned or under way.</summary>
    public static Task<List<long>> OpenTrips(NpgsqlConnection db) =>
        db.Rows("select id from trips where ended_at is null and canceled_at is null order by id", r => r.Long("id"));

    /// <summary>Delivered loads with a POD and without a hold.</summary>
    public static Task<List<long>> ToBill(NpgsqlConnection db, int max) =>
        db.Rows(
            """
            select l.id from loads l where l.state = 'delivered' and not exists (select 1 from holds h where h.load_id = l.id and
                h.lifted_at is null)
              and exists (select 1 from documents p where p.load_id = l.id and p.kind = 'pod') order by l.id limit @most
            """,
            r => r.Long("id"),
            ("most", max)
        );
}
