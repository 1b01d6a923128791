using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Documents;

/// <summary>The bill of lading, and the receiver's signature, which makes it the POD.</summary>
public static class BolCommands
{
    /// <summary>A signature image is small.</summary>
    private const int MaxBytes = 400_000;

    public static async Task<Outcome<DocumentRow>> Sign(CommandContext w, long loadId, SignRequest request)
    {
        var validation = new Validation();
        var name = validation.Text(request.Name, "name", "The receiver name", 80, required: true);
        var png = Picture(request.Picture, validation);
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (!sheet.Load.Stops.Any(s => s.Kind == StopKind.Delivery && s.ArrivedAt is not null))
        {
            validation.Add("stop.order", "Record your arrival at the delivery first.");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var business = (await Business.ReadForPrint(w.Db))!;
        var stop = sheet.Load.Stops.Last(s => s.Kind == StopKind.Delivery && s.ArrivedAt is not null);
        var pdf = Draw(business, sheet, new Received(stop, name!, png!, w.Now));
        var id = await DocumentStore.Add(
            w,
            loadId,
            DocumentKind.Pod,
            $"pod-{sheet.Load.Number}.pdf",
            "application/pdf",
            pdf,
            stopId: Pods.Where(DocumentKind.Pod, sheet.Load.DeliveriesArrived())
        );
        await LoadWrites.Settle(w, loadId);
        w.Record(
            EventKinds.DocumentAdded,
            loadId,
            $"BOL for {sheet.Load.Number} signed by {name} in {stop.Town}: it is now the POD",
            loadId: loadId,
            driverId: sheet.Load.DriverId
        );
        return (await DocumentStore.Get(w.Db, id))!;
    }

    /// <summary>Who received the freight, where and when, with the signature as a PNG.</summary>
    public sealed record Received(StopRow At, string Name, byte[] Signature, Instant When);

    /// <summary>The BOL of a load, with a line for each of shipper, carrier and consignee; signed by the consignee it is the POD.</summary>
    public static byte[] Draw(Business us, LoadSheet sheet, Received? received)
    {
        var load = sheet.Load;
        using var page = new PdfPage($"BOL {load.Number}", $"{us.Name} · load {load.Number}");
        page.Logo(us.Logo);
        page.Line($"Bill of lading, load {load.Number}", 19, bold: true);
        page.Line($"{us.Name}, {us.Address}, {us.Numbers}", 9, grey: true);
        page.Space(8);
        page.Rule();
        for (var i = 0; i < load.Stops.Count; i++)
        {
            var stop = load.Stops[i];
            var numbers = RateConfirmation.ReferencesOf(sheet, i + 1);
            page.Columns(
                10,
                (stop.Kind == StopKind.Pickup ? "From" : "To", PdfPage.Left, 50, true, false),
                (
                    $"{stop.Place}, {stop.Address} {stop.Town} {stop.Region}{(numbers.Length > 0 ? $"\n{numbers}" : "")}",
                    PdfPage.Left + 56,
                    440,
                    false,
                    false
                )
            );
        }

        if (load.FreightTerms is { } terms)
        {
            page.Columns(
                10,
                ("Freight", PdfPage.Left, 50, true, false),
                (
                    terms switch
                    {
                        FreightTerms.Prepaid => "prepaid",
                        FreightTerms.Collect => "collect",
                        _ => $"third party, bill to {load.BillTo}",
                    },
                    PdfPage.Left + 56,
                    440,
                    false,
                    false
                )
            );
        }

        if (load.Cod is { } cod)
        {
            page.Columns(
                10,
                ("COD", PdfPage.Left, 50, true, false),
                ($"Collect {cod.Amount.Formatted} on delivery", PdfPage.Left + 56, 440, true, false)
            );
        }

        page.Rule();
        foreach (var f in RateConfirmation.HazmatFirst(sheet.Freight))
        {
            page.Line(RateConfirmation.FreightLine(f));
        }

        foreach (var r in sheet.References.Where(r => r.Stop is null))
        {
            page.Line($"{r.Kind.Format()} {r.Value}", 10, grey: true);
        }

        Hazmat(page, sheet);
        foreach (var r in sheet.Reports.Where(r => r.Kind.OfFreight()))
        {
            page.Line($"{r.Kind.Format().Capitalized()}{(r.Pieces is { } n ? $", {n}" : "")}: {r.Note}", 10, bold: true);
        }

        page.Space(18);
        var (driver, truck) = sheet.Leg switch
        {
            { Dispatch: { } d } leg => ($"{leg.Carrier}, {d.Driver}", d.Truck),
            { Driver: { } own } leg => ($"{us.Name}, {own}", leg.Truck),
            { } leg => (leg.Carrier, null),
            null => (null, (string?)null),
        };
        SignHere(page, "Shipper", load.Stops.Count > 0 ? load.Stops[0].Place : null);
        SignHere(page, "Carrier", driver is null ? null : $"{driver}{(truck is null ? "" : $", truck {truck}")}");
        if (received is not { } r2)
        {
            SignHere(page, "Consignee", load.Stops.Count > 0 ? load.Stops[^1].Place : null);
            return page.Save();
        }

        var zone = WallClock.Zone(r2.At.Zone) ?? DateTimeZone.Utc;
        page.Line($"Received at {r2.At.Place}, {r2.At.Town} {r2.At.Region}, {r2.When.Format(zone)}, {zone.Format(r2.When)}");
        page.Space(6);
        page.Picture(r2.Signature, 220, 70);
        page.Line(r2.Name, 13, bold: true);
        return page.Save();
    }

    private static void SignHere(PdfPage page, string who, string? name)
    {
        page.Columns(
            10,
            (who, PdfPage.Left, 70, true, false),
            ($"{name}", PdfPage.Left + 76, 220, false, false),
            ("signed ____________________ date ________", PdfPage.Right, 240, false, true)
        );
        page.Space(10);
    }

    /// <summary>The emergency number and the shipper's certification of a shipping paper (49 CFR 172.604, 172.204(a)(1)).</summary>
    private static void Hazmat(PdfPage page, LoadSheet sheet)
    {
        var hazmat = sheet.Freight.Where(f => f.Hazmat).ToList();
        if (hazmat.Count == 0)
        {
            return;
        }

        page.Space(4);
        foreach (var phone in hazmat.Select(f => f.EmergencyPhone).OfType<string>().Distinct())
        {
            page.Line($"Emergency response: {phone}", 10, bold: true);
        }

        page.Line(
            "This is to certify that the above-named materials are properly classified, described, packaged, marked, and labeled, and are in proper condition for transportation according to the applicable regulations of the Department of Transportation.",
            9
        );
    }

    private static byte[]? Picture(string? base64, Validation validation)
    {
        var bytes = new byte[MaxBytes];
        var text = base64?.Split(',')[^1] ?? "";
        if (text.Length == 0)
        {
            validation.Add("missing", "The signature is missing: have the receiver sign in the box.", "picture");
        }
        else if (
            text.Length > MaxBytes
            || !Convert.TryFromBase64String(text, bytes, out var size)
            || DocumentIntake.MediaType(bytes.AsSpan(0, size)) is not { Ok: true, Value: "image/png" }
            || FileLimits.Exceeded(bytes[..size], "image/png", FileLimits.MaxSignaturePixels) is not null
            || PdfMerge.Unreadable(bytes[..size], "image/png") is not null
        )
        {
            validation.Add("picture", "The signature image cannot be read: sign again.", "picture");
        }
        else
        {
            return bytes[..size];
        }

        return null;
    }
}
