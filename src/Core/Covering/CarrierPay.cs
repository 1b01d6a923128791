using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Core.Covering;

/// <summary>What a carrier is paid for a leg, line by line: line haul, fuel, detention, lumper.</summary>
public static class CarrierPay
{
    public static Money Sum(IEnumerable<FlatCharge> charges) => Money.Sum(charges.Select(c => c.Amount));

    /// <summary>Checks a carrier's charges.</summary>
    /// <returns>The charges; their sum is above zero. Valid only while <paramref name="validation"/> has no problems.</returns>
    public static IReadOnlyList<FlatCharge> Check(IReadOnlyList<FlatChargeOrder> orders, LocalDate today, Validation validation)
    {
        if (orders.Count is 0 or > Booking.MaxLines)
        {
            validation.Add(
                orders.Count == 0 ? "missing" : "too.many",
                orders.Count == 0 ? "Enter what the carrier is paid." : $"Carrier pay takes at most {Booking.MaxLines} charges.",
                "charges"
            );
            return [];
        }

        var charges = FlatChargeOrder
            .Check(orders, today, validation)
            .Select(c => c.Kind == ChargeKind.Discount ? c with { Amount = -c.Amount } : c)
            .ToList();
        if (validation.Ok && Sum(charges).Amount <= 0)
        {
            validation.Add("pay.zero", "The discounts take all of the carrier’s pay: enter less.", "charges");
        }

        return charges;
    }

    /// <summary>Why a carrier's charges cannot be changed now; null when they can.</summary>
    /// <param name="carrier">Its name; null when our own driver has the leg.</param>
    /// <param name="bill">The number of the carrier's bill; null when none is entered.</param>
    public static Problem? ChangeRefusal(LoadState state, string number, string? carrier, string? bill) =>
        carrier is null ? new Problem("load.state", $"Load {number} is not assigned to a carrier.")
        : bill is not null
            ? new Problem("bill.entered", $"{carrier}’s bill {bill} is entered: approve it for what you owe, or void it first.")
        : state switch
        {
            LoadState.Covered or LoadState.Rolling or LoadState.Delivered or LoadState.Billed or LoadState.Closed => null,
            LoadState.Tendered => new Problem("load.state", $"{carrier} has not answered yet: withdraw the tender to offer another rate."),
            _ => new Problem("load.state", $"Load {number} is {state.Format()}: carrier pay cannot be changed."),
        };

    /// <summary>What changed, in a sentence's part.</summary>
    /// <example>from 700.00 to 760.00: detention 60.00 added</example>
    public static string Describe(IReadOnlyList<FlatCharge> before, IReadOnlyList<FlatCharge> after)
    {
        var added = after.Except(before).Select(c => $"{c.Kind.Format().ToLowerInvariant()} {c.Amount.Formatted}").ToList();
        var removed = before.Except(after).Select(c => $"{c.Kind.Format().ToLowerInvariant()} {c.Amount.Formatted}").ToList();
        var what = string.Join(
            "; ",
            new[]
            {
                added.Count > 0 ? $"{string.Join(", ", added)} added" : null,
                removed.Count > 0 ? $"{string.Join(", ", removed)} removed" : null,
            }.OfType<string>()
        );
        return $"from {Sum(before).Formatted} to {Sum(after).Formatted}{(what.Length > 0 ? $": {what}" : "")}";
    }
}
