using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Papers;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Papers;

namespace SteadyLark.Server.Papers;

public static class PaperEndpoints
{
    public static void MapPapers(this RouteGroupBuilder api)
    {
        api.MapPost("/loads/{id:long}/papers", async Task<IResult> (long id, QueryWord<PaperKind> kind, string? name, HttpContext http, Commands commands) =>
        {
            var bytes = await Body(http.Request);
            return await commands.OnLoad(http, id, w => PaperCommands.Add(w, id, kind.Value, name ?? "paper", bytes));
        }).Needs(Right.PapersAdd).Accepts<byte[]>("application/octet-stream").Produces<PaperRow>().ProducesProblem(422).WithName("addPaper");

        api.MapGet("/papers/{id:long}/file", async Task<IResult> (long id, NpgsqlDataSource source, HttpContext http) =>
        {
            await using var db = await source.OpenConnectionAsync();
            if (await PaperStore.Get(db, id) is not { } paper)
            {
                return Answers.NotFound("This paper");
            }

            http.Response.Headers.ContentDisposition = $"inline; filename*=UTF-8''{Uri.EscapeDataString(paper.FileName)}";
            http.Response.Headers.CacheControl = "private, max-age=3600";
            return TypedResults.Bytes(await PaperStore.Bytes(db, id), paper.MediaType);
        }).Needs(Right.PapersSee).WithName("getPaperFile");

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

    private static async Task<IResult> OnPaper(long id, HttpContext http, Commands commands, NpgsqlDataSource source, Func<Store.Basics.Work, PaperRow, Task<Outcome<PaperRow>>> act)
    {
        await using var db = await source.OpenConnectionAsync();
        return await PaperStore.Get(db, id) is { LoadId: { } load } paper ? await commands.OnLoad(http, load, w => act(w, paper)) : Answers.NotFound("This paper");
    }
}
