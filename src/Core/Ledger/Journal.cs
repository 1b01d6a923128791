using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>A line of a manual journal entry: a debit or a credit.</summary>
public sealed record JournalLine(string? Account, Money? Debit, Money? Credit, Dimensions For);

/// <summary>Manual journal entries: corrections, depreciation, owner contributions.</summary>
public static class Journal
{
    public const int MaxLines = 60;

    /// <summary>A balanced entry from what was typed, or what is wrong with it. Control accounts are refused. A line on the account in
    /// Canadian dollars is in those, and worth what the others are apart.</summary>
    public static Outcome<Entry> Draft(LocalDate on, string? memo, IReadOnlyList<JournalLine> lines, IReadOnlyList<Account> chart)
    {
        var validation = new Validation();
        var summary = validation.Text(memo, "memo", "The description", 200, required: true);
        if (lines.Count is < 2 or > MaxLines)
        {
            validation.Add("lines", $"A journal entry has 2 to {MaxLines} lines.", "lines");
        }

        for (var i = 0; i < lines.Count; i++)
        {
            var (line, at) = (lines[i], $"lines[{i}]");
            if (ChartOfAccounts.Refuses(line.Account, $"{at}.account", chart) is { } refused)
            {
                validation.AddRange([refused]);
            }

            if ((line.Debit is null) == (line.Credit is null))
            {
                validation.Add("one.side", "A line is either a debit or a credit.", $"{at}.debit");
            }

            var currency = line.Account == Accounts.BankCad.Code ? Currency.CAD : Currency.USD;
            validation.Dollars(line.Debit, $"{at}.debit", "The debit", required: false, currency: currency);
            validation.Dollars(line.Credit, $"{at}.credit", "The credit", required: false, currency: currency);
        }

        if (lines.Count(l => l.Account == Accounts.BankCad.Code) > 1)
        {
            validation.Add("currency", $"An entry has at most one line on account {Accounts.BankCad.Code}.", "lines");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var usd = lines.Where(l => l.Account != Accounts.BankCad.Code).ToList();
        var (debit, credit) = (usd.Sum(l => l.Debit?.Amount ?? 0), usd.Sum(l => l.Credit?.Amount ?? 0));
        if (lines.FirstOrDefault(l => l.Account == Accounts.BankCad.Code) is { } cad)
        {
            return Canadian(on, summary!, cad, credit - debit, usd);
        }

        return debit == credit
            ? Entry.Of(
                on,
                summary!,
                EntrySource.Journal,
                0,
                lines.Select(l => new EntryLine(l.Account!, l.Debit?.Amount ?? 0, l.Credit?.Amount ?? 0, l.For))
            )
            : new Problem(
                "unbalanced",
                $"Debits are {Money.Usd(debit).Formatted} and credits {Money.Usd(credit).Formatted}: {Money.Usd(Math.Abs(debit - credit)).Formatted} is missing on the {(debit > credit ? "credit" : "debit")} side.",
                "lines"
            );
    }

    /// <summary>An entry with a line in Canadian dollars, such as a transfer between bank accounts: the others say what it is worth.</summary>
    private static Outcome<Entry> Canadian(LocalDate on, string memo, JournalLine cad, decimal worth, IReadOnlyList<JournalLine> usd)
    {
        var line = new EntryLine(cad.Account!, cad.Debit?.Amount ?? 0, cad.Credit?.Amount ?? 0, cad.For, null, Currency.CAD, worth);
        return Math.Sign(line.Signed) == Math.Sign(worth)
            ? Entry.Of(
                on,
                memo,
                EntrySource.Journal,
                0,
                usd.Select(l => new EntryLine(l.Account!, l.Debit?.Amount ?? 0, l.Credit?.Amount ?? 0, l.For)).Prepend(line)
            )
            : new Problem(
                "unbalanced",
                "The lines in US dollars say what the Canadian dollars are worth: enter them on the other side.",
                "lines"
            );
    }
}
