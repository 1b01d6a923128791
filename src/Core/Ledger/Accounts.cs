namespace SteadyLark.Core.Ledger;

public enum AccountKind
{
    Asset,
    Liability,
    Equity,
    Income,
    Expense,
}

/// <summary>An account of the general ledger.</summary>
/// <param name="Code">Four digits: 1 assets, 2 liabilities, 3 equity, 4 income, 5 and above expenses.</param>
public sealed record Account(string Code, string Name, AccountKind Kind);

/// <summary>The accounts that the rules post to. A business may add others beside them.</summary>
public static class Accounts
{
    public static readonly Account Bank = new("1000", "Bank", AccountKind.Asset);
    public static readonly Account Receivable = new("1200", "Accounts receivable", AccountKind.Asset);
    public static readonly Account DriverAdvances = new("1300", "Advances to drivers", AccountKind.Asset);
    public static readonly Account Payable = new("2000", "Accounts payable", AccountKind.Liability);
    public static readonly Account WagesPayable = new("2100", "Wages payable", AccountKind.Liability);
    public static readonly Account UnappliedReceipts = new("2300", "Unapplied receipts", AccountKind.Liability);
    public static readonly Account OwnersEquity = new("3000", "Owner's equity", AccountKind.Equity);
    public static readonly Account LineHaul = new("4000", "Line haul", AccountKind.Income);
    public static readonly Account FuelSurcharge = new("4100", "Fuel surcharge", AccountKind.Income);
    public static readonly Account Accessorials = new("4200", "Accessorials", AccountKind.Income);
    public static readonly Account PurchasedTransportation = new("5000", "Purchased transportation", AccountKind.Expense);
    public static readonly Account DriverWages = new("5100", "Driver wages", AccountKind.Expense);
    public static readonly Account DriverPerDiem = new("5110", "Driver per diem", AccountKind.Expense);

    public static readonly IReadOnlyList<Account> All =
    [
        Bank, Receivable, DriverAdvances, Payable, WagesPayable, UnappliedReceipts, OwnersEquity,
        LineHaul, FuelSurcharge, Accessorials, PurchasedTransportation, DriverWages, DriverPerDiem,
    ];
}
