using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Billing;

/// <summary>GST or HST on an invoice: one line for each rate.</summary>
/// <param name="Name">As printed, such as <c>HST 13 % (ON)</c>.</param>
/// <param name="On">The charges it is computed on.</param>
public sealed record InvoiceTax(string Name, decimal Percent, Money On, Money Amount);

/// <summary>
/// Canada's goods and services tax on freight. Moving freight within Canada is taxed at the rate of the province of its destination (Excise Tax
/// Act, R.S.C. 1985, c. E-15, s. 165 and Schedule IX, Part VI); moving it into or out of Canada, or within the United States, is not
/// (Schedule VI, Part VII: zero-rated). Quebec's own sales tax is another province's tax and not part of this.
/// </summary>
public static class SalesTax
{
    /// <summary>GST, where no province takes part in the harmonized tax (s. 165(1)).</summary>
    private const decimal Gst = 5m;

    /// <summary>Harmonized rates, each from a day on (s. 165(2), Schedule VIII): Ontario 5 and 8; New Brunswick, Newfoundland and Prince Edward
    /// Island 5 and 10; Nova Scotia 5 and 10, from April 1, 2025 5 and 9.</summary>
    private static readonly IReadOnlyList<(string Province, LocalDate From, decimal Percent)> Harmonized =
    [
        ("ON", new LocalDate(2010, 7, 1), 13m),
        ("NB", new LocalDate(2016, 7, 1), 15m),
        ("NL", new LocalDate(2016, 7, 1), 15m),
        ("PE", new LocalDate(2016, 10, 1), 15m),
        ("NS", new LocalDate(2010, 7, 1), 15m),
        ("NS", new LocalDate(2025, 4, 1), 14m),
    ];

    /// <summary>The province whose rate freight is taxed at: of its destination, when all of its stops are in Canada; else null.</summary>
    /// <param name="regions">The states or provinces of its stops, in order.</param>
    public static string? Province(IReadOnlyList<string?> regions) =>
        regions.Count > 1 && regions.All(r => r is not null && Regions.Country(r) == "CA") ? regions[^1] : null;

    /// <summary>The rate in a province on a day, in percent, with its name.</summary>
    public static (string Name, decimal Percent) Rate(string province, LocalDate on) =>
        Harmonized.LastOrDefault(h => h.Province == province && h.From <= on) is { Province: not null } harmonized
            ? ($"HST {harmonized.Percent:0.##} % ({province})", harmonized.Percent)
            : ($"GST {Gst:0.##} %", Gst);

    /// <summary>The tax of an invoice: for each rate, on the sum of what it applies to, rounded to the cent with halves up (s. 165.2(2)).</summary>
    /// <param name="charges">Of each load, its charges with the province from <see cref="Province"/>.</param>
    /// <param name="on">The invoice date.</param>
    /// <returns>None without a taxed load.</returns>
    public static IReadOnlyList<InvoiceTax> Of(IEnumerable<(string? Province, Money Charges)> charges, LocalDate on) =>
        charges
            .Where(c => c.Province is not null)
            .GroupBy(c => Rate(c.Province!, on))
            .OrderBy(g => g.Key.Percent)
            .ThenBy(g => g.Key.Name, StringComparer.Ordinal)
            .Select(g =>
            {
                var sum = Money.Sum(g.Select(c => c.Charges));
                return new InvoiceTax(g.Key.Name, g.Key.Percent, sum, Rounded(sum * (g.Key.Percent / 100m)));
            })
            .Where(t => t.Amount.Amount > 0)
            .ToList();

    /// <summary>The tax within an amount that an invoice is reduced by, which is no longer owed either (s. 232; s. 231 for a bad debt). The
    /// parts of an invoice that is credited in steps add up to its tax.</summary>
    /// <param name="total">Of the invoice, tax included.</param>
    /// <param name="tax">Of the invoice.</param>
    /// <param name="reduced">What it was reduced by before, and the tax within that.</param>
    public static Money Within(Money amount, Money total, Money tax, (Money Amount, Money Tax) reduced)
    {
        if (tax.Amount == 0 || total.Amount == 0)
        {
            return Money.Zero(amount.Currency);
        }

        var upTo = Rounded(Money.Min(amount + reduced.Amount, total) * (tax.Amount / total.Amount)) - reduced.Tax;
        return Money.Min(upTo.Amount > 0 ? upTo : Money.Zero(amount.Currency), amount);
    }

    private static Money Rounded(Money amount) => amount with { Amount = Math.Round(amount.Amount, 2, MidpointRounding.AwayFromZero) };
}
