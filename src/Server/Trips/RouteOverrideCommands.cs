using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <param name="Miles">The load's miles, whole.</param>
/// <param name="Summary">What was done, in words.</param>
public sealed record LoadMilesResult(
    long LoadId,
    string Number,
    int Miles,
    [property: SeenWith(Right.RatesSee)] Money Revenue,
    [property: HoldsAmounts] string Summary
);

/// <param name="Expected">US dollars.</param>
public sealed record TripCostRequest(CostKind? Kind, Money? Expected, string? Note);

/// <summary>Route overrides of a load, and the costs planned for it.</summary>
public static class RouteOverrideCommands
{
    /// <summary>Sets manual miles or via points to a stop, or removes the override. The load's miles, its leg's, and charges by the mile
    /// follow.</summary>
    public static async Task<Outcome<LoadMilesResult>> Set(CommandContext w, long loadId, long stopId, RouteOverrideRequest request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var load = sheet.Load;
        var at = load.Stops.ToList().FindIndex(s => s.Id == stopId);
        if (at < 0)
        {
            return Problem.Missing("This stop");
        }

        if (load.Work().MilesRefusal is { } refused)
        {
            return refused;
        }

        // A stretch that a transfer divides belongs to the leg that ends with it.
        var leg = sheet.Legs.LastOrDefault(l => load.StopsOfLeg(l.Seq).Any(s => s.Id == stopId));
        var validation = new Validation();
        var route = Booking.CheckRoute(request.RouteOverride(), "", $"The route to {load.Stops[at].Town}", validation);
        if (at == 0)
        {
            validation.Add("route.first", "The first stop has no leg before it.", "miles");
        }
        else if (load.Stops[at - 1].Latitude is null || load.Stops[at].Latitude is null)
        {
            validation.Add("missing", "Both places must be set first.", "miles");
        }

        if (leg?.SettlementId is not null)
        {
            validation.Add(
                "settlement.approved",
                $"{leg.Driver}'s approved settlement includes these miles: reverse its approval first.",
                "miles"
            );
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var (before, stop) = (load.Stops[at - 1], load.Stops[at]);
        var roads = Routing.Roads.Stretch(before.Point, route.Via.Select(v => v.Point).ToList(), stop.Point, null);
        if (roads.Estimated && route.Via.Count > 0)
        {
            var off = route
                .Via.Select(v => Routing.Router.Unreached(v.Point) is { } why ? $"{v.Name} {why}." : null)
                .FirstOrDefault(why => why is not null);
            return new Problem("outside", off ?? "There is no road route through these points from this stop to the next.", "via");
        }

        await TripStore.SetRouteOverride(w, stopId, route, roads.Miles);
        var stops = (await LoadReads.ByIds(w.Db, [loadId]))[0].Stops;
        var miles = (int)
            Math.Round(
                stops.Skip(1).Select((s, i) => s.MilesSet ?? s.RoadMiles ?? Routing.Roads.Between(stops[i].Point, s.Point).Miles).Sum(),
                MidpointRounding.AwayFromZero
            );
        await TripStore.SetMiles(w.Db, loadId, leg?.Id, miles, miles - (load.Miles ?? 0), Charges(sheet, miles));
        if (leg?.TripId is { } trip)
        {
            await CoverStore.ShareAnew(w.Db, trip);
        }

        await LoadWrites.Settle(w, loadId);
        var summary = route switch
        {
            { Miles: { } set } =>
                $"{load.Number}: {before.Town} to {stop.Town} set to {set} miles, {route.Why} (road miles {roads.Miles:0.0})",
            { Via.Count: > 0 } =>
                $"{load.Number}: {before.Town} to {stop.Town} via {string.Join(", ", route.Via.Select(v => v.Name))}, {roads.Miles:0.0} miles",
            _ => $"{load.Number}: {before.Town} to {stop.Town} reset to the standard route, {roads.Miles:0.0} miles",
        };
        w.Record(
            EventKinds.LoadRouteSet,
            loadId,
            summary,
            loadId: loadId,
            driverId: load.DriverId,
            before: new
            {
                stop.MilesSet,
                stop.MilesWhy,
                stop.Via,
                load.Miles,
                load.Revenue,
            }
        );
        return new LoadMilesResult(loadId, load.Number, miles, (await LoadReads.ByIds(w.Db, [loadId]))[0].Revenue, summary);
    }

    public static async Task<Outcome<TripCostRow>> AddCost(CommandContext w, long loadId, TripCostRequest request)
    {
        var validation = new Validation();
        var note = validation.Text(request.Note, "note", "The note", 200);
        if (request.Kind is null)
        {
            validation.Add("missing", "Choose a cost type.", "kind");
        }

        validation.Dollars(request.Expected, "expected", "The planned amount", above: false);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var number = (await LoadReads.ByIds(w.Db, [loadId]))[0].Number;
        var id = await TripStore.AddCost(w, loadId, request.Kind!.Value, request.Expected!.Value, note);
        w.Record(
            EventKinds.TripCostAdded,
            loadId,
            $"{number}: {request.Kind.Value.Format()} of {request.Expected.Value.Formatted} planned",
            loadId: loadId
        );
        await LegCosts.OfLoad(w, loadId);
        return (await TripStore.Costs(w.Db, loadId)).Single(c => c.Id == id);
    }

    public static async Task<Outcome<LoadMilesResult>> RemoveCost(CommandContext w, long loadId, long costId)
    {
        var load = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        var cost = (await TripStore.Costs(w.Db, loadId)).FirstOrDefault(c => c.Id == costId);
        if (cost is null || !await TripStore.RemoveCost(w, loadId, costId))
        {
            return Problem.Missing("This cost");
        }

        await LegCosts.OfLoad(w, loadId);
        var summary = $"{load.Number}: planned {cost.Kind.Format()} of {cost.Expected.Formatted} removed";
        w.Record(EventKinds.TripCostRemoved, loadId, summary, loadId: loadId, before: cost);
        return new LoadMilesResult(loadId, load.Number, load.Miles ?? 0, load.Revenue, summary);
    }

    /// <summary>Reprices charges by the mile for the load's miles, as proposed after a stop was added.</summary>
    public static async Task<Outcome<LoadMilesResult>> Reprice(CommandContext w, long loadId)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var load = sheet.Load;
        var proposal = MileProposal.Of(LoadViews.Stored(sheet), load.Miles);
        if (MileProposal.Refusal(load.State, load.Number, proposal) is { } refused)
        {
            return refused;
        }

        await TripStore.SetMiles(w.Db, loadId, null, proposal!.Miles, 0, Charges(sheet, proposal.Miles));
        await LoadWrites.Settle(w, loadId);
        var summary =
            $"{load.Number} repriced for {proposal.Miles} miles: {proposal.After.Formatted}, before {proposal.Before.Formatted} for {proposal.ChargedMiles}";
        w.Record(EventKinds.LoadChanged, loadId, summary, loadId: loadId);
        return new LoadMilesResult(loadId, load.Number, proposal.Miles, proposal.After, summary);
    }

    private static List<(long Id, decimal? Quantity, Money Amount)> Charges(LoadSheet sheet, int miles) =>
        ChargePrices.ForMiles(LoadViews.Stored(sheet), miles).Select(c => (c.Id, c.Quantity, c.Amount)).ToList();
}
