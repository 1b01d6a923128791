using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Tracking;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <summary>The plan: drivers with their trips over some days, the loads that still need a truck, and loaded trailers that stand.</summary>
/// <param name="From">The days shown, until <paramref name="Until"/>.</param>
public sealed record PlanBoard(
    Instant From,
    Instant Until,
    IReadOnlyList<PlanDriver> Drivers,
    IReadOnlyList<PlanUnit> Trucks,
    IReadOnlyList<PlanUnit> Trailers,
    IReadOnlyList<PlanLeg> Open,
    IReadOnlyList<PlanStanding> Standing
);

/// <summary>A truck or trailer.</summary>
public sealed record PlanUnit(long Id, string Unit, Equipment? Equipment);

/// <summary>A driver and their trips, in order.</summary>
/// <param name="FreeTown">Where the last trip ends, or where the driver is free now.</param>
/// <param name="FreeAt">When that is; null when free already.</param>
/// <param name="HomeAt">When they get home after the last trip; null when unknown.</param>
/// <param name="HomeMiles">The empty miles home, whole.</param>
/// <param name="PerDay">Margin per day of the trips.</param>
/// <param name="Warnings">What does not work, in sentences.</param>
public sealed record PlanDriver(
    long Id,
    string Name,
    string? Group,
    string? Phone,
    string? HomeTown,
    Instant? HomeBy,
    IReadOnlyList<TimeOffRow> Off,
    string? FreeTown,
    Instant? FreeAt,
    long? TruckId,
    long? TrailerId,
    Equipment? Equipment,
    Instant? HomeAt,
    int? HomeMiles,
    [property: SeenWith(Right.MarginsSee)] Money? PerDay,
    IReadOnlyList<string> Warnings,
    IReadOnlyList<PlanTrip> Trips
);

/// <summary>A trailer of a trip, and when it is booked for it.</summary>
public sealed record PlanTrailer(long TrailerId, Instant From, Instant Until);

/// <summary>A trip on the plan.</summary>
/// <param name="Trailers">Its trailers, each with its part of the trip.</param>
/// <param name="StartsAt">When it is set to start; null for as early as its first pickup allows.</param>
/// <param name="EmptyMiles">To its first visit, whole; null when it is not known where the truck comes from.</param>
/// <param name="Margin">Null until the cost of each of its loads is known.</param>
public sealed record PlanTrip(
    long Id,
    string Number,
    string? Name,
    string Lane,
    long DriverId,
    long? CodriverId,
    long TruckId,
    long? TrailerId,
    IReadOnlyList<PlanTrailer> Trailers,
    Instant? StartedAt,
    Instant? EndedAt,
    Instant? AcceptedAt,
    Instant? StartsAt,
    Instant SetsOut,
    Instant Ends,
    int? EmptyMiles,
    int Miles,
    [property: SeenWith(Right.MarginsSee)] Money? Margin,
    IReadOnlyList<PlanVisit> Visits
);

/// <param name="Id">The stop, or below zero the transfer.</param>
/// <param name="LoadId">Null for a stop of the trip's own, whose <paramref name="Own"/> kind is set; as is <paramref name="Load"/>.</param>
/// <param name="Late">Past the end of the window; zero when on time.</param>
/// <param name="Loaded">Whether freight is on board on the way there.</param>
public sealed record PlanVisit(
    long Id,
    long? LegId,
    long? LoadId,
    string? Load,
    StopKind Kind,
    string Town,
    string Zone,
    Instant From,
    Instant Until,
    Instant Arrives,
    Instant Leaves,
    Duration Late,
    bool Reached,
    bool Done,
    bool Loaded,
    TripStopKind? Own
);

/// <summary>A leg that still needs a truck.</summary>
/// <param name="Leg">Its number, from 1.</param>
/// <param name="From">When its freight can be picked up, until <paramref name="Until"/>.</param>
/// <param name="DueFrom">When it can be delivered, until <paramref name="DueBy"/>.</param>
/// <param name="Who">The carrier that has not answered its tender yet; null without one.</param>
public sealed record PlanLeg(
    long LegId,
    int Leg,
    long LoadId,
    string Load,
    string? Customer,
    string Lane,
    Equipment? Equipment,
    int? WeightLb,
    string? Who,
    Instant From,
    Instant Until,
    Instant DueFrom,
    Instant DueBy,
    string Zone,
    string Status,
    Urgency Urgency,
    [property: SeenWith(Right.RatesSee)] Money Revenue
);

/// <summary>Freight that waits at a transfer for its next truck.</summary>
/// <param name="Trailer">Our trailer that brought it; null when a carrier's did.</param>
/// <param name="Deadline">By when the next truck has to take it to be on time.</param>
/// <param name="Who">Who takes it; null while no truck does.</param>
public sealed record PlanStanding(
    long TransferId,
    long LoadId,
    string Load,
    long? TrailerId,
    string? Trailer,
    string Place,
    string Town,
    Instant Since,
    Instant Deadline,
    string? Who
);

/// <summary>Reads the plan.</summary>
public static class PlanViews
{
    /// <summary>At most so many open legs.</summary>
    private const int MostOpen = 500;

    /// <param name="lines">Loads that are booked, covered or rolling.</param>
    public static async Task<PlanBoard> Board(
        NpgsqlConnection db,
        IReadOnlyList<LoadLine> lines,
        Span shown,
        Instant now,
        DateTimeZone zone
    )
    {
        var known = lines.ToDictionary(l => l.Load.Id, l => l.Load);
        var drivers = await Drivers(db, shown, null, known, now, zone);
        return new PlanBoard(
            shown.From,
            shown.Until,
            drivers.Select(d => d.Driver).ToList(),
            (await FleetStore.Trucks(db)).Where(t => t.Active).Select(t => new PlanUnit(t.Id, t.Unit, null)).ToList(),
            (await FleetStore.Trailers(db)).Where(t => t.Active).Select(t => new PlanUnit(t.Id, t.Unit, t.Equipment)).ToList(),
            await Open(db, lines, shown),
            await Standing(db, lines)
        );
    }

    /// <summary>Active drivers with their trips as far ahead as is looked, and what the plan of each adds up to.</summary>
    /// <param name="only">Only these; all when null.</param>
    public static Task<List<(PlanDriver Driver, PlanTotals Totals)>> Ahead(CommandContext w, IReadOnlyCollection<long>? only = null) =>
        Drivers(w.Db, new Span(w.Now, w.Now + PlanEndpoints.Longest), only, new Dictionary<long, LoadRow>(), w.Now, w.Zone);

    /// <summary>Active drivers with their trips in a span, and what the plan of each adds up to.</summary>
    /// <param name="only">Only these; all when null.</param>
    /// <param name="known">Loads that were read already.</param>
    public static async Task<List<(PlanDriver Driver, PlanTotals Totals)>> Drivers(
        NpgsqlConnection db,
        Span shown,
        IReadOnlyCollection<long>? only,
        IReadOnlyDictionary<long, LoadRow> known,
        Instant now,
        DateTimeZone zone
    )
    {
        var rows = await ItineraryStore.Around(db, shown, only);
        var legs = await ItineraryStore.Legs(db, rows.Select(t => t.Id));
        var loads = await Loads(db, legs, known);
        var money = await ItineraryStore.Amounts(db, legs.Values.SelectMany(t => t.Legs).Select(l => l.LegId));
        var ends = await LoadReads.LastEnds(db, only ?? rows.SelectMany(t => t.Crew).ToList());
        var seen = await PositionStore.Last(
            db,
            rows.Where(t => t is { StartedAt: not null, EndedAt: null }).Select(t => t.Id),
            now - LoadViews.SeenWithin
        );
        var stands = await LocationStore.TrailersBefore(db, rows.Where(t => t.StartedAt is null).Select(t => t.Id));
        var off = (await FleetStore.TimeOff(db, now)).ToLookup(o => o.DriverId);
        var agreed = (await FleetStore.Drivers(db)).ToDictionary(d => d.Id);
        var trailers = (await FleetStore.Trailers(db)).ToDictionary(t => t.Id, t => t.Equipment);
        var byDriver = rows.Where(t => legs.TryGetValue(t.Id, out var l) && l.Legs.All(x => loads[x.LoadId].Stops.All(s => s.CanBePlanned)))
            .SelectMany(t => t.Crew.Select(d => (Driver: d, Trip: t)))
            .ToLookup(t => t.Driver, t => t.Trip);
        var all = new List<(PlanDriver Driver, PlanTotals)>();
        var choices = await FleetStore.Choices(db, now, shown.Until, only);
        var led = new Dictionary<long, PlannedTrip>();
        var teams = rows.Where(t => t.CodriverId is not null).Select(t => (t.DriverId, t.CodriverId!.Value)).ToList();
        foreach (var id in Team.InOrder(choices.ConvertAll(c => c.Id), teams))
        {
            var choice = choices.First(c => c.Id == id);
            var ours = byDriver[choice.Id].ToDictionary(t => t.Id);
            var over = DriverPlan.Of(Routing.Roads, InTurn(ours.Values.Where(t => t.EndedAt is not null)), now, null);
            var ahead = InTurn(ours.Values.Where(t => t.EndedAt is null));
            ComingFrom? from = ends.TryGetValue(choice.Id, out var end) ? new ComingFrom(end.Point, end.Free) : null;
            var planned = DriverPlan.Of(
                Routing.Roads,
                ahead,
                now,
                from,
                ahead.Count > 0 && seen.TryGetValue(ahead[0].TripId, out var at) ? new ComingFrom(at.Point, at.At) : null
            );
            foreach (var trip in planned.Where(t => Leads(t.Trip.TripId)))
            {
                led[trip.Trip.TripId] = trip;
            }

            var home = DriverPlan.Home(
                Routing.Roads,
                planned,
                choice.HomeLatitude is { } lat ? new GeoPoint(lat, choice.HomeLongitude!.Value) : null
            );
            bool Leads(long trip) => ours[trip].DriverId == choice.Id;
            var driver = agreed[choice.Id];
            var margins = planned.ToDictionary(t => t.Trip.TripId, t => Margin(legs[t.Trip.TripId]));
            var last = planned.Count > 0 ? ours[planned[^1].Trip.TripId] : null;
            var trailer =
                last is null ? choice.LastTrailerId
                : TripTrailers.Hooked(planned[^1].Trip.Visits, last.Rig)[^1] is { Count: > 0 } behind ? behind[^1].Id
                : last.TrailerId;
            var margin = Money.Sum(margins.Values.Select(m => m ?? Money.Zero()));
            var away = DriverPlan.TrailersAway(
                planned,
                from?.Point,
                t => Leads(t) ? (ours[t].Trailer, stands.GetValueOrDefault(t)) : default,
                now,
                zone
            );
            List<string> warnings =
            [
                .. away,
                .. DriverPlan.Warnings(
                    new DriverAgreed(driver.Name, off[driver.Id].Select(o => o.Span).ToList(), driver.HomeBy),
                    planned,
                    home,
                    zone
                ),
            ];
            all.Add(
                (
                    new PlanDriver(
                        driver.Id,
                        driver.Name,
                        driver.Group,
                        driver.Phone,
                        driver.HomeTown,
                        driver.HomeBy,
                        off[driver.Id].ToList(),
                        planned.Count > 0 ? planned[^1].Trip.Visits[^1].Town : choice.FreeTown,
                        planned.Count > 0 ? planned[^1].Ends : null,
                        last?.TruckId ?? choice.LastTruckId,
                        trailer,
                        trailer is { } unit ? trailers[unit] : null,
                        home?.At,
                        home?.Drive.WholeMiles,
                        DriverPlan.PerDay(planned, margin),
                        warnings,
                        [
                            .. over.Concat(planned)
                                .Select(t =>
                                    View(t, ours[t.Trip.TripId], margins.GetValueOrDefault(t.Trip.TripId) ?? Margin(legs[t.Trip.TripId]))
                                ),
                        ]
                    ),
                    // A team's trip counts once, for its driver.
                    PlanTotals.Of(
                        planned.Where(t => Leads(t.Trip.TripId)).ToList(),
                        last is null || Leads(last.Id) ? home : null,
                        Money.Sum(margins.Where(m => Leads(m.Key)).Select(m => m.Value ?? Money.Zero())),
                        warnings
                    )
                )
            );
        }

        return all.OrderBy(d => choices.FindIndex(c => c.Id == d.Driver.Id)).ToList();

        List<TripAhead> InTurn(IEnumerable<TripRow> trips) =>
            trips
                .OrderBy(t => t.StartedAt ?? Instant.MaxValue)
                .ThenBy(t => t.From)
                .Select(t => new TripAhead(
                    t.Id,
                    t.Number,
                    ItineraryStore.Visits(Routing.Roads, legs[t.Id], loads),
                    Drops(legs[t.Id]),
                    led.GetValueOrDefault(t.Id)
                ))
                .ToList();

        bool Drops(TripLegs trip) => trip.Legs is [var only] && loads[only.LoadId].TransferAfter(only.Leg)?.Method == TransferMethod.Drop;

        Money? Margin(TripLegs trip)
        {
            var of = trip.Legs.Select(l => money[l.LegId]).ToList();
            return of.All(m => m.Cost is not null) ? Money.Sum(of.Select(m => m.Revenue - m.Cost!.Value)) : null;
        }
    }

    private static async Task<Dictionary<long, LoadRow>> Loads(
        NpgsqlConnection db,
        Dictionary<long, TripLegs> legs,
        IReadOnlyDictionary<long, LoadRow> known
    )
    {
        var loads = new Dictionary<long, LoadRow>();
        var missing = new List<long>();
        foreach (var id in legs.Values.SelectMany(t => t.Legs).Select(l => l.LoadId).Distinct())
        {
            if (known.TryGetValue(id, out var row))
            {
                loads[id] = row;
            }
            else
            {
                missing.Add(id);
            }
        }

        foreach (var row in missing.Count == 0 ? [] : await LoadReads.ByIds(db, missing))
        {
            loads[row.Id] = row;
        }

        return loads;
    }

    private static List<PlanTrailer> Trailers(PlannedTrip planned, TripRow trip)
    {
        var all = new Span(planned.SetsOut, Instant.Max(trip.EndedAt ?? planned.Ends, planned.SetsOut));
        return (
            trip.ChangesTrailers
                ? TripTrailers.Parts(planned.Trip.Visits, planned.Expected, trip.Rig)
                : trip.Trailers.Select(t => new TrailerPart(t, null, null, null, null))
        )
            .Select(p => (p.Trailer.Id, When: p.Of(all)))
            .Select(p => new PlanTrailer(p.Id, p.When.From, p.When.Until))
            .ToList();
    }

    private static PlanTrip View(PlannedTrip planned, TripRow trip, Money? margin)
    {
        var visits = planned.Trip.Visits;
        var aboard = Itinerary.Aboard(visits);
        return new PlanTrip(
            trip.Id,
            trip.Number,
            trip.Name,
            Itinerary.Lane(visits),
            trip.DriverId,
            trip.CodriverId,
            trip.TruckId,
            trip.TrailerId,
            Trailers(planned, trip),
            trip.StartedAt,
            trip.EndedAt,
            trip.AcceptedAt,
            TripStops.StartsAt(visits),
            planned.SetsOut,
            trip.EndedAt ?? planned.Ends,
            planned.Empty?.WholeMiles,
            new Drive(planned.Miles(Routing.Roads), 0).WholeMiles,
            margin,
            visits
                .Zip(planned.Expected)
                .Select(
                    (v, i) =>
                        new PlanVisit(
                            v.First.Stop.Id,
                            v.First.Leg.Carries ? v.First.Leg.LegId : null,
                            v.First.Leg.Carries ? v.First.Leg.LoadId : null,
                            v.First.Leg.Carries ? v.First.Leg.Number : null,
                            v.First.Stop.Kind,
                            v.First.Town,
                            v.First.Zone.Id,
                            // A trailer can be dropped, and a stop of the trip's own made, whenever the truck gets there.
                            v.First.Stop.Window.From == Instant.MinValue
                                ? v.Second.Arrives
                                : v.First.Stop.Window.From,
                            v.First.Leg.Carries ? v.First.Stop.Window.Until : v.Second.Arrives,
                            v.Second.Arrives,
                            v.Second.Leaves,
                            v.Second.Late,
                            v.First.Reached,
                            v.First.Stop.Done,
                            i > 0 && aboard[i - 1].Count > 0,
                            v.First.Leg.Own?.Kind
                        )
                )
                .ToList()
        );
    }

    private static async Task<List<PlanLeg>> Open(NpgsqlConnection db, IReadOnlyList<LoadLine> lines, Span shown)
    {
        var open = lines
            .Where(l => l.Open is { } leg && leg.From < shown.Until && l.Load.Stops.All(s => s.CanBePlanned))
            .Take(MostOpen)
            .ToDictionary(l => l.Load.Id);
        var legs = await ItineraryStore.LegIds(db, open.Keys);
        var money = await ItineraryStore.Amounts(db, legs.SelectMany(g => g).Select(g => g.Id));
        return open
            .Values.SelectMany(l => legs[l.Load.Id].Select(g => View(l, g.Id, g.Leg)))
            .OrderBy(l => l.From)
            .ThenBy(l => l.LegId)
            .ToList();

        PlanLeg View(LoadLine l, long id, int leg)
        {
            var points = l.Load.Path().OfLeg(Routing.Roads, leg - 1);
            var current = l.Open!.Leg == leg;
            return new PlanLeg(
                id,
                leg,
                l.Load.Id,
                l.Load.Number,
                l.Load.Customer,
                l.Load.Lane(leg),
                l.Load.Equipment,
                l.Load.WeightLb,
                l.Load.State == LoadState.Tendered && l.Load.Leg == leg ? l.Load.Who : null,
                points[0].Window.From,
                points[0].Window.Until,
                Instant.Max(points[^1].Window.From, points[0].Window.From),
                points[^1].Window.Until,
                l.Load.ZoneOf(points[0].Id).Id,
                current ? l.Open.Status : "",
                current ? l.Open.Urgency : Urgency.None,
                money[id].Revenue
            );
        }
    }

    private static async Task<List<PlanStanding>> Standing(NpgsqlConnection db, IReadOnlyList<LoadLine> lines)
    {
        var waiting = lines
            .SelectMany(l =>
                l.Load.Transfers.Select((t, i) => (l.Load, At: t, Leg: i + 1)).Where(t => t.At is { LeftAt: not null, TakenAt: null })
            )
            .Where(t => t.Load.Stops.All(s => s.CanBePlanned))
            .ToList();
        if (waiting.Count == 0)
        {
            return [];
        }

        var trailers = await ItineraryStore.TrailersAt(db, waiting.Where(t => t.At.Method == TransferMethod.Drop).Select(t => t.At.Id));
        return waiting
            .Select(t =>
            {
                var dropped = trailers.TryGetValue(t.At.Id, out var trailer);
                return new PlanStanding(
                    t.At.Id,
                    t.Load.Id,
                    t.Load.Number,
                    dropped ? trailer.Id : null,
                    dropped ? trailer.Unit : null,
                    t.At.Place,
                    $"{t.At.Town} {t.At.Region}",
                    t.At.LeftAt!.Value,
                    Splits.Deadline(Routing.Roads, t.Load.Path(), t.Leg),
                    t.At.NextWho
                );
            })
            .OrderBy(t => t.Deadline)
            .ToList();
    }
}
