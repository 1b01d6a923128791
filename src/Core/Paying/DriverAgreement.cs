using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>Pay types of a driver.</summary>
public enum PayKind
{
    /// <summary>Per loaded mile of a leg, to a hundredth of a cent.</summary>
    PerMile,

    /// <summary>Per empty mile before a leg, to a hundredth of a cent.</summary>
    PerEmptyMile,

    /// <summary>Percent of the leg's share of the line haul.</summary>
    PercentOfLineHaul,

    /// <summary>Per load they moved, in whole or in part.</summary>
    PerLoad,

    /// <summary>Per stop of their leg beyond one pickup and one delivery.</summary>
    PerExtraStop,

    /// <summary>Per hour on their time sheet.</summary>
    PerHour,

    /// <summary>Per diem: per day on a trip.</summary>
    PerDay,

    /// <summary>Salary: per week while the rate is in force, whatever they moved.</summary>
    PerWeek,
}

/// <summary>A rate from a date on, until the next of its kind. A rate of zero ends it.</summary>
public sealed record PayRate(PayKind Kind, decimal Rate, LocalDate From);

/// <summary>A driver's pay rates, current and past.</summary>
public sealed record DriverAgreement(IReadOnlyList<PayRate> Rates)
{
    /// <summary>The highest rates accepted; percent for <see cref="PayKind.PercentOfLineHaul"/>, dollars otherwise.</summary>
    public static decimal MaxRate(PayKind kind) =>
        kind switch
        {
            PayKind.PerMile or PayKind.PerEmptyMile => 10m,
            PayKind.PercentOfLineHaul => 100m,
            PayKind.PerHour => 200m,
            PayKind.PerExtraStop or PayKind.PerDay => 1_000m,
            PayKind.PerLoad => 10_000m,
            _ => 20_000m,
        };

    /// <summary>The rate of a kind in force on a day; zero when there is none.</summary>
    public decimal At(PayKind kind, LocalDate day) =>
        Rates.Where(r => r.Kind == kind && r.From <= day).OrderBy(r => r.From).LastOrDefault()?.Rate ?? 0m;

    /// <summary>What a leg earns the driver, line by line. Each line is rounded to cents, half up.</summary>
    /// <param name="lineHaul">The leg's share of it.</param>
    /// <param name="emptyMiles">From where the truck was free to where it took the freight.</param>
    /// <param name="stops">The leg's own stops, and its ends at which the load was handed over: two of them are no extra stops.</param>
    /// <param name="part">A team driver's part of all this; all of it when null.</param>
    public IEnumerable<(PayKind Kind, decimal Quantity, decimal Rate, Money Amount)> ForLeg(
        int miles,
        Money lineHaul,
        int stops,
        LocalDate finishedOn,
        int emptyMiles = 0,
        CrewPart? part = null
    )
    {
        var mine = part ?? CrewPart.All;
        var extra = Math.Max(0, stops - 2);
        return from work in new (PayKind Kind, decimal Quantity)[]
            {
                (PayKind.PerMile, miles),
                (PayKind.PerEmptyMile, emptyMiles),
                (PayKind.PercentOfLineHaul, lineHaul.Amount),
                (PayKind.PerLoad, 1),
                (PayKind.PerExtraStop, extra),
            }
            let rate = At(work.Kind, finishedOn)
            let quantity = mine.Of(work.Quantity)
            where rate > 0 && quantity > 0
            select (work.Kind, quantity, rate, Money.Usd(quantity * rate / (work.Kind == PayKind.PercentOfLineHaul ? 100m : 1m)).ToCents());
    }

    /// <summary>What a leg earns the driver in total; null when no rate of that day is by mile, percent or load.</summary>
    public Money? LegPay(int miles, Money lineHaul, int stops, LocalDate finishedOn, int emptyMiles = 0, CrewPart? part = null) =>
        At(PayKind.PerMile, finishedOn) + At(PayKind.PercentOfLineHaul, finishedOn) + At(PayKind.PerLoad, finishedOn) > 0
            ? Money.Sum(ForLeg(miles, lineHaul, stops, finishedOn, emptyMiles, part).Select(l => l.Amount))
            : null;

    /// <summary>A leg's share of what its load earns or costs; equal shares when all weights are zero. The shares of all legs add up to the
    /// whole.</summary>
    /// <param name="weights">Of all legs of the load, in order: <see cref="Trips.LegShares.Weight"/>, or their miles.</param>
    /// <param name="leg">Which of them, from zero.</param>
    public static Money Share(Money whole, IReadOnlyList<int> weights, int leg) =>
        whole.Split(weights.Select(m => (decimal)m).ToList())[leg];

    public static string Format(PayKind kind) =>
        kind switch
        {
            PayKind.PerMile => "per loaded mile",
            PayKind.PerEmptyMile => "per empty mile",
            PayKind.PercentOfLineHaul => "percent of line haul",
            PayKind.PerLoad => "per load",
            PayKind.PerExtraStop => "per extra stop",
            PayKind.PerHour => "per hour",
            PayKind.PerDay => "per day out",
            _ => "per week",
        };
}
