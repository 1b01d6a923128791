using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <summary>
/// A move on the plan. Legs and a driver: they become a trip of theirs. Legs and a trip: they are added to it. Legs alone: they are unassigned. A trip
/// and a driver: it goes to them. A trip and a time: it starts then. A trip alone: it is dissolved. A split:
/// the rest of its leg goes to the driver or the trip, or is open. A transfer: the legs that end and begin there are joined.
/// </summary>
/// <param name="TruckId">The driver's last truck when omitted.</param>
/// <param name="TrailerId">The trailer the freight is in, the driver's last one if it fits, or the trip's, when omitted.</param>
/// <param name="WasDriverId">The driver of the trip as the caller saw it, so that nobody's change is overwritten unseen.</param>
/// <param name="CabotageReason">Why the driver may haul between two points of the other country, when it is asked for.</param>
/// <param name="StartsAt">When the trip is to reach its first visit, or to leave its start.</param>
/// <param name="AnyTime">Whether it has no set start any more.</param>
/// <param name="Split">Which leg is split, where, and when the next truck takes the freight.</param>
public sealed record PlanMove(
    IReadOnlyList<long>? LegIds = null,
    long? TripId = null,
    long? DriverId = null,
    long? TruckId = null,
    long? TrailerId = null,
    long? WasDriverId = null,
    string? CabotageReason = null,
    Instant? StartsAt = null,
    bool? AnyTime = null,
    SplitRequest? Split = null,
    long? JoinTransferId = null
);

/// <summary>Moves that are made together or not at all: two trips that go to each other's driver are a swap.</summary>
/// <param name="AllowLate">Make them even if a stop becomes late.</param>
public sealed record PlanRequest(IReadOnlyList<PlanMove?>? Moves, bool AllowLate = false);

/// <param name="Undo">The moves that undo them, in order.</param>
public sealed record PlanAnswer(string Summary, IReadOnlyList<PlanMove> Undo);

/// <summary>What moves would do. Nothing is changed.</summary>
/// <param name="Drivers">The drivers whose plan changes, as it would be.</param>
/// <param name="EmptyMiles">Whole empty miles more; below zero when fewer.</param>
/// <param name="Margin">How much more the trips of these drivers leave.</param>
/// <param name="Late">Stops that become late, and transfers below zero.</param>
/// <param name="Warnings">What does not work afterwards, in sentences.</param>
public sealed record PlanPreview(
    string Summary,
    IReadOnlyList<PlanDriver> Drivers,
    int EmptyMiles,
    [property: SeenWith(Right.MarginsSee)] Money Margin,
    IReadOnlyList<long> Late,
    IReadOnlyList<string> Warnings
);

/// <summary>Moves on the plan: loads to drivers, trips to other drivers, and back.</summary>
public sealed class PlanCommands(CoverCommands cover)
{
    /// <summary>What moves did, in sentences, and the moves that undo them, in the order in which they were made.</summary>
    private sealed record Work(List<string> Done, List<PlanMove> Undo);

    /// <summary>Makes moves; refused when a stop becomes late and that is not allowed.</summary>
    public async Task<Outcome<PlanAnswer>> Make(CommandContext w, PlanRequest request)
    {
        if (request.AllowLate)
        {
            return await Do(w, request);
        }

        var made = await Measured(w, request);
        return made.Ok
            ? made.Value.Effect.LateRefuses(false) is { } late
                ? late
                : made.Value.Answer
            : made.Problems;
    }

    /// <summary>What moves would do: they are made, and the caller does not commit.</summary>
    public async Task<Outcome<PlanPreview>> Preview(CommandContext w, PlanRequest request)
    {
        var made = await Measured(w, request);
        if (!made.Ok)
        {
            return made.Problems;
        }

        var (answer, effect, drivers) = made.Value;
        return new PlanPreview(answer.Summary, drivers, effect.EmptyMiles, effect.Margin, [.. effect.Late], effect.Warnings);
    }

    /// <summary>Makes moves, and compares the plans of the drivers before and after.</summary>
    private async Task<Outcome<(PlanAnswer Answer, PlanEffect Effect, List<PlanDriver> Drivers)>> Measured(
        CommandContext w,
        PlanRequest request
    )
    {
        var concerned = await Concerned(w, (request.Moves ?? []).OfType<PlanMove>().ToList());
        var before = await Plans();
        var made = await Do(w, request);
        if (!made.Ok)
        {
            return made.Problems;
        }

        var after = await Plans();
        var effect = PlanEffect.Of(PlanTotals.Sum(before.Select(d => d.Totals)), PlanTotals.Sum(after.Select(d => d.Totals)));
        return (made.Value, effect, after.ConvertAll(d => d.Driver));

        Task<List<(PlanDriver Driver, PlanTotals Totals)>> Plans() => PlanViews.Ahead(w, concerned);
    }

    private async Task<Outcome<PlanAnswer>> Do(CommandContext w, PlanRequest request)
    {
        var moves = (request.Moves ?? []).OfType<PlanMove>().ToList();
        if (moves.Count is 0 or > PlanMoves.Most)
        {
            return new Problem("plan.moves", $"Name 1 to {PlanMoves.Most} moves.", "moves");
        }

        var work = new Work([], []);
        if (await Reassign(w, moves, work) is { } refused)
        {
            return refused;
        }

        for (var i = 0; i < moves.Count; i++)
        {
            var move = moves[i];
            var names = new PlanMoveNames(
                move.LegIds?.Count ?? 0,
                move.TripId is not null,
                move.DriverId is not null,
                Timed(move),
                move.Split is not null,
                move.JoinTransferId is not null
            );
            var problems = PlanMoves.KindOf(names) switch
            {
                PlanMoveKind.Assign => await Assign(w, move, work),
                PlanMoveKind.Reassign or PlanMoveKind.Reschedule => await Reschedule(w, move, work),
                PlanMoveKind.Add => await Add(w, move.TripId!.Value, move, work),
                PlanMoveKind.Unassign => await Unassign(w, move, work),
                PlanMoveKind.Dissolve => await Dissolve(w, move.TripId!.Value, work),
                PlanMoveKind.Split => await Split(w, move, move.Split!, work),
                PlanMoveKind.Join => await Join(w, move.JoinTransferId!.Value, work),
                _ => new Problem("plan.move", "Each move names loads or a trip, and where they go."),
            };
            if (problems is not null)
            {
                return In(i, problems);
            }
        }

        return new PlanAnswer(string.Join("; ", work.Done), work.Undo.AsEnumerable().Reverse().ToList());
    }

    /// <summary>Problems of one of the moves.</summary>
    private static Problems In(int move, Problems problems)
    {
        var validation = new Validation();
        validation.AddRange(problems, $"moves[{move}].");
        return validation.Problems;
    }

    /// <summary>The drivers whose plan may change: those named, and those of the trips that are named or whose legs are.</summary>
    private static async Task<HashSet<long>> Concerned(CommandContext w, List<PlanMove> moves)
    {
        var legs = await ItineraryStore.Find(
            w.Db,
            moves.SelectMany(m => m.LegIds ?? []).Concat(moves.Select(m => m.Split?.LegId).OfType<long>())
        );
        foreach (var transfer in moves.Select(m => m.JoinTransferId).OfType<long>())
        {
            legs.AddRange(await ItineraryStore.At(w.Db, transfer));
        }

        var drivers = moves.Select(m => m.DriverId).OfType<long>().ToHashSet();
        foreach (var trip in moves.Select(m => m.TripId).Concat(legs.Select(l => l.Trip)).OfType<long>().Distinct())
        {
            if (await ItineraryStore.Trip(w.Db, trip) is { } row)
            {
                drivers.UnionWith(row.Crew);
            }
        }

        return drivers;
    }

    /// <summary>Gives trips to other drivers, all at once, so that two can swap.</summary>
    private static async Task<Problems?> Reassign(CommandContext w, List<PlanMove> moves, Work work)
    {
        var trips = moves.Where(m => m is { TripId: not null, DriverId: not null, Split: null } && m.LegIds is not { Count: > 0 }).ToList();
        if (trips.Count == 0)
        {
            return null;
        }

        if (trips.DistinctBy(m => m.TripId).Count() < trips.Count)
        {
            return new Problem("plan.moves", "Move each trip once.", "moves");
        }

        var changed = new List<Reassigned>();
        var legs = await ItineraryStore.Legs(w.Db, trips.Select(m => m.TripId!.Value));
        await LoadWrites.Lock(w.Db, legs.Values.SelectMany(t => t.Legs).Select(l => l.LoadId));

        foreach (var move in trips.OrderBy(m => m.TripId))
        {
            var checkedMove = await Check(w, move, legs.GetValueOrDefault(move.TripId!.Value));
            if (!checkedMove.Ok)
            {
                return In(moves.IndexOf(move), checkedMove.Problems);
            }

            changed.Add(checkedMove.Value);
        }

        await ItineraryStore.Reassign(w.Db, changed.ConvertAll(c => (c.Trip.Id, c.Driver.Id, c.Truck.Id, (long?)c.Trailer.Id)));
        foreach (var (trip, driver, truck, trailer, loads) in changed)
        {
            if (await TripCommands.Rebook(w, trip.Id) is { } busy)
            {
                return In(moves.FindIndex(m => m.TripId == trip.Id), busy);
            }

            if (trailer.Id != trip.TrailerId && await LoadingCommands.Refuses(w, [trip.Id]) is { Any: true } overloaded)
            {
                return In(moves.FindIndex(m => m.TripId == trip.Id), overloaded);
            }

            foreach (var load in loads)
            {
                await LoadWrites.Settle(w, load);
                Record(w, load, trip, driver, truck, trailer);
            }

            work.Done.Add($"Trip {trip.Number} moved from {trip.Driver} to {driver.Name}");
            work.Undo.Add(new PlanMove(null, trip.Id, trip.DriverId, trip.TruckId, trip.TrailerId, driver.Id));
        }

        return null;
    }

    /// <summary>A trip and its crew to be.</summary>
    private sealed record Reassigned(TripRow Trip, DriverRow Driver, TruckRow Truck, TrailerRow Trailer, IReadOnlyList<long> Loads);

    /// <summary>Locks a trip and checks that it can go to a driver, with truck and trailer.</summary>
    /// <param name="legs">Null when there is no such trip.</param>
    private static async Task<Outcome<Reassigned>> Check(CommandContext w, PlanMove move, TripLegs? legs)
    {
        if (legs is null || await ItineraryStore.Trip(w.Db, move.TripId!.Value, locked: true) is not { } trip)
        {
            return Problem.Missing("This trip", "tripId");
        }

        if (PlanMoves.Refuses(Movable(trip), move.WasDriverId, w.Zone) is { } refused)
        {
            return refused;
        }

        var validation = new Validation();
        var sheets = new List<(LoadSheet Sheet, LegRow Leg)>();
        foreach (var leg in legs.Legs)
        {
            var sheet = (await LoadReads.Sheet(w.Db, leg.LoadId))!;
            sheets.Add((sheet, sheet.Legs.First(l => l.Id == leg.LegId)));
        }

        var hooks = legs.Stops.Any(s => TripStops.OfTrailer(s.Kind));
        var crew = Chosen(move) ?? await Usual(w, hooks ? move with { TrailerId = move.TrailerId ?? trip.TrailerId } : move, sheets, trip);
        if (TripStops.TrailerChangeRefuses(trip.Number, legs.Stops, crew.TrailerId != trip.TrailerId) is { } keeps)
        {
            return keeps;
        }

        (DriverRow? Driver, TruckRow? Truck, TrailerRow? Trailer, string? Cabotage) ours = default;
        foreach (var ((sheet, leg), other) in sheets.Zip(legs.Legs, (s, l) => (s, l.TrailerId)).OrderBy(l => l.TrailerId is null))
        {
            var legCrew = crew with { TrailerId = other ?? crew.TrailerId };
            ours = await CoverCommands.CheckOurs(w, sheet, leg, legCrew, move.CabotageReason, validation);
        }

        if (ours.Driver is { } to && Team.MoveRefuses(trip.Crewed(), to.Id, to.Name) is { } same)
        {
            validation.AddRange([same]);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        // When everything is in trailers hooked on the way, the last one checked is one of these.
        var trailer =
            ours.Trailer!.Id == crew.TrailerId ? ours.Trailer : (await FleetStore.Trailers(w.Db)).First(t => t.Id == crew.TrailerId);
        return new Reassigned(trip, ours.Driver!, ours.Truck!, trailer, legs.Legs.Select(l => l.LoadId).ToList());
    }

    /// <summary>Driver, truck and trailer when all are chosen.</summary>
    private static LegCrew? Chosen(PlanMove move) =>
        move is { TruckId: not null, TrailerId: not null } ? new LegCrew(move.DriverId, move.TruckId, move.TrailerId) : null;

    /// <summary>For an open leg: as chosen, or those the driver has had last.</summary>
    private static async Task<LegCrew> Usual(CommandContext w, PlanMove move, long loadId, long legId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        // What may not be covered is refused when it is covered.
        return sheet.Meant(legId) is { } leg ? await Usual(w, move, [(sheet, leg)], null) : new LegCrew(move.DriverId, null, null);
    }

    /// <summary>Driver, truck and trailer as chosen, or those the driver has had last.</summary>
    private static async Task<LegCrew> Usual(CommandContext w, PlanMove move, List<(LoadSheet Sheet, LegRow Leg)> legs, TripRow? trip)
    {
        var last = (await FleetStore.Choices(w.Db, w.Now, w.Now + PlanEndpoints.Longest, [move.DriverId!.Value])).FirstOrDefault();
        var usual = (await FleetStore.Trailers(w.Db)).FirstOrDefault(t => t.Id == last?.LastTrailerId);
        var matches = await FleetStore.Matches(w.Db);
        var (first, leg) = legs[0];
        var span = trip?.Booked ?? TripPlan.Build(Routing.Roads, first.Load.Path().Ahead(Routing.Roads, leg.Seq - 1, w.Now)).Commitment;
        var held = (await FleetStore.HeldUnits(w.Db, span)).Any(h => h.TrailerId is not null && h.TrailerId == last?.LastTrailerId);
        return new LegCrew(
            move.DriverId,
            PlanMoves.Unit(move.TruckId, null, last?.LastTruckId, true, trip?.TruckId),
            PlanMoves.Unit(
                move.TrailerId,
                legs.Select(l => l.Sheet.RequiredTrailer(l.Leg)?.Id).FirstOrDefault(t => t is not null),
                last?.LastTrailerId,
                !held
                    && usual is { } u
                    && legs.All(l =>
                        matches.Fits(u.Equipment, l.Sheet.Load.Equipment)
                        && TrailerFeatures.Lacks(u.Features, l.Sheet.Load.Features) is null
                    ),
                trip?.TrailerId
            )
        );
    }

    private static void Record(CommandContext w, long loadId, TripRow trip, DriverRow driver, TruckRow truck, TrailerRow trailer)
    {
        // Both drivers hear of it.
        w.Record(
            EventKinds.LoadUnassigned,
            loadId,
            $"Trip {trip.Number} moved from {trip.Driver} to {driver.Name}",
            loadId: loadId,
            driverId: trip.DriverId,
            before: new
            {
                trip.DriverId,
                trip.TruckId,
                trip.TrailerId,
            }
        );
        w.Record(
            EventKinds.LoadCovered,
            loadId,
            $"Trip {trip.Number} assigned to {driver.Name}, truck {truck.Unit}, trailer {trailer.Unit}",
            loadId: loadId,
            driverId: driver.Id
        );
    }

    /// <summary>Open legs become a trip of a driver: the first by pickup, then each where it adds the fewest miles, then in a better order if there
    /// is one.</summary>
    private async Task<Problems?> Assign(CommandContext w, PlanMove move, Work work)
    {
        var legs = await Locked(w, move);
        if (legs.Count == 0)
        {
            return Problem.Missing("This load", "legIds");
        }

        var crew = Chosen(move) ?? await Usual(w, move, legs[0].Load, legs[0].Leg);
        var covered = await cover.ByDriver(
            w,
            legs[0].Load,
            legs[0].Leg,
            new CoverByDriverRequest(crew.DriverId, crew.TruckId, crew.TrailerId, false, move.CabotageReason)
        );
        if (!covered.Ok)
        {
            return covered.Problems;
        }

        var trip = (await ItineraryStore.Find(w.Db, [legs[0].Leg]))[0].Trip!.Value;
        work.Undo.Add(new PlanMove(null, trip));
        var numbers = new List<string> { covered.Value.Number };
        foreach (var (legId, load, _) in legs.Skip(1))
        {
            var added = await TripCommands.Add(w, load, legId, new CoverByTripRequest(trip, true, move.CabotageReason));
            if (!added.Ok)
            {
                return added.Problems;
            }

            numbers.Add(added.Value.Number);
        }

        if (legs.Count > 1 && await Order(w, trip) is { } refused)
        {
            return refused;
        }

        work.Done.Add($"{string.Join(", ", numbers)} assigned to {covered.Value.Who}, trip {covered.Value.Trip}");
        return null;
    }

    /// <summary>Puts a trip's visits in a better order, if there is one.</summary>
    private static async Task<Problems?> Order(CommandContext w, long tripId)
    {
        var open = await TripSheets.Open(w.Db, (await ItineraryStore.Trip(w.Db, tripId))!, w.Now);
        var better = Itinerary.Order(open.Ordered(Routing.Roads).Visits);
        if (better.SequenceEqual(Itinerary.Order(open.Visits)))
        {
            return null;
        }

        var ordered = await TripCommands.Order(w, tripId, new TripOrderRequest(better, null, true));
        return ordered.Ok ? null : ordered.Problems;
    }

    private static async Task<Problems?> Add(CommandContext w, long tripId, PlanMove move, Work work)
    {
        foreach (var (legId, load, _) in await Locked(w, move))
        {
            var added = await TripCommands.Add(w, load, legId, new CoverByTripRequest(tripId, true, move.CabotageReason));
            if (!added.Ok)
            {
                return added.Problems;
            }

            work.Done.Add($"{added.Value.Number} added to trip {added.Value.Trip} of {added.Value.Who}");
        }

        work.Undo.Add(new PlanMove(move.LegIds));
        return null;
    }

    private async Task<Problems?> Unassign(CommandContext w, PlanMove move, Work work)
    {
        var legs = await Locked(w, move);
        foreach (var (legId, load, _) in legs)
        {
            var freed = await cover.Undo(w, load, legId);
            if (!freed.Ok)
            {
                return freed.Problems;
            }

            work.Done.Add($"{freed.Value.Number} unassigned from {freed.Value.Who}");
        }

        foreach (var left in legs.Where(l => l.Trip is not null).GroupBy(l => l.Trip!.Value, l => l.Leg))
        {
            work.Undo.Add(await BackTo(w, left.Key) with { LegIds = [.. left] });
        }

        return null;
    }

    private static bool Timed(PlanMove move) => move.StartsAt is not null || move.AnyTime == true;

    /// <summary>Sets when a trip starts, if the move says so.</summary>
    private static async Task<Problems?> Reschedule(CommandContext w, PlanMove move, Work work)
    {
        if (!Timed(move))
        {
            return null;
        }

        var validation = new Validation();
        validation.Time(move.StartsAt, w.Now, "startsAt", "The start");
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var legs = (await ItineraryStore.Legs(w.Db, [move.TripId!.Value])).GetValueOrDefault(move.TripId.Value);
        await LoadWrites.Lock(w.Db, legs?.Legs.Select(l => l.LoadId) ?? []);
        if (legs is null || await ItineraryStore.Trip(w.Db, move.TripId.Value, locked: true) is not { } trip)
        {
            return Problem.Missing("This trip", "tripId");
        }

        if (PlanMoves.Refuses(Movable(trip), move.DriverId is null ? move.WasDriverId : null, w.Zone) is { } refused)
        {
            return refused;
        }

        var before = await TripStopCommands.StartAt(w, trip, move.StartsAt);
        if (!before.Ok)
        {
            return before.Problems;
        }

        work.Done.Add(TripStops.Starts(trip.Number, move.StartsAt, w.Zone));
        work.Undo.Add(new PlanMove(null, trip.Id, StartsAt: before.Value, AnyTime: before.Value is null ? true : null));
        return null;
    }

    /// <summary>Splits a leg; the rest goes to a driver or a trip, if the move names one.</summary>
    private async Task<Problems?> Split(CommandContext w, PlanMove move, SplitRequest request, Work work)
    {
        if (request.LegId is not { } legId || (await ItineraryStore.Find(w.Db, [legId])).FirstOrDefault() is not { Load: > 0 } leg)
        {
            return Problem.Missing("This leg", "split.legId");
        }

        await LoadWrites.Lock(w.Db, leg.Load);
        var split = request.SwapWithLoadId is null
            ? await SplitCommands.Split(w, leg.Load, request)
            : await SplitCommands.Relay(w, cover, leg.Load, request);
        if (!split.Ok)
        {
            var validation = new Validation();
            validation.AddRange(split.Problems, "split.");
            return validation.Problems;
        }

        work.Done.Add(split.Value.Summary);
        work.Undo.Add(new PlanMove(JoinTransferId: split.Value.TransferId));
        var rest = new List<long> { (await ItineraryStore.At(w.Db, split.Value.TransferId))[1].Leg };
        if (split.Value.OtherTransferId is { } other)
        {
            // Both drivers are free of their second legs before they get back the first.
            work.Undo.Add(new PlanMove(JoinTransferId: other));
            work.Undo.Add(new PlanMove([.. rest, (await ItineraryStore.At(w.Db, other))[1].Leg]));
            return null;
        }

        if (move.DriverId is null && move.TripId is null)
        {
            return null;
        }

        // Joining unassigns it again.
        var next = new Work(work.Done, []);
        return move.TripId is { } trip
            ? await Add(w, trip, move with { LegIds = rest }, next)
            : await Assign(w, move with { LegIds = rest }, next);
    }

    /// <summary>Joins the legs at a transfer; who has the second one is unassigned.</summary>
    private async Task<Problems?> Join(CommandContext w, long transferId, Work work)
    {
        var legs = await ItineraryStore.At(w.Db, transferId);
        if (legs.Count < 2)
        {
            return Problem.Missing("This transfer", "joinTransferId");
        }

        await LoadWrites.Lock(w.Db, legs[0].Load);
        var sheet = (await LoadReads.Sheet(w.Db, legs[0].Load))!;
        var (before, next) = (sheet.Legs.First(l => l.Id == legs[0].Leg), sheet.Legs.First(l => l.Id == legs[1].Leg));
        var transfer = sheet.Load.Transfers.First(t => t.Id == transferId);
        if (next.TripId is not null)
        {
            var freed = await cover.Undo(w, sheet.Load.Id, next.Id);
            if (!freed.Ok)
            {
                return freed.Problems;
            }

            work.Done.Add($"{freed.Value.Number} unassigned from {freed.Value.Who}");
        }

        var joined = await SplitCommands.Join(w, sheet.Load.Id, transferId);
        if (!joined.Ok)
        {
            return joined.Problems;
        }

        work.Done.Add(joined.Value.Summary);
        work.Undo.Add(
            (next.TripId is { } id ? await BackTo(w, id) : new PlanMove()) with
            {
                Split = new SplitRequest(
                    transfer.PlaceId,
                    null,
                    transfer.PlannedAt?.InZone(WallClock.Zone(transfer.Zone) ?? w.Zone).LocalDateTime,
                    transfer.Method,
                    before.Id,
                    transfer.AfterStops
                ),
            }
        );
        return null;
    }

    /// <summary>Where legs go that left a trip, when that is undone. A trip that has no load left is canceled: undoing makes a new one.</summary>
    private static async Task<PlanMove> BackTo(CommandContext w, long tripId)
    {
        var trip = (await ItineraryStore.Trip(w.Db, tripId))!;
        return trip.CanceledAt is null
            ? new PlanMove(null, trip.Id)
            : new PlanMove(null, null, trip.DriverId, trip.TruckId, trip.TrailerId);
    }

    private static MovableTrip Movable(TripRow trip) =>
        new(trip.Number, trip.Driver, trip.DriverId, trip.StartedAt, trip.EndedAt ?? trip.CanceledAt);

    private async Task<Problems?> Dissolve(CommandContext w, long tripId, Work work)
    {
        var (trip, legs) = (await ItineraryStore.Trip(w.Db, tripId), (await ItineraryStore.Legs(w.Db, [tripId])).GetValueOrDefault(tripId));
        var dissolved = await TripCommands.Dissolve(w, cover, tripId);
        if (!dissolved.Ok)
        {
            return dissolved.Problems;
        }

        work.Done.Add(dissolved.Value.Summary);
        work.Undo.Add(new PlanMove(legs!.Legs.Select(l => l.LegId).ToList(), null, trip!.DriverId, trip.TruckId, trip.TrailerId));
        return null;
    }

    /// <summary>A move's legs, earliest first, with their loads locked.</summary>
    private static async Task<List<(long Leg, long Load, long? Trip)>> Locked(CommandContext w, PlanMove move)
    {
        var legs = await ItineraryStore.Find(w.Db, move.LegIds ?? []);
        await LoadWrites.Lock(w.Db, legs.Select(l => l.Load));

        return legs;
    }
}
