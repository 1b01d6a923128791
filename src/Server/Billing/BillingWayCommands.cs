using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Papers;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Papers;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Billing;

/// <param name="Version">Of the way that was changed; 0 for one that nobody set yet.</param>
public sealed record BillingWayRequest(
    bool ByLoad, IReadOnlyList<string>? Columns, IReadOnlyList<PaperKind>? Papers, bool OneFile, bool Together, string? Recipients, string? Subject, string? Words, IReadOnlyList<PaperKind>? Demands, int? Version);

/// <param name="Fields">What may stand on an invoice.</param>
/// <param name="Names">What may stand in braces in a mail.</param>
public sealed record BillingWayView(BillingWay Way, int Version, IReadOnlyList<LoadField> Fields, IReadOnlyList<string> Names);

public sealed record StatementAnswer(string To);

/// <summary>How customers are billed, and their statements of account.</summary>
public static class BillingWayCommands
{
    public static async Task<Outcome<BillingWayView>> Write(Work w, long customerId, BillingWayRequest request)
    {
        if (await CompanyStore.Get(w.Db, customerId) is not { IsCustomer: true } customer)
        {
            return new Problem("not.found", "This customer is not here.");
        }

        var checks = new Checks();
        var way = new BillingWay(
            request.ByLoad, request.Columns ?? [], request.Papers ?? [], request.OneFile, request.Together, checks.Text(request.Recipients, "recipients", "The mail addresses", 400), checks.Text(request.Subject, "subject", "The subject", 200),
            checks.Text(request.Words, "words", "The words", 4000), request.Demands ?? [PaperKind.Pod]);
        var own = await OwnFieldStore.All(w.Db);
        if (way.Columns.Any(c => c is null))
        {
            checks.Add("column.unknown", "A column is missing its field.", "columns");
        }
        else
        {
            checks.AddRange(way.Check(own.Select(f => f.Id).ToHashSet(), Eml.IsAddress));
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var (before, _) = await BillingWayStore.Of(w.Db, customerId);
        if (!await BillingWayStore.Write(w.Db, customerId, way, request.Version ?? 0))
        {
            return new Problem("stale", $"Somebody changed how {customer.Name} is billed meanwhile: look at what is new, then do it again.", "version");
        }

        await Events.Add(w, "company.billing_changed", "company", customerId, $"How {customer.Name} is billed changed", before: before);
        var (now, version) = await BillingWayStore.Of(w.Db, customerId);
        return new BillingWayView(now, version, LoadField.All.Concat(own.Select(f => new LoadField($"own:{f.Id}", f.Name))).ToList(), Letter.Names);
    }

    public static async Task<AccountStatement> Statement(NpgsqlConnection db, long customerId, LocalDate from, LocalDate until)
    {
        var open = (await BillingStore.Open(db, customerId, null, 10_000)).Where(i => i.IssuedOn <= until).Select(i => new OwedInvoice(i.Number, i.IssuedOn, i.DueOn, i.Total, i.Open)).ToList();
        var credit = await db.One<decimal>("select coalesce(sum(amount - applied), 0) from payments where customer_id = @id and reversed_at is null", ("id", customerId));
        return AccountStatement.Of(from, until, await BillingStore.Moves(db, customerId), open, Money.Usd(credit));
    }

    public static async Task<Outcome<StatementAnswer>> MailStatement(Work w, Letters letters, long customerId, SendAgainRequest request)
    {
        if (await CompanyStore.Get(w.Db, customerId) is not { IsCustomer: true } customer)
        {
            return new Problem("not.found", "This customer is not here.");
        }

        var checks = new Checks();
        var words = checks.Text(request.Words, "words", "The words", 4000);
        var (way, _) = await BillingWayStore.Of(w.Db, customerId);
        var to = BillingCommands.Recipients(request.To ?? way.Recipients ?? customer.Email, "to", customer.Name, checks);
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var us = (await Business.Read(w.Db))!;
        var statement = await Statement(w.Db, customerId, w.Today.PlusMonths(-2).With(DateAdjusters.StartOfMonth), w.Today);
        await letters.Send(
            w, to!, $"Statement of account, {us.Name}",
            words ?? $"{customer.Name},\n\nyour account with us stands at {statement.Owed.Said} as of {w.Today:d MMM uuuu}. The statement is with this mail.\n\n{us.Name}, {us.Phone}",
            [new MailFile($"statement-{w.Today:uuuu-MM-dd}.pdf", "application/pdf", StatementPdf.Of(us, customer, statement))], null);
        await Events.Add(w, "company.statement", "company", customerId, $"Statement of account over {statement.Owed.Said} mailed to {to}");
        return new StatementAnswer(to!);
    }
}
