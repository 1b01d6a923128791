using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Loads;

/// <summary>A stop as the page sends it. Times are the place's wall clock.</summary>
public sealed record StopRequest(StopKind? Kind, long? PlaceId, LocalDateTime? From, LocalDateTime? Until, string? Note);

public sealed record FreightRequest(string? Description, int? Pieces, int? Pallets, int? WeightLb, int? TemperatureF);

public sealed record ChargeRequest(ChargeKind? Kind, string? Description, Money? Amount);

/// <summary>A load as the page sends it.</summary>
/// <param name="Draft">Keep it without booking it; then nothing is required.</param>
public sealed record LoadRequest(
    long? CustomerId, string? Reference, Equipment? Equipment, IReadOnlyList<StopRequest>? Stops, IReadOnlyList<FreightRequest>? Freight,
    IReadOnlyList<ChargeRequest>? Charges, string? Instructions, bool Draft)
{
    public LoadOrder Order() => new(
        CustomerId, Reference, Equipment,
        (Stops ?? []).Select(s => new StopOrder(s.Kind, s.PlaceId, s.From, s.Until, s.Note)).ToList(),
        (Freight ?? []).Select(f => new FreightOrder(f.Description, f.Pieces, f.Pallets, f.WeightLb, f.TemperatureF)).ToList(),
        (Charges ?? []).Select(c => new ChargeOrder(c.Kind, c.Description, c.Amount?.Amount)).ToList(),
        Instructions, Draft);
}

/// <summary>What came of booking.</summary>
/// <param name="Warnings">What a person should look at, though it did not stand in the way.</param>
public sealed record BookedAnswer(long Id, string Number, LoadState State, IReadOnlyList<Problem> Warnings);

public sealed record CancelRequest(string? Why);

/// <summary>Booking, changing and calling off loads.</summary>
public static class LoadCommands
{
    public static async Task<Outcome<BookedAnswer>> Book(Work w, LoadRequest request)
    {
        var decided = await Decide(w, request);
        if (!decided.Ok)
        {
            return decided.Problems.ToList();
        }

        var load = decided.Value;
        var number = (await LoadWrites.NextNumber(w.Db, "load"))!;
        var id = await LoadWrites.Add(w, number, load);
        var state = await LoadWrites.Settle(w.Db, id);
        await Events.Add(w, load.Draft ? "load.drafted" : "load.booked", "load", id, load.Draft ? $"{number} kept as a draft" : $"{number} booked, {Lane(load)}", loadId: id);
        return new BookedAnswer(id, number, state, load.Warnings);
    }

    /// <summary>Changes a load that is locked already.</summary>
    public static async Task<Outcome<BookedAnswer>> Change(Work w, long id, LoadRequest request)
    {
        var before = (await LoadReads.Sheet(w.Db, id))!;
        var state = before.Load.State;
        if (state is LoadState.Billed or LoadState.Closed or LoadState.Cancelled)
        {
            return new Problem("load.state", $"Load {before.Load.Number} is {state.ToString().ToLowerInvariant()} and does not change any more.");
        }

        if (state != LoadState.Draft && request.Draft)
        {
            return new Problem("load.state", $"Load {before.Load.Number} is booked already: it cannot become a draft again.", "draft");
        }

        var decided = await Decide(w, request);
        if (!decided.Ok)
        {
            return decided.Problems.ToList();
        }

        var load = decided.Value;
        if (state is LoadState.Draft or LoadState.Booked)
        {
            await LoadWrites.Replace(w, id, load);
        }
        else if (SameStops(before, load))
        {
            await LoadWrites.ReplaceAllButStops(w, id, load);
        }
        else
        {
            return new Problem("load.covered", $"{before.Load.Who} carries this load by these stops: take the load back before changing them.", "stops");
        }

        var now = await LoadWrites.Settle(w.Db, id);
        await Events.Add(
            w, state == LoadState.Draft && !load.Draft ? "load.booked" : "load.changed", "load", id,
            state == LoadState.Draft && !load.Draft ? $"{before.Load.Number} booked, {Lane(load)}" : $"{before.Load.Number} changed",
            loadId: id, driverId: before.Load.DriverId, before: Kept(before));
        return new BookedAnswer(id, before.Load.Number, now, load.Warnings);
    }

    public static async Task<Outcome<BookedAnswer>> Cancel(Work w, long id, CancelRequest request)
    {
        var checks = new Checks();
        var why = checks.Text(request.Why, "why", "The reason", 400, required: true);
        var before = (await LoadReads.Sheet(w.Db, id))!;
        if (before.Load.State is not (LoadState.Draft or LoadState.Booked))
        {
            checks.Add("load.state", before.Load.State == LoadState.Covered ? "Take the load back before calling it off." : $"Load {before.Load.Number} is {before.Load.State.ToString().ToLowerInvariant()} and cannot be called off.");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        await LoadWrites.Cancel(w, id, why!);
        var state = await LoadWrites.Settle(w.Db, id);
        await Events.Add(w, "load.cancelled", "load", id, $"{before.Load.Number} called off: {why}", loadId: id);
        return new BookedAnswer(id, before.Load.Number, state, []);
    }

    private static async Task<Outcome<BookedLoad>> Decide(Work w, LoadRequest request)
    {
        var order = request.Order();
        var places = await PlaceStore.Known(w.Db, order.Stops.Select(s => s.PlaceId).OfType<long>());
        var customer = order.CustomerId is { } id ? await CompanyStore.Get(w.Db, id) : null;
        return request.Charges?.Any(c => c?.Amount is { Currency: not Currency.USD }) == true
            ? new Problem("currency", "Loads are charged in US dollars.", "charges")
            : Booking.Decide(order, places, customer?.IsCustomer == true, w.Today);
    }

    private static bool SameStops(LoadSheet before, BookedLoad load) =>
        before.Load.Stops.Count == load.Stops.Count
        && before.Load.Stops.Zip(load.Stops).All(p => p.First.Kind == p.Second.Kind && p.First.PlaceId == p.Second.Place?.Id && p.First.From == p.Second.Window?.From && p.First.Until == p.Second.Window?.Until);

    private static object Kept(LoadSheet s) => new
    {
        s.Load.CustomerId,
        s.Load.Reference,
        Equipment = s.Load.Equipment?.ToString(),
        Stops = s.Load.Stops.Select(x => new { Kind = x.Kind.ToString(), x.PlaceId, From = x.From?.ToString(), Until = x.Until?.ToString(), x.Note }),
        s.Freight,
        Charges = s.Charges.Select(c => new { Kind = c.Kind.ToString(), c.Description, c.Amount.Amount }),
        s.Instructions,
    };

    private static string Lane(BookedLoad load) => load.Stops.Count >= 2 ? $"{load.Stops[0].Place?.Town} to {load.Stops[^1].Place?.Town}" : "";
}
