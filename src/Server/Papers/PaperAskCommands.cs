using SteadyLark.Core.Basics;
using SteadyLark.Core.Papers;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Papers;

namespace SteadyLark.Server.Papers;

/// <summary>That missing papers were asked for.</summary>
public sealed record AskAnswer(long LoadId, string Said);

/// <summary>What whoever has the papers sees on the link.</summary>
public sealed record HandInView(string Business, string Phone, string Load, string From, string To, string? Who, IReadOnlyList<PaperKind> Wanted, bool Closed);

/// <summary>Asks for papers that a customer demands: a carrier by mail with a link, a driver of ours on his phone.</summary>
public sealed class PaperAskCommands(Letters letters, LarkSettings settings)
{
    /// <summary>Asks for what is missing on a locked load.</summary>
    public async Task<Outcome<AskAnswer>> Ask(Work w, long loadId)
    {
        if ((await PaperAskStore.Missing(w.Db, loadId)).FirstOrDefault() is not { } missing)
        {
            return new Problem("papers.here", "Nothing is missing on this load, or it is not delivered yet.");
        }

        var what = string.Join(" and ", missing.Kinds.Select(k => k.Said()));
        var token = PaperAskStore.NewToken();
        long? mail = null;
        string said;
        if (missing.CarrierId is not null)
        {
            if (!Eml.IsAddress(missing.CarrierMail))
            {
                return new Problem("mail.address", $"{missing.Carrier} has no usable mail address: write one on its sheet, or call.");
            }

            var business = (await Business.Read(w.Db))!;
            mail = await letters.Send(
                w, missing.CarrierMail!, $"{what} for load {missing.Number}",
                $"""
                {missing.Carrier},

                for load {missing.Number}, {missing.From} to {missing.To}, we still need the {what}.
                Hand it in here, from a phone or a desk:
                {settings.Url}/hand-in/{token}

                or answer this mail with the file. Your bill is paid once it is here.

                {business.Name}, {business.Phone}
                """,
                [], loadId);
            said = $"{missing.Carrier} asked for the {what} of {missing.Number}";
        }
        else
        {
            said = $"{missing.Driver} asked for the {what} of {missing.Number}, on the phone";
        }

        await PaperAskStore.Add(w, missing, token, mail);
        await Events.Add(w, "paper.asked", "load", loadId, said, loadId: loadId, driverId: missing.DriverId);
        return new AskAnswer(loadId, said);
    }
}
