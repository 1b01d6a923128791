using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Pricing;

/// <summary>Who agreed to a charge, when, and by what reference: what a customer asks for before it pays detention.</summary>
/// <param name="By">A person or a system at the customer.</param>
/// <param name="Reference">An email, a confirmation number, a call.</param>
public sealed record ChargeAuthorization(string? By, LocalDate? On, string? Reference)
{
    /// <summary>Checks an authorization; null when nothing is entered.</summary>
    /// <param name="at">The charge's field, such as <c>charges[1]</c>.</param>
    /// <param name="name">The charge's name, for sentences.</param>
    public static ChargeAuthorization? Check(ChargeAuthorization? given, LocalDate today, string at, string name, Validation validation)
    {
        if (given is null)
        {
            return null;
        }

        var by = validation.Text(given.By, $"{at}.authorization.by", $"{name}: authorized by", 80);
        var reference = validation.Text(given.Reference, $"{at}.authorization.reference", $"{name}: the authorization reference", 80);
        validation.Date(given.On, today, $"{at}.authorization.on", $"{name}: the date authorized", required: false);
        if (given.On > today)
        {
            validation.Add("date.future", $"{name}: the date authorized cannot be in the future.", $"{at}.authorization.on");
        }

        if (by is null && (given.On is not null || reference is not null))
        {
            validation.Add("missing", $"{name}: enter who authorized it.", $"{at}.authorization.by");
        }

        return by is null ? null : new ChargeAuthorization(by, given.On, reference);
    }
}
