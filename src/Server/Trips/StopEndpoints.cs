using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;

namespace SteadyLark.Server.Trips;

public static class StopEndpoints
{
    public static void MapTrips(this RouteGroupBuilder api)
    {
        api.MapPost("/loads/{id:long}/stops/{stopId:long}", (long id, long stopId, StopWordRequest request, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => StopCommands.Record(w, id, stopId, request))).Needs(Right.LoadsRoll).WithName("recordStop");

        api.MapPost("/loads/{id:long}/stops/{stopId:long}/take-back", (long id, long stopId, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => StopCommands.TakeBack(w, id, stopId))).Needs(Right.LoadsRoll).WithName("takeBackStop");

        api.MapPost("/loads/{id:long}/stops", (long id, StopRequest request, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => ReportCommands.AddStop(w, id, request))).Needs(Right.LoadsCover).WithName("addStop");

        api.MapPost("/loads/{id:long}/reports", (long id, ReportRequest request, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => ReportCommands.Record(w, id, request))).Needs(Right.LoadsRoll).WithName("reportOnLoad");

        api.MapPost("/loads/{id:long}/reports/{reportId:long}/take-back", (long id, long reportId, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => ReportCommands.TakeBack(w, id, reportId))).Needs(Right.LoadsRoll).WithName("takeBackReport");

        api.MapPost("/loads/{id:long}/handover/take-back", (long id, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => ReportCommands.TakeHandoverBack(w, id))).Needs(Right.LoadsCover).WithName("takeHandoverBack");

        api.MapPost("/loads/{id:long}/handover", (long id, HandoverRequest request, HttpContext http, Commands commands) =>
            commands.OnLoad(http, id, w => ReportCommands.HandOver(w, id, request))).Needs(Right.LoadsCover).WithName("handOverLoad");

        TrackEndpoints.Map(api);
    }
}
