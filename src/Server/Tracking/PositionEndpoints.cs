using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Tracking;

namespace SteadyLark.Server.Tracking;

/// <param name="At">The time of the position, not of sending it.</param>
/// <param name="Latitude">Degrees north, WGS 84.</param>
/// <param name="Longitude">Degrees east, WGS 84.</param>
public sealed record PositionRequest(Instant? At, double? Latitude, double? Longitude, double? MilesPerHour);

public sealed record PositionsRequest(IReadOnlyList<PositionRequest>? Positions);

/// <param name="Kept">How many were new.</param>
public sealed record PositionsAnswer(int Kept);

/// <summary>Position reports of truck devices.</summary>
public static class PositionEndpoints
{
    /// <summary>The most positions per call.</summary>
    private const int Max = 500;

    public static void MapTracking(this RouteGroupBuilder api) =>
        api.MapPost("/devices/{token}/positions", (string token, PositionsRequest request, HttpContext http, Commands commands) =>
                commands.Run<PositionsAnswer>(http, async w =>
                    await PositionStore.Truck(w, token) is > 0 and var truck
                        ? await Tell(w, truck, request)
                        : Problem.Missing("This device")
                )
            )
            .IsOpen("a truck device reports its position here, with a key of 192 random bits")
            .RequireRateLimiting(Limits.Link)
            .ProducesProblem(404)
            .ProducesProblem(422)
            .WithName("reportPositions");

    private static async Task<Outcome<PositionsAnswer>> Tell(CommandContext w, long truckId, PositionsRequest request)
    {
        var validation = new Validation();
        var told = request.Positions ?? [];
        if (told.Count is 0 or > Max)
        {
            validation.Add("too.many", $"Send between 1 and {Max} positions.", "positions");
            return validation.Problems;
        }

        for (var i = 0; i < told.Count; i++)
        {
            var (p, at) = (told[i], $"positions[{i}]");
            if (p?.At is not { } moment || moment > w.Now + Duration.FromMinutes(5) || moment < w.Now - Duration.FromDays(30))
            {
                validation.Add("at", "A position time must be within the last 30 days.", $"{at}.at");
            }

            if (p?.Latitude is not { } latitude || latitude is < -90 or > 90 || double.IsNaN(latitude))
            {
                validation.Add("latitude", "Latitude must be between -90 and 90 degrees.", $"{at}.latitude");
            }

            if (p?.Longitude is not { } longitude || longitude is < -180 or > 180 || double.IsNaN(longitude))
            {
                validation.Add("longitude", "Longitude must be between -180 and 180 degrees.", $"{at}.longitude");
            }

            if (p?.MilesPerHour is { } speed && (speed is < 0 or > 150 || double.IsNaN(speed)))
            {
                validation.Add("speed", "Speed must be between 0 and 150 mph.", $"{at}.milesPerHour");
            }
        }

        return validation.Ok
            ? new PositionsAnswer(
                await PositionStore.Add(
                    w,
                    truckId,
                    told.Select(p => new Position(p.At!.Value, p.Latitude!.Value, p.Longitude!.Value, p.MilesPerHour)).ToList()
                )
            )
            : validation.Problems;
    }
}
