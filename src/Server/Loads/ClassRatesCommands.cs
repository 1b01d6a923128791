using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Formats.Tables;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Loads;

/// <summary>The rates of a table, as read from its file.</summary>
public sealed record ClassRatesFile(IReadOnlyList<int> Breaks, IReadOnlyList<ClassRateRow> Rows);

/// <param name="Minimum">What is charged at least after the discount, in the table's currency; null without a minimum.</param>
/// <param name="Rates">The weight breaks and rates; null to keep those it has.</param>
/// <param name="Active">False to remove it from the list.</param>
public sealed record ClassRatesRequest(
    string? Name,
    decimal? DiscountPercent,
    decimal? Minimum,
    decimal? SurchargePercent,
    Currency? Currency = null,
    ClassRatesFile? Rates = null,
    bool Active = true
);

/// <summary>Rate tables by freight class.</summary>
public static class ClassRatesCommands
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/class-rates", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await ClassRatesStore.All(db);
            })
            .Needs(Right.RatesSee)
            .WithName("getClassRates");

        api.MapGet("/class-rates/{id:long}/file", async Task<IResult> (long id, string? format, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                if ((await ClassRatesStore.ByIds(db, [id])).SingleOrDefault() is not { } table)
                {
                    return Answers.NotFound("This rate table");
                }

                var cells = ClassRates.Cells(table.Breaks, table.Rows);
                return new Table(cells[0], cells.Skip(1)).File(format ?? "csv", "class-rates", "Class rates");
            })
            .Needs(Right.RatesSee)
            .Produces(200, contentType: "text/csv")
            .ProducesProblem(404)
            .Exports("a rate table")
            .WithName("exportClassRates");

        api.MapPost("/class-rates/read", async Task<IResult> (HttpRequest request) =>
            {
                var file = TableReader.Read(await DocumentEndpoints.Body(request));
                var read = file.Ok ? ClassRates.Read(file.Value) : file.Problems;
                return read.Ok ? TypedResults.Ok(new ClassRatesFile(read.Value.Breaks, read.Value.Rows)) : Answers.Refused(read.Problems);
            })
            .Needs(Right.SetupEdit)
            .TakesFile()
            .Produces<ClassRatesFile>()
            .ProducesProblem(422)
            .WithName("readClassRates");

        api.MapPost("/class-rates", (ClassRatesRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Save(w, null, request))
            )
            .Needs(Right.SetupEdit)
            .WithName("addClassRates");

        api.MapPut("/class-rates/{id:long}", (long id, ClassRatesRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Save(w, id, request))
            )
            .Needs(Right.SetupEdit)
            .WithName("changeClassRates");
    }

    /// <summary>Adds a rate table, or changes one. Loads keep what they were rated at until they are edited.</summary>
    public static async Task<Outcome<ClassRates>> Save(CommandContext w, long? id, ClassRatesRequest request)
    {
        var all = await ClassRatesStore.All(w.Db);
        var before = id is { } changed ? (await ClassRatesStore.ByIds(w.Db, [changed])).SingleOrDefault() : null;
        if (id is not null && before is null)
        {
            return Problem.Missing("This rate table");
        }

        var terms = ClassRates.Terms(
            request.Name,
            request.DiscountPercent,
            request.Minimum,
            request.SurchargePercent,
            request.Currency ?? before?.Currency ?? Currency.USD,
            all.Where(t => t.Id != id).Select(t => t.Name).ToList()
        );
        var rates = (request.Rates, before) switch
        {
            ({ } file, _) => ClassRates.Read(
                ClassRates.Cells(file.Breaks ?? [], (file.Rows ?? []).Where(r => r?.PerCwt is not null).ToList())
            ),
            (null, { } kept) => (kept.Breaks, kept.Rows),
            _ => new Problem("missing", "Upload the rates: a CSV or XLSX file with miles, class and weight breaks.", "rates"),
        };
        if (!terms.Ok || !rates.Ok)
        {
            var validation = new Validation();
            validation.AddRange(terms.Problems);
            validation.AddRange(rates.Problems.Select(p => p with { Field = "rates" }));
            return validation.Problems;
        }

        var table = terms.Value with { Id = id ?? 0, Breaks = rates.Value.Breaks, Rows = rates.Value.Rows, IsActive = request.Active };
        table = table with { Id = await ClassRatesStore.Save(w.Db, table) };
        w.Record(
            EventKinds.SetupCompanyChanged,
            0,
            $"Rate table {table.Name} {(before is null ? "added" : table.IsActive ? "changed" : "removed")}",
            before: before is null
                ? null
                : new
                {
                    before.Name,
                    before.DiscountPercent,
                    before.Minimum,
                    before.SurchargePercent,
                    Rates = ClassRates.Cells(before.Breaks, before.Rows).Select(r => string.Join(' ', r)),
                }
        );
        return table;
    }
}
