using NodaTime;
using Npgsql;
using SteadyLark.Store.Loads;

namespace SteadyLark.Store.Basics;

/// <summary>What only the benchmark asks of the database.</summary>
public static class BenchStore
{
    private const string Name = "lark_bench";

    /// <summary>Makes sure the benchmark's own database exists next to the configured one.</summary>
    /// <param name="fresh">Drop it first.</param>
    /// <returns>Its connection string.</returns>
    public static async Task<string> Prepare(string configured, bool fresh)
    {
        await using var source = NpgsqlDataSource.Create(new NpgsqlConnectionStringBuilder(configured) { Database = "postgres" });
        await using var db = await source.OpenConnectionAsync();
        if (fresh)
        {
            await db.Run("drop database if exists lark_bench with (force)");
        }

        if (!await db.One<bool>("select exists (select 1 from pg_database where datname = 'lark_bench')"))
        {
            await db.Run("create database lark_bench");
        }

        return new NpgsqlConnectionStringBuilder(configured)
        {
            Database = Name,
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

    /// <summary>The newest closed load.</summary>
    public static async Task<LoadSheet> Closed(NpgsqlConnection db) =>
        (await LoadReads.Sheet(db, await db.One<long>("select id from loads where state = 'closed' order by id desc limit 1")))!;

    /// <summary>The least a booking does in the database.</summary>
    public static Task NextNumber(NpgsqlConnection db) => db.One<string>("select next_in_series('load')");

    /// <summary>Carriers that may be assigned until a day.</summary>
    public static Task<List<long>> Carriers(NpgsqlConnection db, LocalDate by) =>
        db.Rows(
            """
            select company_id from carriers where authority_active and do_not_use is null and cargo_until > @by and liability_until > @by
            order by company_id
            """,
            r => r.Long("company_id"),
            ("by", by)
        );

    public static Task<long> FirstStop(NpgsqlConnection db, long loadId) =>
        db.One<long>("select id from stops where load_id = @id order by seq limit 1", ("id", loadId));

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
