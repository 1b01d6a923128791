using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Documents;

/// <summary>The rate confirmation: what a carrier hauls, when, and for how much.</summary>
public static class RateConfirmation
{
    /// <param name="leg">The leg's place among the load's, from 1.</param>
    public static string FileName(string loadNumber, int revision = 1, int leg = 1) =>
        $"rate-confirmation-{loadNumber}{(leg > 1 ? $"-leg{leg}" : "")}{(revision > 1 ? $"-rev{revision}" : "")}.pdf";

    /// <param name="leg">The carrier's leg, with what it is paid line by line.</param>
    /// <param name="detention">What it is paid for waiting.</param>
    /// <param name="remitTo">Whom we pay, when not the carrier itself: its factor.</param>
    public static byte[] Draw(
        Business us,
        LoadSheet sheet,
        CompanyRow carrier,
        LegRow leg,
        DetentionTerms detention,
        string? remitTo,
        Instant now,
        int revision = 1
    )
    {
        var load = sheet.Load;
        var zone = WallClock.Zone(us.Zone) ?? DateTimeZone.Utc;
        using var page = new PdfPage($"Rate confirmation {load.Number}", $"{us.Name} · load {load.Number}");
        page.Logo(us.Logo);
        page.Line($"Rate confirmation, load {load.Number}{(revision > 1 ? $", revision {revision}" : "")}", 19, bold: true);
        page.Line(
            $"{now.Format(zone)} · include our load number on your bill{(revision > 1 ? " · replaces the earlier confirmation" : "")}",
            9,
            grey: true
        );
        page.Space(10);
        page.Columns(
            10,
            ($"{us.Name}\n{us.Address}\n{us.Phone}\n{us.Email}\n{us.Numbers}", PdfPage.Left, 240, false, false),
            (
                $"Carrier: {carrier.Name}\nUSDOT {carrier.Carrier?.Usdot ?? "not on file"}\n{carrier.Phone}\n{carrier.Email}",
                320,
                238,
                false,
                false
            )
        );
        page.Space(8);
        page.Rule();
        References(page, sheet);
        var (from, to) = (load.TransferBefore(leg.Seq), load.TransferAfter(leg.Seq));
        Transfer(page, "Take over", from, from?.TakenAt ?? from?.PlannedAt);
        var own = load.StopsOfLeg(leg.Seq).Select(s => s.Id).ToHashSet();
        for (var i = 0; i < load.Stops.Count; i++)
        {
            if (!own.Contains(load.Stops[i].Id))
            {
                continue;
            }

            Stop(page, load.Stops[i], i + 1);
            if (ReferencesOf(sheet, i + 1) is { Length: > 0 } numbers)
            {
                page.Line(numbers, 10, bold: true);
            }
        }

        Transfer(page, "Hand over", to, to?.LeftAt ?? to?.PlannedAt);
        page.Rule();
        page.Line("Freight", 12, bold: true);
        foreach (var f in HazmatFirst(sheet.Freight))
        {
            page.Line(FreightLine(f));
        }

        page.Line(
            $"Equipment: {load.Equipment?.Format()}{(load.Features.Count > 0 ? $" with {string.Join(", ", load.Features)}" : "")} · {(load.Stops.Count > own.Count ? leg.Miles : load.Miles)} miles{(load.WeightLb is { } lb ? $" · {lb:#,##0} lb total" : "")}"
        );
        if (load.Cod is { } cod && to is null)
        {
            page.Line($"Collect {cod.Amount.Formatted} on delivery", bold: true);
        }

        if (sheet.CarrierInstructions is { } instructions)
        {
            page.Space(6);
            page.Line(instructions);
        }

        page.Space(8);
        page.Rule();
        var charges = leg.Charges;
        var pay = Money.Sum(charges.Select(c => c.Amount));
        foreach (var c in charges.Count > 1 ? charges : [])
        {
            page.Columns(
                10,
                (c.Kind.Format() + (c.Description is null ? "" : $", {c.Description}"), PdfPage.Left, 340, false, false),
                (c.Amount.ToString(), PdfPage.Right, 160, false, true)
            );
        }

        page.Columns(
            13,
            (charges.Count > 1 ? "Total, all inclusive" : "Agreed rate, all inclusive", PdfPage.Left, 300, true, false),
            ($"{pay.Currency} {pay}", PdfPage.Right, 200, true, true)
        );
        page.Line($"Payment terms: {Terms.Format(carrier.PayDays)} from your invoice with the signed POD.", 10, grey: true);
        page.Line($"We pay: {remitTo ?? carrier.Name}. Tell us by phone and in writing before this changes.", 10, grey: true);
        page.Line(detention.Format(), 10, grey: true);
        page.Space(12);
        page.Line("Terms", 12, bold: true);
        page.Line(
            "Carrier must keep its operating authority and its liability and cargo insurance in force until delivery, must not re-broker the load, and must report any delay, shortage or damage immediately. Accessorials that are not on this confirmation are paid only if approved in writing.",
            9
        );
        page.Space(14);
        page.Line("Accept through the link in our email, or sign here: ______________________________", 10);
        return page.Save();
    }

    /// <summary>The numbers a driver is asked for at the gate.</summary>
    private static void References(PdfPage page, LoadSheet sheet)
    {
        var said = string.Join(
            " · ",
            new[] { sheet.Load.Reference is { } own ? $"Reference {own}" : "", ReferencesOf(sheet, null) }.Where(t => t.Length > 0)
        );
        if (said.Length > 0)
        {
            page.Line(said, 10, bold: true);
            page.Space(4);
        }
    }

    /// <summary>The references of one stop, from 1, or of the whole load, in one line.</summary>
    internal static string ReferencesOf(LoadSheet sheet, int? stop) =>
        string.Join(
            " · ",
            sheet
                .References.Where(r => r.Stop == stop && r.Kind != ReferenceKind.Seal)
                .GroupBy(r => r.Kind)
                .Select(g => $"{g.Key.Format()} {string.Join(", ", g.Select(r => r.Value))}")
        );

    /// <summary>Hazardous materials before other freight (49 CFR 172.201(a)(1)).</summary>
    internal static IEnumerable<FreightRow> HazmatFirst(IReadOnlyList<FreightRow> freight) => freight.OrderByDescending(f => f.Hazmat);

    internal static string FreightLine(FreightRow f) =>
        string.Join(
            " · ",
            new[]
            {
                f.Description,
                f.Pieces is { } p && f.Vehicle is null ? $"{p} pieces" : null,
                f.Bulk is { } bulk
                    ? $"{bulk.Gallons:#,##0.#} gal{(f.Description == bulk.Product.Capitalized() ? "" : $" {bulk.Product}")}{(bulk.OwnCompartments ? ", own compartments" : "")}"
                    : null,
                f.Pallets is { } q ? $"{q} pallets" : null,
                f.WeightLb is { } w ? $"{w:#,##0} lb" : null,
                f.TemperatureF is { } t ? $"{t} °F" : null,
                f.LengthIn is { } l ? $"{l} × {f.WidthIn} × {f.HeightIn} in" : null,
                f.RatedClass is { } rated ? $"class {rated:0.#}" : null,
                f.Hazmat ? $"HAZMAT {f.AsHazmat.Describe()}".TrimEnd() : null,
            }.OfType<string>()
        );

    internal static string Window(StopRow s) =>
        s.From is not { } from ? ""
        : s.Until is { } until && until != from
            ? (from.Date == until.Date ? $"{from.Format()} to {until:HH:mm}" : $"{from.Format()} to {until.Format()}")
        : from.Format();

    /// <summary>Where freight changes trucks.</summary>
    private static void Transfer(PdfPage page, string what, TransferRow? at, Instant? when)
    {
        if (at is null || when is null)
        {
            return;
        }

        page.Columns(
            10,
            (what, PdfPage.Left, 90, true, false),
            ($"{at.Place}\n{string.Join(", ", new[] { at.Address, $"{at.Town} {at.Region}" }.OfType<string>())}", 150, 210, false, false),
            (when.Value.Format(WallClock.Zone(at.Zone) ?? DateTimeZone.Utc), 380, 178, false, false)
        );
        page.Space(4);
    }

    private static void Stop(PdfPage page, StopRow stop, int number)
    {
        page.Columns(
            10,
            ($"{number}. {(stop.Kind == StopKind.Pickup ? "Pickup" : "Delivery")}", PdfPage.Left, 90, true, false),
            (
                $"{stop.Place}\n{string.Join(", ", new[] { stop.Address, $"{stop.Town} {stop.Region}" }.OfType<string>())}{(stop.Note is null ? "" : "\n" + stop.Note)}",
                150,
                210,
                false,
                false
            ),
            (
                $"{Window(stop)}\n{(stop is { Zone: { } zone, FromAt: { } at } ? DateTimeZoneProviders.Tzdb[zone].Format(at) : "")}",
                380,
                178,
                false,
                false
            )
        );
        page.Space(4);
    }
}
