using System.Security.Cryptography;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Covering;

/// <param name="Reassign">Unassign the load first.</param>
public sealed record CoverByDriverRequest(long? DriverId, long? TruckId, long? TrailerId, bool Reassign = false);

/// <param name="Pay">Carrier pay.</param>
/// <param name="Reassign">Unassign the load first.</param>
public sealed record CoverByCarrierRequest(long? CarrierId, Money? Pay, bool Reassign = false);

public sealed record CoverAnswer(long LoadId, string Number, LoadState State, string Who, string? Trip, string? MailTo);

public sealed record AcceptRequest(string? Name);

/// <summary>Assigning loads to drivers and carriers.</summary>
public sealed class CoverCommands(LarkSettings settings, Mailer mailer)
{
    /// <summary>Assigns a locked load to our driver with truck and trailer.</summary>
    public async Task<Outcome<CoverAnswer>> ByDriver(CommandContext w, long loadId, CoverByDriverRequest request)
    {
        if (request.Reassign && await Freed(w, loadId) is { } refused)
        {
            return refused;
        }

        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var validation = new Validation();
        validation.AddRange(sheet.Load.Work().CoverRefusals);
        var driver = request.DriverId is { } d ? await FleetStore.Driver(w.Db, d) : null;
        var truck = (await FleetStore.Trucks(w.Db)).FirstOrDefault(t => t.Id == request.TruckId);
        var trailer = (await FleetStore.Trailers(w.Db)).FirstOrDefault(t => t.Id == request.TrailerId);
        Crew.Check(validation, driver?.Active == true, truck?.Active == true, trailer?.ForCrew, sheet.Load.Equipment);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var stops = sheet.Load.Planned();
        var outlook = await FleetStore.Commitments(w.Db, driver!.Id, truck!.Id, trailer!.Id, Availability.Latest(Routing.Roads, stops));
        var span = Availability.Book(Routing.Roads, stops, outlook, w.Zone);
        if (!span.Ok)
        {
            return span.Problems;
        }

        var trip = await CoverStore.AddTrip(w, driver.Id, truck.Id, trailer.Id, span.Value);
        await CoverStore.AssignTrip(w.Db, sheet.Leg!.Id, trip.Id);
        var state = await LoadWrites.Settle(w, loadId);
        w.Record(
            EventKinds.LoadCovered,
            loadId,
            $"{sheet.Load.Number} assigned to {driver.Name}, truck {truck.Unit}, trailer {trailer.Unit}, trip {trip.Number}",
            loadId: loadId,
            driverId: driver.Id
        );
        return new CoverAnswer(loadId, sheet.Load.Number, state, driver.Name, trip.Number, null);
    }

    /// <summary>Assigns a locked load to a carrier, and queues the rate confirmation for email: it is drawn after the commit
    /// (<see cref="RateConfirmations"/>).</summary>
    public async Task<Outcome<CoverAnswer>> ByCarrier(CommandContext w, long loadId, CoverByCarrierRequest request)
    {
        if (request.Reassign && await Freed(w, loadId) is { } refused)
        {
            return refused;
        }

        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var validation = new Validation();
        validation.AddRange(sheet.Load.Work().CoverRefusals);
        validation.Dollars(request.Pay, "pay", "The carrier pay");
        var carrier = request.CarrierId is { } c ? await CompanyStore.Get(w.Db, c) : null;
        if (carrier?.Carrier is null)
        {
            validation.Add("missing", "Choose a carrier.", "carrierId");
        }
        else
        {
            validation.AddRange(CarrierFitness.Check(CompanyStore.Record(carrier), sheet.Load.LastDelivery()));

            if (!Eml.IsAddress(carrier.Email))
            {
                validation.Add(
                    "carrier.email",
                    $"{carrier.Name} has no email address for the rate confirmation: add one to the carrier.",
                    "carrierId"
                );
            }
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var pay = request.Pay!.Value;
        var token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));
        var business = (await Business.Read(w.Db))!;
        await CoverStore.AssignCarrier(w.Db, sheet.Leg!.Id, carrier!.Id, pay);
        var tender = await CoverStore.AddTender(w, sheet.Leg!.Id, carrier.Id, pay, token);
        var state = await LoadWrites.Settle(w, loadId);
        w.Record(EventKinds.LoadCovered, loadId, $"{sheet.Load.Number} assigned to {carrier.Name} for {pay.Formatted}", loadId: loadId);
        await mailer.Send(
            w,
            MailPurpose.RateConfirmation,
            carrier.Email!,
            $"Rate confirmation for load {sheet.Load.Number}",
            $"""
            {carrier.Name},

            Our rate confirmation for load {sheet.Load.Number}, {Lane(sheet)}, at {pay.Formatted} is attached.
            Please review and accept it here:

            {settings.Url}/accept/{token}

            {w.Actor.Name}
            {business.Name}, {business.Phone}
            """,
            [],
            loadId,
            tender
        );
        return new CoverAnswer(loadId, sheet.Load.Number, state, carrier.Name, null, carrier.Email);
    }

    /// <summary>What reassigning the load undoes, in sentences; empty when it is not assigned.</summary>
    public static async Task<IReadOnlyList<string>> Undoes(NpgsqlConnection db, LoadSheet sheet)
    {
        if (sheet.Load.State != LoadState.Covered || sheet.Leg is not { } leg)
        {
            return [];
        }

        if (leg.DriverId is not null)
        {
            return
            [
                $"{leg.Driver} is unassigned and trip {leg.Trip} is canceled; truck {leg.Truck} and trailer {leg.Trailer} become available"
                    + (leg.AcceptedAt is null ? "." : "; they have already accepted it on their phone, so call them."),
            ];
        }

        var sent = await MailStore.SentOfLoad(db, sheet.Load.Id);
        return
        [
            sent
                ? $"{leg.Carrier} is unassigned at {leg.Agreed?.Formatted} and notified by email."
                : $"{leg.Carrier} is unassigned at {leg.Agreed?.Formatted}; the rate confirmation has not gone out yet and is stopped.",
            .. leg.Tender?.AcceptedBy is { } by ? new[] { $"It was accepted and signed by {by}: call them." } : [],
        ];
    }

    /// <summary>Frees a load for reassignment; the refusal when it cannot be unassigned.</summary>
    private async Task<Problems?> Freed(CommandContext w, long loadId)
    {
        if ((await LoadReads.ByIds(w.Db, [loadId]))[0].State != LoadState.Covered)
        {
            return null;
        }

        var freed = await Undo(w, loadId);
        return freed.Ok ? null : freed.Problems;
    }

    /// <summary>Unassigns a locked load. Email that was not sent is held back; a carrier that was already notified is notified
    /// again.</summary>
    public async Task<Outcome<CoverAnswer>> Undo(CommandContext w, long loadId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (sheet.Load.Work().UnassignRefusal(started: sheet.Load.Stops.Any(s => s.ArrivedAt is not null)) is { } refused)
        {
            return refused;
        }

        var told = await MailStore.SentOfLoad(w.Db, loadId);
        var held = await MailStore.HoldBackOfLoad(w, loadId);
        if (
            told
            && sheet.Leg?.CarrierId is { } carrierId
            && await CompanyStore.Get(w.Db, carrierId) is { } carrier
            && Eml.IsAddress(carrier.Email)
        )
        {
            var us = (await Business.Read(w.Db))!;
            await mailer.Send(
                w,
                MailPurpose.RateConfirmation,
                carrier.Email!,
                $"Load {sheet.Load.Number} canceled",
                $"""
                {carrier.Name},

                Load {sheet.Load.Number}, {Lane(
                    sheet
                )}, is no longer assigned to you. Please do not send a truck. The rate confirmation for {sheet.Leg.Agreed?.Formatted} is void.

                {w.Actor.Name}
                {us.Name}, {us.Phone}
                """,
                [],
                loadId
            );
        }

        foreach (var document in (await DocumentStore.OfLoad(w.Db, loadId)).Where(p => p.Kind == DocumentKind.RateConfirmation))
        {
            await DocumentStore.Remove(w, document.Id);
        }

        await CoverStore.Undo(w, sheet.Leg!.Id);
        var state = await LoadWrites.Settle(w, loadId);
        var who = sheet.Load.Who!;
        w.Record(
            EventKinds.LoadUnassigned,
            loadId,
            $"{sheet.Load.Number} unassigned from {who}" + (held > 0 ? "; the email was stopped before it went out" : ""),
            loadId: loadId,
            driverId: sheet.Load.DriverId,
            before: new
            {
                sheet.Load.TripId,
                sheet.Load.CarrierId,
                Agreed = sheet.Load.Agreed?.Amount,
            }
        );
        return new CoverAnswer(loadId, sheet.Load.Number, state, who, null, null);
    }

    /// <summary>The carrier accepts through its link.</summary>
    public static async Task<Outcome<TenderSheet>> Accept(CommandContext w, string token, AcceptRequest request)
    {
        var validation = new Validation();
        var name = validation.Text(request.Name, "name", "Your name", 80, required: true);
        var found = await CoverStore.TenderByToken(w.Db, token);
        if (found is null)
        {
            return new Problem("not.found", "This link is not valid.");
        }

        await LoadWrites.Lock(w.Db, found.LoadId);
        var tender = (await CoverStore.TenderByToken(w.Db, token))!;
        if (new Offer(tender.SentAt, tender.AcceptedAt, tender.AcceptedBy, tender.WithdrawnAt).Closed(w.Now) is { } closed)
        {
            validation.AddRange([closed]);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await CoverStore.Accept(w, tender.Id, name!);
        await LoadWrites.Settle(w, tender.LoadId);
        w.Record(
            EventKinds.TenderAccepted,
            tender.LoadId,
            $"{tender.Carrier} accepted {tender.LoadNumber} at {tender.Amount.Formatted}, signed {name}",
            loadId: tender.LoadId
        );
        return (await CoverStore.TenderByToken(w.Db, token))!;
    }

    private static string Lane(LoadSheet s) =>
        $"{s.Load.Stops[0].Town} {s.Load.Stops[0].Region} to {s.Load.Stops[^1].Town} {s.Load.Stops[^1].Region}";
}
