using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using System.Xml.Linq;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Ways by road and by hand, what trips cost, places' grounds, and plans of many small stops.</summary>
public class RoutesAndRuns(TestBusiness business) : IClassFixture<TestBusiness>
{
    [Fact]
    public async Task Manual_miles_are_used_everywhere_next_to_the_road_miles()
    {
        var owner = await business.As(Role.Owner);
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(2, "PO way")))!;
        order["charges"] = JsonNode.Parse(
            """[{"kind":"line_haul","basis":"per_mile","rate":2.5},{"kind":"fuel_surcharge","basis":"percent","rate":10}]"""
        );
        var load = (await owner.Post("loads", order)).Id;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("lena"))).Ok;
        var before = (await owner.Get($"loads/{load}")).Ok["sheet"]!;
        var stops = before["load"]!["stops"]!.AsArray();
        var (first, last) = (stops[0]!["id"]!.GetValue<long>(), stops[1]!["id"]!.GetValue<long>());
        var road = stops[1]!["roadMiles"]!.GetValue<double>();
        Assert.InRange(road, 340, 400);

        Assert.Equal(["milesWhy"], (await owner.Post($"loads/{load}/stops/{last}/route", new { miles = 500 })).Fields);
        Assert.Equal(["miles"], (await owner.Post($"loads/{load}/stops/{first}/route", new { miles = 500, milesWhy = "x" })).Fields);
        var set = (await owner.Post($"loads/{load}/stops/{last}/route", new { miles = 500, milesWhy = "as the customer counts" })).Ok;
        Assert.Equal(500, set["miles"]!.GetValue<int>());
        Assert.Equal("1375.00", set["revenue"]!["amount"]!.GetValue<string>());

        var after = (await owner.Get($"loads/{load}")).Ok["sheet"]!;
        Assert.Equal((500, 500), (after["load"]!["miles"]!.GetValue<int>(), after["legs"]![0]!["miles"]!.GetValue<int>()));
        Assert.Equal("300.00", after["legs"]![0]!["wage"]!["amount"]!.GetValue<string>()[..6]);
        var stop = after["load"]!["stops"]![1]!;
        Assert.Equal(
            (road, "as the customer counts", "The owner"),
            (stop["roadMiles"]!.GetValue<double>(), stop["milesWhy"]!.GetValue<string>(), stop["milesBy"]!.GetValue<string>())
        );

        // The states share in what was set; they sum to it.
        var trip = (await owner.Get($"loads/{load}/trip")).Ok;
        Assert.Equal(500, trip["stretches"]![0]!["miles"]!.GetValue<double>());
        Assert.InRange(
            trip["byState"]!.AsObject().Sum(s => s.Value!.GetValue<double>()) - trip["emptyMiles"]!.GetValue<double>(),
            499.7,
            500.3
        );
        Assert.Equal(["MT", "ID", "WA"], trip["byState"]!.AsObject().Select(s => s.Key));

        // Led over Butte it is longer, and Butte is on the line; then the roads decide again.
        var over = (
            await owner.Post(
                $"loads/{load}/stops/{last}/route",
                new
                {
                    via = new[]
                    {
                        new
                        {
                            name = "Butte MT",
                            latitude = 46.0038,
                            longitude = -112.5347,
                        },
                    },
                }
            )
        ).Ok["miles"]!.GetValue<int>();
        Assert.InRange(over, road + 20, 500);
        var sea = await owner.Post(
            $"loads/{load}/stops/{last}/route",
            new
            {
                via = new[]
                {
                    new
                    {
                        name = "The buoy",
                        latitude = 40.2,
                        longitude = -73.0,
                    },
                },
            }
        );
        Assert.Equal("outside", sea.Code);
        Assert.Contains("The buoy is in the water", sea.Body!["errors"]![0]!["message"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(
            (int)Math.Round(road),
            (await owner.Post($"loads/{load}/stops/{last}/route", new { via = Array.Empty<object>() })).Ok["miles"]!.GetValue<int>()
        );
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await (await business.As(Role.ReadOnly)).Post($"loads/{load}/stops/{last}/route", new { via = Array.Empty<object>() })).Status
        );
    }

    [Theory]
    [InlineData("text/csv", "name,address,minutes\nA,Missoula MT,10\nB,Hamilton MT,10\nC,Polson MT,5\n", 3)]
    [InlineData("application/x-www-form-urlencoded", "Missoula MT\nButte MT\n", 2)]
    [InlineData("application/json", "{\"miles\":[[0,4,6],[4,0,3],[6,3,0]],\"depot\":0}", 2)]
    public async Task Scripts_plan_files_of_any_content_type_and_small_ones_quickly(string type, string file, int stops)
    {
        var owner = await business.As(Role.Owner);
        var began = System.Diagnostics.Stopwatch.StartNew();
        var plan = (await owner.Upload("route-plan?drivers=1", Encoding.UTF8.GetBytes(file), type)).Ok;
        Assert.Equal(stops, plan["routes"]!.AsArray().Sum(r => r!["stops"]!.AsArray().Count));
        Assert.True(began.Elapsed < TimeSpan.FromSeconds(15), $"{began.Elapsed}: twenty seconds are for hundreds of stops");
        Assert.Equal(["seconds"], (await owner.Upload("route-plan?seconds=61", Encoding.UTF8.GetBytes(file), type)).Fields);
    }

    [Theory]
    [InlineData("40.2,-73.0", "is in the water")]
    [InlineData("Nantucket MA", "island")]
    [InlineData("Anchorage AK", "outside our road network")]
    [InlineData("Monterrey Mexico", "Mexico")]
    [InlineData("Springfield", "choose one")]
    [InlineData("Bute MT", "Butte MT")]
    public async Task Unreachable_places_are_explained_everywhere(string place, string why)
    {
        var owner = await business.As(Role.Owner);
        var route = await owner.Post("route", new { from = "Missoula MT", to = place });
        Assert.Equal(["to"], route.Fields);
        Assert.Contains(why, route.Body!["errors"]![0]!["message"]!.GetValue<string>(), StringComparison.Ordinal);
        var near = await owner.Get($"map/near?at={Uri.EscapeDataString(place)}");
        Assert.Contains(why, near.Body!["errors"]![0]!["message"]!.GetValue<string>(), StringComparison.Ordinal);
        var list = (await owner.Post("addresses/text", new { text = $"Dock; {place}; 10 min" })).Ok;
        Assert.Contains(why, list["lines"]![0]!["why"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal(0, list["found"]!.GetValue<int>());
    }

    [Fact]
    public async Task An_edited_load_keeps_its_manual_miles_and_their_author()
    {
        var owner = await business.As(Role.Owner);
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(3, "PO kept")))!;
        order["stops"]![1]!["routeOverride"] = JsonNode.Parse("""{"miles":410,"milesWhy":"closed pass","via":[]}""");
        var load = (await owner.Post("loads", order)).Id;
        order["reference"] = "PO kept still";
        var broker = await business.As(Role.Broker);
        _ = (await broker.Put($"loads/{load}", order)).Ok;
        var stop = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["stops"]![1]!;
        Assert.Equal((410, "The owner"), (stop["milesSet"]!.GetValue<int>(), stop["milesBy"]!.GetValue<string>()));
    }

    [Fact]
    public async Task Trip_costs_come_from_the_cost_assumptions_until_entered()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(4, "PO cost"))).Id;
        _ = (
            await owner.Put(
                "company-settings",
                new
                {
                    milesPerGallon = 5,
                    fuelPrice = 4,
                    fixedPerMile = 0.1,
                    fixedPerDay = 100,
                    driverPerMile = 0.5,
                    tollPerMile = 0.4,
                }
            )
        ).Ok;
        var trip = (await owner.Get($"loads/{load}/trip")).Ok;
        var miles = Math.Round((decimal)trip["loadedMiles"]!.GetValue<double>(), MidpointRounding.AwayFromZero);
        decimal Part(JsonNode t, string part) =>
            decimal.Parse(t["cost"]![part]!["amount"]!.GetValue<string>(), System.Globalization.CultureInfo.InvariantCulture);
        Assert.Equal((miles / 5 * 4, miles * 0.5m), (Part(trip, "fuel"), Part(trip, "driver")));
        var days = trip["cost"]!["days"]!.GetValue<decimal>();
        Assert.Equal((miles * 0.1m) + (days * 100), Part(trip, "truck"));
        Assert.Equal(1298.59m - Part(trip, "total"), Part(trip, "profit"));

        var fuel = (await owner.Post($"loads/{load}/costs", new { kind = "fuel", expected = TestBusiness.Usd(300m) })).Id;
        _ = (
            await owner.Post(
                $"loads/{load}/costs",
                new
                {
                    kind = "lodging",
                    expected = TestBusiness.Usd(89.9m),
                    note = "one night",
                }
            )
        ).Ok;
        var now = (await owner.Get($"loads/{load}/trip")).Ok;
        Assert.Equal((300m, 89.9m), (Part(now, "fuel"), Part(now, "other")));
        _ = (await owner.Post($"loads/{load}/costs/{fuel}/remove")).Ok;
        Assert.Equal(Part(trip, "fuel"), Part((await owner.Get($"loads/{load}/trip")).Ok, "fuel"));
        Assert.Equal("not.found", (await owner.Post($"loads/{load}/costs/{fuel}/remove")).Code);
        Assert.Equal(["expected"], (await owner.Post($"loads/{load}/costs", new { kind = "toll" })).Fields);
    }

    [Fact]
    public async Task A_route_downloads_as_gpx_geojson_csv_and_a_trip_sheet()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(5, "PO files"))).Id;
        async Task<byte[]> File(string format) =>
            await (await owner.Http.GetAsync($"api/loads/{load}/route?format={format}"))
                .EnsureSuccessStatusCode()
                .Content.ReadAsByteArrayAsync();

        var gpx = XDocument.Load(new MemoryStream(await File("gpx"))).Root!;
        var space = XNamespace.Get("http://www.topografix.com/GPX/1/1");
        Assert.Equal((space + "gpx", "1.1"), (gpx.Name, gpx.Attribute("version")!.Value));
        Assert.Equal(["47.5002", "47.6597"], gpx.Elements(space + "wpt").Select(w => w.Attribute("lat")!.Value));

        // The elements stand in the order of the schema's sequences.
        Assert.Equal(["metadata", "wpt", "wpt", "rte", "trk"], gpx.Elements().Select(e => e.Name.LocalName));
        Assert.True(gpx.Descendants(space + "trkpt").Count() > 5);

        var geo = JsonNode.Parse(await File("geo_json"))!;
        Assert.Equal("LineString", geo["features"]![0]!["geometry"]!["type"]!.GetValue<string>());
        Assert.Equal([-111.3008, 47.5002], geo["features"]![1]!["geometry"]!["coordinates"]!.AsArray().Select(c => c!.GetValue<double>()));

        var csv = Encoding.UTF8.GetString(await File("csv")).TrimStart('\uFEFF').Split("\r\n");
        Assert.StartsWith("stop,kind,name", csv[0], StringComparison.Ordinal);
        Assert.StartsWith("2,delivery,Northgate Cold Storage", csv[2], StringComparison.Ordinal);
        Assert.Equal("%PDF"u8.ToArray(), (await File("pdf"))[..4]);

        // A driver sees their own sheet only, and no money on any.
        var driver = await business.As(Role.Driver);
        Assert.Equal(HttpStatusCode.NotFound, (await driver.Http.GetAsync($"api/mine/loads/{load}/trip-sheet")).StatusCode);
        Assert.Equal(HttpStatusCode.Forbidden, (await driver.Get($"loads/{load}/trip")).Status);
    }

    [Fact]
    public async Task A_place_keeps_its_geofence_hours_and_location()
    {
        var owner = await business.As(Role.Owner);
        var place = (await owner.Get($"places/{business.Ids["handover"]}")).Ok;
        var changed = (
            await owner.Put(
                $"places/{business.Ids["handover"]}",
                new
                {
                    name = place["name"],
                    latitude = 46.88,
                    longitude = -114.01,
                    serviceMinutes = 90,
                    hours = "6 to 15",
                    bookingNote = "no drop trailers",
                    geofence = new[]
                    {
                        new[] { -114.02, 46.87 },
                        new[] { -114.0, 46.87 },
                        new[] { -114.0, 46.89 },
                        new[] { -114.02, 46.89 },
                    },
                }
            )
        ).Ok;
        Assert.Equal((4, 90), (changed["geofence"]!.AsArray().Count, changed["serviceMinutes"]!.GetValue<int>()));
        Assert.Equal(
            "geofence.crossed",
            (
                await owner.Put(
                    $"places/{business.Ids["handover"]}",
                    new
                    {
                        name = place["name"],
                        geofence = new[]
                        {
                            new[] { -114.02, 46.87 },
                            new[] { -114.0, 46.89 },
                            new[] { -114.0, 46.87 },
                            new[] { -114.02, 46.89 },
                        },
                    }
                )
            ).Code
        );
        Assert.Equal(
            "coordinates",
            (
                await owner.Put(
                    $"places/{business.Ids["handover"]}",
                    new
                    {
                        name = place["name"],
                        latitude = 40.0,
                        longitude = -100.0,
                    }
                )
            ).Code
        );

        // Its own time there is planned with: an hour and a half, not one.
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(6, "PO service")))!;
        order["stops"]![0]!["placeId"] = business.Ids["handover"];
        var load = (await owner.Post("loads", order)).Id;
        var visit = (await owner.Get($"loads/{load}")).Ok["visits"]![0]!;
        Assert.Equal(
            90,
            (
                DateTimeOffset.Parse(visit["leaves"]!.GetValue<string>(), null)
                - DateTimeOffset.Parse(visit["arrives"]!.GetValue<string>(), null)
            ).TotalMinutes
        );
    }

    [Fact]
    public async Task Stops_become_runs_that_are_edited_and_replanned_in_progress()
    {
        var owner = await business.As(Role.Owner);
        var id = await TestBusiness.Run(owner);
        var plan = (await owner.Get($"runs/{id}")).Ok;
        Assert.Equal(1, plan["drivers"]!.GetValue<int>());
        Assert.Equal([0, 1, 2], plan["runs"]!.AsArray().SelectMany(r => r!["stops"]!.AsArray()).Select(s => s!.GetValue<int>()).Order());
        var total = plan["miles"]!.GetValue<double>();

        // What a move costs is told before it is done, and then is what it cost.
        var told = (
            await owner.Post(
                $"runs/{id}/move",
                new
                {
                    stop = 0,
                    driver = 1,
                    place = 0,
                    @try = true,
                }
            )
        ).Ok["miles"]!.GetValue<double>();
        Assert.Equal(total, (await owner.Get($"runs/{id}")).Ok["miles"]!.GetValue<double>());
        var moved = (
            await owner.Post(
                $"runs/{id}/move",
                new
                {
                    stop = 0,
                    driver = 1,
                    place = 0,
                }
            )
        ).Ok["plan"]!;
        Assert.Equal(total + told, moved["miles"]!.GetValue<double>(), 0.2);
        Assert.Equal(2, moved["drivers"]!.GetValue<int>());

        // A new stop goes where it costs least: Deer Lodge to whoever passes it.
        var put = (
            await owner.Post(
                $"runs/{id}/insert",
                new
                {
                    stop = new
                    {
                        name = "Anaconda",
                        at = new
                        {
                            label = "Anaconda MT",
                            latitude = 46.1285,
                            longitude = -112.9423,
                        },
                        service = 5,
                    },
                }
            )
        ).Ok["plan"]!;
        Assert.Equal(4, put["runs"]!.AsArray().Sum(r => r!["stops"]!.AsArray().Count));

        // Done stays done, locked stays with its driver.
        _ = (await owner.Post($"runs/{id}/mark", new { stop = 0, done = true })).Ok;
        var second = put["runs"]![0]!["stops"]![0]!.GetValue<int>();
        _ = (await owner.Post($"runs/{id}/mark", new { stop = second, locked = true })).Ok;
        Assert.Equal(
            "run.done",
            (
                await owner.Post(
                    $"runs/{id}/move",
                    new
                    {
                        stop = 0,
                        driver = 0,
                        place = 0,
                    }
                )
            ).Code
        );
        _ = (await owner.Post($"runs/{id}/replan", new { from = 480 })).Ok;
        var again = await TestBusiness.Thought(owner, id);
        var done = put["runs"]![1]!["stops"]!.AsArray().Select(s => s!.GetValue<int>()).TakeWhile(s => s != 0).Append(0).ToList();
        Assert.Equal(done, again["runs"]![1]!["stops"]!.AsArray().Select(s => s!.GetValue<int>()).Take(done.Count));
        Assert.Contains(second, again["runs"]![0]!["stops"]!.AsArray().Select(s => s!.GetValue<int>()));
        Assert.Equal(
            [0, 1, 2, 3],
            again["runs"]!.AsArray().SelectMany(r => r!["stops"]!.AsArray()).Select(s => s!.GetValue<int>()).Order()
        );
        foreach (var format in new[] { "gpx", "geo_json", "csv", "pdf" })
        {
            Assert.NotEmpty(
                await (await owner.Http.GetAsync($"api/runs/{id}/file?format={format}"))
                    .EnsureSuccessStatusCode()
                    .Content.ReadAsByteArrayAsync()
            );
        }
    }

    [Fact]
    public async Task An_unreachable_stop_is_left_out_with_a_reason_and_a_plan_can_be_canceled()
    {
        var owner = await business.As(Role.Owner);
        var late = new[]
        {
            new
            {
                name = "Miles City",
                at = new
                {
                    label = "Miles City MT",
                    latitude = 46.4083,
                    longitude = -105.8406,
                },
                service = 10,
                closes = 480,
            },
        };
        var plan = (await owner.Get($"runs/{await TestBusiness.Run(owner, "fewest", new { stops = late })}")).Ok;
        Assert.Matches(
            "no driver can arrive before 1[0-9]:[0-9]{2}, and its window closes at 08:00",
            plan["unserved"]![0]!["why"]!.GetValue<string>()
        );

        var many = Enumerable
            .Range(0, 60)
            .Select(i => new
            {
                name = $"S{i}",
                at = new
                {
                    label = "x",
                    latitude = 45.6 + (i % 8 * 0.13),
                    longitude = -113.9 + (i / 8 * 0.33),
                },
                service = 5,
            })
            .ToArray();
        var id = (
            await owner.Post(
                "runs",
                new
                {
                    start = new
                    {
                        label = "Butte MT",
                        latitude = 46.0,
                        longitude = -112.53,
                    },
                    roundTrip = true,
                    from = 420,
                    share = "any",
                    drivers = 4,
                    objective = "minutes",
                    stops = many,
                }
            )
        ).Id;
        _ = (await owner.Post($"runs/{id}/cancel")).Ok;
        var watch = System.Diagnostics.Stopwatch.StartNew();
        var ended = await TestBusiness.Thought(owner, id);
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(9), "ten seconds are usual for sixty stops");
        Assert.Equal(60, ended["runs"]!.AsArray().Sum(r => r!["stops"]!.AsArray().Count) + ended["unserved"]!.AsArray().Count);
    }

    [Fact]
    public async Task Two_thousand_addresses_with_every_error_are_answered_line_by_line()
    {
        var owner = await business.As(Role.Owner);
        var rows = new StringBuilder("name,address,service,from,until\r\n");
        string[] kinds =
        [
            "Butte MT",
            "59801",
            "Misoula MT",
            "Springfield",
            "Xyzzyq ZZ",
            "46.87,-113.99",
            "\"12 Depot Street, Helena MT 59601\"",
            "",
            "T1J 0P3",
            "Anchorage AK",
            "\"35.0,-140.0\"",
        ];
        for (var i = 0; i < 2000; i++)
        {
            rows.Append(
                System.Globalization.CultureInfo.InvariantCulture,
                $"S{i},{kinds[i % kinds.Length].Replace("46.87,-113.99", "\"46.87,-113.99\"", StringComparison.Ordinal)},{(i % 13 == 0 ? "soon" : "10")},{(i % 17 == 0 ? "25:00" : "8:00")},12:00\r\n"
            );
        }

        var list = (await owner.Upload("addresses", Encoding.UTF8.GetBytes(rows.ToString()))).Ok;
        var lines = list["lines"]!.AsArray();
        Assert.Equal(2000, lines.Count);
        Assert.Equal(2000, list["found"]!.GetValue<int>() + list["doubtful"]!.GetValue<int>() + list["notFound"]!.GetValue<int>());
        string Found(int i) => lines[i]!["found"]!.GetValue<string>();
        Assert.Equal(
            ["found", "doubtful", "doubtful", "not_found", "found", "found", "not_found", "found", "not_found", "not_found"],
            Enumerable.Range(1, 10).Select(Found)
        );
        Assert.All(lines, l => Assert.Equal(l!["found"]!.GetValue<string>() == "found", l["why"] is null));
        Assert.Contains("outside our road network", lines[9]!["why"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Contains("“25:00” is not a time of day", lines[17]!["why"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal("file.unreadable", (await owner.Upload("addresses", [0x50, 0x4B, 3, 4, 0, 0])).Code);
    }

    [Fact]
    public async Task Near_searches_by_road_along_a_route_and_within_a_zone()
    {
        var owner = await business.As(Role.Owner);
        var near = (await owner.Get("map/near?at=Missoula%20MT&miles=30")).Ok["found"]!.AsArray();
        Assert.Contains(near, n =>
            n!["kind"]!.GetValue<string>() == "place" && n["name"]!.GetValue<string>().StartsWith("Clark Fork", StringComparison.Ordinal)
        );
        var along = (await owner.Get("map/near?at=Great%20Falls%20MT&to=Spokane%20WA&miles=40")).Ok;
        Assert.Contains(along["found"]!.AsArray(), n => n!["name"]!.GetValue<string>().StartsWith("Northgate", StringComparison.Ordinal));
        Assert.DoesNotContain((await owner.Get("map/near?at=Missoula%20MT&miles=600&region=Pacific")).Ok["found"]!.AsArray(), n =>
            n!["name"]!.GetValue<string>().EndsWith(" MT", StringComparison.Ordinal)
        );
        Assert.Equal(["at"], (await owner.Get("map/near?at=Springfield")).Fields);
        Assert.Equal(["to"], (await owner.Get("map/near?at=Butte%20MT&to=Anchorage%20AK")).Fields);
        Assert.True((await owner.Http.GetAsync("api/map/base")).IsSuccessStatusCode);
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await TestBusiness.Disagreements(db));
    }
}
