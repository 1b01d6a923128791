using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Ledger;
using Xunit;

namespace SteadyLark.Store.Tests.Ledger;

public class LedgerPromises(Stocked s) : IClassFixture<Stocked>
{
    private const string Insert =
        "insert into entries (posted_on, at, memo, source, source_id) values ('2026-11-23', now(), 'x', 'opening', 0) returning id";

    private static Task<int> Line(CommandContext w, long entry, int seq, decimal debit, decimal credit) =>
        w.Db.Run(
            "insert into entry_lines (entry_id, seq, account, debit, credit) values (@e, @s, '1000', @d, @c)",
            ("e", entry),
            ("s", seq),
            ("d", debit),
            ("c", credit)
        );

    [Fact]
    public async Task The_database_refuses_an_unbalanced_entry_at_commit()
    {
        Assert.Equal(
            "LK002",
            await s.Refusal(async w =>
            {
                var id = await w.Db.One<long>(Insert);
                await Line(w, id, 1, 100, 0);
                await Line(w, id, 2, 0, 99.99m);
            })
        );
        Assert.Equal("LK002", await s.Refusal(w => w.Db.Run(Insert)));
        Assert.Null(
            await s.Refusal(async w =>
            {
                var id = await w.Db.One<long>(Insert);
                await Line(w, id, 1, 100, 0);
                await Line(w, id, 2, 0, 100);
            })
        );
    }

    [Theory]
    [InlineData("72, 0, 'CAD', 100", "72, 'USD', null", null)]
    [InlineData("72, 0, 'CAD', 100", "73, 'USD', null", "LK002")]
    [InlineData("72, 0, 'CAD', null", "72, 'USD', null", "entry_lines_in_currency")]
    [InlineData("72, 0, 'USD', 100", "72, 'USD', null", "entry_lines_in_currency")]
    [InlineData("0, 0, 'CAD', 0", "72, 'USD', null", "entry_lines_one_side")]
    public async Task A_line_in_another_currency_has_both_amounts_and_the_entry_balances_in_ours(
        string debit,
        string credit,
        string? refused
    ) =>
        Assert.Equal(
            refused,
            await s.Refusal(async w =>
            {
                var id = await w.Db.One<long>(Insert);
                await w.Db.Run(
                    $"""
                    insert into entry_lines (entry_id, seq, account, debit, credit, currency, in_currency)
                    values (@e, 1, '1010', {debit}), (@e, 2, '1000', 0, {credit})
                    """,
                    ("e", id)
                );
            })
        );

    [Fact]
    public async Task Posted_entries_are_never_changed_deleted_or_extended()
    {
        long id;
        await using (var w = await s.Begin())
        {
            id = await LedgerStore.Post(w, Postings.Opening(w.Today, Money.Usd(500)));
            await w.Commit();
        }

        Assert.Equal(
            "LK001",
            await s.Refusal(w => w.Db.Run("update entry_lines set debit = 600 where entry_id = @id and debit > 0", ("id", id)))
        );
        Assert.Equal("LK001", await s.Refusal(w => w.Db.Run("update entries set memo = 'y' where id = @id", ("id", id))));
        Assert.Equal("LK001", await s.Refusal(w => w.Db.Run("delete from entry_lines where entry_id = @id", ("id", id))));
        Assert.Equal("LK001", await s.Refusal(w => w.Db.Run("truncate entry_lines")));
        Assert.Equal(
            "LK001",
            await s.Refusal(async w =>
            {
                await Line(w, id, 3, 5, 0);
                await Line(w, id, 4, 0, 5);
            })
        );
    }

    [Theory]
    [InlineData("1200", null)]
    [InlineData("1000", 1L)]
    public async Task A_line_of_a_control_account_belongs_to_an_open_item_and_no_other_line_does(string account, long? item) =>
        Assert.Equal(
            "entry_lines_item",
            await s.Refusal(async w =>
            {
                var id = await w.Db.One<long>(Insert);
                await w.Db.Run(
                    "insert into entry_lines (entry_id, seq, account, debit, credit, item_id) values (@e, 1, @a, 5, 0, @i)",
                    ("e", id),
                    ("a", account),
                    ("i", item)
                );
            })
        );

    [Fact]
    public async Task A_reversal_restores_every_account_and_happens_once()
    {
        await using var w = await s.Begin();
        var before = (await LedgerStore.TrialBalance(w.Db, w.Today)).Select(a => a.Balance).ToList();
        await LedgerStore.Post(
            w,
            Postings.InvoiceIssued(w.Today, "I-9", 99, s.Customer, [(await s.Load(w, "REVERSED", 1200), Money.Usd(1200))])
        );
        await LedgerStore.Reverse(w, EntrySource.Invoice, 99, EntrySource.InvoiceVoid, "void");
        await LedgerStore.Reverse(w, EntrySource.Invoice, 99, EntrySource.InvoiceVoid, "void again");
        Assert.Equal(before, (await LedgerStore.TrialBalance(w.Db, w.Today)).Select(a => a.Balance));
        await w.Commit();
    }
}
