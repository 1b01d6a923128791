using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Places;

/// <param name="TownId">A town of the gazetteer; it brings the coordinates and the zone.</param>
public sealed record PlaceRequest(string? Name, string? Address, long? TownId, string? Note);

/// <param name="Miles">Over all places in order, whole; null when one of them is not known.</param>
/// <param name="Minutes">Driving minutes of a truck, without stops or rest.</param>
/// <param name="Guessed">True when one lies where our roads do not reach, so that miles are the straight line, lengthened.</param>
/// <param name="Least">The least rate for these miles by the house's least rate per mile, rounded up to its step.</param>
public sealed record RoadMiles(int? Miles, int? Minutes, bool Guessed, Money? Least);

public static class PlaceEndpoints
{
    public static void MapPlaces(this RouteGroupBuilder api)
    {
        api.MapGet("/places", async (string? q, int? limit, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await PlaceStore.Like(db, (q ?? "").Trim(), Math.Clamp(limit ?? 12, 1, 200));
        }).Needs(Right.CompaniesSee).WithName("listPlaces");

        api.MapGet("/towns", async (string q, int? limit, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return q.Trim().Length < 2 ? [] : await PlaceStore.Towns(db, q.Trim(), Math.Clamp(limit ?? 12, 1, 50));
        }).Needs(Right.CompaniesSee).WithName("listTowns");

        api.MapGet("/places/miles", async (string ids, NpgsqlDataSource source) =>
        {
            var wanted = ids.Split(',', StringSplitOptions.RemoveEmptyEntries).Select(t => long.TryParse(t, out var id) ? id : 0).Take(Booking.MostLines).ToList();
            await using var db = await source.OpenConnectionAsync();
            var known = await PlaceStore.Known(db, wanted);
            if (wanted.Count < 2 || !wanted.All(known.ContainsKey))
            {
                return new RoadMiles(null, null, false, null);
            }

            var drive = Routing.Roads.Along(wanted.Select(id => known[id].Point).ToList());
            var house = await HouseStore.Read(db);
            return new RoadMiles(drive.WholeMiles, (int)Math.Round(drive.Minutes), drive.Guessed, LeastRate.Of(0, drive.WholeMiles, house.LeastPerMile, house.RateStep));
        }).Needs(Right.CompaniesSee).WithName("getMiles");

        api.MapGet("/places/{id:long}", async Task<IResult> (long id, NpgsqlDataSource source) =>
        {
            await using var db = await source.OpenConnectionAsync();
            return await PlaceStore.Get(db, id) is { } place ? TypedResults.Ok(place) : Answers.NotFound("This place");
        }).Needs(Right.CompaniesSee).Produces<PlaceRow>().ProducesProblem(404).WithName("getPlace");

        // What a text means, for pages that let one choose, and for scripts.
        api.MapGet("/resolve", async (string? q, NpgsqlDataSource source) =>
        {
            var typed = (q ?? "").Trim();
            await using var db = await source.OpenConnectionAsync();
            var book = typed.Length is < 3 or > 200 ? [] : (await PlaceStore.Like(db, typed, 8)).Select(p => new NamedPlace(p.Id, p.Name, p.Town, p.Region, new GeoPoint(p.Latitude, p.Longitude), p.Zone));
            return Routing.Gazetteer.Resolve(typed, book);
        }).Needs(Right.CompaniesSee).WithName("resolvePlace");

        api.MapPost("/route", IResult (RouteAsk ask) =>
        {
            var way = Routing.Answer(ask);
            return way.Ok ? TypedResults.Ok(way.Value) : Answers.Refused(way.Problems);
        }).Needs(Right.CompaniesSee).Produces<RouteAnswer>().ProducesProblem(422).WithName("route");

        api.MapPost("/places", (PlaceRequest request, HttpContext http, Commands commands) =>
            commands.Run(http, w => Add(w, request))).Needs(Right.CompaniesEdit).WithName("addPlace");
    }

    public static async Task<Outcome<PlaceRow>> Add(Work w, PlaceRequest r)
    {
        var checks = new Checks();
        var name = checks.Text(r.Name, "name", "The name", 120, required: true);
        var address = checks.Text(r.Address, "address", "The street and number");
        var note = checks.Text(r.Note, "note", "The note", 1000);
        var town = r.TownId is { } id ? await PlaceStore.Town(w.Db, id) : null;
        if (town is null)
        {
            checks.Add("missing", "Choose the town: it tells where the place is and what time it keeps.", "townId");
        }
        else if (name is not null && await PlaceStore.Taken(w.Db, name, town.Name, town.Region))
        {
            checks.Add("name.taken", $"{name} in {town.Name} {town.Region} is in the address book already.", "name");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var row = new PlaceRow(0, name!, address, town!.Name, town.Region, town.Country, town.Latitude, town.Longitude, town.Zone, note);
        var made = await PlaceStore.Add(w.Db, row);
        await Events.Add(w, "place.added", "place", made, $"{name}, {town.Name} {town.Region} added to the address book");
        return row with { Id = made };
    }
}
