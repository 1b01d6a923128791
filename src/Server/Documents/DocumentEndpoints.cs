using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Documents;

public sealed record SortRequest(long? LoadId, DocumentKind? Kind);

public static class DocumentEndpoints
{
    public static void MapDocuments(this RouteGroupBuilder api)
    {
        api.MapPost(
                "/loads/{id:long}/documents",
                async Task<IResult> (
                    long id,
                    QueryEnum<DocumentKind> kind,
                    string? name,
                    long? stop,
                    HttpContext http,
                    Commands commands
                ) =>
                {
                    var bytes = await Body(http.Request);
                    return await commands.OnLoad(http, id, w => DocumentCommands.Add(w, id, kind.Value, name ?? "document", bytes, stop));
                }
            )
            .Needs(Right.DocumentsAdd)
            .TakesFile()
            .Produces<DocumentRow>()
            .ProducesProblem(422)
            .WithName("addDocument");

        api.MapGet("/documents/{id:long}/file", async Task<IResult> (long id, CallerReads reads, HttpContext http) =>
            {
                await using var db = await reads.Open();
                return
                    await DocumentStore.Get(db, id) is { BillId: null } document && DocumentRights.MaySee(http.User.Access(), document.Kind)
                    ? await Shown(db, document, http)
                    : Answers.NotFound("This document");
            })
            .Needs(Right.DocumentsSee)
            .WithName("getDocumentFile");

        api.MapGet("/loads/{id:long}/bol", async Task<IResult> (long id, CallerReads reads, HttpContext http) =>
            {
                await using var db = await reads.Open();
                if (await LoadReads.Sheet(db, id) is not { Load.State: not LoadState.Draft } sheet)
                {
                    return Answers.NotFound("This load");
                }

                http.Response.Headers.ContentDisposition = $"inline; filename=\"bol-{sheet.Load.Number}.pdf\"";
                return TypedResults.Bytes(BolCommands.Draw((await Business.ReadForPrint(db))!, sheet, null), "application/pdf");
            })
            .Needs(Right.DocumentsSee)
            .WithName("getBol");

        api.MapGet("/documents/tray", async (CallerReads reads, HttpContext http) =>
            {
                await using var db = await reads.Open();
                return (await DocumentStore.Tray(db, 500)).Where(t => DocumentRights.MaySee(http.User.Access(), t.Document.Kind)).ToList();
            })
            .Needs(Right.DocumentsSee)
            .WithName("listTray");

        api.MapPost(
                "/documents/tray",
                async Task<IResult> (QueryEnum<DocumentKind>? kind, string? name, HttpContext http, Commands commands) =>
                {
                    var bytes = await Body(http.Request);
                    return await commands.Run(http, w => DocumentCommands.AddToTray(w, kind?.Value, name ?? "document", bytes));
                }
            )
            .Needs(Right.DocumentsAdd)
            .TakesFile()
            .Produces<DocumentRow>()
            .ProducesProblem(422)
            .WithName("addToTray");

        api.MapPost(
                "/documents/{id:long}/assign",
                async Task<IResult> (long id, SortRequest request, HttpContext http, Commands commands) =>
                {
                    var validation = new Validation();
                    if (request.Kind is null)
                    {
                        validation.Add("missing", "Choose the document type.", "kind");
                    }

                    if (request.LoadId is null)
                    {
                        validation.Add("missing", "Choose the load for this document.", "loadId");
                    }

                    return validation.Ok
                        ? await commands.OnLoad(http, request.LoadId!.Value, w =>
                            DocumentCommands.Sort(w, id, request.LoadId.Value, request.Kind!.Value)
                        )
                        : Answers.Refused(validation.Problems);
                }
            )
            .Needs(Right.DocumentsAdd)
            .Produces<DocumentRow>()
            .ProducesProblem(422)
            .WithName("assignDocument");

        api.MapPost("/documents/{id:long}/unassign", (long id, HttpContext http, Commands commands, CallerReads reads) =>
                OnDocument(id, http, commands, reads, DocumentCommands.Unsort)
            )
            .Needs(Right.DocumentsAdd)
            .Produces<DocumentRow>()
            .ProducesProblem(422)
            .WithName("unassignDocument");

        api.MapPost("/loads/{id:long}/request-documents", (long id, HttpContext http, Commands commands, DocumentRequestCommands asks) =>
                commands.OnLoad(http, id, w => asks.Ask(w, id))
            )
            .Needs(Right.DocumentsAdd)
            .WithName("requestDocuments");

        api.MapGet("/upload/{token}", async Task<IResult> (string token, CallerReads reads, IClock clock) =>
            {
                await using var db = await reads.Open();
                return await Upload(db, token, clock.GetCurrentInstant()) is { } view
                    ? TypedResults.Ok(view)
                    : Answers.NotFound("This link");
            })
            .IsOpen("a carrier uploads documents here, through a link with 192 random bits")
            .RequireRateLimiting(Limits.Link)
            .Produces<UploadLinkView>()
            .ProducesProblem(404)
            .WithName("getUploadLink");

        api.MapPost(
                "/upload/{token}",
                async Task<IResult> (
                    string token,
                    QueryEnum<DocumentKind> kind,
                    string? name,
                    HttpContext http,
                    Commands commands,
                    CallerReads reads,
                    IClock clock
                ) =>
                {
                    // The connection is returned before the body is read, so a slow upload holds none.
                    if (await Request(reads, token, clock.GetCurrentInstant()) is not { } ask)
                    {
                        return Answers.NotFound("This link");
                    }

                    if (ask.Closed)
                    {
                        return Answers.Refused([
                            new Problem("ask.closed", $"The documents for load {ask.Number} are complete: nothing more is needed."),
                        ]);
                    }

                    var bytes = await Body(http.Request);
                    return await commands.OnLoad(http, ask.LoadId, async w =>
                        (await DocumentCommands.Add(w, ask.LoadId, kind.Value, name ?? "document", bytes)).Then(
                            _ => new DocumentRequestResult(
                                ask.LoadId,
                                $"We received the {kind.Value.Format()} for load {ask.Number}. Thank you."
                            )
                        )
                    );
                }
            )
            .IsOpen("a carrier uploads documents here, through a link with 192 random bits")
            .RequireRateLimiting(Limits.Link)
            .TakesFile()
            .Produces<DocumentRequestResult>()
            .ProducesProblem(404)
            .ProducesProblem(422)
            .WithName("uploadDocument");

        api.MapPost("/documents/{id:long}/remove", (long id, HttpContext http, Commands commands, CallerReads reads) =>
                OnDocument(id, http, commands, reads, DocumentCommands.Remove)
            )
            .Needs(Right.DocumentsAdd)
            .Produces<DocumentRow>()
            .ProducesProblem(422)
            .WithName("removeDocument");

        api.MapPost("/documents/{id:long}/restore", (long id, HttpContext http, Commands commands, CallerReads reads) =>
                OnDocument(id, http, commands, reads, DocumentCommands.Restore)
            )
            .Needs(Right.DocumentsAdd)
            .Produces<DocumentRow>()
            .ProducesProblem(422)
            .WithName("restoreDocument");
    }

    /// <summary>The request's body, read at most one byte past the limit.</summary>
    internal static async Task<byte[]> Body(HttpRequest request)
    {
        using var bytes = new MemoryStream();
        var buffer = new byte[81920];
        int read;
        while (bytes.Length <= DocumentIntake.MaxBytes && (read = await request.Body.ReadAsync(buffer)) > 0)
        {
            bytes.Write(buffer, 0, read);
        }

        return bytes.ToArray();
    }

    /// <summary>A document's bytes, for display.</summary>
    internal static async Task<IResult> Shown(NpgsqlConnection db, DocumentRow document, HttpContext http)
    {
        http.Response.Headers.ContentDisposition = $"inline; filename*=UTF-8''{Uri.EscapeDataString(document.FileName)}";
        http.Response.Headers.CacheControl = "private, max-age=3600";
        // A PDF or an image, judged by its bytes: our own pages may show it in a frame.
        http.Response.Headers.ContentSecurityPolicy =
            "default-src 'none'; img-src 'self' data:; object-src 'self'; style-src 'unsafe-inline'; frame-ancestors 'self'";
        return TypedResults.Bytes(await DocumentStore.Bytes(db, document.Id), document.MediaType);
    }

    private static async Task<DocumentRequestRow?> Request(CallerReads reads, string token, Instant now)
    {
        await using var db = await reads.Open();
        return await DocumentRequestStore.ByToken(db, token, now);
    }

    private static async Task<UploadLinkView?> Upload(NpgsqlConnection db, string token, Instant now) =>
        await DocumentRequestStore.ByToken(db, token, now) is { } ask && (await Store.Basics.Business.Read(db))! is var us
            ? new UploadLinkView(us.Name, us.Phone, ask.Number, ask.From, ask.To, ask.Who, ask.Kinds, ask.Closed)
            : null;

    private static async Task<IResult> OnDocument(
        long id,
        HttpContext http,
        Commands commands,
        CallerReads reads,
        Func<Store.Basics.CommandContext, DocumentRow, Task<Outcome<DocumentRow>>> act
    )
    {
        await using var db = await reads.Open();
        return await DocumentStore.Get(db, id) switch
        {
            { LoadId: { } load } document => await commands.OnLoad(http, load, w => act(w, document)),
            // A tray document is removed and restored without a load.
            { BillId: null } loose => await commands.Run(http, w => act(w, loose)),
            _ => Answers.NotFound("This document"),
        };
    }
}
