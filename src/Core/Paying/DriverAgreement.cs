using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>For what a driver is paid.</summary>
public enum PayKind
{
    /// <summary>For each mile of a leg, to a hundredth of a cent.</summary>
    PerMile,

    /// <summary>Percent of the line haul that falls to their leg.</summary>
    PercentOfLineHaul,

    /// <summary>For each load they moved, or moved a leg of.</summary>
    PerLoad,

    /// <summary>For each stop of their leg beyond one pickup and one delivery.</summary>
    PerExtraStop,

    /// <summary>For each hour on their time sheet.</summary>
    PerHour,

    /// <summary>Per diem: for each day on a trip.</summary>
    PerDay,

    /// <summary>Salary: for each week in which the agreement stands, whatever they moved.</summary>
    PerWeek,
}

/// <summary>A rate from a day on, until another of its kind takes its place. A rate of zero ends it.</summary>
public sealed record PayRate(PayKind Kind, decimal Rate, LocalDate From);

/// <summary>What a driver and the business agreed on, with what was agreed before.</summary>
public sealed record DriverAgreement(IReadOnlyList<PayRate> Rates)
{
    /// <summary>The highest rates that are believed; percent for <see cref="PayKind.PercentOfLineHaul"/>, dollars otherwise.</summary>
    public static decimal MaxRate(PayKind kind) => kind switch
    {
        PayKind.PerMile => 10m,
        PayKind.PercentOfLineHaul => 100m,
        PayKind.PerHour => 200m,
        PayKind.PerExtraStop or PayKind.PerDay => 1_000m,
        PayKind.PerLoad => 10_000m,
        _ => 20_000m,
    };

    /// <summary>The rate of a kind that stands on a day; zero when none does.</summary>
    public decimal At(PayKind kind, LocalDate day) => Rates.Where(r => r.Kind == kind && r.From <= day).OrderBy(r => r.From).LastOrDefault()?.Rate ?? 0m;

    /// <summary>What a leg earns them, line by line. Each line is rounded to cents, halves up.</summary>
    public IEnumerable<(PayKind Kind, decimal Quantity, decimal Rate, Money Amount)> ForLeg(int miles, Money lineHaul, int stops, LocalDate finishedOn)
    {
        var extra = Math.Max(0, stops - 2);
        return from part in new (PayKind Kind, decimal Quantity)[] { (PayKind.PerMile, miles), (PayKind.PercentOfLineHaul, lineHaul.Amount), (PayKind.PerLoad, 1), (PayKind.PerExtraStop, extra) }
               let rate = At(part.Kind, finishedOn)
               where rate > 0 && part.Quantity > 0
               select (part.Kind, part.Quantity, rate, Money.Usd(part.Quantity * rate / (part.Kind == PayKind.PercentOfLineHaul ? 100m : 1m)).ToCents());
    }

    /// <summary>What a leg earns them in all.</summary>
    public Money LegPay(int miles, Money lineHaul, int stops, LocalDate finishedOn) => Money.Sum(ForLeg(miles, lineHaul, stops, finishedOn).Select(l => l.Amount));

    /// <summary>A leg's part of a load's line haul: by miles; the same for each when no miles are known.</summary>
    public static Money Share(Money lineHaul, int miles, int allMiles, int legs) =>
        legs <= 1 ? lineHaul : (allMiles > 0 ? Money.Usd(lineHaul.Amount * miles / allMiles) : Money.Usd(lineHaul.Amount / legs)).ToCents();

    public static string Format(PayKind kind) => kind switch
    {
        PayKind.PerMile => "per mile",
        PayKind.PercentOfLineHaul => "percent of line haul",
        PayKind.PerLoad => "per load",
        PayKind.PerExtraStop => "per extra stop",
        PayKind.PerHour => "per hour",
        PayKind.PerDay => "per day out",
        _ => "per week",
    };
}
