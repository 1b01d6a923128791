using NodaTime;
using Npgsql;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Billing;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Papers;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Papers;
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
        api.MapGet("/bills", async (bool? paid, string? after, int? limit, NpgsqlDataSource source) =>
        {
            var most = Math.Clamp(limit ?? 200, 1, 500);
            await using var db = await source.OpenConnectionAsync();
            if (paid == true)
            {
                var done = await BillStore.Paid(db, long.TryParse(after, out var before) ? before : null, most);
                return new Page<BillRow>(done, done.Count == most ? done[^1].Id.ToString() : null);
            }

            var rows = await BillStore.Open(db, BillingEndpoints.DateCursor(after), most);
            return new Page<BillRow>(rows, rows.Count == most ? $"{rows[^1].DueOn:uuuu-MM-dd}_{rows[^1].Id}" : null);
        }).Needs(Right.PayingSee).WithName("listBills");

        api.MapGet("/bills/{id:long}", async Task<IResult> (long id, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await BillStore.Get(db, id) is { } bill ? TypedResults.Ok(new BillView(bill, await BillStore.Lines(db, id), await PaperStore.OfBill(db, id))) : Answers.NotFound("This bill");
        }).Needs(Right.PayingSee).Produces<BillView>().ProducesProblem(404).WithName("getBill");

        api.MapGet("/bills/awaited", async (NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await BillStore.UnbilledLegs(db, 1000);
        }).Needs(Right.PayingSee).WithName("listAwaitedBills");

        api.MapPost("/bills", (BillRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => BillCommands.Enter(w, request))).Needs(Right.PayingEnter).WithName("enterBill");

        api.MapPost("/bills/{id:long}/approve", (long id, ApproveBillRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => BillCommands.Approve(w, id, request))).Needs(Right.PayingApprove).WithName("approveBill");

        api.MapPost("/bills/{id:long}/unapprove", (long id, HttpContext http, Commands commands) =>
            commands.Money(http, id, w => BillCommands.TakeApprovalBack(w, id))).Needs(Right.PayingApprove).WithName("unapproveBill");

        api.MapPost("/bills/{id:long}/void", (long id, HttpContext http, Commands commands) =>
            commands.Money(http, id, w => BillCommands.Void(w, id))).Needs(Right.PayingEnter).WithName("voidBill");

        api.MapPost("/bills/{id:long}/pay", (long id, PayoutRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => BillCommands.Pay(w, id, request))).Needs(Right.PayingPay).WithName("payBill");

        api.MapPost("/bills/{id:long}/unpay", (long id, HttpContext http, Commands commands) =>
            commands.Money(http, id, w => BillCommands.TakePaymentBack(w, id))).Needs(Right.PayingPay).WithName("unpayBill");

        api.MapPost("/bills/{id:long}/papers", async Task<IResult> (long id, string? name, HttpContext http, Commands commands) =>
        {
            var bytes = await PaperEndpoints.Body(http.Request);
            return await commands.Run(http, w => BillCommands.Attach(w, id, name ?? "bill", bytes));
        }).Needs(Right.PayingEnter).TakesFile().Produces<PaperRow>().ProducesProblem(422).WithName("attachToBill");

        api.MapGet("/bills/{id:long}/papers/{paperId:long}", async Task<IResult> (long id, long paperId, NpgsqlDataSource source, HttpContext http) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await PaperStore.Get(db, paperId) is { } paper && paper.BillId == id ? await PaperEndpoints.Shown(db, paper, http) : Answers.NotFound("This paper");
        }).Needs(Right.PayingSee).WithName("getBillPaper");
    }

    private static void Weeks(RouteGroupBuilder api)
    {
        api.MapGet("/weeks", async (QueryDay? monday, NpgsqlDataSource source, IClock clock, BusinessZone zone) =>
        {
            var now = clock.GetCurrentInstant();
            var from = DriverWeek.MondayOf(monday?.Value ?? now.InZone(zone.Zone).Date.PlusDays(-7));
            await using var db = await source.OpenConnectionAsync();
            var weeks = new List<WeekView>();
            foreach (var driver in await FleetStore.Drivers(db))
            {
                var week = (await WeekCommands.Week(db, driver.Id, from, now, zone.Zone))!;
                if (week.Lines.Count + week.Reimbursements.Count + week.Deductions.Count + week.Draws.Count > 0)
                {
                    weeks.Add(week);
                }
            }

            return weeks;
        }).Needs(Right.PayingSee).WithName("listWeeks");

        api.MapGet("/weeks/{driverId:long}/{monday}/pdf", async Task<IResult> (long driverId, string monday, NpgsqlDataSource source, IClock clock, BusinessZone zone, HttpContext http) =>
            await Statement(driverId, monday, source, clock, zone, http)).Needs(Right.PayingSee).WithName("getWeekPdf");

        api.MapPost("/weeks/approve", (WeekRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => WeekCommands.Approve(w, request))).Needs(Right.PayingApprove).WithName("approveWeek");

        api.MapPost("/settlements/{id:long}/pay", (long id, PayoutRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => WeekCommands.Pay(w, id, request))).Needs(Right.PayingPay).WithName("payWeek");

        api.MapPost("/settlements/{id:long}/unpay", (long id, HttpContext http, Commands commands) =>
            commands.Money(http, id, w => WeekCommands.TakePaymentBack(w, id))).Needs(Right.PayingPay).WithName("unpayWeek");

        api.MapPost("/settlements/{id:long}/unapprove", (long id, HttpContext http, Commands commands) =>
            commands.Money(http, id, w => WeekCommands.TakeApprovalBack(w, id))).Needs(Right.PayingApprove).WithName("unapproveWeek");

        api.MapPost("/draws", (DrawRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => WeekCommands.Draw(w, request))).Needs(Right.PayingEnter).WithName("giveDraw");

        api.MapPost("/pay-items", (PayItemRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => WeekCommands.AddItem(w, request))).Needs(Right.PayingEnter).WithName("addPayItem");

        api.MapPost("/pay-items/{id:long}/take-back", (long id, HttpContext http, Commands commands) =>
            commands.Money(http, id, w => WeekCommands.TakeItemBack(w, id))).Needs(Right.PayingEnter).WithName("takePayItemBack");

        api.MapGet("/drivers/{id:long}/agreement", async Task<IResult> (long id, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await WeekCommands.Agreement(db, id) is { } agreement ? TypedResults.Ok(agreement) : Answers.NotFound("This driver");
        }).Needs(Right.PayingSee).Produces<AgreementView>().ProducesProblem(404).WithName("getAgreement");

        api.MapPost("/drivers/{id:long}/rates", (long id, PayRateRequest request, HttpContext http, Commands commands) =>
            commands.Run(http, w => WeekCommands.SetRate(w, id, request))).Needs(Right.PayingAgree).WithName("setRate");

        api.MapPost("/drivers/{id:long}/deductions", (long id, StandingDeductionRequest request, HttpContext http, Commands commands) =>
            commands.Run(http, w => WeekCommands.AddStanding(w, id, request))).Needs(Right.PayingAgree).WithName("addStandingDeduction");

        api.MapPost("/drivers/{id:long}/deductions/{deduction:long}/end", (long id, long deduction, HttpContext http, Commands commands) =>
            commands.Run(http, w => WeekCommands.EndStanding(w, id, deduction))).Needs(Right.PayingAgree).WithName("endStandingDeduction");
    }

    /// <summary>A driver's week as a sheet of paper.</summary>
    internal static async Task<IResult> Statement(long driverId, string monday, NpgsqlDataSource source, IClock clock, BusinessZone zone, HttpContext http)
    {
        await using var db = await source.OpenConnectionAsync();
        if (!QueryDay.TryParse(monday, out var day)
            || await WeekCommands.Week(db, driverId, DriverWeek.MondayOf(day.Value), clock.GetCurrentInstant(), zone.Zone) is not { } week)
        {
            return Answers.NotFound("This week");
        }

        http.Response.Headers.ContentDisposition = $"inline; filename=\"week-{week.Monday:uuuu-MM-dd}.pdf\"";
        return TypedResults.Bytes(WeekPdf.Of((await Business.Read(db))!, week), "application/pdf");
    }
}
