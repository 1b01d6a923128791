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
            new InvoiceDraft(s.Customer, w.Today, w.Today.PlusDays(30), Money.Usd(total), [new InvoiceLine(await s.Load(w, load), await Charge(w, load), "Line haul", Money.Usd(total), null!)]), null, BillingSettings.Default.Documents);

    private static Task<long> Charge(CommandContext w, string load) =>
        w.Db.One<long>("insert into charges (load_id, seq, kind, amount) select id, 1, 'line_haul', 1 from loads where number = @n returning id", ("n", load));

    private static Task<long> Pay(CommandContext w, long customer, decimal amount, params (long Invoice, decimal Part)[] parts) =>
        BillingStore.AddPayment(w, customer, w.Today, "check", "1", new AppliedPayment(Money.Usd(amount), parts.Select(p => new Application(p.Invoice, Money.Usd(p.Part))).ToList()));

    [Fact]
    public async Task A_load_is_on_one_invoice_at_a_time()
    {
        long first = 0;
        Assert.Null(await s.Refusal(async w => first = (await Invoice(w, 100, "L1")).Id));
        Assert.Equal("load_on_one_invoice", await s.Refusal(async w =>
        {
            var other = await Invoice(w, 50, "L2");
            await w.Db.Run("insert into invoice_loads (invoice_id, load_id) select @i, id from loads where number = 'L1'", ("i", other.Id));
        }));
        Assert.Null(await s.Refusal(async w =>
        {
            await BillingStore.Void(w, first);
            var other = await Invoice(w, 50, "L3");
            await w.Db.Run("insert into invoice_loads (invoice_id, load_id) select @i, id from loads where number = 'L1'", ("i", other.Id));
        }));
    }

    [Fact]
    public async Task A_payment_is_never_applied_beyond_its_amount_or_the_open_amount()
    {
        long invoice = 0;
        Assert.Null(await s.Refusal(async w => invoice = (await Invoice(w, 100, "P1")).Id));
        Assert.StartsWith("payments_", await s.Refusal(w => Pay(w, s.Customer, 50, (invoice, 60))));
        Assert.StartsWith("invoices_", await s.Refusal(w => Pay(w, s.Customer, 500, (invoice, 100.01m))));
        Assert.Equal("LK003", await s.Refusal(async w =>
        {
            var stranger = await w.Db.One<long>("insert into companies (name, is_customer) values ('Somebody Else', true) returning id");
            await Pay(w, stranger, 50, (invoice, 50));
        }));
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
        long invoice = 0, payment = 0;
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
            var leg = await w.Db.One<long>("insert into legs (load_id, seq, miles, carrier_id, agreed) values (@l, 1, 100, @c, 500) returning id", ("l", await s.Load(w, load)), ("c", s.Carrier));
            await BillStore.Add(w, s.Carrier, new UnbilledLeg(leg, 0, load, s.Carrier, "", "", Money.Usd(500), w.Now), number, w.Today, w.Today, Money.Usd(500), [new BillLine("5000", null, Money.Usd(line), null, null, null)], null);
        }

        Assert.Null(await s.Refusal(w => Bill(w, "A-77", "B1", 500)));
        Assert.Equal("bill_number_once", await s.Refusal(w => Bill(w, "a-77", "B2", 500)));
        Assert.Equal("LK002", await s.Refusal(w => Bill(w, "A-78", "B3", 499.99m)));
    }

    [Fact]
    public async Task A_write_off_settles_the_invoice_without_counting_as_paid()
    {
        long invoice = 0;
        await s.Refusal(async w => invoice = (await Invoice(w, 100, "S1")).Id);
        Task<long> Short(CommandContext w, decimal amount, decimal go) => BillingStore.AddPayment(w, s.Customer, w.Today, "check", "1", new AppliedPayment(Money.Usd(amount), [new Application(invoice, Money.Usd(amount), Money.Usd(go), "lumper")]));
        Assert.StartsWith("invoices_", await s.Refusal(w => Short(w, 90, 10.01m)));
        Assert.Null(await s.Refusal(w => Short(w, 90, 10)));
        await using var look = await s.Begin();
        var row = (await BillingStore.Invoice(look.Db, invoice))!;
        Assert.Equal((Money.Zero(), 90m), (row.Open, await look.Db.One<decimal>("select sum(applied) from payments p join payment_applications a on a.payment_id = p.id where a.invoice_id = @i", ("i", invoice))));
    }

    [Fact]
    public async Task Nothing_is_posted_to_a_closed_month_even_concurrently()
    {
        var day = new NodaTime.LocalDate(2020, 3, 14);
        Task Post(CommandContext w) => w.Db.Run("with e as (insert into entries (posted_on, at, memo, source, source_id) values (@d, @now, 'x', 'opening', 0) returning id) insert into entry_lines (entry_id, seq, account, debit, credit) select id, 1, '1000', 5, 0 from e union all select id, 2, '3000', 0, 5 from e", ("d", day), ("now", w.Now));
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
