namespace SteadyLark.Core.People;

/// <summary>What search shows to whom.</summary>
public static class FoundKinds
{
    private static readonly (string Kind, Right Right)[] Needed =
    [
        ("load", Right.LoadsSee),
        ("company", Right.CompaniesSee),
        ("place", Right.CompaniesSee),
        ("driver", Right.FleetSee),
        ("invoice", Right.BillingSee),
    ];

    public static IReadOnlyList<string> Of(Access access) => Needed.Where(n => access.Has(n.Right)).Select(n => n.Kind).ToList();
}
