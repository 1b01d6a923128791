using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;

namespace SteadyLark.Server.Billing;

/// <summary>Makes the invoices of billing runs one by one, each in its own transaction and by one server only.</summary>
public sealed class BillingRuns(NpgsqlDataSource source, IClock clock, BusinessZone zone, BillingCommands billing, ILogger<BillingRuns> log)
    : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        Jobs.Every(
            TimeSpan.FromMilliseconds(500),
            "Billing",
            log,
            async () =>
            {
                while (!stoppingToken.IsCancellationRequested && await Next()) { }
            },
            stoppingToken
        );

    /// <summary>Processes the next part; a refusal is recorded, and nothing of its invoice remains.</summary>
    private async Task<bool> Next()
    {
        await using var w = await CommandContext.Begin(
            source,
            new Actor(null, "Steady Lark", Via.System),
            clock.GetCurrentInstant(),
            zone.Zone,
            Routing.Roads
        );
        if (await BillingRunStore.Next(w) is not { } job)
        {
            return false;
        }

        var saved = await w.Save();
        string? failed;
        try
        {
            var issued = await billing.Issue(
                w.At(w.Now, new Actor(job.UserId, job.UserName, Via.Page)),
                new InvoiceRequest(job.LoadIds, null, null)
            );
            if (issued.Ok)
            {
                await BillingRunStore.Done(w, job, issued.Value.Id, null);
                w.Record(EventKinds.BillingRunPart, job.RunId, $"Invoice {issued.Value.Number} created");
                await w.Commit();
                return true;
            }

            failed = string.Join(' ', issued.Problems.Select(p => p.Message));
        }
        catch (PostgresException e) when (Answers.Of(e) is { } problem)
        {
            failed = problem.Message;
        }

        await w.RollBack(saved);
        await BillingRunStore.Done(w, job, null, failed);
        w.Record(EventKinds.BillingRunPart, job.RunId, $"An invoice could not be created: {failed}");
        await w.Commit();
        return true;
    }
}
