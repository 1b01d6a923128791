using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Covering;

/// <param name="Name">Who at the carrier answered.</param>
public sealed record AcceptRequest(string? Name);

/// <param name="Name">Who at the carrier answered.</param>
public sealed record DeclineRequest(string? Name, string? Reason);

/// <param name="Charges">All of them; the ones that are not sent are removed.</param>
/// <param name="LegId">The leg, when a carrier before the last one is meant.</param>
public sealed record CarrierPayRequest(IReadOnlyList<FlatChargeOrder>? Charges, long? LegId = null);

public sealed record TenderAnswer(long LoadId, string Number, LoadState State, string Summary);

/// <summary>A carrier's answer to a tender, on its link or by phone; its driver; what it is paid; and the end of a tender nobody
/// answered.</summary>
public sealed class TenderCommands(CoverCommands cover)
{
    /// <summary>One of us records that the carrier accepted a locked load by phone.</summary>
    public static async Task<Outcome<TenderAnswer>> AcceptByPhone(CommandContext w, long loadId, long? legId, AcceptRequest request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var validation = new Validation();
        var name = validation.Text(request.Name, "name", "The name of who accepted", 80, required: true);
        var asked = Asked(sheet, legId);
        if (!asked.Ok)
        {
            return asked.Problems;
        }

        validation.AddRange(await Unfit(w, sheet, asked.Value.CarrierId!.Value));
        return validation.Ok ? await Accepted(w, sheet, asked.Value, name!, AcceptedVia.Phone) : validation.Problems;
    }

    /// <summary>One of us records that the carrier declined a locked load.</summary>
    public static async Task<Outcome<TenderAnswer>> DeclineByPhone(CommandContext w, long loadId, long? legId, DeclineRequest request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var validation = new Validation();
        var name = validation.Text(request.Name, "name", "The name of who declined", 80);
        var reason = validation.Text(request.Reason, "reason", "The reason", 200);
        var asked = Asked(sheet, legId);
        if (!asked.Ok)
        {
            return asked.Problems;
        }

        return validation.Ok ? await Declined(w, sheet, asked.Value, name, reason) : validation.Problems;
    }

    /// <summary>The leg whose carrier answers: the one named, else the first that waits for an answer, else the one in progress; or why no answer
    /// can be recorded.</summary>
    private static Outcome<LegRow> Asked(LoadSheet sheet, long? legId)
    {
        var leg = legId is not null
            ? sheet.Meant(legId)
            : sheet.Legs.FirstOrDefault(l => l.Holder().Cover == LegCover.Tendered) ?? sheet.Leg;
        return leg is null ? Problem.Missing("This leg")
            : sheet.Work(leg).AnswerRefusal is { } refused ? refused
            : leg;
    }

    /// <summary>The carrier accepts on its link, or signs what it accepted by phone.</summary>
    public static async Task<Outcome<TenderSheet>> AcceptOnLink(CommandContext w, string token, AcceptRequest request)
    {
        var validation = new Validation();
        var name = validation.Text(request.Name, "name", "Your name", 80, required: true);
        var found = await OnLink(w, token);
        if (!found.Ok)
        {
            return found.Problems;
        }

        var (sheet, tender) = found.Value;
        if (tender.Tender.LinkRefusal(w.Now) is { } closed)
        {
            validation.AddRange([closed]);
        }
        else if (tender.Tender.AcceptedAt is null && (await Unfit(w, sheet, tender.CarrierId)).Count > 0)
        {
            return CallUs((await Business.Read(w.Db))!);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await Accepted(w, sheet, sheet.Meant(tender.LegId)!, name!, AcceptedVia.Link);
        return (await CoverStore.TenderByToken(w.Db, token))!;
    }

    /// <summary>The carrier declines on its link.</summary>
    public static async Task<Outcome<TenderSheet>> DeclineOnLink(CommandContext w, string token, DeclineRequest request)
    {
        var validation = new Validation();
        var name = validation.Text(request.Name, "name", "Your name", 80, required: true);
        var reason = validation.Text(request.Reason, "reason", "The reason", 200);
        var found = await OnLink(w, token);
        if (!found.Ok)
        {
            return found.Problems;
        }

        var (sheet, tender) = found.Value;
        if (tender.Tender.DeclineRefusal(w.Now) is { } closed)
        {
            validation.AddRange([closed]);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await Declined(w, sheet, sheet.Meant(tender.LegId)!, name, reason);
        return (await CoverStore.TenderByToken(w.Db, token))!;
    }

    /// <summary>One of us enters who comes for the freight of a locked load.</summary>
    public static async Task<Outcome<TenderAnswer>> Dispatch(CommandContext w, long loadId, long? legId, CarrierDispatch request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if ((legId is null ? sheet.Leg : sheet.Meant(legId)) is not { CarrierId: { } carrier } leg)
        {
            return new Problem("load.state", $"Load {sheet.Load.Number} is not assigned to a carrier.");
        }

        return await Dispatched(w, sheet, leg, request, await Unfit(w, sheet, carrier));
    }

    /// <summary>The carrier enters its driver and truck on its link.</summary>
    public static async Task<Outcome<TenderSheet>> DispatchOnLink(CommandContext w, string token, CarrierDispatch request)
    {
        var found = await OnLink(w, token);
        if (!found.Ok)
        {
            return found.Problems;
        }

        var (sheet, tender) = found.Value;
        if (tender.Tender.DispatchRefusal is { } refused)
        {
            return refused;
        }

        if ((await Unfit(w, sheet, tender.CarrierId)).Count > 0)
        {
            return CallUs((await Business.Read(w.Db))!);
        }

        var done = await Dispatched(w, sheet, sheet.Meant(tender.LegId)!, request, new Problems([]));
        return done.Ok ? (await CoverStore.TenderByToken(w.Db, token))! : done.Problems;
    }

    /// <summary>Changes what the carrier of a locked load is paid, and sends a revised rate confirmation to be signed.</summary>
    public async Task<Outcome<TenderAnswer>> ChangePay(CommandContext w, long loadId, CarrierPayRequest request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var meant = request.LegId is { } id ? sheet.Legs.FirstOrDefault(g => g.Id == id) : sheet.Leg;
        if (CarrierPay.ChangeRefusal(sheet.Load.State, sheet.Load.Number, meant?.Carrier, meant?.BillNumber) is { } refused)
        {
            return refused;
        }

        var validation = new Validation { Currency = meant?.Agreed?.Currency ?? Currency.USD };
        var charges = CarrierPay.Check(request.Charges ?? [], w.Today, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var leg = meant!;
        var before = leg.Charges.Select(c => c.AsCharge()).ToList();
        if (before.SequenceEqual(charges))
        {
            return new TenderAnswer(loadId, sheet.Load.Number, sheet.Load.State, $"Carrier pay of {sheet.Load.Number} is unchanged");
        }

        await CoverStore.ChangeCharges(w.Db, leg.Id, charges);
        if (leg.Tender is not null)
        {
            await cover.SendRevised(w, sheet, leg, charges);
        }

        var state = await LoadWrites.Settle(w, loadId);
        var summary = $"Carrier pay of {sheet.Load.Number} changed {CarrierPay.Describe(before, charges)}";
        w.Record(EventKinds.CarrierPayChanged, loadId, summary, loadId: loadId, before: before, after: charges);
        return new TenderAnswer(loadId, sheet.Load.Number, state, summary);
    }

    /// <summary>Ends a tender nobody answered in time; false when it is not so any more.</summary>
    public static async Task<bool> Expire(CommandContext w, long loadId, long tenderId)
    {
        await LoadWrites.Lock(w.Db, loadId);
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (
            sheet.Legs.FirstOrDefault(l => l.Tender?.Id == tenderId) is not { Tender: { } open } leg
            || sheet.Work(leg).State != LoadState.Tendered
            || !new Tender(open.SentAt, open.ExpiresAt, open.AcceptedAt).Expires(w.Now)
        )
        {
            return false;
        }

        await MailStore.HoldBackOfLeg(w, leg.Id);
        await CoverCommands.Clear(w, leg, TenderEnd.Expired);
        await LoadWrites.Settle(w, loadId);
        w.Record(
            EventKinds.TenderExpired,
            loadId,
            $"{leg.Carrier} did not answer the tender of {sheet.Load.Number}{sheet.Load.Part(leg.Seq)} in time: it is open again",
            loadId: loadId
        );
        return true;
    }

    /// <summary>The load of a link, locked, with its tender as it is then.</summary>
    private static async Task<Outcome<(LoadSheet Sheet, TenderSheet Tender)>> OnLink(CommandContext w, string token)
    {
        if (await CoverStore.TenderByToken(w.Db, token) is not { } found)
        {
            return new Problem("not.found", "This link is not valid.");
        }

        await LoadWrites.Lock(w.Db, found.LoadId);
        return ((await LoadReads.Sheet(w.Db, found.LoadId))!, (await CoverStore.TenderByToken(w.Db, token))!);
    }

    private static async Task<Problems> Unfit(CommandContext w, LoadSheet sheet, long carrierId) =>
        CarrierFitness.Check(
            CompanyStore.Record((await CompanyStore.Get(w.Db, carrierId))!),
            (await CompanySettingsStore.Read(w.Db)).CarrierRequirements,
            sheet.Load.Carried()
        );

    /// <summary>What a carrier reads that we would not send: our reasons are not for outsiders.</summary>
    private static Problem CallUs(Business us) =>
        new("carrier.unfit", $"This load cannot be confirmed on this page. Please call us at {us.Phone}.");

    private static async Task<TenderAnswer> Accepted(CommandContext w, LoadSheet sheet, LegRow leg, string name, AcceptedVia via)
    {
        await CoverStore.Accept(w, leg.Tender!.Id, name, via);
        var state = await LoadWrites.Settle(w, sheet.Load.Id);
        var (carrier, number, pay) = (leg.Carrier!, sheet.Load.Number, leg.Agreed!.Value.Formatted);
        var signs = leg.Tender.AcceptedAt is not null;
        var summary =
            signs ? $"{carrier} signed the rate confirmation of {number} at {pay}, {name}"
            : via == AcceptedVia.Link ? $"{carrier} accepted {number} at {pay}, signed {name}"
            : $"{carrier} accepted {number} at {pay} by phone, {name}";
        w.Record(signs ? EventKinds.RateConfirmationSigned : EventKinds.TenderAccepted, sheet.Load.Id, summary, loadId: sheet.Load.Id);
        return new TenderAnswer(sheet.Load.Id, number, state, summary);
    }

    private static async Task<TenderAnswer> Declined(CommandContext w, LoadSheet sheet, LegRow leg, string? name, string? reason)
    {
        await MailStore.HoldBackOfLeg(w, leg.Id);
        await CoverCommands.Clear(w, leg, TenderEnd.Declined, name, reason);
        var state = await LoadWrites.Settle(w, sheet.Load.Id);
        var summary =
            $"{leg.Carrier} declined {sheet.Load.Number}{(name is null ? "" : $", {name}")}{(reason is null ? "" : $": {reason}")}";
        w.Record(EventKinds.TenderDeclined, sheet.Load.Id, summary, loadId: sheet.Load.Id);
        return new TenderAnswer(sheet.Load.Id, sheet.Load.Number, state, summary);
    }

    private static async Task<Outcome<TenderAnswer>> Dispatched(
        CommandContext w,
        LoadSheet sheet,
        LegRow leg,
        CarrierDispatch request,
        Problems unfit
    )
    {
        if (sheet.Work(leg).DispatchRefusal is { } refused)
        {
            return refused;
        }

        var validation = new Validation();
        var dispatch = request.Check(validation);
        validation.AddRange(unfit);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await CoverStore.Dispatch(w.Db, leg.Id, dispatch);
        var state = await LoadWrites.Settle(w, sheet.Load.Id);
        var summary = $"{leg.Carrier} sends {dispatch.Summary} for {sheet.Load.Number}";
        w.Record(EventKinds.CarrierDispatched, sheet.Load.Id, summary, loadId: sheet.Load.Id, before: leg.Dispatch, after: dispatch);
        return new TenderAnswer(sheet.Load.Id, sheet.Load.Number, state, summary);
    }
}
