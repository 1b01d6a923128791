using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <param name="Order">The trip's visits in another order: ids of stops, and of transfers below zero.</param>
public sealed record TripPreviewRequest(IReadOnlyList<long>? Order);

/// <summary>The documents and the history of a trip's loads.</summary>
public sealed record TripRecords(IReadOnlyList<TripDocument> Documents, IReadOnlyList<EventRow> Events);

/// <summary>A document of one of a trip's loads.</summary>
public sealed record TripDocument(string Load, DocumentRow Document);

/// <summary>Trips, and the loads they carry.</summary>
public static class TripEndpoints
{
    public static void MapSharedTrips(this RouteGroupBuilder api)
    {
        api.MapGet("/trips/{id:long}", async Task<IResult> (long id, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                await using var db = await reads.Open();
                await using var snapshot = await Reads.Snapshot(db);
                return await TripSheets.Of(db, id, clock.GetCurrentInstant(), zone.Zone) is { } sheet
                    ? TypedResults.Ok(sheet)
                    : Answers.NotFound("This trip");
            })
            .Needs(Right.LoadsSee)
            .Produces<TripSheet>()
            .ProducesProblem(404)
            .WithName("getTripSheet");

        api.MapGet("/trips/{id:long}/route", async Task<IResult> (long id, CallerReads reads, IClock clock) =>
            {
                await using var db = await reads.Open();
                return await TripSheets.Route(db, id, clock.GetCurrentInstant()) is { } route
                    ? TypedResults.Ok(route)
                    : Answers.NotFound("This trip");
            })
            .Needs(Right.LoadsSee)
            .Produces<TripRoute>()
            .ProducesProblem(404)
            .WithName("getTripRoute");

        api.MapGet("/trips/{id:long}/records", async (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                var legs = (await ItineraryStore.Legs(db, [id])).GetValueOrDefault(id)?.Legs ?? [];
                var loads = (await LoadReads.ByIds(db, legs.Select(l => l.LoadId))).ToDictionary(l => l.Id);
                return new TripRecords(
                    (await DocumentStore.OfLoads(db, loads.Keys))
                        .SelectMany(d => d)
                        .Select(d => new TripDocument(loads[d.LoadId!.Value].Number, d))
                        .ToList(),
                    await Events.OfLoads(db, loads.Keys)
                );
            })
            .Needs(Right.LoadsSee)
            .WithName("getTripRecords");

        api.MapPut("/trips/{id:long}/name", (long id, TripNameRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => TripCommands.Name(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("nameTrip");

        api.MapPut("/trips/{id:long}/codriver", (long id, CodriverRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => TeamCommands.Set(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("setCodriver");

        api.MapGet(
                "/trips/{id:long}/loads",
                async Task<IResult> (long id, HttpContext http, CallerReads reads, OpenLoads open, IClock clock) =>
                {
                    var lines = http.User.Access().Limits.IsLimited ? null : await open.All();
                    await using var db = await reads.Open();
                    return await ItineraryStore.Trip(db, id) is { } trip
                        ? TypedResults.Ok(
                            await TripSheets.Loads(
                                db,
                                trip,
                                lines?.Select(l => l.Load) ?? await LoadReads.InStates(db, OpenLoads.States, null, 1_000, toCover: true),
                                clock.GetCurrentInstant()
                            )
                        )
                        : Answers.NotFound("This trip");
                }
            )
            .Needs(Right.LoadsCover)
            .Produces<List<TripOffer>>()
            .ProducesProblem(404)
            .WithName("getLoadsForTrip");

        api.MapGet("/loads/{id:long}/trips", async Task<IResult> (long id, long? leg, CallerReads reads, IClock clock) =>
            {
                await using var db = await reads.Open();
                return
                    await LoadReads.Sheet(db, id) is { } sheet
                    && sheet.Meant(leg) is { } meant
                    && sheet.Work(meant).State is LoadState.Booked or LoadState.Tendered or LoadState.Covered
                    ? TypedResults.Ok(await TripSheets.Trips(db, sheet.Load, meant.Id, meant.Seq, clock.GetCurrentInstant()))
                    : Answers.NotFound("This open load");
            })
            .Needs(Right.LoadsCover)
            .Produces<List<TripOffer>>()
            .ProducesProblem(404)
            .WithName("getTripsForLoad");

        api.MapPost("/loads/{id:long}/cover/trip", (long id, long? leg, CoverByTripRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => TripCommands.Add(w, id, leg, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("coverByTrip");

        api.MapPost(
                "/trips/{id:long}/preview",
                async Task<IResult> (long id, TripPreviewRequest request, CallerReads reads, IClock clock, BusinessZone zone) =>
                {
                    await using var db = await reads.Open();
                    var preview = await TripSheets.Preview(db, id, request.Order ?? [], clock.GetCurrentInstant(), zone.Zone);
                    return preview.Ok ? TypedResults.Ok(preview.Value) : Answers.Refused(preview.Problems);
                }
            )
            .Needs(Right.LoadsSee)
            .Produces<TripPreview>()
            .ProducesProblem(422)
            .WithName("previewTrip");

        api.MapPut("/trips/{id:long}/order", (long id, TripOrderRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => TripCommands.Order(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("orderTrip");

        api.MapPut(
                "/trips/{id:long}/legs/{leg:long}/trailer",
                (long id, long leg, LegTrailerRequest request, HttpContext http, Commands commands) =>
                    commands.Run(http, w => TripCommands.InTrailer(w, id, leg, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("putLegInTrailer");

        api.MapPost("/trips/{id:long}/dissolve", (long id, HttpContext http, Commands commands, CoverCommands cover) =>
                commands.Run(http, w => TripCommands.Dissolve(w, cover, id))
            )
            .Needs(Right.LoadsCover)
            .WithName("dissolveTrip");

        api.MapPut("/trips/{id:long}/closing", (long id, TripClosingRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => TripCopyCommands.Close(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("closeTrip");

        api.MapPost("/trips/{id:long}/copy", (long id, TripCopyRequest request, HttpContext http, Commands commands, CoverCommands cover) =>
                commands.Once(http, request, w => TripCopyCommands.Copy(w, cover, id, request))
            )
            .Needs(Right.LoadsCover, Right.LoadsBook)
            .WithName("copyTrip");

        MessageCommands.Map(api);
        MapStops(api);
    }

    private static void MapStops(RouteGroupBuilder api)
    {
        api.MapPost("/trips/{id:long}/stops", (long id, TripStopRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => TripStopCommands.Add(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("addTripStop");

        api.MapPost("/trips/{id:long}/stops/{stopId:long}/remove", (long id, long stopId, HttpContext http, Commands commands) =>
                commands.Run(http, w => TripStopCommands.Remove(w, id, stopId))
            )
            .Needs(Right.LoadsCover)
            .WithName("removeTripStop");

        api.MapPost(
                "/trips/{id:long}/stops/{stopId:long}",
                (long id, long stopId, TripStopEventRequest request, HttpContext http, Commands commands) =>
                    commands.Run(http, w => TripStopCommands.Record(w, id, stopId, request))
            )
            .Needs(Right.LoadsRoll)
            .WithName("recordTripStop");

        api.MapPost("/trips/{id:long}/stops/{stopId:long}/undo", (long id, long stopId, HttpContext http, Commands commands) =>
                commands.Run(http, w => TripStopCommands.Undo(w, id, stopId))
            )
            .Needs(Right.LoadsRoll)
            .WithName("undoTripStop");
    }
}
