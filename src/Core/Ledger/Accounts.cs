using SteadyLark.Core.Basics;

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
/// <param name="Parent">Its parent account, or null.</param>
/// <param name="Inactive">Nothing new is posted to it.</param>
public sealed record Account(string Code, string Name, AccountKind Kind, string? Parent = null, bool Inactive = false)
{
    /// <summary>Whether posting rules use it, so that it cannot be deactivated.</summary>
    public bool Needed => Accounts.Codes.Contains(Code);

    /// <summary>Control account: its balance comes from documents, so nothing is posted to it by hand.</summary>
    public bool IsControl => Accounts.IsControl.Contains(Code);
}

/// <summary>The accounts that posting rules use, and a few to start with. A company adds its own.</summary>
public static class Accounts
{
    public static readonly Account Bank = new("1000", "Bank", AccountKind.Asset);
    public static readonly Account BankCad = new("1010", "Bank, Canadian dollars", AccountKind.Asset);
    public static readonly Account Receivable = new("1200", "Accounts receivable", AccountKind.Asset);
    public static readonly Account Unbilled = new("1210", "Unbilled revenue", AccountKind.Asset);
    public static readonly Account DriverAdvances = new("1300", "Driver advances", AccountKind.Asset);
    public static readonly Account Equipment = new("1500", "Trucks and trailers", AccountKind.Asset);
    public static readonly Account AccumulatedDepreciation = new("1590", "Accumulated depreciation", AccountKind.Asset, "1500");
    public static readonly Account Payable = new("2000", "Accounts payable", AccountKind.Liability);
    public static readonly Account AccruedCarrierPay = new("2050", "Accrued carrier pay", AccountKind.Liability);
    public static readonly Account CompanyCards = new("2060", "Company cards", AccountKind.Liability);
    public static readonly Account WagesPayable = new("2100", "Wages payable", AccountKind.Liability);
    public static readonly Account AccruedWages = new("2110", "Accrued wages", AccountKind.Liability);
    public static readonly Account AccruedInterest = new("2120", "Accrued interest", AccountKind.Liability);
    public static readonly Account ReimbursementsPayable = new("2130", "Driver reimbursements payable", AccountKind.Liability);
    public static readonly Account PayrollTaxesPayable = new("2210", "Payroll taxes payable", AccountKind.Liability);
    public static readonly Account Withheld = new("2200", "Withheld from pay", AccountKind.Liability);
    public static readonly Account Escrow = new("2250", "Owner-operator escrow", AccountKind.Liability);
    public static readonly Account UnappliedReceipts = new("2300", "Customer deposits and unapplied payments", AccountKind.Liability);
    public static readonly Account SalesTax = new("2400", "GST/HST payable", AccountKind.Liability);
    public static readonly Account EquipmentLoans = new("2500", "Equipment loans", AccountKind.Liability);
    public static readonly Account OwnersEquity = new("3000", "Owner's equity", AccountKind.Equity);
    public static readonly Account OpeningBalances = new("3900", "Opening balances", AccountKind.Equity);
    public static readonly Account LineHaul = new("4000", "Line haul", AccountKind.Income);
    public static readonly Account FuelSurcharge = new("4100", "Fuel surcharge", AccountKind.Income);
    public static readonly Account Accessorials = new("4200", "Accessorials", AccountKind.Income);
    public static readonly Account EquipmentSold = new("4800", "Gain on equipment sold", AccountKind.Income);
    public static readonly Account Concessions = new("4900", "Concessions to customers", AccountKind.Income);
    public static readonly Account ClaimsAllowed = new("4910", "Freight claims allowed", AccountKind.Income);
    public static readonly Account ClaimsRecovered = new("4920", "Freight claims recovered", AccountKind.Income);
    public static readonly Account PurchasedTransportation = new("5000", "Purchased transportation", AccountKind.Expense);
    public static readonly Account QuickPayDiscounts = new("5010", "Quick-pay discounts", AccountKind.Expense, "5000");
    public static readonly Account OwnerOperators = new("5020", "Owner-operators", AccountKind.Expense, "5000");
    public static readonly Account DriverWages = new("5100", "Driver wages", AccountKind.Expense);
    public static readonly Account DriverPerDiem = new("5110", "Driver per diem", AccountKind.Expense, "5100");
    public static readonly Account DriverReimbursements = new("5120", "Driver reimbursements", AccountKind.Expense);
    public static readonly Account DriverPayrollTaxes = new("5130", "Driver payroll taxes", AccountKind.Expense);
    public static readonly Account ContractDrivers = new("5140", "Contract drivers", AccountKind.Expense);
    public static readonly Account Depreciation = new("5550", "Depreciation", AccountKind.Expense);
    public static readonly Account CreditLoss = new("6500", "Credit loss", AccountKind.Expense);
    public static readonly Account ExchangeDifferences = new("6900", "Exchange gain or loss", AccountKind.Expense);
    public static readonly Account Interest = new("6800", "Interest", AccountKind.Expense);

    public static readonly IReadOnlyList<Account> All =
    [
        Bank,
        BankCad,
        Receivable,
        Unbilled,
        DriverAdvances,
        Equipment,
        AccumulatedDepreciation,
        Payable,
        AccruedCarrierPay,
        CompanyCards,
        WagesPayable,
        AccruedWages,
        AccruedInterest,
        ReimbursementsPayable,
        Withheld,
        PayrollTaxesPayable,
        Escrow,
        UnappliedReceipts,
        SalesTax,
        EquipmentLoans,
        OwnersEquity,
        OpeningBalances,
        LineHaul,
        FuelSurcharge,
        Accessorials,
        EquipmentSold,
        Concessions,
        ClaimsAllowed,
        ClaimsRecovered,
        PurchasedTransportation,
        QuickPayDiscounts,
        OwnerOperators,
        DriverWages,
        DriverPerDiem,
        DriverReimbursements,
        DriverPayrollTaxes,
        ContractDrivers,
        Depreciation,
        CreditLoss,
        Interest,
        ExchangeDifferences,
    ];

    /// <summary>The bank account that payments in a currency go through.</summary>
    public static Account BankIn(Currency currency) => currency == Currency.CAD ? BankCad : Bank;

    internal static readonly IReadOnlySet<string> Codes = All.Select(a => a.Code).ToHashSet();

    /// <summary>Common expenses other than freight; may be renamed or deactivated.</summary>
    public static readonly IReadOnlyList<Account> ToBeginWith =
    [
        new("5200", "Fuel", AccountKind.Expense),
        new("5290", "Reefer fuel", AccountKind.Expense, "5200"),
        new("5300", "Tolls and scales", AccountKind.Expense),
        new("5350", "Lumpers", AccountKind.Expense),
        new("5370", "Lodging and parking", AccountKind.Expense),
        new("5390", "Washes and other trip expenses", AccountKind.Expense),
        new("5400", "Repairs and tires", AccountKind.Expense),
        new("5500", "Truck and trailer leases", AccountKind.Expense),
        new("5600", "Plates and permits", AccountKind.Expense),
        new("5700", "Truck insurance", AccountKind.Expense),
        new("6000", "Overhead", AccountKind.Expense),
        new("6100", "Rent", AccountKind.Expense, "6000"),
        new("6200", "Insurance", AccountKind.Expense, "6000"),
        new("6300", "Telephone and software", AccountKind.Expense, "6000"),
        new("6400", "Office", AccountKind.Expense, "6000"),
        new("6600", "Office wages", AccountKind.Expense, "6000"),
        new("6610", "Office payroll taxes and benefits", AccountKind.Expense, "6000"),
        new("6700", "Professional fees", AccountKind.Expense, "6000"),
    ];

    /// <summary>Control accounts and what explains their balance: each line belongs to one open item, so nobody posts to them by
    /// hand.</summary>
    public static readonly IReadOnlyDictionary<string, OpenItemKind> ItemOf = new Dictionary<string, OpenItemKind>
    {
        [Receivable.Code] = OpenItemKind.Invoice,
        [Unbilled.Code] = OpenItemKind.Load,
        [DriverAdvances.Code] = OpenItemKind.Advance,
        [Payable.Code] = OpenItemKind.Bill,
        [AccruedCarrierPay.Code] = OpenItemKind.Leg,
        [WagesPayable.Code] = OpenItemKind.Settlement,
        [ReimbursementsPayable.Code] = OpenItemKind.Reimbursement,
        [UnappliedReceipts.Code] = OpenItemKind.Payment,
    };

    /// <summary>The codes of control accounts.</summary>
    public static readonly IReadOnlySet<string> IsControl = ItemOf.Keys.ToHashSet();
}
