using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Papers;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Papers;

namespace SteadyLark.Server.Papers;

public sealed record SortRequest(long? LoadId, PaperKind? Kind);

public static class PaperEndpoints
{
    public static void MapPapers(this RouteGroupBuilder api)
    {
        api.MapPost("/loads/{id:long}/papers", async Task<IResult> (long id, QueryWord<PaperKind> kind, string? name, HttpContext http, Commands commands) =>
        {
            var bytes = await Body(http.Request);
            return await commands.OnLoad(http, id, w => PaperCommands.Add(w, id, kind.Value, name ?? "paper", bytes));
        }).Needs(Right.PapersAdd).TakesFile().Produces<PaperRow>().ProducesProblem(422).WithName("addPaper");

        api.MapGet("/papers/{id:long}/file", async Task<IResult> (long id, NpgsqlDataSource source, HttpContext http) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await PaperStore.Get(db, id) is { BillId: null } paper ? await Shown(db, paper, http) : Answers.NotFound("This paper");
        }).Needs(Right.PapersSee).WithName("getPaperFile");

        api.MapGet("/papers/tray", async (NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await PaperStore.Tray(db, 500);
        }).Needs(Right.PapersSee).WithName("listTray");

        api.MapPost("/papers/tray", async Task<IResult> (QueryWord<PaperKind>? kind, string? name, HttpContext http, Commands commands) =>
        {
            var bytes = await Body(http.Request);
            return await commands.Run(http, w => PaperCommands.AddToTray(w, kind?.Value, name ?? "paper", bytes));
        }).Needs(Right.PapersAdd).TakesFile().Produces<PaperRow>().ProducesProblem(422).WithName("addToTray");

        api.MapPost("/papers/{id:long}/sort", async Task<IResult> (long id, SortRequest request, HttpContext http, Commands commands) =>
        {
            var checks = new Checks();
            if (request.Kind is null)
            {
                checks.Add("missing", "Say what the paper is.", "kind");
            }

            if (request.LoadId is null)
            {
                checks.Add("missing", "Choose the load it belongs to.", "loadId");
            }

            return checks.Ok ? await commands.OnLoad(http, request.LoadId!.Value, w => PaperCommands.Sort(w, id, request.LoadId.Value, request.Kind!.Value)) : Answers.Refused(checks.Problems);
        }).Needs(Right.PapersAdd).Produces<PaperRow>().ProducesProblem(422).WithName("sortPaper");

        api.MapPost("/papers/{id:long}/unsort", (long id, HttpContext http, Commands commands, NpgsqlDataSource source) => OnPaper(id, http, commands, source, PaperCommands.Unsort))
            .Needs(Right.PapersAdd).Produces<PaperRow>().ProducesProblem(422).WithName("unsortPaper");

        api.MapPost("/loads/{id:long}/ask-papers", (long id, HttpContext http, Commands commands, PaperAskCommands asks) => commands.OnLoad(http, id, w => asks.Ask(w, id))).Needs(Right.PapersAdd).WithName("askForPapers");

        api.MapGet("/hand-in/{token}", async Task<IResult> (string token, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await HandIn(db, token) is { } view ? TypedResults.Ok(view) : Answers.NotFound("This link");
        }).IsOpen("who has the papers hands them in here, by a link of 192 random bits").Produces<HandInView>().ProducesProblem(404).WithName("getHandIn");

        api.MapPost("/hand-in/{token}", async Task<IResult> (string token, QueryWord<PaperKind> kind, string? name, HttpContext http, Commands commands, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            if (await PaperAskStore.ByToken(db, token) is not { } ask)
            {
                return Answers.NotFound("This link");
            }

            if (ask.Closed)
            {
                return Answers.Refused([new Problem("ask.closed", $"The papers of load {ask.Number} are in: nothing more is needed.")]);
            }

            var bytes = await Body(http.Request);
            return await commands.OnLoad(http, ask.LoadId, async w => (await PaperCommands.Add(w, ask.LoadId, kind.Value, name ?? "paper", bytes)).Then(_ => new AskAnswer(ask.LoadId, $"{kind.Value.Said()} for load {ask.Number} is here. Thank you.")));
        }).IsOpen("who has the papers hands them in here, by a link of 192 random bits").TakesFile().Produces<AskAnswer>().ProducesProblem(404).ProducesProblem(422).WithName("handIn");

        api.MapPost("/papers/{id:long}/put-away", (long id, HttpContext http, Commands commands, NpgsqlDataSource source) => OnPaper(id, http, commands, source, PaperCommands.PutAway))
            .Needs(Right.PapersAdd).Produces<PaperRow>().ProducesProblem(422).WithName("putPaperAway");

        api.MapPost("/papers/{id:long}/bring-back", (long id, HttpContext http, Commands commands, NpgsqlDataSource source) => OnPaper(id, http, commands, source, PaperCommands.BringBack))
            .Needs(Right.PapersAdd).Produces<PaperRow>().ProducesProblem(422).WithName("bringPaperBack");
    }

    /// <summary>The request's body, read no further than a byte past what is allowed.</summary>
    internal static async Task<byte[]> Body(HttpRequest request)
    {
        using var bytes = new MemoryStream();
        var buffer = new byte[81920];
        int read;
        while (bytes.Length <= PaperIntake.MostBytes && (read = await request.Body.ReadAsync(buffer)) > 0)
        {
            bytes.Write(buffer, 0, read);
        }

        return bytes.ToArray();
    }

    /// <summary>A paper's bytes, to be looked at in place.</summary>
    internal static async Task<IResult> Shown(NpgsqlConnection db, PaperRow paper, HttpContext http)
    {
        http.Response.Headers.ContentDisposition = $"inline; filename*=UTF-8''{Uri.EscapeDataString(paper.FileName)}";
        http.Response.Headers.CacheControl = "private, max-age=3600";
        // A PDF or a picture, told by its bytes: our own pages may show it in a frame.
        http.Response.Headers.ContentSecurityPolicy = "default-src 'none'; img-src 'self' data:; object-src 'self'; style-src 'unsafe-inline'; frame-ancestors 'self'";
        return TypedResults.Bytes(await PaperStore.Bytes(db, paper.Id), paper.MediaType);
    }

    private static async Task<HandInView?> HandIn(NpgsqlConnection db, string token) =>
        await PaperAskStore.ByToken(db, token) is { } ask && (await Store.Basics.Business.Read(db))! is var us ? new HandInView(us.Name, us.Phone, ask.Number, ask.From, ask.To, ask.Who, ask.Kinds, ask.Closed) : null;

    private static async Task<IResult> OnPaper(long id, HttpContext http, Commands commands, NpgsqlDataSource source, Func<Store.Basics.Work, PaperRow, Task<Outcome<PaperRow>>> act)
    {
        await using var db = await source.OpenConnectionAsync();
        return await PaperStore.Get(db, id) switch
        {
            { LoadId: { } load } paper => await commands.OnLoad(http, load, w => act(w, paper)),
            // One of the tray: it is put away and brought back without a load.
            { BillId: null } loose => await commands.Run(http, w => act(w, loose)),
            _ => Answers.NotFound("This paper"),
        };
    }
}
