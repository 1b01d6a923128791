using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;
using SteadyLark.Store.Places;
using SteadyLark.Store.Tracking;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Loads;

/// <summary>The ETA at a stop.</summary>
/// <param name="Late">Minutes past the window's end; 0 when on time.</param>
/// <param name="Slack">Slack in minutes; null when reached or only assumed.</param>
public sealed record VisitView(long StopId, Instant Arrives, Instant Leaves, Duration Late, Duration? Slack, Outlook Outlook, bool Done);

/// <summary>A row of a list: the load, its ETAs, and what needs attention.</summary>
/// <param name="Status">A word or two: late 1 h 40, no update 5 h, next in 2 h.</param>
/// <param name="NeedsYou">Whether it belongs to the first group.</param>
/// <param name="Open">The leg to be covered; null when every leg has a truck.</param>
public sealed record LoadLine(
    LoadRow Load,
    IReadOnlyList<VisitView> Visits,
    string Status,
    Urgency Urgency,
    bool NeedsYou,
    OpenLegView? Open
);

/// <summary>A leg that has no truck for certain.</summary>
/// <param name="Leg">Its number, from 1.</param>
/// <param name="Lane">Its ends: Drummond MT to Spokane WA.</param>
/// <param name="From">When its freight can be taken, until <paramref name="Until"/>.</param>
/// <param name="WaitingSince">Since when its freight waits at the transfer; null when it does not.</param>
public sealed record OpenLegView(int Leg, string Lane, Instant From, Instant Until, Instant? WaitingSince, string Status, Urgency Urgency);

/// <summary>A leg as it stands.</summary>
/// <param name="Lane">Its ends: Drummond MT to Spokane WA.</param>
/// <param name="State">The state of a load that had only this leg.</param>
/// <param name="Started">Whether its truck has been somewhere with it.</param>
public sealed record LegView(long LegId, string Lane, LoadState State, bool Started, bool CanSplit);

/// <summary>A transfer as it stands, and what can be done there now.</summary>
/// <param name="Arrives">When the truck is expected there; null once it was.</param>
/// <param name="Late">Past the planned time.</param>
public sealed record TransferView(
    long TransferId,
    Instant? Arrives,
    Duration Late,
    bool CanLeave,
    bool CanTake,
    bool CanUndo,
    bool CanMove,
    bool CanJoin
);

/// <summary>A page of a list.</summary>
/// <param name="Next">Pass this as <c>after</c> for the next page; null at the end.</param>
public sealed record Page<T>(IReadOnlyList<T> Rows, string? Next);

/// <summary>What the load costs and its margin: the carrier, or our driver, fuel and truck with the empty miles.</summary>
/// <param name="Estimated">True when a part is our own truck's, calculated from estimated miles.</param>
/// <param name="Carriers">Of the cost, what carriers are paid.</param>
/// <param name="Own">Of the cost, what our own trucks cost; null when none of ours hauls it.</param>
/// <param name="EmptyMiles">Before its legs on our own trucks.</param>
/// <param name="TruckDays">Days of our own trucks.</param>
public sealed record MoneyView(
    [property: SeenWith(Right.RatesSee)] Money Revenue,
    [property: SeenWith(Right.MarginsSee)] Money? Cost,
    bool Estimated,
    [property: SeenWith(Right.MarginsSee)] Margin? Margin,
    [property: SeenWith(Right.MarginsSee)] Money? Carriers,
    [property: SeenWith(Right.MarginsSee)] LegCost? Own,
    int EmptyMiles,
    decimal TruckDays
);

/// <summary>The whole sheet of a load.</summary>
/// <param name="Open">The leg to be covered; null when every leg has a truck.</param>
/// <param name="Missing">What keeps it from being billed; empty when it is ready or billed.</param>
/// <param name="WithoutPod">The deliveries without a POD.</param>
/// <param name="CustomerDetention">Waiting the customer can be charged for.</param>
/// <param name="CarrierDetention">Waiting the carrier can be paid for.</param>
/// <param name="Shares">Null for a load with one leg.</param>
/// <param name="MileProposal">New amounts of charges by the mile, after a stop was added; null when there is nothing to propose.</param>
public sealed record LoadSheetView(
    LoadSheet Sheet,
    OpenLegView? Open,
    IReadOnlyList<VisitView> Visits,
    IReadOnlyList<LegView> Legs,
    IReadOnlyList<TransferView> Transfers,
    string Status,
    Urgency Urgency,
    [property: HoldsAmounts] IReadOnlyList<string> Trouble,
    MoneyView Money,
    IReadOnlyList<DocumentRow> Documents,
    IReadOnlyList<MailRow> Emails,
    IReadOnlyList<EventRow> Events,
    IReadOnlyList<string> Missing,
    SeenView? Seen,
    IReadOnlyList<long> WithoutPod,
    IReadOnlyList<DetentionView> CustomerDetention,
    IReadOnlyList<DetentionView> CarrierDetention,
    MileProposal? MileProposal,
    LegSharing? Shares
);

/// <summary>How the legs of a split load share its revenue.</summary>
/// <param name="Percents">Of each leg, in order.</param>
/// <param name="Set">Whether a user set them; by miles otherwise.</param>
/// <param name="Asked">Whether a driver's pay depends on shares that nobody set.</param>
public sealed record LegSharing(IReadOnlyList<decimal> Percents, bool Set, bool Asked);

/// <summary>Waiting that is not charged yet.</summary>
/// <param name="Description">The charge's description, with the times.</param>
/// <param name="Running">Whether the truck is still there.</param>
/// <param name="ArrivedLate">Whether it came after its appointment.</param>
public sealed record DetentionView(
    long StopId,
    string Description,
    [property: SeenWith(Right.RatesSee, Right.MarginsSee, Right.PayingSee)] Money Amount,
    bool Running,
    bool ArrivedLate
);

/// <summary>The truck's last known position: 22 mi NW of Butte MT.</summary>
public sealed record SeenView(Instant At, string Where);

/// <summary>Loads as shown: stored facts and what Core computes from them.</summary>
public static class LoadViews
{
    /// <summary>Rows of any state. A driver's earlier loads determine when they get to it.</summary>
    public static async Task<List<LoadLine>> Lines(NpgsqlConnection db, IReadOnlyList<LoadRow> rows, Instant now, DateTimeZone zone)
    {
        var visits = await Visits(db, rows, now);
        return rows.Select(row => Line(row, visits.GetValueOrDefault(row.Id) ?? [], now, zone)).ToList();
    }

    public static async Task<LoadSheetView?> Sheet(NpgsqlConnection db, long id, Instant now, DateTimeZone zone)
    {
        if (await LoadReads.Sheet(db, id) is not { } sheet)
        {
            return null;
        }

        var rows = new List<LoadRow> { sheet.Load };
        if (sheet.Load is { DriverId: { } driver, State: LoadState.Covered or LoadState.Rolling })
        {
            // Earlier trips determine when the driver gets to this one.
            rows.AddRange(
                (await LoadReads.OfDriver(db, driver, now)).Where(l =>
                    l.Id != id && l.FirstAt <= sheet.Load.FirstAt && l.State is LoadState.Covered or LoadState.Rolling
                )
            );
        }

        var visits = (await Visits(db, rows, now)).GetValueOrDefault(id) ?? [];
        var line = Line(sheet.Load, visits, now, zone);
        var documents = await DocumentStore.OfLoad(db, id);
        return new LoadSheetView(
            sheet,
            line.Open,
            line.Visits,
            LegsOf(sheet),
            TransfersOf(sheet, visits, now),
            line.Status,
            line.Urgency,
            Trouble(sheet.Load, visits),
            MoneyOf(sheet),
            documents,
            await MailStore.OfLoad(db, id),
            await Events.OfLoad(db, id),
            await Missing(db, sheet, documents),
            await Seen(db, sheet.Load, now),
            Pods.Missing(sheet.Load.Deliveries(), PodStops(documents)),
            await CustomerDetention(db, sheet, now),
            await CarrierDetention(db, sheet, now, zone),
            Proposed(sheet),
            await Shared(db, sheet, now.InZone(zone).Date)
        );
    }

    private static async Task<LegSharing?> Shared(NpgsqlConnection db, LoadSheet sheet, LocalDate today)
    {
        if (sheet.Legs.Count < 2)
        {
            return null;
        }

        var legs = await Sharing(db, sheet, today);
        return new LegSharing(LegShares.Percents(legs), legs.Any(l => l.Share is not null), LegShares.Asks(legs));
    }

    /// <summary>The legs of a load, as their shares are decided.</summary>
    public static async Task<IReadOnlyList<SharedLeg>> Sharing(NpgsqlConnection db, LoadSheet sheet, LocalDate today)
    {
        var agreements = await SettlementStore.Agreements(db, sheet.Legs.SelectMany(l => l.Drivers));
        return sheet
            .Legs.Select(l => new SharedLeg(
                l.Share,
                l.Miles,
                l.Driver,
                l.Drivers.Any(d => agreements[d].At(PayKind.PercentOfLineHaul, today) > 0),
                l.SettlementId is not null
            ))
            .ToList();
    }

    /// <summary>Charges as stored, for repricing.</summary>
    public static List<StoredCharge> Stored(LoadSheet sheet) =>
        sheet.Charges.Select(c => new StoredCharge(c.Id, c.Kind, c.Basis, c.Rate, c.Quantity, c.Amount, c.Minimum)).ToList();

    private static MileProposal? Proposed(LoadSheet sheet) =>
        MileProposal.Of(Stored(sheet), sheet.Load.Miles) is { } proposal
        && MileProposal.Refusal(sheet.Load.State, sheet.Load.Number, proposal) is null
            ? proposal
            : null;

    private static async Task<List<DetentionView>> CustomerDetention(NpgsqlConnection db, LoadSheet sheet, Instant now) =>
        sheet.Load.PayerId is { } customer && Arrived(sheet)
            ? Waiting(
                sheet,
                (await BillingSettingsStore.Of(db, customer)).Settings.Detention,
                sheet.Charges.Where(c => c.Kind == ChargeKind.Detention).Select(c => c.Description),
                now
            )
            : [];

    private static async Task<List<DetentionView>> CarrierDetention(NpgsqlConnection db, LoadSheet sheet, Instant now, DateTimeZone zone) =>
        sheet.Leg?.CarrierId is not null && Arrived(sheet)
            ? Waiting(
                sheet,
                await CarrierTerms(db, sheet.Leg.Agreed?.Currency ?? Currency.USD, now.InZone(zone).Date),
                sheet.Leg.Charges.Where(c => c.Kind == ChargeKind.Detention).Select(c => c.Description),
                now
            )
            : [];

    /// <summary>What we offer carriers for waiting, in a carrier's currency.</summary>
    internal static async Task<DetentionTerms> CarrierTerms(NpgsqlConnection db, Currency currency, LocalDate today) =>
        (await CompanySettingsStore.Read(db)).Detention.In(currency, await ExchangeStore.Rate(db, currency, today));

    /// <summary>Whether a truck has been at a stop: before, nothing can have waited.</summary>
    private static bool Arrived(LoadSheet sheet) => sheet.Load.Stops.Any(s => s.ArrivedAt is not null);

    private static List<long?> PodStops(List<DocumentRow> documents) =>
        documents.Where(d => d.Kind == DocumentKind.Pod).Select(d => d.StopId).ToList();

    private static List<DetentionView> Waiting(LoadSheet sheet, DetentionTerms? terms, IEnumerable<string?> charged, Instant now) =>
        sheet.Load.Stops.Any(s => !s.CanBePlanned)
            ? []
            : Detention
                .NotCharged(
                    sheet.Load.Stops.Select(s => (s.Planned(), $"{s.Town} {s.Region}")).ToList(),
                    terms ?? DetentionTerms.None,
                    charged.ToList(),
                    now
                )
                .Select(d =>
                {
                    var stop = sheet.Load.Stops.First(s => s.Id == d.StopId);
                    return new DetentionView(
                        d.StopId,
                        d.Describe($"{stop.Town} {stop.Region}", WallClock.Zone(stop.Zone) ?? DateTimeZone.Utc),
                        d.Amount,
                        d.Running,
                        d.ArrivedLate
                    );
                })
                .ToList();

    /// <summary>Older positions are ignored.</summary>
    internal static readonly Duration SeenWithin = Duration.FromHours(12);

    /// <summary>The last known position of a rolling load's truck, in words.</summary>
    /// <param name="gate">Whether to name the stop whose geofence it is in; its customer is given the town.</param>
    public static async Task<SeenView?> Seen(NpgsqlConnection db, LoadRow load, Instant now, bool gate = true) =>
        load is { State: LoadState.Rolling, TripId: { } trip }
        && (await PositionStore.Last(db, [trip], now - SeenWithin)).TryGetValue(trip, out var seen)
            ? new SeenView(seen.At, (gate ? await AtStop(db, load, seen.Point) : null) ?? Routing.Where(seen.Point))
            : null;

    /// <summary>The stop whose geofence contains a truck, in words.</summary>
    private static async Task<string?> AtStop(NpgsqlConnection db, LoadRow load, Core.Places.GeoPoint truck)
    {
        foreach (
            var stop in load.Stops.Where(s =>
                s.PlaceId is not null
                && s.Latitude is not null
                && Core.Places.GreatCircle.Miles(truck, s.Point) < Core.Places.Geofence.Farthest
            )
        )
        {
            if (await PlaceStore.Get(db, stop.PlaceId!.Value) is { } place)
            {
                var fence = place.Geofence is { } corners
                    ? Core.Places.Geofence.Around(place.Point, corners)
                    : Core.Places.Geofence.Circle(
                        place.Point,
                        place.GeofenceMiles ?? (double)(await CompanySettingsStore.Read(db)).GeofenceMiles
                    );
                if (fence is { Ok: true, Value: var ground } && ground.Holds(truck))
                {
                    return $"at {place.Name}, {place.Town} {place.Region}";
                }
            }
        }

        return null;
    }

    /// <summary>ETAs for loads, in each driver's sequence.</summary>
    public static async Task<Dictionary<long, IReadOnlyList<ExpectedVisit>>> Visits(
        NpgsqlConnection db,
        IReadOnlyList<LoadRow> rows,
        Instant now
    )
    {
        var plannable = rows.Where(r => r.Stops.Count > 0 && r.Stops.All(s => s.CanBePlanned))
            .ToDictionary(r => r.Id, r => (Row: r, Path: r.Path()));
        var result = new Dictionary<long, IReadOnlyList<ExpectedVisit>>();
        foreach (
            var (row, path) in plannable.Values.Where(r =>
                r.Row.DriverId is null || r.Row.State is not (LoadState.Covered or LoadState.Rolling)
            )
        )
        {
            result[row.Id] = Expectations.Of(Routing.Roads, path.Whole, now);
        }

        // A co-driver's trips are in their sequence too, for what they drive alone afterwards.
        var byDriver = plannable
            .Values.Where(r => !result.ContainsKey(r.Row.Id))
            .SelectMany(r => r.Row.Crew.Select(d => (Driver: d, Load: r)))
            .GroupBy(r => r.Driver, r => r.Load)
            .Where(g => g.Any(r => r.Row.DriverId == g.Key))
            .ToDictionary(g => g.Key, g => g.ToList());
        if (byDriver.Count == 0)
        {
            return result;
        }

        var ends = await LoadReads.LastEnds(db, byDriver.Keys);
        var seen = await PositionStore.Last(
            db,
            byDriver.Values.SelectMany(g => g).Where(r => r.Row.State == LoadState.Rolling).Select(r => r.Row.TripId!.Value),
            now - SeenWithin
        );
        var driven = byDriver.Values.SelectMany(g => g).Select(r => r.Row).DistinctBy(r => r.Id).ToList();
        var shared = await ItineraryStore.SharedVisits(db, Routing.Roads, driven.Select(r => r.TripId).OfType<long>(), driven);
        var teams = driven.Where(r => r.CodriverId is not null).Select(r => (r.DriverId!.Value, r.CodriverId!.Value)).ToList();
        var known = new Dictionary<long, IReadOnlyList<ExpectedVisit>>();
        foreach (var driver in Team.InOrder(byDriver.Keys, teams))
        {
            // What a truck carries at one time is one run.
            var inTurn = byDriver[driver]
                .GroupBy(r => r.Row.TripId)
                .Select(t => new Turn(t.ToList(), shared.GetValueOrDefault(t.Key ?? 0)))
                .OrderByDescending(t => t.UnderWay)
                .ThenBy(t => t.Begins)
                .ToList();
            ComingFrom? from = ends.TryGetValue(driver, out var end) ? new ComingFrom(end.Point, end.Free) : null;
            var all = Expectations.InTurn(
                Routing.Roads,
                inTurn.Select(t => t.Driver == driver ? t.Run : t.Run with { Known = known.GetValueOrDefault(t.Trip) }),
                now,
                from,
                seen.TryGetValue(inTurn[0].Loads[0].Row.TripId ?? 0, out var s) ? new ComingFrom(s.Point, s.At) : null
            );
            for (var i = 0; i < inTurn.Count; i++)
            {
                if (inTurn[i].Driver != driver)
                {
                    continue;
                }

                known[inTurn[i].Trip] = all[i];

                foreach (var (load, visits) in inTurn[i].Of(all[i], now))
                {
                    result[load] = visits;
                }
            }
        }

        return result;
    }

    /// <summary>What a driver's truck does at one time: a load, or the loads of a trip that carries several.</summary>
    private sealed record Turn(List<(LoadRow Row, LoadPath Path)> Loads, IReadOnlyList<Visit>? Visits)
    {
        public long Trip => Loads[0].Row.TripId!.Value;

        public long Driver => Loads[0].Row.DriverId!.Value;

        public bool UnderWay => Loads.Any(r => r.Row.State == LoadState.Rolling && r.Row.Leg - 1 == r.Path.Current);

        public Instant? Begins => Loads.Min(r => r.Path.Begin(r.Row.Leg - 1)?.Ready ?? r.Row.FirstAt);

        public TruckRun Run =>
            Visits is null
                ? Loads[0].Path.RunOf(Routing.Roads, Loads[0].Row.Leg - 1)
                : new TruckRun(Itinerary.Points(Routing.Roads, Visits), Visits.Count);

        /// <summary>ETAs for each load, from those of the run.</summary>
        public IEnumerable<(long Load, IReadOnlyList<ExpectedVisit> Visits)> Of(IReadOnlyList<ExpectedVisit> run, Instant now)
        {
            if (Visits is null)
            {
                return [(Loads[0].Row.Id, run)];
            }

            var byId = run.ToDictionary(v => v.StopId);
            return Loads.Select(r => (r.Row.Id, r.Path.Expect(Routing.Roads, r.Row.Leg - 1, byId, now)));
        }
    }

    public static MoneyView MoneyOf(LoadSheet sheet)
    {
        var revenue = sheet.Load.RevenueInBooks;
        var estimated = sheet.Legs.Any(l => l.DriverId is not null);
        var cost = LoadMargin.Cost(sheet.Legs.Select(l => l.CostInBooks));
        var hired = sheet.Legs.Where(l => l.CarrierId is not null).Select(l => l.CostInBooks).ToList();
        return new MoneyView(
            revenue,
            cost,
            estimated,
            cost is { } c ? Margin.Of(revenue, c) : null,
            LoadMargin.Cost(hired),
            LoadMargin.Of(sheet.Legs.Where(l => l.DriverId is not null).Select(l => l.Cost)),
            sheet.Legs.Sum(l => l.EmptyMiles ?? 0),
            sheet.Legs.Sum(l => l.TruckDays ?? 0)
        );
    }

    private static async Task<IReadOnlyList<string>> Missing(NpgsqlConnection db, LoadSheet sheet, List<DocumentRow> documents)
    {
        if (sheet.Load.IsMove)
        {
            return [];
        }

        if (
            sheet.Load.State != LoadState.Delivered
            && !(sheet.Load.State == LoadState.Cancelled && sheet.Charges.Any(c => Cancellation.Keeps(c.Kind)) && sheet.Invoice is null)
        )
        {
            return [];
        }

        var billable = new BillableLoad(
            sheet.Load.Id,
            sheet.Load.Number,
            sheet.Load.PayerId ?? 0,
            sheet.Load.BillTo ?? sheet.Load.Customer ?? "",
            sheet.Load.State,
            sheet.Invoice is not null,
            Pods.Present(documents.Select(p => p.Kind), sheet.Load.Deliveries(), PodStops(documents)),
            sheet.Charges.Select(c => new BillableCharge(c.Id, c.Kind, c.Description, c.Amount)).ToList(),
            sheet.Holds.FirstOrDefault(h => h.Kind.StopsBilling() && h.ReleasedAt is null)?.Reason,
            sheet.Load.PayerId is { } customer ? await BillingSettingsStore.Required(db, customer) : null
        );
        return Invoicing.Missing(billable).Select(p => p.Message).ToList();
    }

    private static LoadLine Line(LoadRow row, IReadOnlyList<ExpectedVisit> visits, Instant now, DateTimeZone zone)
    {
        var open = Open(row, now, zone);
        var word = row.State switch
        {
            LoadState.Rolling when row.Stops.All(s => s.RefusedAt is not null || s.LeftAt is not null || s.DeliveredAt is not null) =>
                new BoardStatus("refused", Urgency.Now),
            LoadState.Rolling when row.Who is not null && row.TransferBefore(row.Leg) is { TakenAt: null, LeftAt: { } left } at =>
                BoardStatus.Waiting(left, at.PlannedAt ?? left, Splits.Deadline(Routing.Roads, row.Path(), row.Leg - 1), now),
            LoadState.Covered or LoadState.Rolling when row.Who is not null && visits.Count > 0 => BoardStatus.Carried(
                // Freight that reached a transfer is not late there.
                visits.Where(v => v.StopId > 0 || row.Transfers.Any(t => t.Id == -v.StopId && t.LeftAt is null)).ToList(),
                row.Confirmed,
                row.FirstAt ?? now,
                now
            ),
            _ when open is not null => new BoardStatus(open.Status, open.Urgency),
            _ => new BoardStatus(row.State.Format(), Urgency.None),
        };
        return new LoadLine(
            row,
            visits.Where(v => v.StopId > 0).Select(View).ToList(),
            word.Text,
            word.Urgency,
            word.Urgency != Urgency.None,
            open
        );
    }

    private static List<LegView> LegsOf(LoadSheet sheet)
    {
        var (load, path) = (sheet.Load, sheet.Load.Stops.All(s => s.CanBePlanned) ? sheet.Load.Path() : null);
        return sheet
            .Legs.Select(g => new LegView(
                g.Id,
                load.Lane(g.Seq),
                sheet.Work(g).State,
                sheet.Started(g),
                path is not null && Splits.Refuses(load.State, load.Number, path, g.Seq - 1, g.Holder()) is null
            ))
            .ToList();
    }

    private static List<TransferView> TransfersOf(LoadSheet sheet, IReadOnlyList<ExpectedVisit> visits, Instant now)
    {
        if (sheet.Load.Transfers.Count == 0)
        {
            return [];
        }

        var (load, path, towns) = (sheet.Load, sheet.Load.Path(), sheet.Load.Towns());
        var holders = sheet.Legs.Select(l => l.Holder()).ToList();
        return load
            .Transfers.Select(
                (t, i) =>
                {
                    var visit = visits.FirstOrDefault(v => v.StopId == -t.Id && t.LeftAt is null);
                    var moves =
                        t is { PlannedAt: not null, LeftAt: null }
                        && Splits.Refuses(load.State, load.Number, path, i, holders[i]) is null
                        && Splits.Refuses(load.State, load.Number, path, i + 1, holders[i + 1]) is null;
                    return new TransferView(
                        t.Id,
                        visit?.Arrives,
                        visit?.Late ?? Duration.Zero,
                        load.State.IsAhead() && Splits.Record(path, towns, holders, i, TransferEvent.Left, now, now).Ok,
                        load.State.IsAhead() && Splits.Record(path, towns, holders, i, TransferEvent.Taken, now, now).Ok,
                        load.State.IsAhead() && Splits.Undo(path, towns, i).Ok,
                        moves,
                        moves && Splits.JoinRefuses(load.State, load.Number, path, i, holders[i], holders[i + 1]) is null
                    );
                }
            )
            .ToList();
    }

    private static OpenLegView? Open(LoadRow row, Instant now, DateTimeZone reader)
    {
        if (row.ToCover is not { } leg || row.Stops.Count == 0 || row.Stops.Any(s => !s.CanBePlanned))
        {
            return null;
        }

        var begin = row.TransferBefore(leg);
        var window = row.Path().OfLeg(Routing.Roads, leg - 1)[0].Window;
        var zone = WallClock.Zone(begin?.Zone ?? row.Stops[0].Zone) ?? reader;
        var status =
            begin?.LeftAt is { } since ? BoardStatus.Waiting(since, window.Until, now)
            : row.State == LoadState.Tendered && row.Leg == leg ? BoardStatus.Tendered(row.TenderExpires, window, zone, reader, now)
            : BoardStatus.Uncovered(window, zone, reader, now);
        return new OpenLegView(leg, row.Lane(leg), window.From, window.Until, begin?.LeftAt, status.Text, status.Urgency);
    }

    private static VisitView View(ExpectedVisit v) => new(v.StopId, v.Arrives, v.Leaves, v.Late, v.Slack, v.Outlook, v.Done);

    /// <summary>A load's exceptions, a sentence for each stop.</summary>
    private static List<string> Trouble(LoadRow row, IReadOnlyList<ExpectedVisit> visits)
    {
        var summary = new List<string>();
        if (row.State is not (LoadState.Covered or LoadState.Rolling))
        {
            return summary;
        }

        if (
            row.State == LoadState.Rolling
            && row.Stops.All(s => s.RefusedAt is not null || s.LeftAt is not null || s.DeliveredAt is not null)
        )
        {
            summary.Add("The freight was refused: add a stop where it goes instead.");
        }

        foreach (var (stop, visit) in row.Stops.Zip(visits.Where(v => v.StopId > 0)))
        {
            var zone = WallClock.Zone(stop.Zone) ?? DateTimeZone.Utc;
            if (visit.Outlook == Outlook.Late)
            {
                summary.Add(
                    stop is { ArrivedAt: null, ReportedEta: not null }
                        ? $"{stop.Town} will be {visit.Late.Format()} late by the reported ETA: {visit.Arrives.Format(zone)} instead of {stop.UntilAt!.Value.Format(zone)}."
                    : stop.ArrivedAt is null
                        ? $"{stop.Town} will be {visit.Late.Format()} late: ETA {visit.Arrives.Format(zone)}, due by {stop.UntilAt!.Value.Format(zone)}. Calculated from road miles and average driving hours."
                    : $"{stop.Town} was reached {visit.Late.Format()} late."
                );
            }
            else if (visit.Outlook == Outlook.NoUpdate)
            {
                summary.Add(
                    $"No update from {row.Who}: by our estimate the truck should have reached {stop.Town} {visit.Silent.Format()} ago."
                );
            }
            else if (visit.Outlook == Outlook.Tight)
            {
                summary.Add($"{stop.Town} has {visit.Slack!.Value.Format()} of slack: estimated arrival {visit.Arrives.Format(zone)}.");
            }
        }

        foreach (var t in row.Transfers.Where(t => t is { PlannedAt: not null, LeftAt: null }))
        {
            if (visits.FirstOrDefault(v => v.StopId == -t.Id) is { } visit && visit.Late > Duration.Zero)
            {
                var zone = WallClock.Zone(t.Zone) ?? DateTimeZone.Utc;
                summary.Add(
                    $"The freight reaches the transfer in {t.Town} {visit.Late.Format()} late: ETA {visit.Arrives.Format(zone)}, planned for {t.PlannedAt!.Value.Format(zone)}."
                );
            }
        }

        if (row.Transfers.LastOrDefault(t => t is { LeftAt: not null, TakenAt: null }) is { LeftAt: { } left } waits)
        {
            summary.Add(
                $"The freight has been in {waits.Town} since {left.Format(WallClock.Zone(waits.Zone) ?? DateTimeZone.Utc)}: {(row.Who is null ? "assign a truck to take it" : $"{row.Who} takes it from there")}."
            );
        }

        if (!row.Confirmed)
        {
            summary.Add($"{row.Who} has not signed the rate confirmation yet.");
        }

        return summary;
    }
}
