using System.Globalization;
using NodaTime;
using NodaTime.Text;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>What is open when the books begin here.</summary>
public enum OpeningKind
{
    /// <summary>An invoice a customer has not paid.</summary>
    Invoice,

    /// <summary>A bill not paid to a vendor or carrier.</summary>
    Bill,

    /// <summary>An advance not deducted from a driver's pay.</summary>
    Advance,

    /// <summary>A customer's payment not applied.</summary>
    Credit,
}

/// <summary>An open item as typed or read from a file.</summary>
/// <param name="PartyId">The customer, vendor or driver.</param>
/// <param name="Number">The invoice's or bill's number, or a note.</param>
/// <param name="On">The document's date.</param>
/// <param name="Amount">What is still open of it.</param>
public sealed record OpeningOrder(OpeningKind? Kind, long? PartyId, string? Number, LocalDate? On, LocalDate? DueOn, Money? Amount);

/// <summary>Whose an open item is.</summary>
public sealed record OpeningParty(string Name, bool IsCarrier = false, Currency Currency = Currency.USD);

/// <summary>An open item that can be stored.</summary>
/// <param name="IsCarrier">Whether the party of a bill is a carrier.</param>
public sealed record OpeningItem(
    OpeningKind Kind,
    long PartyId,
    string Party,
    string? Number,
    LocalDate On,
    LocalDate DueOn,
    Money Amount,
    bool IsCarrier
);

/// <summary>
/// Opening balances: what another system had open on the day before the books begin here. Each open invoice, bill, advance and credit
/// becomes a document of its own, so that aging, statements and payments work on it; the other accounts get one journal entry. All are
/// posted against account 3900, which is zero once the whole trial balance is entered.
/// </summary>
public static class OpeningBalances
{
    public const int MaxItems = 2_000;

    /// <summary>Checks open items.</summary>
    /// <param name="on">The day they are posted: the last day of the old books.</param>
    /// <param name="party">The party if it can have such an item; else null.</param>
    /// <param name="taken">Whether an invoice of that number exists, or a bill of that number from that vendor.</param>
    public static IReadOnlyList<OpeningItem> Check(
        LocalDate on,
        IReadOnlyList<OpeningOrder> items,
        Func<OpeningKind, long, OpeningParty?> party,
        Func<OpeningKind, long, string, bool> taken,
        Validation validation
    )
    {
        var found = new List<OpeningItem>();
        var seen = new HashSet<(OpeningKind, long, string)>();
        if (items.Count > MaxItems)
        {
            validation.Add("too.many", $"Enter at most {MaxItems:#,##0} open items at once.", "items");
            return found;
        }

        for (var i = 0; i < items.Count; i++)
        {
            var (o, at) = (items[i], $"items[{i}]");
            if (o.Kind is not { } kind)
            {
                validation.Add("missing", "Choose invoice, bill, advance or credit.", $"{at}.kind");
                continue;
            }

            var document = kind is OpeningKind.Invoice or OpeningKind.Bill;
            var whom = o.PartyId is { } id ? party(kind, id) : null;
            if (whom is null)
            {
                validation.Add("unknown", $"Choose {Whose(kind)}.", $"{at}.partyId");
            }

            var number = validation.Text(o.Number, $"{at}.number", $"The {kind.ToString().ToLowerInvariant()} number", 60, document);
            validation.Dollars(o.Amount, $"{at}.amount", "The open amount", currency: whom?.Currency);
            if (document && (o.On is null || o.DueOn is null))
            {
                validation.Add("missing", "Enter its date and due date.", $"{at}.{(o.On is null ? "on" : "dueOn")}");
            }

            if (o.On > on)
            {
                validation.Add("date.after", $"Its date is after the opening date, {on:MMM d, uuuu}.", $"{at}.on");
            }

            if (document && o.DueOn < o.On)
            {
                validation.Add("due.before", "The due date is before its own date.", $"{at}.dueOn");
            }

            if (document && whom is not null && number is not null)
            {
                var whose = kind == OpeningKind.Invoice ? 0 : o.PartyId!.Value;
                if (!seen.Add((kind, whose, number.ToLowerInvariant())) || taken(kind, whose, number))
                {
                    validation.Add("number.taken", $"{kind} {number} is already entered.", $"{at}.number");
                }
            }

            if (whom is not null && o.Amount is { } amount)
            {
                found.Add(
                    new OpeningItem(kind, o.PartyId!.Value, whom.Name, number, o.On ?? on, o.DueOn ?? o.On ?? on, amount, whom.IsCarrier)
                );
            }
        }

        return found;
    }

    /// <summary>The journal lines with one more on account 3900 for what they are apart.</summary>
    public static IReadOnlyList<JournalLine> Balanced(IReadOnlyList<JournalLine> lines)
    {
        var apart = lines.Where(l => l.Account != Accounts.BankCad.Code).Sum(l => (l.Debit?.Amount ?? 0) - (l.Credit?.Amount ?? 0));
        return apart == 0
            ? lines
            :
            [
                .. lines,
                new JournalLine(
                    Accounts.OpeningBalances.Code,
                    apart < 0 ? Money.Usd(-apart) : null,
                    apart > 0 ? Money.Usd(apart) : null,
                    new Dimensions()
                ),
            ];
    }

    private static string Whose(OpeningKind kind) =>
        kind switch
        {
            OpeningKind.Bill => "the vendor or carrier",
            OpeningKind.Advance => "the driver",
            _ => "the customer",
        };
}

/// <summary>A row of a file with open items.</summary>
/// <param name="Row">Its row in the file, from 1.</param>
/// <param name="Problems">What could not be read, by cell.</param>
public sealed record OpeningRow(
    int Row,
    string Party,
    string Number,
    LocalDate? On,
    LocalDate? DueOn,
    Money? Amount,
    IReadOnlyList<string> Problems
);

/// <summary>Reads open items from a spreadsheet of any system: a header names the columns, in any order.</summary>
public static class OpeningTable
{
    private static readonly (string Field, string[] Names)[] Columns =
    [
        ("party", ["customer", "customer name", "vendor", "vendor name", "carrier", "driver", "name", "company"]),
        ("number", ["number", "no", "no.", "#", "invoice", "invoice number", "invoice no.", "bill", "bill number", "reference", "note"]),
        ("on", ["date", "invoice date", "bill date", "issued"]),
        ("due", ["due", "due date"]),
        ("amount", ["amount", "open", "open amount", "balance", "open balance", "amount due"]),
    ];

    private static readonly LocalDatePattern[] Dates =
    [
        LocalDatePattern.Iso,
        LocalDatePattern.CreateWithInvariantCulture("M/d/yy"),
        LocalDatePattern.CreateWithInvariantCulture("M/d/uuuu"),
    ];

    /// <param name="table">All rows as text, the header first.</param>
    public static Outcome<IReadOnlyList<OpeningRow>> Read(IReadOnlyList<IReadOnlyList<string>> table)
    {
        var header = table[0].Select(c => c.Trim().ToLowerInvariant()).ToList();
        var at = Columns.ToDictionary(c => c.Field, c => header.FindIndex(c.Names.Contains));
        if (at["party"] < 0 || at["amount"] < 0)
        {
            return new Problem(
                "columns",
                "The first row must name the columns: Customer, Vendor or Driver; Number; Date; Due date; Amount.",
                "file"
            );
        }

        return table.Skip(1).Select((cells, i) => Row(cells, i + 2, at)).ToList();
    }

    private static OpeningRow Row(IReadOnlyList<string> cells, int row, Dictionary<string, int> at)
    {
        var problems = new List<string>();
        string Cell(string field) => at[field] is >= 0 and var i && i < cells.Count ? cells[i].Trim() : "";
        LocalDate? Day(string field, string name)
        {
            var text = Cell(field);
            // A workbook's date cell is a day with a time.
            var day = text.Split(' ', 'T')[0];
            foreach (var pattern in Dates)
            {
                if (pattern.Parse(day) is { Success: true, Value: var date })
                {
                    return date;
                }
            }

            if (text.Length > 0)
            {
                problems.Add($"{name} “{text}” is not a date: write it like 11/30/2026.");
            }

            return null;
        }

        var (on, due) = (Day("on", "Date"), Day("due", "Due date"));
        var written = Cell("amount").Replace("$", "", StringComparison.Ordinal).Trim();
        var amount =
            decimal.TryParse(written, NumberStyles.AllowThousands | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var a)
            && a > 0
            && decimal.Round(a, 2) == a
                ? Money.Usd(a)
                : (Money?)null;
        if (amount is null)
        {
            problems.Add($"Amount “{Cell("amount")}” is not an amount above zero in dollars and cents.");
        }

        return new OpeningRow(row, Cell("party"), Cell("number"), on, due, amount, problems);
    }
}
