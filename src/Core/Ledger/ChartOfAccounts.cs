using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>The business's own list of accounts.</summary>
public static class ChartOfAccounts
{
    /// <summary>An account that may be added, or what is wrong with it.</summary>
    /// <param name="known">The accounts there are.</param>
    public static Outcome<Account> Add(string? code, string? name, AccountKind? kind, string? parent, IReadOnlyList<Account> known)
    {
        var checks = new Checks();
        var said = checks.Text(name, "name", "The name", 60, required: true);
        var number = code?.Trim() ?? "";
        if (number.Length != 4 || !number.All(char.IsAsciiDigit))
        {
            checks.Add("account.code", "An account's number has four digits, such as 5210.", "code");
        }
        else if (known.Any(a => a.Code == number))
        {
            checks.Add("account.taken", $"{number} is {known.First(a => a.Code == number).Name} already.", "code");
        }
        else if (kind is { } k && KindOf(number) != k)
        {
            checks.Add("account.code", $"Numbers that begin with {number[0]} are {Said(KindOf(number))}: choose another number or another kind.", "code");
        }

        if (kind is null)
        {
            checks.Add("missing", "Say what kind of account it is.", "kind");
        }

        var above = string.IsNullOrWhiteSpace(parent) ? null : parent.Trim();
        if (above is not null)
        {
            var owner = known.FirstOrDefault(a => a.Code == above);
            if (owner is null)
            {
                checks.Add("unknown", "The account it is a part of is not here.", "parent");
            }
            else if (owner.Kind != kind)
            {
                checks.Add("account.kind", $"{owner.Name} is {Said(owner.Kind)}: a part of it is too.", "parent");
            }
        }

        if (said is not null && known.Any(a => string.Equals(a.Name, said, StringComparison.OrdinalIgnoreCase)))
        {
            checks.Add("name.taken", $"There is an account {said} already.", "name");
        }

        return checks.Ok ? new Account(number, said!, kind!.Value, above) : checks.Problems.ToList();
    }

    /// <summary>Whether an account takes a line that somebody typed; null when it does.</summary>
    public static Problem? Refuses(string? code, string field, IReadOnlyList<Account> known)
    {
        var account = known.FirstOrDefault(a => a.Code == code);
        return account is null ? new Problem("account.unknown", "Choose an account.", field)
            : account.Retired ? new Problem("account.retired", $"{account.Name} is no longer used: choose another account.", field)
            : account.KeptByPapers ? new Problem("account.kept", $"{account.Name} follows from invoices, bills and pay: nothing is posted to it by hand.", field)
            : null;
    }

    public static AccountKind KindOf(string code) => code[0] switch { '1' => AccountKind.Asset, '2' => AccountKind.Liability, '3' => AccountKind.Equity, '4' => AccountKind.Income, _ => AccountKind.Expense };

    private static string Said(AccountKind kind) => kind switch { AccountKind.Asset => "assets", AccountKind.Liability => "liabilities", AccountKind.Equity => "equity", AccountKind.Income => "income", _ => "expenses" };
}
