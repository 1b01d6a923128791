using NodaTime;
using Npgsql;

namespace SteadyLark.Store.Basics;

/// <param name="Name">carriers, receivers or trucks.</param>
/// <param name="Speed">Speed relative to real time: 1 to 600.</param>
public sealed record StandIn(string Name, bool Works, int Speed);

/// <summary>The simulated outside world: its settings, and what waits for it.</summary>
public static class StandInStore
{
    public static Task<List<StandIn>> All(NpgsqlConnection db) =>
        db.Rows("select * from stand_ins order by name", r => new StandIn(r.Text("name"), r.Bool("works"), r.Int("speed")));

    /// <returns>Whether there is one of this name.</returns>
    public static async Task<bool> Set(CommandContext w, string name, bool works, int? speed) =>
        await w.Db.Run(
            "update stand_ins set works = @works, speed = coalesce(@speed::int, speed) where name = @name",
            ("name", name),
            ("works", works),
            ("speed", speed)
        ) > 0;

    /// <summary>Carriers who received their rate confirmation and have not signed it or not said who comes, with the email.</summary>
    public static Task<List<(long? Mail, string Carrier)>> Offers(NpgsqlConnection db, Instant before) =>
        db.Rows(
            """
            select c.name, (select max(m.id) from emails m where m.load_id = g.load_id and m.direction = 'out' and m.sent_at is not null and
                m.subject like '%ate confirmation for load %') as mail
            from tenders t join companies c on c.id = t.carrier_id join legs g on g.id = t.leg_id
            where (t.signed_at is null or g.carrier_driver is null) and t.ended_at is null and t.sent_at < @before
              and exists (select 1 from emails m where m.load_id = g.load_id and m.direction = 'out' and m.sent_at is not null) order by
                  t.sent_at limit 5
            """,
            r => (r.LongOrNull("mail"), r.Text("name")),
            ("before", before)
        );

    /// <summary>Our trucks that arrived at a delivery and were not unloaded yet.</summary>
    public static Task<List<(long Stop, long Load, long Driver, string Name)>> AtDeliveries(NpgsqlConnection db, Instant before) =>
        db.Rows(
            """
            select s.id, s.load_id, t.driver_id, d.name from stops s join legs g on g.load_id = s.load_id join trips t on t.id = g.trip_id
                join drivers d on d.id = t.driver_id
            where s.kind = 'delivery' and s.arrived_at < @before and s.delivered_at is null and s.left_at is null and s.refused_at is null
                and t.ended_at is null order by s.arrived_at limit 5
            """,
            r => (r.Long("id"), r.Long("load_id"), r.Long("driver_id"), r.Text("name")),
            ("before", before)
        );
}
