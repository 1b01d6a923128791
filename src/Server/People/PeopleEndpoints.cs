using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Paying;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.People;

/// <summary>A stop on the driver's phone. It has no customer amounts.</summary>
/// <param name="Visit">Its place in the order of a trip that carries several loads, from 1; null on other trips.</param>
public sealed record MyStop(
    long Id,
    StopKind Kind,
    string Place,
    string? Address,
    string Town,
    string Zone,
    LocalDateTime From,
    LocalDateTime Until,
    string? Note,
    Instant? ArrivedAt,
    Instant? LeftAt,
    Instant? DeliveredAt,
    string? ReceivedBy,
    Instant? ExpectedAt,
    int? Visit
);

/// <summary>Where the driver takes freight over from another truck, or leaves it for the next one.</summary>
/// <param name="Visit">As of a <see cref="MyStop"/>.</param>
public sealed record MyTransfer(
    long Id,
    TransferMethod Method,
    string Place,
    string? Address,
    string Town,
    string Zone,
    Instant? PlannedAt,
    Instant? LeftAt,
    Instant? TakenAt,
    int? Visit
);

/// <summary>A stop of the driver's trip that is of no load.</summary>
/// <param name="Visit">Its place in the trip's order, from 1.</param>
/// <param name="Trailer">The unit number of the trailer that is hooked or dropped; null at other stops.</param>
public sealed record MyTripStop(
    long Id,
    long TripId,
    TripStopKind Kind,
    string Place,
    string Town,
    string Zone,
    string? Note,
    Instant? ArrivedAt,
    Instant? LeftAt,
    Instant? StartsAt,
    int Visit,
    string? Trailer
);

/// <param name="Begins">Where the driver takes the freight over; null when they pick it up at the first stop.</param>
/// <param name="Stops">The stops of the driver's leg.</param>
/// <param name="Ends">Where the driver leaves the freight for another truck; null when they deliver it.</param>
/// <param name="TripStops">Stops of the trip's own; the same with each of its loads.</param>
/// <param name="Wanted">Missing documents that the customer requires.</param>
/// <param name="With">The other driver of the team; null for a driver alone.</param>
/// <param name="Features">What its trailer must have.</param>
/// <param name="Loading">Where its freight goes in compartments or on decks, in sentences.</param>
/// <param name="Cod">Cash on delivery; null when the driver collects nothing.</param>
public sealed record MyLoad(
    long Id,
    string Number,
    string Trip,
    LoadState State,
    string Customer,
    string Freight,
    int? WeightLb,
    int? TemperatureF,
    string Truck,
    string? Trailer,
    int Miles,
    string? Instructions,
    Instant? AcceptedAt,
    Money Pay,
    IReadOnlyList<string> Notes,
    MyTransfer? Begins,
    IReadOnlyList<MyStop> Stops,
    MyTransfer? Ends,
    IReadOnlyList<MyTripStop> TripStops,
    IReadOnlyList<DocumentRow> Documents,
    IReadOnlyList<DocumentKind> Wanted,
    string? With,
    string? WithPhone,
    long TripId,
    IReadOnlyList<string> Features,
    IReadOnlyList<string> Loading,
    CodRow? Cod
);

/// <param name="Name">Who signed.</param>
/// <param name="Picture">The signature as a PNG, base64.</param>
public sealed record SignRequest(string? Name, string? Picture);

public static class PeopleEndpoints
{
    public static void MapPeople(this RouteGroupBuilder api)
    {
        api.MapGet("/events/stream", (HttpContext http, Live live) => live.Stream(http))
            .Needs(Right.SessionOwn)
            .RequireRateLimiting(Limits.Stream)
            .ExcludeFromDescription();

        api.MapGet("/today", (HttpContext http, TodayCache glance) => glance.For(http.User.Access()))
            .Needs(Right.LoadsSee)
            .WithName("getToday");

        api.MapGet("/emails/{id:long}", async Task<IResult> (long id, CallerReads reads, HttpContext http) =>
            {
                await using var db = await reads.Open();
                return await MailStore.Get(db, id) is { } row && DocumentRights.MaySee(http.User.Access(), row.Purpose)
                    ? TypedResults.Ok(Outside.MailView.Of(row, (await MailStore.Eml(db, id))!))
                    : Answers.NotFound("This email");
            })
            .Needs(Right.LoadsSee)
            .Produces<Outside.MailView>()
            .ProducesProblem(404)
            .WithName("getMail");

        api.MapPost("/emails/{id:long}/done", (long id, HttpContext http, Commands commands) => commands.Run(http, async w =>
                {
                    if (await MailStore.Done(w, id) == 0)
                    {
                        return (Outcome<MailRow>)new Problem("not.found", "This email is already handled.");
                    }

                    w.Record(EventKinds.MailDone, id, "An email was marked done");
                    return (await MailStore.Get(w.Db, id))!;
                }))
            .Needs(Right.DocumentsAdd)
            .WithName("markMailDone");

        MapMine(api.MapGroup("/mine"));
    }

    /// <summary>The driver's own loads: each call checks that the load is theirs.</summary>
    private static void MapMine(RouteGroupBuilder mine)
    {
        mine.MapGet("/loads", async (HttpContext http, CallerReads reads, IClock clock) =>
            {
                await using var db = await reads.Open();
                return await Mine(db, http.User.DriverId()!.Value, clock.GetCurrentInstant());
            })
            .Needs(Right.TripsOwn)
            .WithName("listMyLoads");

        mine.MapGet(
                "/settlement",
                async Task<IResult> (QueryDay? monday, HttpContext http, CallerReads reads, IClock clock, BusinessZone zone) =>
                {
                    var now = clock.GetCurrentInstant();
                    await using var db = await reads.Open();
                    return
                        await SettlementCommands.Week(
                            db,
                            http.User.DriverId()!.Value,
                            DriverSettlement.MondayOf(monday?.Value ?? now.InZone(zone.Zone).Date),
                            now,
                            zone.Zone
                        )
                            is { } week
                        ? TypedResults.Ok(week)
                        : Answers.NotFound("This settlement");
                }
            )
            .Needs(Right.TripsOwn)
            .Produces<SettlementView>()
            .WithName("getMySettlement");

        mine.MapPost(
                "/loads/{id:long}/stops/{stopId:long}",
                (long id, long stopId, StopEventRequest request, HttpContext http, Commands commands) =>
                    commands.OnLoad(http, id, async w =>
                        await HisStop(w, id, stopId) ? await StopCommands.Record(w, id, stopId, request) : NotHis<StopAnswer>()
                    )
            )
            .Needs(Right.TripsOwn)
            .WithName("recordMyStop");

        mine.MapPost(
                "/loads/{id:long}/transfers/{transferId:long}",
                (long id, long transferId, TransferEventRequest request, HttpContext http, Commands commands) =>
                    commands.OnLoad(http, id, async w =>
                        await HisTransfer(w, id, transferId, request.Event)
                            ? await SplitCommands.Record(w, id, transferId, request)
                            : NotHis<SplitAnswer>()
                    )
            )
            .Needs(Right.TripsOwn)
            .WithName("recordMyTransfer");

        mine.MapPost(
                "/trips/{id:long}/stops/{stopId:long}",
                (long id, long stopId, TripStopEventRequest request, HttpContext http, Commands commands) =>
                    commands.Run(http, w => TripCommands.Mine(w, id, _ => TripStopCommands.Record(w, id, stopId, request)))
            )
            .Needs(Right.TripsOwn)
            .WithName("recordMyTripStop");

        MyExpenses.Map(mine);
        MessageCommands.MapMine(mine);
        mine.MapPost("/loads/{id:long}/accept", (long id, HttpContext http, Commands commands) => commands.OnLoad(http, id, async w =>
                {
                    if (!await IsHis(w, id))
                    {
                        return NotHis<StopAnswer>();
                    }

                    var sheet = (await LoadReads.Sheet(w.Db, id))!;
                    var load = sheet.Load;
                    if (!await CoverStore.AcceptTrip(w, sheet.Legs[await LoadReads.LegOf(w.Db, id, w.Actor.DriverId) - 1].TripId!.Value))
                    {
                        return new Problem("trip.accepted", "You already accepted this trip.");
                    }

                    await LoadWrites.Settle(w, id);
                    w.Record(EventKinds.TripAccepted, id, $"{w.Actor.Name} accepted {load.Number}", loadId: id, driverId: w.Actor.DriverId);
                    return new StopAnswer(id, load.Number, load.Stops[0].Id, load.State, $"You accepted {load.Number}");
                }))
            .Needs(Right.TripsOwn)
            .WithName("acceptMyTrip");

        mine.MapPost("/settlements/{monday}/acknowledge", (string monday, HttpContext http, Commands commands) =>
                commands.Run(http, async w =>
                    QueryDay.TryParse(monday, out var day)
                        ? await SettlementCommands.Seen(w, http.User.DriverId()!.Value, day.Value)
                        : (Outcome<SettlementRow>)Problem.Missing("This settlement", "monday")
                )
            )
            .Needs(Right.TripsOwn)
            .WithName("acknowledgeMySettlement");

        mine.MapGet("/settlements/{monday}/pdf", (string monday, CallerReads reads, IClock clock, BusinessZone zone, HttpContext http) =>
                PayingEndpoints.Statement(http.User.DriverId()!.Value, monday, reads, clock, zone, http)
            )
            .Needs(Right.TripsOwn)
            .WithName("getMySettlementPdf");

        mine.MapGet("/loads/{id:long}/trip-sheet", async Task<IResult> (long id, CallerReads reads, IClock clock, HttpContext http) =>
            {
                await using var db = await reads.Open();
                if (
                    await LoadReads.LegOf(db, id, http.User.DriverId()) is not (> 0 and var leg)
                    || await TripViews.Of(db, id, leg) is not { } trip
                )
                {
                    return Answers.NotFound("This load");
                }

                var sheet = (await LoadReads.Sheet(db, id))!;
                var loading = await TripSheets.LoadingOf(db, sheet, sheet.Legs[leg - 1], clock.GetCurrentInstant());
                return TypedResults.File(
                    TripSheetPdf.Draw((await Business.Read(db))!, sheet, trip, loading, leg),
                    "application/pdf",
                    $"trip-sheet-{trip.Number.Replace('/', '-')}.pdf"
                );
            })
            .Needs(Right.TripsOwn)
            .Produces<byte[]>(200, "application/pdf")
            .ProducesProblem(404)
            .WithName("getMyTripSheet");

        mine.MapPut("/loads/{id:long}/cod", (long id, CodRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, async w => await IsHis(w, id) ? await CodCommands.Collect(w, id, request) : NotHis<CodAnswer>())
            )
            .Needs(Right.TripsOwn)
            .WithName("collectMyCod");

        mine.MapPost("/loads/{id:long}/reports", (long id, ReportRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, async w =>
                    await IsHis(w, id) ? await ReportCommands.Record(w, id, request) : NotHis<ReportAnswer>()
                )
            )
            .Needs(Right.TripsOwn)
            .WithName("reportOnMyLoad");

        mine.MapPost("/loads/{id:long}/sign", (long id, SignRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, async w => await IsHis(w, id) ? await BolCommands.Sign(w, id, request) : NotHis<DocumentRow>())
            )
            .Needs(Right.TripsOwn)
            .WithName("signMyBol");

        mine.MapPost(
                "/loads/{id:long}/documents",
                async Task<IResult> (long id, QueryEnum<DocumentKind> kind, string? name, HttpContext http, Commands commands) =>
                {
                    var bytes = await DocumentEndpoints.Body(http.Request);
                    return await commands.OnLoad(http, id, async w =>
                        await IsHis(w, id)
                            ? await DocumentCommands.Add(
                                w,
                                id,
                                kind.Value,
                                name ?? "document",
                                bytes,
                                await DocumentCommands.Where(w, id, kind.Value)
                            )
                            : NotHis<DocumentRow>()
                    );
                }
            )
            .Needs(Right.TripsOwn)
            .TakesFile()
            .Produces<DocumentRow>()
            .ProducesProblem(422)
            .WithName("addMyDocument");
    }

    private static async Task<bool> IsHis(CommandContext w, long loadId) => await LoadReads.LegOf(w.Db, loadId, w.Actor.DriverId) > 0;

    private static async Task<bool> HisStop(CommandContext w, long loadId, long stopId) =>
        await LoadReads.LegOf(w.Db, loadId, w.Actor.DriverId) is > 0 and var leg
        && (await LoadReads.ByIds(w.Db, [loadId]))[0].StopsOfLeg(leg).Any(s => s.Id == stopId);

    /// <summary>Whether a driver takes freight at a transfer, or leaves it there, whichever it is about.</summary>
    private static async Task<bool> HisTransfer(CommandContext w, long loadId, long transferId, TransferEvent? what)
    {
        var leg = await LoadReads.LegOf(w.Db, loadId, w.Actor.DriverId);
        var load = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        return leg > 0 && (what == TransferEvent.Left ? load.TransferAfter(leg) : load.TransferBefore(leg))?.Id == transferId;
    }

    // For a driver, other drivers' loads do not exist.
    private static Outcome<T> NotHis<T>() => Problem.Missing("This load");

    private static async Task<List<MyLoad>> Mine(NpgsqlConnection db, long driverId, Instant now)
    {
        var rows = await LoadReads.OfDriver(db, driverId, now - Duration.FromDays(3));
        // Loads with documents requested from them stay on their page, however old.
        var wanted = (await DocumentRequestStore.Missing(db, driverId: driverId)).ToDictionary(m => m.LoadId, m => m.Kinds);
        rows.AddRange(await LoadReads.ByIds(db, wanted.Keys.Except(rows.Select(r => r.Id))));
        var visits = await LoadViews.Visits(db, rows, now);
        var papers = await DocumentStore.OfLoads(db, rows.Select(r => r.Id));
        var shared = await ItineraryStore.SharedVisits(db, Routing.Roads, rows.Select(r => r.TripId).OfType<long>(), rows);
        var places = shared
            .Values.SelectMany(v => v.Select((visit, i) => (visit.Stop.Id, i)))
            .ToDictionary(v => v.Id, v => (int?)(v.i + 1));
        var mine = new List<MyLoad>();
        foreach (var row in rows)
        {
            var sheet = (await LoadReads.Sheet(db, row.Id))!;
            var leg = sheet.Legs.FirstOrDefault(l => l.Id == row.LegId && l.Drivers.Contains(driverId))
                ?? sheet.Legs.First(l => l.Drivers.Contains(driverId));
            var (with, phone) = leg.Beside(driverId);
            var expected = (visits.GetValueOrDefault(row.Id) ?? []).ToDictionary(v => v.StopId);
            var documents = papers[row.Id]
                .Where(p => p.Kind != DocumentKind.RateConfirmation && p.Kind != DocumentKind.CarrierBill)
                .ToList();
            mine.Add(
                new MyLoad(
                    row.Id,
                    row.Number,
                    leg.Trip!,
                    sheet.Work(leg).State,
                    row.Customer ?? "",
                    row.Freight ?? "",
                    row.WeightLb,
                    row.TemperatureF,
                    leg.Truck!,
                    leg.Trailer,
                    leg.Miles,
                    sheet.DriverInstructions,
                    leg.AcceptedAt,
                    leg.PayOf(driverId) ?? Money.Zero(),
                    sheet.Reports.Where(r => r.Kind != ReportKind.Note || r.Who is not null).Select(r => r.Note).ToList(),
                    Mine(row.TransferBefore(leg.Seq), places),
                    row.StopsOfLeg(leg.Seq)
                        .Select(s => new MyStop(
                            s.Id,
                            s.Kind,
                            s.Place!,
                            s.Address,
                            $"{s.Town} {s.Region}",
                            s.Zone!,
                            s.From!.Value,
                            s.Until!.Value,
                            s.Note,
                            s.ArrivedAt,
                            s.LeftAt,
                            s.DeliveredAt,
                            s.ReceivedBy,
                            expected.TryGetValue(s.Id, out var v) && !v.Done ? v.Arrives : null,
                            places.GetValueOrDefault(s.Id)
                        ))
                        .ToList(),
                    Mine(row.TransferAfter(leg.Seq), places),
                    leg.TripId is { } trip && shared.TryGetValue(trip, out var inOrder) ? Own(trip, inOrder) : [],
                    documents,
                    wanted.GetValueOrDefault(row.Id) ?? [],
                    with,
                    phone,
                    leg.TripId!.Value,
                    row.Features,
                    await TripSheets.LoadingOf(db, sheet, leg, now),
                    row.TransferAfter(leg.Seq) is null ? row.Cod : null
                )
            );
        }

        return mine;
    }

    private static List<MyTripStop> Own(long tripId, IReadOnlyList<Visit> visits) =>
        visits
            .Select((v, i) => (Stop: v.Leg.Own, i))
            .Where(v => v.Stop is not null)
            .Select(v => new MyTripStop(
                v.Stop!.Id,
                tripId,
                v.Stop.Kind,
                v.Stop.Place,
                v.Stop.Town,
                v.Stop.Zone.Id,
                v.Stop.Note,
                v.Stop.Arrived,
                v.Stop.Left,
                v.Stop.Planned,
                v.i + 1,
                v.Stop.Trailer
            ))
            .ToList();

    private static MyTransfer? Mine(TransferRow? t, Dictionary<long, int?> places) =>
        t is null
            ? null
            : new MyTransfer(
                t.Id,
                t.Method,
                t.Place,
                t.Address,
                $"{t.Town} {t.Region}",
                t.Zone,
                t.PlannedAt,
                t.LeftAt,
                t.TakenAt,
                places.GetValueOrDefault(-t.Id)
            );
}
