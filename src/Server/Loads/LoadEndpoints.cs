using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Covering;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Loads;

/// <summary>The loads on a list.</summary>
public enum LoadView
{
    /// <summary>All, newest first.</summary>
    All,

    /// <summary>Drafts.</summary>
    Drafts,

    /// <summary>Booked and uncovered.</summary>
    Open,

    /// <summary>Covered or rolling.</summary>
    Moving,
}

/// <summary>The customer's last order, as a template for the next load.</summary>
public sealed record SuggestedLoad(string? Number, Equipment? Equipment, IReadOnlyList<StopRow> Stops, IReadOnlyList<FreightRow> Freight)
{
    public static SuggestedLoad Of(LoadSheet sheet) => new(sheet.Load.Number, sheet.Load.Equipment, sheet.Load.Stops, sheet.Freight);
}

public static class LoadEndpoints
{
    public static void MapLoads(this RouteGroupBuilder api)
    {
        api.MapGet(
                "/loads",
                async (
                    QueryEnum<LoadView>? view,
                    string? after,
                    int? limit,
                    long? customerId,
                    HttpContext http,
                    CallerReads reads,
                    OpenLoads open,
                    IClock clock,
                    BusinessZone zone
                ) =>
                {
                    var max = Math.Clamp(limit ?? 200, 1, 500);
                    if (view?.Value is LoadView.Open or LoadView.Moving && !http.User.Access().Limits.IsLimited)
                    {
                        return OpenPage(
                            (await open.All()).Where(l =>
                                view.Value.Value == LoadView.Open ? l.Load.ToCover is not null : !l.Load.State.IsOpen()
                            ),
                            Cursor(after),
                            max
                        );
                    }

                    await using var db = await reads.Open();
                    List<LoadRow> rows;
                    string? Next(Func<LoadRow, string> key) => rows.Count == max ? key(rows[^1]) : null;
                    if ((view?.Value ?? LoadView.All) == LoadView.All)
                    {
                        rows = await LoadReads.Newest(db, long.TryParse(after, out var before) ? before : null, max, customerId);
                        return new Page<LoadLine>(
                            await LoadViews.Lines(db, rows, clock.GetCurrentInstant(), zone.Zone),
                            Next(r => r.Id.ToString())
                        );
                    }

                    LoadState[] states = view!.Value.Value switch
                    {
                        LoadView.Drafts => [LoadState.Draft],
                        LoadView.Open => [.. OpenLoads.States],
                        _ => [LoadState.Covered, LoadState.Rolling],
                    };
                    rows = await LoadReads.InStates(db, states, Cursor(after), max, toCover: view.Value.Value == LoadView.Open);
                    return new Page<LoadLine>(await LoadViews.Lines(db, rows, clock.GetCurrentInstant(), zone.Zone), Next(Cursor));
                }
            )
            .Needs(Right.LoadsSee)
            .WithName("listLoads");

        api.MapGet(
                "/loads/{id:long}",
                async Task<IResult> (long id, CallerReads reads, IClock clock, BusinessZone zone, HttpContext http) =>
                {
                    await using var db = await reads.Open();
                    await using var snapshot = await Reads.Snapshot(db);
                    if (await LoadViews.Sheet(db, id, clock.GetCurrentInstant(), zone.Zone) is not { } sheet)
                    {
                        return Answers.NotFound("This load");
                    }

                    http.Response.Headers.ETag = $"\"{sheet.Sheet.Load.Version}\"";
                    return TypedResults.Ok(sheet);
                }
            )
            .Needs(Right.LoadsSee)
            .Produces<LoadSheetView>()
            .ProducesProblem(404)
            .WithName("getLoad");

        api.MapGet("/loads/suggestion", async (long customerId, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                var last = await LoadReads.LastOf(db, customerId);
                return last == 0 ? new SuggestedLoad(null, null, [], []) : SuggestedLoad.Of((await LoadReads.Sheet(db, last))!);
            })
            .Needs(Right.LoadsSee)
            .WithName("getSuggestedLoad");

        // What the charges come to while a load is entered.
        api.MapPost(
                "/loads/price",
                async Task<Results<Ok<ChargePreview>, ProblemHttpResult>> (
                    PriceRequest request,
                    CallerReads reads,
                    IClock clock,
                    BusinessZone zone
                ) =>
                {
                    await using var db = await reads.Open();
                    var (minimum, today) = (request.Minimum, clock.GetCurrentInstant().InZone(zone.Zone).Date);
                    if (request.Currency is { } currency and not Currency.USD && minimum is { Currency: Currency.USD })
                    {
                        minimum = await ExchangeStore.HasRate(db, currency) ? await ExchangeStore.From(db, minimum, currency, today) : null;
                    }

                    var lists = await LoadCommands.Lists(db, [], request.Ordered(), request.Tables());
                    var preview = request.Preview(minimum, lists, today);
                    return preview.Ok ? TypedResults.Ok(preview.Value) : Answers.Refused(preview.Problems);
                }
            )
            .Needs(Right.LoadsBook)
            .WithName("priceCharges");

        ClassRatesCommands.Map(api);
        api.MapPost("/loads", (LoadRequest request, HttpContext http, Commands commands) =>
                commands.Once(http, request, w => LoadCommands.Book(w, request))
            )
            .Needs(Right.LoadsBook)
            .WithName("bookLoad");

        api.MapPut("/loads/{id:long}", (long id, LoadRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => LoadCommands.Change(w, id, request))
            )
            .Needs(Right.LoadsBook)
            .WithName("changeLoad");

        api.MapPost("/loads/{id:long}/cancel", (long id, CancelRequest request, HttpContext http, Commands commands, CoverCommands cover) =>
                commands.OnLoad(http, id, w => LoadCommands.Cancel(w, cover, id, request))
            )
            .Needs(Right.LoadsBook)
            .WithName("cancelLoad");

        api.MapPost("/loads/{id:long}/divide", (long id, DivideRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => RegroupCommands.Divide(w, id, request))
            )
            .Needs(Right.LoadsBook)
            .WithName("divideLoad");

        api.MapPost("/loads/combine", (CombineRequest request, HttpContext http, Commands commands) =>
                commands.Once(http, request, w => RegroupCommands.Combine(w, request))
            )
            .Needs(Right.LoadsBook)
            .WithName("combineLoads");

        api.MapPost("/loads/{id:long}/restore", (long id, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => RegroupCommands.Restore(w, id))
            )
            .Needs(Right.LoadsBook)
            .WithName("restoreLoad");

        api.MapPost("/loads/{id:long}/override-hold", (long id, OverrideHoldRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => LoadCommands.OverrideHold(w, id, request))
            )
            .Needs(Right.HoldsOverride)
            .WithName("overrideHold");

        api.MapGet("/custom-fields", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await CustomFieldStore.All(db);
            })
            .Needs(Right.LoadsSee)
            .WithName("listCustomFields");

        api.MapPost("/custom-fields", (CustomFieldRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => CustomFieldCommands.Write(w, null, request))
            )
            .Needs(Right.SetupEdit)
            .WithName("addCustomField");

        api.MapPut("/custom-fields/{id:long}", (long id, CustomFieldRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => CustomFieldCommands.Write(w, id, request))
            )
            .Needs(Right.SetupEdit)
            .WithName("changeCustomField");

        api.MapPost("/custom-fields/{id:long}/deactivate", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => CustomFieldCommands.Deactivate(w, id))
            )
            .Needs(Right.SetupEdit)
            .WithName("deactivateCustomField");
    }

    /// <summary>A page of the loads kept in memory.</summary>
    private static Page<LoadLine> OpenPage(IEnumerable<LoadLine> lines, LoadCursor? after, int max)
    {
        var rows = lines
            .Where(l =>
                after is not { } at || (l.Load.FirstAt ?? Undated) > at.At || ((l.Load.FirstAt ?? Undated) == at.At && l.Load.Id > at.Id)
            )
            .Take(max)
            .ToList();
        return new Page<LoadLine>(rows, rows.Count == max ? Cursor(rows[^1].Load) : null);
    }

    private static string Cursor(LoadRow row) => $"{(row.FirstAt ?? Undated).ToUnixTimeTicks()}-{row.Id}";

    /// <summary>Where loads without a date are in the order.</summary>
    private static readonly Instant Undated = Instant.FromUtc(9999, 1, 1, 0, 0);

    private static LoadCursor? Cursor(string? after)
    {
        var parts = (after ?? "").Split('-');
        return parts.Length == 2 && long.TryParse(parts[0], out var ticks) && long.TryParse(parts[1], out var id)
            ? new LoadCursor(Instant.FromUnixTimeTicks(ticks), id)
            : null;
    }
}
