using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Loads;

/// <summary>Turns what was typed into a load that can be kept, or says what is missing.</summary>
public static class Booking
{
    /// <summary>Stops, freight lines and charges a load may have at most.</summary>
    public const int MostLines = 60;

    /// <param name="order">As typed.</param>
    /// <param name="places">Every place that the order names, by its key.</param>
    /// <param name="customerKnown">Whether the order's customer exists and may be booked for.</param>
    /// <param name="today">In the business's zone.</param>
    /// <param name="own">The business's own fields.</param>
    public static Outcome<BookedLoad> Decide(IRoads roads, LoadOrder order, IReadOnlyDictionary<long, KnownPlace> places, bool customerKnown, LocalDate today, IReadOnlyList<OwnField>? own = null)
    {
        var checks = new Checks();
        var must = !order.Draft;
        var reference = checks.Text(order.Reference, "reference", "The customer's reference", 60);
        var number = Number(order.Number, checks);
        var forDriver = checks.Text(order.DriverInstructions, "driverInstructions", "The instructions for the driver", 4000);
        var forCarrier = checks.Text(order.CarrierInstructions, "carrierInstructions", "The instructions for the carrier", 4000);

        if (order.CustomerId is null)
        {
            if (must)
            {
                checks.Add("missing", "The customer is missing: choose who orders the load.", "customerId");
            }
        }
        else if (!customerKnown)
        {
            checks.Add("unknown", "This customer is not in the address book: choose another or make a new one.", "customerId");
        }

        if (must && order.Equipment is null)
        {
            checks.Add("missing", "The equipment is missing: choose the trailer it needs.", "equipment");
        }

        foreach (var (count, field, name) in new[] { (order.Stops.Count, "stops", "stops"), (order.Freight.Count, "freight", "freight lines"), (order.Charges.Count, "charges", "charges"), (order.References.Count, "references", "references") })
        {
            if (count > MostLines)
            {
                checks.Add("too.many", $"A load takes at most {MostLines} {name}.", field);
            }
        }

        if (new[] { order.Stops.Count, order.Freight.Count, order.Charges.Count, order.References.Count }.Max() > MostLines)
        {
            return checks.Problems.ToList();
        }

        var stops = order.Stops.Select((s, i) => Stop(s, i, places, must, today, checks)).ToList();
        StopOrder(stops, must, checks);
        var freight = Freight(order, must, checks);
        int? miles = null;
        if (stops.Count >= 2 && stops.All(s => s.Place is not null))
        {
            for (var i = 1; i < stops.Count; i++)
            {
                stops[i] = OnRoad(roads, stops[i - 1].Place!.Point, stops[i]);
            }

            miles = Miles(stops);
        }

        var charges = Charges(order, must, miles, checks);
        var references = References(order, checks);
        var values = Own(order, own ?? [], must, checks);
        return checks.Ok
            ? new BookedLoad(order.CustomerId, number, reference, order.Equipment, stops, freight, charges, references, values, forDriver, forCarrier, order.Draft, miles, Warnings(stops, roads))
            : checks.Problems.ToList();
    }

    /// <summary>A stop to be added at the end of a load that is under way; its fields are named without an index.</summary>
    public static Outcome<BookedStop> Added(StopOrder order, IReadOnlyDictionary<long, KnownPlace> places, LocalDate today, Instant now)
    {
        var checks = new Checks();
        var stop = Stop(order, 1, places, must: true, today, checks);
        if (checks.Ok && stop.At!.Value.Until < now)
        {
            checks.Add("time.past", "This time has passed: a stop is added for a time ahead.", "stops[1].from");
        }

        return checks.Ok ? stop : checks.Problems.Select(p => p with { Field = p.Field?.Replace("stops[1].", "", StringComparison.Ordinal), Message = p.Message.Replace("Stop 2", "The stop", StringComparison.Ordinal) }).ToList();
    }

    /// <summary>A stop with the miles that the roads make from the one before.</summary>
    public static BookedStop OnRoad(IRoads roads, GeoPoint before, BookedStop stop) =>
        stop with { RoadMiles = roads.Stretch(before, stop.Way.Via.Select(v => v.Point).ToList(), stop.Place!.Point, null).Miles };

    /// <summary>All miles of stops in order, those set by hand as they were set; whole miles.</summary>
    private static int Miles(List<BookedStop> stops) => (int)Math.Round(stops.Skip(1).Sum(s => s.Way.Miles ?? s.RoadMiles ?? 0), MidpointRounding.AwayFromZero);

    private static string? Number(string? typed, Checks checks)
    {
        var number = checks.Text(typed, "number", "The load's number", 20);
        if (number is not null && !number.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '/' or '.'))
        {
            checks.Add("number", "The load's number has letters, digits, hyphens, points and slashes only.", "number");
        }

        return number;
    }

    private static List<BookedReference> References(LoadOrder order, Checks checks)
    {
        var references = new List<BookedReference>();
        for (var i = 0; i < order.References.Count; i++)
        {
            var r = order.References[i];
            if (r.Kind is null)
            {
                checks.Add("missing", $"Reference {i + 1}: say what it is.", $"references[{i}].kind");
            }

            // An empty line is no reference.
            if (checks.Text(r.Value, $"references[{i}].value", $"Reference {i + 1}", 60) is { } value)
            {
                references.Add(new BookedReference(r.Kind ?? ReferenceKind.Other, value));
            }
        }

        return references;
    }

    private static Dictionary<long, string> Own(LoadOrder order, IReadOnlyList<OwnField> fields, bool must, Checks checks)
    {
        var values = new Dictionary<long, string>();
        foreach (var field in fields)
        {
            if (field.Read(order.Own.GetValueOrDefault(field.Id), $"own[{field.Id}]", must, checks) is { } value)
            {
                values[field.Id] = value;
            }
        }

        foreach (var unknown in order.Own.Keys.Except(fields.Select(f => f.Id)))
        {
            checks.Add("unknown", "This field is not one of ours any more: load the page again.", $"own[{unknown}]");
        }

        return values;
    }

    private static BookedStop Stop(StopOrder order, int index, IReadOnlyDictionary<long, KnownPlace> places, bool must, LocalDate today, Checks checks)
    {
        var at = $"stops[{index}]";
        var name = $"Stop {index + 1}";
        if (order.Kind is null)
        {
            checks.Add("missing", $"{name}: say whether it is a pickup or a delivery.", $"{at}.kind");
        }

        KnownPlace? place = null;
        if (order.PlaceId is null)
        {
            if (must)
            {
                checks.Add("missing", $"{name}: the place is missing.", $"{at}.placeId");
            }
        }
        else if (!places.TryGetValue(order.PlaceId.Value, out place))
        {
            checks.Add("unknown", $"{name}: this place is not in the address book.", $"{at}.placeId");
        }

        var note = checks.Text(order.Note, $"{at}.note", $"{name}: the note", 1000);
        TimeWindow? window = null;
        Span? span = null;
        if (order.From is null)
        {
            if (must || order.Until is not null)
            {
                checks.Add("missing", $"{name}: the time is missing; write an appointment such as tue 14:30.", $"{at}.from");
            }
        }
        else
        {
            var until = order.Until ?? order.From.Value;
            window = new TimeWindow(order.From.Value, until);
            var before = checks.Problems.Count;
            checks.Date(order.From.Value.Date, today, $"{at}.from", $"{name}: the date");
            checks.Date(until.Date, today, $"{at}.until", $"{name}: the date");
            var near = checks.Problems.Count == before;
            if (until < order.From)
            {
                checks.Add("order", $"{name}: the window ends before it begins.", $"{at}.until");
            }
            else if (place is not null && near)
            {
                span = Resolve(window.Value, place, at, checks);
            }
        }

        if (index == 0 && order.Way is { } way && way != ShapedWay.None)
        {
            checks.Add("way", "The first stop has no way before it.", $"{at}.way");
        }

        return new BookedStop(order.Kind ?? StopKind.Pickup, place, window, span, note, Way(order.Way ?? ShapedWay.None, $"{at}.way", name, checks));
    }

    /// <summary>Most miles of one way: farther apart than any two places on our roads.</summary>
    private const int MostMiles = 6_000;

    /// <summary>Most points one way is led over.</summary>
    private const int MostShaping = 20;

    /// <summary>Checks what a person decided on the way to a stop.</summary>
    public static ShapedWay Way(ShapedWay way, string at, string name, Checks checks)
    {
        var before = checks.Problems.Count;
        foreach (var via in way.Via)
        {
            checks.Text(via.Name, At("via"), $"{name}: the name of a point", 80);
        }

        var why = checks.Text(way.Why, At("milesWhy"), $"{name}: why the miles are set", 200, required: way.Miles is not null);
        if (way.Miles is < 0 or > MostMiles)
        {
            checks.Add("out.of.range", $"{name}: miles set by hand are between 0 and {MostMiles:#,##0}.", At("miles"));
        }

        if (way.Via.Count > MostShaping)
        {
            checks.Add("too.many", $"{name}: at most {MostShaping} points to lead the way over.", At("via"));
        }

        for (var i = 0; i < way.Via.Count; i++)
        {
            if (way.Via[i].Point is not { Latitude: >= -90 and <= 90, Longitude: >= -180 and <= 180 })
            {
                checks.Add("out.of.range", $"{name}: point {i + 1} of the way has latitude and longitude in degrees.", At($"via[{i}]"));
            }
        }

        return checks.Problems.Count == before ? new ShapedWay(way.Miles, way.Miles is null ? null : why, way.Via) : ShapedWay.None;

        string At(string field) => at.Length == 0 ? field : $"{at}.{field}";
    }

    private static Span? Resolve(TimeWindow window, KnownPlace place, string at, Checks checks)
    {
        var zone = WallClock.Zone(place.Zone) ?? DateTimeZone.Utc;
        var from = WallClock.Resolve(window.From, zone, $"{at}.from");
        var until = WallClock.Resolve(window.Until, zone, $"{at}.until");
        checks.AddRange(from.Problems);
        if (!window.IsAppointment)
        {
            checks.AddRange(until.Problems);
        }

        return from.Ok && until.Ok ? new Span(from.Value, until.Value) : null;
    }

    private static void StopOrder(List<BookedStop> stops, bool must, Checks checks)
    {
        if (must)
        {
            if (stops.Count == 0 || stops[0].Kind != StopKind.Pickup)
            {
                checks.Add("load.pickup.first", "A load begins with a pickup: make the first stop one.", stops.Count == 0 ? "stops" : "stops[0].kind");
            }

            if (stops.Count < 2 || stops[^1].Kind != StopKind.Delivery)
            {
                checks.Add("load.delivery.last", "A load ends with a delivery: add one.", stops.Count < 2 ? "stops" : $"stops[{stops.Count - 1}].kind");
            }
        }

        for (var i = 1; i < stops.Count; i++)
        {
            if (stops[i - 1].At is { } before && stops[i].At is { } after && after.Until < before.From)
            {
                checks.Add("order", $"Stop {i + 1} closes before stop {i} opens: change a time or the order of the stops.", $"stops[{i}].from");
            }
        }
    }

    private static List<BookedFreight> Freight(LoadOrder order, bool must, Checks checks)
    {
        var lines = new List<BookedFreight>();
        if (must && order.Freight.Count == 0)
        {
            checks.Add("missing", "The freight is missing: write what it is.", "freight[0].description");
        }

        for (var i = 0; i < order.Freight.Count; i++)
        {
            var line = order.Freight[i];
            var at = $"freight[{i}]";
            var description = checks.Text(line.Description, $"{at}.description", $"Freight line {i + 1}: what it is", 200, required: must);
            Bounded(line.Pieces, 1, 1_000_000, $"{at}.pieces", "pieces");
            Bounded(line.Pallets, 1, 1_000, $"{at}.pallets", "pallets");
            Bounded(line.WeightLb, 1, 400_000, $"{at}.weightLb", "the weight in pounds");
            Bounded(line.TemperatureF, -60, 160, $"{at}.temperatureF", "the temperature in °F");
            Bounded(line.LengthIn, 1, 2_000, $"{at}.lengthIn", "the length in inches");
            Bounded(line.WidthIn, 1, 600, $"{at}.widthIn", "the width in inches");
            Bounded(line.HeightIn, 1, 600, $"{at}.heightIn", "the height in inches");
            lines.Add(new BookedFreight(
                description ?? "", line.Pieces, line.Pallets, line.WeightLb, line.TemperatureF, line.LengthIn, line.WidthIn, line.HeightIn, line.Hazmat, UnNumber(line, $"{at}.unNumber", checks)));
        }

        return lines;

        void Bounded(int? value, int least, int most, string field, string name)
        {
            if (value < least || value > most)
            {
                checks.Add("out.of.range", $"Freight: {name} must be between {least} and {most}.", field);
            }
        }
    }

    private static string? UnNumber(FreightOrder line, string field, Checks checks)
    {
        var number = checks.Text(line.UnNumber, field, "The identification number", 8)?.Replace(" ", "", StringComparison.Ordinal).ToUpperInvariant();
        if (number is null)
        {
            return null;
        }

        if (number.Length == 4 && number.All(char.IsAsciiDigit))
        {
            number = "UN" + number;
        }

        if (number.Length != 6 || !(number.StartsWith("UN", StringComparison.Ordinal) || number.StartsWith("NA", StringComparison.Ordinal)) || !number[2..].All(char.IsAsciiDigit))
        {
            checks.Add("un.number", "The identification number is UN or NA and four digits, such as UN1993.", field);
        }
        else if (!line.Hazmat)
        {
            checks.Add("un.number", "An identification number belongs to hazardous material: mark the line as such.", field);
        }

        return number;
    }

    private static List<BookedCharge> Charges(LoadOrder order, bool must, int? miles, Checks checks)
    {
        var weights = order.Freight.Select(f => f.WeightLb).OfType<int>().Where(w => w is > 0 and <= 400_000).ToList();
        int? weight = weights.Count > 0 ? weights.Sum() : null;
        var priced = new BookedCharge?[order.Charges.Count];
        // Line hauls first: a percentage is of them.
        foreach (var i in Enumerable.Range(0, order.Charges.Count).OrderBy(i => order.Charges[i].Kind != ChargeKind.LineHaul))
        {
            var charge = order.Charges[i];
            var at = $"charges[{i}]";
            var name = charge.Kind?.Said() ?? $"Charge {i + 1}";
            if (charge.Kind is null)
            {
                checks.Add("missing", $"{name}: say what it is for.", $"{at}.kind");
            }

            if (charge.Basis == ChargeBasis.Flat)
            {
                checks.Amount(charge.Amount, $"{at}.amount", $"{name}: the amount", required: must);
            }

            var lineHaul = priced.OfType<BookedCharge>().Where(c => c.Kind == ChargeKind.LineHaul).Select(c => c.Amount.Amount).ToList();
            var price = ChargePrices.Price(
                charge.Basis, charge.Amount, charge.Rate, miles, weight, charge.Kind != ChargeKind.LineHaul && lineHaul.Count > 0 ? Money.Usd(lineHaul.Sum()) : null);
            if (!price.Ok && charge.Basis != ChargeBasis.Flat && (must || charge.Rate is not null))
            {
                checks.Add(price.Problems[0].Code, $"{name}: {price.Problems[0].Message}.", $"{at}.{price.Problems[0].Field}");
            }

            var description = checks.Text(charge.Description, $"{at}.description", $"{name}: the words", 200, required: must && charge.Kind == ChargeKind.Other);
            priced[i] = price.Ok ? new BookedCharge(charge.Kind ?? ChargeKind.Other, description, price.Value) : null;
        }

        if (must && !order.Charges.Any(c => c.Kind == ChargeKind.LineHaul))
        {
            checks.Add("missing", "The line haul is missing: write what the customer pays.", "charges[0].amount");
        }

        var charges = priced.OfType<BookedCharge>().ToList();
        if (charges.Sum(c => c.Amount.Amount) > Money.Most)
        {
            checks.Add("too.large", $"The charges come to more than {Money.Usd(Money.Most).Said}; look at the figures again.", "charges");
        }

        return charges;
    }

    private static List<Problem> Warnings(List<BookedStop> stops, IRoads roads)
    {
        var warnings = new List<Problem>();
        if (stops.Count < 2 || stops.Any(s => s.At is null))
        {
            return warnings;
        }

        var plan = TripPlan.Lay(roads, stops.Select(s => s.Planned()).ToList());
        for (var i = 0; i < stops.Count; i++)
        {
            var late = plan.Stops[i].Arrives - stops[i].At!.Value.Until;
            if (late > Duration.Zero)
            {
                warnings.Add(new Problem(
                    "plan.late",
                    $"{stops[i].Place!.Town} would be {late.Said()} late by our estimate, even leaving the first stop when it opens.",
                    $"stops[{i}].from"));
            }
        }

        return warnings;
    }
}
