using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Core.Billing;

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
        IReadOnlyList<FlatChargeOrder?> orders,
        int existing,
        LocalDate today,
        bool late,
        Currency currency = Currency.USD
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

        var validation = new Validation { Currency = currency };
        if (orders.Count == 0)
        {
            validation.Add("missing", "Enter at least one charge.", "charges");
        }
        else if (orders.Count + existing > Booking.MaxLines)
        {
            validation.Add("too.many", $"A load takes at most {Booking.MaxLines} charges.", "charges");
            return validation.Problems;
        }

        var charges = FlatChargeOrder.Check(orders, today, validation);
        for (var i = 0; i < orders.Count; i++)
        {
            if (orders[i]?.Kind == ChargeKind.Discount)
            {
                validation.Add(
                    "discount",
                    late ? "A discount on a billed load is a credit memo: enter it on the invoice." : "Edit the load to enter a discount.",
                    $"charges[{i}].kind"
                );
            }
        }

        return validation.Ok
            ? charges
                .Select(c => new BookedCharge(
                    c.Kind,
                    c.Description,
                    new PricedCharge(ChargeBasis.Flat, null, null, c.Amount),
                    c.Authorization
                ))
                .ToList()
            : validation.Problems;
    }
}
