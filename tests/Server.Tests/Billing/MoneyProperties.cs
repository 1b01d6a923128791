using SteadyLark.Core.People;
using Xunit;
using Xunit.Abstractions;

namespace SteadyLark.Server.Tests.Billing;

/// <summary>
/// Whatever is billed, paid, overpaid, taken back and voided, in whatever order and also at once: each account of the ledger agrees with
/// the documents behind it after every step, and nothing is ever paid twice.
/// </summary>
public class MoneyProperties(TestBusiness business, ITestOutputHelper summary) : IClassFixture<TestBusiness>
{
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public async Task The_ledger_agrees_with_the_documents_after_every_step(int seed)
    {
        var lot = new Random(seed);
        var owner = await business.As(Role.Owner);
        var loads = new List<long>();
        for (var i = 0; i < 4; i++)
        {
            loads.Add(await business.Delivered(owner, (i % 3) - 1, "carrier"));
        }

        var (invoices, payments, bills) = (new List<long>(), new List<long>(), new List<long>());
        var taken = new SortedDictionary<string, int>();
        for (var step = 0; step < 45; step++)
        {
            var amount = Math.Round((decimal)(lot.NextDouble() * 2500) + 0.01m, 2);
            var what = lot.Next(9);
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
                            reference = $"{seed}-{step}",
                            amount = TestBusiness.Usd(amount),
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
                            amount = TestBusiness.Usd(amount),
                        }
                    ),
                ],
                6 =>
                [
                    await owner.Pay(
                        $"bills/{One(bills)}/approve",
                        new { amount = TestBusiness.Usd(amount), reason = "as agreed on the phone" }
                    ),
                ],
                7 => [await owner.Pay($"bills/{One(bills)}/{(lot.Next(3) == 0 ? "void" : "pay")}", new { method = "ach" })],
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
                                    amount = TestBusiness.Usd(amount),
                                    applications = new[] { new { invoiceId = One(invoices), amount = TestBusiness.Usd(amount) } },
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
                        1 or 2 or 8 => payments,
                        5 => bills,
                        _ => [],
                    };
                    kept.Add(answer.Id);
                    taken[$"{what}"] = taken.GetValueOrDefault($"{what}") + 1;
                }
            }

            await using var db = await business.Db.Source.OpenConnectionAsync();
            Assert.Empty(await TestBusiness.Disagreements(db));
        }

        summary.WriteLine(string.Join(", ", taken.Select(t => $"{t.Key}: {t.Value}")));
        Assert.True(taken.Count >= 5, "too few kinds of steps were taken to tell anything");

        long One(List<long> from) => from.Count == 0 ? 987_654 : from[lot.Next(from.Count)];
        List<long> Some(List<long> from, int count) => from.OrderBy(_ => lot.Next()).Take(count).ToList();
        async Task<long> Leg(long load) => (await owner.Get($"loads/{load}")).Ok["sheet"]!["legs"]!.AsArray()[0]!["id"]!.GetValue<long>();
    }
}
