using System.Text.Json.Nodes;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;

namespace SteadyLark.Store.Basics;

/// <summary>Totals of rows: how many, and the total of each column that has one, by its id (null where no row has a value).</summary>
public sealed record ListSums(long Count, IReadOnlyDictionary<string, decimal?> Totals);

/// <summary>A group of rows.</summary>
/// <param name="Values">One for each level of grouping, outermost first, as JSON (text, number, boolean, the first day of a period, or null).
/// A subtotal of the outer level has one.</param>
public sealed record ListGroupSums(IReadOnlyList<JsonNode?> Values, ListSums Sums);

/// <summary>The grand total, and the groups in the order of the rows: each outer group before its inner ones.</summary>
public sealed record ListTotals(ListSums All, IReadOnlyList<ListGroupSums> Groups);

/// <summary>Lists of any length: rows are read by their position in the list's order, and totals on their own. Queries are already validated.</summary>
public static class ListStore
{
    /// <summary>The most groups of one answer.</summary>
    public const int MaxGroups = 5_000;

    /// <summary>How many rows match.</summary>
    public static Task<long> Count(NpgsqlConnection db, ListQuerySql sql) =>
        db.One<long>($"select count(*) from {sql.From}", sql.Parameters);

    /// <summary>The keys of some rows, by position.</summary>
    /// <param name="from">The first row's position, from 0.</param>
    public static Task<List<long>> Keys(NpgsqlConnection db, ListQuerySql sql, long from, int count) =>
        db.Rows(
            $"select r.id from {sql.From} order by {sql.Order} limit @limit offset @offset",
            r => r.GetInt64(0),
            [.. sql.Parameters, ("limit", count), ("offset", from)]
        );

    /// <summary>All keys in order.</summary>
    public static Task<List<long>> AllKeys(NpgsqlConnection db, ListQuerySql sql) =>
        db.Rows($"select r.id from {sql.From} order by {sql.Order}", r => r.GetInt64(0), sql.Parameters);

    /// <summary>
    /// Rows by position, as JSON objects of the requested columns and the key. Times are instants with an offset, or wall-clock times
    /// without one where a column has a zone of its own.
    /// </summary>
    public static Task<List<JsonObject>> Rows(
        NpgsqlConnection db,
        ListQuerySql sql,
        long from,
        int count,
        IReadOnlyList<ListColumn> columns
    ) =>
        // The page's keys first, so that columns are evaluated for its rows only.
        Rows(
            db,
            sql.List,
            $"""
            select id, row_number() over () as at from (
                select r.id from {sql.From} order by {sql.Order} limit @limit offset @offset
            ) ordered
            """,
            columns,
            [.. sql.Parameters, ("limit", count), ("offset", from)]
        );

    /// <summary>Rows by key, in the order of the keys, as by position. Keys that are gone or hidden are left out.</summary>
    public static Task<List<JsonObject>> Rows(
        NpgsqlConnection db,
        ListSource list,
        IReadOnlyList<long> keys,
        IReadOnlyList<ListColumn> columns
    ) => Rows(db, list, "select * from unnest(@keys) with ordinality as k(id, at)", columns, [("keys", keys.ToArray())]);

    private static async Task<List<JsonObject>> Rows(
        NpgsqlConnection db,
        ListSource list,
        string page,
        IReadOnlyList<ListColumn> columns,
        (string, object?)[] parameters
    )
    {
        var rows = await db.Rows(
            $"""
            select to_jsonb(v)::text from (
                select r.id{Selected(list, columns)}, page.at as page_at from ({page}) page join {list.View} r on r.id = page.id
            ) v order by page_at
            """,
            r => r.GetString(0),
            parameters
        );
        return rows.Select(t =>
            {
                var row = JsonNode.Parse(t)!.AsObject();
                row.Remove("page_at");
                return row;
            })
            .ToList();
    }

    /// <summary>All rows in order, one after the other, as spreadsheet values: nothing is held but the row at hand.</summary>
    /// <param name="zone">Where instants become wall-clock times, unless a column has a zone of its own.</param>
    public static IAsyncEnumerable<object?[]> Stream(
        NpgsqlConnection db,
        ListQuerySql sql,
        IReadOnlyList<ListColumn> columns,
        DateTimeZone zone,
        CancellationToken cancel = default
    ) =>
        db.Stream(
            $"select r.id{Selected(sql.List, columns)} from {sql.From} order by {sql.Order}",
            r => columns.Select((c, i) => r.IsDBNull(i + 1) ? null : Cell(r, i + 1, c.Kind, zone)).ToArray(),
            300,
            cancel,
            sql.Parameters
        );

    /// <summary>Totals of these columns over all rows, and for each group.</summary>
    public static async Task<ListTotals> Totals(NpgsqlConnection db, ListQuerySql sql, IReadOnlyList<ListColumn> columns)
    {
        var totals = columns.Where(c => c.Total is not null).ToList();
        var sums = totals.SelectMany(c =>
            c.Total is { Per: { } per } t
                ? new[] { Pair(sql.List, t.Of, per, c.Id), Pair(sql.List, per, t.Of, $"{c.Id}_per") }
                : [$"sum({sql.List.Sql(c.Total!.Of)}) as {c.Id}, null::numeric as {c.Id}_per"]
        );
        var groups = sql.Groups;
        var rollup = groups.Count == 0 ? "" : $"group by rollup({string.Join(", ", groups.Select(g => g.Sql))})";
        var keys = string.Concat(groups.Select((g, i) => $", to_jsonb({g.Sql}) as key{i}, grouping({g.Sql}) as over{i}"));
        var order = groups.Count == 0 ? "" : $"order by {string.Join(", ", groups.Select((g, i) => $"over0 desc, {Order(g, i)}"))}";
        var found = await db.Rows(
            $"select count(*) as rows{string.Concat(sums.Select(s => $", {s}"))}{keys} from {sql.From} {rollup} {order} limit {MaxGroups + 2}",
            r => new ListGroupSums(
                Enumerable.Range(0, groups.Count).Where(i => r.Int($"over{i}") == 0).Select(i => Json(r, $"key{i}")).ToList(),
                new ListSums(
                    r.Long("rows"),
                    totals.ToDictionary(c => c.Id, c => c.Total!.Value(r.DecimalOrNull(c.Id), r.DecimalOrNull($"{c.Id}_per")))
                )
            ),
            sql.Parameters
        );
        return new ListTotals(
            found.FirstOrDefault(g => g.Values.Count == 0)?.Sums ?? new ListSums(0, totals.ToDictionary(c => c.Id, _ => (decimal?)null)),
            found.Where(g => g.Values.Count > 0).ToList()
        );
    }

    /// <summary>The values of a column with a fixed set.</summary>
    public static async Task<IReadOnlyList<string>> Options(NpgsqlConnection db, ListSource list, string column) =>
        list.Choices.GetValueOrDefault(column)
        ?? await db.Rows(
            $"select distinct {list.Sql(column)} as word from {list.View} r where {list.Sql(column)} is not null order by 1 limit 60",
            r => r.GetString(0)
        );

    private static string Order(GroupSql g, int i) => i == 0 ? g.Order : $"over{i} desc, {g.Order}";

    private static string Pair(ListSource list, string of, string per, string name) =>
        $"sum({list.Sql(of)}) filter (where {list.Sql(per)} is not null) as {name}";

    private static JsonNode? Json(NpgsqlDataReader r, string column) => r.Null(column) ? null : JsonNode.Parse(r.Text(column));

    private static string Selected(ListSource list, IReadOnlyList<ListColumn> columns) =>
        string.Concat(columns.Select(c => $", {list.Local(c.Id) ?? list.Sql(c.Id)} as {c.Id}"));

    private static object Cell(NpgsqlDataReader r, int i, ColumnKind kind, DateTimeZone zone) =>
        kind switch
        {
            ColumnKind.Number or ColumnKind.Money => r.GetFieldType(i) == typeof(decimal)
                ? r.GetDecimal(i)
                : Convert.ToDecimal(r.GetValue(i)),
            ColumnKind.YesNo => r.GetBoolean(i) ? "yes" : "no",
            ColumnKind.Date => r.GetFieldValue<LocalDate>(i).ToDateTimeUnspecified(),
            ColumnKind.Time when r.GetDataTypeName(i) == "timestamp without time zone" => r.GetFieldValue<LocalDateTime>(i)
                .ToDateTimeUnspecified(),
            ColumnKind.Time => r.GetFieldValue<Instant>(i).InZone(zone).LocalDateTime.ToDateTimeUnspecified(),
            _ => r.GetString(i),
        };
}
