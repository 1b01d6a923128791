using Npgsql;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Store.Tests.Trips;

/// <summary>A business written by the version that knew only handovers as they happened, and what the migration makes of it.</summary>
public sealed class PlannedTransferMigration() : OldSchema(through: "0057")
{
    /// <summary>L-1 was handed over between its two pickups and again before its delivery; L-2 is booked; L-3 is with a carrier.</summary>
    private Task Write() =>
        Connection.Run(
            """
            insert into places (name, town, region, country, latitude, longitude, zone) values
                ('Yard', 'Missoula', 'MT', 'US', 46.87, -113.99, 'America/Denver'), ('Truck stop', 'Drummond', 'MT', 'US', 46.67, -113.15, 'America/Denver');
            insert into companies (name, is_customer) values ('Snowberry Creamery', true);
            insert into companies (name, is_carrier) values ('Two Forks Trucking', true);
            insert into carriers (company_id) values (2);
            insert into loads (number, state, is_draft, customer_id, equipment, first_at, last_at, booked_at)
                select 'L-' || n, case n when 1 then 'rolling' when 2 then 'booked' else 'covered' end, false, 1, 'van', now(), now(), now()
                from generate_series(1, 3) n;
            insert into stops (load_id, seq, kind, place_id) values (1, 1, 'pickup', 1), (1, 2, 'pickup', 1), (1, 3, 'delivery', 2),
                (2, 1, 'pickup', 1), (2, 2, 'delivery', 2), (3, 1, 'pickup', 1), (3, 2, 'delivery', 2);
            update stops set arrived_at = '2026-11-01T14:00Z', left_at = '2026-11-01T15:00Z', arrived_via = 'desk', left_via = 'desk' where load_id = 1 and seq = 1;
            update stops set arrived_at = '2026-11-01T18:00Z', left_at = '2026-11-01T19:00Z', arrived_via = 'desk', left_via = 'desk' where load_id = 1 and seq = 2;
            insert into transfers (load_id, place_id, happened_at) values (1, 1, '2026-11-01T16:00Z'), (1, 2, '2026-11-01T20:00Z');
            insert into legs (load_id, seq, miles, begins_at) values (1, 1, 140, null), (1, 2, 60, 1), (1, 3, 210, 2), (2, 1, 200, null);
            insert into legs (load_id, seq, miles, carrier_id, agreed) values (3, 1, 300, 2, 800);
            insert into carrier_charges (leg_id, seq, kind, amount) values (5, 1, 'line_haul', 800);
            insert into document_files (sha256, bytes) values (sha256('x'), 'x');
            insert into documents (load_id, kind, file_name, media_type, size, sha256, added_at, via) values
                (3, 'rate_confirmation', 'rate-confirmation-L-3.pdf', 'application/pdf', 1, sha256('x'), now(), 'page')
            """
        );

    [Fact]
    public async Task Handovers_keep_their_place_between_the_stops()
    {
        await Write();
        await Migrate();
        Assert.Equal(
            [(1, 0, 1, null), (2, 1, 2, "16:00"), (3, 2, 3, "20:00")],
            await Connection.Rows(
                """
                select seq, first_after, least(last_after, 3) as last_after, to_char(began_at at time zone 'UTC', 'HH24:MI') as began
                from leg_ends where load_id = 1 order by seq
                """,
                r => (r.Int("seq"), r.Int("first_after"), r.Int("last_after"), r.TextOrNull("began"))
            )
        );
        Assert.Equal(
            [("L-1", null), ("L-2", 1), ("L-3", (int?)null)],
            await Connection.Rows("select number, to_cover from loads order by id", r => (r.Text("number"), r.IntOrNull("to_cover")))
        );
        Assert.Equal(5, await Connection.One<long>("select leg_id from documents"));
    }

    /// <summary>Legs of a load have no gap, and freight is where it was left. What is refused and by what; null for what is right.</summary>
    private static readonly (string Sql, string? Refused)[] Cases =
    [
        ("update transfers set left_at = null where id = 1", "transfers_left_or_planned"),
        ("update transfers set planned_at = now(), left_at = null where id = 1", "transfers_taken_after_left"),
        ("update transfers set taken_at = '2026-11-01T15:59Z' where id = 1", "transfers_taken_after_left"),
        ("update transfers set planned_at = now(), left_at = null, taken_at = null where id = 1", "LK007"),
        ("update transfers set after_stops = 3 where id = 1", "LK007"),
        ("update transfers set after_stops = 0 where id = 2", "LK007"),
        ("update transfers set left_at = '2026-11-01T15:30Z' where id = 2", "LK007"),
        (
            "update transfers set planned_at = now(), taken_at = null where id = 2; update stops set arrived_at = now(), arrived_via = 'desk' where load_id = 1 and seq = 3",
            "LK007"
        ),
        ("update loads set to_cover = null where number = 'L-2'", "loads_open_to_cover"),
        ("update loads set state = 'delivered' where number = 'L-2'", "loads_to_cover_ahead"),
        ("update stops set arrived_at = now(), arrived_via = 'desk' where load_id = 1 and seq = 3", null),
        ("update transfers set planned_at = now(), left_at = null, taken_at = null where id = 2", null),
    ];

    [Fact]
    public async Task The_database_refuses_freight_in_two_places()
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
