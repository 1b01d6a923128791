using System.Text.Json.Nodes;
using NodaTime;
using SteadyLark.Server.Basics;

namespace SteadyLark.Server.Bench;

/// <summary>The plan of 100 drivers with two trips each over seven days, and 240 open loads.</summary>
internal static class PlanBench
{
    private const int Drivers = 100;
    private const int Open = 240;
    private const int Tried = 30;

    /// <param name="equipment">What the loads need.</param>
    /// <param name="book">Books a load that is picked up on a day; its key.</param>
    /// <param name="measure">What, limit in ms, how often, the act.</param>
    public static async Task Run(
        HttpClient caller,
        LocalDate today,
        string equipment,
        Func<LocalDate, Task<long>> book,
        Func<string, double, int, Func<int, Task>, Task> measure
    )
    {
        await Fill(caller, today, equipment, book);
        await measure("the plan of 100 drivers over 7 days", 80, 60, __ =>
            caller.GetStringAsync(new Uri($"/api/plan?from={Day(today)}&days=7", UriKind.Relative))
        );

        // Each assigns one load to a driver of its own, who has nothing on that day; then each trip goes to another driver.
        var (crews, legs, trips) = (await Crews(caller), new List<long>(), new Dictionary<int, long>());
        for (var i = 0; i < Tried + 5; i++)
        {
            legs.Add(await Leg(caller, await book(today.PlusDays(11))));
        }

        var (next, moved) = (0, 0);
        await measure("try a load on a driver", 100, Tried, i =>
            Send(caller, "preview", Assign(legs[Math.Abs(i) % legs.Count], crews[Math.Abs(i) % legs.Count]))
        );
        await measure("assign a load to a driver", 40, Tried, async _ =>
        {
            var at = next++;
            var undo = (await Send(caller, "moves", Assign(legs[at], crews[at])))["undo"]!;
            trips[at] = undo[0]!["tripId"]!.GetValue<long>();
        });
        await measure("move a trip to another driver", 40, Tried, _ =>
        {
            var at = moved++;
            var (driver, truck, trailer) = crews[at + legs.Count];
            return Send(
                caller,
                "moves",
                new
                {
                    tripId = trips[at],
                    driverId = driver,
                    truckId = truck,
                    trailerId = trailer,
                }
            );
        });
        foreach (var trip in trips.Values)
        {
            _ = await Send(caller, "moves", new { tripId = trip });
        }
    }

    /// <summary>Adds drivers up to a hundred, and two trips for each of them.</summary>
    private static async Task Fill(HttpClient caller, LocalDate today, string equipment, Func<LocalDate, Task<long>> book)
    {
        var crews = await Crews(caller);
        if (crews.Any(c => c.Truck != 0))
        {
            // A run before this one made them.
            return;
        }

        var known = crews.Count;
        for (var i = known; i < Drivers; i++)
        {
            var driver = await Add(caller, "drivers", new { name = $"Bench Driver {i}" });
            var crew = (
                driver,
                await Add(caller, "trucks", new { unit = $"B{i}" }),
                await Add(caller, "trailers", new { unit = $"B{i}", equipment })
            );
            foreach (var day in new[] { 1, 4 })
            {
                _ = await Send(caller, "moves", Assign(await Leg(caller, await book(today.PlusDays(day))), crew));
            }
        }

        for (var i = 0; i < Open; i++)
        {
            _ = await book(today.PlusDays(1 + (i % 6)));
        }
    }

    private static object Assign(long leg, (long Driver, long Truck, long Trailer) crew) =>
        new
        {
            legIds = new[] { leg },
            driverId = crew.Driver,
            truckId = crew.Truck,
            trailerId = crew.Trailer,
        };

    private static string Day(LocalDate day) => day.ToString("uuuu-MM-dd", null);

    /// <summary>Drivers with a truck and a trailer each, by their order.</summary>
    private static async Task<List<(long Driver, long Truck, long Trailer)>> Crews(HttpClient caller)
    {
        var fleet = (await caller.GetFromJsonAsync<JsonNode>("/api/fleet", Json.Options))!;
        List<long> Keys(string what, Func<JsonNode, bool> these) =>
            fleet[what]!.AsArray().OfType<JsonNode>().Where(these).Select(n => n["id"]!.GetValue<long>()).Order().ToList();
        var drivers = Keys("drivers", d => d["active"]!.GetValue<bool>());
        var trucks = Keys("trucks", t => t["unit"]!.GetValue<string>().StartsWith('B'));
        var trailers = Keys("trailers", t => t["unit"]!.GetValue<string>().StartsWith('B'));
        // Those of the bench come last.
        return drivers.Count < Drivers
            ? drivers.ConvertAll(d => (d, 0L, 0L))
            : drivers.TakeLast(trucks.Count).Select((d, i) => (d, trucks[i], trailers[i])).ToList();
    }

    private static async Task<long> Leg(HttpClient caller, long load) =>
        (await caller.GetFromJsonAsync<JsonNode>($"/api/loads/{load}", Json.Options))!["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();

    private static async Task<long> Add(HttpClient caller, string what, object row) =>
        (await Bench.Post(caller, $"/api/{what}", row))["id"]!.GetValue<long>();

    private static Task<JsonNode> Send(HttpClient caller, string what, object move) =>
        Bench.Post(caller, $"/api/plan/{what}", new { moves = new[] { move }, allowLate = true });
}
