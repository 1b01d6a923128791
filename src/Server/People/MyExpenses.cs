using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.People;

/// <summary>An expense as the driver who reported it sees it.</summary>
/// <param name="Reason">Why it was declined.</param>
public sealed record MyExpense(
    long Id,
    string Trip,
    CostKind Kind,
    LocalDate On,
    string? Place,
    string? Region,
    decimal? Quantity,
    VolumeUnit? Unit,
    Money Amount,
    PaidBy PaidBy,
    ExpenseState State,
    string? Reason,
    bool HasReceipt
);

/// <summary>A driver's own expenses, on the phone.</summary>
internal static class MyExpenses
{
    /// <summary>How many days back the phone shows them.</summary>
    private const int DaysShown = 21;

    public static void Map(RouteGroupBuilder mine)
    {
        mine.MapGet("/expenses", async (HttpContext http, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                await using var db = await reads.Open();
                var since = clock.GetCurrentInstant().InZone(zone.Zone).Date.PlusDays(-DaysShown);
                return (await TripExpenseStore.OfDriver(db, http.User.DriverId()!.Value, since)).Select(Of).ToList();
            })
            .Needs(Right.TripsOwn)
            .WithName("listMyExpenses");

        mine.MapPost("/trips/{id:long}/expenses", (long id, ExpenseRequest request, HttpContext http, Commands commands) =>
                commands.Once(http, request, w =>
                    TripCommands.Mine(w, id, async me => (await ExpenseCommands.Enter(w, id, request, me)).Then(Of))
                )
            )
            .Needs(Right.TripsOwn)
            .WithName("reportMyExpense");

        mine.MapPost("/expenses/{id:long}/receipt", async Task<IResult> (long id, string? name, HttpContext http, Commands commands) =>
            {
                var bytes = await DocumentEndpoints.Body(http.Request);
                return await commands.Run(http, w => ExpenseCommands.Attach(w, id, name ?? "receipt", bytes, w.Actor.DriverId ?? 0));
            })
            .Needs(Right.TripsOwn)
            .TakesFile()
            .Produces<DocumentRow>()
            .ProducesProblem(422)
            .WithName("addMyReceipt");
    }

    private static MyExpense Of(TripExpenseRow x) =>
        new(
            x.Id,
            x.Trip,
            x.Kind,
            x.On,
            x.Place,
            x.Region,
            x.Quantity,
            x.Unit,
            x.Amount,
            x.PaidBy,
            x.State,
            x.Reason,
            x.ReceiptId is not null
        );
}
