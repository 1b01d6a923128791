using SteadyLark.Core.Basics;

namespace SteadyLark.Core.People;

/// <summary>Restricted fields of a company: its credit limit, and a carrier's authority and insurance.</summary>
public static class CompanyChanges
{
    /// <param name="may">What the user may do.</param>
    /// <param name="credit">Whether the credit limit would change.</param>
    /// <param name="authority">Whether authority, insurance, USDOT number or "do not use" would change.</param>
    public static IEnumerable<Problem> Refuses(Func<Right, bool> may, bool credit, bool authority)
    {
        if (credit && !may(Right.CreditEdit))
        {
            yield return new Problem(
                "no.right",
                $"Your role does not allow changing a credit limit: it needs the permission {Right.CreditEdit.Name()}.",
                "creditLimit"
            );
        }

        if (authority && !may(Right.AuthorityEdit))
        {
            yield return new Problem(
                "no.right",
                $"Your role does not allow changing a carrier's authority or insurance: it needs the permission {Right.AuthorityEdit.Name()}.",
                "carrier.usdot"
            );
        }
    }
}
