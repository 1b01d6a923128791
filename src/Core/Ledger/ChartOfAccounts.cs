using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>The company's chart of accounts.</summary>
public static class ChartOfAccounts
{
    /// <summary>An account that can be added, or what is wrong with it.</summary>
    /// <param name="known">The existing accounts.</param>
    public static Outcome<Account> Add(string? code, string? name, AccountKind? kind, string? parent, IReadOnlyList<Account> known)
    {
        var validation = new Validation();
        var summary = validation.Text(name, "name", "The name", 60, required: true);
        var number = code?.Trim() ?? "";
        if (number.Length != 4 || !number.All(char.IsAsciiDigit))
        {
            validation.Add("account.code", "An account number has four digits, such as 5210.", "code");
        }
        else if (known.Any(a => a.Code == number))
        {
            validation.Add("account.taken", $"{number} is already used by {known.First(a => a.Code == number).Name}.", "code");
        }
        else if (kind is { } k && KindOf(number) != k)
        {
            validation.Add(
                "account.code",
                $"Accounts that start with {number[0]} are {Format(KindOf(number))}: choose another number or type.",
                "code"
            );
        }

        if (kind is null)
        {
            validation.Add("missing", "Choose the account type.", "kind");
        }

        var above = string.IsNullOrWhiteSpace(parent) ? null : parent.Trim();
        if (above is not null)
        {
            var owner = known.FirstOrDefault(a => a.Code == above);
            if (owner is null)
            {
                validation.Add("unknown", "The parent account was not found.", "parent");
            }
            else if (owner.Kind != kind)
            {
                validation.Add("account.kind", $"{owner.Name} is one of the {Format(owner.Kind)}: its sub-accounts must be too.", "parent");
            }
        }

        if (summary is not null && known.Any(a => string.Equals(a.Name, summary, StringComparison.OrdinalIgnoreCase)))
        {
            validation.Add("name.taken", $"There is already an account named {summary}.", "name");
        }

        return validation.Ok ? new Account(number, summary!, kind!.Value, above) : validation.Problems;
    }

    /// <summary>Why an account does not take a manual journal line; null when it does.</summary>
    public static Problem? Refuses(string? code, string field, IReadOnlyList<Account> known)
    {
        var account = known.FirstOrDefault(a => a.Code == code);
        return account is null ? new Problem("account.unknown", "Choose an account.", field)
            : account.Inactive ? new Problem("account.retired", $"{account.Name} is inactive: choose another account.", field)
            : account.IsControl
                ? new Problem(
                    "account.kept",
                    $"{account.Name} is a control account, posted by invoices, bills and settlements: choose another account.",
                    field
                )
            : null;
    }

    public static AccountKind KindOf(string code) =>
        code[0] switch
        {
            '1' => AccountKind.Asset,
            '2' => AccountKind.Liability,
            '3' => AccountKind.Equity,
            '4' => AccountKind.Income,
            _ => AccountKind.Expense,
        };

    private static string Format(AccountKind kind) =>
        kind switch
        {
            AccountKind.Asset => "assets",
            AccountKind.Liability => "liabilities",
            AccountKind.Equity => "equity",
            AccountKind.Income => "income",
            _ => "expenses",
        };
}
