using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Line;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>Liquids in compartments and vehicles on decks: lists, trailers, booking, trips, and what is loaded already.</summary>
public sealed class TanksAndDecks(TestBusiness business) : SharedTripTest(business)
{
    private static string Messages(Answer answer) => string.Join(' ', answer.Body!["errors"]!.AsArray().Select(p => Word(p!["message"])));

    /// <summary>A trailer of a kind; one of a tanker's compartments, or of a hauler's decks.</summary>
    private async Task<long> Trailer(
        Caller owner,
        string unit,
        decimal[]? compartments = null,
        object[]? decks = null,
        string[]? features = null
    )
    {
        var made = await owner.Post(
            "trailers",
            new
            {
                unit,
                equipment = decks is null ? "tanker" : "car_hauler",
                active = true,
                compartments,
                decks,
                features,
            }
        );
        return Business.Ids[unit] = made.Id;
    }

    private static async Task<Dictionary<string, long>> Products(Caller owner)
    {
        var list = (
            await owner.Put(
                "products",
                new
                {
                    products = new object[]
                    {
                        new
                        {
                            productId = await Known("corn syrup"),
                            name = "corn syrup",
                            lbPerGallon = 11.8,
                            temperatureF = 120,
                            notAfter = new[] { "Dish Soap" },
                        },
                        new
                        {
                            productId = await Known("dish soap"),
                            name = "dish soap",
                            lbPerGallon = 8.6,
                            notAfter = new[] { "corn syrup" },
                            apart = new[] { "canola oil" },
                        },
                        new
                        {
                            productId = await Known("canola oil"),
                            name = "canola oil",
                            lbPerGallon = 7.65,
                            ownCompartments = true,
                        },
                    },
                }
            )
        ).Ok.AsArray();
        return list.ToDictionary(p => Word(p!["name"]), p => Id(p));

        async Task<long?> Known(string name) =>
            (await owner.Get("products")).Ok.AsArray().FirstOrDefault(p => Word(p!["name"]) == name) is { } p ? Id(p) : null;
    }

    private JsonNode Load(int day, string from, string to, string equipment, params object[] freight)
    {
        var order = JsonNode.Parse(
            System.Text.Json.JsonSerializer.Serialize(Business.Order(day - 23, $"PO {equipment} {from} {to}", 900m))
        )!;
        foreach (var (place, i) in new[] { from, to }.Select((p, i) => (p, i)))
        {
            order["stops"]![i]!["placeId"] = Business.Ids[place];
            order["stops"]![i]!["from"] = $"2026-11-{day}T06:00:00";
            order["stops"]![i]!["until"] = $"2026-11-{day + 2}T20:00:00";
        }

        order["equipment"] = equipment;
        order["freight"] = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(freight));
        return order;
    }

    private static object Liquid(long product, decimal volume, string unit = "gallons") =>
        new
        {
            bulk = new
            {
                productId = product,
                volume,
                unit,
            },
        };

    private static object Car(string body = "wagon", bool runs = true, int? heightIn = null, string? vin = null) =>
        new
        {
            heightIn,
            vehicle = new
            {
                year = 2021,
                make = "Larkspur",
                model = "Ridge",
                body,
                runs,
                keys = true,
                vin,
            },
        };

    private Task<Answer> Cover(Caller owner, long load, string driver, string trailer) =>
        owner.Post(
            $"loads/{load}/cover/driver",
            new
            {
                driverId = Business.Ids[driver],
                truckId = Business.Ids[$"{driver} truck"],
                trailerId = Business.Ids[trailer],
            }
        );

    private async Task<long> TripWith(Caller owner, long load, string driver, string trailer)
    {
        _ = (await Cover(owner, load, driver, trailer)).Ok;
        return (await Sheet(owner, load))["load"]!["tripId"]!.GetValue<long>();
    }

    /// <summary>What is where after each visit: 1:1200 for 1,200 gallons, or a vehicle, in the first place.</summary>
    private static string[] Loading(JsonNode trip) =>
        trip["loading"]![0]!["after"]!
            .AsArray()
            .Select(a =>
                string.Join(
                    ' ',
                    a!["places"]!
                        .AsArray()
                        .SelectMany((p, i) => p!["freight"]!.AsArray().Select(f => $"{i + 1}:{f!["amount"]!.GetValue<decimal>():0.#}"))
                )
            )
            .ToArray();

    [Fact]
    public async Task Orders_share_a_tank_over_a_trip_and_what_does_not_fit_is_refused_in_words()
    {
        var owner = await Business.As(Role.Owner);
        var products = await Products(owner);
        var (syrup, soap, oil) = (products["corn syrup"], products["dish soap"], products["canola oil"]);
        Assert.Equal("product.used", (await Used(owner, soap)).Code);
        await Trailer(owner, "8301", [1_500, 1_000]);

        // Weight and temperature come from the product; liters count too.
        var whole = (await owner.Post("loads", Load(25, "from", "to", "tanker", Liquid(syrup, 5_678.1m, "liters")))).Id;
        var line = (await Sheet(owner, whole))["freight"]![0]!;
        Assert.Equal(
            (1_500m, 17_700, 120),
            (line["bulk"]!["gallons"]!.GetValue<decimal>(), line["weightLb"]!.GetValue<int>(), line["temperatureF"]!.GetValue<int>())
        );
        Assert.Equal("Corn syrup", Word(line["description"]));

        // One gallon more than the trailer takes, on Cover and on the plan.
        var large = (await owner.Post("loads", Load(25, "from", "to", "tanker", Liquid(syrup, 2_501)))).Id;
        var refused = await Cover(owner, large, "moses", "8301");
        Assert.Equal("tank.full trailerId", $"{refused.Code} {refused.Fields.Single()}");
        Assert.Contains("2,500 gal would fit, 1 gal less", Messages(refused), StringComparison.Ordinal);

        var trip = await TripWith(owner, whole, "moses", "8301");
        Assert.Equal(["1:1500", ""], Loading(await Trip(owner, trip)));
        var part = (await owner.Post("loads", Load(25, "from", "handover", "tanker", Liquid(soap, 1_001)))).Id;
        Assert.DoesNotContain((await owner.Get($"trips/{trip}/loads")).Ok.AsArray(), o => o!["loadId"]!.GetValue<long>() == part);
        var full = await owner.Post($"loads/{part}/cover/trip", new { tripId = trip, allowLate = true });
        // Hauled before it, soap would need a wash.
        Assert.Contains(full.Code, new[] { "tank.full", "tank.wash" });
        _ = (await owner.Put($"loads/{part}", Load(25, "from", "handover", "tanker", Liquid(soap, 1_000)))).Ok;
        _ = (await owner.Post($"loads/{part}/cover/trip", new { tripId = trip, allowLate = true })).Ok;
        Assert.Contains("1:1500 2:1000", Loading(await Trip(owner, trip)));

        // Both stay within the tank when they, or it, are changed.
        var more = await owner.Put($"loads/{part}", Load(25, "from", "handover", "tanker", Liquid(soap, 1_001)));
        Assert.Contains("1,000 gal would fit, 1 gal less", Messages(more), StringComparison.Ordinal);
        var smaller = await owner.Put(
            $"trailers/{Business.Ids["8301"]}",
            new
            {
                unit = "8301",
                equipment = "tanker",
                active = true,
                compartments = new[] { 1_500, 900 },
            }
        );
        Assert.Equal("compartments", smaller.Fields.Single());
        Assert.Equal(
            "trailer.busy",
            (
                await owner.Put(
                    $"trailers/{Business.Ids["8301"]}",
                    new
                    {
                        unit = "8301",
                        equipment = "van",
                        active = true,
                    }
                )
            ).Code
        );

        // Canola oil may not ride with soap: it is hauled afterwards, and not beside it.
        var apart = (await owner.Post("loads", Load(25, "from", "handover", "tanker", Liquid(oil, 10)))).Id;
        _ = (await owner.Post($"loads/{apart}/cover/trip", new { tripId = trip, allowLate = true })).Ok;
        var visits = (await Trip(owner, trip))["visits"]!.AsArray();
        var order = visits.OrderBy(v => Word(v!["kind"]) == "pickup" ? 0 : 1).Select(v => Id(v)).ToArray();
        Assert.Equal("tank.apart", (await owner.Put($"trips/{trip}/order", new { order, allowLate = true })).Code);
        Assert.Empty(await Wrong());
    }

    /// <summary>A list without a product, while a load of it is open.</summary>
    private async Task<Answer> Used(Caller owner, long product)
    {
        var load = (await owner.Post("loads", Load(28, "from", "to", "tanker", Liquid(product, 100)))).Id;
        var answer = await owner.Put("products", new { products = Array.Empty<object>() });
        _ = (await owner.Post($"loads/{load}/cancel", new { why = "only tried" })).Ok;
        return answer;
    }

    [Fact]
    public async Task Soap_then_syrup_needs_a_wash_on_the_trip_and_what_is_on_board_stays_where_it_is()
    {
        var owner = await Business.As(Role.Owner);
        var products = await Products(owner);
        var (syrup, soap) = (products["corn syrup"], products["dish soap"]);
        await Trailer(owner, "8302", [1_200]);
        var first = (await owner.Post("loads", Load(25, "from", "handover", "tanker", Liquid(soap, 900)))).Id;
        var trip = await TripWith(owner, first, "lena", "8302");
        var second = (await owner.Post("loads", Load(25, "handover", "to", "tanker", Liquid(syrup, 900)))).Id;
        var soiled = await owner.Post($"loads/{second}/cover/trip", new { tripId = trip, allowLate = true });
        Assert.Equal("tank.wash", soiled.Code);
        Assert.Contains("Corn syrup may not follow dish soap without a wash", Messages(soiled), StringComparison.Ordinal);

        // With a wash after the soap was delivered, it goes.
        var wash = (
            await owner.Post(
                $"trips/{trip}/stops",
                new
                {
                    kind = "wash",
                    placeId = Business.Ids["handover"],
                    allowLate = true,
                }
            )
        ).Ok;
        var sheet = await Trip(owner, trip);
        var order = sheet["visits"]!.AsArray().OrderBy(v => v!["own"] is null ? 0 : 1).Select(v => Id(v)).ToArray();
        _ = (await owner.Put($"trips/{trip}/order", new { order, allowLate = true })).Ok;
        _ = (await owner.Post($"loads/{second}/cover/trip", new { tripId = trip, allowLate = true })).Ok;
        sheet = await Trip(owner, trip);
        Assert.Equal(["1:900", "", "", "1:900", ""], Loading(sheet));
        Assert.True(sheet["loading"]![0]!["after"]![2]!["places"]![0]!["wash"]!.GetValue<bool>());

        // The wash can neither be removed nor moved before the soap.
        var washId = sheet["visits"]!.AsArray().Select(v => v!).Single(v => v["own"] is not null);
        Assert.Equal("tank.wash", (await owner.Post($"trips/{trip}/stops/{Id(washId)}/remove")).Code);
        var early = Ids(sheet).Where(i => i != Id(washId)).Prepend(Id(washId)).ToArray();
        Assert.Equal("tank.wash", (await owner.Put($"trips/{trip}/order", new { order = early, allowLate = true })).Code);

        // Picked up, its compartment is stored; undone, it is open again.
        var stop = Id((await Sheet(owner, first))["load"]!["stops"]![0]!);
        Assert.Empty(await Stored(trip));
        _ = (await owner.Post($"loads/{first}/stops/{stop}", new { @event = "arrived" })).Ok;
        Assert.Equal(["1 0 900.0"], await Stored(trip));
        _ = (await owner.Post($"loads/{first}/stops/{stop}/undo")).Ok;
        Assert.Empty(await Stored(trip));
    }

    private async Task<List<string>> Stored(long trip)
    {
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        return await db.Rows(
            "select p.line || ' ' || p.place || ' ' || p.amount as what from leg_places p join legs g on g.id = p.leg_id where g.trip_id = @trip",
            r => r.Text("what"),
            ("trip", trip)
        );
    }

    private static readonly object[] Decks =
    [
        new
        {
            name = "upper",
            lengthIn = 600,
            heightIn = 70,
            payloadLb = 14_000,
        },
        new
        {
            name = "lower",
            lengthIn = 420,
            heightIn = 76,
            payloadLb = 10_000,
        },
    ];

    [Fact]
    public async Task Vehicles_are_checked_one_by_one_and_together()
    {
        var owner = await Business.As(Role.Owner);
        await Trailer(owner, "9301", decks: Decks, features: ["winch"]);
        await Trailer(owner, "9302", decks: Decks);

        // A wrong check digit, an unknown body style, two vehicles in one line.
        var wrong = await owner.Post("loads", Load(26, "from", "to", "car_hauler", Car(vin: "11111111211111111"), Car("hearse")));
        Assert.Equal(["freight[0].vehicle.vin", "freight[1].vehicle.body"], wrong.Fields);
        Assert.Contains("should be 1 for these characters and is 2", Messages(wrong), StringComparison.Ordinal);

        // Its size comes from the body style; it is found by the end of its VIN.
        var load = (
            await owner.Post("loads", Load(26, "from", "to", "car_hauler", Car(vin: "1111 1111 1111 11111"), Car("sedan"), Car("sedan")))
        ).Id;
        var line = (await Sheet(owner, load))["freight"]![0]!;
        Assert.Equal("2021 Larkspur Ridge wagon, VIN 11111111111111111", Word(line["description"]));
        Assert.Equal((1, 191), (line["pieces"]!.GetValue<int>(), line["lengthIn"]!.GetValue<int>()));
        await using (var db = await Business.Db.Source.OpenConnectionAsync())
        {
            Assert.Contains(await FindStore.Find(db, ["111111111111"], ["load"], 5), f => f.Id == load);
        }

        // Three inches too tall; one that does not run needs a winch, which the load then requires of any trailer.
        var tall = (await owner.Post("loads", Load(26, "from", "to", "car_hauler", Car(heightIn: 79)))).Id;
        var high = await Cover(owner, tall, "moses", "9301");
        Assert.Equal("deck.height", high.Code);
        Assert.Contains("6 ft 7 in high, 3 in too tall for every deck of trailer 9301", Messages(high), StringComparison.Ordinal);
        var dead = (await owner.Post("loads", Load(26, "from", "handover", "car_hauler", Car("sedan", runs: false)))).Id;
        Assert.Equal(["winch"], (await Sheet(owner, dead))["load"]!["features"]!.AsArray().Select(Word));
        Assert.Contains((await Cover(owner, dead, "lena", "9302")).Code, new[] { "trailer.features", "deck.winch" });

        // Four ride together, two of them to the next town; the fifth does not fit, nor does the trip on a trailer without a winch.
        var trip = await TripWith(owner, load, "moses", "9301");
        _ = (await owner.Post($"loads/{dead}/cover/trip", new { tripId = trip, allowLate = true })).Ok;
        var sheet = await Trip(owner, trip);
        Assert.Equal(4, Loading(sheet).Max(l => l.Split(' ').Length));
        Assert.Equal(["upper", "lower"], sheet["loading"]![0]!["places"]!.AsArray().Select(p => Word(p!["name"])));
        var fifth = (await owner.Post("loads", Load(26, "from", "to", "car_hauler", Car("large SUV"), Car("large SUV")))).Id;
        var over = await owner.Post($"loads/{fifth}/cover/trip", new { tripId = trip, allowLate = true });
        Assert.Contains(over.Code, new[] { "deck.full", "capacity.weight" });
        var list = (await owner.Get("trailer-features")).Ok.AsArray().Select(f => Word(f!["name"])).Where(n => n != "winch");
        var without = await owner.Put("trailer-features", new { features = list.Select(n => new { was = n, name = n }) });
        Assert.Contains("Winch stays on the list", Messages(without), StringComparison.Ordinal);
        Assert.Empty(await Wrong());
    }

    [Fact]
    public async Task Cash_on_delivery_is_collected_by_the_driver_and_recorded_once()
    {
        var owner = await Business.As(Role.Owner);
        var driver = await Business.As(Role.Driver);
        var order = Load(27, "from", "to", "reefer", new { description = "butter", weightLb = 9_000 });
        order["cod"] = 850.00;
        var load = (await owner.Post("loads", order)).Id;
        var money = new { collected = Business.Dollars(850m), method = "cash" };
        Assert.Equal("load.state", (await owner.Put($"loads/{load}/cod", money)).Code);
        Assert.Equal("not.found", (await driver.Put($"mine/loads/{load}/cod", money)).Code);
        _ = (await Cover(owner, load, "moses", "moses trailer")).Ok;
        var mine = (await driver.Get("mine/loads")).Ok.AsArray().Single(l => Id(l) == load)!;
        Assert.Equal(850m, Amount(mine["cod"]!["amount"]));
        Assert.Equal(
            "cod.more",
            (await driver.Put($"mine/loads/{load}/cod", new { collected = Business.Dollars(850.01m), method = "cash" })).Code
        );
        Assert.Equal("missing", (await driver.Put($"mine/loads/{load}/cod", new { collected = Business.Dollars(850m) })).Code);
        Assert.Contains(
            "$850.00 of $850.00 collected, cash",
            Word((await driver.Put($"mine/loads/{load}/cod", money)).Ok["summary"]),
            StringComparison.Ordinal
        );
        var row = (await Sheet(owner, load))["load"]!["cod"]!;
        Assert.Equal(
            (850m, "cash", "Moses Okafor"),
            (Amount(row["collected"]), Word(row["method"]), Word(row["by"]).Replace("The driver", "Moses Okafor", StringComparison.Ordinal))
        );

        // What was collected is not taken off the load; undone, it may be.
        order["cod"] = 500.00;
        Assert.Equal("cod.collected", (await owner.Put($"loads/{load}", order)).Code);
        _ = (await owner.Put($"loads/{load}/cod", new { collected = (object?)null })).Ok;
        _ = (await owner.Put($"loads/{load}", order)).Ok;
        Assert.Equal(500m, Amount((await Sheet(owner, load))["load"]!["cod"]!["amount"]));
    }
}
