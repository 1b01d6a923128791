using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Billing;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Paying;

public static class PayingEndpoints
{
    public static void MapPaying(this RouteGroupBuilder api)
    {
        Bills(api);
        Weeks(api);
    }

    private static void Bills(RouteGroupBuilder api)
    {
        api.MapGet("/bills", async (bool? paid, string? after, int? limit, CallerReads reads) =>
            {
                var max = Math.Clamp(limit ?? 200, 1, 500);
                await using var db = await reads.Open();
                if (paid == true)
                {
                    var done = await BillStore.Paid(db, long.TryParse(after, out var before) ? before : null, max);
                    return new Page<BillRow>(done, done.Count == max ? done[^1].Id.ToString() : null);
                }

                var rows = await BillStore.Open(db, BillingEndpoints.DateCursor(after), max);
                return new Page<BillRow>(rows, rows.Count == max ? $"{rows[^1].DueOn:uuuu-MM-dd}_{rows[^1].Id}" : null);
            })
            .Needs(Right.PayingSee)
            .WithName("listBills");

        api.MapGet("/bills/{id:long}", async Task<IResult> (long id, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                await using var db = await reads.Open();
                return await BillCommands.View(db, id, clock.GetCurrentInstant().InZone(zone.Zone).Date) is { } bill
                    ? TypedResults.Ok(bill)
                    : Answers.NotFound("This bill");
            })
            .Needs(Right.PayingSee)
            .Produces<BillView>()
            .ProducesProblem(404)
            .WithName("getBill");

        api.MapGet("/bills/payable", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await VendorPaymentStore.Payable(db, 1000);
            })
            .Needs(Right.PayingSee)
            .WithName("listPayableBills");

        api.MapGet("/bills/expected", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await BillStore.UnbilledLegs(db, 1000);
            })
            .Needs(Right.PayingSee)
            .WithName("listExpectedBills");

        api.MapPost(
                "/bills",
                async Task<Results<Ok<BillRow>, ProblemHttpResult>> (BillRequest request, HttpContext http, Commands commands) =>
                    request.Spent is not null && http.MustConfirm() is { } confirm
                        ? confirm
                        : await commands.Money(http, request, w => BillCommands.Enter(w, request))
            )
            .Needs(Right.PayingEnter)
            .WithName("enterBill");

        api.MapPost("/bills/{id:long}/approve", (long id, ApproveBillRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => BillCommands.Approve(w, id, request))
            )
            .Needs(Right.PayingApprove)
            .WithName("approveBill");

        api.MapPost("/bills/{id:long}/unapprove", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => BillCommands.Unapprove(w, id))
            )
            .Needs(Right.PayingApprove)
            .WithName("unapproveBill");

        api.MapPost("/bills/{id:long}/charge-back", (long id, ChargeBackRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => BillCommands.ChargeBackLine(w, id, request))
            )
            .Needs(Right.PayingEnter)
            .WithName("chargeBackLine");

        api.MapPost("/bills/{id:long}/void", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => BillCommands.Void(w, id))
            )
            .Needs(Right.PayingEnter)
            .WithName("voidBill");

        api.MapPost(
                "/vendor-payments",
                (VendorPaymentRequest request, HttpContext http, Commands commands, VendorPaymentCommands payments) =>
                    commands.Money(http, request, w => payments.Pay(w, request))
            )
            .Needs(Right.PayingPay)
            .Confirmed()
            .WithName("payVendors");

        api.MapPost("/vendor-payments/{id:long}/reverse", (long id, HttpContext http, Commands commands, VendorPaymentCommands payments) =>
                commands.Money(http, id, w => payments.Reverse(w, id))
            )
            .Needs(Right.PayingPay)
            .WithName("reverseVendorPayment");

        api.MapGet(
                "/payment-batches/{id:long}/ach",
                async Task<IResult> (long id, CallerReads reads, IClock clock, BusinessZone zone, HttpContext http) =>
                {
                    await using var db = await reads.Open();
                    var file = await AchFiles.Of(db, id, clock.GetCurrentInstant().InZone(zone.Zone).LocalDateTime);
                    if (!file.Ok)
                    {
                        return Answers.Refused(file.Problems);
                    }

                    http.Response.Headers.ContentDisposition = $"attachment; filename=\"ach-{id}.txt\"";
                    return TypedResults.Text(file.Value, "text/plain");
                }
            )
            .Needs(Right.PayingPay)
            .Confirmed()
            .WithName("getAchFile");

        api.MapGet("/companies/{id:long}/remit-to", async (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await RemitToStore.Of(db, id);
            })
            .Needs(Right.PayingSee)
            .WithName("listRemitTos");

        api.MapPost("/companies/{id:long}/remit-to", (long id, RemitToOrder request, HttpContext http, Commands commands) =>
                commands.Run(http, w => RemitToCommands.Propose(w, id, request))
            )
            .Needs(Right.PayingEnter)
            .WithName("proposeRemitTo");

        api.MapPost("/remit-tos/{id:long}/confirm", (long id, ConfirmRemitToRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => RemitToCommands.Confirm(w, id, request))
            )
            .Needs(Right.PayingApprove)
            .Confirmed()
            .WithName("confirmRemitTo");

        api.MapPost("/remit-tos/{id:long}/decline", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => RemitToCommands.Decline(w, id))
            )
            .Needs(Right.PayingApprove)
            .WithName("declineRemitTo");

        api.MapPost("/bills/{id:long}/documents", async Task<IResult> (long id, string? name, HttpContext http, Commands commands) =>
            {
                var bytes = await DocumentEndpoints.Body(http.Request);
                return await commands.Run(http, w => BillCommands.Attach(w, id, name ?? "bill", bytes));
            })
            .Needs(Right.PayingEnter)
            .TakesFile()
            .Produces<DocumentRow>()
            .ProducesProblem(422)
            .WithName("attachToBill");

        api.MapGet(
                "/bills/{id:long}/documents/{documentId:long}",
                async Task<IResult> (long id, long documentId, CallerReads reads, HttpContext http) =>
                {
                    await using var db = await reads.Open();
                    return await DocumentStore.Get(db, documentId) is { } document && document.BillId == id
                        ? await DocumentEndpoints.Shown(db, document, http)
                        : Answers.NotFound("This document");
                }
            )
            .Needs(Right.PayingSee)
            .WithName("getBillDocument");
    }

    private static void Weeks(RouteGroupBuilder api)
    {
        api.MapGet("/settlements", async (QueryDay? monday, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                await using var db = await reads.Open();
                return await SettlementCommands.OfWeek(db, monday?.Value, clock.GetCurrentInstant(), zone.Zone);
            })
            .Needs(Right.WagesSee)
            .WithName("listSettlements");

        api.MapGet("/payroll", async Task<IResult> (QueryDay? monday, string? format, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                await using var db = await reads.Open();
                var week = await PayrollExport.Of(db, monday?.Value, clock.GetCurrentInstant(), zone.Zone);
                return week.Table.File(format ?? "csv", $"payroll-{week.Monday:uuuu-MM-dd}", "Payroll");
            })
            .Needs(Right.WagesSee)
            .Exports("payroll")
            .WithName("exportPayroll");

        api.MapGet(
                "/settlements/{driverId:long}/{monday}/pdf",
                async Task<IResult> (long driverId, string monday, CallerReads reads, IClock clock, BusinessZone zone, HttpContext http) =>
                    await Statement(driverId, monday, reads, clock, zone, http)
            )
            .Needs(Right.WagesSee)
            .WithName("getSettlementPdf");

        api.MapPost("/settlements/approve", (SettlementRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => SettlementCommands.Approve(w, request))
            )
            .Needs(Right.PayingApprove)
            .WithName("approveSettlement");

        api.MapPost("/settlements/{id:long}/pay", (long id, PayoutRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => SettlementCommands.Pay(w, id, request))
            )
            .Needs(Right.PayingPay)
            .Confirmed()
            .WithName("paySettlement");

        api.MapPost("/settlements/{id:long}/unpay", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => SettlementCommands.Unpay(w, id))
            )
            .Needs(Right.PayingPay)
            .WithName("unpaySettlement");

        api.MapPost("/settlements/{id:long}/unapprove", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => SettlementCommands.Unapprove(w, id))
            )
            .Needs(Right.PayingApprove)
            .WithName("unapproveSettlement");

        api.MapGet("/sole-payments", async (HttpContext http, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return (await Business.Read(db))!.TwoPeople ? await SolePaymentStore.All(db, http.Actor().UserId) : [];
            })
            .Needs(Right.PayingSee)
            .WithName("listSolePayments");

        foreach (var (path, kind) in new[] { ("bills", SolePaymentKind.Expense), ("advances", SolePaymentKind.Advance) })
        {
            api.MapPost($"/{path}/{{id:long}}/confirm", (long id, HttpContext http, Commands commands) =>
                    commands.Run(http, w => BillCommands.ConfirmSole(w, kind, id))
                )
                .Needs(Right.PayingApprove)
                .WithName($"confirm{kind}");
        }

        api.MapPost("/advances", (AdvanceRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => SettlementCommands.IssueAdvance(w, request))
            )
            .Needs(Right.PayingEnter)
            .Confirmed()
            .WithName("issueAdvance");

        api.MapPost("/advances/{id:long}/void", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => SettlementCommands.VoidAdvance(w, id))
            )
            .Needs(Right.PayingEnter)
            .WithName("voidAdvance");

        api.MapPost("/pay-items", (PayItemRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => SettlementCommands.AddItem(w, request))
            )
            .Needs(Right.PayingEnter)
            .WithName("addPayItem");

        api.MapPost("/pay-items/{id:long}/remove", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => SettlementCommands.VoidItem(w, id))
            )
            .Needs(Right.PayingEnter)
            .WithName("removePayItem");

        api.MapGet("/drivers/{id:long}/agreement", async Task<IResult> (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await SettlementCommands.Agreement(db, id) is { } agreement
                    ? TypedResults.Ok(agreement)
                    : Answers.NotFound("This driver");
            })
            .Needs(Right.WagesSee)
            .Produces<AgreementView>()
            .ProducesProblem(404)
            .WithName("getAgreement");

        api.MapPost("/drivers/{id:long}/rates", (long id, PayRateRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => SettlementCommands.SetRate(w, id, request))
            )
            .Needs(Right.PayingAgree)
            .WithName("setRate");

        api.MapPost("/drivers/{id:long}/deductions", (long id, RecurringDeductionRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => SettlementCommands.AddRecurring(w, id, request))
            )
            .Needs(Right.PayingAgree)
            .WithName("addRecurringDeduction");

        api.MapPost("/drivers/{id:long}/deductions/{deduction:long}/end", (long id, long deduction, HttpContext http, Commands commands) =>
                commands.Run(http, w => SettlementCommands.EndRecurring(w, id, deduction))
            )
            .Needs(Right.PayingAgree)
            .WithName("endRecurringDeduction");
    }

    /// <summary>A settlement statement as a PDF.</summary>
    internal static async Task<IResult> Statement(
        long driverId,
        string monday,
        CallerReads reads,
        IClock clock,
        BusinessZone zone,
        HttpContext http
    )
    {
        await using var db = await reads.Open();
        if (
            !QueryDay.TryParse(monday, out var day)
            || await SettlementCommands.Week(db, driverId, DriverSettlement.MondayOf(day.Value), clock.GetCurrentInstant(), zone.Zone)
                is not { } week
        )
        {
            return Answers.NotFound("This settlement");
        }

        http.Response.Headers.ContentDisposition = $"inline; filename=\"settlement-{week.Monday:uuuu-MM-dd}.pdf\"";
        return TypedResults.Bytes(SettlementPdf.Of((await Business.ReadForPrint(db))!, week), "application/pdf");
    }
}
