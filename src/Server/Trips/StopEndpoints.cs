using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Trips;

/// <summary>File formats of a route.</summary>
public enum RouteFormat
{
    Gpx,
    GeoJson,
    Csv,

    /// <summary>The trip sheet, for printing.</summary>
    Pdf,
}

public static class StopEndpoints
{
    public static void MapTrips(this RouteGroupBuilder api)
    {
        api.MapPost(
                "/loads/{id:long}/stops/{stopId:long}",
                (long id, long stopId, StopEventRequest request, HttpContext http, Commands commands) =>
                    commands.OnLoad(http, id, w => StopCommands.Record(w, id, stopId, request))
            )
            .Needs(Right.LoadsRoll)
            .WithName("recordStop");

        api.MapPost("/loads/{id:long}/stops/{stopId:long}/undo", (long id, long stopId, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => StopCommands.Undo(w, id, stopId))
            )
            .Needs(Right.LoadsRoll)
            .WithName("undoStop");

        api.MapPut("/loads/{id:long}/cod", (long id, CodRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => CodCommands.Collect(w, id, request))
            )
            .Needs(Right.LoadsRoll)
            .WithName("collectCod");

        api.MapPost("/loads/{id:long}/stops", (long id, StopRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => ReportCommands.AddStop(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("addStop");

        api.MapPost("/loads/{id:long}/reports", (long id, ReportRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => ReportCommands.Record(w, id, request))
            )
            .Needs(Right.LoadsRoll)
            .WithName("reportOnLoad");

        api.MapPost("/loads/{id:long}/reports/{reportId:long}/undo", (long id, long reportId, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => ReportCommands.Undo(w, id, reportId))
            )
            .Needs(Right.LoadsRoll)
            .WithName("undoReport");

        MapTransfers(api);

        api.MapPost("/loads/{id:long}/handover/undo", (long id, HttpContext http, Commands commands, HandoverCommands handovers) =>
                commands.OnLoad(http, id, w => handovers.Undo(w, id))
            )
            .Needs(Right.LoadsCover)
            .WithName("undoHandover");

        api.MapPost(
                "/loads/{id:long}/handover",
                (long id, HandoverRequest request, HttpContext http, Commands commands, HandoverCommands handovers) =>
                    commands.OnLoad(http, id, w => handovers.HandOver(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("handOverLoad");

        api.MapPost(
                "/loads/{id:long}/stops/{stopId:long}/route",
                (long id, long stopId, RouteOverrideRequest request, HttpContext http, Commands commands) =>
                    commands.OnLoad(http, id, w => RouteOverrideCommands.Set(w, id, stopId, request))
            )
            .Needs(Right.LoadsBook)
            .WithName("setRouteOverride");

        api.MapGet("/loads/{id:long}/trip", async Task<IResult> (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await TripViews.Of(db, id) is { } trip ? TypedResults.Ok(trip) : Answers.NotFound("The route of this load");
            })
            .Needs(Right.LoadsSee)
            .Produces<TripView>()
            .ProducesProblem(404)
            .WithName("getTrip");

        api.MapGet(
                "/loads/{id:long}/route",
                async Task<IResult> (long id, QueryEnum<RouteFormat> format, CallerReads reads, IClock clock) =>
                {
                    await using var db = await reads.Open();
                    if (await TripViews.Of(db, id) is not { } trip)
                    {
                        return Answers.NotFound("The route of this load");
                    }

                    var sheet = (await LoadReads.Sheet(db, id))!;
                    var name = $"route-{sheet.Load.Number.Replace('/', '-')}";
                    return format.Value switch
                    {
                        RouteFormat.Gpx => TypedResults.File(TripViews.File(trip, sheet.Load).Gpx(), "application/gpx+xml", $"{name}.gpx"),
                        RouteFormat.GeoJson => TypedResults.File(
                            TripViews.File(trip, sheet.Load).GeoJson(),
                            "application/geo+json",
                            $"{name}.geojson"
                        ),
                        RouteFormat.Csv => TypedResults.File(
                            TripViews.File(trip, sheet.Load).Csv(),
                            "text/csv; charset=utf-8",
                            $"{name}.csv"
                        ),
                        _ => TypedResults.File(
                            TripSheetPdf.Draw(
                                (await Business.Read(db))!,
                                sheet,
                                trip,
                                await TripSheets.LoadingOf(db, sheet, sheet.Leg, clock.GetCurrentInstant())
                            ),
                            "application/pdf",
                            $"trip-sheet-{sheet.Load.Number.Replace('/', '-')}.pdf"
                        ),
                    };
                }
            )
            .Needs(Right.LoadsSee)
            .Produces<byte[]>(200, "application/octet-stream")
            .ProducesProblem(404)
            .WithName("getRouteFile");

        api.MapPost("/loads/{id:long}/reprice", (long id, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => RouteOverrideCommands.Reprice(w, id))
            )
            .Needs(Right.LoadsBook)
            .WithName("repriceLoad");

        api.MapPost("/loads/{id:long}/costs", (long id, TripCostRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => RouteOverrideCommands.AddCost(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("addTripCost");

        api.MapPost("/loads/{id:long}/costs/{costId:long}/remove", (long id, long costId, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => RouteOverrideCommands.RemoveCost(w, id, costId))
            )
            .Needs(Right.LoadsCover)
            .WithName("removeTripCost");

        TrackEndpoints.Map(api);
    }

    private static void MapTransfers(RouteGroupBuilder api)
    {
        api.MapPost("/loads/{id:long}/split", (long id, SplitRequest request, HttpContext http, Commands commands, CoverCommands cover) =>
                commands.OnLoad(http, id, w =>
                    request.SwapWithLoadId is null ? SplitCommands.Split(w, id, request) : SplitCommands.Relay(w, cover, id, request)
                )
            )
            .Needs(Right.LoadsCover)
            .WithName("splitLoad");

        api.MapPut("/loads/{id:long}/shares", (long id, SharesRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => ShareCommands.Set(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("setShares");

        api.MapPut(
                "/loads/{id:long}/transfers/{transferId:long}",
                (long id, long transferId, SplitRequest request, HttpContext http, Commands commands) =>
                    commands.OnLoad(http, id, w => SplitCommands.Move(w, id, transferId, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("moveTransfer");

        api.MapPost("/loads/{id:long}/transfers/{transferId:long}/join", (long id, long transferId, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => SplitCommands.Join(w, id, transferId))
            )
            .Needs(Right.LoadsCover)
            .WithName("joinLegs");

        api.MapPost(
                "/loads/{id:long}/transfers/{transferId:long}",
                (long id, long transferId, TransferEventRequest request, HttpContext http, Commands commands) =>
                    commands.OnLoad(http, id, w => SplitCommands.Record(w, id, transferId, request))
            )
            .Needs(Right.LoadsRoll)
            .WithName("recordTransfer");

        api.MapPost("/loads/{id:long}/transfers/{transferId:long}/undo", (long id, long transferId, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => SplitCommands.Undo(w, id, transferId))
            )
            .Needs(Right.LoadsRoll)
            .WithName("undoTransfer");
    }
}
