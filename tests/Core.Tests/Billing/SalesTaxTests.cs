using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using Xunit;

namespace SteadyLark.Core.Tests.Billing;

public class SalesTaxTests
{
    private static readonly LocalDate Today = new(2026, 11, 24);

    /// <summary>Freight is taxed where it goes, and only when it never leaves Canada.</summary>
    [Theory]
    [InlineData("AB,SK", "SK")]
    [InlineData("AB,BC,ON", "ON")]
    [InlineData("AB,MT", null)]
    [InlineData("MT,AB", null)]
    [InlineData("AB,MT,SK", null)]
    [InlineData("MT,WA", null)]
    [InlineData("AB,", null)]
    [InlineData("AB", null)]
    public void The_province_is_that_of_the_destination(string stops, string? province) =>
        Assert.Equal(province, SalesTax.Province(stops.Split(',').Select(s => s.Length == 0 ? null : s).ToList()));

    /// <summary>Rates as published by the Canada Revenue Agency ("GST/HST calculator (and rates)").</summary>
    [Theory]
    [InlineData("AB", "2026-11-24", 5, "GST 5 %")]
    [InlineData("QC", "2026-11-24", 5, "GST 5 %")]
    [InlineData("ON", "2026-11-24", 13, "HST 13 % (ON)")]
    [InlineData("NB", "2026-11-24", 15, "HST 15 % (NB)")]
    [InlineData("NS", "2025-03-31", 15, "HST 15 % (NS)")]
    [InlineData("NS", "2025-04-01", 14, "HST 14 % (NS)")]
    public void The_rate_is_that_of_the_province_on_the_day(string province, string day, int percent, string name) =>
        Assert.Equal((name, (decimal)percent), SalesTax.Rate(province, NodaTime.Text.LocalDatePattern.Iso.Parse(day).Value));

    [Fact]
    public void An_invoice_has_one_line_for_each_rate_on_the_sum_of_its_charges()
    {
        var taxes = SalesTax.Of(
            [
                ("SK", new Money(1000.05m, Currency.CAD)),
                (null, new Money(700m, Currency.CAD)),
                ("BC", new Money(500m, Currency.CAD)),
                ("ON", new Money(99.96m, Currency.CAD)),
            ],
            Today
        );
        Assert.Equal(
            [("GST 5 %", 1500.05m, 75.00m), ("HST 13 % (ON)", 99.96m, 12.99m)],
            taxes.Select(t => (t.Name, t.On.Amount, t.Amount.Amount))
        );
        Assert.Empty(SalesTax.Of([(null, Money.Usd(900))], Today));

        // Half a cent goes up: 5 % of 0.50 and of 0.30.
        Assert.Equal(0.03m, SalesTax.Of([("AB", new Money(0.50m, Currency.CAD))], Today).Single().Amount.Amount);
        Assert.Equal(0.02m, SalesTax.Of([("AB", new Money(0.30m, Currency.CAD))], Today).Single().Amount.Amount);
    }

    /// <summary>However an invoice is credited and written off in steps, its tax comes to nothing with it, and never below.</summary>
    [Fact]
    public void The_tax_of_all_reductions_is_the_tax_of_the_invoice() =>
        Gen.Select(Gen.Int[1, 500_000], Gen.Int[5, 15], Gen.Double[0.01, 1].List[1, 12])
            .Sample(
                (cents, percent, parts) =>
                {
                    var charges = Money.Usd(cents / 100m);
                    var tax = Money.Usd(Math.Round(charges.Amount * percent / 100m, 2));
                    var total = charges + tax;
                    var (reduced, taxed) = (Money.Zero(), Money.Zero());
                    foreach (var part in parts.Append(1))
                    {
                        var amount = ((total - reduced) * (decimal)part).ToCents();
                        var within = SalesTax.Within(amount, total, tax, (reduced, taxed));
                        Assert.InRange(within.Amount, 0m, amount.Amount);
                        (reduced, taxed) = (reduced + amount, taxed + within);
                        Assert.True(taxed <= tax);
                    }

                    Assert.Equal((total, tax), (reduced, taxed));
                }
            );
}
