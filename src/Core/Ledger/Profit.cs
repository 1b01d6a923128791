using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>By what profit and loss is looked at.</summary>
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

/// <summary>What an account took in or cost for one month, week, customer, lane, carrier, driver or truck.</summary>
/// <param name="Key">Sorts the groups; empty for what belongs to none.</param>
/// <param name="Amount">Income and expense are both positive.</param>
public sealed record ProfitCell(string Key, string Name, string Code, AccountKind Kind, Money Amount);

/// <summary>One group with what was earned and left in it.</summary>
/// <param name="Loads">Loads that earned or cost something in it.</param>
/// <param name="Miles">Estimated road miles of these loads.</param>
/// <param name="LeftPerMile">Null without miles.</param>
public sealed record ProfitGroup(string Key, string Name, Money Income, Money Expense, Money Left, int Loads, int Miles, decimal? LeftPerMile);

public static class Profit
{
    /// <summary>The groups in the order in which they are read: months and weeks by time, the rest by what they left, the most first; what belongs to none last.</summary>
    public static IReadOnlyList<ProfitGroup> Groups(ProfitBy by, IEnumerable<ProfitCell> cells, IReadOnlyDictionary<string, (int Loads, int Miles)> work)
    {
        var groups = cells.GroupBy(c => c.Key).Select(g =>
        {
            var income = Money.Sum(g.Where(c => c.Kind == AccountKind.Income).Select(c => c.Amount));
            var expense = Money.Sum(g.Where(c => c.Kind == AccountKind.Expense).Select(c => c.Amount));
            var (loads, miles) = work.GetValueOrDefault(g.Key);
            return new ProfitGroup(g.Key, g.First().Name, income, expense, income - expense, loads, miles, miles > 0 ? Math.Round((income - expense).Amount / miles, 2, MidpointRounding.AwayFromZero) : null);
        });
        return by is ProfitBy.Month or ProfitBy.Week
            ? groups.OrderBy(g => g.Key, StringComparer.Ordinal).ToList()
            : groups.OrderBy(g => g.Key.Length == 0).ThenByDescending(g => g.Left.Amount).ThenBy(g => g.Name, StringComparer.OrdinalIgnoreCase).ToList();
    }

    /// <summary>The Monday (ISO 8601) or the first of the month from which a look over <paramref name="periods"/> of them up to <paramref name="until"/> begins.</summary>
    public static LocalDate From(ProfitBy by, LocalDate until, int periods) =>
        by == ProfitBy.Week ? until.PlusDays(1 - (int)until.DayOfWeek).PlusWeeks(1 - periods) : BookPeriods.MonthOf(until).PlusMonths(1 - periods);
}
