using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Basics;
using SteadyLark.Server.People;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Covering;

/// <summary>A driver of ours as a candidate for the load.</summary>
/// <param name="EmptyMiles">Road miles from where they are free to the first stop; null when unknown.</param>
/// <param name="FreeWhere">That place, relative to the first stop, such as 22 mi NW of Butte MT.</param>
/// <param name="Blocked">Why they cannot take it, or null.</param>
/// <param name="Pay">Their expected pay for the load.</param>
/// <param name="Margin">After driver, payroll tax, fuel, truck and the empty miles to the first stop.</param>
/// <param name="RoundTrip">The round trip with the highest margin per day; null when their location or home is unknown, or when they cannot
/// take it.</param>
public sealed record DriverOffer(
    long DriverId,
    string Name,
    string? FreeTown,
    Instant? FreeAt,
    int? EmptyMiles,
    string? FreeWhere,
    string? Blocked,
    [property: SeenWith(Right.MarginsSee, Right.WagesSee)] Money Pay,
    [property: SeenWith(Right.MarginsSee)] Margin Margin,
    IReadOnlyList<CommitmentRow> Commitments,
    long? LastTruckId,
    long? LastTrailerId,
    RoundTripView? RoundTrip
);

/// <param name="BackLoadId">The load back, or null when none is worth its time.</param>
/// <param name="PerDay">Margin per day of the round trip's loads, after all they cost, empty miles included.</param>
public sealed record RoundTripView(
    Instant Sets,
    Instant OutEnds,
    long? BackLoadId,
    string? BackNumber,
    string? BackLane,
    Instant? BackBegins,
    Instant? BackEnds,
    int EmptyMiles,
    Instant HomeAt,
    [property: SeenWith(Right.MarginsSee)] Money PerDay
);

/// <summary>A truck or trailer and whether it is available for the load.</summary>
public sealed record UnitOffer(long Id, string Unit, Equipment? Equipment, string? Blocked);

/// <summary>A carrier, and why it cannot have the load.</summary>
public sealed record CarrierOffer(
    long Id,
    string Name,
    string? Phone,
    string? Email,
    IReadOnlyList<string> Blocked,
    int LoadsRun,
    [property: SeenWith(Right.MarginsSee)] Money? LastPaid,
    Currency Currency
);

/// <param name="Undoes">What reassigning undoes, in sentences; empty when the load is not assigned.</param>
/// <param name="CanadianRate">US dollars for a Canadian dollar today; null when no carrier is paid in them.</param>
/// <param name="LegId">The leg to be assigned.</param>
/// <param name="From">Start of the booking of a driver, truck and trailer, which ends at <paramref name="Until"/>.</param>
public sealed record CoverChoices(
    long LoadId,
    long LegId,
    Instant From,
    Instant Until,
    IReadOnlyList<DriverOffer> Drivers,
    IReadOnlyList<UnitOffer> Trucks,
    IReadOnlyList<UnitOffer> Trailers,
    IReadOnlyList<CarrierOffer> Carriers,
    IReadOnlyList<LanePay> Lane,
    [property: HoldsAmounts] IReadOnlyList<string> Undoes,
    decimal? CanadianRate
);

/// <summary>A tender as the carrier sees it through its link.</summary>
/// <param name="ExpiresAt">Until when it may answer, while it has not.</param>
/// <param name="SignedBy">Who signed the rate confirmation, which may be another person than accepted it by phone; null until then.</param>
/// <param name="Closed">Why nothing can be answered any more; null while it can, and once it is signed.</param>
/// <param name="Charges">What it is paid, when there is more than one line.</param>
public sealed record AcceptView(
    string Business,
    string Phone,
    string LoadNumber,
    string Carrier,
    Money Amount,
    IReadOnlyList<AcceptStop> Stops,
    string Freight,
    string Equipment,
    Instant? ExpiresAt,
    Instant? AcceptedAt,
    string? AcceptedBy,
    string? SignedBy,
    int Revision,
    string? Closed,
    CarrierDispatch? Dispatch,
    IReadOnlyList<AcceptCharge> Charges
);

/// <summary>A charge as the carrier sees it.</summary>
public sealed record AcceptCharge(ChargeKind Kind, string? Description, Money Amount);

public sealed record AcceptStop(StopKind Kind, string Place, string Town, LocalDateTime From, LocalDateTime Until, string Zone);

public static class CoverEndpoints
{
    public static void MapCovering(this RouteGroupBuilder api)
    {
        api.MapGet(
                "/loads/{id:long}/choices",
                async Task<IResult> (long id, long? leg, CallerReads reads, IClock clock, BusinessZone zone) =>
                {
                    await using var db = await reads.Open();
                    return
                        await LoadReads.Sheet(db, id) is { } sheet
                        && sheet.Meant(leg) is { } meant
                        && sheet.Work(meant).State is LoadState.Booked or LoadState.Tendered or LoadState.Covered
                        ? TypedResults.Ok(await Choices(db, sheet, meant, clock.GetCurrentInstant(), zone.Zone))
                        : Answers.NotFound("This open load");
                }
            )
            .Needs(Right.LoadsCover)
            .Produces<CoverChoices>()
            .ProducesProblem(404)
            .WithName("getChoices");

        api.MapPost(
                "/loads/{id:long}/cover/driver",
                (long id, long? leg, CoverByDriverRequest request, HttpContext http, Commands commands, CoverCommands cover) =>
                    commands.OnLoad(http, id, w => cover.ByDriver(w, id, leg, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("coverByDriver");

        api.MapPost(
                "/loads/{id:long}/cover/carrier",
                (long id, long? leg, CoverByCarrierRequest request, HttpContext http, Commands commands, CoverCommands cover) =>
                    commands.OnLoad(http, id, w => cover.ByCarrier(w, id, leg, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("coverByCarrier");

        api.MapPost("/loads/{id:long}/unassign", (long id, long? leg, HttpContext http, Commands commands, CoverCommands cover) =>
                commands.OnLoad(http, id, w => cover.Undo(w, id, leg))
            )
            .Needs(Right.LoadsCover)
            .WithName("unassignLoad");

        api.MapTenders();
        api.MapLinks();
    }

    /// <summary>What we record about a tender.</summary>
    private static void MapTenders(this RouteGroupBuilder api)
    {
        api.MapPost("/loads/{id:long}/tender/accept", (long id, long? leg, AcceptRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => TenderCommands.AcceptByPhone(w, id, leg, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("recordAcceptance");

        api.MapPost("/loads/{id:long}/tender/decline", (long id, long? leg, DeclineRequest request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => TenderCommands.DeclineByPhone(w, id, leg, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("recordDecline");

        api.MapPut("/loads/{id:long}/dispatch", (long id, long? leg, CarrierDispatch request, HttpContext http, Commands commands) =>
                commands.OnLoad(http, id, w => TenderCommands.Dispatch(w, id, leg, request))
            )
            .Needs(Right.LoadsRoll)
            .WithName("setCarrierDispatch");

        api.MapPut(
                "/loads/{id:long}/carrier-pay",
                (long id, CarrierPayRequest request, HttpContext http, Commands commands, TenderCommands tenders) =>
                    commands.OnLoad(http, id, w => tenders.ChangePay(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("changeCarrierPay");
    }

    /// <summary>What a carrier does on its link.</summary>
    private static void MapLinks(this RouteGroupBuilder api)
    {
        api.MapGet("/accept/{token}", async Task<IResult> (string token, CallerReads reads, IClock clock) =>
            {
                await using var db = await reads.Open();
                return await Accept(db, token, clock.GetCurrentInstant()) is { } view
                    ? TypedResults.Ok(view)
                    : Answers.NotFound("This offer");
            })
            .IsOpen("the token in the link grants access")
            .RequireRateLimiting(Limits.Link)
            .Produces<AcceptView>()
            .ProducesProblem(404)
            .WithName("getOffer");

        Answer<AcceptRequest>("/accept/{token}", "acceptOffer", TenderCommands.AcceptOnLink);
        Answer<DeclineRequest>("/accept/{token}/decline", "declineOffer", TenderCommands.DeclineOnLink);
        Answer<CarrierDispatch>("/accept/{token}/dispatch", "dispatchOffer", TenderCommands.DispatchOnLink);

        void Answer<TRequest>(string path, string name, Func<CommandContext, string, TRequest, Task<Outcome<TenderSheet>>> act) =>
            api.MapPost(
                    path,
                    async Task<IResult> (
                        string token,
                        TRequest request,
                        HttpContext http,
                        Commands commands,
                        CallerReads reads,
                        IClock clock
                    ) =>
                    {
                        var done = await commands.Run(http, w => act(w, token, request));
                        if (done.Result is not Microsoft.AspNetCore.Http.HttpResults.Ok<TenderSheet>)
                        {
                            return done;
                        }

                        await using var db = await reads.Open();
                        return TypedResults.Ok((await Accept(db, token, clock.GetCurrentInstant()))!);
                    }
                )
                .IsOpen("the token in the link grants access")
                .RequireRateLimiting(Limits.Link)
                .Produces<AcceptView>()
                .ProducesProblem(404)
                .ProducesProblem(422)
                .WithName(name);
    }

    private static async Task<AcceptView?> Accept(NpgsqlConnection db, string token, Instant now)
    {
        if (await CoverStore.TenderByToken(db, token) is not { } tender)
        {
            return null;
        }

        var business = (await Store.Basics.Business.Read(db))!;
        var load = (await LoadReads.ByIds(db, [tender.LoadId]))[0];
        var charges = (await CoverStore.Charges(db, tender.LoadId))[tender.LegId].ToList();
        return new AcceptView(
            business.Name,
            business.Phone,
            tender.LoadNumber,
            tender.Carrier,
            tender.Amount,
            StopsOf(load, tender.LegSeq),
            string.Join(
                " · ",
                new[]
                {
                    load.Freight,
                    load.WeightLb is { } lb ? $"{lb:#,##0} lb" : null,
                    load.TemperatureF is { } f ? $"{f} °F" : null,
                    load.Reference,
                }.OfType<string>()
            ),
            load.Equipment?.Format() ?? "",
            tender.Tender.AcceptedAt is null ? tender.Tender.ExpiresAt : null,
            tender.Tender.AcceptedAt,
            tender.Tender.AcceptedBy,
            tender.SignedBy,
            tender.Revision,
            tender.Tender is { SignedAt: not null, Ended: null } ? null : tender.Tender.LinkRefusal(now)?.Message,
            tender.Tender.Ended is null ? tender.Dispatch : null,
            tender.Tender.Ended is null && charges.Count > 1
                ? charges.ConvertAll(c => new AcceptCharge(c.Kind, c.Description, c.Amount))
                : []
        );
    }

    /// <summary>The stops of a carrier's leg. Where it takes freight over from another truck is its pickup, where it hands it over its
    /// delivery.</summary>
    private static List<AcceptStop> StopsOf(LoadRow load, int leg)
    {
        var (begin, end) = (load.TransferBefore(leg), load.TransferAfter(leg));
        return
        [
            .. Transfer(StopKind.Pickup, begin, begin?.TakenAt ?? begin?.PlannedAt),
            .. load.StopsOfLeg(leg)
                .Select(s => new AcceptStop(s.Kind, s.Place!, $"{s.Town} {s.Region}", s.From!.Value, s.Until!.Value, s.Zone!)),
            .. Transfer(StopKind.Delivery, end, end?.LeftAt ?? end?.PlannedAt),
        ];

        static IEnumerable<AcceptStop> Transfer(StopKind kind, TransferRow? at, Instant? when)
        {
            if (at is not null && when is { } time && WallClock.Zone(at.Zone) is { } zone)
            {
                var local = time.InZone(zone).LocalDateTime;
                yield return new AcceptStop(kind, at.Place, $"{at.Town} {at.Region}", local, local, at.Zone);
            }
        }
    }

    private static async Task<CoverChoices> Choices(NpgsqlConnection db, LoadSheet sheet, LegRow leg, Instant now, DateTimeZone zone)
    {
        var stops = sheet.Load.Path().Ahead(Routing.Roads, leg.Seq - 1, now);
        var span = TripPlan.Build(Routing.Roads, stops).Commitment;
        var miles = leg.Miles;
        var ends = span.Until.InZone(zone).Date;
        // Drivers are paid in US dollars.
        var weights = sheet.Legs.Select(l => LegShares.Weight(l.Share, l.Miles)).ToList();
        var revenue = DriverAgreement.Share(sheet.Load.RevenueInBooks, weights, leg.Seq - 1);
        var lineHaul = Exchange.InBooks(
            DriverAgreement.Share(
                Money.Sum(sheet.Charges.Where(c => c.Kind == ChargeKind.LineHaul).Select(c => c.Amount)),
                weights,
                leg.Seq - 1
            ),
            sheet.Load.Revenue.Amount == 0 ? 1m : sheet.Load.RevenueInBooks.Amount / sheet.Load.Revenue.Amount
        );
        var ours = (await FleetStore.Drivers(db)).ToDictionary(d => d.Id, d => d.Worker);
        var pay = new DriverPay(await SettlementStore.Agreements(db, ours.Keys), ours, await CompanySettingsStore.Read(db));
        var loaded = Routing.Roads.Through(stops);
        var open = await OpenLoads(db, sheet, now);
        var drivers = DriverFit.Rank(
            (await FleetStore.Choices(db, now, stops[0].Window.Until)).Select(d =>
            {
                Drive? empty = d.FreeLatitude is { } lat
                    ? Routing.Roads.Between(new GeoPoint(lat, d.FreeLongitude!.Value), stops[0].Point)
                    : null;
                var cannot = DriverFit.Blocked(
                    d.Commitments.Select(c => new DriverBooking(new Span(c.From, c.Until), c.LoadNumber, c.Off)),
                    at => TripPlan.Build(Routing.Roads, stops, at).Commitment,
                    stops[0].Window,
                    d.FreeAt,
                    empty,
                    now,
                    zone
                );
                var work = new TruckWork(
                    miles,
                    empty?.WholeMiles ?? 0,
                    (empty?.TollMiles ?? 0) + loaded.TollMiles,
                    (empty?.DoorToDoor ?? Duration.Zero) + (span.Until - span.From)
                );
                var earns = pay.Of(d.Id, work, lineHaul, stops.Count, ends);
                var cost = LegCost.Of(pay.Figures, work, earns, KnownCosts.None);
                return new DriverOffer(
                    d.Id,
                    d.Name,
                    d.FreeTown,
                    d.FreeAt,
                    empty?.WholeMiles,
                    d.FreeLatitude is { } at
                        ? Whereabouts.Format(new GeoPoint(at, d.FreeLongitude!.Value), sheet.Load.Origin(leg.Seq), stops[0].Point)
                        : null,
                    cannot,
                    cost.Driver,
                    Margin.Of(revenue, cost.Total),
                    d.Commitments,
                    d.LastTruckId,
                    d.LastTrailerId,
                    cannot is null ? RoundOf(d, work, earns) : null
                );
            }),
            d => new DriverRank(d.Blocked is null, d.RoundTrip?.PerDay, d.EmptyMiles, d.Name)
        );

        // A unit that is free before the pickup closes can be chosen.
        var held = await db.Held(new Span(stops[0].Window.Until, Availability.Latest(Routing.Roads, stops).Until));
        var trucks = (await FleetStore.Trucks(db))
            .Where(t => t.Active)
            .Select(t => new UnitOffer(t.Id, t.Unit, null, held.Trucks.GetValueOrDefault(t.Id)))
            .ToList();
        var matches = await FleetStore.Matches(db);
        var required = sheet.RequiredTrailer(leg);
        var trailers = (await FleetStore.Trailers(db))
            .Where(t => t.Active && matches.Fits(t.Equipment, sheet.Load.Equipment))
            .OrderBy(t => t.Equipment != sheet.Load.Equipment)
            .Select(t => new UnitOffer(
                t.Id,
                t.Unit,
                t.Equipment,
                required is { } r && r.Id != t.Id
                    ? r.Town is null
                        ? $"{r.Unit} is moved"
                        : $"the freight is in {r.Unit}"
                    : TrailerFeatures.Lacks(t.Features, sheet.Load.Features) ?? held.Trailers.GetValueOrDefault(t.Id)
            ))
            .ToList();

        var carrierRules = pay.Settings.CarrierRequirements;
        var lane = await CoverStore.LaneHistory(db, sheet.Load.Id, 50);
        var ran = lane.ToLookup(l => l.Carrier);
        var carriers = CarrierRank.Order(
            (await CompanyStore.List(db, null, true, null, 1000))
                .Where(c => c.Carrier is not null)
                .Select(c => new CarrierOffer(
                    c.Id,
                    c.Name,
                    c.Phone,
                    c.Email,
                    CarrierFitness.Check(CompanyStore.Record(c), carrierRules, sheet.Load.Carried()).Select(p => p.Message).ToList(),
                    ran[c.Name].Count(),
                    ran[c.Name].Select(l => (Money?)l.Agreed).FirstOrDefault(),
                    c.Currency
                )),
            c => new CarrierRank(c.Blocked.Count == 0, c.LoadsRun, c.Name)
        );
        return new CoverChoices(
            sheet.Load.Id,
            leg.Id,
            span.From,
            span.Until,
            drivers,
            trucks,
            trailers,
            carriers,
            lane,
            await CoverCommands.Undoes(db, sheet, leg),
            carriers.Any(c => c.Currency == Currency.CAD) ? await ExchangeStore.Rate(db, Currency.CAD, now.InZone(zone).Date) : null
        );

        RoundTripView? RoundOf(DriverChoice d, TruckWork work, DriverCost earns)
        {
            if (d.FreeLatitude is not { } freeLatitude || d.HomeLatitude is not { } homeLatitude)
            {
                return null;
            }

            var away = new RoundTripLoad(
                sheet.Load.Id,
                sheet.Load.Number,
                "",
                stops[0].Point,
                stops[^1].Point,
                stops[0].Window.From,
                stops[0].Window.Until,
                Lasts(loaded, stops),
                RoundTripCosts.Left(pay.Figures, revenue, work, earns)
            );
            var round = RoundTrips.Best(
                Routing.Roads,
                Instant.Max(d.FreeAt ?? now, now),
                new GeoPoint(freeLatitude, d.FreeLongitude!.Value),
                away,
                open.Select(o =>
                    o.Load with
                    {
                        Left = RoundTripCosts.Left(pay.Figures, o.Load.Left, o.Work, pay.Of(d.Id, o.Work, o.Load.Left, o.Stops, o.On)),
                    }
                ),
                new GeoPoint(homeLatitude, d.HomeLongitude!.Value),
                RoundTripCosts.Of(pay.Figures, earns, pay.Agreements[d.Id].At(PayKind.PerEmptyMile, ends))
            );
            return new RoundTripView(
                round.Sets,
                round.OutEnds,
                round.Back?.LoadId,
                round.Back?.Number,
                round.Back?.Lane,
                round.BackBegins,
                round.BackEnds,
                round.EmptyMiles,
                round.HomeAt,
                round.PerDay
            );
        }
    }

    /// <summary>Uncovered loads of the same equipment in the following days: candidates for a load back.</summary>
    private static async Task<List<(RoundTripLoad Load, TruckWork Work, int Stops, LocalDate On)>> OpenLoads(
        NpgsqlConnection db,
        LoadSheet sheet,
        Instant now
    )
    {
        var rows = (await LoadReads.InStates(db, [LoadState.Booked], null, 300)).Where(l =>
            l.Id != sheet.Load.Id
            && l.Equipment == sheet.Load.Equipment
            && l.Held is null
            && l.Stops.Count > 1
            && l.Stops.All(s => s.CanBePlanned)
        );
        return rows.Select(l =>
            {
                var stops = l.Planned();
                var day = l.Stops[^1].Until!.Value.Date;
                var loaded = Routing.Roads.Through(stops);
                var load = new RoundTripLoad(
                    l.Id,
                    l.Number,
                    $"{l.Stops[0].Town} to {l.Stops[^1].Town}",
                    stops[0].Point,
                    stops[^1].Point,
                    Instant.Max(now, stops[0].Window.From),
                    stops[0].Window.Until,
                    Lasts(loaded, stops),
                    l.RevenueInBooks
                );
                return (load, new TruckWork(l.Miles ?? 0, 0, loaded.TollMiles, load.Lasts), stops.Count, day);
            })
            .ToList();
    }

    /// <summary>What drivers earn, and the company's figures.</summary>
    private sealed record DriverPay(
        Dictionary<long, DriverAgreement> Agreements,
        Dictionary<long, WorkerKind> Workers,
        CompanySettings Settings
    )
    {
        public CostFigures Figures => Settings.Costs;

        public DriverCost Of(long driver, TruckWork work, Money lineHaul, int stops, LocalDate on) =>
            DriverCost.Of(Agreements[driver], Workers[driver], Settings.PayrollTaxPercent, work, lineHaul, stops, on);
    }

    /// <summary>From arrival at the first stop to departure from the last.</summary>
    private static Duration Lasts(Drive loaded, IReadOnlyList<PlannedStop> stops) =>
        loaded.DoorToDoor + stops.Aggregate(Duration.Zero, (sum, s) => sum + s.ServiceTime);

    private static async Task<(Dictionary<long, string> Trucks, Dictionary<long, string> Trailers)> Held(
        this NpgsqlConnection db,
        Span span
    )
    {
        var held = await FleetStore.HeldUnits(db, span);
        return (
            held.Where(h => h.TruckId is not null).DistinctBy(h => h.TruckId).ToDictionary(h => h.TruckId!.Value, h => $"with {h.Driver}"),
            held.Where(h => h.TrailerId is not null)
                .DistinctBy(h => h.TrailerId)
                .ToDictionary(h => h.TrailerId!.Value, h => $"with {h.Driver}")
        );
    }
}
