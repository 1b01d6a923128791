using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Pricing;

public class ClassRatesTests
{
    /// <summary>Classes 50 and 100 up to 500 and 1,000 miles, with breaks at 500 and 1,000 lb.</summary>
    private static readonly ClassRates Table = new(
        7,
        "Midwest",
        Currency.USD,
        0,
        null,
        12.5m,
        [0, 500, 1_000],
        [new(500, 50, [20m, 18m, 12m]), new(500, 100, [40m, 36m, 30m]), new(1_000, 50, [28m, 25m, 17m]), new(1_000, 100, [56m, 50m, 42m])]
    );

    private static ClassFreight Line(decimal? freightClass, int? weightLb, int number = 1) =>
        new($"Freight line {number}", freightClass, weightLb);

    [Theory]
    // 400 lb of class 100 at 40.00 a hundredweight.
    [InlineData(300, 100, 400, 160.00, 0)]
    // A weight break begins at its pounds.
    [InlineData(300, 100, 500, 180.00, 500)]
    [InlineData(300, 100, 1_000, 300.00, 1_000)]
    // 900 lb at 36.00 are 324.00; charged as 1,000 lb at 30.00 they are 300.00.
    [InlineData(300, 100, 900, 300.00, 1_000)]
    // 800 lb at 36.00 are 288.00: less than 300.00.
    [InlineData(300, 100, 800, 288.00, 500)]
    // A distance reaches to its last mile.
    [InlineData(500, 50, 400, 80.00, 0)]
    [InlineData(501, 50, 400, 112.00, 0)]
    public void Freight_is_rated_by_class_weight_and_miles(int miles, int freightClass, int pounds, double gross, int from)
    {
        var rated = Table.Rate(miles, [Line(freightClass, pounds)]).Value;
        Assert.Equal(((decimal)gross, from), (rated.Gross, rated.FromLb));
        Assert.Equal(rated.Gross, rated.Net);
    }

    [Fact]
    public void Missing_pounds_are_charged_at_the_lowest_rate_of_the_classes_on_the_load()
    {
        // 500 lb at 18.00 and 400 at 36.00 are 234.00. As 1,000 lb: 60.00, 120.00 and 100 lb of deficit weight at 12.00.
        var rated = Table.Rate(300, [Line(50, 500), Line(100, 400, 2)]).Value;
        Assert.Equal((192.00m, 1_000), (rated.Gross, rated.ChargedLb));
        Assert.Equal("class 50: 500 lb at 12.00; class 100: 400 lb at 30.00; deficit weight, class 50: 100 lb at 12.00", rated.Described);
    }

    [Fact]
    public void The_discount_comes_first_and_the_minimum_after_it()
    {
        var terms = Table with { DiscountPercent = 62, Minimum = 145 };
        var large = terms.Rate(800, [Line(100, 4_000)]).Value;
        Assert.Equal((1_680.00m, 638.40m), (large.Gross, large.Net));
        Assert.EndsWith("62 % discount", large.Described, StringComparison.Ordinal);

        var small = terms.Rate(800, [Line(100, 300)]).Value;
        Assert.Equal((168.00m, 145m), (small.Gross, small.Net));
        Assert.EndsWith("62 % discount; minimum charge 145.00", small.Described, StringComparison.Ordinal);

        // A load may have its own terms.
        Assert.Equal(84.00m, terms.Rate(800, [Line(100, 300)], discount: 50, minimum: 60).Value.Net);
    }

    [Fact]
    public void What_cannot_be_rated_says_what_is_missing()
    {
        string Refused(int? miles, decimal? discount, params ClassFreight[] freight) =>
            Table.Rate(miles, freight, discount).Problems[0].Message;
        Assert.Contains("miles are unknown", Refused(null, null, Line(50, 100)), StringComparison.Ordinal);
        Assert.Contains(
            "freight line 2 has no freight class",
            Refused(300, null, Line(50, 100), Line(null, 100, 2)),
            StringComparison.Ordinal
        );
        Assert.Contains("weight of freight line 1", Refused(300, null, Line(50, null)), StringComparison.Ordinal);
        Assert.Contains("no rate for class 77.5 up to 500 miles", Refused(300, null, Line(77.5m, 100)), StringComparison.Ordinal);
        Assert.Contains("ends at 1,000 miles, and this load goes 1,001", Refused(1_001, null, Line(50, 100)), StringComparison.Ordinal);
        Assert.Contains("discount must be", Refused(300, 100m, Line(50, 100)), StringComparison.Ordinal);
        Assert.Contains("freight is unknown", Refused(300, null), StringComparison.Ordinal);
    }

    /// <summary>Against a plain calculation: the least over all weight breaks, each charged at least its own pounds.</summary>
    [Fact]
    public void The_charge_is_the_lowest_that_any_weight_break_gives() =>
        Gen.Select(Gen.Int[1, 3_000], Gen.Int[0, 3_000], Gen.Int[1, 1_000])
            .Sample(x =>
            {
                var (low, high, miles) = x;
                ClassFreight[] freight = high > 0 ? [Line(50, low), Line(100, high, 2)] : [Line(50, low)];
                var rates = Table.Rows.Where(r => r.UpToMiles == (miles <= 500 ? 500 : 1_000)).ToList();
                var least = Enumerable
                    .Range(0, 3)
                    .Where(i => i == 2 || Table.Breaks[i + 1] > low + high)
                    .Min(i =>
                        (
                            low * rates[0].PerCwt[i]
                            + high * rates[1].PerCwt[i]
                            + Math.Max(0, Table.Breaks[i] - low - high) * rates[0].PerCwt[i]
                        ) / 100
                    );
                Assert.InRange(Table.Rate(miles, freight).Value.Gross, least - 0.02m, least + 0.02m);
            });

    [Fact]
    public void More_pounds_of_a_class_never_cost_less() =>
        Gen.Select(Gen.Int[1, 1_500], Gen.Int[1, 1_500], Gen.Int[1, 500])
            .Sample(x =>
                Assert.True(
                    Table.Rate(300, [Line(50, x.Item1), Line(100, x.Item2, 2)]).Value.Gross
                        <= Table.Rate(300, [Line(50, x.Item1), Line(100, x.Item2 + x.Item3, 2)]).Value.Gross
                )
            );

    [Fact]
    public void A_charge_is_priced_by_a_table_and_the_surcharge_is_of_what_is_left_after_the_discount()
    {
        var by = new PricedBy(300, [Line(100, 4_000)], [Table with { DiscountPercent = 50 }]);
        ChargeInput haul = new(ChargeKind.LineHaul, ChargeBasis.ByClass, null, null, ByClass: new(7, null));
        ChargeInput fuel = new(ChargeKind.FuelSurcharge, ChargeBasis.Percent, null, 12.5m);
        var priced = ChargePrices.PriceAll([haul, fuel], by);
        Assert.Equal([Money.Usd(600m), Money.Usd(75m)], priced.Select(p => p.Value.Amount));
        Assert.Equal(((decimal?)40m, (decimal?)null), (priced[0].Value.Quantity, priced[0].Value.Rate));

        // A minimum of the load's own stays with the charge; the table's does not.
        var own = ChargePrices.PriceAll([haul with { Minimum = 700 }], by)[0].Value;
        Assert.Equal((Money.Usd(700m), (decimal?)700m), (own.Amount, own.Minimum));
        Assert.Null(priced[0].Value.Minimum);

        Assert.Equal("basis", ChargePrices.PriceAll([haul with { Kind = ChargeKind.Lumper }], by)[0].Problems[0].Field);
        Assert.Contains(
            "billed in Canadian dollars",
            ChargePrices.PriceAll([haul], by with { Currency = Currency.CAD })[0].Problems[0].Message,
            StringComparison.Ordinal
        );
        Assert.Equal("Choose the rate table.", ChargePrices.Preview([haul with { ByClass = null }], by, null).Charges[0].Why);
    }

    [Fact]
    public void A_table_is_read_from_its_file_as_it_was_written()
    {
        var read = ClassRates.Read(ClassRates.Cells(Table.Breaks, Table.Rows.Reverse().ToList())).Value;
        Assert.Equal(Table.Breaks, read.Breaks);
        Assert.Equal(
            Table.Rows.Select(r => (r.UpToMiles, r.Class, string.Join(' ', r.PerCwt.Select(c => $"{c:0.####}")))),
            read.Rows.Select(r => (r.UpToMiles, r.Class, string.Join(' ', r.PerCwt.Select(c => $"{c:0.####}"))))
        );
    }

    [Fact]
    public void Weight_breaks_may_have_words() =>
        Assert.Equal(
            [0, 500],
            ClassRates
                .Read([
                    ["Up to", "Class", "0 lb", "From 500 lb", ""],
                    ["1,200", "77.5", "$41.20", "1,038.5"],
                ])
                .Value.Breaks
        );

    [Theory]
    [InlineData("miles,class,0,500,500|500,50,1,2,3", "rising from 0")]
    [InlineData("miles,class,500|500,50,1", "rising from 0")]
    [InlineData("miles,class,minimum|500,50,1", "“minimum” is not a weight break")]
    [InlineData("miles,class,0", "this file has 0")]
    [InlineData("miles,class,0|500,51,1", "Row 2: “51” is not a freight class")]
    [InlineData("miles,class,0|500,50,1|0,50,1", "Row 3: “0” must be whole miles")]
    [InlineData("miles,class,0|12.5,50,1", "“12.5” must be whole miles")]
    [InlineData("miles,class,0,500|500,50,1", "Row 2: “” must be dollars per hundredweight")]
    [InlineData("miles,class,0|500,50,-4", "“-4” must be dollars")]
    [InlineData("miles,class,0|500,50,1.23456", "“1.23456” must be dollars")]
    [InlineData("miles,class,0|500,50,1|500,50,2", "Class 50 up to 500 miles is in the file twice")]
    public void A_file_that_cannot_be_read_says_where(string file, string said) =>
        Assert.Contains(
            said,
            ClassRates.Read(file.Split('|').Select(r => (IReadOnlyList<string>)r.Split(',')).ToList()).Problems[0].Message,
            StringComparison.Ordinal
        );

    [Fact]
    public void Terms_are_checked()
    {
        Assert.Equal(
            ["name", "discountPercent", "surchargePercent", "minimum"],
            ClassRates.Terms(" ", 100, -1, 101, Currency.USD, []).Problems.Select(p => p.Field)
        );
        Assert.Contains(
            "already a rate table",
            ClassRates.Terms("midwest", 1, null, null, Currency.USD, ["Midwest"]).Problems[0].Message,
            StringComparison.Ordinal
        );
        Assert.Equal(0m, ClassRates.Terms("East", null, null, null, Currency.CAD, []).Value.DiscountPercent);
    }

    /// <summary>A load of two pallets without an entered class is rated by its density: 11.3 lb per cubic foot is class 92.5.</summary>
    [Fact]
    public void Freight_without_an_entered_class_is_rated_by_density()
    {
        var order = new FreightOrder("Pumps", null, 2, 1_200, null, 48, 40, 48);
        var rated = Booking.ForPrice([order, order with { FreightClass = 70 }], BookingLists.None, new NodaTime.LocalDate(2026, 11, 24));
        Assert.Equal([92.5m, 70m], rated.Select(r => r.Class!.Value));
    }
}
