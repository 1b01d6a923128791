using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <param name="TripId">The trip that carries the load from now on, beside the loads it has.</param>
/// <param name="AllowLate">Add it even if a stop becomes late.</param>
/// <param name="CabotageReason">Why the driver may haul between two points of the other country, when it is asked for.</param>
/// <param name="TrailerId">Which of the trip's trailers it goes in; where it fits best when omitted.</param>
public sealed record CoverByTripRequest(long? TripId, bool AllowLate = false, string? CabotageReason = null, long? TrailerId = null);

/// <param name="TrailerId">Which of the trip's trailers the load goes in.</param>
public sealed record LegTrailerRequest(long? TrailerId);

/// <param name="Order">The trip's visits in their new order: ids of stops, and of transfers below zero.</param>
/// <param name="Was">Their order as the caller saw it, so that nobody's change is overwritten unseen.</param>
/// <param name="AllowLate">Change it even if a stop becomes late.</param>
public sealed record TripOrderRequest(IReadOnlyList<long>? Order, IReadOnlyList<long>? Was, bool AllowLate = false);

/// <param name="Name">What the trip is called beside its number; null for nothing.</param>
/// <param name="Number">Its number; as it is when omitted.</param>
public sealed record TripNameRequest(string? Name, string? Number = null);

/// <param name="Visits">Its visits in order.</param>
public sealed record TripAnswer(long TripId, string Number, IReadOnlyList<long> Visits, string Summary);

/// <summary>Trips that carry several loads.</summary>
public static class TripCommands
{
    /// <summary>Puts a leg of a locked load on a trip, where it adds the fewest miles.</summary>
    public static async Task<Outcome<CoverAnswer>> Add(CommandContext w, long loadId, long? legId, CoverByTripRequest request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (sheet.Meant(legId) is not { } leg)
        {
            return CoverCommands.NoLeg(sheet, legId);
        }

        if (request.TripId is not { } tripId || await ItineraryStore.Trip(w.Db, tripId, locked: true) is not { } trip)
        {
            return new Problem("missing", "Choose a trip.", "tripId");
        }

        var validation = new Validation();
        validation.AddRange(sheet.Work(leg).CoverRefusals);
        var legs = (await ItineraryStore.Legs(w.Db, [tripId])).GetValueOrDefault(tripId);
        if (
            SharedTrips.Refuses(
                trip.Number,
                legs?.Legs.Count ?? 0,
                trip.EndedAt ?? trip.CanceledAt,
                legs?.Legs.Any(l => l.LoadId == loadId) == true,
                sheet.Load.Number
            ) is
            { } refused
        )
        {
            validation.AddRange([refused]);
        }

        var (rig, trailers) = await Trailers(w, trip, sheet, leg, request.TrailerId, validation);
        trip = trip with { Rig = rig };
        var crew = new LegCrew(trip.DriverId, trip.TruckId, (trailers.Count > 0 ? trailers[0] : null) ?? trip.TrailerId);
        var (driver, _, _, cabotage) = await CoverCommands.CheckOurs(w, sheet, leg, crew, request.CabotageReason, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var cargo = await ItineraryStore.Cargo(w.Db, [.. legs!.Legs.Select(l => l.LoadId), loadId]);
        var open = await TripSheets.Open(w.Db, trip, cargo, w.Now);
        var added = open.Insert(Routing.Roads, sheet.Load.OnTrip(Routing.Roads, leg.Id, leg.Seq, cargo), trailers);
        if (added.Refused.Any)
        {
            return added.Refused;
        }

        if (SharedTrips.LateRefuses(added.Visits, added.Expected, added.LateBefore, request.AllowLate, added.NotBeside) is { } late)
        {
            return late;
        }

        await CoverStore.AssignTrip(w.Db, leg.Id, tripId);
        await CoverStore.NotAccepted(w.Db, tripId);
        if (await Book(w, trip, added.Visits) is { } busy)
        {
            return busy;
        }

        await CoverStore.SettleTrip(w.Db, tripId);
        var state = await LoadWrites.Settle(w, loadId);
        var with = string.Join(" and ", Itinerary.Carried(open.Visits).Select(l => l.Number));
        w.Record(
            EventKinds.LoadCovered,
            loadId,
            $"{sheet.Load.Number}{sheet.Load.Part(leg.Seq)} assigned to {driver!.Name} on trip {trip.Number} with {with}, {added.AddedMiles:#,##0} mi more{CoverCommands.Allowed(cabotage)}",
            loadId: loadId,
            driverId: trip.DriverId
        );
        return new CoverAnswer(loadId, leg.Id, sheet.Load.Number, state, driver.Name, trip.Number, null);
    }

    /// <summary>A trip's trailers with the one that a leg's freight is in already, and which of them it may go in.</summary>
    private static async Task<(Rig Rig, IReadOnlyList<long?> Trailers)> Trailers(
        CommandContext w,
        TripRow trip,
        LoadSheet sheet,
        LegRow leg,
        long? chosen,
        Validation validation
    )
    {
        if (chosen is { } one && trip.Trailers.All(t => t.Id != one))
        {
            validation.AddRange([TripTrailers.NotOnTrip(trip.Number)]);
            return (trip.Rig, [null]);
        }

        if (
            sheet.RequiredTrailer(leg) is { } required
            && (await FleetStore.Trailers(w.Db)).FirstOrDefault(t => t.Id == required.Id) is { } loaded
        )
        {
            return (trip.Rig.With(loaded.OnTrip), [TripTrailers.Named(trip.Rig, required.Id)]);
        }

        var fits = TripTrailers.For(trip.Rig, sheet.Load.Equipment, sheet.Load.Features, await FleetStore.Matches(w.Db));
        return (
            trip.Rig,
            chosen is { } id ? [TripTrailers.Named(trip.Rig, id)]
            : fits.Count == 0 ? [null]
            : fits
        );
    }

    /// <summary>Puts a leg's freight in another of its trip's trailers.</summary>
    public static async Task<Outcome<TripAnswer>> InTrailer(CommandContext w, long tripId, long legId, LegTrailerRequest request)
    {
        if ((await ItineraryStore.Find(w.Db, [legId])) is not [{ Trip: { } on, Load: var loadId }] || on != tripId)
        {
            return Problem.Missing("This load");
        }

        await LoadWrites.Lock(w.Db, loadId);
        if (await ItineraryStore.Trip(w.Db, tripId, locked: true) is not { } trip)
        {
            return Problem.Missing("This trip");
        }

        var open = await TripSheets.Open(w.Db, trip, w.Now);
        if (Itinerary.Carried(open.Visits).FirstOrDefault(l => l.LegId == legId) is not { } leg)
        {
            return Problem.Missing("This load");
        }

        var trailer = trip.Trailers.FirstOrDefault(t => t.Id == request.TrailerId);
        var sheet = (await LoadReads.Sheet(w.Db, leg.LoadId))!;
        if (TripTrailers.ChangeRefuses(trip.Number, leg, trailer, open.Visits.Any(v => v.Leg == leg && v.Reached)) is { } refused)
        {
            return refused;
        }

        var validation = new Validation();
        var crew = new LegCrew(trip.DriverId, trip.TruckId, trailer!.Id);
        await CoverCommands.CheckCrew(w, sheet, crew, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var visits = open
            .Visits.Select(v => v.Leg == leg ? v with { Leg = leg with { TrailerId = TripTrailers.Named(trip.Rig, trailer.Id) } } : v)
            .ToList();
        var overloaded = Itinerary.Overloaded(visits, open.Rig, open.Loaded);
        if (overloaded.Any)
        {
            return overloaded;
        }

        if (await Book(w, trip, visits) is { } busy)
        {
            return busy;
        }

        await LoadWrites.Settle(w, leg.LoadId);
        var summary = $"Load {leg.Number} moved to trailer {trailer.Unit} on trip {trip.Number}";
        w.Record(
            EventKinds.TripOrdered,
            leg.LoadId,
            summary,
            loadId: leg.LoadId,
            driverId: trip.DriverId,
            before: new { Trailer = open.Rig.Of(leg)?.Unit }
        );
        return new TripAnswer(tripId, trip.Number, Itinerary.Order(visits), summary);
    }

    /// <summary>Changes the order in which a trip makes its visits.</summary>
    public static async Task<Outcome<TripAnswer>> Order(CommandContext w, long tripId, TripOrderRequest request)
    {
        if (await ItineraryStore.Trip(w.Db, tripId, locked: true) is not { } trip)
        {
            return Problem.Missing("This trip");
        }

        var open = await TripSheets.Open(w.Db, trip, w.Now);
        var before = Itinerary.Order(open.Visits);
        if (request.Was is not null && !request.Was.SequenceEqual(before))
        {
            return new Problem(
                "order.changed",
                $"Another user has just changed trip {trip.Number}: check the new order and try again.",
                "was"
            );
        }

        if (Itinerary.OrderRefuses(open.Visits, request.Order ?? []) is { } refused)
        {
            return refused;
        }

        var visits = Itinerary.InOrder(open.Visits, request.Order!);
        var overloaded = Itinerary.Overloaded(visits, open.Rig, open.Loaded);
        if (overloaded.Any)
        {
            return overloaded;
        }

        var (now, expected) = (open.Expect(Routing.Roads, open.Visits), open.Expect(Routing.Roads, visits));
        if (SharedTrips.LateRefuses(visits, expected, OpenTrip.Late(now), request.AllowLate, null) is { } late)
        {
            return late;
        }

        if (await Book(w, trip, visits) is { } busy)
        {
            return busy;
        }

        await LegCosts.Missing(w);
        var summary =
            $"Trip {trip.Number} goes {string.Join(", ", visits.Select(v => $"{v.Town} ({(v.Leg.Own is { } own ? own.Does : v.Leg.Number)})"))}";
        Record(w, EventKinds.TripOrdered, trip, visits, summary, new { Order = before });

        return new TripAnswer(tripId, trip.Number, Itinerary.Order(visits), summary);
    }

    /// <summary>Names a trip.</summary>
    public static async Task<Outcome<TripRow>> Name(CommandContext w, long tripId, TripNameRequest request)
    {
        var validation = new Validation();
        var name = validation.Text(request.Name, "name", "The name", 60);
        var number = validation.Number(request.Number, "number", "The trip number");
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        if (await ItineraryStore.Trip(w.Db, tripId, locked: true) is not { } trip)
        {
            return Problem.Missing("This trip");
        }

        number ??= trip.Number;
        if (number != trip.Number && await CoverStore.TripNumberTaken(w.Db, number, tripId))
        {
            return new Problem("number.taken", $"There is already a trip {number}: choose another number.", "number");
        }

        await ItineraryStore.Name(w.Db, tripId, number, name);
        var summary =
            number != trip.Number ? $"Trip {trip.Number} renumbered to {number}"
            : name is null ? $"Trip {trip.Number} has no name any more"
            : $"Trip {trip.Number} named {name}";
        await Record(w, EventKinds.TripNamed, trip, summary, new { trip.Number, trip.Name });
        return trip with { Number = number, Name = name };
    }

    /// <summary>Unassigns all loads of a trip, which stay open; refused once its truck was at a stop.</summary>
    public static async Task<Outcome<TripAnswer>> Dissolve(CommandContext w, CoverCommands cover, long tripId)
    {
        if (
            await ItineraryStore.Trip(w.Db, tripId) is not { } trip
            || (await ItineraryStore.Legs(w.Db, [tripId])).GetValueOrDefault(tripId) is not { } legs
        )
        {
            return Problem.Missing("This trip");
        }

        foreach (var leg in legs.Legs.OrderBy(l => l.LoadId))
        {
            await LoadWrites.Lock(w.Db, leg.LoadId);
            var freed = await cover.Undo(w, leg.LoadId, leg.LegId);
            if (!freed.Ok)
            {
                return freed.Problems;
            }
        }

        return new TripAnswer(tripId, trip.Number, [], $"Trip {trip.Number} dissolved: its loads are open");
    }

    /// <summary>Books a trip's driver, truck and trailer for what its loads need now, after one of them changed or left it; the refusal when
    /// they are booked elsewhere then.</summary>
    internal static async Task<Problems?> Rebook(CommandContext w, long? tripId)
    {
        if (
            tripId is not { } id
            || await ItineraryStore.Trip(w.Db, id, locked: true) is not { CanceledAt: null } trip
            || await TripSheets.Visits(w.Db, trip) is not { Count: > 0 } visits
        )
        {
            return null;
        }

        return await Book(w, trip, visits);
    }

    /// <summary>Books what a trip still does after a load of it changed trucks, or came back; the refusal when it cannot be. A trip that carried
    /// nothing else makes no stop of its own any more that is still ahead.</summary>
    internal static async Task<Problems?> HandedOver(CommandContext w, LegRow leg)
    {
        if (leg.RidesWith.Count > 0)
        {
            return await Rebook(w, leg.TripId);
        }

        if (
            leg.TripId is { } id
            && (await ItineraryStore.Legs(w.Db, [id])).GetValueOrDefault(id)?.Stops.Count > 0
            && await ItineraryStore.Trip(w.Db, id, locked: true) is { } trip
            && await TripSheets.Visits(w.Db, trip) is { } visits
        )
        {
            await Store(w, trip, trip.Booked, visits.Where(v => v.Leg.Carries || v.Reached).ToList());
        }

        return null;
    }

    /// <summary>Does something with a trip for the driver who asks; refused when it is not theirs.</summary>
    internal static async Task<Outcome<T>> Mine<T>(CommandContext w, long tripId, Func<long, Task<Outcome<T>>> act) =>
        w.Actor.DriverId is { } me && await ItineraryStore.Trip(w.Db, tripId) is { } trip && trip.Crew.Contains(me)
            ? await act(me)
            : Problem.Missing("This trip");

    /// <summary>Records an event of a trip with each load that is stored on it.</summary>
    internal static async Task Record(CommandContext w, EventKind kind, TripRow trip, string summary, object? before)
    {
        foreach (var leg in (await ItineraryStore.Legs(w.Db, [trip.Id])).GetValueOrDefault(trip.Id)?.Legs ?? [])
        {
            w.Record(kind, leg.LoadId, summary, loadId: leg.LoadId, driverId: trip.DriverId, before: before);
        }
    }

    /// <summary>Records an event of a trip with each of its loads.</summary>
    internal static void Record(
        CommandContext w,
        EventKind kind,
        TripRow trip,
        IReadOnlyList<Visit> visits,
        string summary,
        object? before = null
    )
    {
        foreach (var leg in Itinerary.Carried(visits))
        {
            w.Record(kind, leg.LoadId, summary, loadId: leg.LoadId, driverId: trip.DriverId, before: before);
        }
    }

    /// <summary>Books a trip's driver, truck and trailer for visits, and stores their order; the refusal when they are booked elsewhere then.</summary>
    internal static async Task<Problems?> Book(CommandContext w, TripRow trip, IReadOnlyList<Visit> visits)
    {
        var span = await When(w, trip, visits);
        if (!span.Ok)
        {
            return span.Problems;
        }

        await Write(w, trip, span.Value, visits);
        return null;
    }

    /// <summary>When a trip's driver, truck and trailer would be booked for visits, or why they cannot be.</summary>
    internal static async Task<Outcome<Span>> When(CommandContext w, TripRow trip, IReadOnlyList<Visit> visits)
    {
        var points = Itinerary.Ahead(Routing.Roads, visits, w.Now);
        var changes = TripTrailers.Change(visits, trip.Rig);
        var outlook = await FleetStore.Commitments(
            w.Db,
            trip.Crew,
            trip.TruckId,
            changes ? null : trip.TrailerId,
            Availability.Latest(Routing.Roads, points),
            trip.Id
        );
        var span = Availability.Rebook(Routing.Roads, points, visits.Any(v => v.Reached) ? trip.Booked : null, outlook, w.Now, w.Zone);
        if (!span.Ok || !changes)
        {
            return span;
        }

        // Each trailer is booked for its own part.
        var problems = new List<Problem>();
        foreach (var part in TripTrailers.Parts(Routing.Roads, visits, trip.Rig, span.Value, w.Now).Where(p => p.Dropped is null))
        {
            var wanted = part.Of(span.Value);
            var held = await FleetStore.Commitments(w.Db, [], 0, part.Trailer.Id, wanted, trip.Id);
            problems.AddRange(Availability.Check(held, wanted, w.Zone));
        }

        return problems.Count > 0 ? new Problems(problems) : span;
    }

    internal static async Task Write(CommandContext w, TripRow trip, Span booked, IReadOnlyList<Visit> visits)
    {
        await CoverStore.Commitment(w.Db, trip.Id, booked);
        await Store(w, trip, booked, visits);
    }

    /// <summary>Why a trip's trailers are not where its visits need them, after what is visited changed; null when they are.</summary>
    internal static async Task<Problem?> TrailersRefuse(CommandContext w, long? tripId) =>
        tripId is { } id && await ItineraryStore.Trip(w.Db, id) is { } trip && await TripSheets.Visits(w.Db, trip) is { } visits
            ? TripTrailers.Refuses(visits, trip.Rig)
            : null;

    /// <summary>Brings a trip up to date after something was recorded on a load of it: whether it is under way or over, where freight was loaded, when its
    /// trailers were hooked and dropped.</summary>
    internal static async Task Recorded(CommandContext w, LoadSheet sheet, long tripId)
    {
        await CoverStore.SettleTrip(w.Db, tripId);
        if (sheet.Freight.Any(f => f.IsPlaced))
        {
            await LoadingCommands.Settle(w, tripId);
        }

        if (sheet.Legs.Any(l => l.TripId == tripId && l.ChangesTrailers))
        {
            await TrailersChanged(w, tripId);
        }
    }

    /// <summary>Stores when a trip's trailers are hooked and dropped after something was recorded on it.</summary>
    internal static async Task TrailersChanged(CommandContext w, long tripId)
    {
        if (await ItineraryStore.Trip(w.Db, tripId) is { } trip && await TripSheets.Visits(w.Db, trip) is { Count: > 0 } visits)
        {
            await StoreTrailers(w, trip, trip.Booked, visits);
        }
    }

    private static Task StoreTrailers(CommandContext w, TripRow trip, Span booked, IReadOnlyList<Visit> visits) =>
        ItineraryStore.SaveTrailers(w.Db, trip.Id, visits, TripTrailers.Parts(Routing.Roads, visits, trip.Rig, booked, w.Now));

    private static async Task Store(CommandContext w, TripRow trip, Span booked, IReadOnlyList<Visit> visits)
    {
        if (trip.ChangesTrailers || TripTrailers.Change(visits, trip.Rig))
        {
            await StoreTrailers(w, trip, booked, visits);
        }

        await ItineraryStore.Save(w.Db, trip.Id, visits);
    }
}
