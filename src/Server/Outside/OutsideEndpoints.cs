using System.Text.RegularExpressions;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Outside.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Outside;

public sealed record MailFileView(string Name, string MediaType, int Size);

/// <summary>A parsed email.</summary>
/// <param name="Name">The stand-in's file name; empty for an email of ours.</param>
public sealed partial record MailView(
    string Name,
    bool ToUs,
    string From,
    string To,
    string Subject,
    string Text,
    Instant At,
    IReadOnlyList<MailFileView> Files
)
{
    /// <summary>An email of ours. Secrets in its links are masked: only the recipient may use them.</summary>
    public static MailView Of(MailRow row, byte[] eml)
    {
        var view = Of("", row.Direction == "in", eml);
        return view with { Subject = Masked(view.Subject), Text = Masked(view.Text) };
    }

    private static string Masked(string text) => LinkSecret().Replace(text, "$1…");

    [GeneratedRegex("(/(?:accept|upload|track|devices|welcome)/)[0-9a-f]{20,}")]
    private static partial Regex LinkSecret();

    public static MailView Of(string name, bool toUs, byte[] eml)
    {
        var m = Eml.Read(eml);
        return new MailView(
            name,
            toUs,
            m.From,
            m.To,
            m.Subject,
            m.Text,
            m.At,
            m.Files.Select(f => new MailFileView(f.Name, f.MediaType, f.Bytes.Length)).ToList()
        );
    }
}

public sealed record OutsideFile(string? Name, string? Base64);

public sealed record WriteToUsRequest(string? From, string? Subject, string? Text, OutsideFile? File);

/// <summary>The simulator page: email the outside world received, and a form to write to us. Only where the stand-ins run.</summary>
public static class OutsideEndpoints
{
    /// <summary>Which delivered emails the user may not read: an invoice needs the right to see invoices here too. Our emails are
    /// identified by their keys.</summary>
    private static async Task<HashSet<string>> Hidden(CallerReads reads, Access access, IEnumerable<string> names)
    {
        var ids = names.Where(n => long.TryParse(n, out _)).ToDictionary(long.Parse, n => n);
        await using var db = await reads.Open();
        return (await MailStore.Purposes(db, ids.Keys))
            .Where(p => !DocumentRights.MaySee(access, p.Purpose))
            .Select(p => ids[p.Id])
            .ToHashSet();
    }

    public static void MapOutside(this RouteGroupBuilder all)
    {
        var api = all.MapGroup("").AddEndpointFilter(Simulation.Filter);
        api.MapGet("/outside/emails", async (Mailbox mailbox, CallerReads reads, HttpContext http) =>
            {
                var emails = mailbox.Newest(100);
                var hidden = await Hidden(reads, http.User.Access(), emails.Select(m => m.Name));
                return emails.Where(m => !hidden.Contains(m.Name)).Select(m => MailView.Of(m.Name, m.ToUs, m.Eml)).ToList();
            })
            .Needs(Right.OutsideUse)
            .WithName("listSimulatorMails");

        api.MapGet("/outside/emails/{name}/eml", async Task<IResult> (string name, Mailbox mailbox, CallerReads reads, HttpContext http) =>
                mailbox.Get(name) is { } mail && (await Hidden(reads, http.User.Access(), [name])).Count == 0
                    ? TypedResults.Bytes(mail.Eml, "message/rfc822", mail.Name)
                    : Answers.NotFound("This email")
            )
            .Needs(Right.OutsideUse)
            .WithName("getSimulatorEml");

        api.MapGet(
                "/outside/emails/{name}/files/{index:int}",
                async Task<IResult> (string name, int index, Mailbox mailbox, CallerReads reads, HttpContext http) =>
                {
                    if (
                        mailbox.Get(name) is not { } mail
                        || (await Hidden(reads, http.User.Access(), [name])).Count > 0
                        || Eml.Read(mail.Eml).Files.ElementAtOrDefault(index) is not { } file
                    )
                    {
                        return Answers.NotFound("This file");
                    }

                    // Only document types are displayed; anything else is a download.
                    var type = DocumentIntake.MediaType(file.Bytes) is { Ok: true } known ? known.Value : "application/octet-stream";
                    http.Response.Headers.ContentDisposition =
                        $"{(type == "application/octet-stream" ? "attachment" : "inline")}; filename*=UTF-8''{Uri.EscapeDataString(file.Name)}";
                    return TypedResults.Bytes(file.Bytes, type);
                }
            )
            .Needs(Right.OutsideUse)
            .WithName("getSimulatorFile");

        api.MapPost("/outside/emails", async Task<IResult> (WriteToUsRequest request, Mailbox mailbox, CallerReads reads, IClock clock) =>
            {
                var validation = new Validation();
                var from = validation.Text(request.From, "from", "The sender", 200, required: true);
                var subject = validation.Text(request.Subject, "subject", "The subject", 200, required: true);
                var text = validation.Text(request.Text, "text", "The text", 20_000) ?? "";
                if (from is not null && !Eml.IsAddress(from))
                {
                    validation.Add("mail.address", "This is not an email address. Use the form name@company.example.", "from");
                }

                byte[]? bytes = null;
                if (request.File is { Base64: { } encoded })
                {
                    bytes = new byte[(encoded.Length * 3 / 4) + 3];
                    if (Convert.TryFromBase64String(encoded, bytes, out var written))
                    {
                        bytes = bytes[..written];
                    }
                    else
                    {
                        validation.Add("file.encoding", "The file was not received: choose it again.", "file");
                    }
                }

                if (!validation.Ok)
                {
                    return Answers.Refused(validation.Problems);
                }

                await using var db = await reads.Open();
                var id = Guid.NewGuid().ToString("N");
                var now = clock.GetCurrentInstant();
                List<MailFile> files = bytes is null
                    ? []
                    :
                    [
                        new MailFile(
                            Path.GetFileName(request.File!.Name) is { Length: > 0 } name ? name : "file",
                            DocumentIntake.MediaType(bytes) is { Ok: true } t ? t.Value : "application/octet-stream",
                            bytes
                        ),
                    ];
                await mailbox.WriteToUs(
                    $"{now.ToUnixTimeMilliseconds()}-{id[..8]}",
                    Eml.Write(new MailMessage($"{id}@outside.example", from!, (await Business.Read(db))!.Email, subject!, text, now, files))
                );
                return TypedResults.NoContent();
            })
            .Needs(Right.OutsideUse)
            .WithMetadata(new FileBody())
            .Produces(204)
            .ProducesProblem(422)
            .WithName("sendSimulatedMail");
    }
}
