using Npgsql;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Store.Tests.Trips;

/// <summary>A business written by the version in which a trip had one trailer, and what the migration makes of it.</summary>
public sealed class TripTrailerMigration() : OldSchema(through: "0072")
{
    /// <summary>Trip 1 is over; trip 2 hooks its trailer in Missoula and drops it in Spokane before it goes back; trip 3 is canceled; trip 4 has no
    /// trailer.</summary>
    private async Task Write()
    {
        await Connection.Run(
            """
            insert into places (name, town, region, country, latitude, longitude, zone) values
                ('Creamery', 'Great Falls', 'MT', 'US', 47.5, -111.3, 'America/Denver'), ('Yard', 'Missoula', 'MT', 'US', 46.87, -113.99, 'America/Denver'),
                ('Cold store', 'Spokane', 'WA', 'US', 47.66, -117.43, 'America/Los_Angeles');
            insert into companies (name, is_customer) values ('Snowberry Creamery', true);
            insert into drivers (name, short_name) select 'Driver ' || n, 'D. ' || n from generate_series(1, 4) n;
            insert into trucks (unit) select '10' || n from generate_series(1, 4) n;
            insert into trailers (unit, equipment) select '530' || n, 'van' from generate_series(1, 3) n;
            insert into trips (number, driver_id, truck_id, trailer_id, scheduled, started_at, ended_at, canceled_at)
                select '40' || n, n, n, case n when 4 then null else least(n, 2) end, tstzrange(timestamptz '2026-11-01' + n * interval '1 day', timestamptz '2026-11-02' + n * interval '1 day'),
                    case n when 1 then timestamptz '2026-11-02 06:00' end, case n when 1 then timestamptz '2026-11-02 20:00' end,
                    case n when 3 then now() end
                from generate_series(1, 4) n;
            insert into loads (number, state, is_draft, customer_id, equipment, first_at, last_at, booked_at)
                select 'L-' || n, 'covered', false, 1, 'van', now(), now(), now() from generate_series(1, 2) n;
            insert into stops (load_id, seq, kind, place_id) select n, 1, 'pickup', 1 from generate_series(1, 2) n;
            insert into stops (load_id, seq, kind, place_id) select n, 2, 'delivery', 3 from generate_series(1, 2) n;
            insert into legs (load_id, seq, miles, trip_id) values (1, 1, 364, 1), (2, 1, 364, 2);
            insert into trip_stops (id, trip_id, kind, place_id, trailer_id, arrived_at, left_at, added_by, added_at) values
                (900, 2, 'hook', 2, 2, '2026-11-03 01:00', '2026-11-03 01:20', 'test', now()), (901, 2, 'drop', 3, 2, null, null, 'test', now()),
                (902, 2, 'yard', 2, null, null, null, 'test', now())
            """
        );
        await Connection.Run(
            """
            insert into trip_visits (trip_id, seq, stop_id, trip_stop_id) values (2, 1, null, 900), (2, 2, 2, null), (2, 3, 4, null), (2, 4, null, 901), (2, 5, null, 902)
            """
        );
    }

    [Fact]
    public async Task Each_trip_has_the_trailer_it_had_for_the_part_it_had_it()
    {
        await Write();
        await Migrate();
        Assert.Equal(
            [
                "401 5301: whole, over, left in Spokane",
                "402 5302: hooked, dropped, under way, left in Spokane",
                "403 5302: whole, canceled",
            ],
            await Connection.Rows(
                """
                select t.number || ' ' || r.unit || ': ' || case when x.from_at is null then 'whole' else 'hooked' end || case when x.until_at is null then '' else ', dropped' end
                    || case when x.canceled_at is not null then ', canceled' when x.ended_at is not null then ', over' when x.started_at is not null then ', under way' else '' end
                    || coalesce(', left in ' || p.town, '') as said
                from trip_trailers x join trips t on t.id = x.trip_id join trailers r on r.id = x.trailer_id
                    left join trailer_ends e on e.trip_id = x.trip_id and e.trailer_id = x.trailer_id left join places p on p.id = e.place_id order by t.number
                """,
                r => r.Text("said")
            )
        );
        Assert.Equal("5302", await Connection.One<string>("select trailer from trip_list where number = '402'"));
        Assert.Equal("5302", await Connection.One<string>("select trailer from load_list where number = 'L-2'"));
    }

    /// <summary>What is refused of a trip's trailers and by what; null for what is right. Trailer 3 is free, 1 was on trip 1, 2 is on trip 2.</summary>
    private static readonly (string Sql, string? Refused)[] Cases =
    [
        ("insert into trip_trailers (trip_id, trailer_id, seq, from_at) values (2, 3, 2, '2026-11-03 12:00')", null),
        (
            "insert into trip_trailers (trip_id, trailer_id, seq) values (4, 2, 1); update trips set scheduled = '[2026-11-03,2026-11-04)' where id = 4",
            "trailer_scheduled_once"
        ),
        // Hooked by another trip after this one dropped it.
        (
            "insert into trip_trailers (trip_id, trailer_id, seq, from_at) values (4, 3, 1, '2026-11-05 12:00'); insert into trip_trailers (trip_id, trailer_id, seq, until_at) values (2, 3, 2, '2026-11-03 12:00')",
            null
        ),
        ("update trip_trailers set hooked_at = null where trip_id = 2; update trips set started_at = now() where id = 2", null),
        // In the trailer of another trip, or of none.
        ("update legs set trailer_id = 3 where load_id = 2", "legs_trailer_of_trip"),
        (
            "insert into trip_trailers (trip_id, trailer_id, seq, from_at) values (2, 3, 2, '2026-11-03 12:00'); update legs set trailer_id = 3 where load_id = 2",
            null
        ),
        // It leaves its trip, and with it the trailer.
        (
            "insert into trip_trailers (trip_id, trailer_id, seq) values (4, 3, 1); update legs set trip_id = 4, trailer_id = 3 where load_id = 1; update legs set trip_id = 1 where load_id = 1",
            null
        ),
        ("insert into trip_trailers (trip_id, trailer_id, seq) values (2, 3, 21)", "trip_trailers_seq_check"),
        // The freight is in the trailer that is dropped, or not hooked yet.
        (
            "update trip_visits set seq = seq + 10 where trip_id = 2 and seq >= 4; update trip_visits set seq = 4 where trip_stop_id = 900",
            "LK008"
        ),
        ("update trip_visits set seq = 10 where stop_id = 4", "LK008"),
        // Dropped, it is hooked again later.
        ("update trip_visits set seq = 10 where trip_stop_id = 900", null),
        // Another one may be hooked in between, where it is.
        (
            "insert into unit_locations (trailer_id, place_id, at, entered_by, entered_at) values (3, 2, '2026-11-01', 'test', now()); insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (903, 2, 'hook', 1, 3, 'test', now())",
            "LK009"
        ),
        (
            "insert into unit_locations (trailer_id, place_id, at, entered_by, entered_at) values (3, 2, '2026-11-01', 'test', now()); insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (903, 2, 'hook', 2, 3, 'test', now())",
            null
        ),
        // Dropped by the trip itself, it is hooked again there.
        (
            "insert into trip_stops (id, trip_id, kind, place_id, trailer_id, added_by, added_at) values (903, 2, 'hook', 3, 2, 'test', now())",
            null
        ),
        (
            "insert into trip_stops (id, trip_id, kind, place_id, added_by, added_at) values (903, 2, 'start', 3, 'test', now()), (904, 2, 'start', 3, 'test', now())",
            "trip_stops_once"
        ),
    ];

    public static TheoryData<int> CaseNumbers => [.. Enumerable.Range(0, Cases.Length)];

    [Theory]
    [MemberData(nameof(CaseNumbers))]
    public async Task Trailers_that_cannot_be_there_are_refused(int which)
    {
        await Write();
        await Migrate();
        var (sql, refused) = Cases[which];
        await using var work = await Connection.BeginTransactionAsync();
        var thrown = await Record.ExceptionAsync(async () =>
        {
            await Connection.Run(sql);
            await Connection.Run("set constraints all immediate");
        });
        var told = thrown is PostgresException p ? (p.ConstraintName ?? p.SqlState) : thrown?.Message;
        Assert.Equal(refused, told);
        if (refused is null && sql.Contains("set trip_id = 1", StringComparison.Ordinal))
        {
            Assert.False(await Connection.One<bool>("select exists (select 1 from legs where trailer_id is not null)"));
        }
    }
}
