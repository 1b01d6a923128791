using System.Globalization;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Billing;

/// <summary>Customers' billing settings, and the load fields for invoices.</summary>
public static class BillingSettingsStore
{
    /// <summary>A customer's billing settings, or the default, with their version (0 for the default).</summary>
    public static async Task<(BillingSettings Settings, int Version)> Of(NpgsqlConnection db, long customerId)
    {
        var row = await db.Row(
            "select s.*, c.currency from billing_settings s join companies c on c.id = s.customer_id where c.id = @id",
            r => Tuple.Create(Read(r), r.Int("version")),
            ("id", customerId)
        );
        return row is null ? (BillingSettings.Default, 0) : (row.Item1, row.Item2);
    }

    /// <summary>Documents a customer requires; null for the default.</summary>
    public static async Task<IReadOnlyList<DocumentKind>?> Required(NpgsqlConnection db, long customerId) =>
        (
            await db.Rows(
                "select required_documents from billing_settings where customer_id = @id",
                r => Kinds(r, "required_documents"),
                ("id", customerId)
            )
        ).FirstOrDefault();

    /// <summary>Customers that want their loads on one invoice.</summary>
    public static async Task<HashSet<long>> Together(NpgsqlConnection db) =>
        (await db.Rows("select customer_id from billing_settings where together", r => r.Long("customer_id"))).ToHashSet();

    /// <summary>Saves billing settings if they still have the version that was read.</summary>
    public static async Task<bool> Write(NpgsqlConnection db, long customerId, BillingSettings settings, int version) =>
        await db.Run(
            """
            insert into billing_settings (customer_id, by_load, columns, attachments, one_file, together, recipients, subject, message,
                required_documents, hold_for_claims, free_minutes, detention, detention_cap)
            select @id, @by, @columns, @attachments, @one, @together, @to, @subject, @message, @required, @claims, @free, @detention,
                @cap where @version = 0 or exists
                (select 1 from billing_settings where customer_id = @id)
            on conflict (customer_id) do update set by_load = @by, columns = @columns, attachments = @attachments, one_file = @one, together
                = @together, recipients = @to, subject = @subject, message = @message,
                required_documents = @required, hold_for_claims = @claims, free_minutes = @free, detention = @detention, detention_cap = @cap,
                version = billing_settings.version + 1 where billing_settings.version = @version
            """,
            ("id", customerId),
            ("by", settings.ByLoad),
            ("columns", settings.Columns.ToArray()),
            ("attachments", Kinds(settings.Documents)),
            ("one", settings.OneFile),
            ("together", settings.Together),
            ("to", settings.Recipients),
            ("subject", settings.Subject),
            ("message", settings.Message),
            ("required", Kinds(settings.RequiredDocuments)),
            ("claims", settings.HoldForClaims),
            ("free", (settings.Detention ?? DetentionTerms.None).FreeMinutes),
            ("detention", settings.Detention?.PerHour),
            ("cap", settings.Detention?.Cap),
            ("version", version)
        ) == 1;

    /// <summary>Loads with their invoice fields, in the order of the keys.</summary>
    public static async Task<List<InvoiceTableLoad>> InvoiceTableLoads(
        NpgsqlConnection db,
        IReadOnlyList<long> loadIds,
        ILookup<long, (string Description, Money Amount)> charges
    )
    {
        var ids = loadIds.ToArray();
        var own = (
            await db.Rows(
                "select load_id, field_id, value from custom_values where load_id = any(@ids)",
                r => (Load: r.Long("load_id"), Field: $"custom:{r.Long("field_id")}", Value: r.Text("value")),
                ("ids", ids)
            )
        ).ToLookup(o => o.Load);
        var references = (
            await db.Rows(
                "select load_id, kind, value from load_references where load_id = any(@ids) order by load_id, seq",
                r => (Load: r.Long("load_id"), Kind: r.Text("kind"), Value: r.Text("value")),
                ("ids", ids)
            )
        ).ToLookup(o => o.Load);
        var rows = await db.Rows(
            """
            select l.id, l.number, l.reference, l.miles, l.equipment, f.*, a.town || ' ' || a.region as origin, b.town || ' ' || b.region as
                destination, b.received_by,
                   coalesce(a.left_at, a.arrived_at) as picked_up, coalesce(a.zone, 'UTC') as zone_a, coalesce(b.delivered_at, b.arrived_at)
                       as delivered, coalesce(b.zone, 'UTC') as zone_b,
                   (select coalesce(tk.unit, k.name) from legs g left join trips t on t.id = g.trip_id left join trucks tk on tk.id =
                       t.truck_id left join companies k on k.id = g.carrier_id where g.load_id = l.id and t.id is not null order by g.seq
                       limit 1) as truck
            from loads l
            cross join lateral (select string_agg(x.description, ', ' order by x.seq) as freight, sum(x.pieces)::int as pieces,
                sum(x.pallets)::int as pallets, sum(x.weight_lb)::int as weight from freight_lines x where x.load_id = l.id) f
            left join lateral (select s.*, p.town, p.region from stops s join places p on p.id = s.place_id where s.load_id = l.id order by
                s.seq limit 1) a on true
            left join lateral (select s.*, p.town, p.region from stops s join places p on p.id = s.place_id where s.load_id = l.id order by
                s.seq desc limit 1) b on true
            where l.id = any(@ids) order by array_position(@ids, l.id)
            """,
            r =>
            {
                var id = r.Long("id");
                var fields = new Dictionary<string, string?>
                {
                    ["reference"] = r.TextOrNull("reference"),
                    ["origin"] = r.TextOrNull("origin"),
                    ["destination"] = r.TextOrNull("destination"),
                    ["received_by"] = r.TextOrNull("received_by"),
                    ["picked_up"] = Day(r, "picked_up", "zone_a"),
                    ["delivered"] = Day(r, "delivered", "zone_b"),
                    ["freight"] = r.TextOrNull("freight"),
                    ["pieces"] = Number(r.IntOrNull("pieces")),
                    ["pallets"] = Number(r.IntOrNull("pallets")),
                    ["weight"] = Number(r.IntOrNull("weight")),
                    ["miles"] = Number(r.IntOrNull("miles")),
                    ["equipment"] = r.EnumOrNull<Equipment>("equipment")?.Format(),
                    ["carried_by"] = r.TextOrNull("truck"),
                };
                foreach (var reference in references[id].GroupBy(x => x.Kind))
                {
                    fields[reference.Key] = string.Join(", ", reference.Select(x => x.Value));
                }

                foreach (var o in own[id])
                {
                    fields[o.Field] = o.Value;
                }

                return new InvoiceTableLoad(
                    id,
                    r.Text("number"),
                    fields.Where(f => f.Value is not null).ToDictionary(f => f.Key, f => f.Value!),
                    charges[id].ToList()
                );
            },
            ("ids", ids)
        );
        return rows;
    }

    internal static string[] Kinds(IEnumerable<DocumentKind> kinds) => kinds.Select(k => EnumCodec.Of(k)).ToArray();

    internal static List<DocumentKind> Kinds(NpgsqlDataReader r, string column) =>
        r.GetFieldValue<string[]>(r.GetOrdinal(column)).Select(EnumCodec.To<DocumentKind>).ToList();

    internal static List<DocumentKind>? KindsOrNull(NpgsqlDataReader r, string column) => r.Null(column) ? null : Kinds(r, column);

    private static BillingSettings Read(NpgsqlDataReader r) =>
        new(
            r.Bool("by_load"),
            r.Texts("columns"),
            Kinds(r, "attachments"),
            r.Bool("one_file"),
            r.Bool("together"),
            r.TextOrNull("recipients"),
            r.TextOrNull("subject"),
            r.TextOrNull("message"),
            Kinds(r, "required_documents"),
            r.Bool("hold_for_claims"),
            new DetentionTerms(r.Int("free_minutes"), r.MoneyOrNull("detention"), r.MoneyOrNull("detention_cap"))
        );

    private static string? Number(int? n) => n?.ToString("#,##0", CultureInfo.InvariantCulture);

    private static string? Day(NpgsqlDataReader r, string column, string zone) =>
        r.InstantOrNull(column) is { } at
            ? at.InZone(WallClock.Zone(r.Text(zone)) ?? DateTimeZone.Utc).Date.ToString("MMM d, uuuu", CultureInfo.InvariantCulture)
            : null;
}
