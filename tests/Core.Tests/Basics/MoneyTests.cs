using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using Xunit;

namespace SteadyLark.Core.Tests.Basics;

public class MoneyTests
{
    [Theory]
    [InlineData(0.005, 0.01)]
    [InlineData(0.015, 0.02)]
    [InlineData(-0.005, -0.01)]
    [InlineData(387.9444, 387.94)]
    public void Rounds_halves_away_from_zero(decimal amount, decimal rounded) =>
        Assert.Equal(Money.Usd(rounded), Money.Usd(amount).ToCents());

    [Fact]
    public void Never_adds_currencies_together() =>
        Assert.Throws<InvalidOperationException>(() => Money.Usd(1) + new Money(1, Currency.CAD));

    [Fact]
    public void A_sum_does_not_depend_on_the_order() =>
        Gen.Long[-1_000_000_000, 1_000_000_000]
            .List[0, 30]
            .Sample(cents =>
            {
                var amounts = cents.Select(c => Money.Usd(c / 100m)).ToList();
                return Money.Sum(amounts) == Money.Sum(Enumerable.Reverse(amounts)) && Money.Sum(amounts).Amount == cents.Sum() / 100m;
            });

    [Fact]
    public void Is_formatted_with_its_currency()
    {
        Assert.Equal("$1,850.00", Money.Usd(1850).Formatted);
        Assert.Equal("-CA$0.50", new Money(-0.5m, Currency.CAD).Formatted);
    }
}

public class WallClockTests
{
    private static readonly string[] Zones =
    [
        "America/Los_Angeles",
        "America/Phoenix",
        "America/Denver",
        "America/Chicago",
        "America/Indiana/Knox",
        "America/New_York",
        "America/Regina",
        "America/Halifax",
        "America/Creston",
        "Australia/Lord_Howe",
    ];
    private static readonly DateTimeZone Spokane = DateTimeZoneProviders.Tzdb["America/Los_Angeles"];

    [Fact]
    public void A_time_that_the_spring_change_skips_is_refused_by_its_field()
    {
        // 2026-03-08 02:00 local: clocks go forward (15 U.S.C. § 260a, second Sunday of March).
        var refused = WallClock.Resolve(new LocalDateTime(2026, 3, 8, 2, 30), Spokane, "stops[0].from");
        Assert.Equal("stops[0].from", Assert.Single(refused.Problems).Field);
        Assert.Equal("time.skipped", refused.Problems[0].Code);
        Assert.Contains("from 02:00 to 03:00", refused.Problems[0].Message, StringComparison.Ordinal);
        Assert.Contains("Use 01:30 or 03:30", refused.Problems[0].Message, StringComparison.Ordinal);
    }

    /// <summary>In every zone of ours, and Lord Howe whose clocks move by half an hour: a time is refused exactly when no instant reads so
    /// there.</summary>
    [Fact]
    public void A_wall_clock_time_maps_to_the_first_instant_that_reads_it() =>
        Gen.Select(Gen.Int[0, Zones.Length - 1], Gen.OneOf(Gen.Int[0, 525_600], Gen.Int[93_500, 102_300], Gen.Int[436_000, 440_000]))
            .Sample(
                (z, minute) =>
                {
                    var (name, zone) = (Zones[z], WallClock.Zone(Zones[z])!);
                    var local = new LocalDateTime(2026, 1, 1, 0, 0).PlusMinutes(minute);
                    var reads = Enumerable
                        .Range(0, 31)
                        .Select(q => local.InUtc().ToInstant() + Duration.FromMinutes((q - 12 + (name[1] == 'u' ? -28 : 0)) * 30))
                        .Where(i => i.InZone(zone).LocalDateTime == local)
                        .ToList();
                    var found = WallClock.Resolve(local, zone, "x");
                    Assert.Equal(reads.Count > 0, found.Ok);
                    if (found.Ok)
                    {
                        Assert.Equal(reads[0], found.Value);
                        Assert.Equal(reads[^1], WallClock.Resolve(local, zone, "x", closing: true).Value);
                    }
                }
            );

    [Fact]
    public void A_window_opens_at_the_earlier_and_closes_at_the_later_of_a_time_repeated_in_fall()
    {
        var twice = new LocalDateTime(2026, 11, 1, 1, 30);
        Assert.Equal(Instant.FromUtc(2026, 11, 1, 8, 30), WallClock.Resolve(twice, Spokane, "x").Value);
        Assert.Equal(Instant.FromUtc(2026, 11, 1, 9, 30), WallClock.Resolve(twice, Spokane, "x", closing: true).Value);
    }

    [Theory]
    [InlineData(35, "35 min")]
    [InlineData(100, "1 h 40")]
    [InlineData(180, "3 h")]
    [InlineData(3120, "2 d 4 h")]
    public void Durations_are_formatted_as_in_the_trade(int minutes, string summary) =>
        Assert.Equal(summary, Duration.FromMinutes(minutes).Format());
}
