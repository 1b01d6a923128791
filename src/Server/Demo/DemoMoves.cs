using NodaTime;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Loads;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's moves: empty trailers that stand at one shipper and are needed at another, one of them assigned.</summary>
internal static class DemoMoves
{
    private const int Most = 2;

    public static async Task Write(MoveCommands moves, CoverCommands cover, CommandContext w, DemoCast cast)
    {
        var desk = w.At(w.Now, cast.Staff["ines"]);
        var stands = await LocationStore.Trailers(w.Db);
        var drivers = await FleetStore.Choices(w.Db, w.Now, w.Now + Duration.FromDays(2));
        var hour = Instant.FromUnixTimeSeconds(w.Now.ToUnixTimeSeconds() / 3_600 * 3_600);
        var made = 0;
        foreach (var trailer in (await FleetStore.Trailers(w.Db)).Where(t => t.Active))
        {
            if (!stands.TryGetValue(trailer.Id, out var at) || at.Source != StandSource.Person)
            {
                continue;
            }

            var there = cast
                .Customers.Where(c => c.Data.Equipment == trailer.Equipment && c.PlaceId != at.PlaceId)
                .Select(c => (c.PlaceId, Miles: GreatCircle.Miles(at.Point, cast.Known[c.PlaceId].Point)))
                .Where(c => c.Miles is > 20 and < 140)
                .OrderBy(c => c.Miles)
                .Select(c => c.PlaceId)
                .FirstOrDefault();
            if (there == 0)
            {
                continue;
            }

            var request = new MoveRequest(
                trailer.Id,
                null,
                null,
                null,
                null,
                there,
                null,
                hour + Duration.FromHours(3 + (20 * made)),
                hour + Duration.FromHours(28 + (20 * made))
            );
            if (await moves.Make(desk, request) is not { Ok: true } booked)
            {
                continue;
            }

            // The first goes to the nearest driver who has no trip ahead, the other one waits for a truck.
            var near = drivers
                .Where(d => made == 0 && d is { FreeLatitude: not null, LastTruckId: not null } && d.FreeAt <= w.Now)
                .OrderBy(d => GreatCircle.Miles(at.Point, new GeoPoint(d.FreeLatitude!.Value, d.FreeLongitude!.Value)));
            foreach (var driver in near)
            {
                var crew = new CoverByDriverRequest(driver.Id, driver.LastTruckId, trailer.Id);
                if ((await cover.ByDriver(desk, booked.Value.Id, null, crew)).Ok)
                {
                    break;
                }
            }

            made++;
            if (made == Most)
            {
                return;
            }
        }
    }
}
