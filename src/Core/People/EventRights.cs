namespace SteadyLark.Core.People;

/// <summary>The right needed to see an event, and what is hidden from its text.</summary>
public static class EventRights
{
    /// <param name="kind">Such as <c>settlement.approved</c>.</param>
    public static Right Of(string kind) => EventKinds.Of(kind).Right;

    /// <summary>Whether a user may see an event. For drivers the caller has already selected the events about themselves.</summary>
    public static bool MayHear(Access access, string kind) => access.Has(Right.TripsOwn) || access.Has(Of(kind));

    /// <summary>An event's text without amounts its reader may not see. Events about bills, invoices, pay and the ledger keep theirs;
    /// elsewhere an amount may be a rate or a cost.</summary>
    public static string Trim(Access access, string kind, string sentence) =>
        SeesAmounts(access, kind) ? sentence : Amounts.Remove(sentence);

    /// <summary>Whether a user may see the amounts in an event of this kind.</summary>
    public static bool SeesAmounts(Access access, string kind) =>
        Of(kind) is Right.WagesSee or Right.BillingSee or Right.PayingSee or Right.LedgerSee || Amounts.ShownTo(access);
}
