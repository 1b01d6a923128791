using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Loads;

/// <summary>The trailers a load may need.</summary>
public enum Equipment
{
    Van,
    Reefer,
    Flatbed,
    Tanker,
    CarHauler,
}

public static class EquipmentNames
{
    public static string Format(this Equipment equipment) =>
        equipment switch
        {
            Equipment.CarHauler => "car hauler",
            _ => equipment.ToString().ToLowerInvariant(),
        };
}

/// <summary>A via point on the route to a stop.</summary>
public sealed record ShapingPoint(string Name, GeoPoint Point);

/// <summary>A route override: what a person set for the stretch from the stop before.</summary>
/// <param name="Miles">Manual miles; null to use the road miles.</param>
/// <param name="Why">Why they are set manually.</param>
/// <param name="Via">Via points, in order.</param>
public sealed record RouteOverride(int? Miles, string? Why, IReadOnlyList<ShapingPoint> Via)
{
    public static readonly RouteOverride None = new(null, null, []);
}

/// <summary>A stop as ordered. Times are the place's wall-clock time.</summary>
public sealed record StopOrder(
    StopKind? Kind,
    long? PlaceId,
    LocalDateTime? From,
    LocalDateTime? Until,
    string? Note,
    RouteOverride? RouteOverride = null
);

/// <summary>A freight line as ordered.</summary>
/// <param name="WeightLb">Whole pounds.</param>
/// <param name="LengthIn">Inches, as are <paramref name="WidthIn"/> and <paramref name="HeightIn"/>: of the largest piece.</param>
/// <param name="TemperatureF">Degrees Fahrenheit to be held, or null when it does not matter.</param>
/// <param name="UnNumber">Of a hazardous material, as are the fields after it: see <see cref="Loads.Hazmat"/>.</param>
/// <param name="Stackable">Whether its pallets or pieces may stand on each other.</param>
/// <param name="FreightClass">One of <see cref="Loads.FreightClass.All"/>; null for the class of its density.</param>
/// <param name="Bulk">Set for liquid in bulk: description, weight and temperature are those of the product where they are null.</param>
/// <param name="Vehicle">Set for a vehicle: description, size and weight are those of its body style where they are null.</param>
public sealed record FreightOrder(
    string? Description,
    int? Pieces,
    int? Pallets,
    int? WeightLb,
    int? TemperatureF,
    int? LengthIn = null,
    int? WidthIn = null,
    int? HeightIn = null,
    bool Hazmat = false,
    string? UnNumber = null,
    string? HazmatName = null,
    string? HazardClass = null,
    string? PackingGroup = null,
    string? EmergencyPhone = null,
    bool Stackable = false,
    decimal? FreightClass = null,
    BulkOrder? Bulk = null,
    VehicleOrder? Vehicle = null
);

/// <summary>A customer charge as ordered.</summary>
/// <param name="Amount">Dollars, when flat.</param>
/// <param name="Rate">Dollars per mile or hundredweight, or percent, when not flat.</param>
public sealed record ChargeOrder(
    ChargeKind? Kind,
    string? Description,
    decimal? Amount,
    ChargeBasis Basis = ChargeBasis.Flat,
    decimal? Rate = null,
    decimal? Minimum = null,
    ChargeAuthorization? Authorization = null,
    ByClass? ByClass = null
);

/// <summary>The kind of a reference number.</summary>
public enum ReferenceKind
{
    PurchaseOrder,
    BillOfLading,
    PickupNumber,
    DeliveryNumber,
    OrderNumber,

    /// <summary>The confirmation of an appointment.</summary>
    Appointment,
    Seal,

    /// <summary>Name and phone of the broker who clears the freight at the border.</summary>
    CustomsBroker,

    /// <summary>The number under which it is cleared.</summary>
    CustomsEntry,
    Other,
}

public static class ReferenceKinds
{
    public static string Format(this ReferenceKind kind) =>
        kind switch
        {
            ReferenceKind.PurchaseOrder => "Purchase order",
            ReferenceKind.BillOfLading => "Bill of lading",
            ReferenceKind.PickupNumber => "Pickup number",
            ReferenceKind.DeliveryNumber => "Delivery number",
            ReferenceKind.OrderNumber => "Order number",
            ReferenceKind.Appointment => "Appointment confirmation",
            ReferenceKind.Seal => "Seal",
            ReferenceKind.CustomsBroker => "Customs broker",
            ReferenceKind.CustomsEntry => "Customs entry",
            _ => "Reference",
        };
}

/// <summary>An additional reference as ordered.</summary>
/// <param name="Stop">Its stop, from 1; null for the whole load.</param>
public sealed record ReferenceOrder(ReferenceKind? Kind, string? Value, int? Stop = null);

/// <summary>Who pays the freight, as a bill of lading says it.</summary>
public enum FreightTerms
{
    /// <summary>The shipper.</summary>
    Prepaid,

    /// <summary>The consignee.</summary>
    Collect,

    /// <summary>Neither: the company the load is billed to.</summary>
    ThirdParty,
}

/// <summary>The customer's order, as typed.</summary>
public sealed record LoadOrder(
    long? CustomerId,
    string? Reference,
    Equipment? Equipment,
    IReadOnlyList<StopOrder> Stops,
    IReadOnlyList<FreightOrder> Freight,
    IReadOnlyList<ChargeOrder> Charges,
    string? DriverInstructions,
    bool Draft
)
{
    /// <summary>Our number for it, when not from the series.</summary>
    public string? Number { get; init; }

    /// <summary>The office that handles it.</summary>
    public long? OfficeId { get; init; }

    /// <summary>Besides the customer's main reference.</summary>
    public IReadOnlyList<ReferenceOrder> References { get; init; } = [];

    /// <summary>Values of custom fields, by field.</summary>
    public IReadOnlyDictionary<long, string?> CustomFields { get; init; } = new Dictionary<long, string?>();

    public string? CarrierInstructions { get; init; }

    /// <summary>Whom it is billed to, where that is not the customer.</summary>
    public long? BillToId { get; init; }

    public FreightTerms? FreightTerms { get; init; }

    /// <summary>Features its trailer must have.</summary>
    public IReadOnlyList<string?> Features { get; init; } = [];

    /// <summary>What the driver collects on delivery, in the load's currency; null for nothing.</summary>
    public decimal? Cod { get; init; }

    /// <summary>Set for a move, which bills nobody; null for freight of a customer.</summary>
    public MoveOf? Move { get; init; }

    /// <summary>Of its charges: what its payer is billed in.</summary>
    public Currency Currency { get; init; }
}

/// <summary>What is known of a place when a load is booked.</summary>
/// <param name="Service">Its usual loading or unloading time, or null for the default.</param>
public sealed record KnownPlace(long Id, string Name, string Town, string Region, GeoPoint Point, string Zone, Duration? Service = null);

/// <summary>A stop as it will be stored. The window is null only on a draft.</summary>
/// <param name="RoadMiles">Road miles from the stop before, through its via points, before any manual miles; null at the first stop and
/// where a place is missing.</param>
public sealed record BookedStop(
    StopKind Kind,
    KnownPlace? Place,
    TimeWindow? Window,
    Span? At,
    string? Note,
    RouteOverride RouteOverride,
    double? RoadMiles = null
)
{
    /// <summary>As planned; its place and window must be known.</summary>
    public PlannedStop Planned() =>
        new(
            0,
            Kind,
            Place!.Point,
            At!.Value,
            SetMiles: RouteOverride.Miles,
            Via: RouteOverride.Via.Select(v => v.Point).ToList(),
            Service: Place.Service
        );
}

/// <summary>Lists of the company that a load is booked from.</summary>
/// <param name="Features">Trailer features.</param>
/// <param name="ClassRates">The rate tables that its charges name.</param>
public sealed record BookingLists(
    IReadOnlyList<string> Features,
    IReadOnlyList<Product> Products,
    IReadOnlyList<BodyStyle> BodyStyles,
    IReadOnlyList<ClassRates>? ClassRates = null
)
{
    public static readonly BookingLists None = new([], [], []);
}

/// <summary>Gallons of a product, as they will be stored.</summary>
public sealed record BookedBulk(long ProductId, decimal Gallons, bool OwnCompartments);

public sealed record BookedFreight(
    string Description,
    int? Pieces,
    int? Pallets,
    int? WeightLb,
    int? TemperatureF,
    int? LengthIn,
    int? WidthIn,
    int? HeightIn,
    bool IsHazmat,
    Hazmat Hazmat,
    bool Stackable = false,
    decimal? FreightClass = null
)
{
    /// <summary>Liquid in bulk; null for other freight.</summary>
    public BookedBulk? Bulk { get; init; }

    /// <summary>A vehicle; null for other freight.</summary>
    public Vehicle? Vehicle { get; init; }
}

public sealed record BookedCharge(ChargeKind Kind, string? Description, PricedCharge Price, ChargeAuthorization? Authorization = null)
{
    public Money Amount => Price.Amount;
}

public sealed record BookedReference(ReferenceKind Kind, string Value, int? Stop = null);

/// <summary>A load ready to be stored: booked, or a draft.</summary>
/// <param name="Miles">Road miles over all stops in order; null on a draft without places.</param>
/// <param name="Warnings">Warnings that do not block it.</param>
public sealed record BookedLoad(
    long? CustomerId,
    string? Number,
    string? Reference,
    Equipment? Equipment,
    IReadOnlyList<BookedStop> Stops,
    IReadOnlyList<BookedFreight> Freight,
    IReadOnlyList<BookedCharge> Charges,
    IReadOnlyList<BookedReference> References,
    IReadOnlyDictionary<long, string> CustomFields,
    string? DriverInstructions,
    string? CarrierInstructions,
    bool Draft,
    int? Miles,
    IReadOnlyList<Problem> Warnings
)
{
    /// <summary>The office that handles it.</summary>
    public long? OfficeId { get; init; }

    public long? BillToId { get; init; }

    public FreightTerms? FreightTerms { get; init; }

    /// <summary>Features its trailer must have, in the order of the company's list.</summary>
    public IReadOnlyList<string> Features { get; init; } = [];

    /// <summary>What the driver collects on delivery, in the load's currency; null for nothing.</summary>
    public decimal? Cod { get; init; }

    /// <summary>Set for a move, which bills nobody.</summary>
    public MoveOf? Move { get; init; }

    /// <summary>Whom it is billed to.</summary>
    public long? PayerId => BillToId ?? CustomerId;

    /// <summary>Total revenue.</summary>
    public Money Revenue => new(Charges.Sum(c => c.Amount.Amount), Currency);

    /// <summary>Of its charges: what its payer is billed in.</summary>
    public Currency Currency { get; init; }
}
