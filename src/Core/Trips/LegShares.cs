using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;

namespace SteadyLark.Core.Trips;

/// <summary>A leg, as the sharing of its load's revenue sees it.</summary>
/// <param name="Share">In percent, as a user set it; by miles when null.</param>
/// <param name="Driver">Our driver who has it; null for a carrier's or an open one.</param>
/// <param name="ByPercent">Whether that driver is paid a percentage of the line haul.</param>
/// <param name="Settled">Whether a settlement paid it.</param>
public sealed record SharedLeg(decimal? Share, int Miles, string? Driver, bool ByPercent, bool Settled);

/// <summary>How the legs of a split load share its revenue and line haul: by loaded miles, unless a user sets percentages.</summary>
public static class LegShares
{
    /// <summary>What a leg weighs among the legs of its load.</summary>
    public static int Weight(decimal? share, int miles) => share is { } percent ? (int)(percent * 100) : miles;

    /// <summary>Each leg's share in percent, with two decimals; they add up to 100.</summary>
    public static IReadOnlyList<decimal> Percents(IReadOnlyList<SharedLeg> legs) =>
        Apportion.Of(100m, legs.Select(l => (decimal)Weight(l.Share, l.Miles)).ToList(), 2);

    /// <summary>Whether a driver's pay depends on shares that nobody set.</summary>
    public static bool Asks(IReadOnlyList<SharedLeg> legs) =>
        legs.Count > 1 && legs.All(l => l.Share is null) && legs.Any(l => l is { ByPercent: true, Settled: false });

    /// <summary>Checks shares that a user sets, under <c>shares</c>.</summary>
    /// <param name="shares">In percent, one for each leg in order; null to share by miles again.</param>
    public static Problems Check(LoadState state, string load, IReadOnlyList<SharedLeg> legs, IReadOnlyList<decimal>? shares)
    {
        var validation = new Validation();
        if (legs.Count < 2)
        {
            validation.Add("shares.one", $"Load {load} has one leg: split it first.");
        }
        else if (state == LoadState.Cancelled)
        {
            validation.Add("load.state", $"Load {load} is canceled: its legs can no longer be changed.");
        }
        else if (legs.FirstOrDefault(l => l.Settled) is { } settled)
        {
            validation.Add("shares.settled", $"{settled.Driver} is paid for this load already: its shares can no longer be changed.");
        }
        else if (shares is not null && shares.Count != legs.Count)
        {
            validation.Add("shares.count", $"Enter a share for each of the {legs.Count} legs.", "shares");
        }
        else if (shares?.Any(s => s is < 0 or > 100 || decimal.Round(s, 2) != s) == true)
        {
            validation.Add("out.of.range", "Each share is a percentage from 0 to 100 with at most two decimals.", "shares");
        }
        else if (shares is not null && shares.Sum() is var sum && sum != 100)
        {
            validation.Add("shares.sum", $"The shares add up to {sum:0.##} %: they have to make 100 %.", "shares");
        }

        return validation.Problems;
    }
}
