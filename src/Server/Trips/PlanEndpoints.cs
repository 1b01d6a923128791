using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Hours;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Trips;

/// <summary>The planning page.</summary>
public static class PlanEndpoints
{
    /// <summary>The most days shown.</summary>
    public const int MostDays = 14;

    /// <summary>How far ahead a driver's plan is looked at.</summary>
    public static readonly Duration Longest = Duration.FromDays(MostDays);

    public static void MapPlan(this RouteGroupBuilder api)
    {
        api.MapPost("/moves", (MoveRequest request, HttpContext http, Commands commands, MoveCommands moves) =>
                commands.Run(http, w => moves.Make(w, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("makeMove");

        api.MapGet(
                "/plan",
                async (QueryDay? from, int? days, HttpContext http, CallerReads reads, OpenLoads open, IClock clock, BusinessZone zone) =>
                {
                    var now = clock.GetCurrentInstant();
                    var first = from?.Value ?? now.InZone(zone.Zone).Date;
                    var begins = zone.Zone.AtStartOfDay(first).ToInstant();
                    var shown = new Span(begins, zone.Zone.AtStartOfDay(first.PlusDays(Math.Clamp(days ?? 4, 1, MostDays))).ToInstant());
                    var limited = http.User.Access().Limits.IsLimited;
                    var lines = limited ? null : await open.All();
                    await using var db = await reads.Open();
                    lines ??= await LoadViews.Lines(db, await LoadReads.InStates(db, OpenLoads.States, null, 2_000), now, zone.Zone);
                    return await PlanViews.Board(db, lines, shown, now, zone.Zone);
                }
            )
            .Needs(Right.LoadsSee)
            .WithName("getPlan");

        api.MapPost("/hours", IResult (HoursRequest ask) =>
            {
                var answer = ask.Answer();
                return answer.Ok ? TypedResults.Ok(answer.Value) : Answers.Refused(answer.Problems);
            })
            .Needs(Right.LoadsSee)
            .Produces<HoursAnswer>()
            .ProducesProblem(422)
            .WithName("hours");

        api.MapPost("/plan/preview", (PlanRequest request, HttpContext http, Commands commands, PlanCommands plan) =>
                commands.Preview(http, w => plan.Preview(w, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("previewPlan");

        api.MapPost("/plan/moves", (PlanRequest request, HttpContext http, Commands commands, PlanCommands plan) =>
                commands.Run(http, w => plan.Make(w, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("makePlanMoves");
    }
}
