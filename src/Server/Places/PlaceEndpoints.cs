using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Fitting;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Places;

/// <param name="TownId">A town of the gazetteer; it sets the coordinates and the zone. When omitted in an edit, the town stays.</param>
/// <param name="Latitude">Exact location in degrees north, with <paramref name="Longitude"/> in degrees east; when omitted, the town's
/// center or the previous location.</param>
/// <param name="GeofenceMiles">Geofence radius, 0.02 to 50 miles; null for the company default.</param>
/// <param name="Geofence">Corners of a polygon geofence as longitude and latitude.</param>
/// <param name="Docks">Where to go on site.</param>
/// <param name="Hours">Loading and unloading hours.</param>
/// <param name="ServiceMinutes">Usual loading or unloading time, 5 to 1,440 minutes.</param>
/// <param name="Appointments">How to make an appointment.</param>
/// <param name="BookingNote">A note shown when booking.</param>
public sealed record PlaceRequest(
    string? Name,
    string? Address,
    long? TownId,
    string? Note,
    double? Latitude = null,
    double? Longitude = null,
    double? GeofenceMiles = null,
    IReadOnlyList<IReadOnlyList<double>>? Geofence = null,
    string? Docks = null,
    string? Hours = null,
    int? ServiceMinutes = null,
    string? Appointments = null,
    string? BookingNote = null
);

/// <summary>A stop whose miles are requested.</summary>
public sealed record MilesStop(long? PlaceId, RouteOverrideRequest? RouteOverride = null);

/// <param name="EmptyMiles">To the first stop; null for the nearest of our drivers.</param>
public sealed record MilesRequest(IReadOnlyList<MilesStop>? Stops, int? EmptyMiles = null);

/// <param name="Miles">Over all stops in order, whole; null when a stop is unknown.</param>
/// <param name="Minutes">A truck's driving minutes, without stops or rest.</param>
/// <param name="Estimated">True when a stop is off our road network, so that miles are the straight line times a road factor.</param>
/// <param name="EmptyMiles">To the first stop, as given, or from the nearest driver.</param>
/// <param name="EmptyFrom">That driver, and their location.</param>
/// <param name="Minimum">The minimum rate: the company's minimum per mile, empty miles included, rounded up to its step.</param>
/// <param name="ByStop">Miles of each stretch, from the second stop on.</param>
public sealed record RoadMiles(
    int? Miles,
    int? Minutes,
    bool Estimated,
    int? EmptyMiles,
    string? EmptyFrom,
    [property: SeenWith(Right.MarginsSee)] Money? Minimum,
    IReadOnlyList<double> ByStop
);

public static class PlaceEndpoints
{
    /// <summary>A place must be within so many miles of its town.</summary>
    private const double FarFromTown = 60;

    public static void MapPlaces(this RouteGroupBuilder api)
    {
        api.MapGet("/places", async (string? q, int? limit, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await PlaceStore.Like(db, (q ?? "").Trim(), Math.Clamp(limit ?? 12, 1, 200));
            })
            .Needs(Right.CompaniesSee)
            .WithName("listPlaces");

        api.MapGet("/towns", async (string q, int? limit, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return q.Trim().Length < 2 ? [] : await PlaceStore.Towns(db, q.Trim(), Math.Clamp(limit ?? 12, 1, 50));
            })
            .Needs(Right.CompaniesSee)
            .WithName("listTowns");

        api.MapPost("/miles", async Task<IResult> (MilesRequest ask, CallerReads reads, IClock clock) =>
            {
                await using var db = await reads.Open();
                var validation = new Validation();
                var told = ask.Stops ?? [];
                if (told.Count > Booking.MaxLines || ask.EmptyMiles is < 0 or > 6000)
                {
                    validation.Add("out.of.range", $"At most {Booking.MaxLines} stops, and empty miles from 0 to 6,000.", "emptyMiles");
                }

                var routes = told.Select(
                        (s, i) =>
                            Booking.CheckRoute(
                                s.RouteOverride?.RouteOverride() ?? RouteOverride.None,
                                $"stops[{i}].way",
                                $"Stop {i + 1}",
                                validation
                            )
                    )
                    .ToList();
                if (!validation.Ok)
                {
                    return Answers.Refused(validation.Problems);
                }

                var known = await PlaceStore.Known(db, told.Select(s => s.PlaceId).OfType<long>());
                var first = told.Count > 0 && told[0].PlaceId is { } p && known.TryGetValue(p, out var at) ? at.Point : (GeoPoint?)null;
                var near = first is { } begin && ask.EmptyMiles is null ? await Nearest(db, begin, clock.GetCurrentInstant()) : null;
                if (told.Count < 2 || told.Any(s => s.PlaceId is null || !known.ContainsKey(s.PlaceId.Value)))
                {
                    return TypedResults.Ok(new RoadMiles(null, null, false, near?.Miles ?? ask.EmptyMiles, near?.Driver, null, []));
                }

                var drives = told.Skip(1)
                    .Select(
                        (s, i) =>
                            Routing.Roads.Stretch(
                                known[told[i].PlaceId!.Value].Point,
                                routes[i + 1].Via.Select(v => v.Point).ToList(),
                                known[s.PlaceId!.Value].Point,
                                routes[i + 1].Miles
                            )
                    )
                    .ToList();
                var drive = drives.Aggregate(default(Drive), (sum, d) => sum + d);
                var settings = await CompanySettingsStore.Read(db);
                return TypedResults.Ok(
                    new RoadMiles(
                        drive.WholeMiles,
                        (int)Math.Round(drive.Minutes),
                        drive.Estimated,
                        near?.Miles ?? ask.EmptyMiles,
                        near?.Driver,
                        MinimumRate.Of(near?.Miles ?? ask.EmptyMiles ?? 0, drive.WholeMiles, settings.MinimumPerMile, settings.RateStep),
                        drives.Select(d => Math.Round(d.Miles, 1)).ToList()
                    )
                );
            })
            .Needs(Right.CompaniesSee)
            .Produces<RoadMiles>()
            .ProducesProblem(422)
            .WithName("calculateMiles");

        api.MapGet("/places/{id:long}", async Task<IResult> (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await PlaceStore.Get(db, id) is { } place ? TypedResults.Ok(place) : Answers.NotFound("This place");
            })
            .Needs(Right.CompaniesSee)
            .Produces<PlaceRow>()
            .ProducesProblem(404)
            .WithName("getPlace");

        // What a text may mean, for pages that let the user choose, and for scripts.
        api.MapGet("/resolve", async (string? q, CallerReads reads) =>
            {
                var typed = (q ?? "").Trim();
                await using var db = await reads.Open();
                var book = typed.Length is < 3 or > 200
                    ? []
                    : (await PlaceStore.Like(db, typed, 8)).Select(p => new NamedPlace(
                        p.Id,
                        p.Name,
                        p.Town,
                        p.Region,
                        new GeoPoint(p.Latitude, p.Longitude),
                        p.Zone
                    ));
                return Routing.Gazetteer.Resolve(typed, book);
            })
            .Needs(Right.CompaniesSee)
            .WithName("resolvePlace");

        api.MapPost("/route", IResult (RouteRequest ask) =>
            {
                var route = Routing.Answer(ask);
                return route.Ok ? TypedResults.Ok(route.Value) : Answers.Refused(route.Problems);
            })
            .Needs(Right.CompaniesSee)
            .Produces<RouteAnswer>()
            .ProducesProblem(422)
            .WithName("route");

        api.MapPost("/fit", IResult (FitRequest ask) =>
            {
                var answer = ask.Answer();
                return answer.Ok ? TypedResults.Ok(answer.Value) : Answers.Refused(answer.Problems);
            })
            .Needs(Right.CompaniesSee)
            .Produces<FitAnswer>()
            .ProducesProblem(422)
            .WithName("fit");

        api.MapPost("/places", (PlaceRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Keep(w, null, request))
            )
            .Needs(Right.CompaniesEdit)
            .WithName("addPlace");

        api.MapPut("/places/{id:long}", (long id, PlaceRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Keep(w, id, request))
            )
            .Needs(Right.CompaniesEdit)
            .WithName("changePlace");
    }

    /// <summary>Our driver who will be free nearest to a point, by road.</summary>
    private static async Task<(int Miles, string Driver)?> Nearest(NpgsqlConnection db, GeoPoint point, Instant now) =>
        (await FleetStore.Choices(db, now, now))
            .Where(d => d.FreeLatitude is not null)
            .Select(d =>
                (
                    Miles: Routing.Roads.Between(new GeoPoint(d.FreeLatitude!.Value, d.FreeLongitude!.Value), point).WholeMiles,
                    Driver: $"{d.Name} from {d.FreeTown}"
                )
            )
            .OrderBy(d => d.Miles)
            .Cast<(int Miles, string Driver)?>()
            .FirstOrDefault();

    /// <summary>Creates or edits a place.</summary>
    private static async Task<Outcome<PlaceRow>> Keep(CommandContext w, long? id, PlaceRequest r)
    {
        var before = id is { } known ? await PlaceStore.Get(w.Db, known) : null;
        if (id is not null && before is null)
        {
            return Problem.Missing("This place");
        }

        var validation = new Validation();
        var name = validation.Text(r.Name, "name", "The name", 120, required: true);
        var address = validation.Text(r.Address, "address", "The street address");
        var note = validation.Text(r.Note, "note", "The note", 1000);
        var docks = validation.Text(r.Docks, "docks", "The docks", 200);
        var hours = validation.Text(r.Hours, "hours", "The hours", 200);
        var appointments = validation.Text(r.Appointments, "appointments", "The appointment instructions", 300);
        var booking = validation.Text(r.BookingNote, "bookingNote", "The booking note", 500);
        if (r.ServiceMinutes is < 5 or > 1440)
        {
            validation.Add("out.of.range", "Service time must be 5 to 1,440 minutes.", "serviceMinutes");
        }

        var town =
            r.TownId is { } townId ? await PlaceStore.Town(w.Db, townId)
            : before is null ? null
            : new TownRow(0, before.Town, before.Region, before.Country, before.Latitude, before.Longitude, before.Zone);
        if (town is null)
        {
            validation.Add("missing", "Choose the town: it sets the location and time zone.", "townId");
        }
        else if (name is not null && await PlaceStore.Taken(w.Db, name, town.Name, town.Region, id))
        {
            validation.Add("name.taken", $"{name} in {town.Name} {town.Region} is already in the address book.", "name");
        }

        var point = town is null ? default : new GeoPoint(r.Latitude ?? town.Latitude, r.Longitude ?? town.Longitude);
        if ((r.Latitude is null) != (r.Longitude is null) || point is not { Latitude: >= -90 and <= 90, Longitude: >= -180 and <= 180 })
        {
            validation.Add("coordinates", "Enter latitude and longitude together, in degrees.", "latitude");
        }
        else if (town is not null && GreatCircle.Miles(point, new GeoPoint(town.Latitude, town.Longitude)) > FarFromTown)
        {
            validation.Add(
                "coordinates",
                $"This point is more than {FarFromTown:0} miles from {town.Name} {town.Region}: choose the right town.",
                "latitude"
            );
        }

        if (r.GeofenceMiles is { } miles && !(miles is >= 0.02 and <= 50))
        {
            validation.Add("out.of.range", "A geofence radius must be 0.02 to 50 miles.", "geofenceMiles");
        }

        List<GeoPoint>? corners = null;
        if (r.Geofence is { Count: > 0 } drawn)
        {
            if (drawn.Any(c => c.Count != 2) || r.GeofenceMiles is not null)
            {
                validation.Add(
                    "geofence.corners",
                    "A geofence is a circle with a radius, or a polygon of longitude and latitude corners.",
                    "geofence"
                );
            }
            else
            {
                corners = drawn.Select(c => new GeoPoint(c[1], c[0])).ToList();
                validation.AddRange(Geofence.Around(point, corners).Problems);
            }
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var row = new PlaceRow(
            id ?? 0,
            name!,
            address,
            town!.Name,
            town.Region,
            town.Country,
            point.Latitude,
            point.Longitude,
            town.Zone,
            note,
            r.GeofenceMiles,
            corners,
            docks,
            hours,
            r.ServiceMinutes,
            appointments,
            booking
        );
        if (id is { } changed)
        {
            await PlaceStore.Change(w.Db, row);
            w.Record(EventKinds.PlaceChanged, changed, $"{name}, {town.Name} {town.Region} changed", before: before);
            return row;
        }

        var made = await PlaceStore.Add(w.Db, row);
        w.Record(EventKinds.PlaceAdded, made, $"{name}, {town.Name} {town.Region} added to the address book");
        return row with { Id = made };
    }
}
