using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.People;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <summary>Expenses on trips.</summary>
public static class ExpenseEndpoints
{
    public static void MapExpenses(this RouteGroupBuilder api)
    {
        api.MapGet("/trips/{id:long}/expenses", async Task<IResult> (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await ExpenseCommands.View(db, id) is { } expenses ? TypedResults.Ok(expenses) : Answers.NotFound("This trip");
            })
            .Needs(Right.LoadsSee)
            .Produces<TripExpensesView>()
            .ProducesProblem(404)
            .WithName("getTripExpenses");

        api.MapPost("/trips/{id:long}/expenses", (long id, ExpenseRequest request, HttpContext http, Commands commands) =>
                commands.Once(http, request, w => ExpenseCommands.Enter(w, id, request))
            )
            .Needs(Right.LoadsRoll, Right.PayingEnter)
            .WithName("enterExpense");

        api.MapGet("/expenses/reported", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await TripExpenseStore.Reported(db);
            })
            .Needs(Right.PayingSee)
            .WithName("listReportedExpenses");

        api.MapGet("/expenses/{id:long}", async Task<IResult> (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await TripExpenseStore.Get(db, id) is { } expense ? TypedResults.Ok(expense) : Answers.NotFound("This expense");
            })
            .Needs(Right.PayingSee)
            .Produces<TripExpenseRow>()
            .ProducesProblem(404)
            .WithName("getExpense");

        api.MapPost("/expenses/{id:long}/approve", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => ExpenseCommands.Approve(w, id))
            )
            .Needs(Right.PayingEnter)
            .WithName("approveExpense");

        api.MapPost("/expenses/{id:long}/decline", (long id, DeclineExpenseRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => ExpenseCommands.Decline(w, id, request))
            )
            .Needs(Right.PayingEnter)
            .WithName("declineExpense");

        api.MapPost("/expenses/{id:long}/reopen", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => ExpenseCommands.Reopen(w, id))
            )
            .Needs(Right.PayingEnter)
            .WithName("reopenExpense");

        api.MapPost("/expenses/{id:long}/remove", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => ExpenseCommands.Remove(w, id))
            )
            .Needs(Right.LoadsRoll, Right.PayingEnter)
            .WithName("removeExpense");

        api.MapPost("/expenses/{id:long}/receipt", async Task<IResult> (long id, string? name, HttpContext http, Commands commands) =>
            {
                var bytes = await DocumentEndpoints.Body(http.Request);
                return await commands.Run(http, w => ExpenseCommands.Attach(w, id, name ?? "receipt", bytes));
            })
            .Needs(Right.LoadsRoll, Right.PayingEnter)
            .TakesFile()
            .Produces<DocumentRow>()
            .ProducesProblem(422)
            .WithName("addReceipt");
    }
}
