using NodaTime;
using Npgsql;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Billing;
using SteadyLark.Server.Loads;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Paying;

public static class PayingEndpoints
{
    public static void MapPaying(this RouteGroupBuilder api)
    {
        api.MapGet("/bills", async (bool? paid, string? after, int? limit, NpgsqlDataSource source) =>
        {
            var most = Math.Clamp(limit ?? 200, 1, 500);
            await using var db = await source.OpenConnectionAsync();
            if (paid == true)
            {
                var done = await PayingStore.PaidBills(db, long.TryParse(after, out var before) ? before : null, most);
                return new Page<BillRow>(done, done.Count == most ? done[^1].Id.ToString() : null);
            }

            var rows = await PayingStore.OpenBills(db, BillingEndpoints.DateCursor(after), most);
            return new Page<BillRow>(rows, rows.Count == most ? $"{rows[^1].DueOn:uuuu-MM-dd}_{rows[^1].Id}" : null);
        }).Needs(Right.PayingSee).WithName("listBills");

        api.MapGet("/bills/{id:long}", async Task<IResult> (long id, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await PayingStore.Bill(db, id) is { } bill ? TypedResults.Ok(bill) : Answers.NotFound("This bill");
        }).Needs(Right.PayingSee).Produces<BillRow>().ProducesProblem(404).WithName("getBill");

        api.MapGet("/bills/awaited", async (NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await PayingStore.UnbilledLegs(db, 500);
        }).Needs(Right.PayingSee).WithName("listAwaitedBills");

        api.MapPost("/bills", (BillRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => PayingCommands.EnterBill(w, request))).Needs(Right.PayingEnter).WithName("enterBill");

        api.MapPost("/bills/{id:long}/approve", (long id, ApproveBillRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => PayingCommands.ApproveBill(w, id, request))).Needs(Right.PayingApprove).WithName("approveBill");

        api.MapPost("/bills/{id:long}/void", (long id, HttpContext http, Commands commands) =>
            commands.Money(http, id, w => PayingCommands.VoidBill(w, id))).Needs(Right.PayingEnter).WithName("voidBill");

        api.MapPost("/bills/{id:long}/pay", (long id, PayoutRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => PayingCommands.PayBill(w, id, request))).Needs(Right.PayingPay).WithName("payBill");

        api.MapGet("/weeks", async (QueryDay? monday, NpgsqlDataSource source, IClock clock, BusinessZone zone) =>
        {
            var now = clock.GetCurrentInstant();
            var from = DriverWeek.MondayOf(monday?.Value ?? now.InZone(zone.Zone).Date.PlusDays(-7));
            await using var db = await source.OpenConnectionAsync();
            var weeks = new List<WeekView>();
            foreach (var driver in await FleetStore.Drivers(db))
            {
                var week = (await PayingCommands.Week(db, driver.Id, from, now, zone.Zone))!;
                if (week.Earned.Amount > 0 || week.Draws.Count > 0)
                {
                    weeks.Add(week);
                }
            }

            return weeks;
        }).Needs(Right.PayingSee).WithName("listWeeks");

        api.MapPost("/weeks/approve", (WeekRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => PayingCommands.ApproveWeek(w, request))).Needs(Right.PayingApprove).WithName("approveWeek");

        api.MapPost("/settlements/{id:long}/pay", (long id, PayoutRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => PayingCommands.PayWeek(w, id, request))).Needs(Right.PayingPay).WithName("payWeek");

        api.MapPost("/draws", (DrawRequest request, HttpContext http, Commands commands) =>
            commands.Money(http, request, w => PayingCommands.Draw(w, request))).Needs(Right.PayingEnter).WithName("giveDraw");
    }
}
