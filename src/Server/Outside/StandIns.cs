using System.Text.RegularExpressions;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Formats.Mail;
using SteadyLark.Outside.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Demo;
using SteadyLark.Server.Documents;
using SteadyLark.Server.People;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Tracking;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Outside;

public sealed record StandInRequest(bool Works, int? Speed);

/// <summary>
/// The simulated outside world: carriers who accept tenders through their link, receivers who sign for freight, and trucks that drive
/// their trips and report positions to the address a real device would use.
/// </summary>
public sealed partial class StandIns(
    NpgsqlDataSource source,
    Mailbox mailbox,
    IClock clock,
    BusinessZone zone,
    Simulation simulation,
    IServiceProvider services,
    ILogger<StandIns> log
) : BackgroundService
{
    private static readonly Actor World = new(null, "The world", Via.Outside);

    /// <summary>How long a carrier takes to accept and a receiver to unload, at speed 1.</summary>
    private static readonly Duration Thinks = Duration.FromMinutes(6);
    private static readonly Duration Unloads = Duration.FromMinutes(40);
    private static readonly Duration TellsEvery = Duration.FromSeconds(10);

    /// <summary>A scribble: one pen stroke, as a PNG.</summary>
    private const string Scribble =
        "iVBORw0KGgoAAAANSUhEUgAAAHgAAAAoCAAAAAAQgWH5AAAA9ElEQVR42u2XwQ6EIAxE3///NJtNiLos7YywKxc4GCOmr1M6gpRFgw3e4IVg3mMNuPyBjMOtlzVgngZX4kIwz4IPYAYeaXs8wSmYa9+7SdwAkxal"
        + "ziNcf8YzK51IvnbBeZkG93KIuoBTthTig0sI9p41E9jcSEcfjFw5H9zXYWRzrME1H24kjl/VzyWisZwBTgwrwDS3rc0ycEchrU+jNpI2JKVIc+t3UODvEJYbpXHCzIJvRf7lM7YOtatxS4at55iKK9IL5hxLUK9W"
        + "FxUb7G1rQo8+JBJsbxYZAU4LMnqeZPK4zXCsyWM+P4y1f9o2eIPXjBezfFaZfA2zVwAAAABJRU5ErkJggg==";

    private readonly Dictionary<long, (long Stop, double Miles, Instant Told)> _underWay = [];

    /// <summary>Routes to the stops that trucks are driving to, as lines.</summary>
    private readonly Dictionary<long, IReadOnlyList<GeoPoint>> _ways = [];
    private readonly Dictionary<long, string> _devices = [];
    private readonly HttpClient _http = new() { Timeout = TimeSpan.FromSeconds(10) };
    private Instant _last;

    protected override Task ExecuteAsync(CancellationToken stoppingToken)
    {
        _last = clock.GetCurrentInstant();
        return Jobs.Every(TimeSpan.FromSeconds(2), "The simulation", log, () => Live(stoppingToken), stoppingToken);
    }

    public static void Map(RouteGroupBuilder all)
    {
        var api = all.MapGroup("").AddEndpointFilter(Simulation.Filter);
        api.MapGet("/outside/stand-ins", async (NpgsqlDataSource source) =>
            {
                await using var db = await source.OpenConnectionAsync();
                return await StandInStore.All(db);
            })
            .Needs(Right.OutsideUse)
            .WithName("listStandIns");

        api.MapPut("/outside/stand-ins/{name}", (string name, StandInRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, async w =>
                {
                    if (request.Speed is < 1 or > 600)
                    {
                        return (Outcome<List<StandIn>>)new Problem("out.of.range", "The speed must be between 1 and 600.", "speed");
                    }

                    return await StandInStore.Set(w, name, request.Works, request.Speed)
                        ? await StandInStore.All(w.Db)
                        : Problem.Missing("This stand-in");
                })
            )
            .Needs(Right.OutsideUse)
            .WithName("setStandIn");
    }

    /// <summary>One step of the simulation.</summary>
    private async Task Live(CancellationToken cancel)
    {
        if (!await simulation.Allowed())
        {
            return;
        }

        var now = clock.GetCurrentInstant();
        var passed = now - _last;
        _last = now;
        await using var db = await source.OpenConnectionAsync(cancel);
        // One server runs the simulation at a time.
        if (!await Locks.Try(db, LockKey.StandIns))
        {
            return;
        }

        try
        {
            foreach (var who in (await StandInStore.All(db)).Where(s => s.Works))
            {
                await (
                    who.Name switch
                    {
                        "carriers" => Answer(db, now, who.Speed, cancel),
                        "receivers" => Sign(db, now, who.Speed),
                        _ => Drive(db, now, passed, who.Speed, cancel),
                    }
                );
            }
        }
        finally
        {
            await Locks.Release(db, LockKey.StandIns);
        }
    }

    /// <summary>Carriers read their email, accept through the public link, and say who comes.</summary>
    private async Task Answer(NpgsqlConnection db, Instant now, int speed, CancellationToken cancel)
    {
        foreach (var (mail, carrier) in await StandInStore.Offers(db, now - (Thinks / speed)))
        {
            // They know the link only from the email they received.
            if (
                mail is not { } id
                || mailbox.Get($"{id:D6}.eml") is not { } received
                || AcceptLink().Match(Eml.Read(received.Eml).Text) is not { Success: true } link
            )
            {
                continue;
            }

            var token = link.Groups[1].Value;
            using var answer = await _http.PostAsJsonAsync($"{Here}/api/accept/{token}", new { name = $"Dispatch at {carrier}" }, cancel);
            using var sent = await _http.PostAsJsonAsync($"{Here}/api/accept/{token}/dispatch", DemoData.DispatchOf(id), cancel);
        }
    }

    /// <summary>Receivers sign on the driver's phone after unloading.</summary>
    private async Task Sign(NpgsqlConnection db, Instant now, int speed)
    {
        foreach (var at in await StandInStore.AtDeliveries(db, now - (Unloads / speed)))
        {
            await using var w = await CommandContext.Begin(
                source,
                new Actor(null, $"{at.Name}'s phone", Via.Phone, at.Driver),
                now,
                zone.Zone,
                Routing.Roads
            );
            await LoadWrites.Lock(w.Db, at.Load);
            const string receiver = "R. Tenney";
            if (
                (await StopCommands.Record(w, at.Load, at.Stop, new StopEventRequest(StopEvent.Delivered, null, receiver))).Ok
                && (await BolCommands.Sign(w, at.Load, new SignRequest(receiver, Scribble))).Ok
            )
            {
                await w.Commit();
            }
        }
    }

    /// <summary>Rolling trucks drive toward their next stop and report their positions.</summary>
    private async Task Drive(NpgsqlConnection db, Instant now, Duration passed, int speed, CancellationToken cancel)
    {
        var rolling = (await LoadReads.InStates(db, [LoadState.Rolling], null, 500))
            .Where(l => l.TripId is not null && l.Stops.All(s => s.CanBePlanned))
            .ToList();
        var seen = await PositionStore.Last(db, rolling.Select(l => l.TripId!.Value), now - Duration.FromDays(3));
        var shared = await ItineraryStore.SharedVisits(db, Routing.Roads, rolling.Select(l => l.TripId!.Value), rolling);
        foreach (var trip in rolling.GroupBy(l => l.TripId!.Value))
        {
            // To the transfer first, when the freight changes trucks there; in the trip's order, when it carries several loads.
            var stops = (
                shared.TryGetValue(trip.Key, out var visits) ? Itinerary.Points(Routing.Roads, visits) : trip.First().Path().Whole
            ).ToList();
            var next = stops.FindIndex(s => !s.Done);
            if (next < 1)
            {
                continue;
            }

            var own = visits?[next].Leg.Own;
            if (stops[next].Arrived is { } there)
            {
                if (own is not null && now - there >= stops[next].ServiceTime / speed)
                {
                    await Report(db, trip.Key, own, left: true, now);
                }

                continue;
            }

            var (from, to) = (stops[next - 1].Point, stops[next].Point);
            // Along the road, or straight where there is none.
            var road = _ways.GetValueOrDefault(stops[next].Id)
                ?? (_ways[stops[next].Id] = Routing.Router.Route([from, .. stops[next].Via ?? [], to])?.Line ?? [from, to]);
            var route = Whereabouts.Length(road);
            if (!_underWay.TryGetValue(trip.Key, out var at) || at.Stop != stops[next].Id)
            {
                // It continues from its last position.
                at = (
                    stops[next].Id,
                    seen.TryGetValue(trip.Key, out var last) ? Whereabouts.Passed(road, last.Point) : 0,
                    Instant.MinValue
                );
            }

            var before = at.Miles;
            at.Miles = Math.Min(route, at.Miles + (RoadEstimate.MilesPerHour * passed.TotalHours * speed));
            if (now - at.Told >= TellsEvery || (at.Miles >= route && before < route))
            {
                at.Told = now;
                var point = Whereabouts.Along(road, at.Miles);
                var token = await Device((await ItineraryStore.Trip(db, trip.Key))!.TruckId);
                using var answer = await _http.PostAsJsonAsync(
                    $"{Here}/api/devices/{token}/positions",
                    new
                    {
                        positions = new[]
                        {
                            new
                            {
                                at = now.ToString(),
                                latitude = point.Latitude,
                                longitude = point.Longitude,
                                milesPerHour = at.Miles < route ? RoadEstimate.MilesPerHour : 0,
                            },
                        },
                    },
                    cancel
                );
            }

            _underWay[trip.Key] = at;
            if (own is not null && at.Miles >= route)
            {
                await Report(db, trip.Key, own, left: false, now);
            }
        }
    }

    /// <summary>Drivers report stops that are of no load on their phones: no geofence does it for them.</summary>
    private async Task Report(NpgsqlConnection db, long tripId, TripStop stop, bool left, Instant now)
    {
        var trip = (await ItineraryStore.Trip(db, tripId))!;
        await using var phone = await CommandContext.Begin(
            source,
            new Actor(null, $"{trip.Driver}'s phone", Via.Phone, trip.DriverId),
            now,
            zone.Zone,
            Routing.Roads
        );
        if ((await TripStopCommands.Record(phone, tripId, stop.Id, new TripStopEventRequest(left, null))).Ok)
        {
            await phone.Commit();
        }
    }

    /// <summary>The token of the simulated device in a truck, issued when first needed.</summary>
    private async Task<string> Device(long truckId)
    {
        if (!_devices.TryGetValue(truckId, out var token))
        {
            await using var w = await CommandContext.Begin(source, World, clock.GetCurrentInstant(), zone.Zone, Routing.Roads);
            _devices[truckId] = token = (await PositionStore.IssueToken(w, truckId, "simulator")).Token;
            await w.Commit();
        }

        return token;
    }

    [GeneratedRegex("/accept/([0-9a-f]{48})")]
    private static partial Regex AcceptLink();

    /// <summary>Our public address, as outsiders reach it.</summary>
    private string Here =>
        services
            .GetRequiredService<Microsoft.AspNetCore.Hosting.Server.IServer>()
            .Features.Get<Microsoft.AspNetCore.Hosting.Server.Features.IServerAddressesFeature>()!
            .Addresses.First();

    public override void Dispose()
    {
        _http.Dispose();
        base.Dispose();
    }
}
