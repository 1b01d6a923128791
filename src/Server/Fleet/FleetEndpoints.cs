using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Fleet;

namespace SteadyLark.Server.Fleet;

public sealed record FleetView(IReadOnlyList<DriverRow> Drivers, IReadOnlyList<TruckRow> Trucks, IReadOnlyList<TrailerRow> Trailers);

public static class FleetEndpoints
{
    public static void MapFleet(this RouteGroupBuilder api) =>
        api.MapGet("/fleet", async (NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return new FleetView(await FleetStore.Drivers(db), await FleetStore.Trucks(db), await FleetStore.Trailers(db));
        }).Needs(Right.FleetSee).WithName("getFleet");
}
