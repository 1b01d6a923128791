using System.Net;
using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Messages between dispatch and the drivers of a trip.</summary>
public sealed class Messages(TestBusiness business) : SharedTripTest(business)
{
    private static string[] Texts(JsonNode list) => list.AsArray().Select(m => Word(m!["text"])).ToArray();

    private static async Task<string[]> OnToday(Caller caller) =>
        (await caller.Get("today")).Ok["items"]!
            .AsArray()
            .Where(i => Word(i!["kind"]) == "message")
            .Select(i => Word(i!["detail"]))
            .ToArray();

    [Fact]
    public async Task Dispatch_and_driver_write_to_each_other_and_each_sees_what_was_read()
    {
        var (owner, driver) = (await Business.As(Role.Owner), await Business.As(Role.Driver));
        var load = await Booked(owner, 25, "from", "to", 6, 9_000);
        var trip = await TripOf(owner, load, "moses");
        Assert.Equal("text", (await owner.Post($"trips/{trip}/messages", new { text = " " })).Fields.Single());
        _ = (await owner.Post($"trips/{trip}/messages", new { text = "Use dock 4." })).Ok;
        Assert.Equal(["Use dock 4."], Texts((await driver.Get("mine/messages")).Ok));
        Assert.Equal(1, (await driver.Post($"mine/trips/{trip}/messages/read")).Ok["count"]!.GetValue<int>());
        Assert.NotNull((await owner.Get($"trips/{trip}/messages")).Ok[0]!["readAt"]);

        // What the driver writes waits on Today until dispatch has seen it.
        Assert.Empty(await OnToday(owner));
        _ = (await driver.Post($"mine/trips/{trip}/messages", new { text = "Dock 4 is closed." })).Ok;
        var number = Word((await Trip(owner, trip))["trip"]!["number"]);
        Assert.Equal([$"trip {number}: Dock 4 is closed."], await OnToday(owner));
        _ = (await owner.Post($"trips/{trip}/messages/read")).Ok;
        Assert.Empty(await OnToday(owner));
        Assert.Equal(0, (await owner.Post($"trips/{trip}/messages/read")).Ok["count"]!.GetValue<int>());

        // An answer reads what it answers; the load's history has all of it.
        _ = (await driver.Post($"mine/trips/{trip}/messages", new { text = "Dock 6 then?" })).Ok;
        _ = (await owner.Post($"trips/{trip}/messages", new { text = "Dock 6." })).Ok;
        Assert.Empty(await OnToday(owner));
        Assert.Contains(
            $"Trip {number}, message from ",
            (await owner.Get($"loads/{load}")).Ok["events"]!.ToJsonString(),
            StringComparison.Ordinal
        );

        // Another driver's trip, somebody who only looks on, a trip that is dissolved.
        var other = await TripOf(owner, await Booked(owner, 25, "from", "to", 2, 900), "lena");
        Assert.Equal(HttpStatusCode.NotFound, (await driver.Post($"mine/trips/{other}/messages", new { text = "Hello" })).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await driver.Post($"mine/trips/{other}/messages/read")).Status);
        Assert.DoesNotContain(Texts((await driver.Get("mine/messages")).Ok), t => t == "Hello");
        var viewer = await Business.As(Role.ReadOnly);
        Assert.Equal(4, (await viewer.Get($"trips/{trip}/messages")).Ok.AsArray().Count);
        Assert.Equal(HttpStatusCode.Forbidden, (await viewer.Post($"trips/{trip}/messages", new { text = "Hello" })).Status);
        _ = (await owner.Post($"trips/{other}/dissolve")).Ok;
        Assert.Equal("trip.canceled", (await owner.Post($"trips/{other}/messages", new { text = "Hello" })).Code);

        await using var db = await Business.Db.Source.OpenConnectionAsync();
        await Assert.ThrowsAsync<Npgsql.PostgresException>(() => db.Run("update trip_messages set text = ' '"));
    }
}
