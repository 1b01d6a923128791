using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Trips;

/// <param name="Event">The event.</param>
/// <param name="At">When; now when omitted.</param>
/// <param name="ReceivedBy">Who took the freight.</param>
/// <param name="Seal">The number of the seal that was applied; kept with the load's references.</param>
public sealed record StopEventRequest(StopEvent? Event, Instant? At, string? ReceivedBy, string? Seal = null);

public sealed record StopAnswer(long LoadId, string Number, long StopId, LoadState State, string Summary);

/// <summary>Stop events: arrivals, departures, deliveries.</summary>
public static class StopCommands
{
    /// <summary>Records an event at a stop of a locked load.</summary>
    public static async Task<Outcome<StopAnswer>> Record(CommandContext w, long loadId, long stopId, StopEventRequest request)
    {
        var validation = new Validation();
        var receivedBy = validation.Text(request.ReceivedBy, "receivedBy", "The receiver name", 80);
        var seal = validation.Text(request.Seal, "seal", "The seal number", 60);
        if (request.Event is null)
        {
            validation.Add("missing", "Choose what happened: arrived, left or delivered.", "event");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var refused = sheet.Load.Work().StopEventRefusal
            ?? Splits.StopRefuses(sheet.Load.Path(), Index(sheet, stopId), request.At ?? w.Now);
        if (refused is not null)
        {
            return refused;
        }

        if (
            request.Event == StopEvent.Left
            && sheet.Load.Stops[0].Id == stopId
            && sheet.Load.Work().PickupRefusal(sheet.Leg is { CarrierId: null } or { Dispatch: not null } or { Tender: null })
                is { } unknown
        )
        {
            return unknown;
        }

        var decided = StopWork.Decide(
            sheet.Load.Planned(),
            stopId,
            request.Event!.Value,
            request.At ?? w.Now,
            receivedBy,
            sheet.Load.Who is not null,
            w.Now
        );
        if (decided.Ok && seal is not null)
        {
            await LoadWrites.AddReference(w.Db, loadId, ReferenceKind.Seal, seal);
        }

        return await Write(w, sheet, stopId, decided, EventKinds.Of(request.Event.Value), stop =>
            $"{sheet.Load.Number} {Format(request.Event.Value, stop)} {stop.Town} at {(request.At ?? w.Now).Format(WallClock.Zone(stop.Zone) ?? w.Zone)}"
            + (seal is null ? "" : $", seal {seal}")
            + (receivedBy is null ? "" : $", signed {receivedBy}")
        );
    }

    /// <summary>Undoes the last event at a stop.</summary>
    public static async Task<Outcome<StopAnswer>> Undo(CommandContext w, long loadId, long stopId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (sheet.Load.Work().StopUndoRefusal(paid: sheet.Legs.Any(l => l.SettlementId is not null || l.BillId is not null)) is { } refused)
        {
            return refused;
        }

        if (Splits.StopRefuses(sheet.Load.Path(), Index(sheet, stopId), null) is { } since)
        {
            return since;
        }

        var decided = StopWork.Undo(sheet.Load.Planned(), stopId);
        return await Write(w, sheet, stopId, decided, EventKinds.StopUndone, stop =>
            $"{sheet.Load.Number}: last update at {stop.Town} undone"
        );
    }

    private static int Index(LoadSheet sheet, long stopId) => sheet.Load.Stops.ToList().FindIndex(s => s.Id == stopId);

    private static async Task<Outcome<StopAnswer>> Write(
        CommandContext w,
        LoadSheet sheet,
        long stopId,
        Outcome<StopChange> decided,
        EventKind kind,
        Func<StopRow, string> say
    )
    {
        if (!decided.Ok)
        {
            return decided.Problems;
        }

        var stop = sheet.Load.Stops.First(s => s.Id == stopId);
        await LoadWrites.WriteStop(w, stop, decided.Value, EnumCodec.Of(w.Actor.Via));
        if (sheet.Load.TripId is { } trip)
        {
            await TripCommands.Recorded(w, sheet, trip);
        }

        var state = await LoadWrites.Settle(w, sheet.Load.Id);
        var summary = say(stop);
        w.Record(
            kind,
            sheet.Load.Id,
            summary,
            loadId: sheet.Load.Id,
            driverId: sheet.Load.DriverId,
            before: new
            {
                stop.Id,
                ArrivedAt = stop.ArrivedAt?.ToString(),
                LeftAt = stop.LeftAt?.ToString(),
                DeliveredAt = stop.DeliveredAt?.ToString(),
                stop.ReceivedBy,
            }
        );
        return new StopAnswer(sheet.Load.Id, sheet.Load.Number, stopId, state, summary);
    }

    private static string Format(StopEvent word, StopRow stop) =>
        word switch
        {
            StopEvent.Arrived => "at",
            StopEvent.Delivered => "delivered in",
            _ => stop.Kind == StopKind.Pickup ? "left loaded from" : "left",
        };
}
