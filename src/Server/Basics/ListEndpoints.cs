using System.Text.Json.Nodes;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <param name="Text">Words found anywhere in a row.</param>
/// <param name="Groups">Rows of one group stand together, before the order by <paramref name="Sorts"/>.</param>
/// <param name="Only">Only these rows; all that match when omitted.</param>
public sealed record ListRequest(
    string? Text,
    IReadOnlyList<ListFilter>? Filters,
    IReadOnlyList<ListSort>? Sorts,
    IReadOnlyList<ListGroup>? Groups,
    IReadOnlyList<long>? Only
)
{
    public static readonly ListRequest Everything = new(null, null, null, null, null);

    public ListQuery Query() => new(Text, Filters ?? [], Sorts ?? [], Groups ?? []);
}

/// <param name="From">The position of the first row, from 0.</param>
/// <param name="Count">How many rows; at most 500.</param>
/// <param name="Columns">Columns to read.</param>
/// <param name="Counted">Whether all matching rows are counted, too.</param>
public sealed record ListRowsRequest(ListRequest? Query, long From, int Count, IReadOnlyList<string>? Columns, bool Counted);

/// <param name="Rows">The rows, as objects of the requested columns and the key <c>id</c>.</param>
/// <param name="Count">How many rows match; null when it was not asked for.</param>
public sealed record ListPage(IReadOnlyList<JsonObject> Rows, long? Count);

/// <param name="From">The position of the first row, from 0.</param>
/// <param name="Count">How many; at most 20,000.</param>
public sealed record ListKeysRequest(ListRequest? Query, long From, int Count);

/// <summary>The keys of rows, in order.</summary>
public sealed record ListKeys(IReadOnlyList<long> Keys);

/// <param name="Columns">Columns to total.</param>
public sealed record ListTotalsRequest(ListRequest? Query, IReadOnlyList<string>? Columns);

/// <param name="Columns">Columns to export; those shown by default when omitted.</param>
/// <param name="Format">csv or xlsx.</param>
public sealed record ListExportRequest(ListRequest? Query, IReadOnlyList<string>? Columns, string? Format);

/// <param name="Options">The values of columns with a fixed set.</param>
public sealed record ListDescription(
    string Name,
    string Title,
    IReadOnlyList<ListColumn> Columns,
    ListSort First,
    IReadOnlyDictionary<string, IReadOnlyList<string>> Options,
    IReadOnlyList<SavedView> Views
);

/// <param name="Shared">Whether everyone who sees the list may use it.</param>
/// <param name="Definition">As the page stores it: text, filters, sorts, groups, columns, dense.</param>
public sealed record SaveViewRequest(string? Name, bool Shared, JsonObject? Definition);

/// <summary>Lists of any length, each under the right to see its contents.</summary>
public static class ListEndpoints
{
    internal const int MaxRows = 500;
    private const int MaxColumns = 120;
    internal const int MaxKeys = 20_000;

    private static readonly Dictionary<string, Right> Rights = new()
    {
        ["loads"] = Right.LoadsSee,
        ["trips"] = Right.LoadsSee,
        ["invoices"] = Right.BillingSee,
        ["bills"] = Right.PayingSee,
        ["expenses"] = Right.PayingSee,
        ["companies"] = Right.CompaniesSee,
        ["payments"] = Right.BillingSee,
        ["claims"] = Right.BillingSee,
        ["entries"] = Right.LedgerSee,
        ["places"] = Right.CompaniesSee,
    };

    public static void MapLists(this RouteGroupBuilder api)
    {
        foreach (var list in ListCatalog.All)
        {
            MapReading(api, list);
            MapViews(api, list);
        }
    }

    private static void MapReading(RouteGroupBuilder api, ListSource whole)
    {
        var (at, right, name) = ($"/lists/{whole.Name}", Rights[whole.Name], whole.Name.Capitalized());
        api.MapGet(at, async (HttpContext http, Lists lists) => await lists.Describe(whole, http))
            .Needs(right)
            .WithName($"describe{name}List");

        api.MapPost(at + "/rows", (ListRowsRequest request, HttpContext http, Lists lists) => lists.Rows(whole, http, request))
            .Needs(right)
            .Produces<ListPage>()
            .ProducesProblem(422)
            .WithName($"list{name}Rows");

        api.MapPost(at + "/keys", (ListKeysRequest request, HttpContext http, Lists lists) =>
                lists.Answer(whole, http, request.Query, Range(request.From, request.Count, MaxKeys), async (db, sql) =>
                    new ListKeys(await ListStore.Keys(db, sql, request.From, request.Count))
                )
            )
            .Needs(right)
            .Produces<ListKeys>()
            .ProducesProblem(422)
            .WithName($"list{name}Keys");

        api.MapPost(at + "/totals", (ListTotalsRequest request, HttpContext http, Lists lists) =>
                lists.Answer<ListTotals>(whole, http, request.Query, Columns(request.Columns), async (db, sql) =>
                    await ListStore.Totals(db, sql, Chosen(sql.List, request.Columns)) is { Groups.Count: <= ListStore.MaxGroups } totals
                        ? totals
                        : new Problem(
                            "too.many",
                            $"More than {ListStore.MaxGroups:#,##0} groups: group by another column, or filter first.",
                            "query.groups"
                        )
                )
            )
            .Needs(right)
            .Produces<ListTotals>()
            .ProducesProblem(422)
            .WithName($"total{name}List");

        api.MapPost(at + "/export", (ListExportRequest request, HttpContext http, Lists lists) => lists.Export(whole, http, request))
            .Needs(right)
            .Produces(200, contentType: "text/csv")
            .ProducesProblem(422)
            .WithName($"export{name}List")
            .Exports($"the list of {whole.Title.ToLowerInvariant()}");
    }

    private static void MapViews(RouteGroupBuilder api, ListSource whole)
    {
        var (at, right, name) = ($"/lists/{whole.Name}/views", Rights[whole.Name], whole.Name.Capitalized());
        api.MapPost(at, (SaveViewRequest request, HttpContext http, Commands commands) => commands.Run(http, w => Save(w, whole, request)))
            .Needs(right)
            .WithName($"save{name}View");
        api.MapPost(at + "/{id:long}/delete", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, async w =>
                    await ListViewStore.Delete(w, whole.Name, id) ? (Outcome<ListKeys>)new ListKeys([id]) : Problem.Missing("This view")
                )
            )
            .Needs(right)
            .WithName($"drop{name}View");
    }

    private static async Task<Outcome<SavedView>> Save(CommandContext w, ListSource list, SaveViewRequest request)
    {
        var validation = new Validation();
        var title = validation.Text(request.Name, "name", "The view name", 60, required: true);
        if (request.Definition is null || request.Definition.ToJsonString().Length > 15_000)
        {
            validation.Add("missing", "The view is empty or too large.", "definition");
        }

        return validation.Ok
            ? new SavedView(
                await ListViewStore.Save(w, list.Name, title!, request.Shared, request.Definition!),
                title!,
                request.Shared,
                true,
                w.Actor.Name,
                request.Definition!
            )
            : validation.Problems;
    }

    internal static List<ListColumn> Chosen(ListSource list, IReadOnlyList<string>? columns) =>
        (columns ?? []).Distinct().Select(list.Column).OfType<ListColumn>().ToList();

    internal static IReadOnlyList<Problem> Columns(IReadOnlyList<string>? columns) =>
        columns is null or { Count: > MaxColumns } ? [new Problem("too.many", $"Name the columns, at most {MaxColumns}.", "columns")] : [];

    internal static IReadOnlyList<Problem> Range(long from, int count, int most) =>
        from < 0 ? [new Problem("value", "Positions begin at 0.", "from")]
        : count < 0 || count > most ? [new Problem("too.many", $"Request at most {most:#,##0} rows.", "count")]
        : [];
}
