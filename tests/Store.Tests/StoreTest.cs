using NodaTime;
using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Places;
using SteadyLark.Tests.Shared;
using Xunit;

namespace SteadyLark.Store.Tests;

/// <summary>A database with one customer, one carrier, two places, two drivers and what they drive.</summary>
public sealed class Stocked : IAsyncLifetime
{
    public static readonly Instant Now = Instant.FromUtc(2026, 11, 23, 16, 42);
    public static readonly DateTimeZone Zone = DateTimeZoneProviders.Tzdb["America/Denver"];

    public TestDatabase Db { get; private set; } = null!;

    public long Customer { get; private set; }

    public long Carrier { get; private set; }

    public long[] Places { get; private set; } = [];

    public long[] Drivers { get; private set; } = [];

    public long[] Trucks { get; private set; } = [];

    public long[] Trailers { get; private set; } = [];

    public async Task InitializeAsync()
    {
        Db = await TestDatabase.Make();
        await using var w = await Begin();
        await LedgerStore.AddAccounts(w.Db);
        Customer = await CompanyStore.Add(
            w.Db,
            new CompanyRow(
                0,
                "Snowberry Creamery",
                "406-555-0101",
                "pay@snowberry.example",
                null,
                "Great Falls",
                "MT",
                true,
                false,
                30,
                null,
                1,
                null
            )
        );
        Carrier = await CompanyStore.Add(
            w.Db,
            new CompanyRow(
                0,
                "Two Forks Trucking",
                null,
                "dispatch@twoforks.example",
                null,
                null,
                null,
                false,
                true,
                30,
                null,
                1,
                new CarrierFile("9000100", true, w.Today.PlusDays(90), w.Today.PlusDays(90), null)
            )
        );
        Places =
        [
            await PlaceStore.Add(
                w.Db,
                new PlaceRow(0, "Snowberry Dock", null, "Great Falls", "MT", "US", 47.5, -111.3, "America/Denver", null)
            ),
            await PlaceStore.Add(
                w.Db,
                new PlaceRow(0, "Northgate Cold Storage", null, "Spokane", "WA", "US", 47.66, -117.43, "America/Los_Angeles", null)
            ),
        ];
        Drivers = [await Driver(w, "Moses Okafor", "M. Okafor"), await Driver(w, "Lena Haugen", "L. Haugen")];
        Trucks = [await FleetStore.AddTruck(w.Db, "118", null), await FleetStore.AddTruck(w.Db, "119", null)];
        Trailers =
        [
            await FleetStore.AddTrailer(w.Db, "5306", Equipment.Reefer),
            await FleetStore.AddTrailer(w.Db, "5307", Equipment.Reefer),
        ];
        await w.Commit();
    }

    public async Task DisposeAsync() => await Db.DisposeAsync();

    public Task<CommandContext> Begin() =>
        CommandContext.Begin(Db.Source, new Actor(null, "Test", Via.System), Now, Zone, RoadEstimate.Straight);

    /// <summary>What the database says when it refuses; null when it does not.</summary>
    public async Task<string?> Refusal(Func<CommandContext, Task> act)
    {
        try
        {
            await using var w = await Begin();
            await act(w);
            await w.Commit();
            return null;
        }
        catch (PostgresException e)
        {
            return e.ConstraintName is { Length: > 0 } constraint && e.SqlState != "P0001" ? constraint : e.SqlState;
        }
    }

    /// <summary>A booked load without stops, as far as the constraints care.</summary>
    public Task<long> Load(CommandContext w, string number, decimal revenue = 100) =>
        w.Db.One<long>(
            """
            with l as (
                insert into loads (number, to_cover, state, is_draft, customer_id, equipment, revenue, booked_at, first_at, last_at)
                values (@number, 1, 'booked', false, @customer, 'reefer', @revenue, @now, @now, @now) returning id)
            insert into charges (load_id, seq, kind, amount) select id, 1, 'line_haul', @revenue from l returning load_id
            """,
            ("number", number),
            ("customer", Customer),
            ("revenue", revenue),
            ("now", Now)
        );

    private static Task<long> Driver(CommandContext w, string name, string shortName) =>
        FleetStore.AddDriver(w.Db, new DriverRow(0, name, shortName, null, null, "Missoula MT", true));
}
