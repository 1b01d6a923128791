using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Formats.Tables;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <param name="Text">Words found anywhere in a row.</param>
public sealed record ListRequest(string? Text, IReadOnlyList<ListFilter>? Filters, IReadOnlyList<ListSort>? Sorts)
{
    public ListQuery Query() => new(Text, Filters ?? [], Sorts ?? []);
}

/// <summary>The keys of all rows, in order.</summary>
public sealed record ListKeys(IReadOnlyList<long> Keys);

/// <param name="Keys">Rows to read, at most 500.</param>
/// <param name="Columns">Columns to read.</param>
public sealed record ListRowsRequest(IReadOnlyList<long>? Keys, IReadOnlyList<string>? Columns);

/// <param name="Keys">Only these rows; all that match the query when omitted.</param>
/// <param name="Format">csv or xlsx.</param>
public sealed record ListExportRequest(
    string? Text,
    IReadOnlyList<ListFilter>? Filters,
    IReadOnlyList<ListSort>? Sorts,
    IReadOnlyList<string>? Columns,
    IReadOnlyList<long>? Keys,
    string? Format
);

/// <param name="Options">The values of columns with a fixed set.</param>
public sealed record ListDescription(
    string Name,
    string Title,
    IReadOnlyList<ListColumn> Columns,
    ListSort First,
    IReadOnlyDictionary<string, List<string>> Options,
    IReadOnlyList<SavedView> Views
);

/// <param name="Definition">As the page stores it: text, filters, sorts, columns, dense.</param>
public sealed record SaveViewRequest(string? Name, JsonObject? Definition);

/// <summary>Lists of any length, each under the right to see its contents.</summary>
public static class ListEndpoints
{
    /// <summary>The most rows per request.</summary>
    private const int MaxRows = 500;

    private static readonly Dictionary<string, Right> Rights = new()
    {
        ["loads"] = Right.LoadsSee,
        ["invoices"] = Right.BillingSee,
        ["bills"] = Right.PayingSee,
        ["companies"] = Right.CompaniesSee,
        ["payments"] = Right.BillingSee,
        ["entries"] = Right.LedgerSee,
        ["places"] = Right.CompaniesSee,
    };

    public static void MapLists(this RouteGroupBuilder api)
    {
        foreach (var whole in ListStore.All)
        {
            var (at, right, name) = ($"/lists/{whole.Name}", Rights[whole.Name], char.ToUpperInvariant(whole.Name[0]) + whole.Name[1..]);
            api.MapGet(at, async (HttpContext http, CallerReads reads) =>
                {
                    var list = whole.For(http.User.Access());
                    await using var db = await reads.Open();
                    var words = new Dictionary<string, List<string>>();
                    foreach (var column in list.Columns.Where(c => c.Kind == ColumnKind.Choice))
                    {
                        words[column.Id] = await ListStore.Options(db, list, column.Id);
                    }

                    return new ListDescription(
                        list.Name,
                        list.Title,
                        list.Columns,
                        list.First,
                        words,
                        await ListStore.Views(db, http.Actor().UserId ?? 0, list.Name)
                    );
                })
                .Needs(right)
                .WithName($"describe{name}List");

            api.MapPost(
                    at + "/keys",
                    async Task<IResult> (ListRequest request, HttpContext http, CallerReads reads, IClock clock, BusinessZone zone) =>
                    {
                        var list = whole.For(http.User.Access());
                        if (request.Query().Check(list.Columns) is { Count: > 0 } problems)
                        {
                            return Answers.Refused(problems);
                        }

                        await using var db = await reads.Open();
                        return TypedResults.Ok(
                            new ListKeys(
                                await ListStore.Keys(db, list, request.Query(), zone.Zone, clock.GetCurrentInstant().InZone(zone.Zone).Date)
                            )
                        );
                    }
                )
                .Needs(right)
                .Produces<ListKeys>()
                .ProducesProblem(422)
                .WithName($"list{name}Keys");

            api.MapPost(at + "/rows", async Task<IResult> (ListRowsRequest request, HttpContext http, CallerReads reads) =>
                {
                    var list = whole.For(http.User.Access());
                    if (request.Keys is null or { Count: > MaxRows } || request.Columns is null or { Count: > 60 })
                    {
                        return Answers.Refused([
                            new Problem(
                                "too.many",
                                $"Request at most {MaxRows} rows and name the columns.",
                                request.Columns is null ? "columns" : "keys"
                            ),
                        ]);
                    }

                    await using var db = await reads.Open();
                    return TypedResults.Ok(await ListStore.Rows(db, list, request.Keys, request.Columns));
                })
                .Needs(right)
                .Produces<List<JsonObject>>()
                .ProducesProblem(422)
                .WithName($"list{name}Rows");

            api.MapPost(
                    at + "/export",
                    async Task<IResult> (ListExportRequest request, HttpContext http, CallerReads reads, IClock clock, BusinessZone zone) =>
                    {
                        var list = whole.For(http.User.Access());
                        var query = new ListQuery(request.Text, request.Filters ?? [], request.Sorts ?? []);
                        var problems = query.Check(list.Columns).ToList();
                        if (request.Format is not ("csv" or "xlsx"))
                        {
                            problems.Add(new Problem("missing", "Choose csv or xlsx.", "format"));
                        }

                        if (problems.Count > 0)
                        {
                            return Answers.Refused(problems);
                        }

                        await using var db = await reads.OpenLate();
                        return await Export(db, list, query, request, zone.Zone, clock.GetCurrentInstant().InZone(zone.Zone).Date);
                    }
                )
                .Needs(right)
                .Produces(200, contentType: "text/csv")
                .ProducesProblem(422)
                .WithName($"export{name}List")
                .Exports($"the list of {whole.Title.ToLowerInvariant()}");

            api.MapPost(at + "/views", (SaveViewRequest request, HttpContext http, Commands commands) => commands.Run(http, async w =>
                    {
                        var validation = new Validation();
                        var title = validation.Text(request.Name, "name", "The view name", 60, required: true);
                        if (request.Definition is null || request.Definition.ToJsonString().Length > 15_000)
                        {
                            validation.Add("missing", "The view is empty or too large.", "definition");
                        }

                        if (!validation.Ok)
                        {
                            return validation.Problems;
                        }

                        var id = await ListStore.SaveView(w, whole.Name, title!, request.Definition!);
                        return (Outcome<SavedView>)new SavedView(id, title!, request.Definition!);
                    }))
                .Needs(right)
                .WithName($"save{name}View");

            api.MapPost(at + "/views/{id:long}/delete", (long id, HttpContext http, Commands commands) =>
                    commands.Run(http, async w =>
                        await ListStore.DropView(w, whole.Name, id) ? (Outcome<ListKeys>)new ListKeys([id]) : Problem.Missing("This view")
                    )
                )
                .Needs(right)
                .WithName($"drop{name}View");
        }
    }

    private static async Task<IResult> Export(
        NpgsqlConnection db,
        ListSource list,
        ListQuery query,
        ListExportRequest request,
        DateTimeZone zone,
        LocalDate today
    )
    {
        var columns = (request.Columns ?? []).Select(id => list.Columns.FirstOrDefault(c => c.Id == id)).OfType<ListColumn>().ToList();
        if (columns.Count == 0)
        {
            columns = list.Columns.Where(c => c.Shown).ToList();
        }

        var keys = await ListStore.Keys(db, list, query, zone, today);
        if (request.Keys is { Count: > 0 } chosen)
        {
            var only = chosen.ToHashSet();
            keys = keys.Where(only.Contains).ToList();
        }

        var rows = new List<IReadOnlyList<object?>>(keys.Count);
        foreach (var part in keys.Chunk(5000))
        {
            rows.AddRange(
                (await ListStore.Rows(db, list, part, columns.Select(c => c.Id).ToList())).Select(r =>
                    (IReadOnlyList<object?>)columns.Select(c => Cell(r[c.Id], c.Kind, zone)).ToList()
                )
            );
        }

        var table = new Table(columns.Select(c => c.Title).ToList(), rows);
        return table.File(request.Format!, list.Name, list.Title);
    }

    /// <summary>A cell's spreadsheet value; instants become wall-clock time in the company's zone, unless the column has a zone of its
    /// own.</summary>
    private static object? Cell(JsonNode? value, ColumnKind kind, DateTimeZone zone) =>
        (value, kind) switch
        {
            (null, _) => null,
            (_, ColumnKind.Number or ColumnKind.Money) => value.GetValue<decimal>(),
            (_, ColumnKind.YesNo) => value.GetValue<bool>() ? "yes" : "no",
            (_, ColumnKind.Date) => LocalDatePattern.Iso.Parse(value.GetValue<string>()).Value.ToDateTimeUnspecified(),
            (_, ColumnKind.Time) when LocalDateTimePattern.ExtendedIso.Parse(value.GetValue<string>()) is { Success: true } local =>
                local.Value.ToDateTimeUnspecified(),
            (_, ColumnKind.Time) => OffsetDateTimePattern
                .Rfc3339.Parse(value.GetValue<string>())
                .Value.ToInstant()
                .InZone(zone)
                .LocalDateTime.ToDateTimeUnspecified(),
            _ => value.GetValue<string>(),
        };
}
