using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Server.Tests.Fleet;

/// <summary>Drivers, trucks and trailers: added, edited, deactivated, and what a trip they are booked for forbids.</summary>
public class FleetLife(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static async Task<JsonNode> Of(Caller caller, string list, long id) =>
        (await caller.Get("fleet")).Ok[list]!.AsArray().Single(x => x!["id"]!.GetValue<long>() == id)!;

    [Fact]
    public async Task A_driver_is_added_with_a_short_name_and_a_home_town()
    {
        var owner = await business.As(Role.Owner);
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var town = await SteadyLark.Store.Basics.Sql.One<long>(
            db,
            "insert into towns (name, region, country, latitude, longitude, zone, population) values ('Missoula', 'MT', 'US', 46.87, -113.99, 'America/Denver', 73000) returning id"
        );
        var made = (
            await owner.Post(
                "drivers",
                new
                {
                    name = "Greta Solberg",
                    phone = "406-555-0161",
                    homeTownId = town,
                    active = true,
                }
            )
        ).Ok;
        Assert.Equal(("G. Solberg", "Missoula MT"), (made["shortName"]!.GetValue<string>(), made["homeTown"]!.GetValue<string>()));
        var id = made["id"]!.GetValue<long>();
        // Editing without a town keeps it.
        var edited = (
            await owner.Put(
                $"drivers/{id}",
                new
                {
                    name = "Greta Solberg",
                    shortName = "Greta S.",
                    active = true,
                }
            )
        ).Ok;
        Assert.Equal(("Greta S.", "Missoula MT"), (edited["shortName"]!.GetValue<string>(), edited["homeTown"]!.GetValue<string>()));
        Assert.Equal(
            ["name", "email", "homeTownId"],
            (
                await owner.Post(
                    "drivers",
                    new
                    {
                        name = "",
                        email = "nowhere",
                        homeTownId = 99_999_999,
                        active = true,
                    }
                )
            ).Fields
        );
    }

    [Fact]
    public async Task Whoever_is_booked_for_a_trip_cannot_be_deactivated_until_it_is_unassigned()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(4, "PO fleet"))).Id;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("lena"))).Ok;
        var trip = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["trip"]!.GetValue<string>();
        var (driver, truck, trailer) = (business.Ids["lena"], business.Ids["lena truck"], business.Ids["lena trailer"]);
        foreach (
            var (path, body, code) in new (string, object, string)[]
            {
                ($"drivers/{driver}", new { name = "Lena Haugen", active = false }, "driver.busy"),
                ($"trucks/{truck}", new { unit = "119", active = false }, "truck.busy"),
                (
                    $"trailers/{trailer}",
                    new
                    {
                        unit = "5307",
                        equipment = "reefer",
                        active = false,
                    },
                    "trailer.busy"
                ),
                (
                    $"trailers/{trailer}",
                    new
                    {
                        unit = "5307",
                        equipment = "van",
                        active = true,
                    },
                    "trailer.busy"
                ),
            }
        )
        {
            var answer = await owner.Put(path, body);
            Assert.Equal(code, answer.Code);
            Assert.Contains(trip, answer.Body!["errors"]![0]!["message"]!.GetValue<string>(), StringComparison.Ordinal);
        }

        _ = (await owner.Post($"loads/{load}/unassign")).Ok;
        Assert.False((await owner.Put($"trucks/{truck}", new { unit = "119", active = false })).Ok["active"]!.GetValue<bool>());
        // An inactive truck is not offered, and refused by name.
        Assert.DoesNotContain((await owner.Get($"loads/{load}/choices")).Ok["trucks"]!.AsArray(), t => t!["id"]!.GetValue<long>() == truck);
        Assert.Equal(["truckId"], (await owner.Post($"loads/{load}/cover/driver", business.Crew("lena"))).Fields);
        _ = (await owner.Put($"trucks/{truck}", new { unit = "119", active = true })).Ok;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("lena"))).Ok;
        _ = (await owner.Post($"loads/{load}/unassign")).Ok;
    }

    [Fact]
    public async Task A_unit_number_counts_once_in_any_case_and_a_trailer_has_a_type()
    {
        var owner = await business.As(Role.Owner);
        var truck = (
            await owner.Post(
                "trucks",
                new
                {
                    unit = "K-7",
                    make = "cabover",
                    active = true,
                }
            )
        ).Ok["id"]!.GetValue<long>();
        Assert.Equal(["unit"], (await owner.Post("trucks", new { unit = "k-7", active = true })).Fields);
        Assert.Equal(["unit"], (await owner.Post("trucks", new { unit = " ", active = true })).Fields);
        // A truck and a trailer may share a number.
        _ = (
            await owner.Post(
                "trailers",
                new
                {
                    unit = "K-7",
                    equipment = "flatbed",
                    active = true,
                }
            )
        ).Ok;
        Assert.Equal(["equipment"], (await owner.Post("trailers", new { unit = "K-8", active = true })).Fields);
        Assert.Equal("cabover", (await Of(owner, "trucks", truck))["make"]!.GetValue<string>());
    }

    [Fact]
    public async Task A_handover_to_an_inactive_trailer_or_one_of_another_type_is_refused()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(0, "PO swap"))).Id;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("moses"))).Ok;
        var stops = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["stops"]!
            .AsArray()
            .Select(s => s!["id"]!.GetValue<long>())
            .ToArray();
        _ = (await owner.Post($"loads/{load}/stops/{stops[0]}", new { @event = "left", at = "2026-11-23T14:00:00Z" })).Ok;
        var spare = (
            await owner.Post(
                "trailers",
                new
                {
                    unit = "5399",
                    equipment = "reefer",
                    active = true,
                }
            )
        ).Ok["id"]!.GetValue<long>();
        _ = (
            await owner.Put(
                $"trailers/{spare}",
                new
                {
                    unit = "5399",
                    equipment = "reefer",
                    active = false,
                }
            )
        ).Ok;
        object To(long trailer) =>
            new
            {
                placeId = business.Ids["handover"],
                driverId = business.Ids["lena"],
                truckId = business.Ids["lena truck"],
                trailerId = trailer,
                at = "2026-11-23T16:00:00Z",
            };
        Assert.Equal("missing", (await owner.Post($"loads/{load}/handover", To(spare))).Code);
        Assert.Equal("trailer.equipment", (await owner.Post($"loads/{load}/handover", To(business.Ids["van"]))).Code);
        _ = (await owner.Post($"loads/{load}/handover", To(business.Ids["moses trailer"]))).Ok;
        Assert.Equal("L. Haugen", (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["who"]!.GetValue<string>());
        _ = (await owner.Post($"loads/{load}/stops/{stops[1]}", new { @event = "delivered", at = "2026-11-23T16:30:00Z" })).Ok;
    }
}
