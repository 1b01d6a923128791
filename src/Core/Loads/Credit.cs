using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>Why a load may not go on for now.</summary>
public enum HoldKind
{
    Credit,
    Document,
    Dispute,

    /// <summary>Handed back to operations by who bills.</summary>
    Billing,
}

/// <summary>Whether a customer may owe us one load more.</summary>
public static class Credit
{
    /// <param name="limit">What the customer may owe in all; null for no limit.</param>
    /// <param name="owed">Open on invoices.</param>
    /// <param name="unbilled">Booked, moving or delivered, and not on an invoice; without the load in question.</param>
    /// <param name="load">What this load comes to.</param>
    /// <returns>The reason to hold the load, or null when it may go on.</returns>
    public static string? Hold(string customer, Money? limit, Money owed, Money unbilled, Money load)
    {
        var all = owed + unbilled + load;
        return limit is not { } max || all.Amount <= max.Amount
            ? null
            : $"{customer} would owe {all.Formatted} with this load ({owed.Formatted} invoiced, {unbilled.Formatted} unbilled); the credit limit is {max.Formatted}.";
    }
}
