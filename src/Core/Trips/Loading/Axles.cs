namespace SteadyLark.Core.Trips.Loading;

/// <summary>What the axle groups of a tractor with a tank trailer carry, in pounds.</summary>
public sealed record AxleWeights(int SteerLb, int DriveLb, int TrailerLb);

/// <summary>
/// How freight along a tank trailer bears on the axle groups: between kingpin and trailer axles by the lever, and what the kingpin carries between
/// drive and steer axles. The geometry is a usual one, not measured: the kingpin 7.5 % of the length behind the front, 80.6 % of the length
/// before the middle of the trailer's tandem; the fifth wheel puts 5.5 % of its load on the steer axle.
/// </summary>
public static class Axles
{
    /// <summary>A single axle on the Interstate System: 23 CFR 658.17(c).</summary>
    public const int SingleLb = 20_000;

    /// <summary>A tandem axle: 23 CFR 658.17(d).</summary>
    public const int TandemLb = 34_000;

    private const double Kingpin = 0.075;
    private const double Wheelbase = 0.806;
    private const double OnSteer = 0.055;

    /// <summary>The part of a tractor's own weight on its steer axle. An assumption.</summary>
    private const double TractorOnSteer = 0.58;

    /// <summary>The part of a trailer's own weight on its axles. An assumption.</summary>
    private const double TrailerOnAxles = 0.62;

    /// <summary>The axle groups, in the order of <see cref="Limits"/>.</summary>
    public static readonly IReadOnlyList<string> Names = ["steer axle", "drive axles", "trailer axles"];

    /// <summary>Their limits in pounds.</summary>
    public static readonly IReadOnlyList<int> Limits = [SingleLb, TandemLb, TandemLb];

    /// <summary>The parts of a pound in a compartment that each group carries; they add up to 1.</summary>
    /// <param name="compartments">Gallons of each from the front; their lengths are in the same proportion.</param>
    public static IReadOnlyList<IReadOnlyList<double>> Shares(IReadOnlyList<decimal> compartments)
    {
        var all = (double)compartments.Sum();
        var shares = new List<IReadOnlyList<double>>();
        var before = 0d;
        foreach (var size in compartments.Select(c => (double)c))
        {
            var trailer = (((before + (size / 2)) / all) - Kingpin) / Wheelbase;
            shares.Add([(1 - trailer) * OnSteer, (1 - trailer) * (1 - OnSteer), trailer]);
            before += size;
        }

        return shares;
    }

    /// <summary>What each group carries of the empty truck and trailer.</summary>
    public static IReadOnlyList<double> Empty(TripLimits limits)
    {
        var kingpin = limits.Trailer.TareLb * (1 - TrailerOnAxles);
        return
        [
            (limits.TruckTareLb * TractorOnSteer) + (kingpin * OnSteer),
            (limits.TruckTareLb * (1 - TractorOnSteer)) + (kingpin * (1 - OnSteer)),
            limits.Trailer.TareLb * TrailerOnAxles,
        ];
    }

    /// <summary>What the groups carry with freight in the compartments.</summary>
    /// <param name="freight">Compartment, from 0, and pounds.</param>
    public static AxleWeights Of(TripLimits limits, IEnumerable<(int Place, decimal WeightLb)> freight)
    {
        var (shares, sum) = (Shares(limits.Layout.Compartments), Empty(limits).ToArray());
        foreach (var (place, weight) in freight)
        {
            for (var g = 0; g < sum.Length; g++)
            {
                sum[g] += shares[place][g] * (double)weight;
            }
        }

        return new AxleWeights(Pounds(sum[0]), Pounds(sum[1]), Pounds(sum[2]));

        static int Pounds(double lb) => (int)Math.Round(lb, MidpointRounding.AwayFromZero);
    }
}
