using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Trips;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>A command and another transaction that wait for each other.</summary>
public sealed class Deadlocks(TestBusiness business) : PlanTest(business)
{
    [Fact]
    public async Task A_command_that_postgresql_ends_for_a_deadlock_is_run_again()
    {
        var owner = await Business.As(Role.Owner);
        var one = await Booked(owner, 24, "from", "to", 4, 6_000, 900m);
        var trip = await TripOf(owner, one, "lena");
        _ = (
            await owner.Post(
                $"loads/{await Booked(owner, 24, "from", "to", 4, 6_000, 900m)}/cover/trip",
                new { tripId = trip, allowLate = true }
            )
        ).Ok;
        var ids = Ids(await Trip(owner, trip));
        var later = ids[..^2].Append(ids[^1]).Append(ids[^2]).ToArray();

        // The other transaction has the legs and will want the trip; the command takes the trip first and then wants the legs.
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        await using var other = await db.BeginTransactionAsync();
        await db.Run("update legs set miles = miles where trip_id = @trip", ("trip", trip));
        var command = owner.Put(
            $"trips/{trip}/order",
            new
            {
                order = later,
                was = ids,
                allowLate = true,
            }
        );
        await using var watch = await Business.Db.Source.OpenConnectionAsync();
        for (var i = 0; i < 200 && !await watch.One<bool>("select exists (select 1 from pg_locks where not granted)"); i++)
        {
            await Task.Delay(25);
        }

        await db.Run("select 1 from trips where id = @trip for update", ("trip", trip));
        await other.CommitAsync();
        Assert.Equal(200, (int)(await command).Status);
        Assert.Equal(later, Ids(await Trip(owner, trip)));
    }
}
