using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Documents;

/// <summary>The trip sheet a driver takes along: stops, directions, miles by state; no money.</summary>
public static class TripSheetPdf
{
    /// <param name="own">The driver's leg, from 1, to show only its stops and transfers; null for the whole load.</param>
    /// <param name="loading">Where its freight goes in compartments or on decks, in sentences.</param>
    public static byte[] Draw(Business us, LoadSheet sheet, TripView trip, IReadOnlyList<string> loading, int? own = null)
    {
        var load = sheet.Load;
        var driven = own is { } seq ? sheet.Legs[seq - 1] : sheet.Leg;
        using var page = new PdfPage($"Trip sheet {load.Number}", $"{us.Name} · load {load.Number}");
        page.Line($"Trip sheet, load {load.Number}{(driven?.Trip is { } number ? $", trip {number}" : "")}", 19, bold: true);
        page.Line(
            $"{us.Name} · {us.Phone}{(driven is { Driver: { } driver } leg ? $" · {driver}{(leg.Codriver is { } other ? $" and {other}" : "")}, truck {leg.Truck}{(leg.Trailer is { } trailer ? $", trailer {trailer}" : "")}" : "")}",
            9,
            grey: true
        );
        page.Line(
            $"{load.Freight}{(load.WeightLb is { } lb ? $", {lb:#,##0} lb" : "")}{(load.TemperatureF is { } f ? $", hold {f} °F" : "")}",
            10
        );
        foreach (var where in loading)
        {
            page.Line(where, 10);
        }

        if (load.Cod is { } cod)
        {
            page.Line($"Collect {cod.Amount.Formatted} on delivery", 10, bold: true);
        }

        page.Space(6);
        page.Rule();
        Transfer(page, "Take over", own is { } begins ? load.TransferBefore(begins) : null);
        for (var i = 0; i < load.Stops.Count; i++)
        {
            var s = load.Stops[i];
            if (own is { } part && !load.StopsOfLeg(part).Contains(s))
            {
                continue;
            }

            page.Columns(
                10,
                ($"{i + 1} {(s.Kind == StopKind.Pickup ? "Pickup" : "Delivery")}", PdfPage.Left, 66, true, false),
                ($"{s.Place}, {s.Address}, {s.Town} {s.Region}", PdfPage.Left + 70, 290, false, false),
                (
                    s.From is { } from
                        ? $"{from:ddd MMM d, HH:mm}{(s.Until is { } until && until != from ? $" to {until:HH:mm}" : "")}"
                        : "",
                    PdfPage.Right,
                    140,
                    false,
                    true
                )
            );
            if (string.Join(" · ", new[] { s.Note, s.BookingNote }.Where(t => t is { Length: > 0 })) is { Length: > 0 } notes)
            {
                page.Columns(9, (notes, PdfPage.Left + 70, 420, false, false));
            }
        }

        Transfer(page, "Hand over", own is { } ends ? load.TransferAfter(ends) : null);
        if (sheet.DriverInstructions is { } words)
        {
            page.Space(6);
            page.Line(words);
        }

        page.Space(6);
        page.Rule();
        page.Line(
            $"{trip.LoadedMiles:#,##0} loaded miles{(trip.Empty is { } empty ? $", {empty.Miles:#,##0} empty from {empty.From}" : "")} · {trip.Minutes / 60} h {trip.Minutes % 60:00} driving{(trip.TollMiles > 0 ? $" · {trip.TollMiles:0} miles on toll roads" : "")}",
            11,
            bold: true
        );
        page.Line(string.Join("   ", trip.ByState.Select(s => $"{s.Key} {s.Value:0.0}")), 10);
        page.Space(6);
        page.Columns(
            9,
            ("miles", PdfPage.Left + 40, 40, false, true),
            ("road", PdfPage.Left + 52, 200, false, false),
            ("to", PdfPage.Left + 260, 240, false, false)
        );
        foreach (var step in trip.Steps)
        {
            page.Columns(
                10,
                ($"{step.Miles:0.0}", PdfPage.Left + 40, 40, false, true),
                (step.Road ?? "local roads", PdfPage.Left + 52, 200, step.Road is not null, false),
                (step.To ?? "", PdfPage.Left + 260, 240, false, false)
            );
        }

        return page.Save();
    }

    private static void Transfer(PdfPage page, string what, TransferRow? at)
    {
        if (at is not null && (at.PlannedAt ?? at.TakenAt) is { } when)
        {
            page.Columns(
                10,
                (what, PdfPage.Left, 66, true, false),
                (
                    $"{string.Join(", ", new[] { at.Place, at.Address }.OfType<string>())}, {at.Town} {at.Region}",
                    PdfPage.Left + 70,
                    290,
                    false,
                    false
                ),
                ($"{when.Format(WallClock.Zone(at.Zone) ?? NodaTime.DateTimeZone.Utc)}", PdfPage.Right, 140, false, true)
            );
        }
    }
}
