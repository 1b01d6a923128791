using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using Xunit;

namespace SteadyLark.Core.Tests.Ledger;

/// <summary>Opening balances: open items as documents, accounts as one entry, all against account 3900.</summary>
public class OpeningBalanceTests
{
    private static readonly LocalDate On = new(2026, 10, 31);

    private static (IReadOnlyList<OpeningItem> Items, Validation Validation) Check(params OpeningOrder[] orders)
    {
        var validation = new Validation();
        var items = OpeningBalances.Check(
            On,
            orders,
            (kind, id) =>
                id == 7 && kind != OpeningKind.Advance || id == 8 && kind == OpeningKind.Advance ? new OpeningParty($"Party {id}") : null,
            (kind, whose, number) =>
                kind == OpeningKind.Invoice && number == "A-1" || (kind, whose, number) == (OpeningKind.Bill, 7, "B-1"),
            validation
        );
        return (items, validation);
    }

    private static OpeningOrder Order(OpeningKind kind, string? number, decimal amount = 100m) =>
        new(kind, kind == OpeningKind.Advance ? 8 : 7, number, On.PlusDays(-20), On.PlusDays(10), Money.Usd(amount));

    [Fact]
    public void Each_kind_is_posted_to_its_control_account_against_3900()
    {
        var (items, validation) = Check(
            Order(OpeningKind.Invoice, "A-2", 900.50m),
            Order(OpeningKind.Bill, "B-2", 300m),
            Order(OpeningKind.Advance, null, 250m),
            Order(OpeningKind.Credit, "check 9", 40m)
        );
        Assert.Empty(validation.Problems);
        var posted = items.Select((item, i) => Postings.Opening(On, item, i + 1)).ToList();
        Assert.Equal(
            ["1200 900.50 0 1, 3900 0 900.50 ", "3900 300 0 , 2000 0 300 2", "1300 250 0 3, 3900 0 250 ", "3900 40 0 , 2300 0 40 4"],
            posted.Select(e => string.Join(", ", e.Lines.Select(l => $"{l.Account} {l.Debit} {l.Credit} {l.ItemId}")))
        );
        Assert.Equal([EntrySource.Invoice, EntrySource.Bill, EntrySource.Advance, EntrySource.Payment], posted.Select(e => e.Source));
    }

    [Fact]
    public void What_is_wrong_is_said_by_row_and_field()
    {
        var (_, validation) = Check(
            Order(OpeningKind.Invoice, "A-1"),
            Order(OpeningKind.Invoice, "A-3"),
            Order(OpeningKind.Invoice, "a-3"),
            Order(OpeningKind.Bill, "B-1"),
            Order(OpeningKind.Bill, null),
            Order(OpeningKind.Invoice, "A-4") with
            {
                PartyId = 9,
            },
            Order(OpeningKind.Invoice, "A-5") with
            {
                On = On.PlusDays(1),
            },
            Order(OpeningKind.Invoice, "A-6") with
            {
                DueOn = On.PlusDays(-30),
            },
            Order(OpeningKind.Bill, "B-7") with
            {
                DueOn = null,
            },
            Order(OpeningKind.Advance, null, 0),
            new OpeningOrder(null, 7, "x", On, On, Money.Usd(1))
        );
        Assert.Equal(
            [
                "items[0].number",
                "items[2].number",
                "items[3].number",
                "items[4].number",
                "items[5].partyId",
                "items[6].on",
                "items[7].dueOn",
                "items[8].dueOn",
                "items[9].amount",
                "items[10].kind",
            ],
            validation.Problems.Select(p => p.Field)
        );
        Assert.Contains("after the opening date, Oct 31, 2026", validation.Problems.First(p => p.Field == "items[6].on").Message);
    }

    [Fact]
    public void Account_balances_are_balanced_on_3900()
    {
        JournalLine Line(string account, decimal debit, decimal credit) =>
            new(account, debit > 0 ? Money.Usd(debit) : null, credit > 0 ? Money.Usd(credit) : null, new Dimensions());

        var lines = OpeningBalances.Balanced([Line("1000", 5000m, 0), Line("3000", 0, 4400m)]);
        Assert.Equal(("3900", 600m), (lines[2].Account, lines[2].Credit!.Value.Amount));
        Assert.Equal(600m, OpeningBalances.Balanced([Line("3000", 0, 600m)])[1].Debit!.Value.Amount);
        Assert.Equal(2, OpeningBalances.Balanced([Line("1000", 5m, 0), Line("3000", 0, 5m)]).Count);
    }

    [Fact]
    public void A_whole_trial_balance_leaves_nothing_on_3900() =>
        Gen.Select(Gen.Int[1, 900_000].List[0, 12], Gen.Int[1, 900_000].List[0, 12], Gen.Int[0, 900_000])
            .Sample(
                (invoices, bills, bank) =>
                {
                    var (items, _) = Check([
                        .. invoices.Select((c, i) => Order(OpeningKind.Invoice, $"I{i}", c / 100m)),
                        .. bills.Select((c, i) => Order(OpeningKind.Bill, $"V{i}", c / 100m)),
                    ]);
                    // Equity is what assets exceed liabilities by, as in the old books.
                    var equity = (bank + invoices.Sum() - bills.Sum()) / 100m;
                    JournalLine[] lines =
                    [
                        new("1000", Money.Usd(bank / 100m), null, new Dimensions()),
                        equity >= 0
                            ? new("3000", null, Money.Usd(equity), new Dimensions())
                            : new("3000", Money.Usd(-equity), null, new Dimensions()),
                    ];
                    var on3900 =
                        OpeningBalances
                            .Balanced(lines)
                            .Where(l => l.Account == "3900")
                            .Sum(l => (l.Debit?.Amount ?? 0) - (l.Credit?.Amount ?? 0))
                        + items
                            .SelectMany((item, i) => Postings.Opening(On, item, i + 1).Lines)
                            .Where(l => l.Account == "3900")
                            .Sum(l => l.Debit - l.Credit);
                    Assert.Equal(0, on3900);
                }
            );

    [Fact]
    public void A_write_off_of_an_opening_invoice_has_no_load()
    {
        var entry = Postings.WrittenOff(
            On,
            EntrySource.InvoiceWriteOff,
            1,
            "A-2",
            5,
            7,
            Money.Usd(12.34m),
            ShortPayReason.Uncollectible,
            "closed",
            []
        );
        Assert.Equal(("6500", 12.34m, null), (entry.Lines[0].Account, entry.Lines[0].Debit, entry.Lines[0].For.LoadId));
    }

    [Fact]
    public void A_spreadsheet_of_any_system_is_read_by_its_header()
    {
        var read = OpeningTable.Read([
            ["Due Date", "Invoice No.", "Customer", "Open Balance", "Date"],
            ["11/15/2026", "A-9", "Snowberry Creamery", "$1,234.50", "10/16/26"],
            ["2026-11-01 00:00:00", "A-10", "Nobody", "12.345", "soon"],
        ]);
        var (good, bad) = (read.Value[0], read.Value[1]);
        Assert.Equal(
            (2, "Snowberry Creamery", "A-9", new LocalDate(2026, 10, 16), new LocalDate(2026, 11, 15), Money.Usd(1234.50m)),
            (good.Row, good.Party, good.Number, good.On, good.DueOn, good.Amount)
        );
        Assert.Empty(good.Problems);
        Assert.Equal((new LocalDate(2026, 11, 1), null, null), (bad.DueOn, bad.On, bad.Amount));
        Assert.Equal(2, bad.Problems.Count);
        Assert.Equal(
            "file",
            OpeningTable
                .Read([
                    ["a", "b"],
                    ["c", "d"],
                ])
                .Problems.Single()
                .Field
        );
    }
}
