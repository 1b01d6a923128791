using System.Text.RegularExpressions;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Documents;
using SteadyLark.Formats.Mail;
using SteadyLark.Outside.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Outside;

/// <summary>The way out for mail.</summary>
public interface IMailOut
{
    /// <summary>Hands a mail over. Throws when it was not taken.</summary>
    Task Hand(byte[] eml, string name, CancellationToken cancel);
}

/// <summary>Real SMTP (RFC 5321), when a server is configured.</summary>
public sealed class SmtpMailOut(LarkSettings settings) : IMailOut
{
    public async Task Hand(byte[] eml, string name, CancellationToken cancel)
    {
        using var stream = new MemoryStream(eml);
        using var message = await MimeMessage.LoadAsync(stream, cancel);
        using var client = new SmtpClient { Timeout = 30_000 };
        await client.ConnectAsync(settings.SmtpHost!, settings.SmtpPort, SecureSocketOptions.Auto, cancel);
        if (settings.SmtpUser is { } user)
        {
            await client.AuthenticateAsync(user, settings.SmtpPassword ?? "", cancel);
        }

        await client.SendAsync(message, cancel);
        await client.DisconnectAsync(true, cancel);
    }
}

/// <summary>The stand-in mailbox.</summary>
public sealed class StandInMailOut(Mailbox mailbox) : IMailOut
{
    public Task Hand(byte[] eml, string name, CancellationToken cancel) => mailbox.Deliver(name, eml);
}

/// <summary>Carries mail: out of the outbox when its hold is over, and in from the mailbox. Each mail by one server, by row locks.</summary>
public sealed partial class MailJobs(NpgsqlDataSource source, IClock clock, BusinessZone zone, IMailOut mailOut, Mailbox mailbox, ILogger<MailJobs> log) : BackgroundService
{
    private static readonly Actor System = new(null, "Steady Lark", Via.System);
    private static readonly Actor World = new(null, "", Via.Outside);

    protected override Task ExecuteAsync(CancellationToken stoppingToken) => Jobs.Every(TimeSpan.FromSeconds(1), "Email", log, async () =>
    {
        while (await SendNext(stoppingToken))
        {
        }

        await Fetch();
    }, stoppingToken);

    [GeneratedRegex(@"\b(?:load )?#?(\d{4,})\b", RegexOptions.IgnoreCase)]
    private static partial Regex LoadNumber();

    private async Task<bool> SendNext(CancellationToken cancel)
    {
        await using var w = await CommandContext.Begin(source, System, clock.GetCurrentInstant(), zone.Zone);
        if (await MailStore.Next(w) is not { } mail)
        {
            return false;
        }

        try
        {
            await mailOut.Hand(mail.Eml, $"{mail.Id:D6}", cancel);
            await MailStore.Sent(w, mail.Id);
            var row = (await MailStore.Get(w.Db, mail.Id))!;
            await Events.Add(w, "mail.sent", "mail", mail.Id, $"Email to {row.To} sent: {row.Subject}", loadId: row.LoadId);
        }
        catch (Exception e) when (e is not OperationCanceledException and not NpgsqlException)
        {
            log.LogWarning("Email {Id} was not accepted: {Reason}", mail.Id, e.Message);
            await MailStore.Failed(w, mail.Id, e.Message, mail.Attempts);
        }

        await w.Commit();
        return true;
    }

    /// <summary>Brings in what the world wrote; a mail whose subject names a load goes to it, its readable attachments as papers to be looked at; other attachments wait to be sorted.</summary>
    private async Task Fetch()
    {
        foreach (var waiting in mailbox.Waiting())
        {
            await using var w = await CommandContext.Begin(source, World, clock.GetCurrentInstant(), zone.Zone);
            var mail = Eml.Read(waiting.Eml);
            var number = LoadNumber().Match(mail.Subject);
            long? load = number.Success ? await w.Db.One<long?>("select id from loads where number = @number for update", ("number", number.Groups[1].Value)) : null;
            if (await MailStore.In(w, mail.From, mail.To, mail.Subject, mail.MessageId, waiting.Eml, load) is { } id)
            {
                await Events.Add(w, "mail.received", "mail", id, $"Email from {mail.From}: {mail.Subject}", loadId: load);
                if (load is { } loadId)
                {
                    foreach (var file in mail.Files.Where(f => f.Bytes.Length <= DocumentIntake.MaxBytes))
                    {
                        await DocumentCommands.Add(w, loadId, KindOf(file.Name), file.Name, file.Bytes);
                    }

                    await LoadWrites.Settle(w.Db, loadId);
                }
                else
                {
                    // Nobody knows yet what they belong to: they wait in the tray.
                    foreach (var file in mail.Files.Where(f => f.Bytes.Length <= DocumentIntake.MaxBytes))
                    {
                        await DocumentCommands.AddToTray(w, null, file.Name, file.Bytes, id);
                    }
                }

                await w.Commit();
            }

            mailbox.Fetched(waiting.Name);
        }
    }

    private static DocumentKind KindOf(string fileName)
    {
        var name = fileName.ToLowerInvariant();
        return name.Contains("pod", StringComparison.Ordinal) ? DocumentKind.Pod
            : name.Contains("bol", StringComparison.Ordinal) ? DocumentKind.Bol
            : name.Contains("lumper", StringComparison.Ordinal) ? DocumentKind.LumperReceipt
            : name.Contains("invoice", StringComparison.Ordinal) || name.Contains("bill", StringComparison.Ordinal) ? DocumentKind.CarrierBill
            : DocumentKind.Other;
    }
}
