using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Papers;
using SteadyLark.Core.Trips;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Papers;

namespace SteadyLark.Server.Papers;

/// <summary>The bill of lading, and the receiver's signature on it, which makes it the POD.</summary>
public static class BolCommands
{
    /// <summary>A signature's picture is small.</summary>
    private const int MostBytes = 400_000;

    public static async Task<Outcome<PaperRow>> Sign(Work w, long loadId, SignRequest request)
    {
        var checks = new Checks();
        var name = checks.Text(request.Name, "name", "The receiver's name", 80, required: true);
        var png = Picture(request.Picture, checks);
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        if (!sheet.Load.Stops.Any(s => s.Kind == StopKind.Delivery && s.ArrivedAt is not null))
        {
            checks.Add("stop.order", "Say first that you are at the delivery.");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var business = (await Business.Read(w.Db))!;
        var stop = sheet.Load.Stops.Last(s => s.Kind == StopKind.Delivery && s.ArrivedAt is not null);
        var pdf = Draw(business, sheet, stop, name!, png!, w.Now);
        var id = await PaperStore.Add(w, loadId, PaperKind.Pod, $"pod-{sheet.Load.Number}.pdf", "application/pdf", pdf);
        await LoadWrites.Settle(w.Db, loadId);
        await Events.Add(w, "paper.added", "load", loadId, $"BOL of {sheet.Load.Number} signed by {name} in {stop.Town}: it is the POD now", loadId: loadId, driverId: sheet.Load.DriverId);
        return (await PaperStore.Get(w.Db, id))!;
    }

    /// <summary>The BOL of a load with the receiver's signature under it.</summary>
    public static byte[] Draw(Business us, LoadSheet sheet, StopRow at, string name, byte[] signature, Instant now)
    {
        var load = sheet.Load;
        using var page = new PdfPage($"BOL {load.Number}", $"{us.Name} · load {load.Number}");
        page.Line($"Bill of lading, load {load.Number}", 19, bold: true);
        page.Line($"{us.Name}, {us.Address} · USDOT {us.Usdot ?? "not given"}", 9, grey: true);
        page.Space(8);
        page.Rule();
        foreach (var stop in load.Stops)
        {
            page.Columns(10, (stop.Kind == StopKind.Pickup ? "From" : "To", PdfPage.Left, 50, true, false), ($"{stop.Place}, {stop.Address} {stop.Town} {stop.Region}", PdfPage.Left + 56, 440, false, false));
        }

        page.Rule();
        foreach (var f in sheet.Freight)
        {
            page.Line(RateConfirmation.FreightLine(f));
        }

        foreach (var r in sheet.References)
        {
            page.Line($"{r.Kind.Said()} {r.Value}", 10, grey: true);
        }

        foreach (var r in sheet.Reports.Where(r => r.Kind.OfFreight()))
        {
            page.Line($"{char.ToUpperInvariant(r.Kind.Said()[0])}{r.Kind.Said()[1..]}{(r.Pieces is { } n ? $", {n}" : "")}: {r.Words}", 10, bold: true);
        }

        page.Space(24);
        page.Line($"Received at {at.Place}, {at.Town} {at.Region}, {now.Said(WallClock.Zone(at.Zone) ?? DateTimeZone.Utc)}");
        page.Space(6);
        page.Picture(signature, 220, 70);
        page.Line(name, 13, bold: true);
        return page.Save();
    }

    private static byte[]? Picture(string? base64, Checks checks)
    {
        var bytes = new byte[MostBytes];
        var text = base64?.Split(',')[^1] ?? "";
        if (text.Length == 0)
        {
            checks.Add("missing", "The signature is missing: let the receiver sign in the box.", "picture");
        }
        else if (text.Length > MostBytes || !Convert.TryFromBase64String(text, bytes, out var size) || PaperIntake.MediaType(bytes.AsSpan(0, size)) is not { Ok: true, Value: "image/png" } || PdfMerge.Unreadable(bytes[..size], "image/png") is not null)
        {
            checks.Add("picture", "The signature is not a picture that can be read: sign again.", "picture");
        }
        else
        {
            return bytes[..size];
        }

        return null;
    }
}
