using SteadyLark.Core.Ledger;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Ledger;
using Xunit;

namespace SteadyLark.Store.Tests.Ledger;

/// <summary>Books written by the version before ledger lines named their open items, and what the migration makes of them.</summary>
public sealed class OpenItemMigration() : OldSchema(through: "0034")
{
    private Task<long> Id(string sql) => Connection.One<long>(sql);

    /// <summary>An entry as the old version posted it: account, debit and credit of each line.</summary>
    private async Task<long> Entry(
        string source,
        long id,
        string on,
        (string Account, decimal Debit, decimal Credit)[] lines,
        long? customer = null,
        long? reverses = null
    )
    {
        await using var transaction = await Connection.BeginTransactionAsync();
        var entry = await Connection.One<long>(
            "insert into entries (posted_on, at, memo, source, source_id, reverses_id) values (@on::text::date, now(), 'old', @source, @id, @reverses) returning id",
            ("on", on),
            ("source", source),
            ("id", id),
            ("reverses", reverses)
        );
        for (var i = 0; i < lines.Length; i++)
        {
            await Connection.Run(
                "insert into entry_lines (entry_id, seq, account, debit, credit, customer_id) values (@e, @s, @a, @d, @c, @customer)",
                ("e", entry),
                ("s", i + 1),
                ("a", lines[i].Account),
                ("d", lines[i].Debit),
                ("c", lines[i].Credit),
                ("customer", customer)
            );
        }

        await transaction.CommitAsync();
        return entry;
    }

    private Task<Dictionary<string, decimal>> Balances() =>
        Connection
            .Rows("select account, sum(debit - credit) as balance from entry_lines group by account", r =>
                (Account: r.Text("account"), Balance: r.Decimal("balance"))
            )
            .ContinueWith(t => t.Result.ToDictionary(b => b.Account, b => b.Balance), TaskScheduler.Default);

    private async Task<decimal> Open(Account account, long item, string on = "2026-12-31") =>
        (await OpenItemStore.Moves(Connection, account, [item]))[item]
            .Where(m => m.On <= NodaTime.Text.LocalDatePattern.Iso.Parse(on).Value)
            .Sum(m => m.Amount);

    private async Task<long> Invoice(long customer, string number, decimal total)
    {
        var load = await Connection.One<long>(
            """
            with l as (insert into loads (number, state, is_draft, customer_id, equipment, first_at, last_at, revenue, booked_at)
                values (@n, 'billed', false, @c, 'van', now(), now(), @t, now()) returning id),
            c as (insert into charges (load_id, seq, kind, amount) select id, 1, 'line_haul', @t from l)
            select id from l
            """,
            ("n", number),
            ("c", customer),
            ("t", total)
        );
        var invoice = await Connection.One<long>(
            """
            with i as (insert into invoices (number, customer_id, issued_on, due_on, total) values (@n, @c, '2026-11-02', '2026-12-02', @t) returning id),
            l as (insert into invoice_lines (invoice_id, seq, load_id, charge_id, description, amount)
                select i.id, 1, @load, (select id from charges where load_id = @load), 'Line haul', @t from i)
            select id from i
            """,
            ("n", number),
            ("c", customer),
            ("t", total),
            ("load", load)
        );
        await Entry("invoice", invoice, "2026-11-02", [("1200", total, 0), ("4000", 0, total)], customer);
        return invoice;
    }

    private Task<long> Applied(long payment, long invoice, decimal amount, decimal off = 0) =>
        Connection.One<long>(
            """
            insert into payment_applications (payment_id, invoice_id, amount, write_off, reason) values (@p, @i, @a, @w, case when @w > 0 then 'lumper' end)
            returning id
            """,
            ("p", payment),
            ("i", invoice),
            ("a", amount),
            ("w", off)
        );

    [Fact]
    public async Task Each_line_finds_its_open_item_and_no_balance_changes()
    {
        await LedgerStore.AddAccounts(Connection);
        var customer = await Id("insert into companies (name, is_customer) values ('Snowberry Creamery', true) returning id");
        var (first, second, paid) = (
            await Invoice(customer, "I-1", 500),
            await Invoice(customer, "I-2", 800),
            await Invoice(customer, "I-3", 300)
        );

        // One check for two invoices with a short pay, and its rest applied to a third later.
        var check = await Id(
            $"insert into payments (customer_id, received_on, method, amount) values ({customer}, '2026-11-10', 'check', 1000) returning id"
        );
        await Applied(check, first, 480, 20);
        await Applied(check, second, 400);
        await Entry("payment", check, "2026-11-10", [("1000", 1000, 0), ("4900", 20, 0), ("1200", 0, 900), ("2300", 0, 120)], customer);
        await Applied(check, paid, 100);
        await Entry("credit_use", check, "2026-11-12", [("2300", 100, 0), ("1200", 0, 100)], customer);

        // A check that bounced.
        var bounced = await Id(
            $"insert into payments (customer_id, received_on, method, amount) values ({customer}, '2026-11-11', 'check', 250) returning id"
        );
        await Applied(bounced, second, 150);
        await Applied(bounced, paid, 100);
        var posted = await Entry("payment", bounced, "2026-11-11", [("1000", 250, 0), ("1200", 0, 250)], customer);
        await Connection.Run("update payment_applications set standing = false where payment_id = @p", ("p", bounced));
        await Connection.Run("update payments set reversed_at = now() where id = @p", ("p", bounced));
        await Entry("payment_reversal", bounced, "2026-11-20", [("1000", 0, 250), ("1200", 250, 0)], customer, posted);

        // A bill approved for less, an advance and a settlement that deducts it and carries the rest over.
        var vendor = await Id("insert into companies (name, is_vendor) values ('Lolo Tire and Axle', true) returning id");
        var bill = await Id(
            $"with b as (insert into bills (vendor_id, number, billed_on, due_on, amount, entered_at) values ({vendor}, '7', '2026-11-03', '2026-11-13', 90, now()) returning id), l as (insert into bill_lines (bill_id, seq, account, amount) select id, 1, '5400', 90 from b) select id from b"
        );
        await Entry("bill", bill, "2026-11-03", [("5400", 90, 0), ("2000", 0, 90)]);
        await Entry("bill_reduction", bill, "2026-11-04", [("2000", 15, 0), ("5400", 0, 15)]);
        var driver = await Id("insert into drivers (name, short_name) values ('Moses Okafor', 'M. Okafor') returning id");
        var advance = await Id($"insert into advances (driver_id, issued_on, amount) values ({driver}, '2026-11-05', 60) returning id");
        await Entry("advance", advance, "2026-11-05", [("1300", 60, 0), ("1000", 0, 60)]);
        var settlement = await Settlement(driver, "2026-11-02", earned: 100, deducted: 60, carriedOver: 0, advance);
        await Entry("settlement", settlement, "2026-11-08", [("5100", 100, 0), ("1300", 0, 60), ("2100", 0, 40)]);
        var shortWeek = await Settlement(driver, "2026-11-09", earned: 0, deducted: 25, carriedOver: 25);
        var carried = await Id(
            $"insert into advances (driver_id, issued_on, amount, carried_from) values ({driver}, '2026-11-15', 25, {shortWeek}) returning id"
        );
        await Entry("settlement", shortWeek, "2026-11-15", [("2200", 0, 25), ("1300", 25, 0)]);

        var before = await Balances();
        await Migrate();
        Assert.Equal(before.OrderBy(b => b.Key), (await Balances()).OrderBy(b => b.Key));
        Assert.Equal(
            0,
            await Connection.One<long>(
                "select count(*) from entry_lines where (account = any(@control)) <> (item_id is not null)",
                ("control", Accounts.IsControl.ToArray())
            )
        );
        Assert.Equal(
            0,
            await Connection.One<long>(
                "select count(*) from (select 1 from entry_lines group by entry_id having sum(debit) <> sum(credit)) x"
            )
        );
        Assert.Equal(
            (0m, 400m, 200m, 20m, 0m),
            (
                await Open(Accounts.Receivable, first),
                await Open(Accounts.Receivable, second),
                await Open(Accounts.Receivable, paid),
                await Open(Accounts.UnappliedReceipts, check),
                await Open(Accounts.UnappliedReceipts, bounced)
            )
        );
        // Until it bounced, the second check counted.
        Assert.Equal(
            (250m, 400m),
            (await Open(Accounts.Receivable, second, "2026-11-15"), await Open(Accounts.Receivable, second, "2026-11-20"))
        );
        Assert.Equal(
            (75m, 0m, 25m, 40m),
            (
                await Open(Accounts.Payable, bill),
                await Open(Accounts.DriverAdvances, advance),
                await Open(Accounts.DriverAdvances, carried),
                await Open(Accounts.WagesPayable, settlement)
            )
        );

        // What was written off before had no kind: it was a concession, as the account was named.
        Assert.Equal(
            ["concession"],
            await Connection.Rows("select kind from payment_applications where write_off > 0", r => r.Text("kind"))
        );
        Assert.Equal(
            ("2026-11-02", "2026-11-03", "2026-11-10"),
            (
                await Connection.One<string>("select posted_on::text from invoices where id = @id", ("id", first)),
                await Connection.One<string>("select posted_on::text from bills where id = @id", ("id", bill)),
                await Connection.One<string>("select posted_on::text from payments where id = @id", ("id", check))
            )
        );
    }

    private Task<long> Settlement(
        long driver,
        string monday,
        decimal earned,
        decimal deducted,
        decimal carriedOver,
        long? advance = null
    ) =>
        Connection.One<long>(
            """
            with s as (insert into settlements (driver_id, monday, pay_day, earned, reimbursed, deducted, carried_over, net, days_out, miles, approved_at)
                values (@d, @m::text::date, @m::text::date + 11, @e, 0, @k, @o, @e - @k + @o, 0, 0, now()) returning id),
            l as (insert into settlement_lines (settlement_id, seq, kind, what, quantity, rate, on_day, amount)
                select id, 1, 'per_hour', 'shop', 1, @e, @m::text::date, @e from s where @e > 0),
            r as (insert into standing_deductions (driver_id, name, amount, account, from_on)
                select @d, 'health insurance', @o, '2200', @m::text::date where @o > 0 returning id),
            a as (insert into advance_deductions (settlement_id, advance_id, amount) select id, @a, @k from s where @a::bigint is not null),
            k as (insert into settlement_deductions (settlement_id, seq, standing_id, amount) select s.id, 1, r.id, @o from s, r)
            select id from s
            """,
            ("d", driver),
            ("m", monday),
            ("e", earned),
            ("k", deducted),
            ("o", carriedOver),
            ("a", advance)
        );
}
