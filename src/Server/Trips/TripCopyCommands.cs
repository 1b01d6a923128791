using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Loads;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <param name="Closed">Whether everything on it is decided.</param>
/// <param name="Archived">Whether lists leave it out.</param>
public sealed record TripClosingRequest(bool Closed, bool Archived = false);

/// <param name="On">The day on which the copy begins.</param>
/// <param name="Assign">Whether the copy gets a driver at once; its loads are open otherwise.</param>
/// <param name="DriverId">The trip's when omitted, as are truck and trailer.</param>
/// <param name="CabotageReason">Why the driver may haul between two points of the other country, when it is asked for.</param>
public sealed record TripCopyRequest(
    LocalDate? On,
    bool Assign = true,
    long? DriverId = null,
    long? TruckId = null,
    long? TrailerId = null,
    string? CabotageReason = null
);

/// <param name="TripId">The copy; null when its loads are open.</param>
public sealed record TripCopyAnswer(long? TripId, string? Number, IReadOnlyList<LoadLink> Loads, string Summary);

/// <summary>Copying trips, closing and archiving them.</summary>
public static class TripCopyCommands
{
    /// <summary>Closes or archives a trip, or opens it again.</summary>
    public static async Task<Outcome<TripRow>> Close(CommandContext w, long tripId, TripClosingRequest request)
    {
        if (await ItineraryStore.Trip(w.Db, tripId, locked: true) is not { } trip)
        {
            return Problem.Missing("This trip");
        }

        var undecided = (await TripExpenseStore.OfTrip(w.Db, tripId)).Count(x => x.State == ExpenseState.Reported);
        if (trip.Closing.Refusal(request.Closed, request.Archived, undecided) is { } refused)
        {
            return refused;
        }

        await ItineraryStore.Close(w, tripId, request.Closed, request.Archived);
        await TripCommands.Record(
            w,
            EventKinds.TripClosed,
            trip,
            trip.Closing.Done(request.Closed, request.Archived),
            new { trip.ClosedAt, trip.ArchivedAt }
        );
        return (await ItineraryStore.Trip(w.Db, tripId))!;
    }

    /// <summary>Books the loads of a trip again on another day, and puts them on a trip of the same order with the same stops of its own.</summary>
    public static async Task<Outcome<TripCopyAnswer>> Copy(CommandContext w, CoverCommands cover, long tripId, TripCopyRequest request)
    {
        if (await ItineraryStore.Trip(w.Db, tripId) is not { } trip)
        {
            return Problem.Missing("This trip");
        }

        var visits = await TripSheets.Visits(w.Db, trip) ?? [];
        var sheets = new List<LoadSheet>();
        foreach (var load in Itinerary.Carried(visits))
        {
            sheets.Add((await LoadReads.Sheet(w.Db, load.LoadId))!);
        }

        var first = visits.FirstOrDefault(v => v.Leg.Carries) is { } begins
            ? begins.Stop.Window.From.InZone(begins.Zone).Date
            : trip.From.InZone(w.Zone).Date;
        if (
            TripCopy.Refusal(
                trip.Number,
                sheets.Select(s => (s.Load.Number, s.Legs.Count > 1, s.Load.IsMove)).ToList(),
                first,
                request.On,
                w.Today,
                request.Assign && trip.Trailers.Count > 1
            ) is
            { } refused
        )
        {
            return refused;
        }

        var counterparts = new Dictionary<long, long>();
        var loads = new List<LoadLink>();
        var days = Period.DaysBetween(first, request.On!.Value);
        foreach (var sheet in sheets)
        {
            var booked = await LoadCommands.Book(w, LoadCopies.Copy(LoadRequest.Of(sheet).Order(), days), sheet.Load.Number);
            if (!booked.Ok)
            {
                return booked.Problems;
            }

            loads.Add(new LoadLink(booked.Value.Id, booked.Value.Number));
            var stops = (await LoadReads.ByIds(w.Db, [booked.Value.Id]))[0].Stops;
            foreach (var (before, after) in sheet.Load.Stops.Zip(stops))
            {
                counterparts[before.Id] = after.Id;
            }
        }

        var numbers = string.Join(", ", loads.Select(l => l.Number));
        return request.Assign
            ? await Assign(w, cover, trip, visits, request, days, loads, counterparts)
            : new TripCopyAnswer(null, null, loads, $"Trip {trip.Number} copied: {numbers} booked");
    }

    private static async Task<Outcome<TripCopyAnswer>> Assign(
        CommandContext w,
        CoverCommands cover,
        TripRow trip,
        IReadOnlyList<Visit> visits,
        TripCopyRequest request,
        int days,
        IReadOnlyList<LoadLink> loads,
        Dictionary<long, long> counterparts
    )
    {
        var crew = new CoverByDriverRequest(
            request.DriverId ?? trip.DriverId,
            request.TruckId ?? trip.TruckId,
            request.TrailerId ?? trip.TrailerId,
            CabotageReason: request.CabotageReason
        );
        var assigned = await cover.ByDriver(w, loads[0].Id, null, crew);
        if (!assigned.Ok)
        {
            return assigned.Problems;
        }

        var copy = (await LoadReads.ByIds(w.Db, [loads[0].Id]))[0].TripId!.Value;
        foreach (var load in loads.Skip(1))
        {
            var added = await TripCommands.Add(w, load.Id, null, new CoverByTripRequest(copy, true, request.CabotageReason));
            if (!added.Ok)
            {
                return added.Problems;
            }
        }

        // Where its trailer is hooked and dropped depends on where it is then.
        foreach (var own in visits.Select(v => v.Leg.Own).OfType<TripStop>().Where(s => !TripStops.OfTrailer(s.Kind)))
        {
            var place = (await TripStopStore.Get(w.Db, trip.Id, own.Id))!;
            var added = await TripStopCommands.Add(
                w,
                copy,
                new TripStopRequest(own.Kind, place.PlaceId, null, place.Minutes, own.Note, AllowLate: true, TripCopy.StartsAt(own, days))
            );
            if (!added.Ok)
            {
                return added.Problems;
            }

            counterparts[own.Id] = added.Value.StopId;
        }

        var ordered = await TripCommands.Order(
            w,
            copy,
            new TripOrderRequest(TripCopy.Order(Itinerary.Order(visits), counterparts), null, AllowLate: true)
        );
        if (!ordered.Ok)
        {
            return ordered.Problems;
        }

        if (trip.Name is not null)
        {
            await ItineraryStore.Name(w.Db, copy, ordered.Value.Number, trip.Name);
        }

        return new TripCopyAnswer(
            copy,
            ordered.Value.Number,
            loads,
            $"Trip {trip.Number} copied to trip {ordered.Value.Number} with {string.Join(", ", loads.Select(l => l.Number))}"
        );
    }
}
