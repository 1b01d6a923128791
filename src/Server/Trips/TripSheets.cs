using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Core.Trips.Loading;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Tracking;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <summary>A visit of a trip.</summary>
/// <param name="Id">The stop, or below zero the transfer.</param>
/// <param name="LoadId">Null for a stop of the trip's own, as is <paramref name="Load"/>.</param>
/// <param name="Kind">Whether the freight is picked up or taken there, or delivered or left.</param>
/// <param name="From">When the place is open for it; null when it does not matter, as with <paramref name="Until"/>.</param>
/// <param name="Arrives">The ETA, or when it arrived.</param>
/// <param name="Late">Past the end of the window; zero when on time.</param>
/// <param name="Reached">Whether something happened there: then its place in the order is fixed.</param>
/// <param name="Miles">From the visit before, in tenths; from where the truck comes from for the first, null when that is unknown.</param>
/// <param name="Empty">Whether nothing was on board on the way there.</param>
/// <param name="After">What is on board after it.</param>
/// <param name="Trailers">The trailers that are hooked after it, and what is in each; empty for a trip that has one trailer all the way.</param>
public sealed record TripVisit(
    long Id,
    long? LoadId,
    string? Load,
    StopKind Kind,
    string Place,
    string Town,
    string Zone,
    Instant? From,
    Instant? Until,
    Instant Arrives,
    Instant Leaves,
    Duration Late,
    bool Reached,
    bool Done,
    double? Miles,
    bool Empty,
    OnBoard After,
    IReadOnlyList<InTrailer> Trailers,
    double Latitude,
    double Longitude,
    OwnStop? Own
);

/// <summary>What a stop of the trip's own is for.</summary>
/// <param name="Minutes">How long it takes.</param>
/// <param name="StartsAt">When the trip is set to start there; null at other stops.</param>
/// <param name="Trailer">The unit number of the trailer that is hooked or dropped; null at other stops.</param>
public sealed record OwnStop(
    TripStopKind Kind,
    int Minutes,
    string? Note,
    Instant? ArrivedAt,
    Instant? LeftAt,
    Instant? StartsAt,
    string? Trailer
);

/// <summary>A load on a trip.</summary>
/// <param name="Lane">Of its leg on the trip.</param>
/// <param name="Revenue">Its leg's share of the load's, in US dollars.</param>
/// <param name="Cost">What our truck costs for it; null until that is known.</param>
/// <param name="TrailerId">The trailer its freight is in; null for a truck alone, as is <paramref name="Trailer"/>, its unit number.</param>
/// <param name="MayChangeTrailer">Whether it may go in another of the trip's trailers.</param>
public sealed record TripLoad(
    long LegId,
    long LoadId,
    string Load,
    string? Customer,
    string Lane,
    string? Freight,
    int? WeightLb,
    LoadState State,
    [property: SeenWith(Right.RatesSee)] Money Revenue,
    [property: SeenWith(Right.MarginsSee)] Money? Cost,
    [property: SeenWith(Right.WagesSee)] Money? Pay,
    long? TrailerId,
    string? Trailer,
    bool MayChangeTrailer
);

/// <summary>A driver of a trip.</summary>
/// <param name="Share">Of its work, in percent.</param>
/// <param name="Pay">What they are expected to earn on it; null until that is known.</param>
public sealed record TripDriver(long DriverId, string Name, string? Phone, decimal Share, [property: SeenWith(Right.WagesSee)] Money? Pay);

/// <summary>One of a trip's trailers.</summary>
/// <param name="Unit">Its unit number.</param>
public sealed record TripUnit(long Id, string Unit, Equipment Equipment);

/// <summary>A trip: its visits in order, what is on board after each, its miles and money.</summary>
/// <param name="Trailers">The one it is assigned, then those it hooks on the way.</param>
/// <param name="Warnings">What somebody should know about the order, in sentences.</param>
/// <param name="Ends">When the truck leaves its last visit.</param>
/// <param name="TrailerAway">Whether the truck has to hook its trailer somewhere first, and does not yet.</param>
/// <param name="MostLb">The heaviest freight, by the trailer's payload and the gross weight.</param>
/// <param name="Margin">Null until every leg's cost is known, as is <paramref name="Cost"/>.</param>
public sealed record TripSheet(
    TripRow Trip,
    IReadOnlyList<TripUnit> Trailers,
    IReadOnlyList<TripDriver> Drivers,
    IReadOnlyList<TripVisit> Visits,
    IReadOnlyList<TripLoad> Loads,
    IReadOnlyList<string> Warnings,
    bool TrailerAway,
    double LoadedMiles,
    double EmptyMiles,
    Instant Ends,
    int MostLb,
    int LengthIn,
    [property: SeenWith(Right.RatesSee)] Money Revenue,
    [property: SeenWith(Right.MarginsSee)] Money? Cost,
    [property: SeenWith(Right.MarginsSee)] Margin? Margin
)
{
    /// <summary>What is in the compartments or on the decks of its trailers; none for trailers without them.</summary>
    public required IReadOnlyList<TripLoading> Loading { get; init; }
}

/// <summary>An order of a trip's visits that nobody chose yet, against the one it has.</summary>
/// <param name="AddedMiles">Whole miles more than now; below zero when it is shorter.</param>
/// <param name="AddedTime">How much later the trip ends; below zero when it ends earlier.</param>
/// <param name="Refused">Why it cannot be, in sentences; empty when it can.</param>
/// <param name="Late">What becomes late, in sentences.</param>
public sealed record TripPreview(
    TripSheet Sheet,
    int AddedMiles,
    Duration AddedTime,
    IReadOnlyList<string> Refused,
    IReadOnlyList<string> Late
);

/// <summary>A load that would ride on a trip.</summary>
/// <param name="TripLane">From the trip's first visit to its last.</param>
/// <param name="Carries">Numbers of the loads on it.</param>
/// <param name="LegId">The leg that would.</param>
/// <param name="From">When it can be picked up, until <paramref name="Until"/>.</param>
/// <param name="AddedMiles">Whole miles more, where it adds the fewest.</param>
/// <param name="AddedTime">How much later the trip ends.</param>
/// <param name="Adds">Its revenue less what the added miles and time cost.</param>
/// <param name="Late">What becomes late, in sentences; empty when it fits.</param>
/// <param name="NotBeside">Why it cannot ride beside the other loads, in sentences, where it is hauled before or after them instead.</param>
/// <param name="Trailer">The unit number of the trailer it goes in; null for a trip that has one.</param>
public sealed record TripOffer(
    long TripId,
    string Trip,
    string Driver,
    string TripLane,
    IReadOnlyList<string> Carries,
    long LegId,
    long LoadId,
    string Load,
    string? Customer,
    string Lane,
    Instant From,
    Instant Until,
    string Zone,
    int? WeightLb,
    int Pallets,
    int AddedMiles,
    Duration AddedTime,
    [property: SeenWith(Right.RatesSee)] Money Revenue,
    [property: SeenWith(Right.MarginsSee)] Money Adds,
    IReadOnlyList<string> Late,
    IReadOnlyList<string> NotBeside,
    string? Trailer
);

/// <summary>The way of a trip by road.</summary>
/// <param name="Ways">To each visit from the one before it; to the first from where the truck comes from, when that is known.</param>
/// <param name="TollMiles">On toll roads.</param>
public sealed record TripRoute(IReadOnlyList<TripWay> Ways, IReadOnlyList<StateMiles> ByState, double TollMiles);

/// <param name="VisitId">The visit it leads to.</param>
/// <param name="Line">Longitude and latitude of its points.</param>
public sealed record TripWay(long VisitId, double Miles, bool Empty, bool Estimated, IReadOnlyList<double[]> Line);

/// <summary>Reads trips with their visits.</summary>
public static class TripSheets
{
    /// <summary>Above so many loads or trips nearby only the nearest are tried.</summary>
    private const int MostTried = 40;

    /// <summary>The visits of a trip in order; null when a stop is not known yet.</summary>
    public static async Task<IReadOnlyList<Visit>?> Visits(NpgsqlConnection db, TripRow trip, ILookup<long, CargoLine>? cargo = null)
    {
        var legs = (await ItineraryStore.Legs(db, [trip.Id])).GetValueOrDefault(trip.Id);
        if (legs is null)
        {
            return [];
        }

        var loads = (await LoadReads.ByIds(db, legs.Legs.Select(l => l.LoadId))).ToDictionary(l => l.Id);
        cargo ??= await ItineraryStore.Cargo(db, loads.Keys);
        return loads.Values.All(l => l.Stops.All(s => s.CanBePlanned)) ? ItineraryStore.Visits(Routing.Roads, legs, loads, cargo) : null;
    }

    /// <inheritdoc cref="Open(NpgsqlConnection, TripRow, ILookup{long, CargoLine}, Instant)"/>
    public static async Task<OpenTrip> Open(NpgsqlConnection db, TripRow trip, Instant now) => await Open(db, trip, null, now);

    /// <summary>A trip as it stands: its visits, what it may carry, and where its truck comes from.</summary>
    /// <param name="cargo">Of its loads, when it was read already.</param>
    public static async Task<OpenTrip> Open(NpgsqlConnection db, TripRow trip, ILookup<long, CargoLine>? cargo, Instant now)
    {
        var visits = await Visits(db, trip, cargo) ?? [];
        var seen = trip.StartedAt is null ? [] : await PositionStore.Last(db, [trip.Id], now - LoadViews.SeenWithin);
        return new OpenTrip(
            visits,
            trip.Rig,
            await Begins(db, trip, now),
            seen.TryGetValue(trip.Id, out var at) ? new ComingFrom(at.Point, at.At) : null,
            now
        )
        {
            Loaded = trip.Trailers.All(t => t.Layout is { Compartments: [], Decks: [] }) ? [] : await ItineraryStore.Loaded(db, [trip.Id]),
        };
    }

    /// <summary>Where and when the driver is free before a trip: at the end of the one before it, as the board expects it.</summary>
    private static async Task<ComingFrom?> Begins(NpgsqlConnection db, TripRow trip, Instant now)
    {
        // Once it started, later trips of the driver may be over, too.
        if (trip.StartedAt is { } started)
        {
            return await TripStore.ComesFrom(db, trip.Id) is { } from ? new ComingFrom(from.Point, started) : null;
        }

        var before = (await LoadReads.OfDriver(db, trip.DriverId, now))
            .Where(l => l.TripId != trip.Id && l.State is LoadState.Covered or LoadState.Rolling && l.FirstAt <= trip.From)
            .ToList();
        if (before.Count > 0)
        {
            var visits = await LoadViews.Visits(db, before, now);
            // Each driver's own part of a load ends at its last stop or at a transfer.
            var ends = before
                .Where(l => visits.ContainsKey(l.Id))
                .Select(l =>
                    l.TransferAfter(l.Leg) is { } t
                        ? (Id: -t.Id, Point: t.AsTransfer().Point, Load: l.Id)
                        : (Id: l.Stops[^1].Id, Point: l.Stops[^1].Point, Load: l.Id)
                )
                .Select(e => new ComingFrom(e.Point, visits[e.Load].First(v => v.StopId == e.Id).Leaves))
                .OrderBy(e => e.Free)
                .ToList();
            if (ends.Count > 0)
            {
                return ends[^1];
            }
        }

        return (await LoadReads.LastEnds(db, [trip.DriverId])).TryGetValue(trip.DriverId, out var end)
            ? new ComingFrom(end.Point, end.Free)
            : null;
    }

    /// <summary>A trip, in the order it has or in another one.</summary>
    /// <param name="order">Another order of its visits; null for its own.</param>
    public static async Task<TripSheet?> Of(
        NpgsqlConnection db,
        long tripId,
        Instant now,
        DateTimeZone zone,
        OpenTrip? open = null,
        IReadOnlyList<Visit>? order = null
    )
    {
        if (await ItineraryStore.Trip(db, tripId) is not { } trip)
        {
            return null;
        }

        open ??= await Open(db, trip, now);
        var visits = order ?? open.Visits;
        var loads = (await LoadReads.ByIds(db, Itinerary.Carried(visits).Select(l => l.LoadId))).ToDictionary(l => l.Id);
        var legs = (await ItineraryStore.Legs(db, [tripId])).GetValueOrDefault(tripId)?.Legs ?? [];
        var money = await ItineraryStore.Amounts(db, legs.Select(l => l.LegId));
        var expected = visits.Count == 0 ? [] : open.Expect(Routing.Roads, visits);
        var (points, aboard) = (Itinerary.Points(Routing.Roads, visits), Itinerary.Aboard(visits));
        var hooked = TripTrailers.Hooked(visits, open.Rig);
        var rows = visits.Select((v, i) => Row(i)).ToList();
        var stands = (await LocationStore.TrailersBefore(db, [tripId])).GetValueOrDefault(tripId);
        var away = TripStops.TrailerAway(visits, trip.Trailer, stands, open.Begins?.Point, now, zone);
        var loading = open.Rig.Trailers.Select(t => (Trailer: t, Plan: TrailerLoading.Of(visits, open.Rig, t, open.Loaded))).ToList();
        var cost = LoadMargin.Cost(legs.Select(l => money[l.LegId].Cost));
        var revenue = Money.Sum(money.Values.Select(m => m.Revenue));
        return new TripSheet(
            trip,
            trip.Trailers.Select(t => new TripUnit(t.Id, t.Unit, t.Equipment)).ToList(),
            Drivers(trip, money.Values.ToList()),
            rows,
            legs.Where(l => loads.ContainsKey(l.LoadId)).Select(l => Load(l, loads[l.LoadId], money[l.LegId], open, visits)).ToList(),
            [
                .. away is null ? [] : new[] { away },
                .. Itinerary.Late(visits, expected, new Dictionary<long, Duration>()),
                .. Itinerary.BehindOthers(visits),
                .. aboard.SelectMany(Capacity.KeptApart).Distinct(),
                .. loading.SelectMany(l => l.Plan.Warnings),
            ],
            away is not null,
            Math.Round(rows.Where(r => !r.Empty).Sum(r => r.Miles ?? 0), 1),
            Math.Round(rows.Where(r => r.Empty).Sum(r => r.Miles ?? 0), 1),
            expected.Count == 0 ? trip.Until : expected[^1].Leaves,
            open.Rig.Limits(open.Rig.First).MostLb,
            open.Rig.Limits(open.Rig.First).Trailer.LengthIn,
            revenue,
            cost,
            cost is { } c ? Margin.Of(revenue, c) : null
        )
        {
            Loading = loading
                .Select(l => TripLoading.Of(l.Plan, visits.Count, open.Rig.Limits(l.Trailer), l.Trailer.Unit))
                .OfType<TripLoading>()
                .ToList(),
        };

        TripVisit Row(int i)
        {
            var (v, e) = (visits[i], expected[i]);
            var load = v.Leg.Carries ? loads[v.Leg.LoadId] : null;
            var window = points[i].Window;
            double? miles =
                i > 0 ? Routing.Roads.To(points[i - 1].Point, points[i]).Miles
                : open.Begins is { } from ? Routing.Roads.Between(from.Point, points[0].Point).Miles
                : null;
            return new TripVisit(
                v.Stop.Id,
                load?.Id,
                load?.Number,
                v.Stop.Kind,
                v.Leg.Own?.Place
                    ?? load!.Stops.FirstOrDefault(s => s.Id == v.Stop.Id)?.Place
                    ?? load.Transfers.First(t => t.Id == -v.Stop.Id).Place,
                v.Town,
                v.Zone.Id,
                // A trailer can be dropped whenever the truck gets there.
                window.From == Instant.MinValue
                    ? null
                    : window.From,
                window.Until == Instant.MaxValue ? null : window.Until,
                e.Arrives,
                e.Leaves,
                e.Late,
                v.Reached,
                v.Stop.Done,
                miles is { } m ? Math.Round(m, 1) : null,
                i == 0 || aboard[i - 1].Count == 0,
                open.Rig.Trailers.Count > 1
                    ? Capacity.Together(aboard[i], hooked[i], open.Rig)
                    : Capacity.Of(aboard[i], open.Rig.Limits(open.Rig.First)),
                open.Rig.Trailers.Count > 1 ? Capacity.Behind(aboard[i], hooked[i], open.Rig) : [],
                v.Stop.Point.Latitude,
                v.Stop.Point.Longitude,
                v.Leg.Own is { } own
                    ? new OwnStop(own.Kind, (int)v.Stop.ServiceTime.TotalMinutes, own.Note, own.Arrived, own.Left, own.Planned, own.Trailer)
                    : null
            );
        }
    }

    /// <summary>Where a leg's freight goes in compartments or on decks, in sentences; empty for other freight.</summary>
    public static async Task<IReadOnlyList<string>> LoadingOf(NpgsqlConnection db, LoadSheet sheet, LegRow? leg, Instant now)
    {
        if (leg?.TripId is not { } tripId || !sheet.Freight.Any(f => f.IsPlaced) || await ItineraryStore.Trip(db, tripId) is not { } trip)
        {
            return [];
        }

        var open = await Open(db, trip, now);
        return open.Rig.Trailers.FirstOrDefault(t => t.Id == leg.TrailerId) is { } trailer
            ? TrailerLoading.Of(open.Visits, open.Rig, trailer, open.Loaded).Of(leg.Id, trailer.Layout)
            : [];
    }

    /// <summary>The way of a trip by road; null when there is no such trip.</summary>
    public static async Task<TripRoute?> Route(NpgsqlConnection db, long tripId, Instant now)
    {
        if (await ItineraryStore.Trip(db, tripId) is not { } trip)
        {
            return null;
        }

        var open = await Open(db, trip, now);
        var (points, aboard) = (Itinerary.Points(Routing.Roads, open.Visits), Itinerary.Aboard(open.Visits));
        var ways = new List<(long Visit, DrivenRoute Way, bool Empty)>();
        for (var i = 0; i < points.Count; i++)
        {
            if ((i > 0 ? points[i - 1].Point : open.Begins?.Point) is { } from)
            {
                GeoPoint[] through = [from, .. points[i].Via ?? [], points[i].Point];
                var region = open.Visits[i].Town.Split(' ')[^1];
                var way = DrivenRoute.Of(Routing.Router.Route(through), through, points[i].SetMiles, region);
                ways.Add((points[i].Id, way, i == 0 || aboard[i - 1].Count == 0));
            }
        }

        return new TripRoute(
            ways.ConvertAll(w => new TripWay(
                w.Visit,
                Math.Round(w.Way.Counts.Miles, 1),
                w.Empty,
                w.Way.Estimated,
                w.Way.Line.Select(Routing.Position).ToList()
            )),
            StateMiles
                .Of(ways.Select(w => (w.Way, w.Empty)))
                .Select(s => new StateMiles(s.Region, Math.Round(s.Loaded, 1), Math.Round(s.Empty, 1)))
                .ToList(),
            Math.Round(ways.Sum(w => w.Way.TollMiles), 1)
        );
    }

    /// <summary>Another order of a trip's visits, against the one it has.</summary>
    public static async Task<Outcome<TripPreview>> Preview(
        NpgsqlConnection db,
        long tripId,
        IReadOnlyList<long> order,
        Instant now,
        DateTimeZone zone
    )
    {
        if (await ItineraryStore.Trip(db, tripId) is not { } trip)
        {
            return Problem.Missing("This trip");
        }

        var open = await Open(db, trip, now);
        if (Itinerary.OrderRefuses(open.Visits, order) is { } refused)
        {
            return refused;
        }

        var visits = Itinerary.InOrder(open.Visits, order);
        var (before, after) = (open.Expect(Routing.Roads, open.Visits), open.Expect(Routing.Roads, visits));
        return new TripPreview(
            (await Of(db, tripId, now, zone, open, visits))!,
            open.AddedMiles(Routing.Roads, visits),
            after[^1].Leaves - before[^1].Leaves,
            Itinerary.Overloaded(visits, open.Rig, open.Loaded).Select(p => p.Message).ToList(),
            Itinerary.Late(visits, after, OpenTrip.Late(before))
        );
    }

    /// <summary>Open loads that would ride on a trip, what adds most first.</summary>
    /// <param name="loads">Those that are open.</param>
    public static async Task<List<TripOffer>> Loads(NpgsqlConnection db, TripRow trip, IEnumerable<LoadRow> loads, Instant now)
    {
        var open = await Open(db, trip, now);
        var matches = await FleetStore.Matches(db);
        var rows = loads
            .Where(l =>
                l.ToCover is not null
                && l.Stops.Count > 0
                && l.Stops.All(s => s.CanBePlanned)
                && TripTrailers.For(trip.Rig, l.Equipment, l.Features, matches).Count > 0
            )
            .ToList();
        var legs = await ItineraryStore.LegIds(db, rows.Select(l => l.Id));
        var cargo = await ItineraryStore.Cargo(db, rows.Select(l => l.Id));
        var candidates = rows.SelectMany(l => legs[l.Id].Select(g => (Row: l, g.Leg, OnTrip: l.OnTrip(Routing.Roads, g.Id, g.Leg, cargo))))
            .ToList();
        var near = TripOffers.Near(open, candidates, c => c.OnTrip, MostTried);
        return await Offers(db, near.Select(c => (trip, open, c.Row, c.Leg, c.OnTrip)).ToList(), matches);
    }

    /// <summary>Trips on which a load's leg would ride, where it adds most first.</summary>
    public static async Task<List<TripOffer>> Trips(NpgsqlConnection db, LoadRow load, long legId, int leg, Instant now)
    {
        if (load.Stops.Any(s => !s.CanBePlanned))
        {
            return [];
        }

        var matches = await FleetStore.Matches(db);
        var onTrip = load.OnTrip(Routing.Roads, legId, leg, await ItineraryStore.Cargo(db, [load.Id]));
        var found = new List<(TripRow, OpenTrip, LoadRow, int, TripLeg)>();
        foreach (var trip in await ItineraryStore.Open(db, Enum.GetValues<Equipment>().Where(e => matches.Fits(e, load.Equipment))))
        {
            if (
                TripTrailers.For(trip.Rig, load.Equipment, load.Features, matches).Count > 0
                && TripOffers.CanMeet(trip.From, trip.Until, onTrip)
            )
            {
                var open = await Open(db, trip, now);
                if (TripOffers.Near(open, [onTrip], l => l, 1).Count > 0)
                {
                    found.Add((trip, open, load, leg, onTrip));
                }
            }
        }

        return await Offers(db, found, matches);
    }

    private static async Task<List<TripOffer>> Offers(
        NpgsqlConnection db,
        List<(TripRow Trip, OpenTrip Open, LoadRow Row, int Leg, TripLeg OnTrip)> tried,
        EquipmentMatches matches
    )
    {
        var money = await ItineraryStore.Amounts(db, tried.Select(t => t.OnTrip.LegId).Distinct());
        var figures = (await CompanySettingsStore.Read(db)).Costs;
        return tried
            .Select(t =>
                (
                    t.Trip,
                    t.Open,
                    t.Row,
                    t.Leg,
                    t.OnTrip,
                    Added: t.Open.Insert(Routing.Roads, t.OnTrip, TripTrailers.For(t.Trip.Rig, t.Row.Equipment, t.Row.Features, matches))
                )
            )
            .Where(t =>
                !t.Added.Refused.Any && TripOffers.SharesTheWay(t.Added.AddedMiles, Routing.Roads.Through(t.OnTrip.Stops).WholeMiles)
            )
            .Select(t =>
            {
                var added = t.Added;
                var first = t.OnTrip.Stops[0];
                var revenue = money[t.OnTrip.LegId].Revenue;
                return new TripOffer(
                    t.Trip.Id,
                    t.Trip.Number,
                    t.Trip.Driver,
                    Itinerary.Lane(t.Open.Visits),
                    Itinerary.Carried(t.Open.Visits).Select(l => l.Number).ToList(),
                    t.OnTrip.LegId,
                    t.Row.Id,
                    t.Row.Number,
                    t.Row.Customer,
                    t.Row.Lane(t.Leg),
                    first.Window.From,
                    first.Window.Until,
                    t.OnTrip.Zones[0].Id,
                    t.Row.WeightLb,
                    t.OnTrip.Cargo.Sum(c => c.Pallets ?? 0),
                    added.AddedMiles,
                    added.AddedTime,
                    revenue,
                    TripOffers.Adds(revenue, added.AddedMiles, added.AddedTime, figures),
                    Itinerary.Late(added.Visits, added.Expected, added.LateBefore),
                    added.NotBeside.Select(p => p.Message).ToList(),
                    t.Trip.Trailers.Count > 1 ? t.Trip.Rig.Of(added.Visits.First(v => v.Leg.LegId == t.OnTrip.LegId).Leg)?.Unit : null
                );
            })
            .OrderBy(o => TripOffers.Rank(o.Late.Count, o.Adds))
            .ThenBy(o => o.LegId)
            .ToList();
    }

    /// <summary>The drivers of a trip with what each earns on its legs.</summary>
    private static List<TripDriver> Drivers(TripRow trip, IReadOnlyList<LegMoney> legs)
    {
        var known = legs.All(m => m.Pay is not null);
        var with = Money.Sum(legs.Select(m => m.CodriverPay ?? Money.Zero()));
        var alone = Money.Sum(legs.Select(m => m.Pay ?? Money.Zero())) - with;
        List<TripDriver> drivers =
        [
            new(trip.DriverId, trip.Driver, trip.DriverPhone, 100 - (trip.CodriverShare ?? 0), known ? alone : null),
        ];
        if (trip is { CodriverId: { } id, Codriver: { } name, CodriverShare: { } share })
        {
            drivers.Add(new TripDriver(id, name, trip.CodriverPhone, share, known ? with : null));
        }

        return drivers;
    }

    private static TripLoad Load(TripLegRow leg, LoadRow load, LegMoney money, OpenTrip open, IReadOnlyList<Visit> visits)
    {
        var trailer = open.Rig.Trailers.FirstOrDefault(t => t.Id == leg.TrailerId) ?? open.Rig.First;
        var first = visits.FirstOrDefault(v => v.Leg.LegId == leg.LegId);
        return new TripLoad(
            leg.LegId,
            load.Id,
            load.Number,
            load.Customer,
            load.Lane(leg.Leg),
            load.Freight,
            load.WeightLb,
            load.State,
            money.Revenue,
            money.Cost,
            money.Pay,
            trailer?.Id,
            trailer?.Unit,
            open.Rig.Trailers.Count > 1 && first is not null && TripTrailers.ChangeRefuses("", first.Leg, trailer, first.Reached) is null
        );
    }
}
