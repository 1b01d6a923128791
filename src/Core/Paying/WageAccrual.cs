using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>Wages that belong to a month and are settled after it.</summary>
public static class WageAccrual
{
    /// <summary>A month as the key of its entries: 202611 for November 2026.</summary>
    public static long Key(LocalDate month) => (month.Year * 100) + month.Month;

    /// <summary>
    /// What a driver earned through the last day of a month that no settlement has posted through it: in weeks that are not approved, and
    /// in the days before the month's end of the week that goes on after it. A weekly salary counts by its working days, Monday to Friday.
    /// </summary>
    /// <param name="last">The last day of the month.</param>
    /// <param name="legs">Unsettled legs, and those of settlements whose week ends after <paramref name="last"/>.</param>
    /// <param name="daysOut">Days out through <paramref name="last"/>.</param>
    /// <param name="items">Unsettled pay items.</param>
    /// <param name="approved">Mondays of the driver's approved settlements.</param>
    /// <returns>In dollars and whole cents, zero or more.</returns>
    public static Money Earned(
        LocalDate last,
        DriverAgreement agreement,
        IEnumerable<WorkedLeg> legs,
        IEnumerable<DaysOut> daysOut,
        IEnumerable<PayItem> items,
        IReadOnlySet<LocalDate> approved
    )
    {
        var posted = approved.Where(m => m.PlusDays(6) <= last).ToHashSet();
        var worked = legs.Where(l => l.FinishedOn <= last).ToList();
        var paid = items.Where(i => i.On <= last && i.Kind is PayItemKind.Hours or PayItemKind.Extra).ToList();
        var outDays = daysOut.Where(d => d.From <= last).Select(d => d with { Until = LocalDate.Min(d.Until, last) }).ToList();
        var weeks = worked
            .Select(l => DriverSettlement.PaidIn(l.FinishedOn, posted))
            .Concat(paid.Select(i => DriverSettlement.MondayOf(i.On)))
            .Concat(outDays.SelectMany(d => Mondays(d)))
            .Append(DriverSettlement.MondayOf(last))
            .Where(m => m <= last && !posted.Contains(m))
            .Distinct();
        return Money.Sum(weeks.Select(monday => Week(monday, last, agreement, worked, outDays, paid, posted)));
    }

    private static Money Week(
        LocalDate monday,
        LocalDate last,
        DriverAgreement agreement,
        IReadOnlyList<WorkedLeg> legs,
        IReadOnlyList<DaysOut> daysOut,
        IReadOnlyList<PayItem> items,
        IReadOnlySet<LocalDate> posted
    )
    {
        var ofWeek = items.Where(i => DriverSettlement.MondayOf(i.On) == monday);
        var lines = DriverSettlement.Settle(monday, agreement, legs, daysOut, [], ofWeek, null, posted).Lines;
        var days = Math.Min(5, Period.DaysBetween(monday, last) + 1);
        return Money.Sum(lines.Select(l => l.Kind == PayKind.PerWeek ? (l.Amount * (days / 5m)).ToCents() : l.Amount));
    }

    private static IEnumerable<LocalDate> Mondays(DaysOut days)
    {
        for (var monday = DriverSettlement.MondayOf(days.From); monday <= days.Until; monday = monday.PlusWeeks(1))
        {
            yield return monday;
        }
    }
}
