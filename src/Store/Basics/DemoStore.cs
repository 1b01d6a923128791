using NodaTime;
using Npgsql;

namespace SteadyLark.Store.Basics;

/// <summary>What only the demo and the benchmark need from the database.</summary>
public static class DemoStore
{
    /// <summary>Deletes everything, unless the database holds a real company; says whether it did.</summary>
    public static async Task<bool> Empty(NpgsqlConnection db)
    {
        if (
            await db.One<bool>(
                "select exists (select 1 from information_schema.tables where table_name = 'business' and table_schema = 'public')"
            ) && await db.One<bool>("select exists (select 1 from business where demo_for is null)")
        )
        {
            return false;
        }

        await db.Run("drop schema public cascade; create schema public");
        return true;
    }

    /// <summary>The newest emails sent, oldest first.</summary>
    public static Task<List<(long Id, byte[] Eml)>> SentEmails(NpgsqlConnection db, int max) =>
        db.Rows(
            """
            select id, eml from (select id, eml from emails where direction = 'out' and sent_at is not null order by id desc limit @most) m
            order by id
            """,
            r => (r.Long("id"), r.GetFieldValue<byte[]>(1)),
            ("most", max)
        );

    /// <summary>What the demo's trailers have, and what some open loads require: tarps on a flatbed, straps in a van.</summary>
    public static Task Equip(NpgsqlConnection db) =>
        db.Run(
            """
            update trailers set features = (case equipment
                when 'flatbed' then array['straps', 'tarps', 'chains']
                when 'van' then case when id % 2 = 0 then array['liftgate', 'pallet jack', 'straps'] else array['straps', 'load bars'] end
                when 'reefer' then case when id % 3 = 0 then array['liftgate', 'load bars'] else array['load bars'] end
                when 'car_hauler' then array['straps', 'winch'] else array[]::text[] end);
            update loads set required_features = case equipment when 'flatbed' then array['tarps'] else array['straps'] end
            where state = 'booked' and not is_move and (equipment = 'flatbed' or (equipment = 'van' and id % 3 = 0))
            """
        );

    /// <summary>Gallons of the products that tankers hauled, by their weight.</summary>
    public static Task FillTanks(NpgsqlConnection db) =>
        db.Run(
            """
            update freight_lines f set product_id = p.id, gallons = round(f.weight_lb / p.lb_per_gallon, 1)
            from loads l, products p where l.id = f.load_id and l.equipment = 'tanker' and p.name = lower(f.description) and f.weight_lb > 0
            """
        );

    /// <summary>Emails written before a time count as sent.</summary>
    public static Task MarkSent(NpgsqlConnection db, Instant before) =>
        db.Run(
            "update emails set sent_at = send_after where direction = 'out' and sent_at is null and written_at < @before",
            ("before", before)
        );

    /// <summary>Sets the key sequences and number series after rows were copied in.</summary>
    /// <param name="last">The last key of each table.</param>
    /// <param name="next">The next number of each series.</param>
    public static async Task Finish(
        NpgsqlConnection db,
        IEnumerable<(string Table, long Key)> last,
        IEnumerable<(string Series, long Number)> next
    )
    {
        foreach (var (table, key) in last)
        {
            await db.Run($"select setval(pg_get_serial_sequence('{table}', 'id'), @last)", ("last", Math.Max(1, key)));
        }

        foreach (var (series, number) in next)
        {
            await db.Run("update series set next = @next where name = @name", ("name", series), ("next", number));
        }
    }

    /// <summary>Writes the search text of all loads and invoices, which have none yet.</summary>
    public static async Task Find(NpgsqlConnection db)
    {
        await db.Run("select refresh_statistics()");
        await db.Run("select find_all()");
    }

    /// <summary>Switches off triggers and drops secondary indexes in this transaction: what is copied in is not checked.</summary>
    /// <returns>How to create the indexes again; null, with nothing changed, when this role may not switch off triggers.</returns>
    public static async Task<IReadOnlyList<string>?> BeginBulk(NpgsqlConnection db)
    {
        if (!await db.One<bool>("select rolsuper from pg_roles where rolname = current_user"))
        {
            return null;
        }

        // What was written before is checked now: an index cannot be dropped or created while a check is pending.
        await db.Run("set constraints all immediate; set constraints all deferred");
        await db.Run("set local session_replication_role = replica");
        var indexes = await db.Rows(
            """
            select i.indexrelid::regclass::text as name, pg_get_indexdef(i.indexrelid) as definition
            from pg_index i join pg_class t on t.oid = i.indrelid
            where t.relnamespace = 'public'::regnamespace and t.relname <> 'towns' and not i.indisunique and not i.indisexclusion
            order by 1
            """,
            r => (Name: r.Text("name"), Definition: r.Text("definition"))
        );
        foreach (var (name, _) in indexes)
        {
            await db.Run($"drop index {name}");
        }

        return indexes.Select(i => i.Definition).ToList();
    }

    /// <summary>Writes the search text, creates the indexes again, and switches on the triggers.</summary>
    public static async Task EndBulk(NpgsqlConnection db, IReadOnlyList<string> indexes)
    {
        await db.Run("set local maintenance_work_mem = '1GB'");
        var search = indexes.ToLookup(i => i.Contains("search_entries", StringComparison.Ordinal));
        foreach (var index in search[false])
        {
            await db.Run(index);
        }

        await Find(db);
        foreach (var index in search[true])
        {
            await db.Run(index);
        }

        await db.Run("set local session_replication_role = origin");
    }

    /// <summary>The crews of trips that were copied in without triggers.</summary>
    public static Task Crew(NpgsqlConnection db) =>
        db.Run(
            """
            insert into trip_crew select id, 1, driver_id, 100, scheduled, started_at, ended_at, canceled_at from trips t
            where not exists (select 1 from trip_crew c where c.trip_id = t.id)
            """
        );

    /// <summary>The last journal entry's key; 0 when there is none.</summary>
    public static Task<long> LastEntry(NpgsqlConnection db) => db.One<long>("select coalesce(max(id), 0) from entries");
}
