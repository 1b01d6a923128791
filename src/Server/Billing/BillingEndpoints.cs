using NodaTime;
using SteadyLark.Core.Billing;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Billing;

public static class BillingEndpoints
{
    public static void MapBilling(this RouteGroupBuilder api)
    {
        Wider(api);
        api.MapGet("/unbilled", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await BillingStore.Unbilled(db, 1000);
            })
            .Needs(Right.BillingSee)
            .WithName("listUnbilled");

        api.MapGet("/invoices", async (bool? open, long? customerId, string? after, int? limit, CallerReads reads) =>
            {
                var max = Math.Clamp(limit ?? 200, 1, 500);
                await using var db = await reads.Open();
                if (open == true)
                {
                    var rows = await BillingStore.Open(db, customerId, DateCursor(after), max);
                    return new Page<InvoiceRow>(rows, rows.Count == max ? $"{rows[^1].DueOn:uuuu-MM-dd}_{rows[^1].Id}" : null);
                }

                var all = await BillingStore.Newest(db, long.TryParse(after, out var before) ? before : null, max);
                return new Page<InvoiceRow>(all, all.Count == max ? all[^1].Id.ToString() : null);
            })
            .Needs(Right.BillingSee)
            .WithName("listInvoices");

        api.MapGet("/invoices/{id:long}", async Task<IResult> (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await BillingStore.Sheet(db, id) is { } sheet ? TypedResults.Ok(sheet) : Answers.NotFound("This invoice");
            })
            .Needs(Right.BillingSee)
            .Produces<InvoiceSheet>()
            .ProducesProblem(404)
            .WithName("getInvoice");

        api.MapGet("/invoices/{id:long}/pdf", async Task<IResult> (long id, CallerReads reads, HttpContext http) =>
            {
                await using var db = await reads.Open();
                if (await BillingStore.Invoice(db, id) is not { } invoice)
                {
                    return Answers.NotFound("This invoice");
                }

                if (invoice.IsOpening)
                {
                    return Answers.NotFound("A PDF of an invoice from before the books began here");
                }

                var pdf = await InvoicePdf.WithDocuments(
                    db,
                    (await Business.ReadForPrint(db))!,
                    (await CompanyStore.Get(db, invoice.CustomerId))!,
                    id
                );
                http.Response.Headers.ContentDisposition = $"inline; filename=\"{invoice.Number}.pdf\"";
                return TypedResults.Bytes(pdf, "application/pdf");
            })
            .Needs(Right.BillingSee)
            .WithName("getInvoicePdf");

        api.MapPost("/invoices", (InvoiceRequest request, HttpContext http, Commands commands, BillingCommands billing) =>
                commands.Money(http, request, w => billing.Issue(w, request))
            )
            .Needs(Right.BillingInvoice)
            .WithName("issueInvoice");

        api.MapPost("/invoices/{id:long}/void", (long id, HttpContext http, Commands commands, BillingCommands billing) =>
                commands.Money(http, id, w => billing.Void(w, id))
            )
            .Needs(Right.BillingInvoice)
            .WithName("voidInvoice");

        api.MapGet("/payments", async (long? before, int? limit, CallerReads reads) =>
            {
                var max = Math.Clamp(limit ?? 200, 1, 500);
                await using var db = await reads.Open();
                var rows = await BillingStore.Payments(db, before, max);
                return new Page<PaymentRow>(rows, rows.Count == max ? rows[^1].Id.ToString() : null);
            })
            .Needs(Right.BillingSee)
            .WithName("listPayments");

        api.MapGet("/payments/{id:long}", async Task<IResult> (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await BillingStore.Payment(db, id) is { } payment
                    ? TypedResults.Ok(new PaymentView(payment, await BillingStore.AppliedTo(db, id), await CorrectionStore.Refunds(db, id)))
                    : Answers.NotFound("This payment");
            })
            .Needs(Right.BillingSee)
            .Produces<PaymentView>()
            .ProducesProblem(404)
            .WithName("getPayment");

        api.MapPost("/payments", (PaymentRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => BillingCommands.Receive(w, request))
            )
            .Needs(Right.BillingReceive)
            .WithName("receivePayment");

        api.MapPost("/payments/{id:long}/reverse", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => BillingCommands.Reverse(w, id))
            )
            .Needs(Right.BillingReceive)
            .WithName("reversePayment");
    }

    /// <summary>Billing settings, billing runs, statements, and returned loads.</summary>
    private static void Wider(RouteGroupBuilder api)
    {
        api.MapPost("/invoices/prepare", (InvoiceRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => BillingCommands.Prepare(w, request))
            )
            .Needs(Right.BillingInvoice)
            .WithName("prepareInvoice");

        api.MapPost("/invoices/preview", async Task<IResult> (InvoiceRequest request, HttpContext http, Commands commands) =>
            {
                await using var w = await commands.Begin(http.Actor());
                var draft = await BillingCommands.Draft(w, request);
                return draft.Ok
                    ? TypedResults.Bytes(
                        await InvoicePdf.Preview(w.Db, (await Business.ReadForPrint(w.Db))!, draft.Value.Customer, draft.Value.Draft),
                        "application/pdf"
                    )
                    : Answers.Refused(draft.Problems);
            })
            .Needs(Right.BillingInvoice)
            .Produces(200, contentType: "application/pdf")
            .ProducesProblem(422)
            .WithName("previewInvoice");

        api.MapPost(
                "/invoices/{id:long}/send",
                (long id, SendAgainRequest request, HttpContext http, Commands commands, BillingCommands billing) =>
                    commands.Money(http, request, w => billing.SendAgain(w, id, request))
            )
            .Needs(Right.BillingInvoice)
            .WithName("resendInvoice");

        api.MapPost("/billing-runs", (BillingRunRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => BillingCommands.Run(w, request))
            )
            .Needs(Right.BillingInvoice)
            .WithName("startBillingRun");

        api.MapGet("/billing-runs/{id:long}", async Task<IResult> (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await BillingRunStore.Get(db, id) is { } run ? TypedResults.Ok(run) : Answers.NotFound("This billing run");
            })
            .Needs(Right.BillingSee)
            .Produces<RunView>()
            .ProducesProblem(404)
            .WithName("getBillingRun");

        api.MapGet("/companies/{id:long}/billing-settings", async (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                var (settings, version) = await BillingSettingsStore.Of(db, id);
                var fields = LoadField
                    .All.Concat((await CustomFieldStore.All(db)).Select(f => new LoadField($"custom:{f.Id}", f.Name)))
                    .ToList();
                return new BillingSettingsView(settings, version, fields, MailTemplate.Names);
            })
            .Needs(Right.BillingSee)
            .WithName("getBillingSettings");

        api.MapPut(
                "/companies/{id:long}/billing-settings",
                (long id, BillingSettingsRequest request, HttpContext http, Commands commands) =>
                    commands.Run(http, w => BillingSettingsCommands.Write(w, id, request))
            )
            .Needs(Right.BillingInvoice)
            .WithName("changeBillingSettings");

        api.MapGet(
                "/companies/{id:long}/statement",
                async Task<IResult> (
                    long id,
                    QueryDay? from,
                    QueryDay? until,
                    string? format,
                    CallerReads reads,
                    IClock clock,
                    BusinessZone zone,
                    HttpContext http
                ) =>
                {
                    var last = until?.Value ?? clock.GetCurrentInstant().InZone(zone.Zone).Date;
                    await using var db = await reads.Open();
                    if (await CompanyStore.Get(db, id) is not { IsCustomer: true } customer)
                    {
                        return Answers.NotFound("This customer");
                    }

                    var statement = await BillingSettingsCommands.Statement(
                        db,
                        id,
                        from?.Value ?? last.PlusMonths(-2).With(DateAdjusters.StartOfMonth),
                        last
                    );
                    if (format is null)
                    {
                        return TypedResults.Ok(statement);
                    }

                    http.Response.Headers.ContentDisposition = $"inline; filename=\"statement-{last:uuuu-MM-dd}.pdf\"";
                    return TypedResults.Bytes(StatementPdf.Of((await Business.ReadForPrint(db))!, customer, statement), "application/pdf");
                }
            )
            .Needs(Right.BillingSee)
            .Produces<AccountStatement>()
            .ProducesProblem(404)
            .WithName("getStatement");

        api.MapPost(
                "/companies/{id:long}/statement",
                (long id, SendAgainRequest request, HttpContext http, Commands commands, Mailer mailer) =>
                    commands.Money(http, request, w => BillingSettingsCommands.MailStatement(w, mailer, id, request))
            )
            .Needs(Right.BillingInvoice)
            .WithName("emailStatement");

        api.MapPost("/payments/{id:long}/use-credit", (long id, UseCreditRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => BillingCommands.UseCredit(w, id, request))
            )
            .Needs(Right.BillingReceive)
            .WithName("useCredit");

        api.MapPost(
                "/loads/{id:long}/return-to-dispatch",
                (long id, ReturnToDispatchRequest request, HttpContext http, Commands commands) =>
                    commands.OnLoad(http, id, w => BillingCommands.ReturnToDispatch(w, id, request))
            )
            .Needs(Right.BillingInvoice)
            .WithName("returnToDispatch");

        api.MapPost("/loads/{id:long}/resolve-return", (long id, ReturnToDispatchRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => BillingCommands.ResolveReturn(w, id, request))
            )
            .Needs(Right.LoadsRoll)
            .WithName("resolveReturn");
    }

    internal static (LocalDate Due, long Id)? DateCursor(string? after)
    {
        var parts = (after ?? "").Split('_');
        return
            parts.Length == 2
            && NodaTime.Text.LocalDatePattern.Iso.Parse(parts[0]) is { Success: true } date
            && long.TryParse(parts[1], out var id)
            ? (date.Value, id)
            : null;
    }
}
