using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.People;

namespace SteadyLark.Server.Line;

public static class LineEndpoints
{
    public static void MapLine(this RouteGroupBuilder api) =>
        api.MapGet("/line", async (string q, HttpContext http, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                await using var db = await reads.Open();
                var access = http.User.Access();
                return await LineCommands.Answer(db, q.Length > 300 ? q[..300] : q, access, clock.GetCurrentInstant(), zone.Zone);
            })
            .Needs(Right.LoadsSee)
            .WithName("queryLine");
}
