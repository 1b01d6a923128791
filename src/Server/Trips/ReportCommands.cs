using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Claims;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Claims;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Trips;

/// <param name="StopId">The stop it is about; the one that fits when omitted.</param>
/// <param name="ExpectedAt">For a delay or a breakdown: the new ETA.</param>
public sealed record ReportRequest(ReportKind? Kind, long? StopId, string? Note, Instant? ExpectedAt, int? Pieces);

/// <param name="Id">The report's key, for undoing it.</param>
/// <param name="Claim">The number of the claim it opened, or null.</param>
public sealed record ReportAnswer(long Id, long LoadId, string Number, string Summary, string? Claim);

/// <summary>Exceptions in transit, and their consequences.</summary>
public static class ReportCommands
{
    /// <summary>Records a report about a locked load. Refused, short or damaged freight opens a claim.</summary>
    public static async Task<Outcome<ReportAnswer>> Record(CommandContext w, long loadId, ReportRequest request)
    {
        var load = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        if (request.Kind is not ReportKind.Note and not null && load.Work().ReportRefusal is { } refused)
        {
            return refused;
        }

        var known = load.Stops.All(s => s.CanBePlanned) ? load.Stops : [];
        var decided = Reports.Decide(
            known.Select(s => s.Planned()).ToList(),
            known.Select(s => s.Town ?? "").ToList(),
            new ReportOrder(request.Kind, request.StopId, request.Note, request.ExpectedAt, request.Pieces),
            load.Who is not null,
            w.Now
        );
        if (!decided.Ok)
        {
            return decided.Problems;
        }

        var report = decided.Value;
        var id = await ReportStore.Add(w, loadId, report);
        var claim = report.Claim is { } what ? await ClaimCommands.Add(w, loadId, ClaimKinds.Of(report.Kind)!.Value, what, id) : null;

        if (load.TripId is { } trip)
        {
            await CoverStore.SettleTrip(w.Db, trip);
        }

        await LoadWrites.Settle(w, loadId);
        var stop = load.Stops.FirstOrDefault(s => s.Id == report.StopId);
        var summary = Say(load, stop, report, w.Zone);
        w.Record(EventKinds.Of(report.Kind), loadId, summary, loadId: loadId, driverId: load.DriverId);
        return new ReportAnswer(id, loadId, load.Number, summary, claim?.Number);
    }

    /// <summary>Undoes a report, with the claim it opened.</summary>
    public static async Task<Outcome<ReportAnswer>> Undo(CommandContext w, long loadId, long reportId)
    {
        if (await ReportStore.Get(w.Db, loadId, reportId) is not { } report)
        {
            return Problem.Missing("This report");
        }

        var load = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        if (
            report.Kind == ReportKind.Refused
            && load.Stops.FirstOrDefault(s => s.Id == report.StopId) is { } stop
            && (stop.LeftAt is not null || load.Stops.Any(s => s.Seq > stop.Seq && s.ArrivedAt is not null))
        )
        {
            return new Problem("stop.order", "The truck has moved on since: undo that first.");
        }

        if (await ClaimCommands.WithdrawWith(w, loadId, reportId) is { } refused)
        {
            return refused;
        }

        await ReportStore.Undo(w, report);
        var others = (await ReportStore.Of(w.Db, loadId)).Any(r => r.Kind.OfFreight());
        if (!others)
        {
            await HoldStore.Release(w, loadId, HoldKind.Dispute, "the report was undone", passed: false);
        }

        await LoadWrites.Settle(w, loadId);
        w.Record(
            EventKinds.ReportUndone,
            loadId,
            $"{load.Number}: “{report.Note}” undone",
            loadId: loadId,
            driverId: load.DriverId,
            before: new
            {
                Kind = report.Kind.ToString(),
                report.Note,
                report.StopId,
            }
        );
        return new ReportAnswer(reportId, loadId, load.Number, "undone", null);
    }

    /// <summary>Adds a delivery at the end of a load in progress, for example when refused freight goes elsewhere. The truck is booked for
    /// longer.</summary>
    public static async Task<Outcome<StopAnswer>> AddStop(CommandContext w, long loadId, StopRequest request)
    {
        var load = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        if (load.Work().AddStopRefusal is { } refused)
        {
            return refused;
        }

        var validation = new Validation();
        if (request.Kind == StopKind.Pickup)
        {
            validation.Add("load.delivery.last", "A load ends with a delivery: add one.", "kind");
        }

        if (load.Stops.Count >= Booking.MaxLines)
        {
            validation.Add("too.many", $"A load takes at most {Booking.MaxLines} stops.", "placeId");
        }

        var places = await PlaceStore.Known(w.Db, request.PlaceId is { } p ? [p] : []);
        var added = Booking.Added(
            new StopOrder(
                StopKind.Delivery,
                request.PlaceId,
                request.From,
                request.Until,
                request.Note,
                request.RouteOverride?.RouteOverride()
            ),
            places,
            w.Today,
            w.Now
        );
        validation.AddRange(added.Problems);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var stop = added.Value;
        var end = load.Stops[^1];
        stop = Booking.OnRoad(Routing.Roads, end.Planned().Point, stop);
        await LoadWrites.AddStop(w, loadId, end.Seq + 1, stop, (int)Math.Round(stop.RoadMiles!.Value, MidpointRounding.AwayFromZero));
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var (after, last) = (sheet.Load, sheet.Legs[^1]);
        if (last.TripId is { } trip)
        {
            if (await TripCommands.Rebook(w, trip) is { } busy)
            {
                return busy;
            }

            await CoverStore.SettleTrip(w.Db, trip);
        }

        var state = await LoadWrites.Settle(w, loadId);
        var summary = $"{load.Number}: {stop.Place!.Name} in {stop.Place.Town} added as its last delivery";
        w.Record(EventKinds.LoadStopAdded, loadId, summary, loadId: loadId, driverId: load.DriverId);
        return new StopAnswer(loadId, load.Number, after.Stops[^1].Id, state, summary);
    }

    private static string Say(LoadRow load, StopRow? stop, Report r, DateTimeZone zone)
    {
        var at = r.ExpectedAt is { } e ? $", new ETA {e.Format(WallClock.Zone(stop?.Zone) ?? zone)}" : "";
        var pieces = r.Pieces is { } n ? $"{n:#,##0} " : "";
        return r.Kind == ReportKind.Note
            ? $"{load.Number}: {r.Note}"
            : $"{load.Number} {pieces}{r.Kind.Format()}{(stop is null ? "" : $" for {stop.Town}")}: {r.Note}{at}";
    }
}
