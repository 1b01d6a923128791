using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using Xunit;

namespace SteadyLark.Core.Tests.Basics;

public class DateSpanTests
{
    private static readonly LocalDate Today = new(2026, 11, 24);

    [Theory]
    [InlineData("2026-11-23", "2026-11-23", "2026-11-23")]
    [InlineData("2026-11-01 to 2026-11-15", "2026-11-01", "2026-11-15")]
    [InlineData("Today", "2026-11-24", "2026-11-24")]
    [InlineData("yesterday", "2026-11-23", "2026-11-23")]
    [InlineData(" tomorrow ", "2026-11-25", "2026-11-25")]
    [InlineData("this week", "2026-11-23", "2026-11-29")]
    [InlineData("last week", "2026-11-16", "2026-11-22")]
    [InlineData("this month", "2026-11-01", "2026-11-30")]
    [InlineData("last  month", "2026-10-01", "2026-10-31")]
    [InlineData("next month", "2026-12-01", "2026-12-31")]
    [InlineData("this quarter", "2026-10-01", "2026-12-31")]
    [InlineData("last quarter", "2026-07-01", "2026-09-30")]
    [InlineData("next quarter", "2027-01-01", "2027-03-31")]
    [InlineData("last year", "2025-01-01", "2025-12-31")]
    [InlineData("month to date", "2026-11-01", "2026-11-24")]
    [InlineData("quarter to date", "2026-10-01", "2026-11-24")]
    [InlineData("year to date", "2026-01-01", "2026-11-24")]
    [InlineData("last 30 days", "2026-10-26", "2026-11-24")]
    [InlineData("last 1 day", "2026-11-24", "2026-11-24")]
    [InlineData("next 7 days", "2026-11-24", "2026-11-30")]
    [InlineData("older than 30 days", null, "2026-10-24")]
    public void Dates_and_periods_are_read(string text, string? from, string? until)
    {
        var span = DateSpan.Parse(text, Today)!;
        Assert.Equal((from, until), (span.From?.ToString("uuuu-MM-dd", null), span.Until?.ToString("uuuu-MM-dd", null)));
    }

    [Theory]
    [InlineData("")]
    [InlineData("last")]
    [InlineData("last fortnight")]
    [InlineData("last 0 days")]
    [InlineData("older than 9999 days")]
    [InlineData("2026-13-01")]
    [InlineData("1026-11-23")]
    [InlineData("2026-11-15 to 2026-11-01")]
    [InlineData("2026-11-15 to")]
    public void Anything_else_is_not(string text) => Assert.Null(DateSpan.Parse(text, Today));

    /// <summary>Whatever day it is, this period holds it, last ends the day before it begins, and next begins the day after it
    /// ends.</summary>
    [Fact]
    public void Periods_follow_each_other() =>
        Gen.Select(Gen.Int[0, 60_000], Gen.Int[0, 3].Select(i => new[] { "week", "month", "quarter", "year" }[i]))
            .Sample(
                (n, unit) =>
                {
                    var today = new LocalDate(1950, 1, 1).PlusDays(n);
                    var (last, now, next) = (
                        DateSpan.Parse($"last {unit}", today)!,
                        DateSpan.Parse($"this {unit}", today)!,
                        DateSpan.Parse($"next {unit}", today)!
                    );
                    Assert.True(now.From <= today && today <= now.Until);
                    Assert.Equal(now.From, last.Until!.Value.PlusDays(1));
                    Assert.Equal(next.From, now.Until!.Value.PlusDays(1));
                    Assert.True(last.From < now.From && next.Until > now.Until);
                }
            );

    [Fact]
    public void A_period_without_a_beginning_cannot_be_one()
    {
        var columns = new List<ListColumn> { new("due", "Due", ColumnKind.Date) };
        IReadOnlyList<Problem> Check(FilterOp op, string value) =>
            new ListQuery(null, [new ListFilter("due", op, [value])], [], []).Check(columns);
        Assert.Empty(Check(FilterOp.Is, "older than 30 days"));
        Assert.Empty(Check(FilterOp.Until, "older than 30 days"));
        Assert.Equal("value", Check(FilterOp.From, "older than 30 days").Single().Code);
        Assert.StartsWith(
            "Due cannot be compared with “last fortnight”",
            Check(FilterOp.Is, "last fortnight").Single().Message,
            StringComparison.Ordinal
        );
    }
}
