using System.Diagnostics;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Formats.Tables;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Basics;

/// <summary>Answers questions about lists, as the caller may see them.</summary>
public sealed class Lists(CallerReads reads, ListOrders orders, IClock clock, BusinessZone zone)
{
    private LocalDate Today => clock.GetCurrentInstant().InZone(zone.Zone).Date;

    public async Task<ListDescription> Describe(ListSource whole, HttpContext http)
    {
        await using var db = await reads.Open();
        var list = await For(db, whole, http);
        var options = new Dictionary<string, IReadOnlyList<string>>();
        foreach (var column in list.Columns.Where(c => c.Kind == ColumnKind.Choice))
        {
            options[column.Id] = await ListStore.Options(db, list, column.Id);
        }

        return new ListDescription(
            list.Name,
            list.Title,
            list.Columns,
            list.First,
            options,
            await ListViewStore.All(db, http.Actor().UserId ?? 0, list.Name)
        );
    }

    /// <summary>Checks a query and answers it.</summary>
    /// <param name="wrong">What is wrong with the rest of the request.</param>
    public async Task<IResult> Answer<T>(
        ListSource whole,
        HttpContext http,
        ListRequest? request,
        IReadOnlyList<Problem> wrong,
        Func<NpgsqlConnection, ListQuerySql, Task<Outcome<T>>> answer
    )
    {
        await using var db = await reads.Open();
        var sql = Sql(await For(db, whole, http), request, wrong);
        var outcome = sql.Ok ? await answer(db, sql.Value) : sql.Problems;
        return outcome.Ok ? TypedResults.Ok(outcome.Value) : Answers.Refused(outcome.Problems);
    }

    public Task<IResult> Answer<T>(
        ListSource whole,
        HttpContext http,
        ListRequest? request,
        IReadOnlyList<Problem> wrong,
        Func<NpgsqlConnection, ListQuerySql, Task<T>> answer
    )
        where T : notnull => Answer<T>(whole, http, request, wrong, async (db, sql) => (Outcome<T>)await answer(db, sql));

    public Task<IResult> Rows(ListSource whole, HttpContext http, ListRowsRequest request)
    {
        IReadOnlyList<Problem> wrong =
        [
            .. ListEndpoints.Range(request.From, request.Count, ListEndpoints.MaxRows),
            .. ListEndpoints.Columns(request.Columns),
        ];
        return Answer(whole, http, request.Query, wrong, async (db, sql) =>
        {
            var columns = ListEndpoints.Chosen(sql.List, request.Columns);
            var order = ListOrders.Name(whole, http.Actor().UserId, request.Query ?? ListRequest.Everything);
            if (!request.Counted && await orders.Part(order, request.From, request.Count, () => ListStore.AllKeys(db, sql)) is { } keys)
            {
                return new ListPage(await ListStore.Rows(db, sql.List, keys, columns), null);
            }

            var began = Stopwatch.GetTimestamp();
            var rows = await ListStore.Rows(db, sql, request.From, request.Count, columns);
            if (!request.Counted)
            {
                return new ListPage(rows, null);
            }

            orders.Begin(order, Stopwatch.GetElapsedTime(began));
            return new ListPage(rows, await ListStore.Count(db, sql));
        });
    }

    public async Task<IResult> Export(ListSource whole, HttpContext http, ListExportRequest request)
    {
        await using var db = await reads.OpenLate();
        var list = await For(db, whole, http);
        var wrong = request.Format is "csv" or "xlsx" ? [] : new[] { new Problem("missing", "Choose csv or xlsx.", "format") };
        var asked = Sql(list, request.Query, wrong);
        if (!asked.Ok)
        {
            return Answers.Refused(asked.Problems);
        }

        var sql = asked.Value;
        if (request.Format == "xlsx" && await ListStore.Count(db, sql) > Table.MaxSheetRows)
        {
            return Answers.Refused([
                new Problem("too.many", $"A workbook holds {Table.MaxSheetRows:#,##0} rows: filter first, or export CSV.", "format"),
            ]);
        }

        var columns = ListEndpoints.Chosen(list, request.Columns);
        columns = columns.Count > 0 ? columns : list.Columns.Where(c => c.Shown).ToList();
        var rows = ListStore.Stream(db, sql, columns, zone.Zone, http.RequestAborted).ToBlockingEnumerable(http.RequestAborted);
        return new Table(columns.Select(c => c.Title).ToList(), rows).File(request.Format!, list.Name, list.Title);
    }

    private Outcome<ListQuerySql> Sql(ListSource list, ListRequest? request, IReadOnlyList<Problem> wrong)
    {
        request ??= ListRequest.Everything;
        List<Problem> problems = [.. wrong, .. request.Query().Check(list.Columns).Select(p => p with { Field = $"query.{p.Field}" })];
        if (request.Only is { Count: > ListEndpoints.MaxKeys })
        {
            problems.Add(new Problem("too.many", $"Select at most {ListEndpoints.MaxKeys:#,##0} rows.", "query.only"));
        }

        return problems.Count > 0 ? new Problems(problems) : new ListQuerySql(list, request.Query(), request.Only, zone.Zone, Today);
    }

    private static async Task<ListSource> For(NpgsqlConnection db, ListSource whole, HttpContext http) =>
        (whole == ListCatalog.Loads ? whole.With(await CustomFieldStore.All(db)) : whole).For(http.User.Access());
}
