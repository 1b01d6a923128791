using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Formats.Mail;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Fleet;

/// <param name="ShortName">As the board says it; made from the name when left out: M. Okafor.</param>
/// <param name="HomeTownId">A town of the gazetteer.</param>
/// <param name="Active">False for one who has left; his past stays.</param>
public sealed record DriverRequest(string? Name, string? ShortName, string? Phone, string? Email, long? HomeTownId, bool Active = true);

public sealed record TruckRequest(string? Unit, string? Make, bool Active = true);

public sealed record TrailerRequest(string? Unit, Equipment? Equipment, bool Active = true);

/// <summary>Who and what of ours there is. Nothing is deleted: what has left is marked so, and not while it is promised.</summary>
public static class FleetCommands
{
    public static async Task<Outcome<DriverRow>> Driver(Work w, long? id, DriverRequest r)
    {
        var checks = new Checks();
        var name = checks.Text(r.Name, "name", "The driver's name", 80, required: true);
        var shorter = checks.Text(r.ShortName, "shortName", "The short name", 30);
        var phone = checks.Text(r.Phone, "phone", "The phone number", 40);
        var email = checks.Text(r.Email, "email", "The mail address");
        if (email is not null && !Eml.IsAddress(email))
        {
            checks.Add("email", "This is no mail address: write one such as name@example.com.", "email");
        }

        var before = id is { } known ? await FleetStore.Driver(w.Db, known) : null;
        if (id is not null && before is null)
        {
            return new Problem("not.found", "This driver is not here.");
        }

        var town = r.HomeTownId is { } t ? await PlaceStore.Town(w.Db, t) : null;
        if (r.HomeTownId is not null && town is null)
        {
            checks.Add("unknown", "Choose the home town from the list.", "homeTownId");
        }

        if (before is { Active: true } && !r.Active && await FleetStore.Promised(w.Db, "driver_id", before.Id, w.Now) is { } trip)
        {
            checks.Add("driver.busy", $"{before.Name} has trip {trip} before him: give it to another first.", "active");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var row = new DriverRow(id ?? 0, name!, shorter ?? Shorter(name!), phone, email, town is null ? before?.HomeTown : $"{town.Name} {town.Region}", r.Active);
        row = row with { Id = before is null ? await FleetStore.AddDriver(w.Db, row) : await FleetStore.ChangeDriver(w.Db, row) };
        await Events.Add(w, before is null ? "driver.added" : "driver.changed", "driver", row.Id, before is null ? $"{row.Name} drives for us" : $"{row.Name}'s sheet changed", driverId: row.Id, before: before);
        return row;
    }

    public static async Task<Outcome<TruckRow>> Truck(Work w, long? id, TruckRequest r)
    {
        var checks = new Checks();
        var unit = checks.Text(r.Unit, "unit", "The truck's number", 20, required: true);
        var make = checks.Text(r.Make, "make", "The make", 60);
        var all = await FleetStore.Trucks(w.Db);
        var before = all.FirstOrDefault(t => t.Id == id);
        if (id is not null && before is null)
        {
            return new Problem("not.found", "This truck is not here.");
        }

        Unit(checks, unit, all.Any(t => t.Id != id && string.Equals(t.Unit, unit, StringComparison.OrdinalIgnoreCase)), "truck");
        if (before is { Active: true } && !r.Active && await FleetStore.Promised(w.Db, "truck_id", before.Id, w.Now) is { } trip)
        {
            checks.Add("truck.busy", $"Truck {before.Unit} is promised to trip {trip}: give that to another first.", "active");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var row = new TruckRow(id ?? 0, unit!, make, r.Active);
        row = row with { Id = before is null ? await FleetStore.AddTruck(w.Db, unit!, make) : await FleetStore.ChangeTruck(w.Db, row) };
        await Events.Add(w, before is null ? "truck.added" : "truck.changed", "truck", row.Id, before is null ? $"Truck {row.Unit} is ours" : $"Truck {before.Unit} changed", before: before);
        return row;
    }

    public static async Task<Outcome<TrailerRow>> Trailer(Work w, long? id, TrailerRequest r)
    {
        var checks = new Checks();
        var unit = checks.Text(r.Unit, "unit", "The trailer's number", 20, required: true);
        if (r.Equipment is null)
        {
            checks.Add("missing", "Say what kind of trailer it is.", "equipment");
        }

        var all = await FleetStore.Trailers(w.Db);
        var before = all.FirstOrDefault(t => t.Id == id);
        if (id is not null && before is null)
        {
            return new Problem("not.found", "This trailer is not here.");
        }

        Unit(checks, unit, all.Any(t => t.Id != id && string.Equals(t.Unit, unit, StringComparison.OrdinalIgnoreCase)), "trailer");
        if (before is not null && (!r.Active || r.Equipment != before.Equipment) && before.Active && await FleetStore.Promised(w.Db, "trailer_id", before.Id, w.Now) is { } trip)
        {
            checks.Add("trailer.busy", $"Trailer {before.Unit} is promised to trip {trip}: give that to another first.", r.Active ? "equipment" : "active");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var row = new TrailerRow(id ?? 0, unit!, r.Equipment!.Value, r.Active);
        row = row with { Id = before is null ? await FleetStore.AddTrailer(w.Db, unit!, row.Equipment) : await FleetStore.ChangeTrailer(w.Db, row) };
        await Events.Add(w, before is null ? "trailer.added" : "trailer.changed", "trailer", row.Id, before is null ? $"Trailer {row.Unit} is ours" : $"Trailer {before.Unit} changed", before: before);
        return row;
    }

    private static void Unit(Checks checks, string? unit, bool taken, string what)
    {
        if (unit is not null && taken)
        {
            checks.Add("unit.taken", $"There is a {what} {unit} already: choose another number.", "unit");
        }
    }

    private static string Shorter(string name)
    {
        var parts = name.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var made = parts.Length > 1 ? $"{parts[0][0]}. {parts[^1]}" : name;
        return made.Length > 30 ? made[..30] : made;
    }
}
