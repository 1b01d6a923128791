using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;

namespace SteadyLark.Store.Trips;

/// <summary>
/// What each leg on our own trucks costs, stored with the leg so that lists can sort and filter by margin. Core computes it
/// (<see cref="LegCost"/>) from the roads, the driver's pay rates of the day the leg ends or will end, and the cost assumptions, whenever
/// the load, the schedule or the rates change. A settlement computes anew what it pays, with the leg's empty miles.
/// </summary>
public static class LegCosts
{
    /// <summary>After a load changed: its legs, and those whose truck comes from elsewhere because of it.</summary>
    public static async Task<int> OfLoad(CommandContext w, long loadId) =>
        // Most commands are on loads that no truck of ours has: they are not worth planning the whole question.
        await w.Db.One<bool>(
            """
            select exists (select 1 from legs where load_id = @id and trip_id is not null)
                or exists (select 1 from legs where trip_id is not null and expected_pay is null)
            """,
            ("id", loadId)
        )
            ? await Refresh(w, SqlOfLoad, loadId)
            : 0;

    /// <summary>After an expense on a trip changed: its legs.</summary>
    public static Task<int> OfTrip(CommandContext w, long tripId) => Refresh(w, SqlOfTrip, tripId);

    /// <summary>After a driver's pay rates changed: legs that no settlement has paid yet.</summary>
    public static Task<int> OfDriver(CommandContext w, long driverId) => Refresh(w, SqlOfDriver, driverId);

    /// <summary>After the cost assumptions changed: legs of loads that are not delivered. What was hauled keeps the figures of its
    /// time.</summary>
    public static Task<int> Open(CommandContext w) => Refresh(w, SqlOpen, 0);

    /// <summary>Legs without it: those of an older version, or of the demo's history.</summary>
    public static Task<int> Missing(CommandContext w) => Refresh(w, SqlMissing, 0);

    /// <summary>A driver of the trip a leg is on.</summary>
    private sealed record Member(long Driver, WorkerKind Worker, CrewPart Part);

    private sealed record Leg(
        long Id,
        long LoadId,
        long Trip,
        int Miles,
        Member Driver,
        Member? Codriver,
        Duration Scheduled,
        bool IsOver,
        IReadOnlyList<int> LegMiles,
        IReadOnlyList<int> LegWeights,
        int Place,
        Money LineHaul,
        int Stops,
        bool EmptyMove,
        LocalDate On,
        GeoPoint? From,
        GeoPoint? Start
    );

    /// <summary>What a leg's cost is computed from. Together with each of the conditions below it is a constant, so that it is prepared.</summary>
    private const string Select = $"""
        select g.id, g.load_id, g.trip_id, g.miles, t.ended_at is not null as is_over, t.driver_id, d.worker_kind, t.codriver_id, t.codriver_share, m.worker_kind as codriver_kind, extract(epoch from upper(t.scheduled) - lower(t.scheduled)) / 60 as scheduled,
        {LegSql.AllMiles} as leg_miles, {LegSql.Weights} as leg_weights, {LegSql.Place} as leg_place, {LegSql.LineHaul} as line_haul, {LegSql.Points} as stops,
        (l.is_move and not exists (select 1 from freight_lines f where f.load_id = l.id)) as empty_move,
        (coalesce(l.delivered_at, l.last_at, l.booked_at) at time zone (select zone from business))::date as on_day,
        f.latitude as from_latitude, f.longitude as from_longitude, p.latitude, p.longitude
        from legs g join trips t on t.id = g.trip_id join drivers d on d.id = t.driver_id left join drivers m on m.id = t.codriver_id join loads l on l.id = g.load_id
        left join lateral {TripStore.PreviousEnd} f on true
        left join lateral (select q.latitude, q.longitude from places q where q.id = coalesce(
        (select le.began_place_id from leg_ends le where le.leg_id = g.id),
        (select s.place_id from stops s where s.load_id = g.load_id order by s.seq limit 1))) p on true
        """;

    private const string Locked = " for update of g skip locked";

    // An expense on a trip is shared by all its legs, so they change together. An array, so that each part uses its index.
    private const string SqlOfLoad =
        Select
        + """

            where g.id = any(array(
            select id from legs where load_id = @id union select id from legs where trip_id is not null and expected_pay is null union
            select y.id from legs x join legs y on y.trip_id = x.trip_id
            where x.load_id = @id and exists (select 1 from trip_expenses e where e.trip_id = x.trip_id)))
            """
        + Locked;

    private const string SqlOfTrip = Select + "\nwhere g.trip_id = @id" + Locked;

    private const string SqlOfDriver =
        Select
        + "\nwhere (t.driver_id = @id or t.codriver_id = @id) and not exists (select 1 from settlement_legs s where s.leg_id = g.id and s.standing)"
        + Locked;

    private const string SqlOpen = Select + "\nwhere l.state in ('covered', 'rolling') and @id = 0" + Locked;

    private const string SqlMissing = Select + "\nwhere g.trip_id is not null and g.expected_pay is null and @id = 0" + Locked;

    private static async Task<int> Refresh(CommandContext w, string sql, long id)
    {
        var legs = await w.Db.Rows(
            sql,
            r => new Leg(
                r.Long("id"),
                r.Long("load_id"),
                r.Long("trip_id"),
                r.Int("miles"),
                new Member(
                    r.Long("driver_id"),
                    r.Enum<WorkerKind>("worker_kind"),
                    new CrewPart(r.DecimalOrNull("codriver_share") ?? 0, false)
                ),
                r.LongOrNull("codriver_id") is { } codriver
                    ? new Member(codriver, r.Enum<WorkerKind>("codriver_kind"), new CrewPart(r.Decimal("codriver_share"), true))
                    : null,
                Duration.FromMinutes((double)r.Decimal("scheduled")),
                r.Bool("is_over"),
                r.Ints("leg_miles"),
                r.Ints("leg_weights"),
                r.Int("leg_place"),
                r.Usd("line_haul"),
                r.Int("stops"),
                r.Bool("empty_move"),
                r.Date("on_day"),
                Point(r, "from_"),
                Point(r, "")
            ),
            ("id", id)
        );
        if (legs.Count == 0)
        {
            return 0;
        }

        var settings = await CompanySettingsStore.Read(w.Db);
        var agreements = await SettlementStore.Agreements(
            w.Db,
            legs.Select(l => l.Driver.Driver).Concat(legs.Select(l => l.Codriver?.Driver).OfType<long>())
        );
        var loads = legs.Select(l => l.LoadId).Distinct().ToArray();
        var stops = await Stops(w.Db, loads);
        var entered = await TripStore.Entered(w.Db, loads);
        var parts = await Parts(w, legs);
        var trips = legs.Select(l => l.Trip).Distinct().ToArray();
        var spent = await TripExpenseStore.Spent(w.Db, trips);
        var sharing = spent.Count == 0 ? null : await TripExpenseStore.Legs(w.Db, spent.Select(s => s.Key).ToArray());
        var costs = legs.Select(l =>
            {
                var empty = l.From is { } from && l.Start is { } start ? w.Roads.Between(from, start) : default;
                var loaded = stops[l.LoadId].ToList();
                var tolls = loaded.Skip(1).Zip(loaded, (to, at) => w.Roads.Stretch(at.Point, to.Via, to.Point, to.Set).TollMiles).Sum();
                var all = l.LegMiles.Sum();
                var work = parts.TryGetValue(l.Id, out var part)
                    ? part
                    // A move of an empty trailer has no loaded miles.
                    : new TruckWork(
                        l.EmptyMove ? 0 : l.Miles,
                        empty.WholeMiles + (l.EmptyMove ? l.Miles : 0),
                        empty.TollMiles + (all > 0 ? tolls * l.Miles / all : 0),
                        empty.DoorToDoor + l.Scheduled
                    );
                DriverCost Earns(Member m) =>
                    DriverCost.Of(
                        agreements[m.Driver],
                        m.Worker,
                        settings.PayrollTaxPercent,
                        work,
                        DriverAgreement.Share(l.LineHaul, l.LegWeights, l.Place),
                        l.Stops,
                        l.On,
                        m.Part
                    );
                return (
                    l.Id,
                    Work: work,
                    Cost: LegCost.Of(
                        settings.Costs,
                        work,
                        Earns(l.Driver),
                        KnownCosts.Of(
                            entered[l.LoadId].Select(c => c.Share(l.LegMiles, l.Place)),
                            TripSpending.OfLeg(spent[l.Trip], sharing?[l.Trip].ToList() ?? [], l.Id),
                            l.IsOver,
                            TripSpending.FuelPaid(spent[l.Trip])
                        ),
                        l.Codriver is { } other ? Earns(other) : null
                    )
                );
            })
            .ToList();
        decimal[] Of(Func<LegCost, Money> part) => costs.Select(c => Math.Max(0, part(c.Cost).Amount)).ToArray();
        return await w.Db.Run(
            """
            update legs g set truck_miles = v.miles, empty_miles = v.empty, truck_days = v.days, expected_pay = v.pay, codriver_pay = v.codriver, cost_payroll_tax = v.tax, cost_fuel = v.fuel,
                cost_tolls = v.tolls, cost_truck = v.truck, cost_other = v.other, planned_fuel = v.plan_fuel, planned_tolls = v.plan_tolls
            from unnest(@ids, @miles, @empty, @days, @pay, @codriver, @tax, @fuel, @tolls, @truck, @other, @plan_fuel, @plan_tolls) as
                v(id, miles, empty, days, pay, codriver, tax, fuel, tolls, truck, other, plan_fuel, plan_tolls)
            where g.id = v.id and (g.truck_miles, g.empty_miles, g.truck_days, g.expected_pay, g.codriver_pay, g.cost_payroll_tax, g.cost_fuel, g.cost_tolls, g.cost_truck,
                g.cost_other, g.planned_fuel, g.planned_tolls) is distinct from (v.miles, v.empty, v.days, v.pay, v.codriver, v.tax, v.fuel, v.tolls, v.truck, v.other,
                v.plan_fuel, v.plan_tolls)
            """,
            ("ids", costs.Select(c => c.Id).ToArray()),
            ("miles", costs.Select(c => c.Work.Miles).ToArray()),
            ("empty", costs.Select(c => c.Work.EmptyMiles).ToArray()),
            ("days", costs.Select(c => c.Work.Days).ToArray()),
            ("pay", Of(c => c.Driver)),
            ("codriver", costs.Zip(legs, (c, l) => l.Codriver is null ? null : (decimal?)Math.Max(0, c.Cost.Codriver.Amount)).ToArray()),
            ("tax", Of(c => c.PayrollTax)),
            ("fuel", Of(c => c.Fuel)),
            ("tolls", Of(c => c.Tolls)),
            ("truck", Of(c => c.Truck)),
            ("other", Of(c => c.Other)),
            ("plan_fuel", Of(c => c.PlannedFuel)),
            ("plan_tolls", Of(c => c.PlannedTolls))
        );
    }

    /// <summary>The work of legs whose truck carries other freight too, by leg.</summary>
    private static async Task<Dictionary<long, TruckWork>> Parts(CommandContext w, List<Leg> legs)
    {
        var trips = await ItineraryStore.SharedVisits(w.Db, w.Roads, legs.Select(l => l.Trip), []);
        return trips
            .SelectMany(t =>
            {
                var visits = t.Value;
                var onTrip = Itinerary.Carried(visits);
                var of = legs.First(l => l.Trip == t.Key);
                var lasts = of.Scheduled + (of.From is { } from ? w.Roads.Between(from, visits[0].Stop.Point).DoorToDoor : Duration.Zero);
                return onTrip.Zip(Itinerary.Parts(w.Roads, onTrip, visits, of.From, TruckWork.Quarters(lasts)), (leg, part) =>
                    (leg.LegId, Work: new TruckWork(part.Miles, part.EmptyMiles, part.TollMiles, lasts, part.Days))
                );
            })
            .ToDictionary(p => p.LegId, p => p.Work);
    }

    /// <summary>The stops of loads in order, with what leads the route to each.</summary>
    private static async Task<ILookup<long, (GeoPoint Point, IReadOnlyList<GeoPoint> Via, double? Set)>> Stops(
        NpgsqlConnection db,
        long[] loads
    ) =>
        (
            await db.Rows(
                """
                select s.load_id, p.latitude, p.longitude, s.via_latitudes, s.via_longitudes, s.miles_set
                from stops s join places p on p.id = s.place_id where s.load_id = any(@loads) and s.place_id is not null
                order by s.load_id, s.seq
                """,
                r =>
                    (
                        Load: r.Long("load_id"),
                        Stop: (
                            new GeoPoint(r.Double("latitude"), r.Double("longitude")),
                            (IReadOnlyList<GeoPoint>)
                                r.Doubles("via_latitudes").Zip(r.Doubles("via_longitudes"), (a, o) => new GeoPoint(a, o)).ToList(),
                            (double?)r.IntOrNull("miles_set")
                        )
                    ),
                ("loads", loads)
            )
        ).ToLookup(s => s.Load, s => s.Stop);

    private static GeoPoint? Point(NpgsqlDataReader r, string prefix) =>
        r.Null(prefix + "latitude") ? null : new GeoPoint(r.Double(prefix + "latitude"), r.Double(prefix + "longitude"));
}
