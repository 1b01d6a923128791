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

/// <summary>How much credit a customer has.</summary>
/// <param name="Limit">The customer's own limit, or null.</param>
/// <param name="Default">The company's limit for customers without one; null for no limit.</param>
/// <param name="PastDueDays">Days past due after which new loads are held; null for never.</param>
public sealed record CreditTerms(Money? Limit, Money? Default = null, int? PastDueDays = null);

/// <summary>What a customer owes.</summary>
/// <param name="Owed">Open on invoices.</param>
/// <param name="Unbilled">Booked, in transit or delivered, and not invoiced; without the load in question.</param>
/// <param name="OldestDays">Days past due of its oldest open invoice; 0 when none is past due.</param>
public sealed record CreditExposure(Money Owed, Money Unbilled, int OldestDays = 0);

/// <summary>Whether a customer may owe us one more load.</summary>
public static class Credit
{
    /// <param name="load">The revenue of this load.</param>
    /// <returns>The reason to hold the load from being covered, or null.</returns>
    public static string? Hold(string customer, CreditTerms terms, CreditExposure owes, Money load)
    {
        var all = owes.Owed + owes.Unbilled + load;
        if ((terms.Limit ?? terms.Default) is { } max && all.Amount > max.Amount)
        {
            var whose = terms.Limit is null ? "the company's credit limit" : "the credit limit";
            return $"{customer} would owe {all.Formatted} with this load ({owes.Owed.Formatted} invoiced, {owes.Unbilled.Formatted} unbilled); {whose} is {max.Formatted}.";
        }

        return terms.PastDueDays is { } days && owes.OldestDays > days
            ? $"{customer} has an invoice {owes.OldestDays} days past due; new loads are held after {days}."
            : null;
    }

    /// <summary>Whether a hold keeps a load from being billed: what was delivered is billed, whatever its customer's credit.</summary>
    public static bool StopsBilling(this HoldKind kind) => kind != HoldKind.Credit;

    /// <summary>The kinds of holds that keep a load from being billed.</summary>
    public static readonly IReadOnlyList<HoldKind> BillingHolds = Enum.GetValues<HoldKind>().Where(k => k.StopsBilling()).ToList();
}
