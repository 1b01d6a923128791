using Npgsql;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Store.Tests.Trips;

/// <summary>A business written by the version in which every trip had one load, and what the migration makes of it.</summary>
public sealed class SharedTripMigration() : OldSchema(through: "0058")
{
    /// <summary>Trip 1 hauls L-1, which two trucks share: trip 2 has its second leg. Trip 3 hauls L-2. L-3 is booked.</summary>
    private Task Write() =>
        Connection.Run(
            """
            insert into places (name, town, region, country, latitude, longitude, zone) values
                ('Creamery', 'Great Falls', 'MT', 'US', 47.5, -111.3, 'America/Denver'), ('Yard', 'Missoula', 'MT', 'US', 46.87, -113.99, 'America/Denver'),
                ('Cold store', 'Spokane', 'WA', 'US', 47.66, -117.43, 'America/Los_Angeles');
            insert into companies (name, is_customer) values ('Snowberry Creamery', true);
            insert into drivers (name, short_name) select 'Driver ' || n, 'D. ' || n from generate_series(1, 3) n;
            insert into trucks (unit) select '10' || n from generate_series(1, 3) n;
            insert into trailers (unit, equipment) select '530' || n, 'van' from generate_series(1, 3) n;
            insert into trips (number, driver_id, truck_id, trailer_id, scheduled)
                select '40' || n, n, n, n, tstzrange(timestamptz '2026-11-01' + n * interval '1 day', timestamptz '2026-11-02' + n * interval '1 day')
                from generate_series(1, 3) n;
            insert into loads (number, state, is_draft, customer_id, equipment, first_at, last_at, booked_at, to_cover)
                select 'L-' || n, case n when 3 then 'booked' else 'covered' end, false, 1, 'van', now(), now(), now(), case n when 3 then 1 end
                from generate_series(1, 3) n;
            insert into stops (load_id, seq, kind, place_id) select n, 1, 'pickup', 1 from generate_series(1, 3) n;
            insert into stops (load_id, seq, kind, place_id) select n, 2, 'delivery', 3 from generate_series(1, 3) n;
            insert into transfers (load_id, place_id, after_stops, planned_at, method) values (1, 2, 1, now(), 'drop');
            insert into legs (load_id, seq, miles, begins_at, trip_id) values (1, 1, 165, null, 1), (1, 2, 199, 1, 2), (2, 1, 364, null, 3), (3, 1, 364, null, null);
            update legs set empty_miles = 12, truck_days = 1.5, expected_pay = 220 where id = 3
            """
        );

    [Fact]
    public async Task Trucks_had_all_of_their_miles_for_the_load_they_carried_and_trips_end_where_they_did()
    {
        await Write();
        await Migrate();
        Assert.Equal(
            [(1, null), (2, null), (3, 364), (4, (int?)null)],
            await Connection.Rows("select id, truck_miles from legs order by id", r => (r.Int("id"), r.IntOrNull("truck_miles")))
        );
        Assert.Equal(
            ["Missoula", "Spokane", "Spokane"],
            await Connection.Rows("select p.town from trip_ends e join places p on p.id = e.place_id order by e.trip_id", r =>
                r.Text("town")
            )
        );
        // With L-3 on it, and delivered first, trip 1 ends at the transfer of L-1 all the same.
        await Connection.Run(
            "update legs set trip_id = 1 where id = 4; insert into trip_visits (trip_id, seq, stop_id) values (1, 1, 1), (1, 2, 3), (1, 3, 6)"
        );
        await Connection.Run("insert into trip_visits (trip_id, seq, transfer_id) values (1, 4, 1)");
        Assert.Equal(
            "Missoula",
            await Connection.One<string>("select p.town from trip_ends e join places p on p.id = e.place_id where e.trip_id = 1")
        );
    }

    /// <summary>What is refused of a trip's visits and by what; null for what is right. Stops 1, 2, 3 are pickups, 4, 5, 6 deliveries.</summary>
    private static readonly (string Sql, string? Refused)[] Cases =
    [
        ("insert into trip_visits (trip_id, seq, stop_id) values (3, 1, 2), (3, 2, 5)", null),
        ("insert into trip_visits (trip_id, seq, stop_id) values (3, 1, 5), (3, 2, 2)", "LK008"),
        ("insert into trip_visits (trip_id, seq, stop_id) values (3, 1, 3)", "LK008"),
        // The delivery of L-1 is of its second leg, on trip 2.
        ("insert into trip_visits (trip_id, seq, stop_id) values (1, 1, 1), (1, 2, 4)", "LK008"),
        ("insert into trip_visits (trip_id, seq, stop_id) values (2, 1, 4)", null),
        ("insert into trip_visits (trip_id, seq, transfer_id) values (1, 1, 1), (2, 1, 1)", null),
        ("insert into trip_visits (trip_id, seq, transfer_id) values (3, 1, 1)", "LK008"),
        ("insert into trip_visits (trip_id, seq, stop_id) values (3, 1, 2), (3, 2, 2)", "trip_visits_stop_id_key"),
        ("insert into trip_visits (trip_id, seq, stop_id, transfer_id) values (1, 1, 1, 1)", "trip_visits_one_thing"),
        ("insert into trip_visits (trip_id, seq) values (1, 1)", "trip_visits_one_thing"),
        ("insert into trip_visits (trip_id, seq, stop_id) values (3, 1, 2); update legs set trip_id = 2 where id = 3", "LK008"),
        (
            "insert into trip_visits (trip_id, seq, stop_id) values (3, 1, 2); delete from trip_visits where trip_id = 3; update legs set trip_id = 2 where id = 3",
            null
        ),
        ("update legs set truck_miles = 10 where id = 4", "legs_truck_miles_of_a_trip"),
        ("update legs set truck_miles = null where id = 3", "legs_cost_complete"),
        ("update legs set truck_miles = -1 where id = 3", "legs_truck_miles_check"),
        ("update trailers set length_in = 12", "trailers_length_in_check"),
        ("update trucks set tare_lb = 0", "trucks_tare_lb_check"),
        // The trailer is hooked before freight comes on board and dropped after it left; fuel is anywhere.
        (
            "insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (900, 3, 'hook', 1, 3, 'test', now()); insert into trip_visits (trip_id, seq, stop_id, trip_stop_id) values (3, 1, null, 900), (3, 2, 2, null), (3, 3, 5, null)",
            null
        ),
        (
            "insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (900, 3, 'hook', 1, 3, 'test', now()); insert into trip_visits (trip_id, seq, stop_id, trip_stop_id) values (3, 1, 2, null), (3, 2, null, 900), (3, 3, 5, null)",
            "LK008"
        ),
        (
            "insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (900, 3, 'drop', 1, 3, 'test', now()); insert into trip_visits (trip_id, seq, stop_id, trip_stop_id) values (3, 1, 2, null), (3, 2, null, 900), (3, 3, 5, null)",
            "LK008"
        ),
        (
            "insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (900, 3, 'fuel', 1, null, 'test', now()); insert into trip_visits (trip_id, seq, stop_id, trip_stop_id) values (3, 1, 2, null), (3, 2, null, 900), (3, 3, 5, null)",
            null
        ),
        (
            "insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (900, 3, 'fuel', 1, null, 'test', now()); insert into trip_visits (trip_id, seq, stop_id, trip_stop_id) values (2, 1, null, 900)",
            "trip_visits_own_stop"
        ),
        (
            "insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (900, 3, 'fuel', 1, 1, 'test', now())",
            "trip_stops_trailer"
        ),
        (
            "insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (900, 3, 'hook', 1, null, 'test', now())",
            "trip_stops_trailer"
        ),
        // Trip 1 leaves its trailer in Missoula.
        (
            "insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (900, 3, 'hook', 1, 1, 'test', now())",
            "LK009"
        ),
        (
            "insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (900, 3, 'hook', 2, 1, 'test', now())",
            null
        ),
        ("insert into unit_locations (place_id, at, entered_by, entered_at) values (1, now(), 'test', now())", "unit_locations_check"),
        ("update legs set share = 40 where id = 1; update legs set share = 60 where id = 2", null),
        ("update legs set share = 40 where id = 1; update legs set share = 50 where id = 2", "LK010"),
        ("update legs set share = 100 where id = 1", "LK010"),
    ];

    [Fact]
    public async Task The_database_refuses_visits_that_are_not_of_the_trip_or_out_of_order()
    {
        await Write();
        await Migrate();
        foreach (var (sql, refused) in Cases)
        {
            await using var transaction = await Connection.BeginTransactionAsync();
            var e = await Record.ExceptionAsync(() => Connection.Run($"{sql}; set constraints all immediate")) as PostgresException;
            Assert.Equal((sql, refused), (sql, e?.ConstraintName ?? e?.SqlState));
        }
    }
}
