using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>How profit and loss is grouped.</summary>
public enum ProfitBy
{
    Month,
    Week,
    Customer,
    Lane,
    Carrier,
    Driver,
    Truck,
}

/// <summary>What an account earned or cost in one month, week, customer, lane, carrier, driver or truck.</summary>
/// <param name="Key">Sort key of the group; empty for amounts that belong to none.</param>
/// <param name="Amount">Positive for income and for expense.</param>
public sealed record ProfitCell(string Key, string Name, string Code, AccountKind Kind, Money Amount);

/// <summary>One group with its income, expense and net profit.</summary>
/// <param name="Loads">Loads with income or expense in it.</param>
/// <param name="Miles">Estimated road miles of these loads.</param>
/// <param name="LeftPerMile">Net profit per mile; null without miles.</param>
public sealed record ProfitGroup(
    string Key,
    string Name,
    Money Income,
    Money Expense,
    Money Left,
    int Loads,
    int Miles,
    decimal? LeftPerMile
);

public static class Profit
{
    /// <summary>The groups in reading order: months and weeks by time, the rest by net profit, highest first; the group without a key
    /// last.</summary>
    public static IReadOnlyList<ProfitGroup> Groups(
        ProfitBy by,
        IEnumerable<ProfitCell> cells,
        IReadOnlyDictionary<string, (int Loads, int Miles)> work
    )
    {
        var groups = cells
            .GroupBy(c => c.Key)
            .Select(g =>
            {
                var income = Money.Sum(g.Where(c => c.Kind == AccountKind.Income).Select(c => c.Amount));
                var expense = Money.Sum(g.Where(c => c.Kind == AccountKind.Expense).Select(c => c.Amount));
                var (loads, miles) = work.GetValueOrDefault(g.Key);
                return new ProfitGroup(
                    g.Key,
                    g.First().Name,
                    income,
                    expense,
                    income - expense,
                    loads,
                    miles,
                    miles > 0 ? Math.Round((income - expense).Amount / miles, 2, MidpointRounding.AwayFromZero) : null
                );
            });
        return by is ProfitBy.Month or ProfitBy.Week
            ? groups.OrderBy(g => g.Key, StringComparer.Ordinal).ToList()
            : groups
                .OrderBy(g => g.Key.Length == 0)
                .ThenByDescending(g => g.Left.Amount)
                .ThenBy(g => g.Name, StringComparer.OrdinalIgnoreCase)
                .ToList();
    }

    /// <summary>The Monday (ISO 8601) or first of the month at which a report of <paramref name="periods"/> periods through
    /// <paramref name="until"/> begins.</summary>
    public static LocalDate From(ProfitBy by, LocalDate until, int periods) =>
        by == ProfitBy.Week
            ? until.PlusDays(1 - (int)until.DayOfWeek).PlusWeeks(1 - periods)
            : BookPeriods.MonthOf(until).PlusMonths(1 - periods);
}
