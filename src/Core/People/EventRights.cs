namespace SteadyLark.Core.People;

/// <summary>The right needed to see an event, and what is hidden from its text.</summary>
public static class EventRights
{
    private static readonly (string Prefix, Right Right)[] Needed =
    [
        ("settlement.", Right.WagesSee), ("advance.", Right.WagesSee), ("pay.", Right.WagesSee), ("bill.", Right.PayingSee), ("load.paid", Right.PayingSee),
        ("invoice.", Right.BillingSee), ("payment.", Right.BillingSee), ("billing_run.", Right.BillingSee), ("company.statement", Right.BillingSee), ("company.billing", Right.BillingSee),
        ("entry.", Right.LedgerSee), ("period.", Right.LedgerSee), ("setup.account", Right.LedgerSee),
        ("session.", Right.AuditSee), ("user.", Right.AuditSee), ("role.", Right.AuditSee), ("token.", Right.AuditSee), ("export.", Right.AuditSee),
        ("company.", Right.CompaniesSee), ("place.", Right.CompaniesSee), ("setup.", Right.CompaniesSee),
        ("truck.", Right.FleetSee), ("trailer.", Right.FleetSee), ("driver.", Right.FleetSee), ("document.cost.", Right.MarginsSee), ("document.", Right.DocumentsSee), ("mail.", Right.DocumentsSee),
    ];

    /// <param name="kind">Such as <c>settlement.approved</c>. Kinds that are not listed need <see cref="Right.LoadsSee"/>.</param>
    public static Right Of(string kind) =>
        Needed.Where(n => kind.StartsWith(n.Prefix, StringComparison.Ordinal)).Select(n => (Right?)n.Right).FirstOrDefault() ?? Right.LoadsSee;

    /// <summary>Whether a user may see an event. For drivers the caller has already selected the events about themselves.</summary>
    public static bool MayHear(Access access, string kind) => access.Has(Right.TripsOwn) || access.Has(Of(kind));

    /// <summary>An event's text without amounts its reader may not see. Events about bills, invoices, pay and the ledger keep theirs; elsewhere an amount may be a rate or a cost.</summary>
    public static string Trim(Access access, string kind, string sentence) => SeesAmounts(access, kind) ? sentence : Amounts.Remove(sentence);

    /// <summary>Whether a user may see the amounts in an event of this kind.</summary>
    public static bool SeesAmounts(Access access, string kind) =>
        Of(kind) is Right.WagesSee or Right.BillingSee or Right.PayingSee or Right.LedgerSee || Amounts.ShownTo(access);
}
