using SteadyLark.Core.People;
using SteadyLark.Server.Basics;

namespace SteadyLark.Server.Trips;

public static class StopEndpoints
{
    public static void MapTrips(this RouteGroupBuilder api)
    {
        api.MapPost("/loads/{id:long}/stops/{stopId:long}", (long id, long stopId, StopWordRequest request, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => StopCommands.Record(w, id, stopId, request))).Needs(Right.LoadsRoll).WithName("recordStop");

        api.MapPost("/loads/{id:long}/stops/{stopId:long}/take-back", (long id, long stopId, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => StopCommands.TakeBack(w, id, stopId))).Needs(Right.LoadsRoll).WithName("takeBackStop");
    }
}
