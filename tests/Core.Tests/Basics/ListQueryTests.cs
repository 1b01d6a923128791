using CsCheck;
using SteadyLark.Core.Basics;
using Xunit;

namespace SteadyLark.Core.Tests.Basics;

/// <summary>What a list may be asked, and what stands under its columns.</summary>
public class ListQueryTests
{
    private static readonly ListColumn[] Columns =
    [
        new("number", "Load", ColumnKind.Text),
        new("state", "State", ColumnKind.Choice),
        new("miles", "Miles", ColumnKind.Number),
        new("pays", "Pays", ColumnKind.Money),
        new("day", "Day", ColumnKind.Date),
        new("late", "Late", ColumnKind.YesNo),
    ];

    private static Problems Check(
        IEnumerable<ListFilter>? filters = null,
        IEnumerable<ListSort>? sorts = null,
        IEnumerable<ListGroup>? groups = null,
        string? text = null
    ) => new ListQuery(text, [.. filters ?? []], [.. sorts ?? []], [.. groups ?? []]).Check(Columns);

    [Theory]
    [InlineData("number", FilterOp.Has, "61", null)]
    [InlineData("number", FilterOp.From, "61", "value")]
    [InlineData("miles", FilterOp.From, "100", null)]
    [InlineData("miles", FilterOp.Has, "100", "value")]
    [InlineData("miles", FilterOp.Is, "many", "value")]
    [InlineData("pays", FilterOp.Until, "1,850.00", null)]
    [InlineData("day", FilterOp.From, "2026-11-23", null)]
    [InlineData("day", FilterOp.From, "11/23/2026", "value")]
    [InlineData("late", FilterOp.Is, "yes", null)]
    [InlineData("late", FilterOp.Is, "maybe", "value")]
    [InlineData("state", FilterOp.Empty, null, null)]
    [InlineData("state", FilterOp.Empty, "booked", "too.many")]
    [InlineData("state", FilterOp.Is, null, "missing")]
    [InlineData("state", FilterOp.Is, "booked|covered|rolling", null)]
    [InlineData("day", FilterOp.Is, "last month|2026-11-23", null)]
    [InlineData("day", FilterOp.Is, "last month|soon", "value")]
    [InlineData("miles", FilterOp.From, "100|200", "too.many")]
    [InlineData("miles", FilterOp.Not, "100|200", null)]
    [InlineData("color", FilterOp.Is, "red", "unknown")]
    public void A_filter_fits_the_column_it_is_on(string column, FilterOp op, string? values, string? code) =>
        Assert.Equal(code, Check([new ListFilter(column, op, values?.Split('|'))]).Select(p => p.Code).FirstOrDefault());

    [Fact]
    public void A_wrong_value_among_several_is_named() =>
        Assert.Equal(
            "filters[1].values[2]",
            Check([new("number", FilterOp.Has, ["6"]), new("miles", FilterOp.Is, ["1", "2", "x"])]).Single().Field
        );

    [Fact]
    public void Unknown_columns_and_too_many_of_anything_are_refused()
    {
        Assert.Equal("sorts[1].column", Check(sorts: [new("day", true), new("color", false)]).Single().Field);
        Assert.Equal("groups[0].column", Check(groups: [new("color", null)]).Single().Field);
        Assert.Equal("filters", Check(Enumerable.Repeat(new ListFilter("day", FilterOp.Filled, null), 21)).Single().Field);
        Assert.Equal("groups", Check(groups: Enumerable.Repeat(new ListGroup("day", null), 3)).Single().Field);
        Assert.Equal("filters[0].values", Check([new("number", FilterOp.Is, Enumerable.Repeat("1", 51).ToList())]).Single().Field);
        Assert.Equal("text", Check(text: new string('x', 201)).Single().Field);
    }

    [Theory]
    [InlineData("day", GroupPeriod.Quarter, null)]
    [InlineData("day", null, null)]
    [InlineData("number", null, null)]
    [InlineData("number", GroupPeriod.Month, "groups[0].period")]
    public void Only_days_and_times_are_grouped_by_period(string column, GroupPeriod? period, string? field) =>
        Assert.Equal(field, Check(groups: [new(column, period)]).SingleOrDefault()?.Field);

    [Fact]
    public void A_ratio_of_sums_is_not_the_sum_of_ratios()
    {
        var perMile = new ColumnTotal("revenue", "miles");
        Assert.Equal(2.50m, perMile.Value(1_000m, 400m));
        Assert.Equal(2.12m, perMile.Value(2.125m, 1m));
        Assert.Equal(15m, new ColumnTotal("margin", "revenue", 100).Value(150m, 1_000m));
        Assert.Equal(-4.55m, new ColumnTotal("margin", "revenue", 100).Value(-50m, 1_100m));
        Assert.Null(perMile.Value(10m, 0m));
        Assert.Null(perMile.Value(null, null));
        Assert.Equal(7m, new ColumnTotal("miles").Value(7m, null));
    }

    [Fact]
    public void A_ratio_lies_between_the_smallest_and_the_largest_of_its_rows() =>
        Gen.Select(Gen.Int[1, 9_000], Gen.Int[1, 3_000])
            .List[1, 20]
            .Sample(rows =>
            {
                var total = new ColumnTotal("revenue", "miles").Value(rows.Sum(r => r.Item1), rows.Sum(r => r.Item2))!.Value;
                Assert.InRange(
                    total,
                    rows.Min(r => (decimal)r.Item1 / r.Item2) - 0.005m,
                    rows.Max(r => (decimal)r.Item1 / r.Item2) + 0.005m
                );
            });
}
