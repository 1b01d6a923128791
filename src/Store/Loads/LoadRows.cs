using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;

namespace SteadyLark.Store.Loads;

/// <summary>A stop with its window and what happened there.</summary>
/// <param name="ReportedEta">The reported ETA.</param>
/// <param name="From">The place's wall-clock time, as is <paramref name="Until"/>.</param>
/// <param name="RoadMiles">Road miles from the stop before, through its via points.</param>
/// <param name="MilesSet">Manual miles from the stop before, by whom, when and why.</param>
/// <param name="BookingNote">The place's booking note.</param>
public sealed record StopRow(
    long Id,
    long LoadId,
    int Seq,
    StopKind Kind,
    long? PlaceId,
    string? Place,
    string? Address,
    string? Town,
    string? Region,
    string? Zone,
    double? Latitude,
    double? Longitude,
    LocalDateTime? From,
    LocalDateTime? Until,
    Instant? FromAt,
    Instant? UntilAt,
    string? Note,
    Instant? ArrivedAt,
    string? ArrivedVia,
    Instant? LeftAt,
    string? LeftVia,
    Instant? DeliveredAt,
    string? DeliveredVia,
    string? ReceivedBy,
    Instant? ReportedEta,
    Instant? RefusedAt,
    int? ServiceMinutes = null,
    double? RoadMiles = null,
    int? MilesSet = null,
    string? MilesWhy = null,
    string? MilesBy = null,
    Instant? MilesAt = null,
    IReadOnlyList<ShapingPoint>? Via = null,
    string? BookingNote = null
)
{
    /// <summary>Its location; its place must be known.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public GeoPoint Point => new(Latitude!.Value, Longitude!.Value);

    public bool CanBePlanned => FromAt is not null && UntilAt is not null && Latitude is not null;

    public PlannedStop Planned() =>
        new(
            Id,
            Kind,
            Point,
            new Span(FromAt!.Value, UntilAt!.Value),
            ArrivedAt,
            LeftAt,
            DeliveredAt,
            ArrivedAt is null ? ReportedEta : null,
            RefusedAt,
            MilesSet,
            Via?.Select(v => v.Point).ToList(),
            ServiceMinutes is { } minutes ? Duration.FromMinutes(minutes) : null
        );

    /// <summary>The route override to this stop.</summary>
    public RouteOverride RouteOverride => new(MilesSet, MilesWhy, Via ?? []);
}

/// <summary>Where a leg ends and the next one begins.</summary>
/// <param name="AfterStops">How many of the load's stops come before it.</param>
/// <param name="PlannedAt">When the next truck is to take the freight; null for a handover that was not planned.</param>
/// <param name="LeftAt">When the truck before left it there.</param>
/// <param name="TakenAt">When the next truck took it.</param>
/// <param name="NextWho">Who has the leg that begins there; null when nobody has it.</param>
public sealed record TransferRow(
    long Id,
    long LoadId,
    int AfterStops,
    TransferMethod Method,
    long PlaceId,
    string Place,
    string? Address,
    string Town,
    string Region,
    string Zone,
    double Latitude,
    double Longitude,
    Instant? PlannedAt,
    Instant? LeftAt,
    Instant? TakenAt,
    string? NextWho
)
{
    /// <summary>As Core takes it.</summary>
    public Transfer AsTransfer() =>
        new(Id, AfterStops, new GeoPoint(Latitude, Longitude), $"{Town} {Region}", PlannedAt, LeftAt, TakenAt, Method);
}

/// <summary>A row of a load list.</summary>
/// <param name="Who">The driver's short name or the carrier's name, or null when uncovered.</param>
/// <param name="Held">Why it is on hold, or null.</param>
/// <param name="Confirmed">False while a carrier has not signed the rate confirmation.</param>
/// <param name="RevenueInBooks">In US dollars, at the rate of its pickup day.</param>
/// <param name="BillTo">Whom it is billed to, where that is not the customer.</param>
/// <param name="TenderExpires">Until when the carrier may answer the tender; null when none is open.</param>
/// <param name="LegId">The leg the row is about: the one in progress, or a driver's own; as are driver, carrier and trip.</param>
/// <param name="Leg">Its number, from 1.</param>
/// <param name="ToCover">The number of the first leg that has no truck for certain; null when none is to be covered.</param>
/// <param name="Transfers">Where its legs begin and end, in order.</param>
public sealed record LoadRow(
    long Id,
    string Number,
    LoadState State,
    long? CustomerId,
    string? Customer,
    string? Reference,
    Equipment? Equipment,
    string? Freight,
    int? WeightLb,
    int? TemperatureF,
    bool Hazmat,
    int? Miles,
    [property: SeenWith(Right.RatesSee)] Money Revenue,
    [property: SeenWith(Right.RatesSee)] Money RevenueInBooks,
    [property: SeenWith(Right.MarginsSee, Right.PayingSee)] Money? Agreed,
    Instant? FirstAt,
    Instant? LastAt,
    string? Who,
    long? DriverId,
    long? CarrierId,
    long? TripId,
    string? Trip,
    bool Confirmed,
    Instant? TenderExpires,
    [property: HoldsAmounts] string? Held,
    int Version,
    long? BillToId,
    string? BillTo,
    FreightTerms? FreightTerms,
    long? LegId,
    int Leg,
    int? ToCover,
    IReadOnlyList<TransferRow> Transfers,
    IReadOnlyList<StopRow> Stops,
    long? CodriverId = null,
    bool IsMove = false,
    long? MovesTrailerId = null,
    string? MovesTrailer = null
)
{
    /// <summary>Features its trailer must have.</summary>
    public IReadOnlyList<string> Features { get; init; } = [];

    /// <summary>Cash on delivery; null when the driver collects nothing.</summary>
    public CodRow? Cod { get; init; }

    /// <summary>Set for a move, which bills nobody.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public MoveOf? Move => IsMove ? new MoveOf(MovesTrailerId) : null;

    /// <summary>Those who drive for it: one, or the two of a team; none without a truck of ours.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public IReadOnlyList<long> Crew => new[] { DriverId, CodriverId }.OfType<long>().ToList();

    /// <summary>Whom it is billed to.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public long? PayerId => BillToId ?? CustomerId;
}

/// <summary>Cash on delivery: what the driver collects, and what they did collect.</summary>
/// <param name="Collected">Null until it was; zero when the receiver did not pay.</param>
/// <param name="By">Who recorded it.</param>
public sealed record CodRow(Money Amount, Money? Collected, CodMethod? Method, Instant? At, string? By);

public sealed record FreightRow(
    string Description,
    int? Pieces,
    int? Pallets,
    int? WeightLb,
    int? TemperatureF,
    int? LengthIn,
    int? WidthIn,
    int? HeightIn,
    bool Hazmat,
    string? UnNumber,
    string? HazmatName,
    string? HazardClass,
    string? PackingGroup,
    string? EmergencyPhone,
    bool Stackable,
    decimal? FreightClass
)
{
    /// <summary>Liquid in bulk; null for other freight.</summary>
    public BulkFreight? Bulk { get; init; }

    /// <summary>A vehicle; null for other freight.</summary>
    public Vehicle? Vehicle { get; init; }

    /// <summary>Whether it goes into a compartment or onto a deck.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool IsPlaced => Bulk is not null || Vehicle is not null;

    /// <summary>Pounds per cubic foot; null while weight or a dimension is not known.</summary>
    public decimal? Density => Core.Loads.FreightClass.Density(Pallets ?? Pieces, LengthIn, WidthIn, HeightIn, WeightLb);

    /// <summary>The class it is rated by: as entered, or by density; null while neither is known.</summary>
    public decimal? RatedClass => Core.Loads.FreightClass.Of(FreightClass, Pallets ?? Pieces, LengthIn, WidthIn, HeightIn, WeightLb);

    /// <summary>What a shipping paper needs about the hazardous material and is not entered; null when it is complete.</summary>
    public string? HazmatLacks => Hazmat ? AsHazmat.Lacks() : null;

    /// <summary>As a shipping paper describes the hazardous material.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public Core.Loads.Hazmat AsHazmat => new(UnNumber, HazmatName, HazardClass, PackingGroup, EmergencyPhone);
}

/// <param name="Rate">As in <see cref="PricedCharge"/>, as is <paramref name="Quantity"/>.</param>
/// <param name="Rating">How it came about, when by class.</param>
public sealed record ChargeRow(
    long Id,
    ChargeKind Kind,
    string? Description,
    ChargeBasis Basis,
    [property: SeenWith(Right.RatesSee)] decimal? Rate,
    decimal? Quantity,
    [property: SeenWith(Right.RatesSee)] Money Amount,
    [property: SeenWith(Right.RatesSee)] decimal? Minimum = null,
    ChargeAuthorization? Authorization = null,
    [property: SeenWith(Right.RatesSee)] ClassRating? Rating = null
);

/// <param name="Stop">Its stop, from 1; null for the whole load.</param>
public sealed record ReferenceRow(ReferenceKind Kind, string Value, int? Stop = null);

/// <summary>A value of a custom field.</summary>
public sealed record CustomValueRow(long FieldId, string Name, string Value);

public sealed record HoldRow(
    long Id,
    HoldKind Kind,
    [property: HoldsAmounts] string Reason,
    Instant PlacedAt,
    Instant? ReleasedAt,
    string? ReleasedBy,
    string? ReleasedWhy
);

/// <summary>An exception or note reported for a load.</summary>
public sealed record ReportRow(
    long Id,
    long? StopId,
    ReportKind Kind,
    string Note,
    Instant? ExpectedAt,
    int? Pieces,
    Instant At,
    string? Who
);

/// <summary>The assignment of a leg.</summary>
/// <param name="HandedOverAt">When its freight was left for the next leg, in <paramref name="HandoverTown"/>.</param>
/// <param name="BeginsAt">The transfer at which it begins; null for the first leg.</param>
/// <param name="Wage">The driver's expected pay for the leg; null for a carrier's.</param>
/// <param name="Cost">What it costs on our own truck, driver included; null for a carrier's.</param>
/// <param name="EmptyMiles">From where our truck was free to where it takes the freight.</param>
/// <param name="TruckMiles">Of our truck's loaded miles, those that count for it: fewer than its own when other loads are on board.</param>
/// <param name="TruckDays">Days that our truck needs for it, or its part of the trip's.</param>
/// <param name="RidesWith">Numbers of the other loads on its trip; empty when it has the truck to itself.</param>
/// <param name="AcceptedAt">When the driver accepted it on their phone.</param>
/// <param name="Dispatch">The carrier's driver and truck; null until they are entered.</param>
/// <param name="CostInBooks">In US dollars: its carrier's bill, else the agreed pay, else what our own truck costs; null before all of
/// them.</param>
/// <param name="Charges">What its carrier is paid, line by line; empty for ours.</param>
/// <param name="Share">Of the load's revenue in percent, as a user set it; by miles when null.</param>
public sealed record LegRow(
    long Id,
    int Seq,
    int Miles,
    Instant? HandedOverAt,
    string? HandoverTown,
    long? BeginsAt,
    Instant? AcceptedAt,
    long? TripId,
    string? Trip,
    long? DriverId,
    string? Driver,
    string? DriverPhone,
    long? TruckId,
    string? Truck,
    long? TrailerId,
    string? Trailer,
    [property: SeenWith(Right.WagesSee)] Money? Wage,
    [property: SeenWith(Right.MarginsSee)] LegCost? Cost,
    int? TruckMiles,
    int? EmptyMiles,
    decimal? TruckDays,
    IReadOnlyList<string> RidesWith,
    long? CarrierId,
    string? Carrier,
    string? CarrierPhone,
    [property: SeenWith(Right.MarginsSee, Right.PayingSee)] Money? Agreed,
    TenderRow? Tender,
    CarrierDispatch? Dispatch,
    long? BillId,
    string? BillNumber,
    [property: SeenWith(Right.MarginsSee, Right.PayingSee)] Money? Billed,
    LocalDate? BillPaidOn,
    long? SettlementId,
    LocalDate? SettlementPaidOn,
    [property: SeenWith(Right.MarginsSee)] Money? CostInBooks,
    IReadOnlyList<CarrierChargeRow> Charges,
    decimal? Share,
    long? CodriverId = null,
    string? Codriver = null,
    string? CodriverPhone = null,
    [property: SeenWith(Right.WagesSee)] Money? CodriverPay = null
)
{
    /// <summary>Whether its trip hooks or drops trailers on the way.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool ChangesTrailers { get; init; }

    /// <summary>Those who drive it: one, or the two of a team; none without a truck of ours.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public IReadOnlyList<long> Drivers => new[] { DriverId, CodriverId }.OfType<long>().ToList();

    /// <summary>Name and phone of the other driver of the team; nulls for a driver alone.</summary>
    public (string? Name, string? Phone) Beside(long driver) =>
        CodriverId is null ? default
        : driver == CodriverId ? (Driver, DriverPhone)
        : (Codriver, CodriverPhone);

    /// <summary>What one of its drivers is expected to earn; null until it is known.</summary>
    public Money? PayOf(long driver) =>
        driver == CodriverId ? CodriverPay
        : Wage is { } all ? all - (CodriverPay ?? Money.Zero())
        : null;
}

/// <param name="ExpiresAt">Until when the carrier may answer.</param>
/// <param name="SignedAt">When the carrier signed the rate confirmation on its link.</param>
/// <param name="Revision">Of the rate confirmation; 1 is the first.</param>
public sealed record TenderRow(
    long Id,
    Instant SentAt,
    Instant? ExpiresAt,
    Instant? AcceptedAt,
    string? AcceptedBy,
    AcceptedVia? AcceptedVia,
    Instant? SignedAt,
    string? SignedBy,
    int Revision
);

/// <summary>A charge of a carrier's pay.</summary>
public sealed record CarrierChargeRow(
    long Id,
    ChargeKind Kind,
    string? Description,
    [property: SeenWith(Right.MarginsSee, Right.PayingSee)] Money Amount,
    ChargeAuthorization? Authorization
)
{
    /// <summary>As Core takes it.</summary>
    public FlatCharge AsCharge() => new(Kind, Description, Amount, Authorization);
}

/// <summary>Rows as Core's decisions take them.</summary>
public static class LoadFactsOfRows
{
    /// <summary>What can be done with the load.</summary>
    public static LoadWork Work(this LoadRow load) => new(load.State, load.Number, load.Who, load.Held);

    /// <summary>The day by which a carrier's authority and insurance must be in force: of the last appointment, at its place. Null before
    /// there is one.</summary>
    public static LocalDate? LastDelivery(this LoadRow load) => load.Stops.Count == 0 ? null : load.Stops[^1].Until?.Date;

    /// <summary>The stops a POD is needed of: deliveries that were not refused.</summary>
    public static IEnumerable<long> Deliveries(this LoadRow load) =>
        load.Stops.Where(s => s is { Kind: StopKind.Delivery, RefusedAt: null }).Select(s => s.Id);

    /// <summary>The same, each with whether the truck arrived.</summary>
    public static IReadOnlyList<(long Stop, bool Arrived)> DeliveriesArrived(this LoadRow load) =>
        load
            .Stops.Where(s => s is { Kind: StopKind.Delivery, RefusedAt: null })
            .Select(s => (s.Id, s.ArrivedAt is not null || s.DeliveredAt is not null))
            .ToList();

    /// <summary>The kinds and countries of a leg's stops, and of the transfers where it begins and ends.</summary>
    /// <param name="takenIn">The country in which another truck takes the freight over now; null for the whole leg.</param>
    public static IReadOnlyList<(StopKind Kind, string? Country)> Countries(this LoadRow load, LegRow leg, string? takenIn = null)
    {
        var from = takenIn ?? Cabotage.Country(load.TransferBefore(leg.Seq)?.Region);
        var to = Cabotage.Country(load.TransferAfter(leg.Seq)?.Region);
        return
        [
            .. from is null ? [] : new[] { (StopKind.Pickup, (string?)from) },
            .. load.StopsOfLeg(leg.Seq).Where(s => takenIn is null || !s.Planned().Done).Select(s => (s.Kind, Cabotage.Country(s.Region))),
            .. to is null ? [] : new[] { (StopKind.Delivery, (string?)to) },
        ];
    }

    /// <summary>Where a leg, by its number from 1, begins: <c>Great Falls MT</c>.</summary>
    public static string Origin(this LoadRow load, int leg) => Town(load.TransferBefore(leg)) ?? Town(load.Stops[0]);

    /// <summary>Where a leg ends: <c>Drummond MT</c>.</summary>
    public static string Destination(this LoadRow load, int leg) => Town(load.TransferAfter(leg)) ?? Town(load.Stops[^1]);

    /// <summary>Where a leg goes: <c>Great Falls MT to Drummond MT</c>.</summary>
    public static string Lane(this LoadRow load, int leg) => $"{load.Origin(leg)} to {load.Destination(leg)}";

    /// <summary>Which part of the load a leg is, to add to its number: <c>, Great Falls MT to Drummond MT,</c>; empty for a load with one
    /// leg.</summary>
    public static string Part(this LoadRow load, int leg) => load.Transfers.Count == 0 ? "" : $", {load.Lane(leg)},";

    private static string? Town(TransferRow? at) => at is null ? null : $"{at.Town} {at.Region}";

    private static string Town(StopRow at) => $"{at.Town} {at.Region}";

    /// <summary>What decides about a carrier for it.</summary>
    public static CarriedFreight Carried(this LoadRow load) => new(load.LastDelivery(), load.Hazmat);

    /// <summary>The load's stops as they are.</summary>
    public static List<PlannedStop> Planned(this LoadRow load) => load.Stops.Select(s => s.Planned()).ToList();

    /// <summary>Its stops and the transfers between its legs; every stop must be known.</summary>
    public static LoadPath Path(this LoadRow load) => new(load.Planned(), load.Transfers.Select(t => t.AsTransfer()).ToList());

    /// <summary>The transfer at which a leg begins, by its number from 1; null for the first.</summary>
    public static TransferRow? TransferBefore(this LoadRow load, int leg) => load.Transfers.ElementAtOrDefault(leg - 2);

    /// <summary>The transfer at which a leg ends, by its number from 1; null for the last.</summary>
    public static TransferRow? TransferAfter(this LoadRow load, int leg) => load.Transfers.ElementAtOrDefault(leg - 1);

    /// <summary>A leg's own stops, by its number from 1.</summary>
    public static IEnumerable<StopRow> StopsOfLeg(this LoadRow load, int leg)
    {
        var from = load.TransferBefore(leg)?.AfterStops ?? 0;
        return load.Stops.Skip(from).Take((load.TransferAfter(leg)?.AfterStops ?? load.Stops.Count) - from);
    }

    /// <summary>The towns of its stops.</summary>
    public static List<string> Towns(this LoadRow load) => load.Stops.Select(s => $"{s.Town} {s.Region}").ToList();

    /// <summary>The town of a stop or, below zero, a transfer, as in <see cref="PlannedStop.Id"/>.</summary>
    public static string TownOf(this LoadRow load, long point) =>
        point < 0 ? Town(load.Transfers.First(t => t.Id == -point))! : Town(load.Stops.First(s => s.Id == point));

    /// <summary>The zone of a stop's place or, below zero, a transfer's.</summary>
    public static DateTimeZone ZoneOf(this LoadRow load, long point) =>
        WallClock.Zone(point < 0 ? load.Transfers.First(t => t.Id == -point).Zone : load.Stops.First(s => s.Id == point).Zone)
        ?? DateTimeZone.Utc;

    /// <summary>Who has a leg, and how far that is certain.</summary>
    public static LegHolder Holder(this LegRow leg) =>
        new(
            leg.Driver ?? leg.Carrier,
            leg.TripId is null && leg.CarrierId is null ? LegCover.Open
                : leg is { CarrierId: not null, Tender: { AcceptedAt: null } } ? LegCover.Tendered
                : LegCover.Covered,
            leg.CarrierId is not null,
            leg is { CarrierId: null } or { Dispatch: not null } or { Tender: null }
        );

    /// <summary>What can be done with one leg, as if the load had no other.</summary>
    public static LoadWork Work(this LoadSheet sheet, LegRow leg)
    {
        var begun = leg.Seq == 1 ? sheet.Load.State == LoadState.Rolling : sheet.Load.Transfers[leg.Seq - 2].TakenAt is not null;
        var state = LoadStates.OfLeg(sheet.Load.State, leg.Holder().Cover, begun, leg.HandedOverAt is not null);
        return new LoadWork(state, sheet.Load.Number, leg.Id == sheet.Load.LegId ? sheet.Load.Who : leg.Holder().Who, sheet.Load.Held);
    }

    /// <summary>The trailer that a leg's truck has to pull; null when any will do.</summary>
    public static RequiredTrailer? RequiredTrailer(this LoadSheet sheet, LegRow leg) =>
        sheet.Load.MovesTrailerId is { } moved
            ? new RequiredTrailer(moved, sheet.Load.MovesTrailer!, null)
            : Splits.Trailer(
                sheet.Load.Path(),
                leg.Seq - 1,
                sheet.Legs.Select(l => l.TrailerId is { } id ? (id, l.Trailer!) : default((long, string)?)).ToList()
            );

    /// <summary>Whether a leg's truck has been somewhere with it.</summary>
    public static bool Started(this LoadSheet sheet, LegRow leg) =>
        leg.Seq == 1 ? sheet.Load.Stops.Any(s => s.ArrivedAt is not null) : sheet.Load.Transfers[leg.Seq - 2].TakenAt is not null;

    public static LegCrew Crew(this LegRow leg) => new(leg.DriverId, leg.TruckId, leg.TrailerId);
}

/// <summary>A load's current invoice.</summary>
public sealed record LoadInvoice(
    long Id,
    string Number,
    LocalDate IssuedOn,
    LocalDate DueOn,
    [property: SeenWith(Right.RatesSee, Right.BillingSee)] Money Total,
    [property: SeenWith(Right.RatesSee, Right.BillingSee)] Money Paid
);

/// <summary>Another load, to go to.</summary>
public sealed record LoadLink(long Id, string Number);

/// <summary>A complete load.</summary>
/// <param name="Supplements">The invoices of its late charges.</param>
public sealed record LoadSheet(
    LoadRow Load,
    string? DriverInstructions,
    string? CarrierInstructions,
    string? BookedBy,
    Instant BookedAt,
    string? CancelledWhy,
    IReadOnlyList<FreightRow> Freight,
    IReadOnlyList<ChargeRow> Charges,
    IReadOnlyList<ReferenceRow> References,
    IReadOnlyList<CustomValueRow> CustomFields,
    IReadOnlyList<HoldRow> Holds,
    IReadOnlyList<ReportRow> Reports,
    IReadOnlyList<LegRow> Legs,
    LoadInvoice? Invoice,
    IReadOnlyList<LoadInvoice> Supplements,
    long? OfficeId,
    string? Office
)
{
    /// <summary>The loads that it was divided into, or combined into; empty when it was not.</summary>
    public IReadOnlyList<LoadLink> ReplacedBy { get; init; } = [];

    /// <summary>The loads that it replaced.</summary>
    public IReadOnlyList<LoadLink> Replaces { get; init; } = [];

    /// <summary>The leg in progress: the first whose freight was not left at its end; null on a draft.</summary>
    public LegRow? Leg => Legs.FirstOrDefault(l => l.HandedOverAt is null);

    /// <summary>A leg by its identity, or the first without a truck for certain, else the one in progress; null when it has no such
    /// leg.</summary>
    public LegRow? Meant(long? legId) =>
        legId is not null ? Legs.FirstOrDefault(l => l.Id == legId)
        : Load.ToCover is { } seq ? Legs.FirstOrDefault(l => l.Seq == seq)
        : Leg;
}
