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
        var pdf = Draw(business, sheet, stop, name!, png!, w.Now);
        var id = await DocumentStore.Add(w, loadId, DocumentKind.Pod, $"pod-{sheet.Load.Number}.pdf", "application/pdf", pdf);
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

    /// <summary>The BOL of a load with the receiver's signature under it.</summary>
    public static byte[] Draw(Business us, LoadSheet sheet, StopRow at, string name, byte[] signature, Instant now)
    {
        var load = sheet.Load;
        using var page = new PdfPage($"BOL {load.Number}", $"{us.Name} · load {load.Number}");
        page.Logo(us.Logo);
        page.Line($"Bill of lading, load {load.Number}", 19, bold: true);
        page.Line($"{us.Name}, {us.Address}, {us.Numbers}", 9, grey: true);
        page.Space(8);
        page.Rule();
        foreach (var stop in load.Stops)
        {
            page.Columns(
                10,
                (stop.Kind == StopKind.Pickup ? "From" : "To", PdfPage.Left, 50, true, false),
                ($"{stop.Place}, {stop.Address} {stop.Town} {stop.Region}", PdfPage.Left + 56, 440, false, false)
            );
        }

        page.Rule();
        foreach (var f in sheet.Freight)
        {
            page.Line(RateConfirmation.FreightLine(f));
        }

        foreach (var r in sheet.References)
        {
            page.Line($"{r.Kind.Format()} {r.Value}", 10, grey: true);
        }

        foreach (var r in sheet.Reports.Where(r => r.Kind.OfFreight()))
        {
            page.Line(
                $"{char.ToUpperInvariant(r.Kind.Format()[0])}{r.Kind.Format()[1..]}{(r.Pieces is { } n ? $", {n}" : "")}: {r.Note}",
                10,
                bold: true
            );
        }

        page.Space(24);
        page.Line(
            $"Received at {at.Place}, {at.Town} {at.Region}, {now.Format(WallClock.Zone(at.Zone) ?? DateTimeZone.Utc)}, {(WallClock.Zone(at.Zone) ?? DateTimeZone.Utc).Format(now)}"
        );
        page.Space(6);
        page.Picture(signature, 220, 70);
        page.Line(name, 13, bold: true);
        return page.Save();
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
