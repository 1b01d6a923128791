using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Claims;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Trips;

/// <param name="PlaceId">Where the handover takes place.</param>
/// <param name="At">When; now when omitted.</param>
/// <param name="TrailerId">The same trailer when omitted.</param>
/// <param name="Carrier">The carrier that takes the load over; omitted for a driver of ours.</param>
/// <param name="PayBefore">What the carrier that gives the load up is still paid, all inclusive, or 0; unchanged when omitted.</param>
public sealed record HandoverRequest(
    long? PlaceId,
    Instant? At,
    long? DriverId,
    long? TruckId,
    long? TrailerId,
    TakeoverRequest? Carrier = null,
    Money? PayBefore = null
);

/// <summary>A carrier that takes over a load on the way. It has accepted by phone, and its driver is known: the freight is not given to an
/// unknown truck.</summary>
/// <param name="Pay">Carrier pay, all inclusive.</param>
public sealed record TakeoverRequest(
    long? CarrierId,
    Money? Pay,
    string? AcceptedBy,
    CarrierDispatch? Dispatch,
    string? CabotageReason = null
);

/// <param name="Trip">The number of the trip that continues; null for a carrier's.</param>
public sealed record HandoverAnswer(long LoadId, string Number, string? Trip, string Summary);

/// <summary>A load on the way that changes trucks, between any of our drivers and any carriers.</summary>
public sealed class HandoverCommands(CoverCommands cover)
{
    /// <summary>Who takes a load over, checked.</summary>
    private sealed record Taker(
        DriverRow? Driver,
        TruckRow? Truck,
        TrailerRow? Trailer,
        CompanyRow? Carrier,
        Money Pay,
        string? AcceptedBy,
        CarrierDispatch? Dispatch
    )
    {
        public string Name => Driver is { } d ? $"{d.Name}, truck {Truck!.Unit}" : $"{Carrier!.Name} for {Pay.Formatted}";
    }

    /// <summary>A locked load changes trucks: its leg ends there, and the next begins.</summary>
    public async Task<Outcome<HandoverAnswer>> HandOver(CommandContext w, long loadId, HandoverRequest request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var (load, path) = (sheet.Load, sheet.Load.Path());
        if (Handover.Refuses(load.Work(), sheet.Leg?.CarrierId is not null, path.Stops) is { } refused)
        {
            return refused;
        }

        var leg = sheet.Leg!;
        var validation = new Validation();
        var at = request.At ?? w.Now;
        Handover.CheckTime(at, path, w.Now, validation);
        var place = request.PlaceId is { } id ? await PlaceStore.Get(w.Db, id) : null;
        if (place is null)
        {
            validation.Add("missing", "Choose the handover location.", "placeId");
        }

        var taker = request.Carrier is { } takeover
            ? await Carrier(w, sheet, takeover, place, validation)
            : await OurDriver(w, sheet, request, validation);
        var kept = leg.CarrierId is null
            ? null
            : Handover.PayOfReplaced(
                request.PayBefore,
                leg.Charges.Select(c => c.AsCharge()).ToList(),
                leg.Carrier!,
                place?.Town ?? "",
                validation
            );
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        // The old booking ends first, because the same trailer may continue.
        var plan = Handover.Plan(Routing.Roads, path, place!.Point, place.Town, at, w.Now);
        var (next, transfer) = await CoverStore.Split(w.Db, loadId, leg, place.Id, plan.Transfer, (plan.MilesDone, plan.MilesAhead));
        string? trip = null;
        if (taker.Driver is not null)
        {
            var assigned = await Assign(w, next, taker, plan.Booking);
            if (!assigned.Ok)
            {
                return assigned.Problems;
            }

            trip = assigned.Value;
        }

        if (await TripCommands.HandedOver(w, leg) is { } taken)
        {
            return taken;
        }

        if (kept is not null)
        {
            await CoverStore.Replaced(w.Db, leg.Id, transfer, kept);
            await Revise(w, sheet, leg, kept, place.Town);
        }

        if (taker.Carrier is not null)
        {
            await Confirm(w, sheet, leg, next, taker, place);
        }

        await LoadWrites.Settle(w, loadId);
        var still = kept is null
            ? ""
            : $"; {leg.Carrier} is paid {CarrierPay.Sum(kept).Formatted} instead of {leg.Agreed!.Value.Formatted}";
        var summary = $"{load.Number} handed over from {leg.Driver ?? leg.Carrier} to {taker.Name}, in {place.Town}{still}";
        w.Record(
            EventKinds.LoadHandedOver,
            loadId,
            summary,
            loadId: loadId,
            driverId: taker.Driver?.Id ?? leg.DriverId,
            before: new
            {
                leg.DriverId,
                leg.TruckId,
                leg.TrailerId,
                leg.CarrierId,
                Agreed = leg.Agreed?.Amount,
                leg.Miles,
            }
        );
        return new HandoverAnswer(loadId, load.Number, trip, summary);
    }

    /// <summary>Undoes a handover: the previous driver or carrier has the load again, as long as nothing was recorded after it.</summary>
    public async Task<Outcome<HandoverAnswer>> Undo(CommandContext w, long loadId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var load = sheet.Load;
        if (sheet.Leg is not { Seq: > 1 } leg || load.Transfers[leg.Seq - 2] is not { PlannedAt: null, LeftAt: { } at })
        {
            return new Problem("handover.none", $"Load {load.Number} has no handover.");
        }

        var before = sheet.Legs[leg.Seq - 2];
        var since = load.Stops.FirstOrDefault(s => Handover.After(s.Planned(), at))?.Place;
        LegRow[] both = [leg, before];
        if (
            Handover.UndoRefuses(
                leg.Driver ?? leg.Carrier,
                since,
                both.FirstOrDefault(l => l.SettlementId is not null)?.Driver,
                both.FirstOrDefault(l => l.BillNumber is not null)?.BillNumber,
                await ClaimStore.OnLeg(w.Db, leg.Id)
            ) is
            { } refused
        )
        {
            return refused;
        }

        await MailStore.HoldBackOfLeg(w, leg.Id);
        await MailStore.HoldBackOfLeg(w, before.Id);
        await CoverStore.EndTender(w, leg.Id, TenderEnd.Withdrawn);
        var payBack = await CoverStore.UndoHandover(w, loadId, before, leg);
        if (before is { TripId: { } oldTrip, DriverId: not null, TruckId: { } oldTruck })
        {
            var span = await CoverStore.CommitmentOf(w.Db, oldTrip);
            var busy = Availability.Check(
                await FleetStore.Commitments(w.Db, before.Drivers, oldTruck, before.TrailerId, span, oldTrip),
                span,
                w.Zone
            );
            if (busy.Count > 0)
            {
                return busy;
            }

            if (await TripCommands.HandedOver(w, before) is { } taken)
            {
                return taken;
            }
        }

        if (leg.CarrierId is not null)
        {
            await cover.SendReleased(w, sheet, leg, null);
        }

        var pay = "";
        if (payBack)
        {
            var again = (await LoadReads.Legs(w.Db, loadId)).First(l => l.Id == before.Id);
            await Revise(w, sheet, again, again.Charges.Select(c => c.AsCharge()).ToList(), null);
            pay = $" at {again.Agreed!.Value.Formatted}";
        }

        await LoadWrites.Settle(w, loadId);
        var summary = $"Handover of {load.Number} in {before.HandoverTown} undone: {before.Driver ?? before.Carrier} has it again{pay}";
        w.Record(
            EventKinds.LoadHandoverUndone,
            loadId,
            summary,
            loadId: loadId,
            driverId: before.DriverId ?? leg.DriverId,
            before: new
            {
                leg.DriverId,
                leg.TruckId,
                leg.TrailerId,
                leg.CarrierId,
                Agreed = leg.Agreed?.Amount,
                HandedOverAt = at,
                before.Miles,
            }
        );
        return new HandoverAnswer(loadId, load.Number, before.Trip, summary);
    }

    private static async Task<Taker> OurDriver(CommandContext w, LoadSheet sheet, HandoverRequest request, Validation validation)
    {
        var leg = sheet.Leg!;
        var (driver, truck, trailer) = await CoverCommands.CheckCrew(
            w,
            sheet,
            new LegCrew(request.DriverId, request.TruckId, request.TrailerId ?? leg.TrailerId),
            validation
        );
        Handover.CheckChange(leg.Crew(), new LegCrew(driver?.Id, truck?.Id, trailer?.Id), validation);
        return new Taker(driver, truck, trailer, null, Money.Zero(), null, null);
    }

    private static async Task<Taker> Carrier(
        CommandContext w,
        LoadSheet sheet,
        TakeoverRequest request,
        PlaceRow? place,
        Validation validation
    )
    {
        var carrier = request.CarrierId is { } c ? await CompanyStore.Get(w.Db, c) : null;
        var its = new Validation { Currency = carrier?.Currency ?? Currency.USD };
        var acceptedBy = its.Text(request.AcceptedBy, "acceptedBy", "The name of who accepted at the carrier", 80, required: true);
        var dispatch = (request.Dispatch ?? new CarrierDispatch(null, null, null, null)).Check(its, "dispatch.");
        var cabotage = its.Text(request.CabotageReason, "cabotageReason", "The reason", 200);
        its.Dollars(request.Pay, "pay", "The carrier pay");
        CoverCommands.CheckCarrier(
            (await CompanySettingsStore.Read(w.Db)).CarrierRequirements,
            sheet,
            sheet.Load.Countries(sheet.Leg!, place?.Country),
            carrier,
            cabotage,
            its
        );
        if (carrier is not null && carrier.Id == sheet.Leg!.CarrierId)
        {
            its.Add("same", $"{carrier.Name} already has the load.", "carrierId");
        }

        validation.AddRange(its.Problems, "carrier.");
        return new Taker(null, null, null, carrier, request.Pay ?? Money.Zero(), acceptedBy, dispatch);
    }

    /// <summary>Books our driver, truck and trailer for a leg; the number of the trip.</summary>
    private static async Task<Outcome<string>> Assign(CommandContext w, long leg, Taker taker, Span booking)
    {
        var busy = Availability.Check(
            await FleetStore.Commitments(w.Db, [taker.Driver!.Id], taker.Truck!.Id, taker.Trailer!.Id, booking),
            booking,
            w.Zone
        );
        if (busy.Any)
        {
            return busy;
        }

        var trip = await CoverStore.AddTrip(w, taker.Driver.Id, taker.Truck.Id, taker.Trailer.Id, booking);
        await CoverStore.AssignTrip(w.Db, leg, trip.Id);
        await CoverStore.SettleTrip(w.Db, trip.Id);
        return trip.Number;
    }

    /// <summary>Assigns a carrier to a leg that begins on the way, and emails its rate confirmation to be signed.</summary>
    private async Task Confirm(CommandContext w, LoadSheet sheet, LegRow before, long leg, Taker taker, PlaceRow place)
    {
        var token = CoverCommands.NewToken();
        await CoverStore.AssignCarrier(
            w.Db,
            leg,
            taker.Carrier!.Id,
            [new FlatCharge(ChargeKind.LineHaul, $"from {place.Town}", taker.Pay)]
        );
        await CoverStore.Dispatch(w.Db, leg, taker.Dispatch!);
        var tender = await CoverStore.AddTender(w, leg, taker.Carrier.Id, taker.Pay, token, null, taker.AcceptedBy);
        await cover.SendConfirmation(
            w,
            sheet,
            taker.Carrier,
            tender,
            $"Rate confirmation for load {sheet.Load.Number}",
            $"Our rate confirmation for load {sheet.Load.Number}, from {place.Town} {place.Region} to {sheet.Load.Destination(before.Seq)}, at {taker.Pay.Formatted} is attached.\n{taker.AcceptedBy} accepted it by phone. Please sign it here:",
            token
        );
    }

    /// <summary>Sends a carrier a revised rate confirmation after its pay changed with a handover; or says that it has ended, when it is paid
    /// nothing.</summary>
    /// <param name="town">Where the carrier gave the load up; null when it has it again.</param>
    private async Task Revise(CommandContext w, LoadSheet sheet, LegRow leg, IReadOnlyList<FlatCharge> charges, string? town)
    {
        if (charges.Count == 0)
        {
            await CoverStore.EndTender(w, leg.Id, TenderEnd.Withdrawn);
            await cover.SendReleased(w, sheet, leg, null, town);
            return;
        }

        await cover.SendRevised(
            w,
            sheet,
            leg,
            charges,
            town is null ? "The load is yours again to its destination" : $"It covers the freight to {town}, where it was handed over"
        );
    }
}
