namespace SteadyLark.Core.Basics;

/// <summary>Splits a whole by weights into rounded shares that add up to it.</summary>
public static class Apportion
{
    /// <summary>Each share is what the shares up to it come to, rounded half away from zero, less those before, so nothing appears or
    /// vanishes.</summary>
    /// <param name="whole">With at most <paramref name="decimals"/> digits after the point.</param>
    /// <param name="weights">Zero or above; equal ones when all are zero. At least one.</param>
    /// <param name="decimals">Digits after the point of each share, 0 to 10.</param>
    /// <returns>A share for each weight, in order; none has the other sign than the whole.</returns>
    /// <example>100 by 1, 1 and 1 with 2 decimals is 33.33, 33.34 and 33.33.</example>
    public static IReadOnlyList<decimal> Of(decimal whole, IReadOnlyList<decimal> weights, int decimals)
    {
        var each = weights.Sum() == 0 ? weights.Select(_ => 1m).ToList() : weights;
        var (all, upTo, given) = (each.Sum(), 0m, 0m);
        var shares = new List<decimal>(each.Count);
        foreach (var weight in each)
        {
            upTo += weight;
            var share = decimal.Round(whole * (upTo / all), decimals, MidpointRounding.AwayFromZero) - given;
            given += share;
            shares.Add(share);
        }

        return shares;
    }
}
