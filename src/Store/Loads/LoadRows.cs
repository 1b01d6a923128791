using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;

namespace SteadyLark.Store.Loads;

/// <summary>A stop with its promise and what happened there.</summary>
/// <param name="From">The place's wall clock, as is <paramref name="Until"/>.</param>
public sealed record StopRow(
    long Id, long LoadId, int Seq, StopKind Kind, long? PlaceId, string? Place, string? Address, string? Town, string? Region, string? Zone,
    double? Latitude, double? Longitude, LocalDateTime? From, LocalDateTime? Until, Instant? FromAt, Instant? UntilAt, string? Note,
    Instant? ArrivedAt, string? ArrivedVia, Instant? LeftAt, string? LeftVia, Instant? DeliveredAt, string? DeliveredVia, string? ReceivedBy)
{
    public bool CanBePlanned => FromAt is not null && UntilAt is not null && Latitude is not null;

    public PlannedStop Planned() =>
        new(Id, Kind, new GeoPoint(Latitude!.Value, Longitude!.Value), new Span(FromAt!.Value, UntilAt!.Value), ArrivedAt, LeftAt, DeliveredAt);
}

/// <summary>A load as a row of a slate.</summary>
/// <param name="Who">The driver's short name or the carrier's name, or null while nobody has it.</param>
/// <param name="Confirmed">False while a carrier has not accepted the rate confirmation.</param>
public sealed record LoadRow(
    long Id, string Number, LoadState State, long? CustomerId, string? Customer, string? Reference, Equipment? Equipment, string? Freight, int? WeightLb, int? TemperatureF,
    int? Miles, Money Revenue, Money? Agreed, Instant? FirstAt, Instant? LastAt, string? Who, long? DriverId, long? CarrierId, long? TripId, string? Trip, bool Confirmed, int Version,
    IReadOnlyList<StopRow> Stops);

public sealed record FreightRow(string Description, int? Pieces, int? Pallets, int? WeightLb, int? TemperatureF);

public sealed record ChargeRow(long Id, ChargeKind Kind, string? Description, Money Amount);

/// <summary>Who carries a leg.</summary>
public sealed record LegRow(
    long Id, int Seq, int Miles,
    long? TripId, string? Trip, long? DriverId, string? Driver, string? DriverPhone, long? TruckId, string? Truck, long? TrailerId, string? Trailer, decimal? PerMile,
    long? CarrierId, string? Carrier, string? CarrierPhone, Money? Agreed, TenderRow? Tender,
    long? BillId, string? BillNumber, Money? Billed, LocalDate? BillPaidOn, long? SettlementId, LocalDate? SettlementPaidOn);

public sealed record TenderRow(long Id, Instant SentAt, Instant? AcceptedAt, string? AcceptedBy);

/// <summary>A load's standing invoice.</summary>
public sealed record LoadInvoice(long Id, string Number, LocalDate IssuedOn, LocalDate DueOn, Money Total, Money Paid);

/// <summary>The whole of a load.</summary>
public sealed record LoadSheet(
    LoadRow Load, string? Instructions, string? BookedBy, Instant BookedAt, string? CancelledWhy,
    IReadOnlyList<FreightRow> Freight, IReadOnlyList<ChargeRow> Charges, IReadOnlyList<LegRow> Legs, LoadInvoice? Invoice);
