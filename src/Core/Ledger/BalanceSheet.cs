using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>An account's balance at the end of a day.</summary>
/// <param name="Amount">Debits less credits.</param>
public sealed record Balance(Account Account, Money Amount);

/// <param name="Code">Null for a figure that no account holds.</param>
public sealed record BalanceSheetLine(string? Code, string Name, Money Amount);

/// <summary>
/// What the company owns, owes and is worth at the end of a day. Income and expenses of earlier years are retained earnings, those of the
/// year of the day its net profit: no closing entry is needed at the end of a year.
/// </summary>
public sealed record BalanceSheet(
    LocalDate On,
    IReadOnlyList<BalanceSheetLine> Assets,
    IReadOnlyList<BalanceSheetLine> Liabilities,
    IReadOnlyList<BalanceSheetLine> Equity,
    Money TotalAssets,
    Money TotalLiabilities,
    Money TotalEquity
)
{
    /// <summary>The last day of the year before: the year begins on January 1.</summary>
    public static LocalDate YearBefore(LocalDate on) => new(on.Year - 1, 12, 31);

    /// <summary>Builds the statement; total assets equal total liabilities and equity, as the balances add up to zero.</summary>
    /// <param name="through">Every account's balance at the end of <paramref name="on"/>.</param>
    /// <param name="yearBefore">Likewise at the end of <see cref="YearBefore"/>.</param>
    public static BalanceSheet Of(LocalDate on, IReadOnlyList<Balance> through, IReadOnlyList<Balance> yearBefore)
    {
        List<BalanceSheetLine> Lines(AccountKind kind, int sign) =>
            through
                .Where(b => b.Account.Kind == kind && b.Amount.Amount != 0)
                .OrderBy(b => b.Account.Code, StringComparer.Ordinal)
                .Select(b => new BalanceSheetLine(b.Account.Code, b.Account.Name, b.Amount * sign))
                .ToList();
        static Money Profit(IEnumerable<Balance> balances) =>
            -Money.Sum(balances.Where(b => b.Account.Kind is AccountKind.Income or AccountKind.Expense).Select(b => b.Amount));
        var retained = Profit(yearBefore);
        var (assets, liabilities) = (Lines(AccountKind.Asset, 1), Lines(AccountKind.Liability, -1));
        List<BalanceSheetLine> equity =
        [
            .. Lines(AccountKind.Equity, -1),
            new(null, "Retained earnings", retained),
            new(null, $"Net profit of {on.Year}", Profit(through) - retained),
        ];
        static Money Total(IEnumerable<BalanceSheetLine> lines) => Money.Sum(lines.Select(l => l.Amount));
        return new BalanceSheet(on, assets, liabilities, equity, Total(assets), Total(liabilities), Total(equity));
    }
}
