using NodaTime;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

public class TripMessagesTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 16, 42);

    private static string? Refused(string? text, bool canceled = false, Instant? ended = null) =>
        TripMessages.Check(text, "T7", canceled, ended, Now) is { Ok: false } refused ? refused.Problems[0].Code : null;

    [Fact]
    public void A_message_needs_words_and_a_trip_whose_drivers_still_see_it()
    {
        Assert.Equal("Use dock 4.", TripMessages.Check("  Use dock 4. ", "T7", false, null, Now).Value);
        Assert.Equal("missing", Refused(" "));
        Assert.Null(Refused(new string('x', TripMessages.Longest)));
        Assert.Equal("too.long", Refused(new string('x', TripMessages.Longest + 1)));
        Assert.Equal("bad.character", Refused("a\u0007"));
        Assert.Equal("trip.canceled", Refused("Hello", canceled: true));
        Assert.Null(Refused("Hello", ended: Now - TripMessages.Shown));
        Assert.Equal("trip.ended", Refused("Hello", ended: Now - TripMessages.Shown - Duration.Epsilon));
    }

    [Fact]
    public void The_history_says_who_wrote_to_whom()
    {
        Assert.Equal("Trip T7, message from Moses: Late.", TripMessages.Said("T7", "Moses", ["Moses", "Lena"], "Late."));
        Assert.Equal("Trip T7, message to Moses and Lena: Late.", TripMessages.Said("T7", null, ["Moses", "Lena"], "Late."));
    }
}
