using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Core.Trips.Loading;
using SteadyLark.Formats.Mail;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.People;
using SteadyLark.Store.Places;
using SteadyLark.Store.Tracking;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Fleet;

/// <param name="ShortName">As shown on the board; derived from the name when omitted: M. Okafor.</param>
/// <param name="HomeTownId">A town of the gazetteer.</param>
/// <param name="Active">False for drivers who left; their history stays.</param>
/// <param name="GroupId">Their driver group.</param>
/// <param name="Worker">How they work for us; as before, or an employee, when omitted.</param>
public sealed record DriverRequest(
    string? Name,
    string? ShortName,
    string? Phone,
    string? Email,
    long? HomeTownId,
    bool Active = true,
    long? GroupId = null,
    WorkerKind? Worker = null
);

/// <summary>The whole table of trailers that haul loads of another kind.</summary>
public sealed record EquipmentMatchesRequest(IReadOnlyList<EquipmentMatchRequest?>? Matches);

/// <param name="Features">The whole list, in its order; one that is left out is removed.</param>
public sealed record FeaturesRequest(IReadOnlyList<FeatureOrder?>? Features);

public sealed record EquipmentMatchRequest(Equipment? Trailer, Equipment? Load);

/// <param name="TareLb">Its own weight with fuel and driver, in pounds; a typical one when omitted.</param>
public sealed record TruckRequest(string? Unit, string? Make, bool Active = true, int? TareLb = null);

/// <param name="LengthIn">Inside, in inches, as are width and height; typical figures where omitted.</param>
/// <param name="PayloadLb">The most freight it may carry, in pounds.</param>
/// <param name="TareLb">Its own weight, in pounds.</param>
/// <param name="Features">What it has besides its kind, from the company's list; as before when omitted.</param>
/// <param name="Compartments">Of a tanker, from the front; as before when omitted.</param>
/// <param name="CompartmentUnit">What they are given in; US gallons when omitted.</param>
/// <param name="Decks">Of a car hauler, from the front; as before when omitted.</param>
public sealed record TrailerRequest(
    string? Unit,
    Equipment? Equipment,
    bool Active = true,
    int? LengthIn = null,
    int? WidthIn = null,
    int? HeightIn = null,
    int? PayloadLb = null,
    int? TareLb = null,
    IReadOnlyList<string?>? Features = null,
    IReadOnlyList<decimal?>? Compartments = null,
    VolumeUnit? CompartmentUnit = null,
    IReadOnlyList<DeckOrder?>? Decks = null
);

/// <param name="Products">The whole list, in its order; one that is left out is removed.</param>
public sealed record ProductsRequest(IReadOnlyList<ProductOrder?>? Products);

/// <param name="Styles">The whole table, in its order.</param>
public sealed record BodyStylesRequest(IReadOnlyList<BodyStyleOrder?>? Styles);

/// <param name="Until">When the driver is back.</param>
public sealed record TimeOffRequest(Instant? From, Instant? Until, string? Note);

/// <param name="At">By when the driver is to be home; null when nothing is agreed.</param>
public sealed record HomeByRequest(Instant? At);

public sealed record DeviceRequest(string? Label);

/// <param name="PlaceId">Where, from the address book; or <paramref name="TownId"/>, any town.</param>
/// <param name="At">When it was seen there; now when omitted.</param>
public sealed record LocationRequest(long? PlaceId, long? TownId, Instant? At, string? Note);

/// <summary>Where a truck or trailer is.</summary>
/// <param name="Where">As shown: a town, or so many miles from one.</param>
/// <param name="At">Since when it is known to be there.</param>
/// <param name="Trip">The trip that was there last; null when a user or a device reported it.</param>
public sealed record UnitAt(long Id, string Unit, string Where, Instant At, StandSource Source, string? Trip);

/// <summary>A device that was issued a token.</summary>
/// <param name="Address">The address for its positions, with the token. Shown once.</param>
public sealed record DeviceIssued(long Id, string Label, string Address);

public sealed record DeviceRevoked(long Id);

/// <summary>Our drivers, trucks and trailers. Nothing is deleted: they are deactivated, and not while booked.</summary>
public static class FleetCommands
{
    public static async Task<Outcome<DriverRow>> Driver(CommandContext w, long? id, DriverRequest r)
    {
        var validation = new Validation();
        var name = validation.Text(r.Name, "name", "The driver name", 80, required: true);
        var shorter = validation.Text(r.ShortName, "shortName", "The short name", 30);
        var phone = validation.Text(r.Phone, "phone", "The phone number", 40);
        var email = validation.Text(r.Email, "email", "The email address");
        if (email is not null && !Eml.IsAddress(email))
        {
            validation.Add("email", "This is not an email address. Use the form name@company.example.", "email");
        }

        var before = id is { } known ? await FleetStore.Driver(w.Db, known) : null;
        if (id is not null && before is null)
        {
            return Problem.Missing("This driver");
        }

        var town = r.HomeTownId is { } t ? await PlaceStore.Town(w.Db, t) : null;
        if (r.HomeTownId is not null && town is null)
        {
            validation.Add("unknown", "Choose the home town from the list.", "homeTownId");
        }

        if (
            before is { Active: true }
            && !r.Active
            && await FleetStore.Commitment(w.Db, CommitmentKind.Driver, before.Id, w.Now) is { } trip
        )
        {
            validation.Add("driver.busy", $"{before.Name} is assigned to trip {trip}: reassign it first.", "active");
        }

        if (r.GroupId is { } group && !await OfficeStore.Has(w.Db, UnitKind.DriverGroup, group))
        {
            validation.Add("not.found", "This driver group was not found.", "groupId");
        }
        else if (w.Actor.Access?.Limits.RefusesGroup(r.GroupId) is { } refused)
        {
            validation.Add(refused.Code, refused.Message, refused.Field);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var row = new DriverRow(
            id ?? 0,
            name!,
            shorter ?? Shorter(name!),
            phone,
            email,
            town is null ? before?.HomeTown : $"{town.Name} {town.Region}",
            r.Active,
            r.GroupId,
            Worker: r.Worker ?? before?.Worker ?? WorkerKind.Employee,
            HomeBy: before?.HomeBy
        );
        row = row with { Id = before is null ? await FleetStore.AddDriver(w.Db, row) : await FleetStore.ChangeDriver(w.Db, row) };
        if (before is not null && before.Worker != row.Worker)
        {
            await LegCosts.OfDriver(w, row.Id);
        }

        w.Record(
            before is null ? EventKinds.DriverAdded : EventKinds.DriverChanged,
            row.Id,
            before is null ? $"Driver {row.Name} added" : $"Driver {row.Name} changed",
            driverId: row.Id,
            before: before
        );
        return row;
    }

    /// <summary>Enters time off of a driver. Trips that are booked then stay: the plan shows them.</summary>
    public static async Task<Outcome<TimeOffRow>> AddTimeOff(CommandContext w, long driverId, TimeOffRequest r)
    {
        if (await FleetStore.Driver(w.Db, driverId, locked: true) is not { } driver)
        {
            return Problem.Missing("This driver");
        }

        var validation = new Validation();
        var note = validation.Text(r.Note, "note", "The note", 100);
        var known = await FleetStore.TimeOff(w.Db, Instant.MinValue, driverId);
        if (TimeOff.Check(validation, r.From, r.Until, known.Select(o => o.Span), w.Now, w.Zone) is not { } span || !validation.Ok)
        {
            return validation.Problems;
        }

        var id = await FleetStore.AddTimeOff(w.Db, driverId, span, note);
        w.Record(
            EventKinds.DriverChanged,
            driverId,
            $"{driver.Name} is off from {span.From.Format(w.Zone)} to {span.Until.Format(w.Zone)}",
            driverId: driverId
        );
        return new TimeOffRow(id, driverId, span.From, span.Until, note);
    }

    public static async Task<Outcome<TimeOffRow>> RemoveTimeOff(CommandContext w, long driverId, long id)
    {
        if (
            await FleetStore.Driver(w.Db, driverId, locked: true) is not { } driver
            || (await FleetStore.TimeOff(w.Db, Instant.MinValue, driverId)).Find(o => o.Id == id) is not { } off
        )
        {
            return Problem.Missing("This time off");
        }

        await FleetStore.RemoveTimeOff(w.Db, id);
        w.Record(
            EventKinds.DriverChanged,
            driverId,
            $"Time off of {driver.Name} from {off.From.Format(w.Zone)} to {off.Until.Format(w.Zone)} removed",
            driverId: driverId,
            before: off
        );
        return off;
    }

    /// <summary>Sets by when a driver is to be home.</summary>
    public static async Task<Outcome<DriverRow>> HomeBy(CommandContext w, long driverId, HomeByRequest r)
    {
        if (await FleetStore.Driver(w.Db, driverId, locked: true) is not { } driver)
        {
            return Problem.Missing("This driver");
        }

        var validation = new Validation();
        validation.Time(r.At, w.Now, "at", "The time to be home by");
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await FleetStore.SetHomeBy(w.Db, driverId, r.At);
        w.Record(
            EventKinds.DriverChanged,
            driverId,
            r.At is { } by ? $"{driver.Name} is to be home by {by.Format(w.Zone)}" : $"Home-by time of {driver.Name} removed",
            driverId: driverId,
            before: new { driver.HomeBy }
        );
        return driver with { HomeBy = r.At };
    }

    /// <summary>Sets which other loads trailers haul.</summary>
    public static async Task<Outcome<EquipmentMatches>> Matches(CommandContext w, EquipmentMatchesRequest request)
    {
        var matches = EquipmentMatches.Check((request.Matches ?? []).Select(m => (m?.Trailer, m?.Load)).ToList());
        if (!matches.Ok)
        {
            return matches.Problems;
        }

        var before = await FleetStore.Matches(w.Db);
        await FleetStore.SetMatches(w.Db, matches.Value);
        w.Record(EventKinds.SetupCompanyChanged, 0, "Equipment that hauls other loads changed", before: before);
        return matches;
    }

    /// <summary>Replaces the list of trailer features.</summary>
    public static async Task<Outcome<List<FeatureUse>>> Features(CommandContext w, FeaturesRequest request)
    {
        var before = await FleetStore.FeatureUses(w.Db);
        var list = TrailerFeatures.CheckList(request.Features, before);
        if (!list.Ok)
        {
            return list.Problems;
        }

        await FleetStore.SetFeatures(w.Db, list.Value);
        w.Record(EventKinds.SetupCompanyChanged, 0, "Trailer features changed", before: before.Select(f => f.Name).ToList());
        return await FleetStore.FeatureUses(w.Db);
    }

    /// <summary>Replaces the list of products.</summary>
    public static async Task<Outcome<List<Product>>> Products(CommandContext w, ProductsRequest request)
    {
        var before = await ProductStore.All(w.Db);
        var list = Core.Loads.Products.CheckList(request.Products, before);
        if (!list.Ok)
        {
            return list.Problems;
        }

        await ProductStore.Set(w.Db, list.Value);
        w.Record(EventKinds.SetupCompanyChanged, 0, "Products changed", before: before.Select(p => new { p.Name, p.LbPerGallon }).ToList());
        return await ProductStore.All(w.Db);
    }

    /// <summary>Replaces the table of body styles.</summary>
    public static async Task<Outcome<IReadOnlyList<BodyStyle>>> BodyStyles(CommandContext w, BodyStylesRequest request)
    {
        var styles = Core.Loads.BodyStyles.CheckList(request.Styles);
        if (!styles.Ok)
        {
            return styles.Problems;
        }

        var before = await ProductStore.BodyStyles(w.Db);
        await ProductStore.SetBodyStyles(w.Db, styles.Value);
        w.Record(EventKinds.SetupCompanyChanged, 0, "Body styles changed", before: before);
        return styles;
    }

    public static async Task<Outcome<TruckRow>> Truck(CommandContext w, long? id, TruckRequest r)
    {
        var validation = new Validation();
        var unit = validation.Text(r.Unit, "unit", "The truck number", 20, required: true);
        var make = validation.Text(r.Make, "make", "The make", 60);
        var all = await FleetStore.Trucks(w.Db);
        var before = all.FirstOrDefault(t => t.Id == id);
        if (id is not null && before is null)
        {
            return Problem.Missing("This truck");
        }

        Unit(validation, unit, all.Any(t => t.Id != id && string.Equals(t.Unit, unit, StringComparison.OrdinalIgnoreCase)), "truck");
        if (
            before is { Active: true }
            && !r.Active
            && await FleetStore.Commitment(w.Db, CommitmentKind.Truck, before.Id, w.Now) is { } trip
        )
        {
            validation.Add("truck.busy", $"Truck {before.Unit} is assigned to trip {trip}: reassign it first.", "active");
        }

        TrailerSize.CheckTare(r.TareLb, validation);

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var row = new TruckRow(id ?? await FleetStore.AddTruck(w.Db, unit!, make), unit!, make, r.Active, r.TareLb);
        await FleetStore.ChangeTruck(w.Db, row);
        w.Record(
            before is null ? EventKinds.TruckAdded : EventKinds.TruckChanged,
            row.Id,
            before is null ? $"Truck {row.Unit} added" : $"Truck {before.Unit} changed",
            before: before
        );
        return row;
    }

    public static async Task<Outcome<TrailerRow>> Trailer(CommandContext w, long? id, TrailerRequest r)
    {
        var validation = new Validation();
        var unit = validation.Text(r.Unit, "unit", "The trailer number", 20, required: true);
        if (r.Equipment is null)
        {
            validation.Add("missing", "Choose the trailer type.", "equipment");
        }

        var all = await FleetStore.Trailers(w.Db);
        var before = all.FirstOrDefault(t => t.Id == id);
        if (id is not null && before is null)
        {
            return Problem.Missing("This trailer");
        }

        Unit(validation, unit, all.Any(t => t.Id != id && string.Equals(t.Unit, unit, StringComparison.OrdinalIgnoreCase)), "trailer");
        if (
            before is not null
            && (!r.Active || r.Equipment != before.Equipment)
            && before.Active
            && await FleetStore.Commitment(w.Db, CommitmentKind.Trailer, before.Id, w.Now) is { } trip
        )
        {
            validation.Add(
                "trailer.busy",
                $"Trailer {before.Unit} is assigned to trip {trip}: reassign it first.",
                r.Active ? "equipment" : "active"
            );
        }

        TrailerSize.Check(r.LengthIn, r.WidthIn, r.HeightIn, r.PayloadLb, r.TareLb, validation);
        var features = r.Features is null
            ? before?.Features ?? []
            : TrailerFeatures.Read(r.Features, await FleetStore.Features(w.Db), "features", validation);
        if (
            before is not null
            && TrailerFeatures.TakenOffRefusal(before.Unit, features, await FleetStore.RequiredOf(w.Db, before.Id)) is { } needed
        )
        {
            validation.AddRange([needed]);
        }

        var layout = before?.Layout ?? TrailerLayout.None;
        layout = new TrailerLayout(
            r.Compartments is null
                ? layout.Compartments
                : TrailerLayout.CheckCompartments(r.Compartments, r.CompartmentUnit ?? VolumeUnit.Gallons, r.Equipment, validation),
            r.Decks is null ? layout.Decks : TrailerLayout.CheckDecks(r.Decks, r.Equipment, validation),
            features.Contains(TrailerFeatures.Winch)
        );
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var row = new TrailerRow(
            id ?? await FleetStore.AddTrailer(w.Db, unit!, r.Equipment!.Value),
            unit!,
            r.Equipment!.Value,
            r.Active,
            r.LengthIn,
            r.WidthIn,
            r.HeightIn,
            r.PayloadLb,
            r.TareLb
        )
        {
            Features = features,
            Layout = layout,
        };
        await FleetStore.ChangeTrailer(w.Db, row);
        if (before is not null && await LoadingCommands.Refuses(w, await ItineraryStore.OpenOf(w.Db, row.Id)) is { Any: true } overloaded)
        {
            var field = row.Equipment == Equipment.CarHauler ? "decks" : "compartments";
            return new Problems(overloaded.Select(p => p with { Field = field }).ToList());
        }

        w.Record(
            before is null ? EventKinds.TrailerAdded : EventKinds.TrailerChanged,
            row.Id,
            before is null ? $"Trailer {row.Unit} added" : $"Trailer {before.Unit} changed",
            before: before
        );
        return row;
    }

    /// <summary>Records where a user saw a truck.</summary>
    public static async Task<Outcome<UnitAt>> TruckAt(CommandContext w, long id, LocationRequest r) =>
        (await FleetStore.Trucks(w.Db)).FirstOrDefault(t => t.Id == id) is not { } truck
            ? Problem.Missing("This truck")
            : await Located(w, truck.Id, null, truck.Unit, r);

    /// <summary>Records where a user saw a trailer.</summary>
    public static async Task<Outcome<UnitAt>> TrailerAt(CommandContext w, long id, LocationRequest r) =>
        (await FleetStore.Trailers(w.Db)).FirstOrDefault(t => t.Id == id) is not { } trailer
            ? Problem.Missing("This trailer")
            : await Located(w, null, trailer.Id, trailer.Unit, r);

    private static async Task<Outcome<UnitAt>> Located(CommandContext w, long? truckId, long? trailerId, string unit, LocationRequest r)
    {
        var validation = new Validation();
        var note = validation.Text(r.Note, "note", "The note", 200);
        var at = r.At ?? w.Now;
        UnitStand.Check(at, w.Now, validation);
        var place = await PlaceRequests.Find(w, r.PlaceId, r.TownId);
        if (place is null)
        {
            validation.Add("missing", "Choose where it is: a place or a town.", "placeId");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await LocationStore.Seen(w, truckId, trailerId, place!.Id, at, note);
        var town = $"{place.Town} {place.Region}";
        w.Record(
            truckId is null ? EventKinds.TrailerChanged : EventKinds.TruckChanged,
            truckId ?? trailerId!.Value,
            $"{(truckId is null ? "Trailer" : "Truck")} {unit} in {town}, {at.Format(w.Zone)}"
        );
        return new UnitAt(truckId ?? trailerId!.Value, unit, town, at, StandSource.Person, null);
    }

    private static void Unit(Validation validation, string? unit, bool taken, string what)
    {
        if (unit is not null && taken)
        {
            validation.Add("unit.taken", $"There is already a {what} {unit}: choose another number.", "unit");
        }
    }

    /// <summary>Issues a token to a device in a truck. The address with the token is shown once; the token is stored hashed.</summary>
    /// <param name="url">Our public address.</param>
    public static async Task<Outcome<DeviceIssued>> IssueDevice(CommandContext w, long truckId, DeviceRequest request, string url)
    {
        var validation = new Validation();
        var label = validation.Text(request.Label, "label", "The device name", 60, required: true);
        var truck = (await FleetStore.Trucks(w.Db)).FirstOrDefault(t => t.Id == truckId);
        if (truck is null)
        {
            return Problem.Missing("This truck");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var (id, token) = await PositionStore.IssueToken(w, truckId, label!);
        w.Record(EventKinds.TruckDeviceIssued, truckId, $"Device {label} issued for truck {truck.Unit}");
        return new DeviceIssued(id, label!, $"{url}/api/devices/{token}/positions");
    }

    /// <summary>Revokes a device's token: its positions are refused from now on.</summary>
    public static async Task<Outcome<DeviceRevoked>> RevokeDevice(CommandContext w, long truckId, long deviceId)
    {
        if (!await PositionStore.RevokeToken(w, truckId, deviceId))
        {
            return new Problem("not.found", "This device was not found, or it was already revoked.");
        }

        var truck = (await FleetStore.Trucks(w.Db)).First(t => t.Id == truckId);
        w.Record(EventKinds.TruckDeviceRevoked, truckId, $"A device of truck {truck.Unit} was revoked");
        return new DeviceRevoked(deviceId);
    }

    private static string Shorter(string name)
    {
        var parts = name.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var made = parts.Length > 1 ? $"{parts[0][0]}. {parts[^1]}" : name;
        return made.Length > 30 ? made[..30] : made;
    }
}
