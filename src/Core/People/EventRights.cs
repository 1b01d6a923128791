namespace SteadyLark.Core.People;

/// <summary>Which right one needs to be told of an event. What an event says may hold pay, bills and amounts, so it is kept from whoever may not see those.</summary>
public static class EventRights
{
    private static readonly (string Prefix, Right Right)[] Needed =
    [
        ("settlement.", Right.PayingSee), ("advance.", Right.PayingSee), ("pay.", Right.PayingSee), ("bill.", Right.PayingSee),
        ("invoice.", Right.BillingSee), ("payment.", Right.BillingSee), ("billing_run.", Right.BillingSee), ("company.statement", Right.BillingSee), ("company.billing", Right.BillingSee),
        ("entry.", Right.LedgerSee), ("period.", Right.LedgerSee), ("setup.account", Right.LedgerSee),
        ("company.", Right.CompaniesSee), ("place.", Right.CompaniesSee), ("setup.", Right.CompaniesSee),
        ("truck.", Right.FleetSee), ("trailer.", Right.FleetSee), ("driver.", Right.FleetSee), ("document.", Right.DocumentsSee),
    ];

    /// <param name="kind">Such as <c>settlement.approved</c>. Kinds that are not listed need <see cref="Right.LoadsSee"/>.</param>
    public static Right Of(string kind) =>
        Needed.Where(n => kind.StartsWith(n.Prefix, StringComparison.Ordinal)).Select(n => (Right?)n.Right).FirstOrDefault() ?? Right.LoadsSee;

    /// <summary>Whether a role may be told. A driver is told of their own trips and pay only, which the caller has chosen.</summary>
    public static bool MayHear(Role role, string kind) => role == Role.Driver || Rights.Has(role, Of(kind));
}
