using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;
using Xunit.Abstractions;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Billing;

/// <summary>
/// Whatever is billed, paid, overpaid, taken back and voided, on whatever date, in whatever order and also at once, while months are closed
/// and reopened: each open item agrees with its document after every step, on no day is less than nothing open, and nothing is ever paid
/// twice.
/// </summary>
public class MoneyProperties(TestBusiness business, ITestOutputHelper summary) : IClassFixture<TestBusiness>
{
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4, true)]
    [InlineData(5, true)]
    public async Task The_ledger_agrees_with_the_documents_after_every_step(int seed, bool canadian = false)
    {
        business.TradeInUsd();
        if (canadian)
        {
            await business.TradeInCanadian(seed);
        }

        var lot = new Random(seed);
        var owner = await business.As(Role.Owner);
        var loads = new List<long>();
        for (var i = 0; i < 4; i++)
        {
            // The carrier of the first is replaced on the way by one that is paid in US dollars. Of Canadians, the second and third are hauled
            // within Canada: they are taxed.
            loads.Add(
                await business.Delivered(
                    owner,
                    (i % 3) - 27,
                    "carrier",
                    more: canadian && i is 1 or 2 ? business.WithinCanada : null,
                    underway: i == 0 ? Replaced : null
                )
            );
        }

        async Task Replaced(long load)
        {
            if (!business.Ids.ContainsKey("second"))
            {
                await business.AddCarrier("second", "Clearwater Basin Carriers", "9000111");
            }

            _ = (
                await owner.Post(
                    $"loads/{load}/handover",
                    new
                    {
                        placeId = business.Ids["handover"],
                        at = "2026-10-22T20:00:00Z",
                        payBefore = lot.Next(2) == 0 ? business.Dollars(seed % 2 * 233.33m) : null,
                        carrier = Accepted(business.Ids["second"], Usd(412.07m)),
                    }
                )
            ).Ok;
        }

        var (invoices, payments, bills) = (new List<long>(), new List<long>(), new List<long>());
        var taken = new SortedDictionary<string, int>();
        for (var step = 0; step < 45; step++)
        {
            var amount = Math.Round((decimal)(lot.NextDouble() * 2500) + 0.01m, 2);
            var on = $"{new LocalDate(2026, 11, 23).PlusDays(-lot.Next(50)):uuuu-MM-dd}";
            var what = lot.Next(17);
            Answer[] answers = what switch
            {
                0 => [await owner.Pay("invoices", new { loadIds = Some(loads, 1 + lot.Next(2)) })],
                1 or 2 =>
                [
                    await owner.Pay(
                        "payments",
                        new
                        {
                            customerId = business.Ids["customer"],
                            method = "check",
                            receivedOn = on,
                            reference = $"{seed}-{step}",
                            amount = business.Dollars(amount),
                        }
                    ),
                ],
                3 => [await owner.Pay($"payments/{One(payments)}/reverse")],
                4 => [await owner.Pay($"invoices/{One(invoices)}/void")],
                5 =>
                [
                    await owner.Pay(
                        "bills",
                        new
                        {
                            legId = await Leg(One(loads)),
                            number = $"{seed}-{step}",
                            billedOn = on,
                            amount = business.Dollars(amount),
                        }
                    ),
                ],
                6 =>
                [
                    await owner.Pay(
                        $"bills/{One(bills)}/approve",
                        new { amount = business.Dollars(amount), reason = "as agreed on the phone" }
                    ),
                ],
                7 when lot.Next(3) == 0 => [await owner.Pay($"bills/{One(bills)}/void")],
                // In part or whole, two bills of one vendor at a time, or the last payment back.
                7 when lot.Next(4) == 0 && bills.Count > 0 => [await owner.ReversePayment(One(bills))],
                7 =>
                [
                    await owner.Pay(
                        "vendor-payments",
                        new
                        {
                            bills = new[] { One(bills), One(bills) }
                                .Distinct()
                                .Select(b => new { billId = b, amount = lot.Next(2) == 0 ? null : business.Dollars(amount / 2) }),
                            method = "wire",
                            paidOn = on,
                        }
                    ),
                ],
                9 => [await owner.Post("ledger/periods/close", new { month = "2026-10-01" })],
                10 => [await owner.Post("ledger/periods/reopen", new { month = "2026-10-01", why = "a late bill" })],
                11 =>
                [
                    await owner.Pay(
                        $"invoices/{One(invoices)}/write-off",
                        new
                        {
                            amount = business.Dollars(Math.Round(amount / 9, 2) + 0.01m),
                            kind = "claim",
                            reason = "short",
                        }
                    ),
                ],
                12 =>
                [
                    await owner.Pay(
                        $"payments/{One(payments)}/refund",
                        new
                        {
                            amount = business.Dollars(Math.Round(amount / 9, 2) + 0.01m),
                            method = "ach",
                            paidOn = on,
                            reason = "paid twice",
                        }
                    ),
                ],
                13 =>
                [
                    await owner.Pay(
                        $"invoices/{One(invoices)}/credit-memos",
                        new
                        {
                            amount = business.Dollars(Math.Round(amount / 5, 2) + 0.01m),
                            reason = lot.Next(2) == 0 ? "concession" : "claim",
                            why = "short",
                            issuedOn = on,
                        }
                    ),
                ],
                14 =>
                [
                    await owner.Pay(
                        $"bills/{One(bills)}/debit-memos",
                        new { amount = business.Dollars(Math.Round(amount / 9, 2) + 0.01m), why = "missed pickup" }
                    ),
                ],
                15 =>
                [
                    await owner.Pay(
                        $"loads/{One(loads)}/late-charges",
                        new { charges = new[] { new { kind = "detention", amount = business.Dollars(75m) } } }
                    ),
                ],
                // What another system had open: an invoice, a bill and a credit.
                16 =>
                [
                    await owner.Pay(
                        "ledger/opening",
                        new
                        {
                            on,
                            items = new[] { ("invoice", "customer"), ("bill", "carrier"), ("credit", "customer") }.Select(i => new
                            {
                                kind = i.Item1,
                                partyId = business.Ids[i.Item2],
                                number = $"O-{seed}-{step}",
                                on,
                                dueOn = "2026-12-15",
                                amount = business.Dollars(amount),
                            }),
                        }
                    ),
                ],
                // The same invoice paid by three at once, whole.
                _ => await Task.WhenAll(
                    Enumerable
                        .Range(0, 3)
                        .Select(_ =>
                            owner.Pay(
                                "payments",
                                new
                                {
                                    customerId = business.Ids["customer"],
                                    method = "ach",
                                    amount = business.Dollars(amount),
                                    applications = new[] { new { invoiceId = One(invoices), amount = business.Dollars(amount) } },
                                }
                            )
                        )
                ),
            };
            foreach (var answer in answers)
            {
                Assert.True((int)answer.Status < 500, answer.Body?.ToJsonString());
                if ((int)answer.Status < 300)
                {
                    var kept = what switch
                    {
                        0 => invoices,
                        1 or 2 or 8 or 13 => payments,
                        5 => bills,
                        _ => [],
                    };
                    if (what < 9 || what == 13)
                    {
                        kept.Add(answer.Id);
                    }
                    else if (what == 16)
                    {
                        invoices.Add(await Opened("invoices", step));
                        bills.Add(await Opened("bills", step));
                    }

                    taken[$"{what}"] = taken.GetValueOrDefault($"{what}") + 1;
                }
            }

            await using var db = await business.Db.Source.OpenConnectionAsync();
            Assert.Empty(await TestBusiness.Disagreements(db));
        }

        await OfEveryDay(owner);
        summary.WriteLine(string.Join(", ", taken.Select(t => $"{t.Key}: {t.Value}")));
        Assert.True(taken.Count >= 5, "too few kinds of steps were taken to tell anything");

        _ = await owner.Post("ledger/periods/reopen", new { month = "2026-10-01", why = "for the next" });

        async Task<long> Opened(string table, int step)
        {
            await using var db = await business.Db.Source.OpenConnectionAsync();
            return await db.One<long>($"select id from {table} where number = @number", ("number", $"O-{seed}-{step}"));
        }

        long One(List<long> from) => from.Count == 0 ? 987_654 : from[lot.Next(from.Count)];
        List<long> Some(List<long> from, int count) => from.OrderBy(_ => lot.Next()).Take(count).ToList();
        async Task<long> Leg(long load) => (await owner.Get($"loads/{load}")).Ok["sheet"]!["legs"]!.AsArray()[0]!["id"]!.GetValue<long>();
    }

    /// <summary>The aging and the customer's statement of each day equal the accounts of that day.</summary>
    private async Task OfEveryDay(Caller owner)
    {
        for (var day = new LocalDate(2026, 10, 1); day <= new LocalDate(2026, 11, 23); day = day.PlusDays(4))
        {
            var balances = await Balances(owner, $"{day:uuuu-MM-dd}");
            var aging = (await owner.Get($"ledger/aging?on={day:uuuu-MM-dd}")).Ok;
            Assert.Equal(balances["1200"], aging["receivables"]!.AsArray().Sum(r => Amount(r!["total"])));
            Assert.Equal(-balances["2000"], aging["payables"]!.AsArray().Sum(r => Amount(r!["total"])));
            // In the customer’s own currency.
            var (due, credit) = (await Booked("1200", day), await Booked("2300", day));
            var statement = (await owner.Get($"companies/{business.Ids["customer"]}/statement?from=2026-09-01&until={day:uuuu-MM-dd}")).Ok;
            Assert.Equal(due + credit, Amount(statement["owed"]));
            Assert.Equal(due, statement["open"]!.AsArray().Sum(i => Amount(i!["open"])));
            Assert.Equal(-credit, Amount(statement["credit"]));
            Assert.Equal(business.Currency.ToString(), statement["owed"]!["currency"]!.GetValue<string>());
        }
    }

    private async Task<decimal> Booked(string account, LocalDate day)
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        return await db.One<decimal>(
            """
            select coalesce(sum(coalesce(l.in_currency, l.debit - l.credit)), 0) from entry_lines l join entries e on e.id = l.entry_id
            where l.account = @account and l.customer_id = @customer and e.posted_on <= @day
            """,
            ("account", account),
            ("customer", business.Ids["customer"]),
            ("day", day)
        );
    }
}
