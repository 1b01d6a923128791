using NodaTime;
using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Trips;

/// <summary>A message of a trip.</summary>
/// <param name="DriverId">The driver who wrote it; null when dispatch did.</param>
/// <param name="ReadAt">When the other side saw it; null until then.</param>
public sealed record TripMessageRow(
    long Id,
    long TripId,
    string Trip,
    long? DriverId,
    string Author,
    string Text,
    Instant At,
    Instant? ReadAt
);

/// <summary>Messages between dispatch and drivers.</summary>
public static class TripMessageStore
{
    private const string Select = "select m.*, t.number from trip_messages m join trips t on t.id = m.trip_id";

    public static Task<List<TripMessageRow>> OfTrip(NpgsqlConnection db, long tripId) =>
        db.Rows($"{Select} where m.trip_id = @trip order by m.id", Read, ("trip", tripId));

    /// <summary>Messages of a driver's trips that are not over, or ended since an instant.</summary>
    public static Task<List<TripMessageRow>> OfDriver(NpgsqlConnection db, long driverId, Instant endedSince) =>
        db.Rows(
            $"""
            {Select} where @driver in (t.driver_id, t.codriver_id) and t.canceled_at is null and (t.ended_at is null or t.ended_at > @since)
            order by m.id
            """,
            Read,
            ("driver", driverId),
            ("since", endedSince)
        );

    /// <summary>What drivers wrote and nobody in the office saw yet, the oldest first.</summary>
    public static Task<List<TripMessageRow>> Unread(NpgsqlConnection db) =>
        db.Rows($"{Select} where m.read_at is null and m.driver_id is not null order by m.id limit 100", Read);

    public static async Task<TripMessageRow> Add(CommandContext w, long tripId, long? driverId, string text) =>
        (
            await w.Db.Row(
                """
                with m as (insert into trip_messages (trip_id, driver_id, author, text, at) values (@trip, @driver, @author, @text, @now) returning *)
                select m.*, t.number from m join trips t on t.id = m.trip_id
                """,
                Read,
                ("trip", tripId),
                ("driver", driverId),
                ("author", w.Actor.Name),
                ("text", text),
                ("now", w.Now)
            )
        )!;

    /// <summary>Marks what the other side wrote as read; how many messages that were.</summary>
    /// <param name="byDriver">Whether a driver reads what dispatch wrote; dispatch what drivers wrote otherwise.</param>
    public static Task<int> MarkRead(CommandContext w, long tripId, bool byDriver) =>
        w.Db.Run(
            """
            update trip_messages set read_at = greatest(@now, at) where trip_id = @trip and read_at is null and (driver_id is null) = @dispatch
            """,
            ("trip", tripId),
            ("dispatch", byDriver),
            ("now", w.Now)
        );

    private static TripMessageRow Read(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("trip_id"),
            r.Text("number"),
            r.LongOrNull("driver_id"),
            r.Text("author"),
            r.Text("text"),
            r.Instant("at"),
            r.InstantOrNull("read_at")
        );
}
