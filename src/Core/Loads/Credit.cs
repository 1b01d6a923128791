using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>Why a load is on hold.</summary>
public enum HoldKind
{
    Credit,
    Document,
    Dispute,

    /// <summary>Returned to dispatch by billing.</summary>
    Billing,
}

/// <summary>Whether a customer may owe us one more load.</summary>
public static class Credit
{
    /// <param name="limit">The most the customer may owe in all; null for no limit.</param>
    /// <param name="owed">Open on invoices.</param>
    /// <param name="unbilled">Booked, in transit or delivered, and not invoiced; without the load in question.</param>
    /// <param name="load">The revenue of this load.</param>
    /// <returns>The reason to hold the load, or null.</returns>
    public static string? Hold(string customer, Money? limit, Money owed, Money unbilled, Money load)
    {
        var all = owed + unbilled + load;
        return limit is not { } max || all.Amount <= max.Amount
            ? null
            : $"{customer} would owe {all.Formatted} with this load ({owed.Formatted} invoiced, {unbilled.Formatted} unbilled); the credit limit is {max.Formatted}.";
    }
}
