using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using Xunit;

namespace SteadyLark.Core.Tests.Covering;

public class TimeOffTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 16, 0);

    private static Instant Days(double days) => Now + Duration.FromDays(days);

    private static (Span? Span, string? Field, string? Said) Checked(Instant? from, Instant? until, params Span[] others)
    {
        var validation = new Validation();
        var span = TimeOff.Check(validation, from, until, others, Now, DateTimeZoneProviders.Tzdb["America/Denver"]);
        return validation.Ok ? (span, null, null) : (null, validation.Problems[0].Field, validation.Problems[0].Message);
    }

    [Fact]
    public void Time_off_has_a_begin_and_a_later_end()
    {
        Assert.Equal(new Span(Days(1), Days(3)), Checked(Days(1), Days(3)).Span);
        Assert.Equal("from", Checked(null, Days(3)).Field);
        Assert.Equal("until", Checked(Days(1), null).Field);
        Assert.Equal("until", Checked(Days(3), Days(3)).Field);
        Assert.Equal("until", Checked(Days(1), Days(1) + TimeOff.Longest + Duration.FromMinutes(1)).Field);
        Assert.Null(Checked(Days(1), Days(1) + TimeOff.Longest).Field);
        Assert.Equal("from", Checked(Days(9_000), Days(9_001)).Field);
    }

    [Fact]
    public void Two_times_off_of_a_driver_do_not_overlap_but_may_touch()
    {
        var other = new Span(Days(2), Days(4));
        Assert.Null(Checked(Days(1), Days(2), other).Field);
        Assert.Null(Checked(Days(4), Days(5), other).Field);
        Assert.Equal(
            "The driver is off from Thu Nov 26, 09:00 to Sat Nov 28, 09:00 already: remove that first.",
            Checked(Days(3), Days(5), other).Said
        );
        Assert.Equal("from", Checked(Days(1), Days(9), other).Field);
    }
}
