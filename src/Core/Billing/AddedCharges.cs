using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Core.Billing;

/// <summary>A charge that is added to a load without editing it, as entered.</summary>
public sealed record AddedChargeOrder(ChargeKind? Kind, string? Description, Money? Amount, ChargeAuthorization? Authorization);

/// <summary>Charges added to a load on its way or delivered, such as detention; and late charges of one that is billed, which go on a
/// supplemental invoice.</summary>
public static class AddedCharges
{
    /// <summary>Checks charges to be added to a load.</summary>
    /// <param name="late">Whether they are late charges.</param>
    /// <param name="existing">How many charges the load has.</param>
    /// <returns>The charges, each a flat amount above zero.</returns>
    public static Outcome<IReadOnlyList<BookedCharge>> Decide(
        LoadState state,
        string number,
        IReadOnlyList<AddedChargeOrder> orders,
        int existing,
        LocalDate today,
        bool late
    )
    {
        var billed = state is LoadState.Billed or LoadState.Closed;
        if (late && !billed)
        {
            return new Problem(
                "load.state",
                $"Load {number} is {state.Format()}: add the charge to the load. Late charges are for loads that are billed."
            );
        }

        if (!late && state is not (LoadState.Covered or LoadState.Rolling or LoadState.Delivered))
        {
            return new Problem(
                "load.state",
                billed
                    ? $"Load {number} is billed: add a late charge to its invoice."
                    : $"Load {number} is {state.Format()}: edit the load to change its charges."
            );
        }

        var validation = new Validation();
        if (orders.Count == 0)
        {
            validation.Add("missing", "Enter at least one charge.", "charges");
        }
        else if (orders.Count + existing > Booking.MaxLines)
        {
            validation.Add("too.many", $"A load takes at most {Booking.MaxLines} charges.", "charges");
            return validation.Problems;
        }

        var charges = new List<BookedCharge>();
        for (var i = 0; i < orders.Count; i++)
        {
            var (order, at) = (orders[i], $"charges[{i}]");
            var name = order.Kind?.Format() ?? $"Charge {i + 1}";
            if (order.Kind is null)
            {
                validation.Add("missing", $"{name}: choose a charge type.", $"{at}.kind");
            }

            validation.Dollars(order.Amount, $"{at}.amount", $"{name}: the amount");
            var description = validation.Text(
                order.Description,
                $"{at}.description",
                $"{name}: the description",
                200,
                required: order.Kind == ChargeKind.Other
            );
            var authorization = ChargeAuthorization.Check(order.Authorization, today, at, name, validation);
            if (order.Kind == ChargeKind.Discount)
            {
                validation.Add(
                    "discount",
                    late ? "A discount on a billed load is a credit memo: enter it on the invoice." : "Edit the load to enter a discount.",
                    $"{at}.kind"
                );
            }

            if (order.Kind is { } kind && order.Amount is { } amount)
            {
                charges.Add(new BookedCharge(kind, description, new PricedCharge(ChargeBasis.Flat, null, null, amount), authorization));
            }
        }

        return validation.Ok ? charges : validation.Problems;
    }
}
