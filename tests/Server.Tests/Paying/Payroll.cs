using SteadyLark.Core.People;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Paying;

/// <summary>What payroll gets: gross, deductions and net before tax, by kind of worker.</summary>
public sealed class Payroll(TestBusiness business) : IClassFixture<TestBusiness>
{
    [Fact]
    public async Task Employees_keep_the_minimum_wage_tax_is_accrued_and_the_week_is_exported()
    {
        var owner = await business.As(Role.Owner);
        var (lena, moses) = (business.Ids["lena"], business.Ids["moses"]);
        _ = (await owner.Put("company-settings", new { payrollTaxPercent = 10, minimumWage = 12 })).Ok;
        Assert.Equal(["payrollTaxPercent"], (await owner.Put("company-settings", new { payrollTaxPercent = 41 })).Fields);
        var was = (await owner.Get("fleet")).Ok["drivers"]!.AsArray().Single(d => d!["id"]!.GetValue<long>() == moses)!;
        Assert.Equal("employee", was["worker"]!.GetValue<string>());
        _ = (await owner.Put($"drivers/{moses}", new { name = was["name"]!.GetValue<string>(), worker = "owner_operator" })).Ok;
        foreach (var driver in new[] { lena, moses })
        {
            _ = (
                await owner.Post(
                    $"drivers/{driver}/rates",
                    new
                    {
                        kind = "per_hour",
                        rate = 20,
                        from = "2026-11-01",
                    }
                )
            ).Ok;
            foreach (
                var item in new object[]
                {
                    new
                    {
                        driverId = driver,
                        kind = "hours",
                        on = "2026-11-10",
                        what = "yard",
                        hours = 10,
                    },
                    new
                    {
                        driverId = driver,
                        kind = "deduction",
                        on = "2026-11-10",
                        what = "damaged mirror",
                        amount = Usd(150m),
                    },
                }
            )
            {
                _ = (await owner.Pay("pay-items", item)).Ok;
            }
        }

        var before = await Balances(owner);
        var (employee, leased) = (
            (await owner.Pay("settlements/approve", new { driverId = lena, monday = "2026-11-09" })).Ok,
            (await owner.Pay("settlements/approve", new { driverId = moses, monday = "2026-11-09" })).Ok
        );

        // $200 of wages, of which 10 hours at $12 stay; the owner-operator's deduction is taken in full.
        Assert.Equal((120m, 70m, 20m), (Amount(employee["net"]), Amount(employee["carriedOver"]), Amount(employee["employerTax"])));
        Assert.Equal((50m, 0m, 0m), (Amount(leased["net"]), Amount(leased["carriedOver"]), Amount(leased["employerTax"])));
        Assert.Equal([200m, 200m, 20m, -20m, 70m], Changes(before, await Balances(owner), "5100", "5020", "5130", "2210", "1300"));
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));

        var rows = (await owner.Http.GetStringAsync("/api/payroll?monday=2026-11-11"))
            .TrimStart('\uFEFF')
            .Split("\r\n")
            .Select(r => r.Split(','))
            .ToList();
        string Cell(string driver, string title) =>
            rows.Single(r => r[0].Contains(driver, StringComparison.Ordinal))[Array.IndexOf(rows[0], title)];
        Assert.Equal(
            ("200.00", "150.00", "120.00", "20.00"),
            (Cell("Lena", "Wages"), Cell("Lena", "Deductions 2200"), Cell("Lena", "Net before tax"), Cell("Lena", "Employer tax"))
        );
        Assert.Equal(("owner-operator", "50.00"), (Cell("Moses", "Worker"), Cell("Moses", "Net before tax")));

        // Taken back, nothing stays.
        _ = (await owner.Pay($"settlements/{employee["id"]}/unapprove")).Ok;
        Assert.Equal([0m, 0m, 0m], Changes(before, await Balances(owner), "5100", "5130", "2210"));
    }
}
