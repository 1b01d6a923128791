using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>
/// Where cash came from and went in a period, by the indirect method (FASB ASC 230-10-45-28): net profit, what of it was not cash, the
/// changes of what is owed to and by the company, equipment, and what owners and lenders put in and took out.
/// </summary>
/// <param name="Operating">Net profit first; likewise what else belongs to the business itself.</param>
/// <param name="Investing">Equipment bought and sold.</param>
/// <param name="Financing">Loans and the owners.</param>
/// <param name="Opening">Cash at the end of the day before <paramref name="From"/>.</param>
/// <param name="Closing">Cash at the end of <paramref name="Until"/>: opening cash and the three totals.</param>
public sealed record CashFlow(
    LocalDate From,
    LocalDate Until,
    IReadOnlyList<BalanceSheetLine> Operating,
    IReadOnlyList<BalanceSheetLine> Investing,
    IReadOnlyList<BalanceSheetLine> Financing,
    Money TotalOperating,
    Money TotalInvesting,
    Money TotalFinancing,
    Money Opening,
    Money Closing
)
{
    /// <summary>Builds the statement from balances; its totals come to the change of cash, as balances add up to zero.</summary>
    /// <param name="before">Every account's balance at the end of the day before <paramref name="from"/>; those without one may lack.</param>
    /// <param name="through">Likewise at the end of <paramref name="until"/>.</param>
    /// <example>Profit $900, of which $200 is not collected yet, and a truck bought for $500: $700 from operations, $500 invested, $200 more
    /// cash.</example>
    public static CashFlow Of(LocalDate from, LocalDate until, IReadOnlyList<Balance> before, IReadOnlyList<Balance> through)
    {
        var changes = Changes(before, through);
        Money Of(Func<Account, bool> which) => Money.Sum(changes.Where(c => which(c.Account)).Select(c => c.Amount));
        List<BalanceSheetLine> Lines(Func<Account, bool> which) =>
            changes
                .Where(c => which(c.Account) && c.Amount.Amount != 0)
                .Select(c => new BalanceSheetLine(c.Account.Code, c.Account.Name, -c.Amount))
                .ToList();

        var profit = -Of(a => a.Kind is AccountKind.Income or AccountKind.Expense);
        var depreciation = Of(a => a.Code == Accounts.Depreciation.Code);
        var sold = -Of(a => a.Code == Accounts.EquipmentSold.Code);
        List<BalanceSheetLine> operating =
        [
            new(null, "Net profit", profit),
            .. NotZero(Accounts.Depreciation, "not paid in cash", depreciation),
            .. NotZero(Accounts.EquipmentSold, "shown with equipment", -sold),
            .. Lines(a => IsBalance(a) && !IsCash(a) && !IsEquipment(a) && !IsFinancing(a)),
        ];
        // What equipment cost and brought in: the change of its book value, but for depreciation, and with what it was sold above that.
        var equipment = -Of(IsEquipment) - depreciation + sold;
        List<BalanceSheetLine> investing = equipment.Amount == 0 ? [] : [new(null, "Equipment bought, less sold", equipment)];
        var financing = Lines(IsFinancing);
        static Money Total(IEnumerable<BalanceSheetLine> lines) => Money.Sum(lines.Select(l => l.Amount));
        static Money Cash(IEnumerable<Balance> balances) => Money.Sum(balances.Where(b => IsCash(b.Account)).Select(b => b.Amount));
        return new CashFlow(
            from,
            until,
            operating,
            investing,
            financing,
            Total(operating),
            Total(investing),
            Total(financing),
            Cash(before),
            Cash(through)
        );
    }

    /// <summary>Bank accounts and cash: codes 1000 to 1099.</summary>
    public static bool IsCash(Account account) =>
        account.Kind == AccountKind.Asset && account.Code.StartsWith("10", StringComparison.Ordinal);

    /// <summary>Equipment and its accumulated depreciation: codes 1500 to 1599.</summary>
    public static bool IsEquipment(Account account) =>
        account.Kind == AccountKind.Asset && account.Code.StartsWith("15", StringComparison.Ordinal);

    /// <summary>Loans, codes 2500 to 2999, and equity.</summary>
    public static bool IsFinancing(Account account) =>
        account.Kind == AccountKind.Equity || (account.Kind == AccountKind.Liability && string.CompareOrdinal(account.Code, "2500") >= 0);

    private static bool IsBalance(Account account) => account.Kind is AccountKind.Asset or AccountKind.Liability or AccountKind.Equity;

    private static IEnumerable<BalanceSheetLine> NotZero(Account account, string why, Money amount) =>
        amount.Amount == 0 ? [] : [new(account.Code, $"{account.Name}, {why}", amount)];

    private static List<Balance> Changes(IReadOnlyList<Balance> before, IReadOnlyList<Balance> through)
    {
        var was = before.ToDictionary(b => b.Account.Code, b => b.Amount);
        return through
            .Concat(before.Where(b => through.All(t => t.Account.Code != b.Account.Code)).Select(b => b with { Amount = Money.Zero() }))
            .Select(b => b with { Amount = b.Amount - was.GetValueOrDefault(b.Account.Code) })
            .OrderBy(b => b.Account.Code, StringComparer.Ordinal)
            .ToList();
    }
}
