using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>Two-person approval: where the company requires it, whoever approved something does not also pay it.</summary>
public static class TwoPeople
{
    /// <param name="required">The company's setting.</param>
    /// <returns>The refusal, or null.</returns>
    public static Problem? Refuses(long? approvedBy, long? payer, bool required) =>
        required && approvedBy is not null && approvedBy == payer
            ? new Problem(
                "pay.same.person",
                "You approved this, so another person must pay it. Company settings can allow one person to do both."
            )
            : null;
}
