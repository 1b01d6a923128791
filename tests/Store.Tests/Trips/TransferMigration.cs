using Npgsql;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Store.Tests.Trips;

/// <summary>A business written by the version that kept handovers on the leg they ended, and what the migration makes of it.</summary>
public sealed class TransferMigration() : OldSchema(through: "0053")
{
    /// <summary>A load handed over twice, in Missoula and again at the same minute in Drummond; one handed over once; one never.</summary>
    private Task Write() =>
        Connection.Run(
            """
            insert into places (name, town, region, country, latitude, longitude, zone) values
                ('Yard', 'Missoula', 'MT', 'US', 46.87, -113.99, 'America/Denver'), ('Truck stop', 'Drummond', 'MT', 'US', 46.67, -113.15, 'America/Denver');
            insert into drivers (name, short_name) values ('Moses Okafor', 'M. Okafor'), ('Lena Haugen', 'L. Haugen'), ('Kai Voss', 'K. Voss');
            insert into trucks (unit) values ('118'), ('119'), ('120');
            insert into trips (number, driver_id, truck_id, scheduled, started_at, ended_at)
                select 'T-' || n, d.id, t.id, tstzrange('2026-11-01', '2026-11-02'), '2026-11-01', '2026-11-02'
                from generate_series(1, 6) n join drivers d on d.id = (n - 1) % 3 + 1 join trucks t on t.id = (n - 1) % 3 + 1;
            insert into companies (name, is_customer) values ('Snowberry Creamery', true);
            insert into loads (number, state, is_draft, customer_id, equipment, first_at, last_at, booked_at)
                select 'L-' || n, 'rolling', false, 1, 'van', now(), now(), now() from generate_series(1, 3) n;
            insert into legs (load_id, seq, miles, trip_id, handed_over_at, handover_place_id) values
                (1, 1, 140, 1, '2026-11-01T20:00:00Z', 1), (1, 2, 60, 2, '2026-11-01T20:00:00Z', 2), (1, 3, 210, 3, null, null),
                (2, 1, 400, 4, '2026-11-01T18:00:00Z', 1), (2, 2, 90, 5, null, null), (3, 1, 300, 6, null, null)
            """
        );

    [Fact]
    public async Task Every_handover_becomes_the_transfer_at_which_the_next_leg_begins()
    {
        await Write();
        var before = await Miles();
        await Migrate();
        Assert.Equal(before, await Miles());
        Assert.Equal(
            [
                (1, 1, null, "Missoula 20"),
                (1, 2, "Missoula 20", "Drummond 20"),
                (1, 3, "Drummond 20", null),
                (2, 1, null, "Missoula 18"),
                (2, 2, "Missoula 18", null),
                (3, 1, null, (string?)null),
            ],
            await Connection.Rows(
                """
                select le.load_id::int as load, le.seq, b.town || ' ' || extract(hour from le.began_at at time zone 'UTC') as began,
                    e.town || ' ' || extract(hour from le.ended_at at time zone 'UTC') as ended
                from leg_ends le left join places b on b.id = le.began_place_id left join places e on e.id = le.ended_place_id
                order by le.load_id, le.seq
                """,
                r => (r.Int("load"), r.Int("seq"), r.TextOrNull("began"), r.TextOrNull("ended"))
            )
        );
    }

    /// <summary>A leg begins at the first stop or at a transfer of its own load, and no two begin at one.</summary>
    [Theory]
    [InlineData("insert into legs (load_id, seq, miles) values (3, 2, 10)", "legs_first_or_transferred")]
    [InlineData("update legs set begins_at = null where load_id = 1 and seq = 2", "legs_first_or_transferred")]
    [InlineData("insert into legs (load_id, seq, miles, begins_at) values (3, 2, 10, 1)", "legs_begins_at_key")]
    [InlineData(
        "with t as (insert into transfers (load_id, place_id, after_stops, left_at, method) values (1, 1, 0, now(), 'drop') returning id) update legs set begins_at = t.id from t where legs.load_id = 2 and seq = 2",
        "legs_begin_in_their_load"
    )]
    [InlineData("delete from transfers where id = 1", "legs_begin_in_their_load")]
    public async Task The_database_refuses_a_gap_between_legs(string sql, string constraint)
    {
        await Write();
        await Migrate();
        Assert.Equal(constraint, (await Assert.ThrowsAsync<PostgresException>(() => Connection.Run(sql))).ConstraintName);
    }

    /// <summary>A carrier is paid nothing only when another took over.</summary>
    [Fact]
    public async Task The_database_refuses_a_carrier_that_hauls_for_nothing()
    {
        await Write();
        await Migrate();
        await Connection.Run(
            """
            insert into companies (name, is_carrier) values ('Two Forks Trucking', true);
            insert into carriers (company_id) select max(id) from companies
            """
        );
        const string nothing =
            "update legs set trip_id = null, carrier_id = (select max(company_id) from carriers), agreed = 0 where load_id = 2 and seq = ";
        await Connection.Run(nothing + "1");
        Assert.Equal("LK002", (await Assert.ThrowsAsync<PostgresException>(() => Connection.Run(nothing + "2"))).SqlState);
    }

    private Task<List<(string Number, int Seq, int Miles)>> Miles() =>
        Connection.Rows("select l.number, g.seq, g.miles from legs g join loads l on l.id = g.load_id order by l.id, g.seq", r =>
            (r.Text("number"), r.Int("seq"), r.Int("miles"))
        );
}
