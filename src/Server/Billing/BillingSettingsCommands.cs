using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Billing;

/// <param name="Version">Of the settings that were edited; 0 when there were none.</param>
public sealed record BillingSettingsRequest(
    bool ByLoad,
    IReadOnlyList<string>? Columns,
    IReadOnlyList<DocumentKind>? Documents,
    bool OneFile,
    bool Together,
    string? Recipients,
    string? Subject,
    string? Message,
    IReadOnlyList<DocumentKind>? RequiredDocuments,
    int? Version,
    bool HoldForClaims = false,
    DetentionTerms? Detention = null
);

/// <param name="Fields">Fields that can be shown on an invoice.</param>
/// <param name="Names">Names that can be used in braces in an email.</param>
public sealed record BillingSettingsView(
    BillingSettings Settings,
    int Version,
    IReadOnlyList<LoadField> Fields,
    IReadOnlyList<string> Names
);

public sealed record StatementAnswer(string To);

/// <summary>Customers' billing settings and statements of account.</summary>
public static class BillingSettingsCommands
{
    public static async Task<Outcome<BillingSettingsView>> Write(CommandContext w, long customerId, BillingSettingsRequest request)
    {
        if (await CompanyStore.Get(w.Db, customerId) is not { IsCustomer: true } customer)
        {
            return Problem.Missing("This customer");
        }

        var validation = new Validation();
        var settings = new BillingSettings(
            request.ByLoad,
            request.Columns ?? [],
            request.Documents ?? [],
            request.OneFile,
            request.Together,
            validation.Text(request.Recipients, "recipients", "The email addresses", 400),
            validation.Text(request.Subject, "subject", "The subject", 200),
            validation.Text(request.Message, "message", "The message", 4000),
            request.RequiredDocuments ?? [DocumentKind.Pod],
            request.HoldForClaims,
            request.Detention
        );
        var own = await CustomFieldStore.All(w.Db);
        if (settings.Columns.Any(c => c is null))
        {
            validation.Add("column.unknown", "A column is missing its field.", "columns");
        }
        else
        {
            validation.AddRange(settings.Check(own.Select(f => f.Id).ToHashSet(), Eml.IsAddress, customer.Currency));
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var (before, _) = await BillingSettingsStore.Of(w.Db, customerId);
        if (!await BillingSettingsStore.Write(w.Db, customerId, settings, request.Version ?? 0))
        {
            return Versions.Changed($"the billing settings for {customer.Name}");
        }

        w.Record(EventKinds.CompanyBillingChanged, customerId, $"Billing settings for {customer.Name} changed", before: before);
        var (now, version) = await BillingSettingsStore.Of(w.Db, customerId);
        return new BillingSettingsView(
            now,
            version,
            LoadField.All.Concat(own.Select(f => new LoadField($"custom:{f.Id}", f.Name))).ToList(),
            MailTemplate.Names
        );
    }

    public static async Task<AccountStatement> Statement(NpgsqlConnection db, long customerId, LocalDate from, LocalDate until)
    {
        var moves = await OpenItemStore.OfCustomer(db, customerId);
        var open = await OpenItemStore.Invoices(db, customerId, until);
        return AccountStatement.Of(from, until, moves, open, await OpenItemStore.Credit(db, customerId, until));
    }

    public static async Task<Outcome<StatementAnswer>> MailStatement(
        CommandContext w,
        Mailer mailer,
        long customerId,
        SendAgainRequest request
    )
    {
        if (await CompanyStore.Get(w.Db, customerId) is not { IsCustomer: true } customer)
        {
            return Problem.Missing("This customer");
        }

        var validation = new Validation();
        var words = validation.Text(request.Message, "message", "The message", 4000);
        var (settings, _) = await BillingSettingsStore.Of(w.Db, customerId);
        var to = BillingCommands.Recipients(request.To ?? settings.Recipients ?? customer.Email, "to", customer.Name, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var us = (await Business.ReadForPrint(w.Db))!;
        var statement = await Statement(w.Db, customerId, w.Today.PlusMonths(-2).With(DateAdjusters.StartOfMonth), w.Today);
        await mailer.Send(
            w,
            MailPurpose.Statement,
            to!,
            $"Statement of account, {us.Name}",
            words
                ?? $"{customer.Name},\n\nYour account balance is {statement.Owed.Formatted} as of {w.Today:MMM d, uuuu}. The statement is attached.\n\n{us.Name}, {us.Phone}",
            [new MailFile($"statement-{w.Today:uuuu-MM-dd}.pdf", "application/pdf", StatementPdf.Of(us, customer, statement))],
            null
        );
        w.Record(EventKinds.CompanyStatement, customerId, $"Statement of account for {statement.Owed.Formatted} emailed to {to}");
        return new StatementAnswer(to!);
    }
}
