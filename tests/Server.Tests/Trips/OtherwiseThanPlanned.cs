using System.Net;
using System.Text.Json.Nodes;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using UglyToad.PdfPig;
using Xunit;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Delays, refused and damaged freight, a driver changed in mid-trip: recorded, and what follows is right.</summary>
public class OtherwiseThanPlanned(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static readonly Instant Monday = Instant.FromUtc(2026, 11, 23, 16, 42);

    private async Task<(Caller Owner, long Load, long[] Stops)> Rolling(int day, string? who = null)
    {
        business.Clock.Now = Monday;
        if (who is null)
        {
            await business.AddCrew(who = $"d{day}", $"Driver {day}");
        }

        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(day, $"PO otherwise {day}"))).Id;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew(who))).Ok;
        var stops = (await Load(owner, load))["stops"]!.AsArray().Select(s => s!["id"]!.GetValue<long>()).ToArray();
        business.Clock.Now = Monday + Duration.FromDays(day);
        owner = await business.As(Role.Owner);
        _ = (await owner.Post($"loads/{load}/stops/{stops[0]}", new { @event = "left", seal = "88213" })).Ok;
        return (owner, load, stops);
    }

    private static async Task<JsonNode> View(Caller c, long load) => (await c.Get($"loads/{load}")).Ok;

    private static async Task<JsonNode> Load(Caller c, long load) => (await View(c, load))["sheet"]!["load"]!;

    private static async Task<string> State(Caller c, long load) => (await Load(c, load))["state"]!.GetValue<string>();

    [Fact]
    public async Task A_delay_moves_the_eta_until_it_is_undone()
    {
        var (owner, load, stops) = await Rolling(1);
        var told = business.Clock.Now + Duration.FromHours(20);
        Assert.Equal(
            "expectedAt",
            (
                await owner.Post(
                    $"loads/{load}/reports",
                    new
                    {
                        kind = "delay",
                        note = "snow",
                        expectedAt = business.Clock.Now - Duration.FromHours(1),
                    }
                )
            ).Fields.Single()
        );
        var report = (
            await owner.Post(
                $"loads/{load}/reports",
                new
                {
                    kind = "delay",
                    note = "snow on the pass",
                    expectedAt = told.ToString(),
                }
            )
        ).Ok;
        var view = await View(owner, load);
        Assert.Equal(told.ToString(), view["visits"]![1]!["arrives"]!.GetValue<string>());
        Assert.Contains("by the reported ETA", view["trouble"]!.ToJsonString(), StringComparison.Ordinal);
        Assert.Equal("88213", view["sheet"]!["references"]![0]!["value"]!.GetValue<string>());
        _ = (await owner.Post($"loads/{load}/reports/{report["id"]}/undo")).Ok;
        Assert.NotEqual(told.ToString(), (await View(owner, load))["visits"]![1]!["arrives"]!.GetValue<string>());
        _ = (await owner.Post($"loads/{load}/stops/{stops[1]}", new { @event = "delivered" })).Ok;
        Assert.Equal("stop.none", (await owner.Post($"loads/{load}/reports", new { kind = "delay", note = "late" })).Code ?? "stop.none");
    }

    [Fact]
    public async Task Refused_freight_goes_elsewhere_opens_a_claim_and_is_billed_once_delivered()
    {
        var (owner, load, stops) = await Rolling(3);
        Assert.Equal(
            "stop.refused",
            (
                await owner.Post(
                    $"loads/{load}/reports",
                    new
                    {
                        kind = "refused",
                        note = "too warm",
                        stopId = stops[1],
                    }
                )
            ).Code
        );
        _ = (await owner.Post($"loads/{load}/stops/{stops[1]}", new { @event = "arrived" })).Ok;
        var refused = (await owner.Post($"loads/{load}/reports", new { kind = "refused", note = "too warm" })).Ok;
        Assert.StartsWith("CL-", refused["claim"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal("rolling", await State(owner, load));
        Assert.Equal("refused", (await View(owner, load))["status"]!.GetValue<string>());

        // It goes back to the dock it came from, two days later.
        Assert.Equal(
            "from",
            (
                await owner.Post(
                    $"loads/{load}/stops",
                    new
                    {
                        kind = "delivery",
                        placeId = business.Ids["from"],
                        from = "2026-11-20T10:00:00",
                    }
                )
            ).Fields.Single()
        );
        var added = (
            await owner.Post(
                $"loads/{load}/stops",
                new
                {
                    kind = "delivery",
                    placeId = business.Ids["from"],
                    from = "2026-11-28T10:00:00",
                }
            )
        ).Ok["stopId"]!.GetValue<long>();
        business.Clock.Now += Duration.FromDays(1);
        owner = await business.As(Role.Owner);
        _ = (
            await owner.Post(
                $"loads/{load}/stops/{stops[1]}",
                new { @event = "left", at = (business.Clock.Now - Duration.FromHours(20)).ToString() }
            )
        ).Ok;
        Assert.Equal("rolling", await State(owner, load));
        _ = (await owner.Post($"loads/{load}/stops/{added}", new { @event = "delivered", receivedBy = "K. Osei" })).Ok;
        Assert.Equal("delivered", await State(owner, load));
        using var page = new PdfPage("POD", "test");
        page.Line("Received");
        _ = (await owner.Upload($"loads/{load}/documents?kind=pod&name=pod.pdf", page.Save())).Ok;
        var claim = (await owner.Get($"loads/{load}/claims")).Ok.AsArray().Single()!;
        Assert.Equal(("refused", "reported"), (claim["kind"]!.GetValue<string>(), claim["status"]!.GetValue<string>()));
        _ = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
    }

    [Fact]
    public async Task Short_freight_opens_a_claim_that_is_withdrawn_when_the_report_is_undone()
    {
        var (owner, load, stops) = await Rolling(6);
        Assert.Equal(
            "stopId",
            (
                await owner.Post(
                    $"loads/{load}/reports",
                    new
                    {
                        kind = "short",
                        note = "count",
                        pieces = 3,
                        stopId = stops[1],
                    }
                )
            ).Fields.Single()
        );
        _ = (await owner.Post($"loads/{load}/stops/{stops[1]}", new { @event = "delivered" })).Ok;
        var report = (
            await owner.Post(
                $"loads/{load}/reports",
                new
                {
                    kind = "short",
                    note = "count by receiver",
                    pieces = 3,
                }
            )
        ).Ok;
        Assert.Null((await Load(owner, load))["held"]);
        var claim = (await owner.Get($"loads/{load}/claims")).Ok.AsArray().Single()!;
        Assert.Equal("3 short in Spokane: count by receiver", claim["description"]!.GetValue<string>());
        _ = (await owner.Post($"loads/{load}/reports/{report["id"]}/undo")).Ok;
        Assert.Equal("withdrawn", (await owner.Get($"loads/{load}/claims")).Ok.AsArray().Single()!["outcome"]!.GetValue<string>());
    }

    [Fact]
    public async Task A_crew_that_is_free_while_the_pickup_is_open_takes_the_load_when_it_is_free()
    {
        business.Clock.Now = Monday;
        await business.AddCrew("open", "Driver Open");
        var owner = await business.As(Role.Owner);
        JsonNode Order(string reference, string pickup, string until, string delivery)
        {
            var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(30, reference)))!;
            (order["stops"]![0]!["from"], order["stops"]![0]!["until"]) = (pickup, until);
            order["stops"]![1]!["from"] = delivery;
            return order;
        }

        async Task<Answer> Cover(JsonNode order) =>
            await owner.Post($"loads/{(await owner.Post("loads", order)).Id}/cover/driver", business.Crew("open"));

        // Great Falls to Spokane takes about seven hours: the crew is free on the evening of the 23rd.
        _ = (await Cover(Order("PO first", "2026-12-23T06:00:00", "2026-12-23T06:00:00", "2026-12-23T17:00:00"))).Ok;
        Assert.Contains(
            "driverId",
            (await Cover(Order("PO exact", "2026-12-23T14:00:00", "2026-12-23T14:00:00", "2026-12-24T15:00:00"))).Fields
        );
        var covered = (await Cover(Order("PO open", "2026-12-23T14:00:00", "2026-12-24T06:00:00", "2026-12-24T20:00:00"))).Ok;
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var spans = await db.Rows(
            "select upper(t.scheduled) as ends, lead(lower(t.scheduled)) over (order by lower(t.scheduled)) as next from trips t where driver_id = @d order by t.scheduled",
            r => (Ends: r.Instant("ends"), Next: r.InstantOrNull("next")),
            ("d", business.Ids["open"])
        );
        Assert.Equal((2, spans[0].Ends), (spans.Count, spans[0].Next!.Value));
        Assert.NotNull(covered["trip"]);
    }

    [Fact]
    public async Task A_handover_ends_one_leg_begins_another_and_pays_each_driver()
    {
        var (owner, load, stops) = await Rolling(10);
        var whole = (await Load(owner, load))["miles"]!.GetValue<int>();
        var hand = new
        {
            placeId = business.Ids["handover"],
            driverId = business.Ids["lena"],
            truckId = business.Ids["lena truck"],
        };
        Assert.Equal(
            "same",
            (
                await owner.Post(
                    $"loads/{load}/handover",
                    new
                    {
                        placeId = business.Ids["handover"],
                        driverId = business.Ids["d10"],
                        truckId = business.Ids["d10 truck"],
                    }
                )
            ).Code
        );
        business.Clock.Now += Duration.FromHours(3);
        owner = await business.As(Role.Owner);
        _ = (await owner.Post($"loads/{load}/handover", hand)).Ok;
        var legs = (await View(owner, load))["sheet"]!["legs"]!.AsArray();
        Assert.Equal(["Driver 10", "Lena Haugen"], legs.Select(l => l!["driver"]!.GetValue<string>()));
        var miles = legs.Select(l => l!["miles"]!.GetValue<int>()).ToArray();
        Assert.InRange(miles.Sum(), whole, (int)(whole * 1.15));
        Assert.All(miles, m => Assert.InRange(m, 100, whole - 50));
        Assert.Equal("rolling", await State(owner, load));

        // A mistake is taken back, and they have the whole way again; then it is done after all.
        _ = (await owner.Post($"loads/{load}/handover/undo")).Ok;
        Assert.Equal(
            [("Driver 10", miles.Sum())],
            (await View(owner, load))["sheet"]!["legs"]!
                .AsArray()
                .Select(l => (l!["driver"]!.GetValue<string>(), l["miles"]!.GetValue<int>()))
        );
        Assert.Equal("handover.none", (await owner.Post($"loads/{load}/handover/undo")).Code);
        _ = (await owner.Post($"loads/{load}/handover", hand)).Ok;
        Assert.Equal(miles, (await View(owner, load))["sheet"]!["legs"]!.AsArray().Select(l => l!["miles"]!.GetValue<int>()));

        // They and their truck are free at once; the trailer went on.
        var next = (await owner.Post("loads", business.Order(10, "PO after"))).Id;
        Assert.Equal(["trailerId"], (await owner.Post($"loads/{next}/cover/driver", business.Crew("d10"))).Fields);
        business.Clock.Now += Duration.FromHours(5);
        owner = await business.As(Role.Owner);
        _ = (await owner.Post($"loads/{load}/stops/{stops[1]}", new { @event = "delivered" })).Ok;
        Assert.Equal("stop.order", (await owner.Post($"loads/{load}/handover/undo")).Code);
        foreach (var (who, leg) in new[] { ("d10", 0), ("lena", 1) })
        {
            var week = (await owner.Get("settlements?monday=2026-11-30"))
                .Ok.AsArray()
                .Single(w => w!["driverId"]!.GetValue<long>() == business.Ids[who])!;
            Assert.Equal(
                [miles[leg]],
                week["lines"]!
                    .AsArray()
                    .Where(l => l!["kind"]?.GetValue<string>() == "per_mile")
                    .Select(l => (int)l!["quantity"]!.GetValue<decimal>())
            );
        }
    }

    [Fact]
    public async Task The_driver_accepts_the_trip_and_the_receiver_signs_on_the_phone()
    {
        var (owner, load, stops) = await Rolling(14, "moses");
        var driver = await business.As(Role.Driver);
        _ = (await driver.Post($"mine/loads/{load}/accept")).Ok;
        Assert.Equal("trip.accepted", (await driver.Post($"mine/loads/{load}/accept")).Code);
        Assert.Equal(
            "stop.order",
            (await driver.Post($"mine/loads/{load}/sign", new { name = "R. Dahl", picture = TestBusiness.OnePoint })).Code
        );
        _ = (await driver.Post($"mine/loads/{load}/stops/{stops[1]}", new { @event = "arrived" })).Ok;
        Assert.Equal(
            ["name", "picture"],
            (await driver.Post($"mine/loads/{load}/sign", new { name = " ", picture = "no picture" })).Fields
        );
        _ = (
            await driver.Post(
                $"mine/loads/{load}/reports",
                new
                {
                    kind = "damaged",
                    note = "one corner",
                    pieces = 1,
                }
            )
        ).Ok;
        var document = (
            await driver.Post(
                $"mine/loads/{load}/sign",
                new { name = "R. Dahl", picture = "data:image/png;base64," + TestBusiness.OnePoint }
            )
        ).Ok;
        Assert.Equal("pod", document["kind"]!.GetValue<string>());
        using var pdf = PdfDocument.Open(await owner.Http.GetByteArrayAsync($"/api/documents/{document["id"]}/file"));
        var text = string.Concat(pdf.GetPage(1).Letters.Select(l => l.Value)).Replace(" ", "", StringComparison.Ordinal);
        Assert.Contains("R.Dahl", text, StringComparison.Ordinal);
        Assert.Contains("Damaged,1:onecorner", text, StringComparison.Ordinal);
        Assert.Contains("Seal88213", text, StringComparison.Ordinal);
        Assert.Single(pdf.GetPage(1).GetImages());
        _ = (await driver.Post($"mine/loads/{load}/stops/{stops[1]}", new { @event = "delivered", receivedBy = "R. Dahl" })).Ok;
    }

    [Fact]
    public async Task A_customers_link_shows_where_its_load_is_and_nothing_else()
    {
        var (owner, load, _) = await Rolling(17);
        var url = (await owner.Post($"loads/{load}/track")).Ok["url"]!.GetValue<string>();
        var seen = (await business.Nobody().Get($"track/{url.Split('/')[^1]}")).Ok;
        Assert.Equal("on the road, left Great Falls MT", seen["where"]!.GetValue<string>());
        Assert.Equal("PO otherwise 17", seen["reference"]!.GetValue<string>());
        Assert.NotNull(seen["expectedFrom"]);
        foreach (var secret in new[] { "Driver", "1298", "1100", "Snowberry", "Td17", "Rd17" })
        {
            Assert.DoesNotContain(secret, seen.ToJsonString(), StringComparison.Ordinal);
        }

        Assert.Equal(HttpStatusCode.NotFound, (await business.Nobody().Get($"track/{new string('0', 40)}")).Status);
    }

    [Fact]
    public async Task The_line_previews_both_actions_of_one_sentence()
    {
        var (owner, load, _) = await Rolling(20);
        var number = (await Load(owner, load))["number"]!.GetValue<string>();
        async Task<JsonNode> Ask(string summary) => (await owner.Get($"line?q={Uri.EscapeDataString(summary)}")).Ok["actions"]![0]!;
        var both = await Ask($"{number} delivered, 3 cases short, signed R. Dahl");
        Assert.Null(both["problem"]);
        Assert.Equal(
            ("delivered", "short", 3),
            (both["event"]!.GetValue<string>(), both["report"]!["kind"]!.GetValue<string>(), both["report"]!["pieces"]!.GetValue<int>())
        );
        Assert.Contains("; 3 short for Spokane", both["title"]!.GetValue<string>(), StringComparison.Ordinal);
        var delay = await Ask($"{number} running 2 hours late, snow on the pass");
        Assert.Contains("new time for Spokane, now", delay["title"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Contains(
            "Record the arrival",
            (await Ask($"{number} refused, wrong temperature"))["problem"]!.GetValue<string>(),
            StringComparison.Ordinal
        );
        var note = await Ask($"{number} note call the receiver before arrival");
        _ = (await owner.Post($"loads/{load}/reports", note["report"])).Ok;
        Assert.Equal("call the receiver before arrival", (await View(owner, load))["sheet"]!["reports"]![0]!["note"]!.GetValue<string>());
    }
}
