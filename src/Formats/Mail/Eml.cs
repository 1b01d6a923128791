using MimeKit;
using MimeKit.Text;
using NodaTime;

namespace SteadyLark.Formats.Mail;

/// <summary>A file that goes with a mail.</summary>
public sealed record MailFile(string Name, string MediaType, byte[] Bytes);

/// <summary>A mail as people read it.</summary>
/// <param name="MessageId">Without angle brackets (RFC 5322 § 3.6.4).</param>
public sealed record MailMessage(string MessageId, string From, string To, string Subject, string Text, Instant At, IReadOnlyList<MailFile> Files);

/// <summary>Mails as EML: RFC 5322 messages with MIME parts (RFC 2045).</summary>
public static class Eml
{
    public static byte[] Write(MailMessage mail)
    {
        var message = new MimeMessage
        {
            MessageId = mail.MessageId,
            Subject = mail.Subject,
            Date = mail.At.ToDateTimeOffset(),
        };
        message.From.Add(MailboxAddress.Parse(mail.From));
        message.To.AddRange(InternetAddressList.Parse(mail.To));
        var body = new BodyBuilder { TextBody = mail.Text };
        foreach (var file in mail.Files)
        {
            body.Attachments.Add(file.Name, file.Bytes, ContentType.Parse(file.MediaType));
        }

        message.Body = body.ToMessageBody();
        using var stream = new MemoryStream();
        message.WriteTo(stream);
        return stream.ToArray();
    }

    /// <summary>Reads a mail. Throws <see cref="FormatException"/> when the bytes are none.</summary>
    public static MailMessage Read(byte[] eml)
    {
        using var stream = new MemoryStream(eml);
        var message = MimeMessage.Load(stream);
        return new MailMessage(
            message.MessageId ?? "",
            message.From.Mailboxes.FirstOrDefault()?.Address ?? "",
            string.Join(", ", message.To.Mailboxes.Select(m => m.Address)),
            message.Subject ?? "",
            message.GetTextBody(TextFormat.Plain) ?? message.TextBody ?? "",
            Instant.FromDateTimeOffset(message.Date),
            message.Attachments.OfType<MimePart>().Select(ReadFile).ToList());
    }

    /// <summary>Whether a text is one usable mail address.</summary>
    public static bool IsAddress(string? text) =>
        MailboxAddress.TryParse(text ?? "", out var address) && address.Address.Contains('@', StringComparison.Ordinal) && !address.Address.EndsWith('@');

    private static MailFile ReadFile(MimePart part)
    {
        using var bytes = new MemoryStream();
        part.Content?.DecodeTo(bytes);
        return new MailFile(part.FileName ?? "file", part.ContentType.MimeType, bytes.ToArray());
    }
}
