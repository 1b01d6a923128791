using System.Security.Cryptography;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Places;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Tracking;

/// <summary>Where a truck was at a moment.</summary>
public sealed record Position(Instant At, double Latitude, double Longitude, double? MilesPerHour);

/// <summary>Where a truck was last.</summary>
public sealed record LastSeen(long TripId, long TruckId, Instant At, GeoPoint Point);

/// <summary>Positions that trucks' devices told.</summary>
public static class PositionStore
{
    /// <summary>The token with which a truck's device tells where it is: 192 random bits, made once.</summary>
    public static async Task<string> Token(NpgsqlConnection db, long truckId)
    {
        await db.Run("insert into device_tokens (truck_id, token) values (@truck, @token) on conflict do nothing", ("truck", truckId), ("token", Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24))));
        return (await db.One<string>("select token from device_tokens where truck_id = @truck", ("truck", truckId)))!;
    }

    /// <summary>The truck of a token; 0 when there is none.</summary>
    public static Task<long> Truck(NpgsqlConnection db, string token) => db.One<long>("select truck_id from device_tokens where token = @token", ("token", token));

    /// <summary>Keeps positions; one of the same moment is kept once.</summary>
    public static Task<int> Add(CommandContext w, long truckId, IReadOnlyList<Position> positions) =>
        w.Db.Run(
            """
            insert into positions (truck_id, at, latitude, longitude, miles_per_hour, came_at)
            select @truck, x.at, x.latitude, x.longitude, x.speed, @now from unnest(@at, @latitude, @longitude, @speed) as x (at, latitude, longitude, speed) on conflict do nothing
            """,
            ("truck", truckId), ("now", w.Now), ("at", positions.Select(p => p.At).ToArray()), ("latitude", positions.Select(p => p.Latitude).ToArray()), ("longitude", positions.Select(p => p.Longitude).ToArray()),
            ("speed", positions.Select(p => p.MilesPerHour).ToArray()));

    /// <summary>Where the trucks of these trips were last seen since a moment.</summary>
    public static async Task<Dictionary<long, LastSeen>> Last(NpgsqlConnection db, IEnumerable<long> tripIds, Instant since)
    {
        var ids = tripIds.ToArray();
        if (ids.Length == 0)
        {
            return [];
        }

        return (await db.Rows(
            """
            select t.id, t.truck_id, p.at, p.latitude, p.longitude from trips t
            cross join lateral (select * from positions where truck_id = t.truck_id and at > @since and at >= coalesce(t.began_at, @since) order by at desc limit 1) p
            where t.id = any(@ids)
            """,
            r => new LastSeen(r.Long("id"), r.Long("truck_id"), r.Instant("at"), new GeoPoint(r.Double("latitude"), r.Double("longitude"))),
            ("ids", ids), ("since", since))).ToDictionary(s => s.TripId);
    }
}
