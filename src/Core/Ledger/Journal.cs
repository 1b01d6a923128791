using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>A line of an entry typed by hand: a debit or a credit.</summary>
public sealed record JournalLine(string? Account, Money? Debit, Money? Credit, Dimensions For);

/// <summary>Entries that no paper makes: corrections, depreciation, what the owner put in.</summary>
public static class Journal
{
    public const int MostLines = 60;

    /// <summary>A balanced entry out of what was typed, or what is wrong with it. Accounts that papers explain are refused.</summary>
    public static Outcome<Entry> Draft(LocalDate on, string? memo, IReadOnlyList<JournalLine> lines, IReadOnlyList<Account> chart)
    {
        var checks = new Checks();
        var said = checks.Text(memo, "memo", "What it is for", 200, required: true);
        if (lines.Count is < 2 or > MostLines)
        {
            checks.Add("lines", $"An entry has between 2 and {MostLines} lines.", "lines");
        }

        for (var i = 0; i < lines.Count; i++)
        {
            var (line, at) = (lines[i], $"lines[{i}]");
            if (ChartOfAccounts.Refuses(line.Account, $"{at}.account", chart) is { } refused)
            {
                checks.AddRange([refused]);
            }

            if ((line.Debit is null) == (line.Credit is null))
            {
                checks.Add("one.side", "A line is either a debit or a credit.", $"{at}.debit");
            }

            checks.Amount(line.Debit?.Amount, $"{at}.debit", "The debit", required: false);
            checks.Amount(line.Credit?.Amount, $"{at}.credit", "The credit", required: false);
            if (line is { Debit.Currency: not Currency.USD } or { Credit.Currency: not Currency.USD })
            {
                checks.Add("currency", "The books are kept in US dollars.", $"{at}.{(line.Debit is null ? "credit" : "debit")}");
            }
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var (debit, credit) = (lines.Sum(l => l.Debit?.Amount ?? 0), lines.Sum(l => l.Credit?.Amount ?? 0));
        return debit == credit
            ? Entry.Of(on, said!, EntrySource.Journal, 0, lines.Select(l => new EntryLine(l.Account!, l.Debit?.Amount ?? 0, l.Credit?.Amount ?? 0, l.For)))
            : new Problem("unbalanced", $"Debits are {Money.Usd(debit).Said} and credits {Money.Usd(credit).Said}: {Money.Usd(Math.Abs(debit - credit)).Said} is missing on the {(debit > credit ? "credit" : "debit")} side.", "lines");
    }
}
