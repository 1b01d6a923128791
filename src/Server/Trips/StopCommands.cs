using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Trips;

/// <param name="Word">What happened.</param>
/// <param name="At">When; now when left out.</param>
/// <param name="ReceivedBy">Who took the freight.</param>
/// <param name="Seal">The number of the seal that was put on; kept with the load's references.</param>
public sealed record StopWordRequest(StopWord? Word, Instant? At, string? ReceivedBy, string? Seal = null);

public sealed record StopAnswer(long LoadId, string Number, long StopId, LoadState State, string Said);

/// <summary>What is said of trucks at stops.</summary>
public static class StopCommands
{
    /// <summary>Records a word about a stop of a locked load.</summary>
    public static async Task<Outcome<StopAnswer>> Record(Work w, long loadId, long stopId, StopWordRequest request)
    {
        var checks = new Checks();
        var receivedBy = checks.Text(request.ReceivedBy, "receivedBy", "The receiver's name", 80);
        var seal = checks.Text(request.Seal, "seal", "The seal's number", 60);
        if (request.Word is null)
        {
            checks.Add("missing", "Say what happened: arrived, left or delivered.", "word");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (sheet.Load.State is not (LoadState.Covered or LoadState.Rolling or LoadState.Delivered))
        {
            return new Problem("load.state", sheet.Load.Who is null ? "Nobody carries this load yet: cover it first." : $"Load {sheet.Load.Number} is {sheet.Load.State.ToString().ToLowerInvariant()}: its stops do not change any more.");
        }

        var decided = StopWork.Decide(sheet.Load.Stops.Select(s => s.Planned()).ToList(), stopId, request.Word!.Value, request.At ?? w.Now, receivedBy, sheet.Load.Who is not null, w.Now);
        if (decided.Ok && seal is not null)
        {
            await LoadWrites.AddReference(w.Db, loadId, ReferenceKind.Seal, seal);
        }

        return await Write(w, sheet, stopId, decided, "stop." + Words.Of(request.Word.Value), stop => $"{sheet.Load.Number} {Said(request.Word.Value, stop)} {stop.Town} at {(request.At ?? w.Now).Said(WallClock.Zone(stop.Zone) ?? w.Zone)}" + (seal is null ? "" : $", seal {seal}") + (receivedBy is null ? "" : $", signed {receivedBy}"));
    }

    /// <summary>Takes the last word about a stop back.</summary>
    public static async Task<Outcome<StopAnswer>> TakeBack(Work w, long loadId, long stopId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (sheet.Load.State is LoadState.Billed or LoadState.Closed)
        {
            return new Problem("load.state", $"Load {sheet.Load.Number} is billed: its stops do not change any more.");
        }

        if (sheet.Legs.Any(l => l.SettlementId is not null || l.BillId is not null))
        {
            return new Problem("load.paid", $"The pay for load {sheet.Load.Number} is entered already: its stops do not change any more.");
        }

        var decided = StopWork.TakeBack(sheet.Load.Stops.Select(s => s.Planned()).ToList(), stopId);
        return await Write(w, sheet, stopId, decided, "stop.taken_back", stop => $"{sheet.Load.Number}: the last word at {stop.Town} taken back");
    }

    private static async Task<Outcome<StopAnswer>> Write(Work w, LoadSheet sheet, long stopId, Outcome<StopChange> decided, string kind, Func<StopRow, string> say)
    {
        if (!decided.Ok)
        {
            return decided.Problems.ToList();
        }

        var stop = sheet.Load.Stops.First(s => s.Id == stopId);
        await LoadWrites.WriteStop(w, stop, decided.Value, Words.Of(w.Actor.Via));
        if (sheet.Load.TripId is { } trip)
        {
            await CoverStore.SettleTrip(w.Db, trip);
        }

        var state = await LoadWrites.Settle(w.Db, sheet.Load.Id);
        var said = say(stop);
        await Events.Add(
            w, kind, "load", sheet.Load.Id, said, loadId: sheet.Load.Id, driverId: sheet.Load.DriverId,
            before: new { stop.Id, ArrivedAt = stop.ArrivedAt?.ToString(), LeftAt = stop.LeftAt?.ToString(), DeliveredAt = stop.DeliveredAt?.ToString(), stop.ReceivedBy });
        return new StopAnswer(sheet.Load.Id, sheet.Load.Number, stopId, state, said);
    }

    private static string Said(StopWord word, StopRow stop) => word switch
    {
        StopWord.Arrived => "at",
        StopWord.Delivered => "delivered in",
        _ => stop.Kind == StopKind.Pickup ? "left loaded from" : "left",
    };
}
