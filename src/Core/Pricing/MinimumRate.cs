using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Pricing;

/// <summary>The minimum rate of a load.</summary>
public static class MinimumRate
{
    /// <summary>(Empty + loaded miles) × the company's minimum rate per mile, rounded up to its step.</summary>
    /// <param name="emptyMiles">Whole miles to the pickup, at least 0.</param>
    /// <param name="loadedMiles">Whole miles from the pickup, at least 0.</param>
    /// <param name="leastPerMile">Dollars per mile, at least 0.</param>
    /// <param name="step">Dollars, above 0.</param>
    public static Money Of(int emptyMiles, int loadedMiles, decimal leastPerMile, decimal step) =>
        Money.Usd(Math.Ceiling((emptyMiles + loadedMiles) * leastPerMile / step) * step);
}
