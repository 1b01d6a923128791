using System.Security.Cryptography;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Papers;
using SteadyLark.Core.Trips;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Papers;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Papers;

namespace SteadyLark.Server.Covering;

/// <param name="Instead">Takes the load from whoever has it first.</param>
public sealed record CoverByDriverRequest(long? DriverId, long? TruckId, long? TrailerId, bool Instead = false);

/// <param name="Pay">What the carrier is to be paid.</param>
/// <param name="Instead">Takes the load from whoever has it first.</param>
public sealed record CoverByCarrierRequest(long? CarrierId, Money? Pay, bool Instead = false);

public sealed record CoverAnswer(long LoadId, string Number, LoadState State, string Who, string? Trip, string? MailTo);

public sealed record AcceptRequest(string? Name);

/// <summary>Giving loads to those who carry them.</summary>
public sealed class CoverCommands(LarkSettings settings, Letters letters)
{
    /// <summary>Gives a locked load to our driver with truck and trailer.</summary>
    public async Task<Outcome<CoverAnswer>> ByDriver(Work w, long loadId, CoverByDriverRequest request)
    {
        if (request.Instead && await Freed(w, loadId) is { } refused)
        {
            return refused;
        }

        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var checks = new Checks();
        Coverable(sheet, checks);
        var driver = request.DriverId is { } d ? await FleetStore.Driver(w.Db, d) : null;
        var truck = (await FleetStore.Trucks(w.Db)).FirstOrDefault(t => t.Id == request.TruckId);
        var trailer = (await FleetStore.Trailers(w.Db)).FirstOrDefault(t => t.Id == request.TrailerId);
        if (driver is not { Active: true })
        {
            checks.Add("missing", "Choose one of our drivers.", "driverId");
        }

        if (truck is not { Active: true })
        {
            checks.Add("missing", "Choose one of our trucks.", "truckId");
        }

        if (trailer is not { Active: true })
        {
            checks.Add("missing", "Choose one of our trailers.", "trailerId");
        }
        else if (sheet.Load.Equipment is { } wanted && trailer.Equipment != wanted)
        {
            checks.Add("trailer.equipment", $"Trailer {trailer.Unit} is a {trailer.Equipment.Said()}; the load needs a {wanted.Said()}.", "trailerId");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var span = TripPlan.Lay(Routing.Roads, sheet.Load.Stops.Select(s => s.Planned()).ToList()).Promise;
        var busy = Availability.Check(await FleetStore.Promises(w.Db, driver!.Id, truck!.Id, trailer!.Id, span), span, w.Zone);
        if (busy.Count > 0)
        {
            return busy.ToList();
        }

        var trip = await CoverStore.AddTrip(w, driver.Id, truck.Id, trailer.Id, span);
        await CoverStore.GiveToTrip(w.Db, sheet.Leg!.Id, trip.Id);
        var state = await LoadWrites.Settle(w.Db, loadId);
        await Events.Add(
            w, "load.covered", "load", loadId, $"{sheet.Load.Number} given to {driver.Name}, truck {truck.Unit}, trailer {trailer.Unit}, trip {trip.Number}", loadId: loadId, driverId: driver.Id);
        return new CoverAnswer(loadId, sheet.Load.Number, state, driver.Name, trip.Number, null);
    }

    /// <summary>Gives a locked load to a carrier, and puts the rate confirmation into the outbox.</summary>
    public async Task<Outcome<CoverAnswer>> ByCarrier(Work w, long loadId, CoverByCarrierRequest request)
    {
        if (request.Instead && await Freed(w, loadId) is { } refused)
        {
            return refused;
        }

        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var checks = new Checks();
        Coverable(sheet, checks);
        checks.Amount(request.Pay?.Amount, "pay", "What the carrier is paid");
        if (request.Pay is { Currency: not Currency.USD })
        {
            checks.Add("currency", "Carriers are paid in US dollars.", "pay");
        }

        var carrier = request.CarrierId is { } c ? await CompanyStore.Get(w.Db, c) : null;
        if (carrier?.Carrier is null)
        {
            checks.Add("missing", "Choose a carrier.", "carrierId");
        }
        else
        {
            if (sheet.Load.Stops.Count > 0 && sheet.Load.Stops[^1].Until is { } last)
            {
                checks.AddRange(CarrierFitness.Check(CompanyStore.Record(carrier), last.Date));
            }

            if (!Eml.IsAddress(carrier.Email))
            {
                checks.Add("carrier.email", $"{carrier.Name} has no mail address: write one on its sheet, the rate confirmation goes there.", "carrierId");
            }
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var pay = request.Pay!.Value;
        var token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));
        var business = (await Business.Read(w.Db))!;

        // The paper is drawn while the database works.
        var drawing = Task.Run(() => RateConfirmation.Draw(business, sheet, carrier!, pay, w.Now));
        await CoverStore.GiveToCarrier(w.Db, sheet.Leg!.Id, carrier!.Id, pay);
        await CoverStore.AddTender(w, sheet.Leg!.Id, carrier.Id, pay, token);
        var state = await LoadWrites.Settle(w.Db, loadId);
        await Events.Add(w, "load.covered", "load", loadId, $"{sheet.Load.Number} given to {carrier.Name} for {pay.Said}", loadId: loadId);
        var pdf = await drawing;
        await PaperStore.Add(w, loadId, PaperKind.RateConfirmation, $"rate-confirmation-{sheet.Load.Number}.pdf", "application/pdf", pdf);
        await letters.Send(
            w, carrier.Email!, $"Rate confirmation for load {sheet.Load.Number}",
            $"""
            {carrier.Name},

            here is our rate confirmation for load {sheet.Load.Number}, {Lane(sheet)}, at {pay.Said}.
            Please read it and accept it here:

            {settings.Url}/accept/{token}

            {w.Actor.Name}
            {business.Name}, {business.Phone}
            """,
            [new MailFile($"rate-confirmation-{sheet.Load.Number}.pdf", "application/pdf", pdf)], loadId);
        return new CoverAnswer(loadId, sheet.Load.Number, state, carrier.Name, null, carrier.Email);
    }

    /// <summary>What giving the load to another undoes, in sentences; empty when nobody has it.</summary>
    public static async Task<IReadOnlyList<string>> Undoes(NpgsqlConnection db, LoadSheet sheet)
    {
        if (sheet.Load.State != LoadState.Covered || sheet.Leg is not { } leg)
        {
            return [];
        }

        if (leg.DriverId is not null)
        {
            return [$"{leg.Driver} loses it, trip {leg.Trip} is called off, truck {leg.Truck} and trailer {leg.Trailer} are free again" + (leg.AcceptedAt is null ? "." : "; he has taken it on his phone already: call him.")];
        }

        var sent = await MailStore.SentOfLoad(db, sheet.Load.Id);
        return
        [
            sent ? $"{leg.Carrier} loses it at {leg.Agreed?.Said}; a mail tells it so." : $"{leg.Carrier} loses it at {leg.Agreed?.Said}; its rate confirmation has not gone yet and is held back.",
            .. leg.Tender?.AcceptedBy is { } by ? new[] { $"It was accepted and signed by {by}: call them." } : [],
        ];
    }

    /// <summary>Frees a load for another; the refusal when it cannot be taken back.</summary>
    private async Task<List<Problem>?> Freed(Work w, long loadId)
    {
        if ((await LoadReads.ByIds(w.Db, [loadId]))[0].State != LoadState.Covered)
        {
            return null;
        }

        var freed = await TakeBack(w, loadId);
        return freed.Ok ? null : freed.Problems.ToList();
    }

    /// <summary>Takes a locked load back from whoever has it. Mail that has not gone is held back; a carrier that was told is told again.</summary>
    public async Task<Outcome<CoverAnswer>> TakeBack(Work w, long loadId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (sheet.Load.State != LoadState.Covered || sheet.Load.Stops.Any(s => s.ArrivedAt is not null))
        {
            return new Problem("load.state", sheet.Load.Who is null ? "Nobody has this load." : $"{sheet.Load.Who} has begun already: the load cannot be taken back any more.");
        }

        var told = await MailStore.SentOfLoad(w.Db, loadId);
        var held = await MailStore.HoldBackOfLoad(w, loadId);
        if (told && sheet.Leg?.CarrierId is { } carrierId && await CompanyStore.Get(w.Db, carrierId) is { } carrier && Eml.IsAddress(carrier.Email))
        {
            var us = (await Business.Read(w.Db))!;
            await letters.Send(
                w, carrier.Email!, $"Load {sheet.Load.Number} is taken back",
                $"""
                {carrier.Name},

                load {sheet.Load.Number}, {Lane(sheet)}, is no longer yours: please do not send a truck. The rate confirmation over {sheet.Leg.Agreed?.Said} does not count any more.

                {w.Actor.Name}
                {us.Name}, {us.Phone}
                """,
                [], loadId);
        }

        foreach (var paper in (await PaperStore.OfLoad(w.Db, loadId)).Where(p => p.Kind == PaperKind.RateConfirmation))
        {
            await PaperStore.PutAway(w, paper.Id);
        }

        await CoverStore.TakeBack(w, sheet.Leg!.Id);
        var state = await LoadWrites.Settle(w.Db, loadId);
        var who = sheet.Load.Who!;
        await Events.Add(
            w, "load.taken_back", "load", loadId, $"{sheet.Load.Number} taken back from {who}" + (held > 0 ? "; the mail was held back" : ""), loadId: loadId, driverId: sheet.Load.DriverId,
            before: new { sheet.Load.TripId, sheet.Load.CarrierId, Agreed = sheet.Load.Agreed?.Amount });
        return new CoverAnswer(loadId, sheet.Load.Number, state, who, null, null);
    }

    /// <summary>The carrier accepts on its link.</summary>
    public static async Task<Outcome<TenderSheet>> Accept(Work w, string token, AcceptRequest request)
    {
        var checks = new Checks();
        var name = checks.Text(request.Name, "name", "Your name", 80, required: true);
        var found = await CoverStore.TenderByToken(w.Db, token);
        if (found is null)
        {
            return new Problem("not.found", "This link leads to no offer.");
        }

        await LoadWrites.Lock(w.Db, found.LoadId);
        var tender = (await CoverStore.TenderByToken(w.Db, token))!;
        if (tender.WithdrawnAt is not null)
        {
            checks.Add("tender.withdrawn", "This offer was taken back. Please call us.");
        }
        else if (tender.AcceptedAt is not null)
        {
            checks.Add("tender.accepted", $"This offer was accepted by {tender.AcceptedBy} already.");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        await CoverStore.Accept(w, tender.Id, name!);
        await LoadWrites.Settle(w.Db, tender.LoadId);
        await Events.Add(w, "tender.accepted", "load", tender.LoadId, $"{tender.Carrier} accepted {tender.LoadNumber} at {tender.Amount.Said}, signed {name}", loadId: tender.LoadId);
        return (await CoverStore.TenderByToken(w.Db, token))!;
    }

    private static void Coverable(LoadSheet sheet, Checks checks)
    {
        if (sheet.Load.State != LoadState.Booked)
        {
            checks.Add("load.state", sheet.Load.Who is { } who ? $"{who} has this load: take it back first." : $"Load {sheet.Load.Number} is {sheet.Load.State.ToString().ToLowerInvariant()}: book it first.");
        }

        if (sheet.Load.Held is { } held)
        {
            checks.Add("load.held", $"Load {sheet.Load.Number} is held: {held}");
        }
    }

    private static string Lane(LoadSheet s) => $"{s.Load.Stops[0].Town} {s.Load.Stops[0].Region} to {s.Load.Stops[^1].Town} {s.Load.Stops[^1].Region}";
}
