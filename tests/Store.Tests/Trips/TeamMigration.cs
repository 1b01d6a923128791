using Npgsql;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Store.Tests.Trips;

/// <summary>A business written by the version in which every trip had one driver, and what the database holds of teams.</summary>
public sealed class TeamMigration() : OldSchema(through: "0061")
{
    /// <summary>Driver 1 has trip 1, which is over and settled, and trip 2; driver 2 has trip 3 afterwards, driver 3 nothing.</summary>
    private Task Write() =>
        Connection.Run(
            """
            insert into places (name, town, region, country, latitude, longitude, zone) values
                ('Creamery', 'Great Falls', 'MT', 'US', 47.5, -111.3, 'America/Denver'), ('Cold store', 'Spokane', 'WA', 'US', 47.66, -117.43, 'America/Los_Angeles');
            insert into companies (name, is_customer) values ('Snowberry Creamery', true);
            insert into drivers (name, short_name) select 'Driver ' || n, 'D. ' || n from generate_series(1, 3) n;
            insert into trucks (unit) select '10' || n from generate_series(1, 3) n;
            insert into trips (number, driver_id, truck_id, scheduled, started_at, ended_at) values
                ('401', 1, 1, tstzrange('2026-11-02', '2026-11-04'), '2026-11-02', '2026-11-04'), ('402', 1, 1, tstzrange('2026-11-10', '2026-11-12'), null, null),
                ('403', 2, 2, tstzrange('2026-11-14', '2026-11-15'), null, null);
            insert into loads (number, state, is_draft, customer_id, equipment, first_at, last_at, booked_at)
                select 'L-' || n, 'covered', false, 1, 'van', now(), now(), now() from generate_series(1, 3) n;
            insert into stops (load_id, seq, kind, place_id) select n, 1, 'pickup', 1 from generate_series(1, 3) n;
            insert into stops (load_id, seq, kind, place_id) select n, 2, 'delivery', 2 from generate_series(1, 3) n;
            insert into legs (load_id, seq, miles, trip_id) select n, 1, 364, n from generate_series(1, 3) n;
            update legs set truck_miles = 364, empty_miles = 12, truck_days = 1.5, expected_pay = 220;
            insert into settlements (driver_id, monday, pay_day, earned, deducted, net, approved_at) values (1, '2026-11-02', '2026-11-13', 220, 0, 220, now());
            insert into settlement_lines (settlement_id, seq, kind, what, quantity, rate, on_day, amount, leg_id)
                values (1, 1, 'per_mile', 'Great Falls to Spokane', 364, 0.6044, '2026-11-04', 220, 1);
            insert into settlement_legs (settlement_id, leg_id, amount) values (1, 1, 220)
            """
        );

    [Fact]
    public async Task Every_trip_has_its_driver_as_crew_and_settled_legs_know_whom_they_paid()
    {
        await Write();
        await Migrate();
        Assert.Equal(
            ["1 1 100.00 over", "2 1 100.00 ahead", "3 2 100.00 ahead"],
            await Connection.Rows(
                "select trip_id || ' ' || driver_id || ' ' || share || case when ended_at is null then ' ahead' else ' over' end as crew from trip_crew order by trip_id, seat",
                r => r.Text("crew")
            )
        );
        Assert.Equal(1, await Connection.One<long>("select driver_id from settlement_legs"));

        // The crew follows its trip.
        await Connection.Run("update trips set codriver_id = 3, codriver_share = 40 where id = 2");
        await Connection.Run("update trips set scheduled = tstzrange('2026-11-11', '2026-11-13'), driver_id = 2 where id = 2");
        Assert.Equal(
            ["1 2 60.00", "2 3 40.00"],
            await Connection.Rows(
                "select seat || ' ' || driver_id || ' ' || share as crew from trip_crew where trip_id = 2 and lower(scheduled) = '2026-11-11' order by seat",
                r => r.Text("crew")
            )
        );
        // A new order of driver 2's trips: what trip 3 costs is computed anew.
        Assert.True(await Connection.One<bool>("select expected_pay is null from legs where id = 3"));
        await Connection.Run("update trips set codriver_id = null, codriver_share = null where id = 2");
        Assert.Equal(1, await Connection.One<int>("select count(*)::int from trip_crew where trip_id = 2"));
    }

    private static readonly (string Sql, string? Refused)[] Cases =
    [
        ("update trips set codriver_id = 3, codriver_share = 50 where id in (2, 3)", null),
        (
            "update trips set codriver_id = 3, codriver_share = 50 where id in (2, 3); update trips set scheduled = tstzrange('2026-11-11', '2026-11-15') where id = 2",
            "driver_scheduled_once"
        ),
        (
            "update trips set codriver_id = 2, codriver_share = 50, scheduled = tstzrange('2026-11-11', '2026-11-15') where id = 2",
            "driver_scheduled_once"
        ),
        (
            "update trips set codriver_id = 2, codriver_share = 50, scheduled = tstzrange('2026-11-11', '2026-11-15'), canceled_at = now() where id = 2",
            null
        ),
        (
            "update trips set codriver_id = 3, codriver_share = 50 where id in (2, 3); update trips set started_at = '2026-11-14' where id in (2, 3)",
            "driver_under_way_once"
        ),
        ("update trips set codriver_id = 1, codriver_share = 50 where id = 2", "trips_codriver_is_another"),
        ("update trips set codriver_id = 3 where id = 2", "trips_codriver_has_share"),
        ("update trips set codriver_share = 50 where id = 2", "trips_codriver_has_share"),
        ("update trips set codriver_id = 3, codriver_share = 101 where id = 2", "trips_codriver_share_check"),
        ("update legs set codriver_pay = 221 where id = 2", "legs_codriver_pay_of_pay"),
        ("insert into settlement_legs (settlement_id, driver_id, leg_id, amount) values (1, 2, 2, 0)", "settlement_legs_of_the_driver"),
        (
            "insert into settlements (driver_id, monday, pay_day, earned, deducted, net, approved_at) values (1, '2026-11-09', '2026-11-20', 0, 0, 0, now()); insert into settlement_legs (settlement_id, driver_id, leg_id, amount) select max(id), 1, 1, 0 from settlements",
            "settlement_leg_once"
        ),
    ];

    [Fact]
    public async Task The_database_refuses_a_driver_on_two_trips_at_a_time_in_whichever_seat()
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
