using System.Net;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Paying;

/// <summary>Vendors paid in batches and in parts, early and late, and to whom: the books held against the documents after each.</summary>
public sealed class VendorPayments(TestBusiness business) : IClassFixture<TestBusiness>
{
    private int _day;

    private async Task<Dictionary<string, decimal>> Books(Caller owner)
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));
        return await Balances(owner);
    }

    private async Task<(long Bill, long Load)> CarrierBill(Caller owner, string number, decimal amount = 700m, object? approval = null)
    {
        var load = await business.Delivered(owner, -20 + _day++, "carrier");
        var leg = (await owner.Get($"loads/{load}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number,
                    amount = Usd(amount),
                }
            )
        ).Id;
        _ = (await owner.Pay($"bills/{bill}/approve", approval ?? new { })).Ok;
        return (bill, load);
    }

    private static object Pay(string method, string? reference, params (long Bill, decimal? Amount)[] bills) =>
        new
        {
            bills = bills.Select(b => new { billId = b.Bill, amount = b.Amount is { } a ? Usd(a) : null }),
            method,
            reference,
            paidOn = "2026-11-23",
        };

    [Fact]
    public async Task One_check_pays_several_bills_another_is_paid_in_parts_and_a_reversal_opens_them_again()
    {
        var owner = await business.As(Role.Owner);
        var before = await Books(owner);
        var (first, load) = await CarrierBill(owner, "P-1");
        var (second, _) = await CarrierBill(owner, "P-2");
        var batch = (await owner.Pay("vendor-payments", Pay("check", "1041", (first, null), (second, 250m)))).Ok;
        var payment = batch["payments"]!.AsArray().Single()!;
        Assert.Equal(("1041", 950m), (payment["reference"]!.GetValue<string>(), Amount(payment["amount"])));
        Assert.Equal([-450m, -950m], Changes(before, await Books(owner), "2000", "1000"));
        var view = (await owner.Get($"bills/{second}")).Ok["bill"]!;
        Assert.Equal((250m, null), (Amount(view["paid"]), view["paidOn"]));
        Assert.Equal("bill.state", (await owner.Pay($"bills/{second}/unapprove")).Code);
        Assert.Equal("over.open", (await owner.Pay("vendor-payments", Pay("ach", null, (second, 450.01m)))).Code);
        var open = (await owner.Get("bills")).Ok["rows"]!.AsArray().Select(b => b!["id"]!.GetValue<long>());
        Assert.Contains(second, open);
        Assert.DoesNotContain(first, open);
        _ = (await owner.PayBills("ach", second)).Ok;
        Assert.Equal(
            ("2026-11-23", 2),
            (
                (await owner.Get($"bills/{second}")).Ok["bill"]!["paidOn"]!.GetValue<string>(),
                (await owner.Get($"bills/{second}")).Ok["payments"]!.AsArray().Count
            )
        );

        // The check comes back: both bills of it are open again, the later payment stands.
        _ = (await owner.Pay($"vendor-payments/{payment["id"]}/reverse")).Ok;
        Assert.Equal("payment.reversed", (await owner.Pay($"vendor-payments/{payment["id"]}/reverse")).Code);
        Assert.Equal([-950m, -450m], Changes(before, await Books(owner), "2000", "1000"));
        Assert.Equal(450m, Amount((await owner.Get($"bills/{second}")).Ok["bill"]!["paid"]));
        var told = (await owner.Get($"loads/{load}")).Ok.ToJsonString();
        Assert.Contains("Bill P-1 from Two Forks Trucking paid, $700.00 by check", told, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Quick_pay_is_due_at_once_less_the_discount_and_pay_when_paid_waits_for_the_customer()
    {
        var owner = await business.As(Role.Owner);
        async Task Terms(decimal? percent, bool whenPaid)
        {
            var now = (await owner.Get($"companies/{business.Ids["carrier"]}")).Ok["company"]!;
            _ = (
                await owner.Put(
                    $"companies/{business.Ids["carrier"]}",
                    new
                    {
                        name = now["name"]!.GetValue<string>(),
                        email = now["email"]!.GetValue<string>(),
                        isCustomer = false,
                        isCarrier = true,
                        version = now["version"]!.GetValue<int>(),
                        carrier = new
                        {
                            usdot = now["carrier"]!["usdot"]?.GetValue<string>(),
                            authorityActive = now["carrier"]!["authorityActive"]!.GetValue<bool>(),
                            liabilityUntil = now["carrier"]!["liabilityUntil"]?.GetValue<string>(),
                            cargoUntil = now["carrier"]!["cargoUntil"]?.GetValue<string>(),
                        },
                        quickPayPercent = percent,
                        quickPayDays = 2,
                        payWhenPaid = whenPaid,
                    }
                )
            ).Ok;
        }

        var before = await Books(owner);
        var (refused, _) = await CarrierBill(owner, "Q-0");
        _ = (await owner.Pay($"bills/{refused}/unapprove")).Ok;
        Assert.Equal("quick.pay", (await owner.Pay($"bills/{refused}/approve", new { quickPay = true })).Code);
        await Terms(3m, false);
        Assert.Equal(21m, Amount((await owner.Get($"bills/{refused}")).Ok["quickPay"]!["discount"]));
        _ = (await owner.Pay($"bills/{refused}/approve", new { quickPay = true })).Ok;
        Assert.Equal("2026-11-25", (await owner.Get($"bills/{refused}")).Ok["bill"]!["dueOn"]!.GetValue<string>());
        _ = (await owner.PayBills("ach", refused)).Ok;
        Assert.Equal([700m, -21m, -679m], Changes(before, await Books(owner), "5000", "5010", "1000"));

        await Terms(null, true);
        var (waits, load) = await CarrierBill(owner, "Q-1");
        var held = await owner.PayBills("ach", waits);
        Assert.Equal("pay.when.paid", held.Code);
        Assert.Contains(
            "the customer has not paid",
            (await owner.Get($"bills/{waits}")).Ok["hold"]!.GetValue<string>(),
            StringComparison.Ordinal
        );
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
        var total = Amount(invoice["total"]);
        _ = (
            await owner.Pay(
                "payments",
                new
                {
                    customerId = business.Ids["customer"],
                    receivedOn = "2026-11-23",
                    amount = Usd(total),
                    method = "check",
                    applications = new[] { new { invoiceId = invoice["id"]!.GetValue<long>(), amount = Usd(total) } },
                }
            )
        ).Ok;
        _ = (await owner.PayBills("ach", waits)).Ok;
        await Terms(null, false);
        _ = await Books(owner);
    }

    [Fact]
    public async Task A_factor_is_paid_once_another_person_has_called_the_carrier_back()
    {
        var owner = await business.As(Role.Owner);
        var clerk = await business.As(Role.Bookkeeper);
        var carrier = business.Ids["carrier"];
        var (bill, _) = await CarrierBill(owner, "F-1");
        object change = new
        {
            factor = "Larkspur Receivables",
            address = "PO Box 12, Helena MT",
            routing = "990001009",
            account = "4417001",
            type = "checking",
            notice = "letter of November 2",
        };
        try
        {
            _ = (await owner.Put("company-settings", new { twoPeople = true })).Ok;
            var proposed = (await clerk.Post($"companies/{carrier}/remit-to", change)).Ok[0]!;
            Assert.Equal("checking ending in 7001", proposed["bank"]!.GetValue<string>());
            Assert.DoesNotContain("4417001", proposed.ToJsonString(), StringComparison.Ordinal);
            var id = proposed["id"]!.GetValue<long>();
            Assert.Equal("pay.remit.to", (await clerk.PayBills("ach", bill)).Code);
            Assert.Equal("remit.same.person", (await clerk.Post($"remit-tos/{id}/confirm", new { callBack = "Lena" })).Code);
            Assert.Equal(["callBack"], (await owner.Post($"remit-tos/{id}/confirm", new { callBack = " " })).Fields);
            _ = (await owner.Post($"remit-tos/{id}/confirm", new { callBack = "Lena at 406-555-0144, as on the packet" })).Ok;
            Assert.Equal("remit.state", (await owner.Post($"remit-tos/{id}/decline")).Code);
        }
        finally
        {
            _ = (await owner.Put("company-settings", new { twoPeople = false })).Ok;
        }

        var batch = (await owner.PayBills("ach", bill)).Ok;
        Assert.Equal("Larkspur Receivables", batch["payments"]![0]!["payee"]!.GetValue<string>());

        // The ACH file needs our own account, too.
        var refused = await owner.Get($"payment-batches/{batch["id"]}/ach");
        Assert.Equal("ach.ours", refused.Code);
        _ = (
            await owner.Put(
                "company/payment-details",
                new
                {
                    remitAddress = "PO Box 8, Missoula MT",
                    taxId = "99-0000001",
                    bankName = "Tamarack Bend Savings",
                    routing = "990001009",
                    account = "100200300",
                }
            )
        ).Ok;
        var file = await owner.Http.GetStringAsync($"/api/payment-batches/{batch["id"]}/ach");
        Assert.Contains("0000070000", file, StringComparison.Ordinal);
        Assert.Contains("LARKSPUR RECEIVABLES", file, StringComparison.Ordinal);
        var dispatcher = await business.As(Role.Dispatcher);
        Assert.Equal(HttpStatusCode.Forbidden, (await dispatcher.Get($"payment-batches/{batch["id"]}/ach")).Status);
        Assert.Equal(HttpStatusCode.Forbidden, (await dispatcher.Get($"companies/{carrier}/remit-to")).Status);
    }

    [Fact]
    public async Task The_database_refuses_what_no_command_would_do()
    {
        var owner = await business.As(Role.Owner);
        var (bill, _) = await CarrierBill(owner, "D-1");
        var payment = (await owner.Pay("vendor-payments", Pay("ach", null, (bill, 100m)))).Ok["payments"]![0]!["id"]!.GetValue<long>();
        await using var db = await business.Db.Source.OpenConnectionAsync();
        foreach (
            var sql in new[]
            {
                $"update bill_payments set amount = 50 where payment_id = {payment}",
                $"delete from bill_payments where payment_id = {payment}",
                $"update vendor_payments set amount = 50 where id = {payment}",
                $"update bills set paid = approved + 1 where id = {bill}",
                $"update bills set paid_on = '2026-11-23' where id = {bill}",
            }
        )
        {
            await Assert.ThrowsAsync<PostgresException>(() => db.Run(sql));
        }
    }

    /// <summary>The payee learns which bills are paid; a factor instead of the carrier, when its receivables are assigned.</summary>
    [Fact]
    public async Task Each_payee_is_emailed_what_a_payment_pays_and_told_when_it_is_reversed()
    {
        // A carrier of its own: others' remit-tos were changed.
        var owner = await business.As(Role.Owner);
        await business.AddCarrier("advised", "Clearwater Basin Carriers", "9000111");
        (business.Ids["carrier"], var others) = (business.Ids["advised"], business.Ids["carrier"]);
        var (first, _) = await CarrierBill(owner, "A-1");
        var (second, _) = await CarrierBill(owner, "A-2", 740m, new { amount = Usd(700m) });
        var paid = (await owner.Pay("vendor-payments", Pay("check", "2041", (first, 300m), (second, null)))).Ok["payments"]![0]!;
        Assert.Equal("mail@clearwaterbasincarriers.example", paid["adviceTo"]!.GetValue<string>());
        var text = await Newest();
        Assert.Contains("We paid $1,000.00 by check 2041", text, StringComparison.Ordinal);
        Assert.Contains("  billed: $700.00\n  to be paid later: -$400.00\n  paid now: $300.00", text, StringComparison.Ordinal);
        Assert.Contains("  billed: $740.00\n  not approved: -$40.00\n  paid now: $700.00", text, StringComparison.Ordinal);
        Assert.Contains(
            "paid Nov 23 by check 2041: -$300.00\n  paid now: $400.00",
            await Advised(owner, "ach", first),
            StringComparison.Ordinal
        );

        // Not sent yet, it is stopped; once it was sent, the payee is told.
        _ = (await owner.ReversePayment(first)).Ok;
        Assert.DoesNotContain("was reversed", await Newest(), StringComparison.Ordinal);
        await using (var db = await business.Db.Source.OpenConnectionAsync())
        {
            await db.Run("update emails set sent_at = now() where purpose = 'remittance_advice' and held_back_at is null");
        }

        _ = (await owner.Pay($"vendor-payments/{paid["id"]}/reverse")).Ok;
        Assert.Contains(
            "Our payment of $1,000.00 on Mon Nov 23, 2026, which we advised, was reversed",
            await Newest(),
            StringComparison.Ordinal
        );

        var factored = await owner.Post(
            $"companies/{business.Ids["carrier"]}/remit-to",
            new
            {
                factor = "Larkspur Receivables",
                notice = "Nov 2 letter",
                email = "remit@larkspur.example",
            }
        );
        _ = (
            await owner.Post(
                $"remit-tos/{factored.Ok.AsArray().First(r => r!["state"]!.GetValue<string>() == "proposed")!["id"]}/confirm",
                new { callBack = "Jo Ferro at 406-555-0169" }
            )
        ).Ok;
        Assert.StartsWith("Larkspur Receivables,", await Advised(owner, "ach", second), StringComparison.Ordinal);

        // Who asks for none gets none.
        var none = (
            await owner.Pay(
                "vendor-payments",
                new
                {
                    bills = new[] { new { billId = first } },
                    method = "wire",
                    advise = false,
                }
            )
        ).Ok;
        Assert.Null(none["payments"]![0]!["adviceTo"]);
        business.Ids["carrier"] = others;

        async Task<string> Advised(Caller by, string method, long bill)
        {
            _ = (await by.Pay("vendor-payments", Pay(method, null, (bill, null)))).Ok;
            return await Newest();
        }
    }

    private async Task<string> Newest()
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var eml = (
            await db.Rows("select eml from emails where purpose = 'remittance_advice' order by id desc limit 1", r =>
                (byte[])r.GetValue(r.GetOrdinal("eml"))
            )
        )[0];
        return Formats.Mail.Eml.Read(eml).Text.ReplaceLineEndings("\n");
    }
}
