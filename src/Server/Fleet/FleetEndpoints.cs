using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Core.Trips.Loading;
using SteadyLark.Server.Basics;
using SteadyLark.Server.People;
using SteadyLark.Server.Places;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Tracking;

namespace SteadyLark.Server.Fleet;

public sealed record FleetView(IReadOnlyList<DriverRow> Drivers, IReadOnlyList<TruckRow> Trucks, IReadOnlyList<TrailerRow> Trailers);

/// <summary>Where our active trucks and trailers are, as far as it is known.</summary>
public sealed record UnitLocations(IReadOnlyList<UnitAt> Trucks, IReadOnlyList<UnitAt> Trailers);

public static class FleetEndpoints
{
    public static void MapFleet(this RouteGroupBuilder api)
    {
        api.MapGet("/fleet", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return new FleetView(await FleetStore.Drivers(db), await FleetStore.Trucks(db), await FleetStore.Trailers(db));
            })
            .Needs(Right.FleetSee)
            .WithName("getFleet");

        api.MapPost("/drivers", (DriverRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.Driver(w, null, request))
            )
            .Needs(Right.FleetEdit)
            .WithName("addDriver");
        api.MapPut("/drivers/{id:long}", (long id, DriverRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.Driver(w, id, request))
            )
            .Needs(Right.FleetEdit)
            .WithName("changeDriver");
        api.MapPost("/drivers/{id:long}/time-off", (long id, TimeOffRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.AddTimeOff(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("addTimeOff");
        api.MapPost("/drivers/{id:long}/time-off/{off:long}/remove", (long id, long off, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.RemoveTimeOff(w, id, off))
            )
            .Needs(Right.LoadsCover)
            .WithName("removeTimeOff");
        api.MapPut("/drivers/{id:long}/home-by", (long id, HomeByRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.HomeBy(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("setHomeBy");
        api.MapPost("/trucks", (TruckRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.Truck(w, null, request))
            )
            .Needs(Right.FleetEdit)
            .WithName("addTruck");
        api.MapPut("/trucks/{id:long}", (long id, TruckRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.Truck(w, id, request))
            )
            .Needs(Right.FleetEdit)
            .WithName("changeTruck");
        MapLocations(api);
        api.MapGet("/equipment-matches", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return (await FleetStore.Matches(db)).Also;
            })
            .Needs(Right.FleetSee)
            .WithName("getEquipmentMatches");
        api.MapPut("/equipment-matches", (EquipmentMatchesRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.Matches(w, request))
            )
            .Needs(Right.SetupEdit)
            .WithName("setEquipmentMatches");
        api.MapGet("/trailer-features", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await FleetStore.FeatureUses(db);
            })
            .Needs(Right.FleetSee)
            .WithName("getTrailerFeatures");
        api.MapPut("/trailer-features", (FeaturesRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.Features(w, request))
            )
            .Needs(Right.SetupEdit)
            .WithName("setTrailerFeatures");
        api.MapGet("/products", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await ProductStore.All(db);
            })
            .Needs(Right.FleetSee)
            .WithName("getProducts");
        api.MapPut("/products", (ProductsRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.Products(w, request))
            )
            .Needs(Right.SetupEdit)
            .WithName("setProducts");
        api.MapGet("/body-styles", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await ProductStore.BodyStyles(db);
            })
            .Needs(Right.FleetSee)
            .WithName("getBodyStyles");
        api.MapPut("/body-styles", (BodyStylesRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.BodyStyles(w, request))
            )
            .Needs(Right.SetupEdit)
            .WithName("setBodyStyles");
        api.MapGet("/deck-templates", () => TrailerLayout.Templates).Needs(Right.FleetSee).WithName("getDeckTemplates");
        api.MapGet("/trucks/{id:long}/devices", async (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await PositionStore.Devices(db, id);
            })
            .Needs(Right.FleetSee)
            .WithName("listDevices");
        api.MapPost(
                "/trucks/{id:long}/devices",
                (long id, DeviceRequest request, HttpContext http, Commands commands, LarkSettings settings) =>
                    commands.Run(http, w => FleetCommands.IssueDevice(w, id, request, settings.Url))
            )
            .Needs(Right.FleetEdit)
            .WithName("issueDevice");
        api.MapPost("/trucks/{id:long}/devices/{deviceId:long}/revoke", (long id, long deviceId, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.RevokeDevice(w, id, deviceId))
            )
            .Needs(Right.FleetEdit)
            .WithName("revokeDevice");
        api.MapPost("/trailers", (TrailerRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.Trailer(w, null, request))
            )
            .Needs(Right.FleetEdit)
            .WithName("addTrailer");
        api.MapPut("/trailers/{id:long}", (long id, TrailerRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.Trailer(w, id, request))
            )
            .Needs(Right.FleetEdit)
            .WithName("changeTrailer");
    }

    private static void MapLocations(RouteGroupBuilder api)
    {
        api.MapGet("/fleet/locations", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                var (trucks, trailers) = (await LocationStore.Trucks(db), await LocationStore.Trailers(db));
                return new UnitLocations(
                    (await FleetStore.Trucks(db))
                        .Where(t => t.Active && trucks.ContainsKey(t.Id))
                        .Select(t => At(t.Id, t.Unit, trucks[t.Id]))
                        .ToList(),
                    (await FleetStore.Trailers(db))
                        .Where(t => t.Active && trailers.ContainsKey(t.Id))
                        .Select(t => At(t.Id, t.Unit, trailers[t.Id]))
                        .ToList()
                );
            })
            .Needs(Right.FleetSee)
            .WithName("getLocations");
        api.MapPost("/trucks/{id:long}/location", (long id, LocationRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.TruckAt(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("setTruckLocation");
        api.MapPost("/trailers/{id:long}/location", (long id, LocationRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => FleetCommands.TrailerAt(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("setTrailerLocation");

        static UnitAt At(long id, string unit, UnitStand at) =>
            new(id, unit, at.PlaceId is null ? Routing.Where(at.Point) : at.Town, at.At, at.Source, at.Trip);
    }
}
