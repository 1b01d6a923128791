using SteadyLark.Core.Basics;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Core.Loads;

/// <summary>A load to be canceled, as entered. A truck that was ordered and not used costs the customer, and earns the carrier, an agreed
/// amount.</summary>
/// <param name="CustomerCharge">What the customer pays for it; null for nothing.</param>
/// <param name="CarrierCharge">What the carrier is paid for it; null for nothing.</param>
public sealed record CancelOrder(string? Why, Money? CustomerCharge, Money? CarrierCharge, ChargeAuthorization? Authorization);

/// <summary>A cancellation that was decided.</summary>
/// <param name="Customer">The charge that replaces the load's; null when nothing is charged.</param>
/// <param name="Carrier">The only pay its carrier keeps; null when it keeps none and is unassigned.</param>
public sealed record Cancellation(string Why, BookedCharge? Customer, FlatCharge? Carrier)
{
    /// <summary>Whether a charge of a canceled load is earned and billed: what it was booked with is kept for the record only.</summary>
    public static bool Keeps(ChargeKind kind) => kind == ChargeKind.TruckOrderedNotUsed;

    /// <summary>Decides a cancellation.</summary>
    /// <param name="work">The load.</param>
    /// <param name="loaded">Whether a truck has left a pickup.</param>
    /// <param name="carrierAccepted">Whether a carrier has it and accepted.</param>
    public static Outcome<Cancellation> Decide(
        LoadWork work,
        bool loaded,
        bool carrierAccepted,
        CancelOrder order,
        NodaTime.LocalDate today,
        Currency currency = Currency.USD,
        Currency carrierCurrency = Currency.USD
    )
    {
        if (work.CancelRefusal(loaded) is { } refused)
        {
            return refused;
        }

        var validation = new Validation();
        var why = validation.Text(order.Why, "why", "The reason", 400, required: true);
        validation.Dollars(order.CustomerCharge, "customerCharge", "The customer charge", required: false, currency: currency);
        validation.Dollars(order.CarrierCharge, "carrierCharge", "The carrier pay", required: false, currency: carrierCurrency);
        var authorization = ChargeAuthorization.Check(order.Authorization, today, "customerCharge", "The customer charge", validation);
        if (order.CustomerCharge is not null && work.State == LoadState.Draft)
        {
            validation.Add("load.state", "A draft has nothing to charge for: cancel it without a charge.", "customerCharge");
        }

        if (order.CarrierCharge is not null && !carrierAccepted)
        {
            validation.Add("load.state", "No carrier has accepted this load: cancel it without carrier pay.", "carrierCharge");
        }

        return validation.Ok
            ? new Cancellation(
                why!,
                order.CustomerCharge is { } charge
                    ? new BookedCharge(
                        ChargeKind.TruckOrderedNotUsed,
                        null,
                        new PricedCharge(ChargeBasis.Flat, null, null, charge),
                        authorization
                    )
                    : null,
                order.CarrierCharge is { } pay ? new FlatCharge(ChargeKind.TruckOrderedNotUsed, null, pay) : null
            )
            : validation.Problems;
    }

    /// <summary>What happened, after the load's number.</summary>
    /// <example>canceled: plant closed; $250.00 to the customer, $200.00 to the carrier for the truck not used</example>
    public string Summary()
    {
        var amounts = string.Join(
            ", ",
            new[]
            {
                Customer is null ? null : $"{Customer.Amount.Formatted} to the customer",
                Carrier is null ? null : $"{Carrier.Amount.Formatted} to the carrier",
            }.OfType<string>()
        );
        return $"canceled: {Why}{(amounts.Length > 0 ? $"; {amounts} for the truck not used" : "")}";
    }
}
