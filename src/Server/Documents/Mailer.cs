using NodaTime;
using SteadyLark.Core.Documents;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Documents;

/// <summary>Writes emails to the outbox, in the transaction of their cause. They are sent after the hold.</summary>
public sealed class Mailer(LarkSettings settings)
{
    /// <param name="awaitsTender">The tender whose document must be drawn before it is sent, or null.</param>
    /// <returns>The email's key.</returns>
    public async Task<long> Send(
        CommandContext w,
        MailPurpose purpose,
        string to,
        string subject,
        string text,
        IReadOnlyList<MailFile> files,
        long? loadId,
        long? awaitsTender = null
    )
    {
        var business = (await Business.Read(w.Db))!;
        var messageId = $"{Guid.NewGuid():N}@{business.Email.Split('@').Last()}";
        var eml = Eml.Write(new MailMessage(messageId, business.Email, to, subject, text, w.Now, files));
        return await MailStore.Out(
            w,
            purpose,
            business.Email,
            to,
            subject,
            messageId,
            eml,
            loadId,
            Duration.FromSeconds(settings.MailHoldSeconds),
            awaitsTender
        );
    }
}
