using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Basics;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

public sealed record TripMessageRequest(string? Text);

/// <param name="Count">How many messages were marked as read.</param>
public sealed record MessagesRead(int Count);

/// <summary>Messages between dispatch and the drivers of a trip.</summary>
public static class MessageCommands
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/trips/{id:long}/messages", async (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await TripMessageStore.OfTrip(db, id);
            })
            .Needs(Right.LoadsSee)
            .WithName("listTripMessages");

        api.MapPost("/trips/{id:long}/messages", (long id, TripMessageRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Send(w, id, request, null))
            )
            .Needs(Right.LoadsRoll)
            .WithName("sendTripMessage");

        api.MapPost("/trips/{id:long}/messages/read", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => MarkRead(w, id, byDriver: false))
            )
            .Needs(Right.LoadsRoll)
            .WithName("readTripMessages");
    }

    /// <summary>The same for a driver, of their own trips.</summary>
    internal static void MapMine(RouteGroupBuilder mine)
    {
        mine.MapGet("/messages", async (HttpContext http, CallerReads reads, IClock clock) =>
            {
                await using var db = await reads.Open();
                return await TripMessageStore.OfDriver(db, http.User.DriverId()!.Value, clock.GetCurrentInstant() - TripMessages.Shown);
            })
            .Needs(Right.TripsOwn)
            .WithName("listMyMessages");

        mine.MapPost("/trips/{id:long}/messages", (long id, TripMessageRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => TripCommands.Mine(w, id, me => Send(w, id, request, me)))
            )
            .Needs(Right.TripsOwn)
            .WithName("sendMyMessage");

        mine.MapPost("/trips/{id:long}/messages/read", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => TripCommands.Mine(w, id, _ => MarkRead(w, id, byDriver: true)))
            )
            .Needs(Right.TripsOwn)
            .WithName("readMyMessages");
    }

    private static async Task<Outcome<TripMessageRow>> Send(CommandContext w, long tripId, TripMessageRequest request, long? driverId)
    {
        if (await ItineraryStore.Trip(w.Db, tripId) is not { } trip)
        {
            return Problem.Missing("This trip");
        }

        var text = TripMessages.Check(request.Text, trip.Number, trip.CanceledAt is not null, trip.EndedAt, w.Now);
        if (!text.Ok)
        {
            return text.Problems;
        }

        var message = await TripMessageStore.Add(w, tripId, driverId, text.Value);
        // What is answered was read.
        await TripMessageStore.MarkRead(w, tripId, driverId is not null);
        IReadOnlyList<string> drivers = trip.Codriver is { } codriver ? [trip.Driver, codriver] : [trip.Driver];
        var from = driverId is null ? null : w.Actor.Name;
        if ((await ItineraryStore.Legs(w.Db, [tripId])).GetValueOrDefault(tripId)?.Legs is [{ LoadId: var load }, ..])
        {
            foreach (var driver in trip.Crew)
            {
                w.Record(
                    EventKinds.TripMessage,
                    load,
                    TripMessages.Said(trip.Number, from, drivers, text.Value),
                    loadId: driver == trip.DriverId ? load : null,
                    driverId: driver
                );
            }
        }

        return message;
    }

    private static async Task<Outcome<MessagesRead>> MarkRead(CommandContext w, long tripId, bool byDriver)
    {
        var count = await TripMessageStore.MarkRead(w, tripId, byDriver);
        if (count > 0 && await ItineraryStore.Trip(w.Db, tripId) is { } trip)
        {
            w.Record(EventKinds.TripMessagesRead, tripId, $"Messages of trip {trip.Number} read", driverId: trip.DriverId);
        }

        return new MessagesRead(count);
    }
}
