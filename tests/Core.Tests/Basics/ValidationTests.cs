using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using Xunit;

namespace SteadyLark.Core.Tests.Basics;

/// <summary>What was typed is looked at before anything is done with it.</summary>
public class ChecksTests
{
    [Theory]
    [InlineData(null, true, "missing")]
    [InlineData("  ", true, "missing")]
    [InlineData(null, false, null)]
    [InlineData("Old Ferry", true, null)]
    [InlineData("Old Ferry Barley", true, "too.long")]
    [InlineData("Old\u0007", true, "bad.character")]
    [InlineData("Old\nFerry", true, null)]
    public void Text_is_trimmed_and_limited(string? text, bool required, string? code)
    {
        var validation = new Validation();
        var read = validation.Text(text, "name", "The name", 12, required);
        Assert.Equal(code, validation.Problems.SingleOrDefault()?.Code);
        Assert.Equal(string.IsNullOrWhiteSpace(text) ? null : text.Trim(), read);
    }

    [Theory]
    [InlineData(null, "missing")]
    [InlineData(0.0, "not.positive")]
    [InlineData(-5.0, "not.positive")]
    [InlineData(1.005, "not.cents")]
    [InlineData(1e9, "too.large")]
    [InlineData(1850.5, null)]
    public void An_amount_is_in_whole_cents_and_within_reason(double? amount, string? code)
    {
        var validation = new Validation();
        validation.Amount((decimal?)amount, "amount", "The amount");
        Assert.Equal(code, validation.Problems.SingleOrDefault()?.Code);
    }

    [Theory]
    [InlineData(2026, null)]
    [InlineData(2016, null)]
    [InlineData(2015, "date.far")]
    [InlineData(2032, "date.far")]
    public void A_typo_in_a_year_is_refused(int year, string? code)
    {
        var validation = new Validation();
        validation.Date(new LocalDate(year, 11, 23), new LocalDate(2026, 11, 23), "on", "The date");
        Assert.Equal(code, validation.Problems.SingleOrDefault()?.Code);
    }

    [Fact]
    public void A_cache_of_any_size_returns_what_was_computed() =>
        Gen.Select(Gen.Int[0, 30].List[0, 200], Gen.Int[1, 12])
            .Sample(
                (asked, max) =>
                {
                    var (found, memory) = (0, new Cache<int, int>(max));
                    Assert.All(asked, k => Assert.Equal(k * k, memory.Get(k, key => (found++, key * key).Item2)));
                    Assert.InRange(found, asked.Distinct().Count(), Math.Max(asked.Count, 1));
                    Assert.True(max < asked.Distinct().Count() || found == asked.Distinct().Count());
                }
            );

    [Theory]
    [InlineData("MT", "MT")]
    [InlineData("Montana, id", "ID,MT")]
    [InlineData("n.d.", "ND")]
    [InlineData("prairies", "AB,MB,SK")]
    [InlineData("Pacific, BC", "BC,CA,OR,WA")]
    [InlineData("nowhere", "")]
    public void A_zone_is_states_and_provinces_by_code_name_or_division(string text, string regions) =>
        Assert.Equal(regions, string.Join(',', Regions.Zone(text)!.Order()));

    [Fact]
    public void Each_state_and_province_of_the_zones_is_in_one_of_them_and_known_by_its_code()
    {
        var all = Regions.Zones.Values.SelectMany(z => z).ToList();
        Assert.Equal(all.Count, all.Distinct().Count());
        Assert.All(all, r => Assert.Equal(r, Regions.Of(r.ToLowerInvariant())));
        Assert.Equal(10, all.Count(r => Regions.Country(r) == "CA"));
        Assert.Null(Regions.Zone(" "));
    }
}
