using CsCheck;
using NodaTime;
using SteadyLark.Core.Line;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Line;

public class SentenceTests
{
    [Theory]
    [InlineData("2041 at stop", StopWord.Arrived, null, "2041")]
    [InlineData("2041 at stop 0940", StopWord.Arrived, "09:40", "2041")]
    [InlineData("honey billings at the dock", StopWord.Arrived, null, "honey billings")]
    [InlineData("okafor arrived at 9:40", StopWord.Arrived, "09:40", "okafor")]
    [InlineData("2041 left", StopWord.Left, null, "2041")]
    [InlineData("2041 left 2:30p", StopWord.Left, "14:30", "2041")]
    [InlineData("snowberry spokane just left at 0615", StopWord.Left, "06:15", "snowberry spokane")]
    [InlineData("2041 is loaded", StopWord.Left, null, "2041")]
    [InlineData("2041 delivered", StopWord.Delivered, null, "2041")]
    [InlineData("load 2041 was delivered at 14:05", StopWord.Delivered, "14:05", "2041")]
    [InlineData("Two Forks unloaded in Rapid City", StopWord.Delivered, null, "Two Forks Rapid City")]
    [InlineData("2041 delivered, signed K. Osei", StopWord.Delivered, null, "2041")]
    [InlineData("snowberry, spokane: at stop", StopWord.Arrived, null, "snowberry spokane:")]
    [InlineData("2041", null, null, "2041")]
    [InlineData("left hand nuts", StopWord.Left, null, "hand nuts")]
    [InlineData("snowberry creamery", null, null, "snowberry creamery")]
    public void Is_taken_apart_as_it_was_meant(string text, StopWord? word, string? time, string words)
    {
        var read = Sentences.Read(text);
        Assert.Equal(word, read.Word);
        Assert.Equal(time, read.Time?.ToString("HH:mm", null));
        Assert.Equal(words, string.Join(' ', read.Words));
    }

    [Fact]
    public void Hears_who_signed_and_how_long_ago()
    {
        var read = Sentences.Read("2041 delivered 20 min ago, signed by R. Dahl");
        Assert.Equal((StopWord.Delivered, 20, "R. Dahl"), (read.Word!.Value, read.MinutesAgo!.Value, read.ReceivedBy));
        Assert.Equal(["2041"], read.Words);
    }

    [Fact]
    public void A_time_is_the_last_one_that_has_passed_at_the_stop()
    {
        // It is 09:42 in Missoula: 09:40 is two minutes ago, 23:30 was yesterday.
        Assert.Equal(Some.Now - Duration.FromMinutes(2), Sentences.Read("2041 left 0940").When(Some.Now, Some.Mountain));
        Assert.Equal(Instant.FromUtc(2026, 11, 23, 6, 30), Sentences.Read("2041 left at 11:30pm").When(Some.Now, Some.Mountain));
    }

    [Fact]
    public void The_stop_is_the_one_being_worked()
    {
        var pickup = Some.Stop(1, StopKind.Pickup, Some.Creamery, -3);
        var delivery = Some.Stop(2, StopKind.Delivery, Some.ColdStore, 5);
        var left = pickup with { Arrived = Some.In(-3), Left = Some.In(-2) };
        Assert.Equal(1, Sentences.StopFor(StopWord.Arrived, [pickup, delivery])!.Id);
        Assert.Equal(2, Sentences.StopFor(StopWord.Arrived, [left, delivery])!.Id);
        Assert.Null(Sentences.StopFor(StopWord.Arrived, [left, delivery with { Arrived = Some.In(-1) }]));
        Assert.Null(Sentences.StopFor(StopWord.Delivered, [pickup, delivery]));
        Assert.Equal(2, Sentences.StopFor(StopWord.Delivered, [left, delivery])!.Id);
    }

    [Fact]
    public void Nothing_that_can_be_typed_breaks_it() => Gen.String.Sample(text => Sentences.Read(text).Words is not null, iter: 5000);
}
