using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.People;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Loads;

/// <summary>A stop as the page sends it. Times are the place's wall-clock time.</summary>
/// <param name="RouteOverride">Route override from the stop before; without it the road network decides.</param>
public sealed record StopRequest(
    StopKind? Kind,
    long? PlaceId,
    LocalDateTime? From,
    LocalDateTime? Until,
    string? Note,
    RouteOverrideRequest? RouteOverride = null
);

/// <summary>A via point.</summary>
/// <param name="Latitude">Degrees north.</param>
/// <param name="Longitude">Degrees east, negative in North America.</param>
public sealed record ViaRequest(string? Name, double Latitude, double Longitude);

/// <summary>A route override from the stop before.</summary>
/// <param name="Miles">Manual miles instead of road miles, 0 to 6,000; requires a reason.</param>
/// <param name="Via">Via points in order; at most 20.</param>
public sealed record RouteOverrideRequest(int? Miles, string? MilesWhy, IReadOnlyList<ViaRequest>? Via)
{
    public RouteOverride RouteOverride() =>
        new(
            Miles,
            MilesWhy,
            (Via ?? [])
                .Select(v => new ShapingPoint(
                    string.IsNullOrWhiteSpace(v.Name)
                        ? $"{v.Latitude:0.000}, {v.Longitude:0.000}"
                        : v.Name.Trim()[..Math.Min(v.Name.Trim().Length, 80)],
                    new GeoPoint(v.Latitude, v.Longitude)
                ))
                .ToList()
        );
}

/// <summary>A freight line. Sizes are inches of the largest piece; a UN number requires hazardous material.</summary>
/// <param name="Bulk">Set for liquid in bulk; what is null of the line is as the product says.</param>
/// <param name="Vehicle">Set for a vehicle; what is null of the line is as its body style says.</param>
public sealed record FreightRequest(
    string? Description,
    int? Pieces,
    int? Pallets,
    int? WeightLb,
    int? TemperatureF,
    int? LengthIn = null,
    int? WidthIn = null,
    int? HeightIn = null,
    bool Hazmat = false,
    string? UnNumber = null,
    string? HazmatName = null,
    string? HazardClass = null,
    string? PackingGroup = null,
    string? EmergencyPhone = null,
    bool Stackable = false,
    decimal? FreightClass = null,
    BulkOrder? Bulk = null,
    VehicleOrder? Vehicle = null
)
{
    /// <summary>A stored line as it was entered.</summary>
    public static FreightRequest Of(FreightRow f) =>
        new(
            f.Description,
            f.Pieces,
            f.Pallets,
            f.WeightLb,
            f.TemperatureF,
            f.LengthIn,
            f.WidthIn,
            f.HeightIn,
            f.Hazmat,
            f.UnNumber,
            f.HazmatName,
            f.HazardClass,
            f.PackingGroup,
            f.EmergencyPhone,
            f.Stackable,
            f.FreightClass,
            f.Bulk is { } bulk ? new BulkOrder(bulk.ProductId, bulk.Gallons, VolumeUnit.Gallons, bulk.OwnCompartments) : null,
            f.Vehicle is { } v ? new VehicleOrder(v.Year, v.Make, v.Model, v.Vin, v.Body, v.Runs, v.Keys) : null
        );

    public FreightOrder Order() =>
        new(
            Description,
            Pieces,
            Pallets,
            WeightLb,
            TemperatureF,
            LengthIn,
            WidthIn,
            HeightIn,
            Hazmat,
            UnNumber,
            HazmatName,
            HazardClass,
            PackingGroup,
            EmergencyPhone,
            Stackable,
            FreightClass,
            Bulk,
            Vehicle
        );
}

/// <param name="Basis">Flat when omitted: then the amount is required, otherwise the rate.</param>
/// <param name="Rate">Dollars per mile or hundredweight, or percent of the line haul.</param>
/// <param name="Minimum">What is charged at least, in dollars; for a rate.</param>
/// <param name="Authorization">Who agreed to it, for accessorials.</param>
/// <param name="ClassRatesId">The rate table of a line haul by class.</param>
/// <param name="DiscountPercent">By class: instead of the table's.</param>
public sealed record ChargeRequest(
    ChargeKind? Kind,
    string? Description,
    Money? Amount,
    ChargeBasis? Basis = null,
    decimal? Rate = null,
    decimal? Minimum = null,
    ChargeAuthorization? Authorization = null,
    long? ClassRatesId = null,
    decimal? DiscountPercent = null
)
{
    /// <summary>A stored charge as it was entered: a discount as an amount above zero.</summary>
    public static ChargeRequest Of(ChargeRow c) =>
        new(
            c.Kind,
            c.Description,
            c.Basis == ChargeBasis.Flat ? c.Amount with { Amount = Math.Abs(c.Amount.Amount) } : null,
            c.Basis,
            c.Rate,
            c.Minimum,
            c.Authorization,
            c.Rating?.TableId,
            c.Rating?.DiscountPercent
        );

    internal ByClass? ByClass => Basis == ChargeBasis.ByClass ? new ByClass(ClassRatesId, DiscountPercent) : null;

    internal ChargeInput Input => new(Kind, Basis ?? ChargeBasis.Flat, Amount?.Amount, Rate, Minimum, ByClass);
}

/// <summary>Charges to price while a load is entered.</summary>
/// <param name="Miles">The load's miles, when known.</param>
/// <param name="Freight">The freight, as far as it is entered.</param>
/// <param name="Minimum">The load's minimum rate, when known, in US dollars.</param>
/// <param name="Currency">Of the charges; US dollars when omitted.</param>
public sealed record PriceRequest(
    IReadOnlyList<ChargeRequest>? Charges,
    int? Miles,
    IReadOnlyList<FreightRequest>? Freight,
    Money? Minimum,
    Currency? Currency = null
)
{
    /// <param name="minimum">The minimum rate in the currency of the charges.</param>
    /// <param name="lists">The company's lists that the freight and the charges use.</param>
    public Outcome<ChargePreview> Preview(Money? minimum, BookingLists lists, LocalDate today)
    {
        var currency = Currency ?? Core.Basics.Currency.USD;
        var validation = new Validation { Currency = currency };
        if (Charges?.Count > Booking.MaxLines)
        {
            validation.Add("too.many", $"A load takes at most {Booking.MaxLines} charges.", "charges");
        }

        if (Freight?.Count > Booking.MaxLines)
        {
            validation.Add("too.many", $"A load takes at most {Booking.MaxLines} freight lines.", "freight");
        }

        for (var i = 0; i < Math.Min(Charges?.Count ?? 0, Booking.MaxLines); i++)
        {
            validation.Dollars(Charges![i]?.Amount, $"charges[{i}].amount", "The amount", required: false, above: false);
        }

        validation.Dollars(Minimum, "minimum", "The minimum rate", required: false, above: false, Core.Basics.Currency.USD);
        return validation.Ok
            ? ChargePrices.Preview(
                (Charges ?? []).Select(c => c?.Input ?? new ChargeInput(null, ChargeBasis.Flat, null, null)).ToList(),
                new PricedBy(Miles, Booking.ForPrice(Ordered(), lists, today), lists.ClassRates ?? [], currency),
                minimum
            )
            : validation.Problems;
    }

    /// <summary>The freight as ordered.</summary>
    public IReadOnlyList<FreightOrder> Ordered() => (Freight ?? []).OfType<FreightRequest>().Select(f => f.Order()).ToList();

    /// <summary>The rate tables that the charges name.</summary>
    public IReadOnlyList<long> Tables() => (Charges ?? []).Select(c => c?.ClassRatesId).OfType<long>().ToList();
}

/// <param name="Stop">Its stop, from 1; omitted for the whole load.</param>
public sealed record ReferenceRequest(ReferenceKind? Kind, string? Value, int? Stop = null);

/// <summary>A value of a custom field.</summary>
public sealed record CustomValueRequest(long FieldId, string? Value);

/// <summary>A load as the page sends it.</summary>
/// <param name="Draft">Save without booking; then nothing is required.</param>
/// <param name="Number">Our number for it; the next in the series when omitted.</param>
/// <param name="BillToId">Whom it is billed to, where that is not the customer.</param>
/// <param name="Features">What its trailer must have, from the company's list.</param>
/// <param name="Cod">What the driver collects on delivery, in the currency of the charges.</param>
/// <param name="OfficeId">When omitted, a new load gets its booker's office, and an existing load keeps its own.</param>
public sealed record LoadRequest(
    long? CustomerId,
    string? Reference,
    Equipment? Equipment,
    IReadOnlyList<StopRequest>? Stops,
    IReadOnlyList<FreightRequest>? Freight,
    IReadOnlyList<ChargeRequest>? Charges,
    string? DriverInstructions,
    bool Draft,
    string? CarrierInstructions = null,
    string? Number = null,
    IReadOnlyList<ReferenceRequest>? References = null,
    IReadOnlyList<CustomValueRequest>? CustomFields = null,
    long? OfficeId = null,
    long? BillToId = null,
    FreightTerms? FreightTerms = null,
    IReadOnlyList<string?>? Features = null,
    decimal? Cod = null
)
{
    /// <summary>A load as it would be booked again.</summary>
    public static LoadRequest Of(LoadSheet sheet) =>
        new(
            sheet.Load.CustomerId,
            sheet.Load.Reference,
            sheet.Load.Equipment,
            sheet
                .Load.Stops.Select(s => new StopRequest(
                    s.Kind,
                    s.PlaceId,
                    s.From,
                    s.Until,
                    s.Note,
                    s.MilesSet is null && s.Via is not { Count: > 0 }
                        ? null
                        : new RouteOverrideRequest(
                            s.MilesSet,
                            s.MilesWhy,
                            (s.Via ?? []).Select(v => new ViaRequest(v.Name, v.Point.Latitude, v.Point.Longitude)).ToList()
                        )
                ))
                .ToList(),
            sheet.Freight.Select(FreightRequest.Of).ToList(),
            sheet.Charges.Select(ChargeRequest.Of).ToList(),
            sheet.DriverInstructions,
            sheet.Load.State == LoadState.Draft,
            sheet.CarrierInstructions,
            null,
            sheet.References.Select(r => new ReferenceRequest(r.Kind, r.Value, r.Stop)).ToList(),
            sheet.CustomFields.Select(f => new CustomValueRequest(f.FieldId, f.Value)).ToList(),
            sheet.OfficeId,
            sheet.Load.BillToId,
            sheet.Load.FreightTerms,
            sheet.Load.Features.ToList<string?>(),
            sheet.Load.Cod?.Amount.Amount
        );

    public LoadOrder Order() =>
        new(
            CustomerId,
            Reference,
            Equipment,
            (Stops ?? []).Select(s => new StopOrder(s.Kind, s.PlaceId, s.From, s.Until, s.Note, s.RouteOverride?.RouteOverride())).ToList(),
            (Freight ?? []).Select(f => f.Order()).ToList(),
            (Charges ?? [])
                .Select(c => new ChargeOrder(
                    c.Kind,
                    c.Description,
                    c.Amount?.Amount,
                    c.Basis ?? ChargeBasis.Flat,
                    c.Rate,
                    c.Minimum,
                    c.Authorization,
                    c.ByClass
                ))
                .ToList(),
            DriverInstructions,
            Draft
        )
        {
            Number = Number,
            OfficeId = OfficeId,
            CarrierInstructions = CarrierInstructions,
            BillToId = BillToId,
            FreightTerms = FreightTerms,
            Features = Features ?? [],
            Cod = Cod,
            References = (References ?? []).Select(r => new ReferenceOrder(r.Kind, r.Value, r.Stop)).ToList(),
            CustomFields = (CustomFields ?? []).DistinctBy(o => o.FieldId).ToDictionary(o => o.FieldId, o => o.Value),
        };
}

/// <summary>The result of booking.</summary>
/// <param name="Warnings">Warnings that did not block it.</param>
/// <param name="Held">Why it is on hold, or null.</param>
public sealed record BookedAnswer(long Id, string Number, LoadState State, IReadOnlyList<Problem> Warnings, string? Held = null);

/// <param name="Kind">Which hold.</param>
/// <param name="Why">The reason to override it.</param>
public sealed record OverrideHoldRequest(HoldKind? Kind, string? Why);

/// <param name="CustomerCharge">What the customer pays for the truck that was not used; omitted for nothing.</param>
/// <param name="CarrierCharge">What the carrier is paid for it; omitted for nothing.</param>
/// <param name="Authorization">Who at the customer agreed to the charge.</param>
public sealed record CancelRequest(
    string? Why,
    Money? CustomerCharge = null,
    Money? CarrierCharge = null,
    ChargeAuthorization? Authorization = null
);

/// <summary>Booking, editing and canceling loads.</summary>
public static class LoadCommands
{
    public static Task<Outcome<BookedAnswer>> Book(CommandContext w, LoadRequest request) => Book(w, request, null);

    /// <summary>Books a load, or a move.</summary>
    /// <param name="move">Set for a move.</param>
    internal static async Task<Outcome<BookedAnswer>> Book(CommandContext w, LoadRequest request, MoveOf? move)
    {
        var decided = await Decide(w, request, move);
        return decided.Ok ? await Book(w, decided.Value) : decided.Problems;
    }

    /// <summary>Books a load that is made of another.</summary>
    /// <param name="number">The other one's, which a refusal names: its fields are not those of this request.</param>
    internal static async Task<Outcome<BookedAnswer>> Book(CommandContext w, LoadOrder order, string number)
    {
        var decided = await Decide(w, order);
        return decided.Ok
            ? await Book(w, decided.Value)
            : new Problems(
                decided.Problems.Select(p => new Problem(p.Code, $"Load {number} cannot be booked again as it is. {p.Message}"))
            );
    }

    private static async Task<BookedAnswer> Book(CommandContext w, BookedLoad load)
    {
        var number = load.Number ?? await NextFree(w);
        var id = await LoadWrites.Add(w, number, load);
        var held = await CheckCredit(w, id, load);
        var state = await LoadWrites.Settle(w, id);
        w.Record(
            load.Draft ? EventKinds.LoadDrafted : EventKinds.LoadBooked,
            id,
            load.Draft ? $"{number} saved as a draft" : $"{number} booked, {Lane(load)}",
            loadId: id
        );
        return new BookedAnswer(id, number, state, load.Warnings, held);
    }

    /// <summary>Edits a locked load.</summary>
    public static async Task<Outcome<BookedAnswer>> Change(CommandContext w, long id, LoadRequest request)
    {
        var before = (await LoadReads.Sheet(w.Db, id))!;
        if (before.Load.Work().EditRefusal(request.Draft) is { } refused)
        {
            return refused;
        }

        if (!w.Actor.May(Right.RatesSee))
        {
            // A user who does not see the charges does not change them either.
            request = request with { Charges = before.Charges.Select(ChargeRequest.Of).ToList() };
        }

        var decided = await Decide(w, request with { OfficeId = request.OfficeId ?? before.OfficeId }, before.Load.Move);
        if (!decided.Ok)
        {
            return decided.Problems;
        }

        var load = decided.Value;
        var scope = before.Load.Work().Edit(SameStops(before, load), split: before.Legs.Count > 1);
        if (!scope.Ok)
        {
            return scope.Problems;
        }

        if (Cod.ChangeRefuses(load.Cod, before.Load.Cod?.Collected) is { } paid)
        {
            return paid;
        }

        if (load.Features.Count > 0 && TrailerFeatures.AddedRefusal(load.Features, await FleetStore.TrailersOf(w.Db, id)) is { } lacking)
        {
            return lacking;
        }

        await (scope.Value == EditScope.All ? LoadWrites.Replace(w, id, load) : LoadWrites.ReplaceAllButStops(w, id, load));
        if (before.Legs.Any(l => l.TripId is not null) && !SameFreight(before, load))
        {
            var overloaded = await LoadingCommands.Refuses(w, before.Legs.Select(l => l.TripId).OfType<long>());
            if (overloaded.Any)
            {
                return overloaded;
            }
        }

        if (load.Number is { } number && number != before.Load.Number)
        {
            await LoadWrites.Renumber(w.Db, id, number);
        }

        var held = await CheckCredit(w, id, load);
        var now = await LoadWrites.Settle(w, id);
        var booked = before.Load.State == LoadState.Draft && !load.Draft;
        w.Record(
            booked ? EventKinds.LoadBooked : EventKinds.LoadChanged,
            id,
            booked ? $"{before.Load.Number} booked, {Lane(load)}" : $"{before.Load.Number} changed",
            loadId: id,
            driverId: before.Load.DriverId,
            before: Kept(before)
        );
        return new BookedAnswer(id, load.Number ?? before.Load.Number, now, load.Warnings, held);
    }

    /// <summary>Cancels a locked load: its driver or carrier is unassigned and notified; a truck that was ordered and not used is charged
    /// and paid.</summary>
    public static async Task<Outcome<BookedAnswer>> Cancel(CommandContext w, CoverCommands cover, long id, CancelRequest request)
    {
        var before = (await LoadReads.Sheet(w.Db, id))!;
        var decided = Cancellation.Decide(
            before.Load.Work(),
            before.Load.Stops.Any(s => s.LeftAt is not null),
            before.Load.State == LoadState.Covered && before.Leg?.CarrierId is not null,
            new CancelOrder(request.Why, request.CustomerCharge, request.CarrierCharge, request.Authorization),
            w.Today,
            before.Load.Revenue.Currency,
            before.Leg?.Agreed?.Currency ?? Currency.USD
        );
        if (!decided.Ok)
        {
            return decided.Problems;
        }

        foreach (var leg in before.Legs.Where(l => l.Holder().Cover != LegCover.Open))
        {
            await cover.EndFor(w, before, leg, leg == before.Leg ? decided.Value.Carrier : null);
        }

        await LoadWrites.Cancel(w, id, decided.Value);
        var state = await LoadWrites.Settle(w, id);
        w.Record(
            EventKinds.LoadCancelled,
            id,
            $"{before.Load.Number} {decided.Value.Summary()}",
            loadId: id,
            driverId: before.Load.DriverId,
            before: Kept(before)
        );
        return new BookedAnswer(id, before.Load.Number, state, []);
    }

    /// <summary>Overrides a hold. Only callers with that right get here.</summary>
    public static async Task<Outcome<BookedAnswer>> OverrideHold(CommandContext w, long id, OverrideHoldRequest request)
    {
        var validation = new Validation();
        var why = validation.Text(request.Why, "why", "The reason", 400, required: true);
        if (request.Kind is null)
        {
            validation.Add("missing", "Choose the hold to override.", "kind");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var load = (await LoadReads.ByIds(w.Db, [id]))[0];
        if (!await HoldStore.Release(w, id, request.Kind!.Value, why!, passed: true))
        {
            return new Problem("hold.none", $"Load {load.Number} does not have this hold.", "kind");
        }

        var state = await LoadWrites.Settle(w, id);
        w.Record(EventKinds.LoadHoldOverridden, id, $"Hold on {load.Number} overridden: {why}", loadId: id, before: new { load.Held });
        return new BookedAnswer(id, load.Number, state, []);
    }

    /// <summary>After a payment: releases loads on credit hold, oldest first, as far as the limit allows.</summary>
    public static async Task ReleaseCredit(CommandContext w, CompanyRow customer)
    {
        foreach (var id in await HoldStore.CreditHeld(w.Db, customer.Id))
        {
            await LoadWrites.Lock(w.Db, id);
            var load = (await LoadReads.ByIds(w.Db, [id]))[0];
            if (
                await CreditHold(w, customer, id, load.Revenue) is null
                && await HoldStore.Release(w, id, HoldKind.Credit, "within the limit again", passed: false)
            )
            {
                await LoadWrites.Settle(w, id);
                w.Record(
                    EventKinds.LoadHoldOverridden,
                    id,
                    $"Credit hold on {load.Number} released: {customer.Name} is within its limit again",
                    loadId: id
                );
            }
        }
    }

    /// <summary>Why a customer's load must be held as things are now; null when it need not.</summary>
    private static async Task<string?> CreditHold(CommandContext w, CompanyRow customer, long loadId, Money revenue)
    {
        var settings = await CompanySettingsStore.Read(w.Db);
        return Credit.Hold(
            customer.Name,
            new CreditTerms(
                customer.CreditLimit,
                await ExchangeStore.From(w.Db, settings.DefaultCreditLimit, customer.Currency, w.Today),
                settings.PastDueHoldDays
            ),
            await HoldStore.Exposure(w, customer.Id, loadId),
            revenue
        );
    }

    private static async Task<string?> CheckCredit(CommandContext w, long id, BookedLoad load)
    {
        if (load.Draft || load.PayerId is not { } payerId || await HoldStore.WasPassed(w.Db, id, HoldKind.Credit))
        {
            return null;
        }

        var reason = await CreditHold(w, (await CompanyStore.Get(w.Db, payerId))!, id, load.Revenue);
        if (reason is not null)
        {
            await HoldStore.Place(w, id, HoldKind.Credit, reason);
        }
        else
        {
            await HoldStore.Release(w, id, HoldKind.Credit, "within the limit again", passed: false);
        }

        return reason;
    }

    /// <summary>The next number in the series that is not taken.</summary>
    internal static async Task<string> NextFree(CommandContext w)
    {
        while (true)
        {
            var number = (await LoadWrites.NextNumber(w.Db, "load"))!;
            if (!await LoadReads.NumberTaken(w.Db, number))
            {
                return number;
            }
        }
    }

    /// <param name="move">Set for a move; a load stays what it is when it is edited.</param>
    private static Task<Outcome<BookedLoad>> Decide(CommandContext w, LoadRequest request, MoveOf? move) =>
        Decide(
            w,
            request.Order() with
            {
                Move = move,
            },
            (request.Charges ?? []).Select(c => c?.Amount?.Currency).OfType<Currency>().ToList()
        );

    /// <param name="currencies">Those of the amounts as they were sent.</param>
    private static async Task<Outcome<BookedLoad>> Decide(CommandContext w, LoadOrder order, IReadOnlyList<Currency>? currencies = null)
    {
        var access = w.Actor.Access;
        var limits = access?.Limits ?? ViewLimits.None;
        var office = limits.OfficeFor(order.OfficeId, access?.OfficeId);
        if (!office.Ok)
        {
            return office.Problems;
        }

        if ((limits.RefusesCustomer(order.CustomerId) ?? limits.RefusesCustomer(order.BillToId ?? order.CustomerId)) is { } refused)
        {
            return refused;
        }

        if (office.Value is { } officeId && !await OfficeStore.Has(w.Db, UnitKind.Office, officeId))
        {
            return Problem.Missing("This office", "officeId");
        }

        var places = await PlaceStore.Known(w.Db, order.Stops.Select(s => s.PlaceId).OfType<long>());
        var customer = order.CustomerId is { } id ? await CompanyStore.Get(w.Db, id) : null;
        var billTo = order.BillToId is { } payer ? await CompanyStore.Get(w.Db, payer) : null;
        var currency = (billTo ?? customer)?.Currency ?? Currency.USD;
        return currencies?.Any(c => c != currency) == true
            ? new Problem("currency", $"The charges must be in {currency.Format()}, which the load is billed in.", "charges")
            : Booking.Decide(
                Routing.Roads,
                order with
                {
                    OfficeId = office.Value,
                    Currency = currency,
                },
                places,
                customer?.IsCustomer == true,
                w.Today,
                await CustomFieldStore.All(w.Db),
                billTo?.IsCustomer == true,
                await Lists(w.Db, order.Features, order.Freight, order.Charges.Select(c => c.ByClass?.ClassRatesId).OfType<long>().ToList())
            );
    }

    /// <summary>The company's lists that features, freight and charges of an order use.</summary>
    internal static async Task<BookingLists> Lists(
        NpgsqlConnection db,
        IReadOnlyList<string?> features,
        IReadOnlyList<FreightOrder> freight,
        IReadOnlyList<long> tables
    ) =>
        new(
            features.Count > 0 || freight.Any(f => f.Vehicle is { Runs: false }) ? await FleetStore.Features(db) : [],
            freight.Any(f => f.Bulk is not null) ? await ProductStore.All(db) : [],
            freight.Any(f => f.Vehicle is not null) ? await ProductStore.BodyStyles(db) : [],
            tables.Count > 0 ? await ClassRatesStore.ByIds(db, tables) : []
        );

    /// <summary>Whether freight has the size, weight and kind it had.</summary>
    private static bool SameFreight(LoadSheet before, BookedLoad load) =>
        before
            .Freight.Select(f =>
                (
                    f.Pieces,
                    f.Pallets,
                    f.WeightLb,
                    f.TemperatureF,
                    f.LengthIn,
                    f.WidthIn,
                    f.HeightIn,
                    f.Stackable,
                    f.HazardClass,
                    f.PackingGroup
                )
            )
            .SequenceEqual(
                load.Freight.Select(f =>
                    (
                        f.Pieces,
                        f.Pallets,
                        f.WeightLb,
                        f.TemperatureF,
                        f.LengthIn,
                        f.WidthIn,
                        f.HeightIn,
                        f.Stackable,
                        f.Hazmat.Class,
                        f.Hazmat.PackingGroup
                    )
                )
            )
        && before
            .Freight.Select(f => (f.Bulk?.ProductId, f.Bulk?.Gallons, f.Bulk?.OwnCompartments, f.Vehicle))
            .SequenceEqual(load.Freight.Select(f => (f.Bulk?.ProductId, f.Bulk?.Gallons, f.Bulk?.OwnCompartments, f.Vehicle)));

    private static bool SameStops(LoadSheet before, BookedLoad load) =>
        before.Load.Stops.Count == load.Stops.Count
        && before
            .Load.Stops.Zip(load.Stops)
            .All(p =>
                p.First.Kind == p.Second.Kind
                && p.First.PlaceId == p.Second.Place?.Id
                && p.First.From == p.Second.Window?.From
                && p.First.Until == p.Second.Window?.Until
            );

    private static object Kept(LoadSheet s) =>
        new
        {
            s.Load.CustomerId,
            s.Load.BillToId,
            s.Load.Reference,
            Equipment = s.Load.Equipment?.ToString(),
            Stops = s.Load.Stops.Select(x => new
            {
                Kind = x.Kind.ToString(),
                x.PlaceId,
                From = x.From?.ToString(),
                Until = x.Until?.ToString(),
                x.Note,
            }),
            s.Load.Number,
            s.Freight,
            Charges = s.Charges.Select(c => new
            {
                Kind = c.Kind.ToString(),
                c.Description,
                Basis = c.Basis.ToString(),
                c.Rate,
                c.Amount.Amount,
            }),
            References = s.References.Select(r => new
            {
                Kind = r.Kind.ToString(),
                r.Value,
                r.Stop,
            }),
            s.CustomFields,
            s.DriverInstructions,
            s.CarrierInstructions,
            s.Office,
        };

    private static string Lane(BookedLoad load) =>
        load.Stops.Count >= 2 ? $"{load.Stops[0].Place?.Town} to {load.Stops[^1].Place?.Town}" : "";
}
