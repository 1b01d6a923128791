using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Covering;

/// <summary>
/// Draws rate confirmations after their loads were covered, so that nobody waits for a PDF. The email is in the outbox since then, and is
/// sent only with
/// its document; unassigning the load in the meantime stops both.
/// </summary>
public sealed class RateConfirmations(NpgsqlDataSource source, IClock clock, BusinessZone zone, ILogger<RateConfirmations> log)
    : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        Jobs.Every(
            TimeSpan.FromMilliseconds(200),
            "Rate confirmations",
            log,
            async () =>
            {
                while (!stoppingToken.IsCancellationRequested && await DrawNext()) { }
            },
            stoppingToken
        );

    /// <summary>Draws the next one; false when none is waiting.</summary>
    private async Task<bool> DrawNext()
    {
        await using var w = await CommandContext.Begin(
            source,
            new Actor(null, "Steady Lark", Via.System),
            clock.GetCurrentInstant(),
            zone.Zone,
            Routing.Roads
        );
        if (await MailStore.NextAwaiting(w.Db) is not { } waiting)
        {
            return false;
        }

        // The load first, like every command on it; afterwards the email may have been held back, or another server may have drawn it.
        await LoadWrites.Lock(w.Db, waiting.LoadId);
        if (await MailStore.Awaiting(w, waiting.MailId) is not { } email)
        {
            return true;
        }

        var tender = await CoverStore.TenderToDraw(w.Db, waiting.TenderId);
        var sheet = (await LoadReads.Sheet(w.Db, waiting.LoadId))!;
        var leg = sheet.Legs.First(g => g.Id == tender.LegId);
        var name = RateConfirmation.FileName(sheet.Load.Number, tender.Revision, leg.Seq);
        var pdf = RateConfirmation.Draw(
            (await Business.ReadForPrint(w.Db))!,
            sheet,
            (await CompanyStore.Get(w.Db, tender.CarrierId))!,
            leg,
            await LoadViews.CarrierTerms(w.Db, leg.Agreed?.Currency ?? Currency.USD, w.Today),
            await RemitToStore.Factor(w.Db, tender.CarrierId),
            tender.SentAt,
            tender.Revision
        );
        await DocumentStore.Add(w, waiting.LoadId, DocumentKind.RateConfirmation, name, "application/pdf", pdf, legId: leg.Id);
        await MailStore.Complete(
            w,
            waiting.MailId,
            Eml.Write(Eml.Read(email) with { Files = [new MailFile(name, "application/pdf", pdf)] })
        );
        w.Record(
            EventKinds.LoadRateConfirmed,
            waiting.LoadId,
            $"Rate confirmation for {sheet.Load.Number} created",
            loadId: waiting.LoadId
        );
        await w.Commit();
        return true;
    }
}
