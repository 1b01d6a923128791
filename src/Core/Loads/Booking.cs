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
    public static Outcome<BookedLoad> Decide(LoadOrder order, IReadOnlyDictionary<long, KnownPlace> places, bool customerKnown, LocalDate today)
    {
        var checks = new Checks();
        var must = !order.Draft;
        var reference = checks.Text(order.Reference, "reference", "The customer's reference", 60);
        var instructions = checks.Text(order.Instructions, "instructions", "The instructions", 4000);

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

        foreach (var (count, field, name) in new[] { (order.Stops.Count, "stops", "stops"), (order.Freight.Count, "freight", "freight lines"), (order.Charges.Count, "charges", "charges") })
        {
            if (count > MostLines)
            {
                checks.Add("too.many", $"A load takes at most {MostLines} {name}.", field);
            }
        }

        if (!checks.Ok && (order.Stops.Count > MostLines || order.Freight.Count > MostLines || order.Charges.Count > MostLines))
        {
            return checks.Problems.ToList();
        }

        var stops = order.Stops.Select((s, i) => Stop(s, i, places, must, today, checks)).ToList();
        StopOrder(stops, must, checks);
        var freight = Freight(order, must, checks);
        var charges = Charges(order, must, checks);
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        int? miles = stops.Count >= 2 && stops.All(s => s.Place is not null) ? RoadEstimate.Miles(stops.Select(s => s.Place!.Point).ToList()) : null;
        return new BookedLoad(order.CustomerId, reference, order.Equipment, stops, freight, charges, instructions, order.Draft, miles, Warnings(stops));
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

        return new BookedStop(order.Kind ?? StopKind.Pickup, place, window, span, note);
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
            lines.Add(new BookedFreight(description ?? "", line.Pieces, line.Pallets, line.WeightLb, line.TemperatureF));
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

    private static List<BookedCharge> Charges(LoadOrder order, bool must, Checks checks)
    {
        var charges = new List<BookedCharge>();
        for (var i = 0; i < order.Charges.Count; i++)
        {
            var charge = order.Charges[i];
            var at = $"charges[{i}]";
            var name = charge.Kind?.Said() ?? $"Charge {i + 1}";
            if (charge.Kind is null)
            {
                checks.Add("missing", $"{name}: say what it is for.", $"{at}.kind");
            }

            checks.Amount(charge.Amount, $"{at}.amount", $"{name}: the amount", required: must);
            var description = checks.Text(charge.Description, $"{at}.description", $"{name}: the words", 200, required: must && charge.Kind == ChargeKind.Other);
            charges.Add(new BookedCharge(charge.Kind ?? ChargeKind.Other, description, Money.Usd(charge.Amount ?? 0)));
        }

        if (must && !order.Charges.Any(c => c.Kind == ChargeKind.LineHaul))
        {
            checks.Add("missing", "The line haul is missing: write what the customer pays.", "charges[0].amount");
        }

        return charges;
    }

    private static List<Problem> Warnings(List<BookedStop> stops)
    {
        var warnings = new List<Problem>();
        if (stops.Count < 2 || stops.Any(s => s.At is null))
        {
            return warnings;
        }

        var plan = TripPlan.Lay(stops.Select(s => new PlannedStop(0, s.Kind, s.Place!.Point, s.At!.Value)).ToList());
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
