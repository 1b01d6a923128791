using NodaTime;
using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Loads;

/// <summary>Which loads a slate shows.</summary>
public enum LoadView
{
    /// <summary>All, the newest first.</summary>
    All,

    /// <summary>Kept as drafts.</summary>
    Drafts,

    /// <summary>Booked, with nobody to carry them.</summary>
    Open,

    /// <summary>Covered or rolling.</summary>
    Moving,
}

/// <summary>What a customer ordered last, to begin the next load with.</summary>
public sealed record UsualLoad(string? Number, Equipment? Equipment, IReadOnlyList<StopRow> Stops, IReadOnlyList<FreightRow> Freight)
{
    public static UsualLoad Of(LoadSheet sheet) => new(sheet.Load.Number, sheet.Load.Equipment, sheet.Load.Stops, sheet.Freight);
}

public static class LoadEndpoints
{
    public static void MapLoads(this RouteGroupBuilder api)
    {
        api.MapGet("/loads", async (QueryWord<LoadView>? view, string? after, int? limit, long? customerId, NpgsqlDataSource source, IClock clock, BusinessZone zone) =>
        {
            var most = Math.Clamp(limit ?? 200, 1, 500);
            await using var db = await source.OpenConnectionAsync();
            List<LoadRow> rows;
            string? Next(Func<LoadRow, string> key) => rows.Count == most ? key(rows[^1]) : null;
            if ((view?.Value ?? LoadView.All) == LoadView.All)
            {
                rows = await LoadReads.Newest(db, long.TryParse(after, out var before) ? before : null, most, customerId);
                return new Page<LoadLine>(await LoadViews.Lines(db, rows, clock.GetCurrentInstant(), zone.Zone), Next(r => r.Id.ToString()));
            }

            LoadState[] states = view!.Value.Value switch
            {
                LoadView.Drafts => [LoadState.Draft],
                LoadView.Open => [LoadState.Booked],
                _ => [LoadState.Covered, LoadState.Rolling],
            };
            rows = await LoadReads.InStates(db, states, Cursor(after), most);
            return new Page<LoadLine>(
                await LoadViews.Lines(db, rows, clock.GetCurrentInstant(), zone.Zone),
                Next(r => $"{(r.FirstAt ?? Instant.FromUtc(9999, 1, 1, 0, 0)).ToUnixTimeTicks()}-{r.Id}"));
        }).Needs(Right.LoadsSee).WithName("listLoads");

        api.MapGet("/loads/{id:long}", async Task<IResult> (long id, NpgsqlDataSource source, IClock clock, BusinessZone zone, HttpContext http) =>
        {
            await using var db = await source.OpenConnectionAsync();
            if (await LoadViews.Sheet(db, id, clock.GetCurrentInstant(), zone.Zone) is not { } sheet)
            {
                return Answers.NotFound("This load");
            }

            http.Response.Headers.ETag = $"\"{sheet.Sheet.Load.Version}\"";
            return TypedResults.Ok(sheet);
        }).Needs(Right.LoadsSee).Produces<LoadSheetView>().ProducesProblem(404).WithName("getLoad");

        api.MapGet("/loads/usual", async (long customerId, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            var last = await LoadReads.LastOf(db, customerId);
            return last == 0 ? new UsualLoad(null, null, [], []) : UsualLoad.Of((await LoadReads.Sheet(db, last))!);
        }).Needs(Right.LoadsSee).WithName("getUsualLoad");

        api.MapPost("/loads", (LoadRequest request, HttpContext http, Commands commands) =>
            commands.Once(http, request, w => LoadCommands.Book(w, request))).Needs(Right.LoadsBook).WithName("bookLoad");

        api.MapPut("/loads/{id:long}", (long id, LoadRequest request, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => LoadCommands.Change(w, id, request))).Needs(Right.LoadsBook).WithName("changeLoad");

        api.MapPost("/loads/{id:long}/cancel", (long id, CancelRequest request, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => LoadCommands.Cancel(w, id, request))).Needs(Right.LoadsBook).WithName("cancelLoad");

        api.MapPost("/loads/{id:long}/pass", (long id, PassRequest request, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => LoadCommands.Pass(w, id, request))).Needs(Right.HoldsPass).WithName("passHold");

        api.MapGet("/own-fields", async (NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await OwnFieldStore.All(db);
        }).Needs(Right.LoadsSee).WithName("listOwnFields");

        api.MapPost("/own-fields", (OwnFieldRequest request, HttpContext http, Commands commands) =>
            commands.Run(http, w => OwnFieldCommands.Write(w, null, request))).Needs(Right.SetupEdit).WithName("addOwnField");

        api.MapPut("/own-fields/{id:long}", (long id, OwnFieldRequest request, HttpContext http, Commands commands) =>
            commands.Run(http, w => OwnFieldCommands.Write(w, id, request))).Needs(Right.SetupEdit).WithName("changeOwnField");

        api.MapPost("/own-fields/{id:long}/retire", (long id, HttpContext http, Commands commands) =>
            commands.Run(http, w => OwnFieldCommands.Retire(w, id))).Needs(Right.SetupEdit).WithName("retireOwnField");
    }

    private static LoadCursor? Cursor(string? after)
    {
        var parts = (after ?? "").Split('-');
        return parts.Length == 2 && long.TryParse(parts[0], out var ticks) && long.TryParse(parts[1], out var id) ? new LoadCursor(Instant.FromUnixTimeTicks(ticks), id) : null;
    }
}
