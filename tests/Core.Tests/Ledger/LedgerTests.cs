using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Ledger;

public class PostingTests
{
    private static readonly Gen<Money> Amount = Gen.Int[1, 10_000_000].Select(c => Money.Usd(c / 100m));

    internal static bool Balances(Entry e) =>
        e.Lines.Sum(l => l.Debit) == e.Lines.Sum(l => l.Credit)
        && e.Lines.Count >= 2
        && e.Lines.All(l => (l.Debit == 0) != (l.Credit == 0));

    [Fact]
    public void Every_posting_balances_for_any_amounts() =>
        Gen.Select(Amount.List[1, 8], Amount, Amount, Gen.Int[0, 100])
            .Sample(
                (charges, amount, other, share) =>
                {
                    var applied = Money.Usd(Math.Round(amount.Amount * share / 100, 2));
                    var day = Some.Today;
                    var lines = charges
                        .Select((c, i) => new PayLine(i % 2 == 0 ? PayKind.PerMile : PayKind.PerDay, "lane", 1, 1, day, c, i, i))
                        .ToList();
                    var week = new SettlementStatement(
                        day,
                        day,
                        lines,
                        1,
                        5,
                        [new Reimbursement(1, day, "x", amount, "5300", null)],
                        [new Deduction(day, "x", other, "2200", ItemId: 1)]
                    );
                    List<BillLine> bill = charges.Select((c, i) => new BillLine("5400", null, c, i, null, null)).ToList();
                    Entry[] entries =
                    [
                        Postings.InvoiceIssued(day, "I-1", 1, 7, charges.Select((c, i) => (i + 1L, c)).ToList()),
                        .. Postings.PaymentReceived(day, "check 1", 1, 7, amount, [new PostedApplication(1, applied, day)]),
                        Postings.Refunded(day, "x", 1, 1, 7, amount),
                        Postings.WrittenOff(
                            day,
                            EntrySource.InvoiceWriteOff,
                            1,
                            "I-1",
                            1,
                            7,
                            other,
                            ShortPayReason.Claim,
                            "x",
                            [(1, amount)]
                        ),
                        Postings.BillIncreased(day, "x", "1", 1, bill, Dimensions.None),
                        Postings.BillReceived(day, "x", "1", 1, bill, Dimensions.None),
                        Postings.BillReduced(day, "x", "1", 1, bill, Dimensions.None),
                        Postings.Spent(day, "x", "1", 1, bill, Dimensions.None),
                        Postings.VendorPaid(day, "x", "bill 1", 1, [(new PaidBill(1, amount, Money.Zero()), Dimensions.None)]),
                        Postings.AdvanceIssued(day, "x", 1, 1, amount),
                        Postings.SettlementApproved(day, "x", 1, 1, week, 3),
                        Postings.SettlementPaid(day, "x", 1, 1, amount),
                    ];
                    return entries.All(Balances) && entries.All(e => Balances(e.Reversed(day, "back", EntrySource.InvoiceVoid)));
                }
            );

    [Fact]
    public void A_reversal_restores_every_account()
    {
        var part = new PostedApplication(1, Money.Usd(60), Some.Today);
        var entry = Postings.PaymentReceived(Some.Today, "check 1", 1, 7, Money.Usd(100), [part])[0];
        var both = entry.Lines.Concat(entry.Reversed(Some.Today, "bounced", EntrySource.PaymentReversal).Lines);
        Assert.All(both.GroupBy(l => l.Account), g => Assert.Equal(0, g.Sum(l => l.Debit - l.Credit)));
    }

    [Fact]
    public void An_unbalanced_entry_cannot_be_created() =>
        Assert.Throws<InvalidOperationException>(() =>
            Entry.Of(
                Some.Today,
                "x",
                EntrySource.Opening,
                0,
                [new EntryLine("1000", 5, 0, Dimensions.None), new EntryLine("3000", 0, 4, Dimensions.None)]
            )
        );

    [Theory]
    [InlineData(0, AgingBucket.NotDue)]
    [InlineData(1, AgingBucket.Days1To30)]
    [InlineData(30, AgingBucket.Days1To30)]
    [InlineData(31, AgingBucket.Days31To60)]
    [InlineData(90, AgingBucket.Days61To90)]
    [InlineData(91, AgingBucket.Over90)]
    public void Aging_counts_from_the_due_date(int days, AgingBucket bucket) =>
        Assert.Equal(bucket, Aging.Bucket(Some.Today, Some.Today.PlusDays(days)));

    [Fact]
    public void Aging_uses_days_not_months() =>
        Assert.Equal(AgingBucket.Days31To60, Aging.Bucket(new LocalDate(2026, 1, 31), new LocalDate(2026, 3, 3)));
}

public class BooksByHandTests
{
    private static readonly IReadOnlyList<Account> Chart = [.. Accounts.All, .. Accounts.ToBeginWith];
    private static readonly LocalDate Today = new(2026, 11, 23);

    private static JournalLine Line(string account, decimal debit, decimal credit) =>
        new(account, debit > 0 ? Money.Usd(debit) : null, credit > 0 ? Money.Usd(credit) : null, Dimensions.None);

    [Fact]
    public void A_journal_entry_balances_and_refuses_control_accounts()
    {
        Assert.Equal(1200m, Journal.Draft(Today, "depreciation", [Line("5400", 1200, 0), Line("3000", 0, 1200)], Chart).Value.Total);
        Assert.Contains(
            "$200.00 is missing on the credit side",
            Journal.Draft(Today, "x", [Line("5400", 1200, 0), Line("3000", 0, 1000)], Chart).Problems[0].Message
        );
        foreach (var kept in Accounts.IsControl)
        {
            Assert.Equal(
                ("account.kept", "lines[1].account"),
                Journal.Draft(Today, "x", [Line("5400", 5, 0), Line(kept, 0, 5)], Chart).Problems.Select(p => (p.Code, p.Field)).Single()
            );
        }

        Assert.Equal(
            ["memo", "lines", "lines[0].debit"],
            Journal.Draft(Today, " ", [Line("5400", 5, 5)], Chart).Problems.Select(p => p.Field)
        );
    }

    [Theory]
    [InlineData("5210", "Diesel", AccountKind.Expense, "5200", null)]
    [InlineData("4210", "Diesel", AccountKind.Expense, null, "code")]
    [InlineData("5200", "Diesel", AccountKind.Expense, null, "code")]
    [InlineData("52", "Diesel", AccountKind.Expense, null, "code")]
    [InlineData("5210", "fuel", AccountKind.Expense, null, "name")]
    [InlineData("5210", "Diesel", AccountKind.Expense, "4000", "parent")]
    [InlineData("5210", "Diesel", AccountKind.Expense, "5999", "parent")]
    public void An_account_has_a_code_of_its_type_a_unique_name_and_a_parent_of_its_type(
        string code,
        string name,
        AccountKind kind,
        string? parent,
        string? wrong
    ) => Assert.Equal(wrong, ChartOfAccounts.Add(code, name, kind, parent, Chart).Problems.Select(p => p.Field).FirstOrDefault());

    [Fact]
    public void Months_are_closed_once_over_and_reopened_with_a_reason()
    {
        var open = new BookPeriods(new HashSet<LocalDate>());
        var first = new LocalDate(2026, 7, 19);
        Assert.Equal("period.running", open.Close(Today, first, Today).Problems[0].Code);
        Assert.Equal("period.empty", open.Close(new LocalDate(2026, 6, 30), first, Today).Problems[0].Code);
        var closed = new BookPeriods(open.Close(new LocalDate(2026, 9, 30), first, Today).Value.ToHashSet());
        Assert.Equal([7, 8, 9], closed.Closed.Order().Select(m => m.Month));
        Assert.Equal([10], closed.Close(new LocalDate(2026, 10, 1), first, Today).Value.Select(m => m.Month));
        Assert.Equal("receivedOn", closed.Refuses(new LocalDate(2026, 9, 30), "receivedOn")!.Field);
        Assert.Null(closed.Refuses(new LocalDate(2026, 10, 1), "receivedOn"));
        Assert.Equal("why", closed.Reopen(new LocalDate(2026, 8, 5), " ").Problems[0].Field);
        Assert.Equal([8, 9], closed.Reopen(new LocalDate(2026, 8, 5), "a bill came late").Value.Select(m => m.Month));
    }

    [Fact]
    public void Profit_is_income_less_expense_by_group_with_ungrouped_amounts_last()
    {
        ProfitCell Cell(string key, string code, decimal amount) => new(key, key, code, ChartOfAccounts.KindOf(code), Money.Usd(amount));
        var groups = Profit.Groups(
            ProfitBy.Driver,
            [Cell("7", "4000", 1000), Cell("7", "5100", 400), Cell("9", "4000", 900), Cell("9", "5100", 100), Cell("", "6100", 300)],
            new Dictionary<string, (int, int)> { ["7"] = (2, 480) }
        );
        Assert.Equal(
            [("9", 800m, null), ("7", 600m, 1.25m), ("", -300m, (decimal?)null)],
            groups.Select(g => (g.Key, g.Left.Amount, g.LeftPerMile))
        );
        Assert.Equal(
            [new LocalDate(2026, 6, 1), new LocalDate(2026, 11, 2)],
            [Profit.From(ProfitBy.Month, Today, 6), Profit.From(ProfitBy.Week, Today, 4)]
        );
    }
}
