using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <param name="PlaceId">Where, from the address book; or <paramref name="TownId"/>, any town. Where the trailer is, when both are omitted for
/// hooking it.</param>
/// <param name="TrailerId">The trailer that is hooked or dropped; the trip's when omitted.</param>
/// <param name="Minutes">How long it takes; as is usual for its kind when omitted.</param>
/// <param name="AllowLate">Add it even if a stop becomes late.</param>
/// <param name="StartsAt">When the trip is to start, for its start; as early as its first pickup needs when omitted.</param>
public sealed record TripStopRequest(
    TripStopKind? Kind,
    long? PlaceId,
    long? TownId,
    int? Minutes = null,
    string? Note = null,
    bool AllowLate = false,
    Instant? StartsAt = null,
    long? TrailerId = null
);

/// <param name="Left">Whether the truck left; it arrived otherwise.</param>
/// <param name="At">When; now when omitted.</param>
public sealed record TripStopEventRequest(bool Left, Instant? At);

/// <param name="AddedMiles">Whole miles more than without it; zero for what is recorded at a stop.</param>
public sealed record TripStopAnswer(long TripId, string Number, long StopId, int AddedMiles, string Summary);

/// <summary>Stops of a trip's own: trailers are hooked or dropped, fuel, scale, wash, yard, border, waypoints.</summary>
public static class TripStopCommands
{
    /// <summary>Adds a stop where it adds the fewest miles.</summary>
    public static async Task<Outcome<TripStopAnswer>> Add(CommandContext w, long tripId, TripStopRequest request)
    {
        var validation = new Validation();
        var note = validation.Text(request.Note, "note", "The note", 200);
        validation.Between(request.Minutes, 0, (int)TripStop.Longest.TotalMinutes, "minutes", "The time there in minutes");
        if (request.Kind is null)
        {
            validation.Add("missing", "Choose what the stop is for.", "kind");
        }

        var starts = request.Kind == TripStopKind.Start ? request.StartsAt : null;
        validation.Time(starts, w.Now, "startsAt", "The start");

        if (await ItineraryStore.Trip(w.Db, tripId, locked: true) is not { } trip)
        {
            return Problem.Missing("This trip");
        }

        var open = await TripSheets.Open(w.Db, trip, w.Now);
        var trailer = await Trailer(w, trip, request, validation);
        var place = await PlaceRequests.Find(w, request.PlaceId, request.TownId);
        var stands = request.Kind == TripStopKind.Hook && trailer is not null ? await Stands(w, open, trip, trailer, place?.Point) : null;
        if (request is { Kind: TripStopKind.Hook, PlaceId: null, TownId: null })
        {
            place = await PlaceRequests.Find(w, stands?.PlaceId, null);
        }

        if (place is null)
        {
            validation.Add("missing", "Choose where: a place or a town.", "placeId");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var stop = new TripStop(
            0,
            request.Kind!.Value,
            place!.Point,
            place.Name,
            $"{place.Town} {place.Region}",
            WallClock.Zone(place.Zone) ?? w.Zone,
            request.Minutes is { } minutes ? Duration.FromMinutes(minutes) : null,
            null,
            null,
            note,
            starts,
            trailer?.Id,
            trailer?.Unit
        );
        var over = trip.EndedAt ?? trip.CanceledAt;
        if (TripStops.Refuses(trip.Number, over, open.Visits, stop, stands, w.Now, w.Zone) is { } refused)
        {
            return refused;
        }

        stop = stop with { Id = await TripStopStore.NewId(w.Db) };
        if (trailer is not null)
        {
            open = open with { Rig = open.Rig.With(trailer) };
            trip = trip with { Rig = open.Rig };
        }

        var visits = TripStops.Insert(Routing.Roads, open, stop);
        if (trailer is not null && Itinerary.Overloaded(visits, open.Rig, open.Loaded) is { Any: true } refusedThere)
        {
            return refusedThere;
        }

        var (now, expected) = (open.Expect(Routing.Roads, open.Visits), open.Expect(Routing.Roads, visits));
        if (SharedTrips.LateRefuses(visits, expected, OpenTrip.Late(now), request.AllowLate, null) is { } late)
        {
            return late;
        }

        var booked = await TripCommands.When(w, trip, visits);
        if (!booked.Ok)
        {
            return booked.Problems;
        }

        await TripStopStore.Add(w, tripId, stop, place.Id);
        await TripCommands.Write(w, trip, booked.Value, visits);
        var added = open.AddedMiles(Routing.Roads, visits);
        return await Done(
            w,
            EventKinds.TripStopAdded,
            trip,
            visits,
            stop,
            $"Trip {trip.Number}: stop added in {stop.Town}, {stop.Does}, {added:#,##0} mi more",
            added
        );
    }

    /// <summary>The trailer that a stop hooks or drops; null at other stops, and for a trip without a trailer.</summary>
    private static async Task<TripTrailer?> Trailer(CommandContext w, TripRow trip, TripStopRequest request, Validation validation)
    {
        if (request.Kind is not { } kind || !TripStops.OfTrailer(kind) || trip.Rig.First is not { } first)
        {
            return null;
        }

        if (request.TrailerId is not { } id)
        {
            return first;
        }

        if (trip.Trailers.FirstOrDefault(t => t.Id == id) is { } known)
        {
            return known;
        }

        var row = (await FleetStore.Trailers(w.Db)).FirstOrDefault(t => t.Id == id);
        var refused =
            kind == TripStopKind.Drop
                ? TripTrailers.NotOnTrip(trip.Number)
                : TripTrailers.HookRefuses(row?.OnTrip, row?.Active == true, await LocationStore.LoadedWith(w.Db, id));
        if (refused is not null)
        {
            validation.AddRange([refused]);
        }

        return row?.OnTrip;
    }

    /// <summary>Where a trailer is that a trip hooks: where the trip drops it before, or where it is before the trip; null when unknown.</summary>
    private static async Task<UnitStand?> Stands(CommandContext w, OpenTrip open, TripRow trip, TripTrailer trailer, GeoPoint? where)
    {
        var before =
            trailer.Id == trip.TrailerId
                ? (await LocationStore.TrailersBefore(w.Db, [trip.Id])).GetValueOrDefault(trip.Id)
                : await LocationStore.TrailerBefore(w.Db, trailer.Id, trip.Until, trip.Id);
        return TripTrailers.HookedAgainAt(open.Visits, open.Rig, trailer, where, before) is { } dropped
            ? new UnitStand(
                dropped.Stop.Point,
                dropped.Town,
                w.Now,
                StandSource.Trip,
                trip.Number,
                await TripStopStore.PlaceOf(w.Db, dropped.Stop.Id)
            )
            : before;
    }

    /// <summary>Sets when a trip starts. That stops become late is for the caller to say.</summary>
    /// <param name="at">Null for no set time: as early as its first pickup needs.</param>
    /// <returns>When it was set to start before.</returns>
    public static async Task<Outcome<Instant?>> StartAt(CommandContext w, TripRow trip, Instant? at)
    {
        var open = await TripSheets.Open(w.Db, trip, w.Now);
        var before = TripStops.StartsAt(open.Visits);
        if (TripStops.StartRefuses(trip.Number, open.Visits, at, w.Now) is { } past)
        {
            return past;
        }

        var had = open.Visits[0].Leg.Own is { Kind: TripStopKind.Start } start ? start : null;
        var visits = TripStops.StartingAt(open.Visits, at, had?.Id ?? await TripStopStore.NewId(w.Db));
        var booked = await TripCommands.When(w, trip, visits);
        if (!booked.Ok)
        {
            return booked.Problems;
        }

        if (had is null && at is not null)
        {
            await TripStopStore.Add(w, trip.Id, visits[0].Leg.Own!, await TripStopStore.PlaceOf(w.Db, open.Visits[0].Stop.Id));
        }
        else if (had is not null && visits.Count < open.Visits.Count)
        {
            await TripStopStore.Remove(w.Db, had.Id);
        }
        else if (had is not null)
        {
            await TripStopStore.Plan(w.Db, had.Id, at);
        }

        await TripCommands.Write(w, trip, booked.Value, visits);
        await LegCosts.Missing(w);
        TripCommands.Record(
            w,
            EventKinds.TripRescheduled,
            trip,
            visits,
            TripStops.Starts(trip.Number, at, visits[0].Zone),
            new { StartsAt = before }
        );
        return before;
    }

    /// <summary>Removes a stop that was not reached.</summary>
    public static async Task<Outcome<TripStopAnswer>> Remove(CommandContext w, long tripId, long id)
    {
        if (await Found(w, tripId, id) is not { } found)
        {
            return Problem.Missing("This stop");
        }

        var (trip, stop, open) = found;
        if (TripStops.RemoveRefuses(trip.Number, trip.EndedAt ?? trip.CanceledAt, stop) is { } refused)
        {
            return refused;
        }

        var visits = open.Visits.Where(v => v.Leg.Own?.Id != id).ToList();
        if (
            (stop.Kind == TripStopKind.Wash || TripStops.OfTrailer(stop.Kind))
            && Itinerary.Overloaded(visits, open.Rig, open.Loaded) is { Any: true } needed
        )
        {
            return needed;
        }

        await TripStopStore.Remove(w.Db, id);
        if (await TripCommands.Book(w, trip, visits) is { } busy)
        {
            return busy;
        }

        return await Done(
            w,
            EventKinds.TripStopRemoved,
            trip,
            visits,
            stop,
            $"Trip {trip.Number}: stop in {stop.Town} removed, {stop.Does}",
            open.AddedMiles(Routing.Roads, visits)
        );
    }

    /// <summary>Records that the truck arrived at a stop, or left it.</summary>
    public static async Task<Outcome<TripStopAnswer>> Record(CommandContext w, long tripId, long id, TripStopEventRequest request)
    {
        var validation = new Validation();
        validation.Time(request.At, w.Now, "at", "The time");
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var at = request.At ?? w.Now;
        return await Change(
            w,
            tripId,
            id,
            EventKinds.TripStopReached,
            stop => TripStops.Record(stop, request.Left, at, w.Now),
            (trip, stop) =>
                $"Trip {trip.Number} {(request.Left ? "left" : "arrived in")} {stop.Town} ({stop.Does}) at {at.Format(stop.Zone)}"
        );
    }

    /// <summary>Undoes the last thing recorded at a stop.</summary>
    public static Task<Outcome<TripStopAnswer>> Undo(CommandContext w, long tripId, long id) =>
        Change(w, tripId, id, EventKinds.TripStopUndone, TripStops.Undo, (trip, stop) =>
            $"Trip {trip.Number}: last update in {stop.Town} undone"
        );

    /// <summary>Changes what is recorded at a stop.</summary>
    private static async Task<Outcome<TripStopAnswer>> Change(
        CommandContext w,
        long tripId,
        long id,
        EventKind kind,
        Func<TripStop, Outcome<TripStop>> decide,
        Func<TripRow, TripStop, string> summary
    )
    {
        if (await Found(w, tripId, id) is not { } found)
        {
            return Problem.Missing("This stop");
        }

        var (trip, stop, open) = found;
        var changed = decide(stop);
        if (!changed.Ok)
        {
            return changed.Problems;
        }

        await TripStopStore.Record(w.Db, changed.Value);
        if (trip.ChangesTrailers)
        {
            await TripCommands.TrailersChanged(w, tripId);
        }

        return await Done(w, kind, trip, open.Visits, stop, summary(trip, stop), 0);
    }

    private static async Task<(TripRow Trip, TripStop Stop, OpenTrip Open)?> Found(CommandContext w, long tripId, long id) =>
        await ItineraryStore.Trip(w.Db, tripId, locked: true) is { } trip && await TripStopStore.Get(w.Db, tripId, id) is { } stop
            ? (trip, stop.AsStop(), await TripSheets.Open(w.Db, trip, w.Now))
            : null;

    private static async Task<Outcome<TripStopAnswer>> Done(
        CommandContext w,
        EventKind kind,
        TripRow trip,
        IReadOnlyList<Visit> visits,
        TripStop stop,
        string summary,
        int added
    )
    {
        await LegCosts.Missing(w);
        TripCommands.Record(
            w,
            kind,
            trip,
            visits,
            summary,
            new
            {
                stop.Id,
                stop.Kind,
                stop.Place,
                stop.Note,
                Arrived = stop.Arrived?.ToString(),
                Left = stop.Left?.ToString(),
            }
        );
        return new TripStopAnswer(trip.Id, trip.Number, stop.Id, added, summary);
    }
}
