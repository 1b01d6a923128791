using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Paying;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Paying;
using Xunit;

namespace SteadyLark.Store.Tests.Billing;

public class MoneyPromises(Stocked s) : IClassFixture<Stocked>
{
    private async Task<(long Id, string Number)> Invoice(CommandContext w, decimal total, string load) =>
        await BillingStore.AddInvoice(
            w,
            new InvoiceDraft(
                s.Customer,
                w.Today,
                w.Today.PlusDays(30),
                Money.Usd(total),
                [new InvoiceLine(await s.Load(w, load, total), await Charge(w, load), "Line haul", Money.Usd(total))],
                [],
                []
            ),
            w.Today,
            null,
            BillingSettings.Default.Documents
        );

    private static Task<long> Charge(CommandContext w, string load) =>
        w.Db.One<long>("select c.id from charges c join loads l on l.id = c.load_id where l.number = @n", ("n", load));

    [Fact]
    public async Task Taxes_of_an_invoice_add_up_and_are_within_what_is_written_off()
    {
        long invoice = 0;
        Assert.Null(await s.Refusal(async w => (invoice, _) = await Invoice(w, 100, "TX1")));
        Assert.Equal("LK002", await s.Refusal(w => w.Db.Run("update invoices set total = 105, tax = 5 where id = @id", ("id", invoice))));
        Assert.Equal(
            "LK002",
            await s.Refusal(w => w.Db.Run("insert into invoice_taxes values (@id, 1, 'GST 5 %', 5, 100, 5)", ("id", invoice)))
        );
        Assert.Null(
            await s.Refusal(w =>
                w.Db.Run(
                    "insert into invoice_taxes values (@id, 1, 'GST 5 %', 5, 100, 5); update invoices set total = 105, tax = 5 where id = @id",
                    ("id", invoice)
                )
            )
        );
        Assert.Equal(
            "payment_applications_check1",
            await s.Refusal(w =>
                CorrectionStore.AddWriteOff(w, invoice, w.Today, Money.Usd(1), Money.Usd(1.01m), ShortPayReason.Concession, "x")
            )
        );
    }

    [Fact]
    public async Task Totals_equal_their_lines_at_commit()
    {
        long invoice = 0;
        Assert.Null(await s.Refusal(async w => invoice = (await Invoice(w, 100, "TOTAL")).Id));
        Assert.Equal("LK002", await s.Refusal(w => w.Db.Run("update invoices set total = 99 where id = @id", ("id", invoice))));
        Assert.Equal(
            "LK002",
            await s.Refusal(w => w.Db.Run("update invoice_lines set amount = 101 where invoice_id = @id", ("id", invoice)))
        );
        Assert.Equal("LK002", await s.Refusal(w => w.Db.Run("delete from invoice_lines where invoice_id = @id", ("id", invoice))));
        Assert.Equal("LK002", await s.Refusal(w => w.Db.Run("update loads set revenue = 99.99 where number = 'TOTAL'")));
        Assert.Equal(
            "LK002",
            await s.Refusal(w =>
                w.Db.Run("update charges set amount = 100.01 where load_id = (select id from loads where number = 'TOTAL')")
            )
        );
        Assert.Null(
            await s.Refusal(w =>
                w.Db.Run(
                    "update charges set amount = 100.01 where load_id = (select id from loads where number = 'TOTAL'); update loads set revenue = 100.01 where number = 'TOTAL'"
                )
            )
        );
    }

    [Fact]
    public async Task A_settlement_equals_its_lines_at_commit()
    {
        Task Settle(CommandContext w, decimal earned, decimal line, decimal net) =>
            w.Db.Run(
                """
                with s as (
                    insert into settlements (driver_id, monday, pay_day, earned, deducted, net, reimbursed, carried_over, days_out, miles, approved_at)
                    values (@driver, @monday, @monday + 11, @earned, 0, @net, 0, 0, 0, 0, @now) returning id)
                insert into settlement_lines (settlement_id, seq, kind, what, quantity, rate, on_day, amount) select id, 1, 'per_hour', 'shop', 1, @line, @monday, @line from s
                """,
                ("driver", s.Drivers[0]),
                ("monday", w.Today.PlusDays(-7)),
                ("earned", earned),
                ("line", line),
                ("net", net),
                ("now", w.Now)
            );
        Assert.Equal("LK002", await s.Refusal(w => Settle(w, 100, 90, 100)));
        Assert.Null(await s.Refusal(w => Settle(w, 100, 100, 100)));
        Assert.Equal(
            "LK002",
            await s.Refusal(w => w.Db.Run("update settlements set earned = 110, net = 110 where driver_id = @d", ("d", s.Drivers[0])))
        );
    }

    [Theory]
    [InlineData("update loads set currency = 'CAD'", "loads_currency")]
    [InlineData("update invoices set currency = 'CAD'", "invoices_currency")]
    [InlineData("update companies set currency = 'CAD'", "_currency")]
    public async Task A_document_is_in_the_currency_of_its_company(string sql, string constraint)
    {
        Assert.Null(await s.Refusal(async w => await Invoice(w, 100, "C" + sql.Length)));
        Assert.EndsWith(constraint, await s.Refusal(w => w.Db.Run(sql)));
    }

    private static Task<long> Pay(CommandContext w, long customer, decimal amount, params (long Invoice, decimal Part)[] parts) =>
        Pay(w, customer, amount, parts.Select(p => new Application(p.Invoice, Money.Usd(p.Part))));

    private static async Task<long> Pay(CommandContext w, long customer, decimal amount, IEnumerable<Application> parts)
    {
        var id = await BillingStore.AddPayment(w, customer, w.Today, w.Today, "check", "1", Money.Usd(amount));
        await BillingStore.Apply(w, id, parts.Select(p => (p, w.Today, Money.Zero())));
        return id;
    }

    [Fact]
    public async Task A_load_is_on_one_invoice_at_a_time()
    {
        long first = 0;
        Assert.Null(await s.Refusal(async w => first = (await Invoice(w, 100, "L1")).Id));
        Assert.Equal(
            "load_on_one_invoice",
            await s.Refusal(async w =>
            {
                var other = await Invoice(w, 50, "L2");
                await w.Db.Run(
                    "insert into invoice_loads (invoice_id, load_id) select @i, id from loads where number = 'L1'",
                    ("i", other.Id)
                );
            })
        );
        Assert.Null(
            await s.Refusal(async w =>
            {
                await BillingStore.Void(w, first);
                var other = await Invoice(w, 50, "L3");
                await w.Db.Run(
                    "insert into invoice_loads (invoice_id, load_id) select @i, id from loads where number = 'L1'",
                    ("i", other.Id)
                );
            })
        );
    }

    [Fact]
    public async Task A_payment_is_never_applied_beyond_its_amount_or_the_open_amount()
    {
        long invoice = 0;
        Assert.Null(await s.Refusal(async w => invoice = (await Invoice(w, 100, "P1")).Id));
        Assert.StartsWith("payments_", await s.Refusal(w => Pay(w, s.Customer, 50, (invoice, 60))));
        Assert.StartsWith("invoices_", await s.Refusal(w => Pay(w, s.Customer, 500, (invoice, 100.01m))));
        Assert.Equal(
            "LK003",
            await s.Refusal(async w =>
            {
                var stranger = await w.Db.One<long>(
                    "insert into companies (name, is_customer) values ('Somebody Else', true) returning id"
                );
                await Pay(w, stranger, 50, (invoice, 50));
            })
        );
        Assert.Null(await s.Refusal(w => Pay(w, s.Customer, 60, (invoice, 60))));
        await using var look = await s.Begin();
        Assert.Equal(Money.Usd(40), (await BillingStore.Invoice(look.Db, invoice))!.Open);
    }

    [Fact]
    public async Task Many_payments_at_once_never_pay_an_invoice_twice()
    {
        long invoice = 0;
        await s.Refusal(async w => invoice = (await Invoice(w, 100, "Q1")).Id);
        var tries = await Task.WhenAll(Enumerable.Range(0, 10).Select(_ => s.Refusal(w => Pay(w, s.Customer, 30, (invoice, 30)))));
        Assert.Equal(3, tries.Count(t => t is null));
        await using var look = await s.Begin();
        Assert.Equal(Money.Usd(10), (await BillingStore.Invoice(look.Db, invoice))!.Open);
    }

    [Fact]
    public async Task A_reversed_payment_reopens_its_invoices()
    {
        long invoice = 0,
            payment = 0;
        await s.Refusal(async w =>
        {
            invoice = (await Invoice(w, 80, "R1")).Id;
            payment = await Pay(w, s.Customer, 80, (invoice, 80));
        });
        Assert.Null(await s.Refusal(w => BillingStore.ReversePayment(w, payment)));
        await using var look = await s.Begin();
        Assert.Equal(Money.Usd(80), (await BillingStore.Invoice(look.Db, invoice))!.Open);
        Assert.Equal("LK001", await s.Refusal(w => w.Db.Run("delete from payment_applications where payment_id = @p", ("p", payment))));
    }

    [Fact]
    public async Task A_vendors_bill_number_is_unique_in_any_case_and_lines_add_up()
    {
        async Task Bill(CommandContext w, string number, string load, decimal line)
        {
            var leg = await w.Db.One<long>(
                """
                with leg as (insert into legs (load_id, seq, miles, carrier_id, agreed) values (@l, 1, 100, @c, 500) returning id)
                insert into carrier_charges (leg_id, seq, kind, amount) select id, 1, 'line_haul', 500 from leg returning leg_id
                """,
                ("l", await s.Load(w, load)),
                ("c", s.Carrier)
            );
            await BillStore.Add(
                w,
                s.Carrier,
                new UnbilledLeg(leg, 0, load, s.Carrier, "", "", Money.Usd(500), w.Now),
                new EnteredBill(
                    number,
                    w.Today,
                    w.Today,
                    Money.Usd(500),
                    [new BillLine("5000", null, Money.Usd(line), null, null, null)],
                    null
                ),
                w.Today
            );
        }

        Assert.Null(await s.Refusal(w => Bill(w, "A-77", "B1", 500)));
        Assert.Equal("bill_number_once", await s.Refusal(w => Bill(w, "a-77", "B2", 500)));
        Assert.Equal("LK002", await s.Refusal(w => Bill(w, "A-78", "B3", 499.99m)));
    }

    [Fact]
    public async Task A_write_off_settles_the_invoice_without_counting_as_paid()
    {
        long invoice = 0;
        await s.Refusal(async w => invoice = (await Invoice(w, 100, "T1")).Id);
        Task<long> Short(CommandContext w, decimal amount, decimal go) =>
            Pay(w, s.Customer, amount, [new Application(invoice, Money.Usd(amount), Money.Usd(go), "lumper", ShortPayReason.Concession)]);
        Assert.StartsWith("invoices_", await s.Refusal(w => Short(w, 90, 10.01m)));
        Assert.Equal(
            "payment_applications_why",
            await s.Refusal(w => Pay(w, s.Customer, 90, [new Application(invoice, Money.Usd(90), Money.Usd(10), "lumper")]))
        );
        Assert.Null(await s.Refusal(w => Short(w, 90, 10)));
        await using var look = await s.Begin();
        var row = (await BillingStore.Invoice(look.Db, invoice))!;
        Assert.Equal(
            (Money.Zero(), 90m),
            (
                row.Open,
                await look.Db.One<decimal>(
                    "select sum(applied) from payments p join payment_applications a on a.payment_id = p.id where a.invoice_id = @i",
                    ("i", invoice)
                )
            )
        );
    }

    [Fact]
    public async Task Nothing_is_posted_to_a_closed_month_even_concurrently()
    {
        var day = new NodaTime.LocalDate(2020, 3, 14);
        Task Post(CommandContext w) =>
            w.Db.Run(
                "with e as (insert into entries (posted_on, at, memo, source, source_id) values (@d, @now, 'x', 'opening', 0) returning id) insert into entry_lines (entry_id, seq, account, debit, credit) select id, 1, '1000', 5, 0 from e union all select id, 2, '3000', 0, 5 from e",
                ("d", day),
                ("now", w.Now)
            );
        Assert.Null(await s.Refusal(Post));
        Assert.Null(await s.Refusal(w => LedgerStore.Close(w, [new NodaTime.LocalDate(2020, 3, 1)])));
        Assert.Equal("LK004", await s.Refusal(Post));
        Assert.Null(await s.Refusal(w => LedgerStore.Reopen(w, [new NodaTime.LocalDate(2020, 3, 1)], "late bill")));
        Assert.Null(await s.Refusal(Post));

        // Who closes waits for who is posting.
        await using var posting = await s.Begin();
        await Post(posting);
        var closing = s.Refusal(w => LedgerStore.Close(w, [new NodaTime.LocalDate(2020, 3, 1)]));
        Assert.NotSame(closing, await Task.WhenAny(closing, Task.Delay(300)));
        await posting.Commit();
        Assert.Null(await closing);
    }
}
