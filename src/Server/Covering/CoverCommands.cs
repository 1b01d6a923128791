using System.Security.Cryptography;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Core.Trips.Loading;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Covering;

/// <param name="Reassign">Unassign the load first.</param>
/// <param name="CabotageReason">Why the driver may haul between two points of the other country, when it is asked for.</param>
public sealed record CoverByDriverRequest(
    long? DriverId,
    long? TruckId,
    long? TrailerId,
    bool Reassign = false,
    string? CabotageReason = null
);

/// <param name="Pay">Carrier pay, all inclusive; or <paramref name="Charges"/>, line by line.</param>
/// <param name="Reassign">Unassign the load first.</param>
/// <param name="AcceptedBy">Who at the carrier accepted by phone; omitted to tender the load and wait for the answer.</param>
/// <param name="ExpiresAt">Until when the carrier may answer; by the company's settings when omitted.</param>
/// <param name="Dispatch">The carrier's driver and truck, when known already.</param>
/// <param name="CabotageReason">Why the carrier may haul between two points of the other country, when it is asked for.</param>
public sealed record CoverByCarrierRequest(
    long? CarrierId,
    Money? Pay,
    bool Reassign = false,
    IReadOnlyList<FlatChargeOrder>? Charges = null,
    string? AcceptedBy = null,
    Instant? ExpiresAt = null,
    CarrierDispatch? Dispatch = null,
    string? CabotageReason = null
);

/// <param name="LegId">The leg that was assigned or freed.</param>
public sealed record CoverAnswer(long LoadId, long LegId, string Number, LoadState State, string Who, string? Trip, string? MailTo);

/// <summary>Assigning loads to drivers and carriers.</summary>
public sealed class CoverCommands(LarkSettings settings, Mailer mailer)
{
    /// <summary>Assigns a locked load to our driver with truck and trailer.</summary>
    public async Task<Outcome<CoverAnswer>> ByDriver(CommandContext w, long loadId, long? legId, CoverByDriverRequest request)
    {
        if (request.Reassign && await Freed(w, loadId, legId) is { } refused)
        {
            return refused;
        }

        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (sheet.Meant(legId) is not { } leg)
        {
            return NoLeg(sheet, legId);
        }

        var validation = new Validation();
        validation.AddRange(sheet.Work(leg).CoverRefusals);
        var crew = new LegCrew(request.DriverId, request.TruckId, request.TrailerId);
        var (driver, truck, trailer, cabotage) = await CheckOurs(w, sheet, leg, crew, request.CabotageReason, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var stops = sheet.Load.Path().Ahead(Routing.Roads, leg.Seq - 1, w.Now);
        var outlook = await FleetStore.Commitments(w.Db, [driver!.Id], truck!.Id, trailer!.Id, Availability.Latest(Routing.Roads, stops));
        var span = Availability.Book(Routing.Roads, stops, outlook, w.Zone);
        if (!span.Ok)
        {
            return span.Problems;
        }

        var trip = await CoverStore.AddTrip(w, driver.Id, truck.Id, trailer.Id, span.Value);
        await CoverStore.AssignTrip(w.Db, leg.Id, trip.Id);
        var state = await LoadWrites.Settle(w, loadId);
        w.Record(
            EventKinds.LoadCovered,
            loadId,
            $"{sheet.Load.Number}{sheet.Load.Part(leg.Seq)} assigned to {driver.Name}, truck {truck.Unit}, trailer {trailer.Unit}, trip {trip.Number}{Allowed(cabotage)}",
            loadId: loadId,
            driverId: driver.Id
        );
        return new CoverAnswer(loadId, leg.Id, sheet.Load.Number, state, driver.Name, trip.Number, null);
    }

    /// <summary>Tenders a locked load to a carrier, or assigns it when the carrier accepted by phone, and queues the rate confirmation for
    /// email: it is drawn after the commit (<see cref="RateConfirmations"/>).</summary>
    public async Task<Outcome<CoverAnswer>> ByCarrier(CommandContext w, long loadId, long? legId, CoverByCarrierRequest request)
    {
        if (request.Reassign && await Freed(w, loadId, legId) is { } refused)
        {
            return refused;
        }

        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (sheet.Meant(legId) is not { } leg)
        {
            return NoLeg(sheet, legId);
        }

        var company = await CompanySettingsStore.Read(w.Db);
        var carrier = request.CarrierId is { } c ? await CompanyStore.Get(w.Db, c) : null;
        var validation = new Validation { Currency = carrier?.Currency ?? Currency.USD };
        validation.AddRange(sheet.Work(leg).CoverRefusals);
        IReadOnlyList<FlatCharge> charges = [];
        if (request.Charges is { } lines)
        {
            charges = CarrierPay.Check(lines, w.Today, validation);
        }
        else
        {
            validation.Dollars(request.Pay, "pay", "The carrier pay");
            charges = [new FlatCharge(ChargeKind.LineHaul, null, request.Pay ?? Money.Zero())];
        }

        var cabotage = validation.Text(request.CabotageReason, "cabotageReason", "The reason", 200);
        var acceptedBy = validation.Text(request.AcceptedBy, "acceptedBy", "The name of who accepted", 80);
        var dispatch = acceptedBy is null ? null : request.Dispatch?.Check(validation, "dispatch.");
        if (acceptedBy is null && request.ExpiresAt is { } until)
        {
            Tender.CheckExpiry(validation, until, w.Now, "expiresAt");
        }

        CheckCarrier(company.CarrierRequirements, sheet, sheet.Load.Countries(leg), carrier, cabotage, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var pay = CarrierPay.Sum(charges);
        var token = NewToken();
        Instant? expires = acceptedBy is not null
            ? null
            : request.ExpiresAt
                ?? Tender.DefaultExpiry(
                    w.Now,
                    company.TenderHours,
                    sheet.Load.Path().Ahead(Routing.Roads, leg.Seq - 1, w.Now)[0].Window.Until
                );
        await CoverStore.AssignCarrier(w.Db, leg.Id, carrier!.Id, charges);
        if (dispatch is not null)
        {
            await CoverStore.Dispatch(w.Db, leg.Id, dispatch);
        }

        var tender = await CoverStore.AddTender(w, leg.Id, carrier.Id, pay, token, expires, acceptedBy);
        var state = await LoadWrites.Settle(w, loadId);
        if (expires is { } end)
        {
            w.Record(
                EventKinds.TenderSent,
                loadId,
                $"{sheet.Load.Number}{sheet.Load.Part(leg.Seq)} tendered to {carrier.Name} for {pay.Formatted}, answer by {end.Format(w.Zone)}{Allowed(cabotage)}",
                loadId: loadId
            );
        }
        else
        {
            w.Record(
                EventKinds.LoadCovered,
                loadId,
                $"{sheet.Load.Number}{sheet.Load.Part(leg.Seq)} assigned to {carrier.Name} for {pay.Formatted}, accepted by {acceptedBy} by phone{Allowed(cabotage)}",
                loadId: loadId
            );
        }

        await SendConfirmation(
            w,
            sheet,
            carrier,
            tender,
            $"Rate confirmation for load {sheet.Load.Number}",
            $"Our rate confirmation for load {sheet.Load.Number}, {sheet.Load.Lane(leg.Seq)}, at {pay.Formatted} is attached.\n"
                + (
                    expires is { } by
                        ? $"Please accept or decline it by {by.Format(w.Zone)} here:"
                        : $"{acceptedBy} accepted it by phone. Please sign it here:"
                ),
            token
        );
        return new CoverAnswer(loadId, leg.Id, sheet.Load.Number, state, carrier.Name, null, carrier.Email);
    }

    /// <summary>Reads and checks a driver of ours with truck and trailer for a leg: who they are, the trailer the freight is in, cabotage.</summary>
    /// <returns>With the reason for cabotage, as checked.</returns>
    internal static async Task<(DriverRow? Driver, TruckRow? Truck, TrailerRow? Trailer, string? Cabotage)> CheckOurs(
        CommandContext w,
        LoadSheet sheet,
        LegRow leg,
        LegCrew crew,
        string? cabotageReason,
        Validation validation
    )
    {
        var (driver, truck, trailer) = await CheckCrew(w, sheet, crew, validation);
        Splits.CheckTrailer(sheet.RequiredTrailer(leg), trailer?.Id, validation);
        var cabotage = validation.Text(cabotageReason, "cabotageReason", "The reason", 200);
        if (driver is not null)
        {
            Cabotage.Check(validation, driver.Name, Cabotage.CountryOfTown(driver.HomeTown), sheet.Load.Countries(leg), cabotage);
        }

        return (driver, truck, trailer, cabotage);
    }

    /// <summary>Reads and checks a driver of ours with truck and trailer for a load.</summary>
    internal static async Task<(DriverRow? Driver, TruckRow? Truck, TrailerRow? Trailer)> CheckCrew(
        CommandContext w,
        LoadSheet sheet,
        LegCrew crew,
        Validation validation
    )
    {
        var driver = crew.DriverId is { } d ? await FleetStore.Driver(w.Db, d) : null;
        var truck = (await FleetStore.Trucks(w.Db)).FirstOrDefault(t => t.Id == crew.TruckId);
        var trailer = (await FleetStore.Trailers(w.Db)).FirstOrDefault(t => t.Id == crew.TrailerId);
        Crew.Check(
            validation,
            driver?.Active == true,
            truck?.Active == true,
            trailer?.ForCrew,
            sheet.Load.Equipment,
            sheet.Load.Features,
            await FleetStore.Matches(w.Db)
        );
        if (trailer is not null && sheet.Freight.Any(f => f.IsPlaced))
        {
            validation.AddRange(
                TrailerLoading
                    .Alone(
                        sheet.Load.Number,
                        (await ItineraryStore.Cargo(w.Db, [sheet.Load.Id]))[sheet.Load.Id].ToList(),
                        sheet.Load.Stops[0].Town ?? "",
                        new TripLimits(trailer.Size, truck?.TareLb ?? TripLimits.TypicalTruckTareLb) { Layout = trailer.Layout },
                        trailer.Unit
                    )
                    .Select(p => p with { Field = "trailerId" })
            );
        }

        return (driver, truck, trailer);
    }

    /// <summary>Checks a carrier for a load: its record, cabotage, and that its rate confirmation can be emailed.</summary>
    /// <param name="stops">The points it would haul between, with their countries.</param>
    internal static void CheckCarrier(
        CarrierRequirements required,
        LoadSheet sheet,
        IReadOnlyList<(StopKind Kind, string? Country)> stops,
        CompanyRow? carrier,
        string? cabotage,
        Validation validation
    )
    {
        if (carrier?.Carrier is null)
        {
            validation.Add("missing", "Choose a carrier.", "carrierId");
            return;
        }

        validation.AddRange(CarrierFitness.Check(CompanyStore.Record(carrier), required, sheet.Load.Carried()));
        Cabotage.Check(validation, carrier.Name, Cabotage.Country(carrier.Region), stops, cabotage);
        if (!Eml.IsAddress(carrier.Email))
        {
            validation.Add(
                "carrier.email",
                $"{carrier.Name} has no email address for the rate confirmation: add one to the carrier.",
                "carrierId"
            );
        }
    }

    /// <summary>Replaces a leg's rate confirmation by one with its charges of now, and emails it to be signed.</summary>
    /// <param name="why">What changed besides the pay, as a clause that begins a sentence; null when nothing did.</param>
    internal async Task SendRevised(CommandContext w, LoadSheet sheet, LegRow leg, IReadOnlyList<FlatCharge> charges, string? why = null)
    {
        var token = NewToken();
        var (tender, revision) = await CoverStore.Revise(w, leg.Id, token);
        await SendConfirmation(
            w,
            sheet,
            (await CompanyStore.Get(w.Db, leg.CarrierId!.Value))!,
            tender,
            $"Revised rate confirmation for load {sheet.Load.Number}",
            $"Revision {revision} of our rate confirmation for load {sheet.Load.Number}, {sheet.Load.Lane(leg.Seq)}, now at {CarrierPay.Sum(charges).Formatted}, is attached. {(why is null ? "It" : $"{why}; it")} replaces the earlier one.\nPlease sign it here:",
            token
        );
    }

    /// <summary>Emails a rate confirmation with its link, drawn after the commit.</summary>
    internal async Task SendConfirmation(
        CommandContext w,
        LoadSheet sheet,
        CompanyRow carrier,
        long tender,
        string subject,
        string text,
        string token
    )
    {
        var us = (await Business.Read(w.Db))!;
        await mailer.Send(
            w,
            MailPurpose.RateConfirmation,
            carrier.Email!,
            subject,
            $"""
            {carrier.Name},

            {text}

            {settings.Url}/accept/{token}

            {w.Actor.Name}
            {us.Name}, {us.Phone}
            """,
            [],
            sheet.Load.Id,
            tender
        );
    }

    internal static string Allowed(string? cabotage) => cabotage is null ? "" : $"; between two points of the other country: {cabotage}";

    internal static string NewToken() => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));

    internal static Problem NoLeg(LoadSheet sheet, long? legId) =>
        legId is null
            ? new Problem("load.state", $"Load {sheet.Load.Number} is {sheet.Load.State.Format()}: book it first.")
            : Problem.Missing("This leg");

    /// <summary>What reassigning a leg undoes, in sentences; empty when it is not assigned.</summary>
    public static async Task<IReadOnlyList<string>> Undoes(NpgsqlConnection db, LoadSheet sheet, LegRow leg)
    {
        if (sheet.Work(leg).State is not (LoadState.Tendered or LoadState.Covered))
        {
            return [];
        }

        if (leg.DriverId is not null)
        {
            return
            [
                (
                    leg.RidesWith.Count > 0
                        ? $"{leg.Driver} is unassigned; trip {leg.Trip} continues with {string.Join(" and ", leg.RidesWith)}"
                        : $"{leg.Driver} is unassigned and trip {leg.Trip} is canceled; truck {leg.Truck} and trailer {leg.Trailer} become available"
                ) + (leg.AcceptedAt is null ? "." : "; they have already accepted it on their phone, so call them."),
            ];
        }

        return
        [
            await MailStore.SentOfLeg(db, leg.Id)
                ? $"{leg.Carrier} is unassigned at {leg.Agreed?.Formatted} and notified by email."
                : $"{leg.Carrier} is unassigned at {leg.Agreed?.Formatted}; the rate confirmation has not gone out yet and is stopped.",
            .. leg.Tender?.AcceptedBy is { } by ? new[] { $"It was accepted by {by}: call them." } : [],
        ];
    }

    /// <summary>Frees a leg for reassignment; the refusal when it cannot be unassigned.</summary>
    private async Task<Problems?> Freed(CommandContext w, long loadId, long? legId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (sheet.Meant(legId) is not { } leg || sheet.Work(leg).State is not (LoadState.Tendered or LoadState.Covered))
        {
            return null;
        }

        var freed = await Undo(w, loadId, leg.Id);
        return freed.Ok ? null : freed.Problems;
    }

    /// <summary>Unassigns a leg of a locked load: the one named, or the one in progress. Email that was not sent is held back; a carrier that was
    /// already notified is notified again.</summary>
    public async Task<Outcome<CoverAnswer>> Undo(CommandContext w, long loadId, long? legId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if ((legId is null ? sheet.Leg : sheet.Meant(legId)) is not { } leg)
        {
            return NoLeg(sheet, legId);
        }

        var work = sheet.Work(leg);
        if (work.UnassignRefusal(sheet.Started(leg)) is { } refused)
        {
            return refused;
        }

        var held = await EndFor(w, sheet, leg, null);
        var state = await LoadWrites.Settle(w, loadId);
        w.Record(
            EventKinds.LoadUnassigned,
            loadId,
            (
                work.State == LoadState.Tendered
                    ? $"Tender of {sheet.Load.Number}{sheet.Load.Part(leg.Seq)} to {work.Who} withdrawn"
                    : $"{sheet.Load.Number}{sheet.Load.Part(leg.Seq)} unassigned from {work.Who}"
            ) + (held > 0 ? "; the email was stopped before it went out" : ""),
            loadId: loadId,
            driverId: leg.DriverId,
            before: new
            {
                leg.TripId,
                leg.CarrierId,
                Agreed = leg.Agreed?.Amount,
            }
        );
        return new CoverAnswer(loadId, leg.Id, sheet.Load.Number, state, work.Who!, null, null);
    }

    /// <summary>Unassigns the driver or carrier of a leg, or leaves a carrier its pay for the truck it sent. Email that was not sent is held
    /// back; a carrier that was already notified is notified again.</summary>
    /// <param name="notUsed">What the carrier keeps for the truck it sent; null when it is unassigned.</param>
    /// <returns>How many emails were held back.</returns>
    public async Task<int> EndFor(CommandContext w, LoadSheet sheet, LegRow leg, FlatCharge? notUsed)
    {
        var sent = await MailStore.SentOfLeg(w.Db, leg.Id);
        var held = await MailStore.HoldBackOfLeg(w, leg.Id);
        if ((sent || notUsed is not null) && leg.CarrierId is not null)
        {
            await SendReleased(w, sheet, leg, notUsed);
        }

        if (notUsed is null)
        {
            await Clear(w, leg, TenderEnd.Withdrawn);
        }
        else
        {
            await CoverStore.EndTender(w, leg.Id, TenderEnd.Withdrawn);
            await CoverStore.ChangeCharges(w.Db, leg.Id, [notUsed]);
        }

        return held;
    }

    /// <summary>Emails a carrier that a load is no longer assigned to it, when it has an address.</summary>
    /// <param name="notUsed">What it is paid for the truck it sent, or null.</param>
    /// <param name="replacedIn">The town in which another truck took its freight, or null.</param>
    internal async Task SendReleased(CommandContext w, LoadSheet sheet, LegRow leg, FlatCharge? notUsed, string? replacedIn = null)
    {
        if (await CompanyStore.Get(w.Db, leg.CarrierId!.Value) is not { } carrier || !Eml.IsAddress(carrier.Email))
        {
            return;
        }

        var us = (await Business.Read(w.Db))!;
        var what = $"Load {sheet.Load.Number}, {sheet.Load.Lane(leg.Seq)},";
        var rate = $"The rate confirmation for {leg.Agreed?.Formatted} is void";
        var text = replacedIn is not null
            ? $"{what} was handed over to another truck in {replacedIn}. {rate}, and nothing is owed for it."
            : $"{what} is no longer assigned to you. Please do not send a truck. {rate}."
                + (
                    notUsed is null
                        ? ""
                        : $"\n\nWe pay {notUsed.Amount.Formatted} for the truck ordered and not used. Please send us your bill for it."
                );
        await mailer.Send(
            w,
            MailPurpose.RateConfirmation,
            carrier.Email!,
            $"Load {sheet.Load.Number} {(replacedIn is null ? "canceled" : "handed over")}",
            $"""
            {carrier.Name},

            {text}

            {w.Actor.Name}
            {us.Name}, {us.Phone}
            """,
            [],
            sheet.Load.Id
        );
    }

    /// <summary>Frees a leg: its tender ends, its rate confirmations are removed, and nobody has it.</summary>
    internal static async Task Clear(CommandContext w, LegRow leg, TenderEnd end, string? by = null, string? why = null)
    {
        foreach (var document in await DocumentStore.OfLeg(w.Db, leg.Id))
        {
            await DocumentStore.Remove(w, document.Id);
        }

        await CoverStore.Undo(w, leg.Id, end, by, why);
        await TripCommands.Rebook(w, leg.TripId);
    }
}
