using Npgsql;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Ledger;
using Xunit;

namespace SteadyLark.Store.Tests.Trips;

/// <summary>A business written by the version in which a load had expected and actual costs, and what the database holds of expenses.</summary>
public sealed class TripExpenseMigration() : OldSchema(through: "0063")
{
    /// <summary>Load 1 is on trip 1; load 2 is not covered. Each has costs of every sort.</summary>
    private async Task Write()
    {
        await Connection.Run(
            """
            insert into accounts (code, name, kind) values ('5200', 'Fuel', 'expense'), ('5300', 'Tolls', 'expense'), ('2060', 'Petty cash owed', 'liability');
            insert into places (name, town, region, country, latitude, longitude, zone) values
                ('Creamery', 'Great Falls', 'MT', 'US', 47.5, -111.3, 'America/Denver'), ('Cold store', 'Spokane', 'WA', 'US', 47.66, -117.43, 'America/Los_Angeles');
            insert into companies (name, is_customer) values ('Snowberry Creamery', true);
            insert into drivers (name, short_name) values ('Driver 1', 'D. 1');
            insert into trucks (unit) values ('101');
            insert into trips (number, driver_id, truck_id, scheduled) values ('401', 1, 1, tstzrange('2026-11-02', '2026-11-04'));
            insert into loads (number, state, is_draft, customer_id, equipment, first_at, last_at, booked_at, to_cover)
                select 'L-' || n, case n when 1 then 'covered' else 'booked' end, false, 1, 'van', now(), now(), now(), case n when 2 then 1 end from generate_series(1, 2) n;
            insert into stops (load_id, seq, kind, place_id) select n, 1, 'pickup', 1 from generate_series(1, 2) n;
            insert into stops (load_id, seq, kind, place_id) select n, 2, 'delivery', 2 from generate_series(1, 2) n;
            insert into legs (load_id, seq, miles, trip_id) values (1, 1, 364, 1), (2, 1, 364, null);
            update legs set truck_miles = 364, empty_miles = 12, truck_days = 1.5, expected_pay = 220, cost_fuel = 190, cost_tolls = 4 where trip_id = 1;
            insert into trip_costs (load_id, kind, expected, actual, note, entered_by, at) values
                (1, 'fuel', 300, 288.40, 'card', 'Ines', '2026-11-03 12:00Z'), (1, 'scale', null, 14.5, null, 'Ines', '2026-11-03 12:00Z'),
                (1, 'toll', 4, 0, null, 'Ines', '2026-11-03 12:00Z'), (1, 'lodging', 90, null, null, 'Ines', '2026-11-03 12:00Z'),
                (2, 'wash', null, 60, null, 'Ines', '2026-11-03 12:00Z'), (2, 'other', 20, 25, null, 'Ines', '2026-11-03 12:00Z');
            insert into trip_costs (load_id, kind, actual, entered_by, at, removed_at, removed_by) values (1, 'toll', 9, 'Ines', '2026-11-03 12:00Z', now(), 'Ines')
            """
        );
        await Migrate();
    }

    [Fact]
    public async Task What_was_actual_is_an_expense_of_the_trip_and_the_rest_is_planned()
    {
        await Write();
        Assert.Equal(
            ["1 fuel 288.40 separately approved 5200 card", "1 scale 14.50 separately approved 5300 "],
            await Connection.Rows(
                "select trip_id || ' ' || kind || ' ' || booked || ' ' || paid_by || ' ' || state || ' ' || account || ' ' || coalesce(note, '') as x from trip_expenses order by id",
                r => r.Text("x")
            )
        );
        Assert.Equal(
            ["1 fuel 300.00", "1 lodging 90.00", "1 toll 0.00", "2 other 25.00", "2 wash 60.00"],
            await Connection.Rows(
                "select load_id || ' ' || kind || ' ' || expected as x from trip_costs where removed_at is null order by 1",
                r => r.Text("x")
            )
        );
        Assert.Equal(
            "190.00 4.00",
            await Connection.One<string>("select planned_fuel || ' ' || planned_tolls from legs where trip_id = 1")
        );
        Assert.Equal(0, await Connection.One<long>("select count(*) from entries"));

        // An account that a business has under the same number stays its own; the others are added.
        var chart = (await LedgerStore.Chart(Connection)).ToDictionary(a => a.Code, a => a.Name);
        Assert.Equal(("Petty cash owed", "Driver reimbursements payable", "Reefer fuel"), (chart["2060"], chart["2130"], chart["5290"]));
    }

    private const string Add =
        "insert into trip_expenses (trip_id, kind, spent_on, amount, booked, paid_by, driver_id, truck_id, account, state, reported_by, reported_at";

    private static readonly (string Sql, string? Refused)[] Cases =
    [
        ($"{Add}) values (1, 'scale', '2026-11-03', 14.5, 14.5, 'driver', 1, 1, '5300', 'reported', 'D. 1', now())", null),
        (
            $"{Add}) values (1, 'scale', '2026-11-03', 14.5, 15, 'driver', 1, 1, '5300', 'reported', 'D. 1', now())",
            "trip_expenses_in_books"
        ),
        (
            $"{Add}, quantity) values (1, 'fuel', '2026-11-03', 14.5, 14.5, 'driver', 1, 1, '5300', 'reported', 'D. 1', now(), 4)",
            "trip_expenses_fuel"
        ),
        (
            $"{Add}, quantity, unit, price) values (1, 'scale', '2026-11-03', 14.5, 14.5, 'driver', 1, 1, '5300', 'reported', 'D. 1', now(), 4, 'gallons', 3)",
            "trip_expenses_fuel"
        ),
        (
            $"{Add}) values (1, 'repair', '2026-11-03', 90, 90, 'on_account', 1, 1, '5300', 'reported', 'D. 1', now())",
            "trip_expenses_vendor"
        ),
        // Approved is posted: what a driver paid is a pay item, what is on account a bill, and nothing else is either.
        (
            $"{Add}, decided_by, decided_at) values (1, 'scale', '2026-11-03', 9, 9, 'driver', 1, 1, '5300', 'approved', 'D. 1', now(), 'M', now())",
            "trip_expenses_posted"
        ),
        (
            $"{Add}, charge_back) values (1, 'scale', '2026-11-03', 9, 9, 'driver', 1, 1, '5300', 'reported', 'D. 1', now(), true)",
            "trip_expenses_charge_back"
        ),
        (
            "insert into pay_items (driver_id, kind, happened_on, what, amount, account, entered_at) values (1, 'reimbursement', '2026-11-03', 'scale', 9, '2130', now()); update trip_expenses set pay_item_id = 1 where id = 1",
            "trip_expenses_posted"
        ),
        ("update trip_expenses set state = 'reported' where id = 1", "trip_expenses_decided"),
        ("update trip_expenses set state = 'declined' where id = 1", "trip_expenses_decided"),
        ("update trip_expenses set state = 'declined', reason = 'twice' where id = 1", null),
        (
            "insert into entries (posted_on, at, memo, source, source_id) values ('2026-11-03', now(), 'x', 'journal', 0); insert into entry_lines (entry_id, seq, account, debit, credit) values (1, 1, '5300', 9, 0), (1, 2, '2130', 0, 9)",
            "entry_lines_item"
        ),
    ];

    [Fact]
    public async Task The_database_refuses_an_expense_that_is_not_where_it_belongs()
    {
        await Write();
        foreach (var (sql, refused) in Cases)
        {
            await using var transaction = await Connection.BeginTransactionAsync();
            var e = await Record.ExceptionAsync(() => Connection.Run($"{sql}; set constraints all immediate")) as PostgresException;
            Assert.Equal((sql, refused), (sql, e?.ConstraintName ?? e?.SqlState));
        }
    }
}
