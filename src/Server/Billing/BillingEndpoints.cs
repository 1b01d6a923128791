using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Papers;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;

namespace SteadyLark.Server.Billing;

public static class BillingEndpoints
{
    public static void MapBilling(this RouteGroupBuilder api)
    {
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

        api.MapPost("/payments", (PaymentRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => BillingCommands.Receive(w, request))).Needs(Right.BillingReceive).WithName("receivePayment");

        api.MapPost("/payments/{id:long}/reverse", (long id, HttpContext http, Commands commands) =>
            commands.Money(http, id, w => BillingCommands.Reverse(w, id))).Needs(Right.BillingReceive).WithName("reversePayment");
    }

    internal static (LocalDate Due, long Id)? DateCursor(string? after)
    {
        var parts = (after ?? "").Split('_');
        return parts.Length == 2 && NodaTime.Text.LocalDatePattern.Iso.Parse(parts[0]) is { Success: true } date && long.TryParse(parts[1], out var id) ? (date.Value, id) : null;
    }
}
