using MimeKit;
using MimeKit.Text;
using NodaTime;

namespace SteadyLark.Formats.Mail;

/// <summary>A file attached to an email.</summary>
public sealed record MailFile(string Name, string MediaType, byte[] Bytes);

/// <summary>A parsed email.</summary>
/// <param name="MessageId">Without angle brackets (RFC 5322 § 3.6.4).</param>
public sealed record MailMessage(
    string MessageId,
    string From,
    string To,
    string Subject,
    string Text,
    Instant At,
    IReadOnlyList<MailFile> Files
);

/// <summary>Emails as EML: RFC 5322 messages with MIME parts (RFC 2045).</summary>
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

    /// <summary>40 MB, with attachments in their encoded size.</summary>
    public const int MaxBytes = 40 * 1024 * 1024;

    /// <summary>Most parts of an email, attachments and bodies together.</summary>
    public const int MaxParts = 200;

    /// <summary>How deep parts may be nested.</summary>
    public const int MaxDepth = 20;

    /// <summary>Reads an email within limits. Throws <see cref="FormatException"/> with a sentence when it is over one or cannot be
    /// read.</summary>
    public static MailMessage Read(byte[] eml)
    {
        if (eml.Length > MaxBytes)
        {
            throw new FormatException($"This email is larger than {MaxBytes / 1024 / 1024} MB.");
        }

        using var stream = new MemoryStream(eml);
        var message = MimeMessage.Load(new ParserOptions { MaxMimeDepth = MaxDepth + 1 }, stream);
        if (message.From.Count == 0 && message.Subject is null && message.Body is null)
        {
            throw new FormatException("This is not an email.");
        }

        var parts = 0;
        Count(message.Body, 1);
        return new MailMessage(
            message.MessageId ?? "",
            message.From.Mailboxes.FirstOrDefault()?.Address ?? "",
            string.Join(", ", message.To.Mailboxes.Select(m => m.Address)),
            message.Subject ?? "",
            message.GetTextBody(TextFormat.Plain) ?? message.TextBody ?? "",
            Instant.FromDateTimeOffset(message.Date),
            message.Attachments.OfType<MimePart>().Select(ReadFile).ToList()
        );

        void Count(MimeEntity? entity, int depth)
        {
            if (depth > MaxDepth)
            {
                throw new FormatException($"The parts of this email are nested more than {MaxDepth} deep.");
            }

            if (++parts > MaxParts)
            {
                throw new FormatException($"This email has more than {MaxParts} parts.");
            }

            if (entity is Multipart multipart)
            {
                foreach (var part in multipart)
                {
                    Count(part, depth + 1);
                }
            }
            else if (entity is MessagePart { Message.Body: { } inner })
            {
                Count(inner, depth + 1);
            }
        }
    }

    /// <summary>Whether a text is one valid email address.</summary>
    public static bool IsAddress(string? text) =>
        MailboxAddress.TryParse(text ?? "", out var address)
        && address.Address.Contains('@', StringComparison.Ordinal)
        && !address.Address.EndsWith('@');

    private static MailFile ReadFile(MimePart part)
    {
        using var bytes = new MemoryStream();
        part.Content?.DecodeTo(bytes);
        return new MailFile(part.FileName ?? "file", part.ContentType.MimeType, bytes.ToArray());
    }
}
