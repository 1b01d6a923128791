namespace SteadyLark.Core.People;

/// <summary>The roles every company begins with. The owner's and the drivers' rights are fixed; the others can be edited, and new roles
/// added.</summary>
public enum Role
{
    Owner,
    Broker,
    Dispatcher,
    Bookkeeper,
    Driver,
    ReadOnly,
}

/// <summary>What a user may do or see. Each endpoint states the one it needs.</summary>
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

    /// <summary>To change drivers' pay rates and deductions.</summary>
    PayingAgree,
    LedgerSee,

    /// <summary>To post journal entries and edit the chart of accounts.</summary>
    LedgerPost,

    /// <summary>To close and reopen months.</summary>
    LedgerClose,
    OutsideUse,

    /// <summary>To override a hold.</summary>
    HoldsOverride,

    /// <summary>To change company settings.</summary>
    SetupEdit,

    /// <summary>To see what customers pay.</summary>
    RatesSee,

    /// <summary>To see what carriers are paid, costs and margins.</summary>
    MarginsSee,

    /// <summary>To see what drivers are paid.</summary>
    WagesSee,

    /// <summary>To change customers' credit limits.</summary>
    CreditEdit,

    /// <summary>To change a carrier's authority, insurance and "do not use".</summary>
    AuthorityEdit,

    /// <summary>To send money above the company's limit without a second person.</summary>
    LimitExceed,

    /// <summary>To invite and deactivate users, and to edit roles.</summary>
    UsersEdit,

    /// <summary>To search the audit log.</summary>
    AuditSee,

    /// <summary>To create API tokens with one's own rights.</summary>
    TokensOwn,

    /// <summary>A driver's own trips and pay; nothing of anyone else's.</summary>
    TripsOwn,

    /// <summary>What every signed-in user may do: see their own account, sign out, change their password.</summary>
    SessionOwn,
}

/// <summary>A right as the role editor shows it.</summary>
/// <param name="Name">Such as <c>loads.book</c>.</param>
/// <param name="Label">What it allows, in a few words.</param>
/// <param name="Group">The heading it stands under.</param>
/// <param name="Sensitive">Whether the editor marks it as sensitive.</param>
public sealed record RightInfo(string Name, string Label, string Group, bool Sensitive);

public static class Rights
{
    private static readonly Right[] Seeing = [Right.LoadsSee, Right.CompaniesSee, Right.FleetSee, Right.DocumentsSee, Right.SessionOwn];
    private static readonly Right[] Moving =
    [
        .. Seeing,
        Right.LoadsBook,
        Right.LoadsCover,
        Right.LoadsRoll,
        Right.CompaniesEdit,
        Right.FleetEdit,
        Right.DocumentsAdd,
        Right.OutsideUse,
        Right.RatesSee,
        Right.MarginsSee,
        Right.TokensOwn,
    ];

    private static readonly Dictionary<Role, IReadOnlySet<Right>> Standard = new()
    {
        [Role.Owner] = Set(Enum.GetValues<Right>().Where(r => r != Right.TripsOwn)),
        [Role.Broker] = Set([.. Moving, Right.BillingSee, Right.CreditEdit, Right.AuthorityEdit]),
        [Role.Dispatcher] = Set(Moving),
        [Role.Bookkeeper] = Set([
            .. Seeing,
            Right.CompaniesEdit,
            Right.DocumentsAdd,
            Right.BillingSee,
            Right.BillingInvoice,
            Right.BillingReceive,
            Right.PayingSee,
            Right.PayingEnter,
            Right.PayingApprove,
            Right.PayingPay,
            Right.LedgerSee,
            Right.LedgerPost,
            Right.LedgerClose,
            Right.OutsideUse,
            Right.RatesSee,
            Right.MarginsSee,
            Right.WagesSee,
            Right.CreditEdit,
            Right.TokensOwn,
        ]),
        [Role.Driver] = Set([Right.TripsOwn, Right.SessionOwn]),
        [Role.ReadOnly] = Set([
            .. Seeing,
            Right.BillingSee,
            Right.PayingSee,
            Right.LedgerSee,
            Right.RatesSee,
            Right.MarginsSee,
            Right.WagesSee,
        ]),
    };

    private static readonly Dictionary<string, Right> ByName = Enum.GetValues<Right>().ToDictionary(r => r.Name());

    /// <summary>The rights the editor offers for a role, in its order; without those everyone has and those of drivers.</summary>
    public static readonly IReadOnlyList<RightInfo> Offered =
    [
        Info(Right.LoadsSee, "See loads, trips and the map", "Loads"),
        Info(Right.LoadsBook, "Book and edit loads", "Loads"),
        Info(Right.LoadsCover, "Assign drivers and carriers", "Loads"),
        Info(Right.LoadsRoll, "Record stops and exceptions, plan runs", "Loads"),
        Info(Right.HoldsOverride, "Override holds", "Loads", sensitive: true),
        Info(Right.RatesSee, "See what customers pay", "Figures", sensitive: true),
        Info(Right.MarginsSee, "See carrier pay, costs and margins", "Figures", sensitive: true),
        Info(Right.WagesSee, "See driver pay", "Figures", sensitive: true),
        Info(Right.CompaniesSee, "See companies and places", "Address book and fleet"),
        Info(Right.CompaniesEdit, "Edit companies and places", "Address book and fleet"),
        Info(Right.CreditEdit, "Change credit limits", "Address book and fleet", sensitive: true),
        Info(Right.AuthorityEdit, "Change a carrier's authority and insurance", "Address book and fleet", sensitive: true),
        Info(Right.FleetSee, "See drivers, trucks and trailers", "Address book and fleet"),
        Info(Right.FleetEdit, "Edit drivers, trucks and trailers", "Address book and fleet"),
        Info(Right.DocumentsSee, "See documents", "Documents and email"),
        Info(Right.DocumentsAdd, "Add and file documents", "Documents and email"),
        Info(Right.OutsideUse, "Read and hold email, use the simulator", "Documents and email"),
        Info(Right.BillingSee, "See invoices and receivables", "Money"),
        Info(Right.BillingInvoice, "Send invoices and statements", "Money"),
        Info(Right.BillingReceive, "Record payments from customers", "Money"),
        Info(Right.PayingSee, "See bills and payables", "Money"),
        Info(Right.PayingEnter, "Enter bills, expenses and advances", "Money"),
        Info(Right.PayingApprove, "Approve bills and driver settlements", "Money", sensitive: true),
        Info(Right.PayingPay, "Pay bills and driver settlements", "Money", sensitive: true),
        Info(Right.PayingAgree, "Change pay rates and deductions", "Money", sensitive: true),
        Info(Right.LimitExceed, "Exceed the limit for money sent by one person", "Money", sensitive: true),
        Info(Right.LedgerSee, "See the ledger and reports", "Books"),
        Info(Right.LedgerPost, "Post journal entries, edit accounts", "Books", sensitive: true),
        Info(Right.LedgerClose, "Close and reopen months", "Books", sensitive: true),
        Info(Right.SetupEdit, "Change company settings", "Company", sensitive: true),
        Info(Right.UsersEdit, "Invite users and edit roles", "Company", sensitive: true),
        Info(Right.AuditSee, "Search the audit log", "Company", sensitive: true),
        Info(Right.TokensOwn, "Create API tokens", "Company"),
    ];

    /// <summary>The rights a standard role begins with.</summary>
    public static IReadOnlySet<Right> Of(Role role) => Standard[role];

    /// <summary>A right as the pages and the database know it: <c>loads.book</c>.</summary>
    public static string Name(this Right right)
    {
        var name = right.ToString();
        var second = name.Skip(1).TakeWhile(char.IsLower).Count() + 1;
        return $"{name[..second]}.{name[second..]}".ToLowerInvariant();
    }

    /// <summary>The right of a name, or null.</summary>
    public static Right? Parse(string? name) => name is not null && ByName.TryGetValue(name, out var right) ? right : null;

    /// <summary>The rights of a role: those stored, or the standard role's. Unknown names are dropped.</summary>
    public static IReadOnlySet<Right> Of(Role? standard, IReadOnlyList<string>? stored) =>
        stored is null && standard is { } role ? Of(role) : Set([.. (stored ?? []).Select(Parse).OfType<Right>(), Right.SessionOwn]);

    private static HashSet<Right> Set(IEnumerable<Right> rights) => [.. rights];

    private static RightInfo Info(Right right, string label, string group, bool sensitive = false) =>
        new(right.Name(), label, group, sensitive);
}
