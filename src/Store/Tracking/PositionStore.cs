using NodaTime;
using Npgsql;
using SteadyLark.Core.Places;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Tracking;

/// <summary>A truck's position at an instant.</summary>
public sealed record Position(Instant At, double Latitude, double Longitude, double? MilesPerHour);

/// <summary>A truck's last known position.</summary>
public sealed record LastSeen(long TripId, long TruckId, Instant At, GeoPoint Point);

/// <summary>A device that may report a truck's position.</summary>
public sealed record DeviceRow(long Id, string Label, Instant IssuedAt, string? IssuedBy, Instant? LastUsedAt);

/// <summary>Position reports, and the tokens of truck devices.</summary>
public static class PositionStore
{
    /// <summary>Issues a token for a truck's device. It is returned once and stored hashed.</summary>
    public static async Task<(long Id, string Token)> IssueToken(CommandContext w, long truckId, string label)
    {
        var token = LinkToken.New();
        var id = await w.Db.One<long>(
            """
            insert into device_tokens (truck_id, token, label, issued_at, issued_by) values (@truck, @token, @label, @now, @by) returning id
            """,
            ("truck", truckId),
            ("token", LinkToken.Hash(token)),
            ("label", label),
            ("now", w.Now),
            ("by", w.Actor.UserId)
        );
        return (id, token);
    }

    /// <summary>Revokes a device's token. False when it is not this truck's, or revoked already.</summary>
    public static async Task<bool> RevokeToken(CommandContext w, long truckId, long id) =>
        await w.Db.Run(
            "update device_tokens set revoked_at = @now where id = @id and truck_id = @truck and revoked_at is null",
            ("id", id),
            ("truck", truckId),
            ("now", w.Now)
        ) == 1;

    /// <summary>The devices of a truck whose tokens are valid.</summary>
    public static Task<List<DeviceRow>> Devices(NpgsqlConnection db, long truckId) =>
        db.Rows(
            """
            select d.id, d.label, d.issued_at, u.name as by, d.last_used_at from device_tokens d left join users u on u.id = d.issued_by
            where d.truck_id = @truck and d.revoked_at is null order by d.id
            """,
            r => new DeviceRow(r.Long("id"), r.Text("label"), r.Instant("issued_at"), r.TextOrNull("by"), r.InstantOrNull("last_used_at")),
            ("truck", truckId)
        );

    /// <summary>The truck of a valid token, noting its use; 0 when there is none.</summary>
    public static Task<long> Truck(CommandContext w, string token) =>
        w.Db.One<long>(
            "update device_tokens set last_used_at = @now where token = @token and revoked_at is null returning truck_id",
            ("token", LinkToken.Hash(token)),
            ("now", w.Now)
        );

    /// <summary>Stores positions; duplicates of one instant once.</summary>
    public static Task<int> Add(CommandContext w, long truckId, IReadOnlyList<Position> positions) =>
        w.Db.Run(
            """
            insert into positions (truck_id, at, latitude, longitude, miles_per_hour, came_at)
            select @truck, x.at, x.latitude, x.longitude, x.speed, @now from unnest(@at, @latitude, @longitude, @speed) as x (at, latitude,
                longitude, speed) on conflict do nothing
            """,
            ("truck", truckId),
            ("now", w.Now),
            ("at", positions.Select(p => p.At).ToArray()),
            ("latitude", positions.Select(p => p.Latitude).ToArray()),
            ("longitude", positions.Select(p => p.Longitude).ToArray()),
            ("speed", positions.Select(p => p.MilesPerHour).ToArray())
        );

    /// <summary>The last known positions of these trips' trucks since an instant.</summary>
    public static async Task<Dictionary<long, LastSeen>> Last(NpgsqlConnection db, IEnumerable<long> tripIds, Instant since)
    {
        var ids = tripIds.ToArray();
        if (ids.Length == 0)
        {
            return [];
        }

        return (
            await db.Rows(
                """
                select t.id, t.truck_id, p.at, p.latitude, p.longitude from trips t
                cross join lateral (select * from positions where truck_id = t.truck_id and at > @since and at >= coalesce(t.started_at,
                    @since) order by at desc limit 1) p
                where t.id = any(@ids)
                """,
                r => new LastSeen(
                    r.Long("id"),
                    r.Long("truck_id"),
                    r.Instant("at"),
                    new GeoPoint(r.Double("latitude"), r.Double("longitude"))
                ),
                ("ids", ids),
                ("since", since)
            )
        ).ToDictionary(s => s.TripId);
    }
}
