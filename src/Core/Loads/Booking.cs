using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Loads;

/// <summary>Turns what was typed into a load that can be saved, or says what is missing.</summary>
public static class Booking
{
    /// <summary>The most stops, freight lines and charges of a load.</summary>
    public const int MaxLines = 60;

    /// <param name="order">As typed.</param>
    /// <param name="places">Every place named in the order, by key.</param>
    /// <param name="customerKnown">Whether the customer exists and may be booked for.</param>
    /// <param name="today">In the company's time zone.</param>
    /// <param name="own">The company's custom fields.</param>
    /// <param name="billToKnown">Whether the company it is billed to exists and may be billed.</param>
    /// <param name="lists">The company's lists, as far as the order uses them.</param>
    public static Outcome<BookedLoad> Decide(
        IRoads roads,
        LoadOrder order,
        IReadOnlyDictionary<long, KnownPlace> places,
        bool customerKnown,
        LocalDate today,
        IReadOnlyList<CustomField>? own = null,
        bool billToKnown = true,
        BookingLists? lists = null
    )
    {
        lists ??= BookingLists.None;
        var validation = new Validation();
        var must = !order.Draft;
        var reference = validation.Text(order.Reference, "reference", "The customer reference", 60);
        var number = validation.Number(order.Number, "number", "The load number");
        var forDriver = validation.Text(order.DriverInstructions, "driverInstructions", "The driver instructions", 4000);
        var forCarrier = validation.Text(order.CarrierInstructions, "carrierInstructions", "The carrier instructions", 4000);

        if (order.Move is not null)
        {
            if (order.CustomerId is not null || order.BillToId is not null || order.Charges.Count > 0)
            {
                validation.Add("move.bills", "A move is not billed: it has no customer and no charges.", "customerId");
            }
        }
        else if (order.CustomerId is null)
        {
            if (must)
            {
                validation.Add("missing", "Customer is required: choose who is paying for the load.", "customerId");
            }
        }
        else if (!customerKnown)
        {
            validation.Add("unknown", "This customer is not in the address book: choose another or create one.", "customerId");
        }

        if (order.BillToId is not null && !billToKnown)
        {
            validation.Add("unknown", "The company to bill is not a customer in the address book.", "billToId");
        }
        else if (order.FreightTerms == FreightTerms.ThirdParty && (order.BillToId is null || order.BillToId == order.CustomerId))
        {
            validation.Add("missing", "Third party: choose who is billed instead of the customer.", "billToId");
        }

        if (must && order.Equipment is null)
        {
            validation.Add("missing", "Equipment is required: choose the trailer type.", "equipment");
        }

        var required = TrailerFeatures.Read(
            order.Freight.Any(f => f.Vehicle is { Runs: false }) ? [.. order.Features, TrailerFeatures.Winch] : order.Features,
            lists.Features,
            "features",
            validation
        );
        foreach (
            var (count, field, name) in new[]
            {
                (order.Stops.Count, "stops", "stops"),
                (order.Freight.Count, "freight", "freight lines"),
                (order.Charges.Count, "charges", "charges"),
                (order.References.Count, "references", "references"),
            }
        )
        {
            if (count > MaxLines)
            {
                validation.Add("too.many", $"A load takes at most {MaxLines} {name}.", field);
            }
        }

        if (new[] { order.Stops.Count, order.Freight.Count, order.Charges.Count, order.References.Count }.Max() > MaxLines)
        {
            return validation.Problems;
        }

        var stops = order.Stops.Select((s, i) => Stop(s, i, places, must, today, validation)).ToList();
        StopOrder(stops, must, validation);
        var freight = Freight(order, must && (order.Move is null || order.Freight.Count > 0), lists, today, validation);
        int? miles = null;
        if (stops.Count >= 2 && stops.All(s => s.Place is not null))
        {
            for (var i = 1; i < stops.Count; i++)
            {
                stops[i] = OnRoad(roads, stops[i - 1].Place!.Point, stops[i]);
            }

            miles = Miles(stops);
        }

        var by = new PricedBy(
            miles,
            freight
                .Select((f, i) => ClassFreight.Of(i, f.FreightClass, f.Pallets, f.Pieces, f.LengthIn, f.WidthIn, f.HeightIn, f.WeightLb))
                .ToList(),
            lists.ClassRates ?? [],
            order.Currency
        );
        var charges = Charges(order, must && order.Move is null, by, today, validation);
        if (order.Cod is not null)
        {
            validation.Amount(order.Cod, "cod", "Cash on delivery");
        }

        var references = References(order, validation);
        var values = CustomFields(order, own ?? [], must, validation);
        return validation.Ok
            ? new BookedLoad(
                order.CustomerId,
                number,
                reference,
                order.Equipment,
                stops,
                freight,
                charges,
                references,
                values,
                forDriver,
                forCarrier,
                order.Draft,
                miles,
                [.. Warnings(stops, roads), .. Border(stops, references)]
            )
            {
                OfficeId = order.OfficeId,
                BillToId = order.BillToId == order.CustomerId ? null : order.BillToId,
                FreightTerms = order.FreightTerms,
                Currency = order.Currency,
                Move = order.Move,
                Features = required,
                Cod = order.Cod,
            }
            : validation.Problems;
    }

    /// <summary>A stop to be added at the end of a load in progress; its fields are named without an index.</summary>
    public static Outcome<BookedStop> Added(StopOrder order, IReadOnlyDictionary<long, KnownPlace> places, LocalDate today, Instant now)
    {
        var validation = new Validation();
        var stop = Stop(order, 1, places, must: true, today, validation);
        if (validation.Ok && stop.At!.Value.Until < now)
        {
            validation.Add("time.past", "This time has passed: enter a time in the future.", "stops[1].from");
        }

        return validation.Ok
            ? stop
            : new Problems(
                validation.Problems.Select(p =>
                    p with
                    {
                        Field = p.Field?.Replace("stops[1].", "", StringComparison.Ordinal),
                        Message = p.Message.Replace("Stop 2", "The stop", StringComparison.Ordinal),
                    }
                )
            );
    }

    /// <summary>A stop with the road miles from the one before.</summary>
    public static BookedStop OnRoad(IRoads roads, GeoPoint before, BookedStop stop) =>
        stop with
        {
            RoadMiles = roads.Stretch(before, stop.RouteOverride.Via.Select(v => v.Point).ToList(), stop.Place!.Point, null).Miles,
        };

    /// <summary>Miles of the stops in order, manual miles as they are; whole miles.</summary>
    private static int Miles(List<BookedStop> stops) =>
        (int)Math.Round(stops.Skip(1).Sum(s => s.RouteOverride.Miles ?? s.RoadMiles ?? 0), MidpointRounding.AwayFromZero);

    private static List<BookedReference> References(LoadOrder order, Validation validation)
    {
        var references = new List<BookedReference>();
        for (var i = 0; i < order.References.Count; i++)
        {
            var r = order.References[i];
            if (r.Kind is null)
            {
                validation.Add("missing", $"Reference {i + 1}: choose its type.", $"references[{i}].kind");
            }

            if (r.Stop is { } stop && (stop < 1 || stop > order.Stops.Count))
            {
                validation.Add("unknown", $"Reference {i + 1}: choose one of the load's stops.", $"references[{i}].stop");
            }

            // Empty lines are not references.
            if (validation.Text(r.Value, $"references[{i}].value", $"Reference {i + 1}", 60) is { } value)
            {
                references.Add(new BookedReference(r.Kind ?? ReferenceKind.Other, value, r.Stop));
            }
        }

        return references;
    }

    private static Dictionary<long, string> CustomFields(
        LoadOrder order,
        IReadOnlyList<CustomField> fields,
        bool must,
        Validation validation
    )
    {
        var values = new Dictionary<long, string>();
        foreach (var field in fields)
        {
            if (field.Read(order.CustomFields.GetValueOrDefault(field.Id), $"customFields[{field.Id}]", must, validation) is { } value)
            {
                values[field.Id] = value;
            }
        }

        foreach (var unknown in order.CustomFields.Keys.Except(fields.Select(f => f.Id)))
        {
            validation.Add("unknown", "This custom field no longer exists: reload the page.", $"customFields[{unknown}]");
        }

        return values;
    }

    private static BookedStop Stop(
        StopOrder order,
        int index,
        IReadOnlyDictionary<long, KnownPlace> places,
        bool must,
        LocalDate today,
        Validation validation
    )
    {
        var at = $"stops[{index}]";
        var name = $"Stop {index + 1}";
        if (order.Kind is null)
        {
            validation.Add("missing", $"{name}: choose pickup or delivery.", $"{at}.kind");
        }

        KnownPlace? place = null;
        if (order.PlaceId is null)
        {
            if (must)
            {
                validation.Add("missing", $"{name}: a place is required.", $"{at}.placeId");
            }
        }
        else if (!places.TryGetValue(order.PlaceId.Value, out place))
        {
            validation.Add("unknown", $"{name}: this place is not in the address book.", $"{at}.placeId");
        }

        var note = validation.Text(order.Note, $"{at}.note", $"{name}: the note", 1000);
        TimeWindow? window = null;
        Span? span = null;
        if (order.From is null)
        {
            if (must || order.Until is not null)
            {
                validation.Add("missing", $"{name}: an appointment is required, such as tue 14:30.", $"{at}.from");
            }
        }
        else
        {
            var until = order.Until ?? order.From.Value;
            window = new TimeWindow(order.From.Value, until);
            var before = validation.Problems.Count;
            validation.Date(order.From.Value.Date, today, $"{at}.from", $"{name}: the date");
            validation.Date(until.Date, today, $"{at}.until", $"{name}: the date");
            var near = validation.Problems.Count == before;
            if (until < order.From)
            {
                validation.Add("order", $"{name}: the window ends before it starts.", $"{at}.until");
            }
            else if (place is not null && near)
            {
                span = Resolve(window.Value, place, at, validation);
            }
        }

        if (index == 0 && order.RouteOverride is { } route && route != RouteOverride.None)
        {
            validation.Add("route", "The first stop has no leg before it.", $"{at}.routeOverride");
        }

        return new BookedStop(
            order.Kind ?? StopKind.Pickup,
            place,
            window,
            span,
            note,
            CheckRoute(order.RouteOverride ?? RouteOverride.None, $"{at}.routeOverride", name, validation)
        );
    }

    /// <summary>The most miles of one stretch: more than between any two places on our roads.</summary>
    private const int MaxMiles = 6_000;

    /// <summary>The most via points of one stretch.</summary>
    private const int MaxShaping = 20;

    /// <summary>Validates a route override.</summary>
    public static RouteOverride CheckRoute(RouteOverride route, string at, string name, Validation validation)
    {
        var before = validation.Problems.Count;
        foreach (var via in route.Via)
        {
            validation.Text(via.Name, At("via"), $"{name}: the name of a via point", 80);
        }

        var why = validation.Text(
            route.Why,
            At("milesWhy"),
            $"{name}: the reason for manual miles",
            200,
            required: route.Miles is not null
        );
        if (route.Miles is < 0 or > MaxMiles)
        {
            validation.Add("out.of.range", $"{name}: manual miles must be between 0 and {MaxMiles:#,##0}.", At("miles"));
        }

        if (route.Via.Count > MaxShaping)
        {
            validation.Add("too.many", $"{name}: a route can have at most {MaxShaping} via points.", At("via"));
        }

        for (var i = 0; i < route.Via.Count; i++)
        {
            if (route.Via[i].Point is not { Latitude: >= -90 and <= 90, Longitude: >= -180 and <= 180 })
            {
                validation.Add("out.of.range", $"{name}: via point {i + 1} needs a latitude and longitude in degrees.", At($"via[{i}]"));
            }
        }

        return validation.Problems.Count == before
            ? new RouteOverride(route.Miles, route.Miles is null ? null : why, route.Via)
            : RouteOverride.None;

        string At(string field) => at.Length == 0 ? field : $"{at}.{field}";
    }

    private static Span? Resolve(TimeWindow window, KnownPlace place, string at, Validation validation)
    {
        var zone = WallClock.Zone(place.Zone) ?? DateTimeZone.Utc;
        var from = WallClock.Resolve(window.From, zone, $"{at}.from");
        var until = WallClock.Resolve(window.Until, zone, $"{at}.until", closing: true);
        validation.AddRange(from.Problems);
        if (!window.IsAppointment)
        {
            validation.AddRange(until.Problems);
        }

        return from.Ok && until.Ok ? new Span(from.Value, until.Value) : null;
    }

    private static void StopOrder(List<BookedStop> stops, bool must, Validation validation)
    {
        if (must)
        {
            if (stops.Count == 0 || stops[0].Kind != StopKind.Pickup)
            {
                validation.Add(
                    "load.pickup.first",
                    "A load starts with a pickup: make the first stop a pickup.",
                    stops.Count == 0 ? "stops" : "stops[0].kind"
                );
            }

            if (stops.Count < 2 || stops[^1].Kind != StopKind.Delivery)
            {
                validation.Add(
                    "load.delivery.last",
                    "A load ends with a delivery: add one.",
                    stops.Count < 2 ? "stops" : $"stops[{stops.Count - 1}].kind"
                );
            }
        }

        for (var i = 1; i < stops.Count; i++)
        {
            if (stops[i - 1].At is { } before && stops[i].At is { } after && after.Until < before.From)
            {
                validation.Add(
                    "order",
                    $"Stop {i + 1} closes before stop {i} opens: change a time or reorder the stops.",
                    $"stops[{i}].from"
                );
            }
        }
    }

    private static List<BookedFreight> Freight(LoadOrder order, bool must, BookingLists lists, LocalDate today, Validation validation)
    {
        var lines = new List<BookedFreight>();
        if (must && order.Freight.Count == 0)
        {
            validation.Add("missing", "Freight is required: enter a description.", "freight[0].description");
        }

        for (var i = 0; i < order.Freight.Count; i++)
        {
            lines.Add(FreightLine(order, i, must, lists, today, validation));
        }

        return lines;
    }

    private static BookedFreight FreightLine(LoadOrder order, int i, bool must, BookingLists lists, LocalDate today, Validation validation)
    {
        var (at, name) = ($"freight[{i}]", $"Freight line {i + 1}");
        var (line, bulk, vehicle) = Sized(order.Freight[i], order.Equipment, lists, today, at, name, validation);
        var description = validation.Text(line.Description, $"{at}.description", $"{name}: the description", 200, required: must);
        validation.Between(line.Pieces, 1, 1_000_000, $"{at}.pieces", "Freight: pieces");
        validation.Between(line.Pallets, 1, 1_000, $"{at}.pallets", "Freight: pallets");
        validation.Between(line.WeightLb, 1, 400_000, $"{at}.weightLb", "Freight: the weight in pounds");
        validation.Between(line.TemperatureF, -60, 400, $"{at}.temperatureF", "Freight: the temperature in °F");
        validation.Between(line.LengthIn, 1, 2_000, $"{at}.lengthIn", "Freight: the length in inches");
        validation.Between(line.WidthIn, 1, 600, $"{at}.widthIn", "Freight: the width in inches");
        validation.Between(line.HeightIn, 1, 600, $"{at}.heightIn", "Freight: the height in inches");
        FreightClass.Check(line.FreightClass, $"{at}.freightClass", "Freight: the class", validation);
        if (
            must
            && vehicle is not null
            && string.IsNullOrWhiteSpace(order.Freight[i].Vehicle!.Body)
            && (line.LengthIn is null || line.HeightIn is null || line.WeightLb is null)
        )
        {
            validation.Add(
                "missing",
                $"{name}: choose the body style, or enter the vehicle's length, height and weight.",
                $"{at}.vehicle.body"
            );
        }

        return new BookedFreight(
            description ?? "",
            line.Pieces,
            line.Pallets,
            line.WeightLb,
            line.TemperatureF,
            line.LengthIn,
            line.WidthIn,
            line.HeightIn,
            line.Hazmat,
            new Hazmat(line.UnNumber, line.HazmatName, line.HazardClass, line.PackingGroup, line.EmergencyPhone).Check(
                line.Hazmat,
                at,
                validation
            ),
            line.Stackable,
            line.FreightClass
        )
        {
            Bulk = bulk,
            Vehicle = vehicle,
        };
    }

    /// <summary>A line with what its product or body style says where nothing was entered.</summary>
    private static (FreightOrder Line, BookedBulk? Bulk, Vehicle? Vehicle) Sized(
        FreightOrder line,
        Equipment? equipment,
        BookingLists lists,
        LocalDate today,
        string at,
        string name,
        Validation validation
    )
    {
        if (line.Bulk is not null && line.Vehicle is not null)
        {
            validation.Add("kind", $"{name} is a product in bulk or a vehicle, not both.", $"{at}.vehicle");
        }
        else if (line.Bulk is { } wanted)
        {
            if (equipment is not (null or Equipment.Tanker))
            {
                validation.Add("bulk.tanker", $"{name}: liquid in bulk needs a tanker. Choose it as equipment.", "equipment");
            }

            if (wanted.Read(lists.Products, $"{at}.bulk", name, validation) is { } read)
            {
                return (
                    line with
                    {
                        Description = string.IsNullOrWhiteSpace(line.Description) ? read.Product.Name.Capitalized() : line.Description,
                        WeightLb = line.WeightLb ?? (int)Math.Round(read.Gallons * read.Product.LbPerGallon, MidpointRounding.AwayFromZero),
                        TemperatureF = line.TemperatureF ?? read.Product.TemperatureF,
                    },
                    new BookedBulk(read.Product.Id, read.Gallons, wanted.OwnCompartments || read.Product.OwnCompartments),
                    null
                );
            }
        }
        else if (line.Vehicle is { } order)
        {
            if (equipment is Equipment.Tanker)
            {
                validation.Add("vehicle.tanker", $"{name}: a tanker does not haul vehicles. Choose other equipment.", "equipment");
            }

            if (line.Pieces is not (null or 1) || line.Pallets is not null)
            {
                validation.Add("vehicle.one", $"{name} is one vehicle: enter a line for each.", $"{at}.pieces");
            }

            var (vehicle, style) = order.Read(lists.BodyStyles, today, $"{at}.vehicle", name, validation);
            return (
                line with
                {
                    Description = string.IsNullOrWhiteSpace(line.Description) ? vehicle.Described.Capitalized() : line.Description,
                    Pieces = 1,
                    LengthIn = line.LengthIn ?? style?.LengthIn,
                    WidthIn = line.WidthIn ?? style?.WidthIn,
                    HeightIn = line.HeightIn ?? style?.HeightIn,
                    WeightLb = line.WeightLb ?? style?.WeightLb,
                },
                null,
                vehicle
            );
        }

        return (line, null, null);
    }

    /// <summary>Freight as charges are priced by it, while it is entered: what is not valid yet is left out.</summary>
    public static IReadOnlyList<ClassFreight> ForPrice(IReadOnlyList<FreightOrder> freight, BookingLists lists, LocalDate today) =>
        freight
            .Select(f => Sized(f, null, lists, today, "", "", new Validation()).Line)
            .Select((f, i) => ClassFreight.Of(i, f.FreightClass, f.Pallets, f.Pieces, f.LengthIn, f.WidthIn, f.HeightIn, f.WeightLb))
            .ToList();

    private static List<BookedCharge> Charges(LoadOrder order, bool must, PricedBy by, LocalDate today, Validation validation)
    {
        var prices = ChargePrices.PriceAll(
            order.Charges.Select(c => new ChargeInput(c.Kind, c.Basis, c.Amount, c.Rate, c.Minimum, c.ByClass)).ToList(),
            by
        );
        var charges = new List<BookedCharge>();
        for (var i = 0; i < order.Charges.Count; i++)
        {
            var (charge, price) = (order.Charges[i], prices[i]);
            var at = $"charges[{i}]";
            var name = charge.Kind?.Format() ?? $"Charge {i + 1}";
            if (charge.Kind is null)
            {
                validation.Add("missing", $"{name}: choose a charge type.", $"{at}.kind");
            }

            if (charge.Basis == ChargeBasis.Flat)
            {
                validation.Amount(charge.Amount, $"{at}.amount", $"{name}: the amount", required: must);
            }

            // What is missing is said of the line haul itself, not of its percentages too.
            if (
                !price.Ok
                && price.Problems[0].Code != ChargePrices.NoLineHaul
                && charge.Basis != ChargeBasis.Flat
                && (must || charge.Rate is not null || charge.ByClass?.ClassRatesId is not null)
            )
            {
                validation.Add(price.Problems[0].Code, $"{name}: {price.Problems[0].Message}.", $"{at}.{price.Problems[0].Field}");
            }

            var description = validation.Text(
                charge.Description,
                $"{at}.description",
                $"{name}: the description",
                200,
                required: must && charge.Kind == ChargeKind.Other
            );
            var authorization = ChargeAuthorization.Check(charge.Authorization, today, at, name, validation);
            if (price.Ok)
            {
                charges.Add(new BookedCharge(charge.Kind ?? ChargeKind.Other, description, price.Value.In(order.Currency), authorization));
            }
        }

        if (must && !order.Charges.Any(c => c.Kind == ChargeKind.LineHaul))
        {
            validation.Add("missing", "Line haul is required: enter what the customer pays.", "charges[0].amount");
        }

        if (charges.Sum(c => c.Amount.Amount) < 0)
        {
            validation.Add("discount", "The discounts are more than the charges: check the amounts.", "charges");
        }

        if (charges.Sum(c => c.Amount.Amount) > Money.Limit)
        {
            validation.Add("too.large", $"The charges total more than {Money.Usd(Money.Limit).Formatted}; check the amounts.", "charges");
        }

        return charges;
    }

    /// <summary>Freight that crosses the border is cleared by a customs broker (19 CFR 111; Canada: Customs Act, s. 9), who is asked for
    /// there.</summary>
    private static IEnumerable<Problem> Border(List<BookedStop> stops, List<BookedReference> references) =>
        stops.Select(s => s.Place is { } p ? Regions.Country(p.Region) : null).OfType<string>().Distinct().Count() > 1
        && references.All(r => r.Kind != ReferenceKind.CustomsBroker)
            ?
            [
                new Problem(
                    "customs.broker",
                    "This load crosses the border: add its customs broker to the references before it gets there.",
                    "references"
                ),
            ]
            : [];

    private static List<Problem> Warnings(List<BookedStop> stops, IRoads roads)
    {
        var warnings = new List<Problem>();
        if (stops.Count < 2 || stops.Any(s => s.At is null))
        {
            return warnings;
        }

        var plan = TripPlan.Build(roads, stops.Select(s => s.Planned()).ToList());
        for (var i = 0; i < stops.Count; i++)
        {
            var late = plan.Stops[i].Arrives - stops[i].At!.Value.Until;
            if (late > Duration.Zero)
            {
                warnings.Add(
                    new Problem(
                        "plan.late",
                        $"{stops[i].Place!.Town} would be {late.Format()} late by our estimate, even with a departure as soon as the first stop opens.",
                        $"stops[{i}].from"
                    )
                );
            }
        }

        return warnings;
    }
}
