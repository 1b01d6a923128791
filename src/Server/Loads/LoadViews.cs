using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Places;
using SteadyLark.Store.Tracking;

namespace SteadyLark.Server.Loads;

/// <summary>The ETA at a stop.</summary>
/// <param name="Late">Minutes past the window's end; 0 when on time.</param>
/// <param name="Slack">Slack in minutes; null when reached or only assumed.</param>
public sealed record VisitView(long StopId, Instant Arrives, Instant Leaves, Duration Late, Duration? Slack, Outlook Outlook, bool Done);

/// <summary>A row of a list: the load, its ETAs, and what needs attention.</summary>
/// <param name="Status">A word or two: late 1 h 40, no update 5 h, next in 2 h.</param>
/// <param name="NeedsYou">Whether it belongs to the first group.</param>
public sealed record LoadLine(LoadRow Load, IReadOnlyList<VisitView> Visits, string Status, Urgency Urgency, bool NeedsYou);

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
/// <param name="Missing">What keeps it from being billed; empty when it is ready or billed.</param>
/// <param name="WithoutPod">The deliveries without a POD.</param>
/// <param name="CustomerDetention">Waiting the customer can be charged for.</param>
/// <param name="CarrierDetention">Waiting the carrier can be paid for.</param>
/// <param name="MileProposal">New amounts of charges by the mile, after a stop was added; null when there is nothing to propose.</param>
public sealed record LoadSheetView(
    LoadSheet Sheet,
    IReadOnlyList<VisitView> Visits,
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
    MileProposal? MileProposal
);

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
            line.Visits,
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
            Proposed(sheet)
        );
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
        var plannable = rows.Where(r => r.Stops.Count > 0 && r.Stops.All(s => s.CanBePlanned)).ToList();
        var result = new Dictionary<long, IReadOnlyList<ExpectedVisit>>();
        var transfers = await LoadReads.LastTransfers(db, plannable.Where(r => r.State == LoadState.Rolling).Select(r => r.Id));
        foreach (var row in plannable.Where(r => r.DriverId is null || r.State is not (LoadState.Covered or LoadState.Rolling)))
        {
            result[row.Id] = Expectations.Of(Routing.Roads, row.Planned(), now, seen: transfers.GetValueOrDefault(row.Id));
        }

        var byDriver = plannable.Where(r => r.DriverId is not null && !result.ContainsKey(r.Id)).GroupBy(r => r.DriverId!.Value).ToList();
        var ends = byDriver.Count == 0 ? [] : await LoadReads.LastEnds(db, byDriver.Select(g => g.Key));
        var seen =
            byDriver.Count == 0
                ? []
                : await PositionStore.Last(
                    db,
                    byDriver.SelectMany(g => g).Where(r => r.State == LoadState.Rolling).Select(r => r.TripId!.Value),
                    now - SeenWithin
                );
        foreach (var group in byDriver)
        {
            var inTurn = group.OrderByDescending(r => r.State == LoadState.Rolling).ThenBy(r => r.FirstAt).ToList();
            ComingFrom? from = ends.TryGetValue(group.Key, out var end) ? new ComingFrom(end.Point, end.Free) : null;
            var all = Expectations.InTurn(
                Routing.Roads,
                inTurn.Select(r => (IReadOnlyList<PlannedStop>)r.Planned()),
                now,
                from,
                Later(
                    seen.TryGetValue(inTurn[0].TripId ?? 0, out var s) ? new ComingFrom(s.Point, s.At) : null,
                    transfers.GetValueOrDefault(inTurn[0].Id)
                )
            );
            for (var i = 0; i < inTurn.Count; i++)
            {
                result[inTurn[i].Id] = all[i];
            }
        }

        return result;

        static ComingFrom? Later(ComingFrom? seen, ComingFrom? transfer) =>
            seen is null || transfer?.Free > seen.Free ? transfer ?? seen : seen;
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
        var word = row.State switch
        {
            LoadState.Rolling when row.Stops.All(s => s.RefusedAt is not null || s.LeftAt is not null || s.DeliveredAt is not null) =>
                new BoardStatus("refused", Urgency.Now),
            LoadState.Covered or LoadState.Rolling when visits.Count > 0 => BoardStatus.Carried(
                visits,
                row.Confirmed,
                row.FirstAt ?? now,
                now
            ),
            LoadState.Booked when row.Stops.Count > 0 && row.Stops[0].CanBePlanned => BoardStatus.Uncovered(
                row.Stops[0].Planned().Window,
                WallClock.Zone(row.Stops[0].Zone) ?? zone,
                zone,
                now
            ),
            LoadState.Tendered => BoardStatus.Tendered(
                row.TenderExpires,
                row.Stops[0].Planned().Window,
                WallClock.Zone(row.Stops[0].Zone) ?? zone,
                zone,
                now
            ),
            _ => new BoardStatus(row.State.Format(), Urgency.None),
        };
        return new LoadLine(row, visits.Select(View).ToList(), word.Text, word.Urgency, word.Urgency != Urgency.None);
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

        for (var i = 0; i < visits.Count; i++)
        {
            var (stop, visit) = (row.Stops[i], visits[i]);
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

        if (!row.Confirmed)
        {
            summary.Add($"{row.Who} has not signed the rate confirmation yet.");
        }

        return summary;
    }
}
