using Npgsql;
using SteadyLark.Core.Documents;
using SteadyLark.Store.Billing;

namespace SteadyLark.Store.Documents;

/// <summary>Which documents a load has, for queries of other stores.</summary>
internal static class DocumentFacts
{
    /// <summary>Columns for <see cref="Of"/>; the load is <c>l</c>.</summary>
    public const string Columns = """
        array(select distinct p.kind from documents p where p.load_id = l.id and p.removed_at is null) as document_kinds,
        array(select coalesce(p.stop_id, 0) from documents p where p.load_id = l.id and p.kind = 'pod' and p.removed_at is null) as pod_stops,
        array(select s.id from stops s where s.load_id = l.id and s.kind = 'delivery' and s.refused_at is null order by s.seq) as deliveries
        """;

    /// <summary>The load's documents; a POD only when every delivery has one.</summary>
    public static IReadOnlyList<DocumentKind> Of(NpgsqlDataReader r) =>
        Pods.Present(
            BillingSettingsStore.Kinds(r, "document_kinds"),
            r.GetFieldValue<long[]>(r.GetOrdinal("deliveries")),
            r.GetFieldValue<long[]>(r.GetOrdinal("pod_stops")).Select(s => s == 0 ? (long?)null : s).ToList()
        );
}
