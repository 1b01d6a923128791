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
    public static string Format(this Equipment equipment) => equipment switch
    {
        Equipment.CarHauler => "car hauler",
        _ => equipment.ToString().ToLowerInvariant(),
    };
}

/// <summary>A point that the way to a stop is led over.</summary>
public sealed record ShapingPoint(string Name, GeoPoint Point);

/// <summary>What a person decided on the way to a stop from the one before it.</summary>
/// <param name="Miles">Miles by hand instead of the roads' own; null for those.</param>
/// <param name="Why">Why they are set by hand.</param>
/// <param name="Via">Points that the way is led over, in order.</param>
public sealed record RouteOverride(int? Miles, string? Why, IReadOnlyList<ShapingPoint> Via)
{
    public static readonly RouteOverride None = new(null, null, []);
}

/// <summary>A stop as it is ordered. Times are the place's own wall clock.</summary>
public sealed record StopOrder(StopKind? Kind, long? PlaceId, LocalDateTime? From, LocalDateTime? Until, string? Note, RouteOverride? RouteOverride = null);

/// <summary>A line of freight as it is ordered.</summary>
/// <param name="WeightLb">Whole pounds.</param>
/// <param name="LengthIn">Inches, as are <paramref name="WidthIn"/> and <paramref name="HeightIn"/>: of the largest piece.</param>
/// <param name="TemperatureF">Degrees Fahrenheit to be held, or null when it does not matter.</param>
/// <param name="UnNumber">The identification number of 49 CFR 172.101, such as UN1993, for hazardous material.</param>
public sealed record FreightOrder(
    string? Description, int? Pieces, int? Pallets, int? WeightLb, int? TemperatureF, int? LengthIn = null, int? WidthIn = null, int? HeightIn = null, bool Hazmat = false, string? UnNumber = null);

/// <summary>A charge to the customer as it is ordered.</summary>
/// <param name="Amount">Dollars, when flat.</param>
/// <param name="Rate">Dollars a mile or a hundredweight, or percent, when not flat.</param>
public sealed record ChargeOrder(ChargeKind? Kind, string? Description, decimal? Amount, ChargeBasis Basis = ChargeBasis.Flat, decimal? Rate = null);

/// <summary>What a number on a load's documents is.</summary>
public enum ReferenceKind
{
    PurchaseOrder,
    BillOfLading,
    PickupNumber,
    DeliveryNumber,
    OrderNumber,
    Seal,
    Other,
}

public static class ReferenceKinds
{
    public static string Format(this ReferenceKind kind) => kind switch
    {
        ReferenceKind.PurchaseOrder => "Purchase order",
        ReferenceKind.BillOfLading => "Bill of lading",
        ReferenceKind.PickupNumber => "Pickup number",
        ReferenceKind.DeliveryNumber => "Delivery number",
        ReferenceKind.OrderNumber => "Order number",
        ReferenceKind.Seal => "Seal",
        _ => "Reference",
    };
}

/// <summary>One more reference as it is ordered.</summary>
public sealed record ReferenceOrder(ReferenceKind? Kind, string? Value);

/// <summary>What the customer orders, as it was typed.</summary>
public sealed record LoadOrder(
    long? CustomerId,
    string? Reference,
    Equipment? Equipment,
    IReadOnlyList<StopOrder> Stops,
    IReadOnlyList<FreightOrder> Freight,
    IReadOnlyList<ChargeOrder> Charges,
    string? DriverInstructions,
    bool Draft)
{
    /// <summary>Our own number for it, when it is not to come from the series.</summary>
    public string? Number { get; init; }

    /// <summary>The office that handles it.</summary>
    public long? OfficeId { get; init; }

    /// <summary>Beside the customer's main one.</summary>
    public IReadOnlyList<ReferenceOrder> References { get; init; } = [];

    /// <summary>Values of the business's own fields, by field.</summary>
    public IReadOnlyDictionary<long, string?> CustomFields { get; init; } = new Dictionary<long, string?>();

    public string? CarrierInstructions { get; init; }
}

/// <summary>What is known of a place when a load is booked.</summary>
/// <param name="Service">Its usual time to load or unload, or null when it has no figure of its own.</param>
public sealed record KnownPlace(long Id, string Name, string Town, string Region, GeoPoint Point, string Zone, Duration? Service = null);

/// <summary>A stop as it will be kept. The window is null only on a draft.</summary>
/// <param name="RoadMiles">Miles by road from the stop before, through its shaping points, whatever a person set; null at the first stop and where a place is missing.</param>
public sealed record BookedStop(StopKind Kind, KnownPlace? Place, TimeWindow? Window, Span? At, string? Note, RouteOverride RouteOverride, double? RoadMiles = null)
{
    /// <summary>As it is planned; its place and window must be known.</summary>
    public PlannedStop Planned() => new(0, Kind, Place!.Point, At!.Value, SetMiles: RouteOverride.Miles, Via: RouteOverride.Via.Select(v => v.Point).ToList(), Service: Place.Service);
}

public sealed record BookedFreight(string Description, int? Pieces, int? Pallets, int? WeightLb, int? TemperatureF, int? LengthIn, int? WidthIn, int? HeightIn, bool Hazmat, string? UnNumber);

public sealed record BookedCharge(ChargeKind Kind, string? Description, PricedCharge Price)
{
    public Money Amount => Price.Amount;
}

public sealed record BookedReference(ReferenceKind Kind, string Value);

/// <summary>A load fit to be kept: booked, or a draft.</summary>
/// <param name="Miles">Road miles over all stops in order; null on a draft without places.</param>
/// <param name="Warnings">What a person should look at, though it does not stand in the way.</param>
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
    IReadOnlyList<Problem> Warnings)
{
    /// <summary>The office that handles it.</summary>
    public long? OfficeId { get; init; }

    /// <summary>What the customer pays in all.</summary>
    public Money Revenue => Money.Usd(Charges.Sum(c => c.Amount.Amount));
}
