using NodaTime;
using Npgsql;
using SteadyLark.Core.Billing;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Papers;
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
        api.MapGet("/unbilled", async (NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await BillingStore.Unbilled(db, 1000);
        }).Needs(Right.BillingSee).WithName("listUnbilled");

        api.MapGet("/invoices", async (bool? open, long? customerId, string? after, int? limit, NpgsqlDataSource source) =>
        {
            var most = Math.Clamp(limit ?? 200, 1, 500);
            await using var db = await source.OpenConnectionAsync();
            if (open == true)
            {
                var rows = await BillingStore.Open(db, customerId, DateCursor(after), most);
                return new Page<InvoiceRow>(rows, rows.Count == most ? $"{rows[^1].DueOn:uuuu-MM-dd}_{rows[^1].Id}" : null);
            }

            var all = await BillingStore.Newest(db, long.TryParse(after, out var before) ? before : null, most);
            return new Page<InvoiceRow>(all, all.Count == most ? all[^1].Id.ToString() : null);
        }).Needs(Right.BillingSee).WithName("listInvoices");

        api.MapGet("/invoices/{id:long}", async Task<IResult> (long id, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await BillingStore.Sheet(db, id) is { } sheet ? TypedResults.Ok(sheet) : Answers.NotFound("This invoice");
        }).Needs(Right.BillingSee).Produces<InvoiceSheet>().ProducesProblem(404).WithName("getInvoice");

        api.MapGet("/invoices/{id:long}/pdf", async Task<IResult> (long id, NpgsqlDataSource source, HttpContext http) =>
        {
            await using var db = await source.OpenConnectionAsync();
            if (await BillingStore.Invoice(db, id) is not { } invoice)
            {
                return Answers.NotFound("This invoice");
            }

            var pdf = await InvoicePdf.WithPapers(db, (await Business.Read(db))!, (await CompanyStore.Get(db, invoice.CustomerId))!, id);
            http.Response.Headers.ContentDisposition = $"inline; filename=\"{invoice.Number}.pdf\"";
            return TypedResults.Bytes(pdf, "application/pdf");
        }).Needs(Right.BillingSee).WithName("getInvoicePdf");

        api.MapPost("/invoices", (InvoiceRequest request, HttpContext http, Commands commands, BillingCommands billing) =>
            commands.Money(http, request, w => billing.Issue(w, request))).Needs(Right.BillingInvoice).WithName("issueInvoice");

        api.MapPost("/invoices/{id:long}/void", (long id, HttpContext http, Commands commands) =>
            commands.Money(http, id, w => BillingCommands.Void(w, id))).Needs(Right.BillingInvoice).WithName("voidInvoice");

        api.MapGet("/payments", async (long? before, int? limit, NpgsqlDataSource source) =>
        {
            var most = Math.Clamp(limit ?? 200, 1, 500);
            await using var db = await source.OpenConnectionAsync();
            var rows = await BillingStore.Payments(db, before, most);
            return new Page<PaymentRow>(rows, rows.Count == most ? rows[^1].Id.ToString() : null);
        }).Needs(Right.BillingSee).WithName("listPayments");

        api.MapGet("/payments/{id:long}", async Task<IResult> (long id, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await BillingStore.Payment(db, id) is { } payment
                ? TypedResults.Ok(new PaymentView(payment, await BillingStore.AppliedTo(db, id)))
                : Answers.NotFound("This payment");
        }).Needs(Right.BillingSee).Produces<PaymentView>().ProducesProblem(404).WithName("getPayment");

        api.MapPost("/payments", (PaymentRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => BillingCommands.Receive(w, request))).Needs(Right.BillingReceive).WithName("receivePayment");

        api.MapPost("/payments/{id:long}/reverse", (long id, HttpContext http, Commands commands) =>
            commands.Money(http, id, w => BillingCommands.Reverse(w, id))).Needs(Right.BillingReceive).WithName("reversePayment");
    }

    /// <summary>Ways of billing, runs, statements, and loads handed back.</summary>
    private static void Wider(RouteGroupBuilder api)
    {
        api.MapPost("/invoices/prepare", (InvoiceRequest request, HttpContext http, Commands commands) =>
            commands.Run(http, w => BillingCommands.Prepare(w, request))).Needs(Right.BillingInvoice).WithName("prepareInvoice");

        api.MapPost("/invoices/preview", async Task<IResult> (InvoiceRequest request, HttpContext http, Commands commands) =>
        {
            await using var w = await commands.Begin(http.Actor());
            var draft = await BillingCommands.Draft(w, request);
            return draft.Ok ? TypedResults.Bytes(await InvoicePdf.Preview(w.Db, (await Business.Read(w.Db))!, draft.Value.Customer, draft.Value.Draft), "application/pdf") : Answers.Refused(draft.Problems);
        }).Needs(Right.BillingInvoice).Produces(200, contentType: "application/pdf").ProducesProblem(422).WithName("previewInvoice");

        api.MapPost("/invoices/{id:long}/send", (long id, SendAgainRequest request, HttpContext http, Commands commands, BillingCommands billing) =>
            commands.Money(http, request, w => billing.SendAgain(w, id, request))).Needs(Right.BillingInvoice).WithName("sendInvoiceAgain");

        api.MapPost("/billing-runs", (BillingRunRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => BillingCommands.Run(w, request))).Needs(Right.BillingInvoice).WithName("beginBillingRun");

        api.MapGet("/billing-runs/{id:long}", async Task<IResult> (long id, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await BillingRunStore.Get(db, id) is { } run ? TypedResults.Ok(run) : Answers.NotFound("This run");
        }).Needs(Right.BillingSee).Produces<RunView>().ProducesProblem(404).WithName("getBillingRun");

        api.MapGet("/companies/{id:long}/billing-way", async (long id, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            var (way, version) = await BillingWayStore.Of(db, id);
            var fields = LoadField.All.Concat((await OwnFieldStore.All(db)).Select(f => new LoadField($"own:{f.Id}", f.Name))).ToList();
            return new BillingWayView(way, version, fields, Letter.Names);
        }).Needs(Right.BillingSee).WithName("getBillingWay");

        api.MapPut("/companies/{id:long}/billing-way", (long id, BillingWayRequest request, HttpContext http, Commands commands) =>
            commands.Run(http, w => BillingWayCommands.Write(w, id, request))).Needs(Right.BillingInvoice).WithName("changeBillingWay");

        api.MapGet("/companies/{id:long}/statement", async Task<IResult> (long id, QueryDay? from, QueryDay? until, string? format, NpgsqlDataSource source, IClock clock, BusinessZone zone, HttpContext http) =>
        {
            var last = until?.Value ?? clock.GetCurrentInstant().InZone(zone.Zone).Date;
            await using var db = await source.OpenConnectionAsync();
            if (await CompanyStore.Get(db, id) is not { IsCustomer: true } customer)
            {
                return Answers.NotFound("This customer");
            }

            var statement = await BillingWayCommands.Statement(db, id, from?.Value ?? last.PlusMonths(-2).With(DateAdjusters.StartOfMonth), last);
            if (format is null)
            {
                return TypedResults.Ok(statement);
            }

            http.Response.Headers.ContentDisposition = $"inline; filename=\"statement-{last:uuuu-MM-dd}.pdf\"";
            return TypedResults.Bytes(StatementPdf.Of((await Business.Read(db))!, customer, statement), "application/pdf");
        }).Needs(Right.BillingSee).Produces<AccountStatement>().ProducesProblem(404).WithName("getStatement");

        api.MapPost("/companies/{id:long}/statement", (long id, SendAgainRequest request, HttpContext http, Commands commands, Letters letters) =>
            commands.Money(http, request, w => BillingWayCommands.MailStatement(w, letters, id, request))).Needs(Right.BillingInvoice).WithName("mailStatement");

        api.MapPost("/payments/{id:long}/use-credit", (long id, UseCreditRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => BillingCommands.UseCredit(w, id, request))).Needs(Right.BillingReceive).WithName("useCredit");

        api.MapPost("/loads/{id:long}/hand-back", (long id, HandBackRequest request, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => BillingCommands.HandBack(w, id, request))).Needs(Right.BillingInvoice).WithName("handBack");

        api.MapPost("/loads/{id:long}/put-right", (long id, HandBackRequest request, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => BillingCommands.PutRight(w, id, request))).Needs(Right.LoadsRoll).WithName("putRight");
    }

    internal static (LocalDate Due, long Id)? DateCursor(string? after)
    {
        var parts = (after ?? "").Split('_');
        return parts.Length == 2 && NodaTime.Text.LocalDatePattern.Iso.Parse(parts[0]) is { Success: true } date && long.TryParse(parts[1], out var id) ? (date.Value, id) : null;
    }
}
