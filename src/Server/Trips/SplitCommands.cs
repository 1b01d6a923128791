using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Claims;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Trips;

/// <param name="LegId">The leg to split; the last one when omitted.</param>
/// <param name="PlaceId">Where, from the address book; or <paramref name="TownId"/>, any town.</param>
/// <param name="AfterStops">How many of the load's stops come before it; where it adds the fewest miles when omitted.</param>
/// <param name="At">When the next truck takes the freight, in the wall-clock time of the place.</param>
/// <param name="SwapWithLoadId">Another load, which is split there too: the two trucks swap trailers, and each driver continues with the other's
/// load.</param>
public sealed record SplitRequest(
    long? PlaceId,
    long? TownId,
    LocalDateTime? At,
    TransferMethod? Method,
    long? LegId = null,
    int? AfterStops = null,
    long? SwapWithLoadId = null
);

/// <param name="Event">Left there by the truck before, or taken by the next one.</param>
/// <param name="At">When; now when omitted.</param>
public sealed record TransferEventRequest(TransferEvent? Event, Instant? At);

public sealed record SplitAnswer(long LoadId, string Number, LoadState State, long TransferId, string Summary)
{
    /// <summary>Where the other load of a relay is split; null without one.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public long? OtherTransferId { get; init; }
}

/// <summary>Planned transfers: splitting a load into legs, moving a transfer, joining legs, and what happens at a transfer.</summary>
public static class SplitCommands
{
    /// <summary>Two trucks of ours meet: both loads, the locked one and the other, are split there, and each driver continues with the other's trailer.</summary>
    public static async Task<Outcome<SplitAnswer>> Relay(CommandContext w, CoverCommands cover, long loadId, SplitRequest request)
    {
        await LoadWrites.Lock(w.Db, request.SwapWithLoadId!.Value);
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (await LoadReads.Sheet(w.Db, request.SwapWithLoadId.Value) is not { Leg: { } otherLeg } other)
        {
            return Problem.Missing("The load to swap with", "swapWithLoadId");
        }

        if ((request.LegId is null ? sheet.Leg : sheet.Meant(request.LegId)) is not { } leg)
        {
            return Problem.Missing("This leg", "legId");
        }

        if (Splits.RelayRefuses(sheet.Load.Number, leg.Holder(), other.Load.Number, otherLeg.Holder()) is { } refused)
        {
            return refused;
        }

        var swap = request with { Method = TransferMethod.Swap, LegId = leg.Id };
        var split = await Split(w, loadId, swap);
        if (!split.Ok)
        {
            return split.Problems;
        }

        var there = await Split(w, other.Load.Id, swap with { LegId = otherLeg.Id, AfterStops = null });
        if (!there.Ok)
        {
            return Of(other, there.Problems);
        }

        foreach (var (load, from, to) in new[] { (sheet, leg, otherLeg), (other, otherLeg, leg) })
        {
            var next = (await LoadReads.Legs(w.Db, load.Load.Id)).Single(l => l.Seq == from.Seq + 1);
            var assigned = await cover.ByDriver(
                w,
                load.Load.Id,
                next.Id,
                new CoverByDriverRequest(to.DriverId, to.TruckId, from.TrailerId)
            );
            if (!assigned.Ok)
            {
                return Of(load, assigned.Problems);
            }
        }

        return split.Value with
        {
            OtherTransferId = there.Value.TransferId,
            Summary =
                $"{sheet.Load.Number} and {other.Load.Number} swap trailers: {otherLeg.Driver} continues with {sheet.Load.Number}, {leg.Driver} with {other.Load.Number}",
        };

        static Problems Of(LoadSheet load, Problems problems) =>
            new(problems.Select(p => new Problem(p.Code, $"Load {load.Load.Number}: {p.Message}", "swapWithLoadId")));
    }

    /// <summary>Splits a leg of a locked load. Its driver keeps the part up to the transfer; nobody has the part after it yet.</summary>
    public static async Task<Outcome<SplitAnswer>> Split(CommandContext w, long loadId, SplitRequest request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if ((request.LegId is null ? sheet.Legs.ElementAtOrDefault(sheet.Legs.Count - 1) : sheet.Meant(request.LegId)) is not { } leg)
        {
            return request.LegId is null
                ? new Problem("load.state", $"Load {sheet.Load.Number} is {sheet.Load.State.Format()}: book it first.")
                : Problem.Missing("This leg", "legId");
        }

        if (Splits.Refuses(sheet.Load.State, sheet.Load.Number, sheet.Load.Path(), leg.Seq - 1, leg.Holder()) is { } refused)
        {
            return refused;
        }

        var planned = await Planned(w, sheet.Load.Path(), sheet.Load.Towns(), leg.Seq - 1, request);
        if (!planned.Ok)
        {
            return planned.Problems;
        }

        var (place, transfer) = planned.Value;
        var path = sheet.Load.Path().With(leg.Seq - 1, transfer);
        var (_, id) = await CoverStore.Split(
            w.Db,
            loadId,
            leg,
            place.Id,
            transfer,
            (path.Miles(Routing.Roads, leg.Seq - 1), path.Miles(Routing.Roads, leg.Seq))
        );
        if (await TripCommands.Rebook(w, leg.TripId) is { } busy)
        {
            return busy;
        }

        if (leg.RidesWith.Count > 0 && await TripCommands.TrailersRefuse(w, leg.TripId) is { } aboard)
        {
            return aboard;
        }

        var kept = leg.Driver is { } driver ? $"; {driver} takes it there" : "";
        return await Done(
            w,
            sheet,
            EventKinds.LoadSplit,
            id,
            $"{sheet.Load.Number} split in {transfer.Town}, {Format(transfer.Method)}, {transfer.PlannedAt!.Value.Format(Zone(place, w))}{kept}",
            leg
        );
    }

    /// <summary>Moves a planned transfer to another place or time. Bookings of our drivers on both sides follow.</summary>
    public static async Task<Outcome<SplitAnswer>> Move(CommandContext w, long loadId, long transferId, SplitRequest request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var path = sheet.Load.Path();
        if (Index(sheet, transferId) is not { } index)
        {
            return Problem.Missing("This transfer");
        }

        var (before, after) = (sheet.Legs[index], sheet.Legs[index + 1]);
        var refused = Splits.Refuses(sheet.Load.State, sheet.Load.Number, path, index, before.Holder())
            ?? Splits.Refuses(sheet.Load.State, sheet.Load.Number, path, index + 1, after.Holder());
        if (refused is not null)
        {
            return refused;
        }

        var planned = await Planned(w, path.Without(index), sheet.Load.Towns(), index, request);
        if (!planned.Ok)
        {
            return planned.Problems;
        }

        var (place, transfer) = planned.Value;
        transfer = transfer with { Id = transferId };
        var moved = path.Changed(index, transfer);
        await CoverStore.MoveTransfer(w.Db, transferId, place.Id, transfer);
        foreach (var leg in new[] { before, after })
        {
            await CoverStore.SetMiles(w.Db, leg.Id, moved.Miles(Routing.Roads, leg.Seq - 1));
        }

        var busy = await TripCommands.Rebook(w, before.TripId) ?? await TripCommands.Rebook(w, after.TripId);
        if (busy is not null)
        {
            return busy;
        }

        foreach (var leg in new[] { before, after }.Where(l => l.RidesWith.Count > 0))
        {
            if (await TripCommands.TrailersRefuse(w, leg.TripId) is { } aboard)
            {
                return aboard;
            }
        }

        return await Done(
            w,
            sheet,
            EventKinds.TransferMoved,
            transferId,
            $"Transfer of {sheet.Load.Number} moved from {path.Transfers[index].Town} to {transfer.Town}, {Format(transfer.Method)}, {transfer.PlannedAt!.Value.Format(Zone(place, w))}",
            before,
            sheet.Load.Transfers[index]
        );
    }

    /// <summary>Joins the two legs at a planned transfer: the driver of the first drives both.</summary>
    public static async Task<Outcome<SplitAnswer>> Join(CommandContext w, long loadId, long transferId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (Index(sheet, transferId) is not { } index)
        {
            return Problem.Missing("This transfer");
        }

        var (path, before, after) = (sheet.Load.Path(), sheet.Legs[index], sheet.Legs[index + 1]);
        if (Splits.JoinRefuses(sheet.Load.State, sheet.Load.Number, path, index, before.Holder(), after.Holder()) is { } refused)
        {
            return refused;
        }

        var joined = path.Without(index);
        await CoverStore.Join(w, loadId, before, after, joined.Miles(Routing.Roads, index));
        if (await TripCommands.Rebook(w, before.TripId) is { } busy)
        {
            return busy;
        }

        return await Done(
            w,
            sheet,
            EventKinds.LoadJoined,
            transferId,
            $"Legs of {sheet.Load.Number} joined: no transfer in {path.Transfers[index].Town}",
            before,
            sheet.Load.Transfers[index]
        );
    }

    /// <summary>Records that freight was left at a transfer, or taken there.</summary>
    public static async Task<Outcome<SplitAnswer>> Record(CommandContext w, long loadId, long transferId, TransferEventRequest request)
    {
        if (request.Event is not { } what)
        {
            return new Problem("missing", "Choose what happened: left or taken.", "event");
        }

        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (Index(sheet, transferId) is not { } index)
        {
            return Problem.Missing("This transfer");
        }

        if (!sheet.Load.State.IsAhead())
        {
            return new Problem(
                "load.state",
                $"Load {sheet.Load.Number} is {sheet.Load.State.Format()}: nothing can be recorded at its transfers."
            );
        }

        var at = request.At ?? w.Now;
        var decided = Splits.Record(
            sheet.Load.Path(),
            sheet.Load.Towns(),
            sheet.Legs.Select(l => l.Holder()).ToList(),
            index,
            what,
            at,
            w.Now
        );
        var row = sheet.Load.Transfers[index];
        var (before, after) = (sheet.Legs[index], sheet.Legs[index + 1]);
        return decided.Ok
            ? await Write(
                w,
                sheet,
                index,
                decided.Value,
                what == TransferEvent.Left ? EventKinds.TransferLeft : EventKinds.TransferTaken,
                what == TransferEvent.Left
                    ? $"{sheet.Load.Number} left in {row.Town} by {before.Holder().Who} at {at.Format(WallClock.Zone(row.Zone) ?? w.Zone)}"
                    : $"{after.Holder().Who} took {sheet.Load.Number} in {row.Town} at {at.Format(WallClock.Zone(row.Zone) ?? w.Zone)}"
            )
            : decided.Problems;
    }

    /// <summary>Undoes the last thing recorded at a transfer.</summary>
    public static async Task<Outcome<SplitAnswer>> Undo(CommandContext w, long loadId, long transferId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (Index(sheet, transferId) is not { } index)
        {
            return Problem.Missing("This transfer");
        }

        var (before, after) = (sheet.Legs[index], sheet.Legs[index + 1]);
        var decided = Splits.Undo(sheet.Load.Path(), sheet.Load.Towns(), index);
        LegRow[] both = [after, before];
        if (
            decided.Ok
            && Handover.UndoRefuses(
                after.Holder().Who,
                null,
                both.FirstOrDefault(l => l.SettlementId is not null)?.Driver,
                both.FirstOrDefault(l => l.BillNumber is not null)?.BillNumber,
                await ClaimStore.OnLeg(w.Db, after.Id)
            )
                is { } refused
        )
        {
            return refused;
        }

        return decided.Ok
            ? await Write(
                w,
                sheet,
                index,
                decided.Value,
                EventKinds.TransferUndone,
                $"{sheet.Load.Number}: last update in {sheet.Load.Transfers[index].Town} undone"
            )
            : decided.Problems;
    }

    private static async Task<Outcome<SplitAnswer>> Write(
        CommandContext w,
        LoadSheet sheet,
        int index,
        Transfer transfer,
        EventKind kind,
        string summary
    )
    {
        await CoverStore.RecordTransfer(w.Db, transfer);
        foreach (var trip in new[] { sheet.Legs[index].TripId, sheet.Legs[index + 1].TripId }.OfType<long>())
        {
            await TripCommands.Recorded(w, sheet, trip);
        }

        var row = sheet.Load.Transfers[index];
        return await Done(w, sheet, kind, transfer.Id, summary, transfer.TakenAt is null ? sheet.Legs[index] : sheet.Legs[index + 1], row);
    }

    private static async Task<Outcome<SplitAnswer>> Done(
        CommandContext w,
        LoadSheet sheet,
        EventKind kind,
        long transferId,
        string summary,
        LegRow leg,
        TransferRow? before = null
    )
    {
        var state = await LoadWrites.Settle(w, sheet.Load.Id);
        w.Record(
            kind,
            sheet.Load.Id,
            summary,
            loadId: sheet.Load.Id,
            driverId: leg.DriverId,
            before: before is null
                ? null
                : new
                {
                    before.PlaceId,
                    before.AfterStops,
                    before.Method,
                    PlannedAt = before.PlannedAt?.ToString(),
                    LeftAt = before.LeftAt?.ToString(),
                    TakenAt = before.TakenAt?.ToString(),
                }
        );
        return new SplitAnswer(sheet.Load.Id, sheet.Load.Number, state, transferId, summary);
    }

    /// <summary>The place and transfer that a request describes.</summary>
    private static async Task<Outcome<(PlaceRow Place, Transfer Transfer)>> Planned(
        CommandContext w,
        LoadPath path,
        List<string> towns,
        int leg,
        SplitRequest request
    )
    {
        var validation = new Validation();
        var place = await PlaceRequests.Find(w, request.PlaceId, request.TownId);
        if (place is null)
        {
            validation.Add("missing", "Choose where the freight changes trucks: a place or a town.", "placeId");
        }

        if (request.At is { } local)
        {
            Splits.CheckDate(local, w.Today, validation);
        }
        else
        {
            validation.Add("missing", "Enter when the next truck takes the freight.", "at");
        }

        if (request.Method is null)
        {
            validation.Add("missing", "Choose how: drop the trailer, swap trailers, or transload.", "method");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var zone = Zone(place!, w);
        var at = WallClock.Resolve(request.At!.Value, zone, "at");
        if (!at.Ok)
        {
            return at.Problems;
        }

        var split = Splits.Split(
            Routing.Roads,
            path,
            towns,
            leg,
            new SplitOrder(place!.Point, $"{place.Town} {place.Region}", request.AfterStops, at.Value, request.Method!.Value, zone)
        );
        return split.Ok ? (place, split.Value) : split.Problems;
    }

    private static int? Index(LoadSheet sheet, long transferId) =>
        sheet.Load.Transfers.ToList().FindIndex(t => t.Id == transferId) is >= 0 and var index ? index : null;

    private static DateTimeZone Zone(PlaceRow place, CommandContext w) => WallClock.Zone(place.Zone) ?? w.Zone;

    private static string Format(TransferMethod method) =>
        method switch
        {
            TransferMethod.Drop => "trailer dropped",
            TransferMethod.Swap => "trailers swapped",
            _ => "transload",
        };
}
