using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Documents;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Outside.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Outside;

/// <summary>Outgoing email.</summary>
public interface IMailOut
{
    /// <summary>Sends an email. Throws when it was not accepted.</summary>
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
        await client.ConnectAsync(
            settings.SmtpHost!,
            settings.SmtpPort,
            settings.SmtpTls switch
            {
                SmtpTls.None => SecureSocketOptions.None,
                SmtpTls.Implicit => SecureSocketOptions.SslOnConnect,
                _ => SecureSocketOptions.StartTls,
            },
            cancel
        );
        if (settings.SmtpUser is { } user)
        {
            await client.AuthenticateAsync(user, settings.SmtpPassword ?? "", cancel);
        }

        await client.SendAsync(message, cancel);
        await client.DisconnectAsync(true, cancel);
    }
}

/// <summary>The stand-in mailbox.</summary>
public sealed class StandInMailOut(Mailbox mailbox, Simulation simulation) : IMailOut
{
    public async Task Hand(byte[] eml, string name, CancellationToken cancel)
    {
        if (!await simulation.Allowed())
        {
            throw new InvalidOperationException("Email is not configured: set LARK_SMTP_HOST.");
        }

        await mailbox.Deliver(name, eml);
    }
}

/// <summary>Moves email: from the outbox once its hold is over, and in from the mailbox. Row locks ensure one server per email.</summary>
public sealed class MailJobs(
    NpgsqlDataSource source,
    IClock clock,
    BusinessZone zone,
    IMailOut mailOut,
    Mailbox mailbox,
    ILogger<MailJobs> log
) : BackgroundService
{
    private static readonly Actor System = new(null, "Steady Lark", Via.System);
    private static readonly Actor World = new(null, "", Via.Outside);

    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        Jobs.Every(
            TimeSpan.FromSeconds(1),
            "Email",
            log,
            async () =>
            {
                while (await SendNext(stoppingToken)) { }

                await Fetch();
            },
            stoppingToken
        );

    /// <summary>Sends one email. No connection is held while talking to the mail server.</summary>
    private async Task<bool> SendNext(CancellationToken cancel)
    {
        (long Id, byte[] Eml, int Attempts) mail;
        await using (var w = await CommandContext.Begin(source, System, clock.GetCurrentInstant(), zone.Zone, Routing.Roads))
        {
            if (await MailStore.Claim(w) is not { } next)
            {
                return false;
            }

            mail = next;
            await w.Commit();
        }

        string? failure = null;
        try
        {
            await mailOut.Hand(mail.Eml, $"{mail.Id:D6}", cancel);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            failure = e.Message;
            log.LogWarning("Email {Id} was not accepted: {Reason}", mail.Id, e.Message);
        }

        await using var after = await CommandContext.Begin(source, System, clock.GetCurrentInstant(), zone.Zone, Routing.Roads);
        if (failure is not null)
        {
            await MailStore.Failed(after, mail.Id, failure, mail.Attempts);
        }
        else
        {
            await MailStore.Sent(after, mail.Id);
            var row = (await MailStore.Get(after.Db, mail.Id))!;
            after.Record(EventKinds.MailSent, mail.Id, $"Email to {row.To} sent: {row.Subject}", loadId: row.LoadId);
        }

        await after.Commit();
        return true;
    }

    /// <summary>Fetches incoming email. Anything unreadable is quarantined with the reason, and the next one is fetched.</summary>
    private async Task Fetch()
    {
        foreach (var name in mailbox.WaitingNames())
        {
            var eml = mailbox.Read(name, Eml.MaxBytes + 1);
            MailMessage? mail = null;
            string? why = null;
            try
            {
                mail = Eml.Read(eml);
            }
            catch (Exception e)
                when (e is FormatException or InvalidOperationException or ArgumentException or NotSupportedException or IOException)
            {
                why = e is FormatException ? e.Message : "This email cannot be read.";
            }

            try
            {
                await using var w = await CommandContext.Begin(source, World, clock.GetCurrentInstant(), zone.Zone, Routing.Roads);
                if (mail is null)
                {
                    var kept = eml.Length > Eml.MaxBytes ? eml[..65_536] : eml;
                    if (await MailStore.In(w, "unknown sender", "", "Unreadable email", "", kept, null, why) is { } quarantined)
                    {
                        w.Record(EventKinds.MailQuarantined, quarantined, $"An email was quarantined: {why}");
                    }
                }
                else
                {
                    await Receive(w, mail, eml);
                }

                await w.Commit();
            }
            catch (Exception e) when (e is not NpgsqlException { InnerException: not null })
            {
                log.LogError(e, "Email {Name} could not be taken in; it is left aside", name);
            }

            mailbox.Fetched(name);
        }
    }

    /// <summary>Stores an email. Its attachments are filed to the load it names when the sender is known for that load; otherwise they wait
    /// in the tray with a suggestion.</summary>
    private static async Task Receive(CommandContext w, MailMessage mail, byte[] eml)
    {
        var named = await MailStore.LoadsNamed(w.Db, InboundEmail.LoadNumbers(mail.Subject));
        var load = InboundEmail.FiledTo(mail.From, named);
        if (load is not null)
        {
            await LoadWrites.Lock(w.Db, load.LoadId);
        }

        if (await MailStore.In(w, mail.From, mail.To, mail.Subject, mail.MessageId, eml, load?.LoadId) is not { } id)
        {
            return;
        }

        w.Record(EventKinds.MailReceived, id, $"Email from {mail.From}: {mail.Subject}", loadId: load?.LoadId);
        foreach (var file in mail.Files.Where(f => f.Bytes.Length <= DocumentIntake.MaxBytes))
        {
            // Unreadable attachments stay in the email, where a person sees them.
            _ = load is not null
                ? await DocumentCommands.Add(w, load.LoadId, KindOf(file.Name), file.Name, file.Bytes)
                : await DocumentCommands.AddToTray(w, null, file.Name, file.Bytes, id, mail.Subject);
        }

        if (load is not null)
        {
            await LoadWrites.Settle(w, load.LoadId);
        }
    }

    private static DocumentKind KindOf(string fileName)
    {
        var name = fileName.ToLowerInvariant();
        return name.Contains("pod", StringComparison.Ordinal) ? DocumentKind.Pod
            : name.Contains("bol", StringComparison.Ordinal) ? DocumentKind.Bol
            : name.Contains("lumper", StringComparison.Ordinal) ? DocumentKind.LumperReceipt
            : name.Contains("invoice", StringComparison.Ordinal) || name.Contains("bill", StringComparison.Ordinal)
                ? DocumentKind.CarrierBill
            : DocumentKind.Other;
    }
}
