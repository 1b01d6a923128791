using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>A line of a manual journal entry: a debit or a credit.</summary>
public sealed record JournalLine(string? Account, Money? Debit, Money? Credit, Dimensions For);

/// <summary>Manual journal entries: corrections, depreciation, owner contributions.</summary>
public static class Journal
{
    public const int MaxLines = 60;

    /// <summary>A balanced entry from what was typed, or what is wrong with it. Control accounts are refused.</summary>
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

            validation.Dollars(line.Debit, $"{at}.debit", "The debit", required: false);
            validation.Dollars(line.Credit, $"{at}.credit", "The credit", required: false);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var (debit, credit) = (lines.Sum(l => l.Debit?.Amount ?? 0), lines.Sum(l => l.Credit?.Amount ?? 0));
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
}
