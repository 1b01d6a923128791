using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>What one approved another pays, where the company wants it so: no one sends out money alone.</summary>
public static class TwoPeople
{
    /// <param name="required">The company's rule.</param>
    /// <returns>The refusal, or null.</returns>
    public static Problem? Refuses(long? approvedBy, long? payer, bool required) =>
        required && approvedBy is not null && approvedBy == payer
            ? new Problem("pay.same.person", "You approved this, so another person must pay it. Company settings can allow one person to do both.")
            : null;
}
