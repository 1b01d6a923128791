namespace SteadyLark.Core.People;

public enum Role
{
    Owner,
    Broker,
    Dispatcher,
    Bookkeeper,
    Driver,
    ReadOnly,
}

/// <summary>What one may do. Each is named after the deed, and each endpoint states the one it needs.</summary>
public enum Right
{
    LoadsSee,
    LoadsBook,
    LoadsCover,
    LoadsRoll,
    CompaniesSee,
    CompaniesEdit,
    FleetSee,
    FleetEdit,
    DocumentsSee,
    DocumentsAdd,
    BillingSee,
    BillingInvoice,
    BillingReceive,
    PayingSee,
    PayingEnter,
    PayingApprove,
    PayingPay,

    /// <summary>To agree with drivers on what they are paid and what is kept back.</summary>
    PayingAgree,
    LedgerSee,

    /// <summary>To post by hand, and to shape the chart of accounts.</summary>
    LedgerPost,

    /// <summary>To close months, and to open them again.</summary>
    LedgerClose,
    OutsideUse,

    /// <summary>To let a held load go on.</summary>
    HoldsOverride,

    /// <summary>To change how the house is set up.</summary>
    SetupEdit,

    /// <summary>One's own trips and pay, as a driver; nothing of anybody else's.</summary>
    TripsOwn,

    /// <summary>What everyone who is signed in may do: see who one is, sign out.</summary>
    SessionOwn,
}

public static class Rights
{
    private static readonly Right[] Seeing = [Right.LoadsSee, Right.CompaniesSee, Right.FleetSee, Right.DocumentsSee, Right.SessionOwn];
    private static readonly Right[] Moving = [.. Seeing, Right.LoadsBook, Right.LoadsCover, Right.LoadsRoll, Right.CompaniesEdit, Right.FleetEdit, Right.DocumentsAdd, Right.OutsideUse];

    private static readonly Dictionary<Role, HashSet<Right>> Granted = new()
    {
        [Role.Owner] = [.. Enum.GetValues<Right>().Where(r => r != Right.TripsOwn)],
        [Role.Broker] = [.. Moving, Right.BillingSee],
        [Role.Dispatcher] = [.. Moving],
        [Role.Bookkeeper] =
        [
            .. Seeing, Right.CompaniesEdit, Right.DocumentsAdd, Right.BillingSee, Right.BillingInvoice, Right.BillingReceive,
            Right.PayingSee, Right.PayingEnter, Right.PayingApprove, Right.PayingPay, Right.LedgerSee, Right.LedgerPost, Right.LedgerClose, Right.OutsideUse,
        ],
        [Role.Driver] = [Right.TripsOwn, Right.SessionOwn],
        [Role.ReadOnly] = [.. Seeing, Right.BillingSee, Right.PayingSee, Right.LedgerSee],
    };

    public static bool Has(Role role, Right right) => Granted[role].Contains(right);

    public static IReadOnlyCollection<Right> Of(Role role) => Granted[role];

    /// <summary>A right as the pages read it: <c>loads.book</c>.</summary>
    public static string Name(this Right right)
    {
        var name = right.ToString();
        var second = name.Skip(1).TakeWhile(char.IsLower).Count() + 1;
        return $"{name[..second]}.{name[second..]}".ToLowerInvariant();
    }
}
