using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using Xunit;

namespace SteadyLark.Store.Tests.Billing;

public class MoneyPromises(Stocked s) : IClassFixture<Stocked>
{
    private async Task<(long Id, string Number)> Invoice(Work w, decimal total, string load) =>
        await BillingStore.AddInvoice(
            w,
            new InvoiceDraft(s.Customer, w.Today, w.Today.PlusDays(30), Money.Usd(total), [new InvoiceLine(await s.Load(w, load), await Charge(w, load), "Line haul", Money.Usd(total), null!)]), null);

    private static Task<long> Charge(Work w, string load) =>
        w.Db.One<long>("insert into charges (load_id, seq, kind, amount) select id, 1, 'line_haul', 1 from loads where number = @n returning id", ("n", load));

    private static Task<long> Pay(Work w, long customer, decimal amount, params (long Invoice, decimal Part)[] parts) =>
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
    public async Task A_payment_is_never_applied_beyond_what_it_is_or_what_is_open()
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
    public async Task A_payment_taken_back_opens_its_invoices_again()
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
    public async Task A_carriers_number_counts_once_whatever_its_case()
    {
        async Task Bill(Work w, string number, string load)
        {
            var leg = await w.Db.One<long>("insert into legs (load_id, seq, miles, carrier_id, agreed) values (@l, 1, 100, @c, 500) returning id", ("l", await s.Load(w, load)), ("c", s.Carrier));
            await w.Db.Run(
                "insert into bills (carrier_id, number, leg_id, billed_on, due_on, amount, agreed, entered_at) values (@c, @n, @leg, @d, @d, 500, 500, @now)",
                ("c", s.Carrier), ("n", number), ("leg", leg), ("d", w.Today), ("now", w.Now));
        }

        Assert.Null(await s.Refusal(w => Bill(w, "A-77", "B1")));
        Assert.Equal("bill_number_once", await s.Refusal(w => Bill(w, "a-77", "B2")));
    }
}
