using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;

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
    public static string Said(this Equipment equipment) => equipment switch
    {
        Equipment.CarHauler => "car hauler",
        _ => equipment.ToString().ToLowerInvariant(),
    };
}

/// <summary>A stop as it is ordered. Times are the place's own wall clock.</summary>
public sealed record StopOrder(StopKind? Kind, long? PlaceId, LocalDateTime? From, LocalDateTime? Until, string? Note);

/// <summary>A line of freight as it is ordered.</summary>
/// <param name="WeightLb">Whole pounds.</param>
/// <param name="TemperatureF">Degrees Fahrenheit to be held, or null when it does not matter.</param>
public sealed record FreightOrder(string? Description, int? Pieces, int? Pallets, int? WeightLb, int? TemperatureF);

/// <summary>A charge to the customer as it is ordered.</summary>
public sealed record ChargeOrder(ChargeKind? Kind, string? Description, decimal? Amount);

/// <summary>What the customer orders, as it was typed.</summary>
public sealed record LoadOrder(
    long? CustomerId,
    string? Reference,
    Equipment? Equipment,
    IReadOnlyList<StopOrder> Stops,
    IReadOnlyList<FreightOrder> Freight,
    IReadOnlyList<ChargeOrder> Charges,
    string? Instructions,
    bool Draft);

/// <summary>What is known of a place when a load is booked.</summary>
public sealed record KnownPlace(long Id, string Name, string Town, string Region, GeoPoint Point, string Zone);

/// <summary>A stop as it will be kept. The window is null only on a draft.</summary>
public sealed record BookedStop(StopKind Kind, KnownPlace? Place, TimeWindow? Window, Span? At, string? Note);

public sealed record BookedFreight(string Description, int? Pieces, int? Pallets, int? WeightLb, int? TemperatureF);

public sealed record BookedCharge(ChargeKind Kind, string? Description, Money Amount);

/// <summary>A load fit to be kept: booked, or a draft.</summary>
/// <param name="Miles">Estimated road miles over all stops in order; null on a draft without places.</param>
/// <param name="Warnings">What a person should look at, though it does not stand in the way.</param>
public sealed record BookedLoad(
    long? CustomerId,
    string? Reference,
    Equipment? Equipment,
    IReadOnlyList<BookedStop> Stops,
    IReadOnlyList<BookedFreight> Freight,
    IReadOnlyList<BookedCharge> Charges,
    string? Instructions,
    bool Draft,
    int? Miles,
    IReadOnlyList<Problem> Warnings);
