using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Documents;

namespace SteadyLark.Server.Documents;

/// <summary>That missing documents were requested.</summary>
public sealed record DocumentRequestResult(long LoadId, string Summary);

/// <summary>The upload link as the carrier or driver sees it.</summary>
public sealed record UploadLinkView(
    string Business,
    string Phone,
    string Load,
    string From,
    string To,
    string? Who,
    IReadOnlyList<DocumentKind> Wanted,
    bool Closed
);

/// <summary>Requests documents that a customer requires: from a carrier by email with a link, from our driver on their phone.</summary>
public sealed class DocumentRequestCommands(Mailer mailer, LarkSettings settings)
{
    /// <summary>Requests missing documents of a locked load.</summary>
    public async Task<Outcome<DocumentRequestResult>> Ask(CommandContext w, long loadId)
    {
        if ((await DocumentRequestStore.Missing(w.Db, loadId)).FirstOrDefault() is not { } missing)
        {
            return new Problem("documents.present", "This load has no missing documents, or it is not delivered yet.");
        }

        var what = string.Join(" and ", missing.Kinds.Select(k => k.Format()));
        var token = LinkToken.New();
        long? mail = null;
        string summary;
        if (missing.CarrierId is not null)
        {
            if (!Eml.IsAddress(missing.CarrierMail))
            {
                return new Problem("mail.address", $"{missing.Carrier} has no valid email address: add one to the carrier, or call.");
            }

            var business = (await Business.Read(w.Db))!;
            mail = await mailer.Send(
                w,
                MailPurpose.DocumentRequest,
                missing.CarrierMail!,
                $"{what} for load {missing.Number}",
                $"""
                {missing.Carrier},

                We still need the {what} for load {missing.Number}, {missing.From} to {missing.To}.
                Upload it here from any phone or computer:
                {settings.Url}/upload/{token}

                or reply to this email with the file attached. We can pay your bill once we have it.

                {business.Name}, {business.Phone}
                """,
                [],
                loadId
            );
            summary = $"Requested the {what} for {missing.Number} from {missing.Carrier}";
        }
        else
        {
            summary = $"Requested the {what} for {missing.Number} from {missing.Driver} in the driver app";
        }

        await DocumentRequestStore.Add(w, missing, token, mail);
        w.Record(EventKinds.DocumentRequested, loadId, summary, loadId: loadId, driverId: missing.DriverId);
        return new DocumentRequestResult(loadId, summary);
    }
}
