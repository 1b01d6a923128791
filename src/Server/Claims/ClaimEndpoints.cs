using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Paying;
using SteadyLark.Server.People;
using SteadyLark.Store.Claims;

namespace SteadyLark.Server.Claims;

public static class ClaimEndpoints
{
    public static void MapClaims(this RouteGroupBuilder api)
    {
        api.MapGet("/loads/{id:long}/claims", async (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await ClaimStore.OfLoad(db, id);
            })
            .Needs(Right.LoadsSee)
            .WithName("listClaimsOfLoad");

        api.MapGet("/claims/{id:long}", async Task<IResult> (long id, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                await using var db = await reads.Open();
                return await ClaimCommands.View(db, id, clock.GetCurrentInstant().InZone(zone.Zone).Date) is { } claim
                    ? TypedResults.Ok(claim)
                    : Answers.NotFound("This claim");
            })
            .Needs(Right.BillingSee)
            .Produces<ClaimView>()
            .ProducesProblem(404)
            .WithName("getClaim");

        api.MapPost("/loads/{id:long}/claims", (long id, OpenClaimRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => ClaimCommands.Open(w, id, request))
            )
            .Needs(Right.LoadsRoll)
            .WithName("openClaim");

        api.MapPost("/claims/{id:long}/file", (long id, FileClaimRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => ClaimCommands.File(w, id, request))
            )
            .Needs(Right.BillingReceive)
            .WithName("fileClaim");

        api.MapPost("/claims/{id:long}/acknowledge", (long id, HttpContext http, Commands commands, ClaimCommands claims) =>
                commands.Run(http, w => claims.Acknowledge(w, id))
            )
            .Needs(Right.BillingReceive)
            .WithName("acknowledgeClaim");

        api.MapPost(
                "/claims/{id:long}/decide",
                (long id, DecideClaimRequest request, HttpContext http, Commands commands, ClaimCommands claims) =>
                    commands.Money(http, new { id, request }, w => claims.Decide(w, id, request))
            )
            .Needs(Right.BillingReceive)
            .WithName("decideClaim");

        api.MapPost("/claims/{id:long}/reopen", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => ClaimCommands.Reopen(w, id))
            )
            .Needs(Right.BillingReceive)
            .WithName("reopenClaim");

        api.MapPost(
                "/claims/{id:long}/carrier",
                (long id, CarrierClaimRequest request, HttpContext http, Commands commands, ClaimCommands claims) =>
                    commands.Run(http, w => claims.FileWithCarrier(w, id, request))
            )
            .Needs(Right.PayingApprove)
            .WithName("fileClaimWithCarrier");

        api.MapPost("/claims/{id:long}/release", (long id, ReleaseClaimRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => ClaimCommands.Release(w, id, request))
            )
            .Needs(Right.PayingApprove)
            .WithName("releaseClaim");

        api.MapPost("/claims/{id:long}/recoveries", (long id, RecoveryRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, new { id, request }, w => ClaimCommands.Recover(w, id, request))
            )
            .Needs(Right.BillingReceive)
            .WithName("recoverClaim");

        api.MapPost("/claim-recoveries/{id:long}/reverse", (long id, HttpContext http, Commands commands) =>
                commands.Money(http, id, w => ClaimCommands.ReverseRecovery(w, id))
            )
            .Needs(Right.BillingReceive)
            .WithName("reverseRecovery");

        api.MapPost("/bills/{id:long}/debit-memos", (long id, DebitMemoRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, new { id, request }, w => DebitMemoCommands.Debit(w, id, request))
            )
            .Needs(Right.PayingApprove)
            .WithName("addDebitMemo");
    }
}
