using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Loads;

/// <summary>A move, which bills nobody.</summary>
/// <param name="TrailerId">The trailer that is moved; omitted for freight of our own.</param>
/// <param name="What">What else is moved, or lies in the trailer; the trailer is empty when omitted.</param>
/// <param name="Equipment">The kind of trailer for freight of our own; the trailer's when one is moved.</param>
/// <param name="FromPlaceId">Where it begins: where the trailer is when this and the town are omitted.</param>
/// <param name="From">From when it can begin.</param>
/// <param name="By">By when it is to be there.</param>
/// <param name="DriverId">Who drives it; assigned later when omitted.</param>
/// <param name="TruckId">The driver's last truck when omitted.</param>
public sealed record MoveRequest(
    long? TrailerId,
    string? What,
    Equipment? Equipment,
    long? FromPlaceId,
    long? FromTownId,
    long? ToPlaceId,
    long? ToTownId,
    Instant? From,
    Instant? By,
    long? DriverId = null,
    long? TruckId = null,
    string? Instructions = null
);

/// <summary>Moves: booked, and assigned to a driver at once if one is named.</summary>
public sealed class MoveCommands(CoverCommands cover)
{
    public async Task<Outcome<BookedAnswer>> Make(CommandContext w, MoveRequest request)
    {
        var validation = new Validation();
        var what = validation.Text(request.What, "what", "What is moved", 200);
        validation.Time(request.From, w.Now, "from", "The time it can begin");
        validation.Time(request.By, w.Now, "by", "The time it is to be there");
        Moves.CheckTimes(request.From, request.By, validation);
        var row = request.TrailerId is { } id ? (await FleetStore.Trailers(w.Db)).FirstOrDefault(t => t.Id == id) : null;
        var stands = row is null ? null : await LocationStore.TrailerBefore(w.Db, row.Id, request.By ?? w.Now);
        var from = await PlaceRequests.Find(
            w,
            request.FromPlaceId ?? (request.FromTownId is null ? stands?.PlaceId : null),
            request.FromTownId
        );
        var to = await PlaceRequests.Find(w, request.ToPlaceId, request.ToTownId);
        if (from is null)
        {
            validation.Add("missing", "Choose where the move begins.", "fromPlaceId");
        }

        if (to is null)
        {
            validation.Add("missing", "Choose where the move ends.", "toPlaceId");
        }

        var trailer = row is null
            ? null
            : new MovedTrailer(row.Unit, row.Active, row.Equipment, stands, await LocationStore.LoadedWith(w.Db, row.Id));
        validation.AddRange(
            Moves.Check(
                trailer,
                request.TrailerId is not null,
                what,
                request.Equipment,
                from?.Point,
                from is null ? null : $"{from.Town} {from.Region}",
                request.From,
                w.Now,
                w.Zone
            )
        );
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var booked = await LoadCommands.Book(
            w,
            new LoadRequest(
                null,
                null,
                row?.Equipment ?? request.Equipment,
                [Stop(StopKind.Pickup, from!, request), Stop(StopKind.Delivery, to!, request)],
                what is null ? [] : [new FreightRequest(what, null, null, null, null)],
                [],
                request.Instructions,
                false
            ),
            new MoveOf(row?.Id)
        );
        if (!booked.Ok)
        {
            return Named(booked.Problems);
        }

        if (request.DriverId is null)
        {
            return booked;
        }

        var last = (await FleetStore.Choices(w.Db, w.Now, request.By!.Value, [request.DriverId.Value])).FirstOrDefault();
        var covered = await cover.ByDriver(
            w,
            booked.Value.Id,
            null,
            new CoverByDriverRequest(request.DriverId, request.TruckId ?? last?.LastTruckId, row?.Id ?? last?.LastTrailerId)
        );
        return covered.Ok ? booked.Value with { State = covered.Value.State } : covered.Problems;
    }

    private static StopRequest Stop(StopKind kind, PlaceRow place, MoveRequest request)
    {
        var zone = DateTimeZoneProviders.Tzdb[place.Zone];
        return new StopRequest(
            kind,
            place.Id,
            request.From!.Value.InZone(zone).LocalDateTime,
            request.By!.Value.InZone(zone).LocalDateTime,
            null
        );
    }

    /// <summary>Problems of the load, under the fields of the move.</summary>
    private static Problems Named(Problems problems) =>
        new(
            problems.Select(p =>
                p with
                {
                    Field = p.Field switch
                    {
                        "stops[0].from" or "stops[1].from" => "from",
                        "stops[0].until" or "stops[1].until" => "by",
                        "stops[0].placeId" => "fromPlaceId",
                        "stops[1].placeId" => "toPlaceId",
                        "driverInstructions" => "instructions",
                        _ => null,
                    },
                }
            )
        );
}
