using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Covering;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <param name="DriverId">The co-driver; null to take the one it has off the trip.</param>
/// <param name="Share">Their share of the work in percent; half when null.</param>
/// <param name="CabotageReason">Why the driver may haul between two points of the other country, when it is asked for.</param>
public sealed record CodriverRequest(long? DriverId, decimal? Share, string? CabotageReason = null);

/// <summary>Teams: the second driver of a trip.</summary>
public static class TeamCommands
{
    /// <summary>Puts a co-driver on a trip, changes their share, or takes them off it.</summary>
    public static async Task<Outcome<TripAnswer>> Set(CommandContext w, long tripId, CodriverRequest request)
    {
        var legs = (await ItineraryStore.Legs(w.Db, [tripId])).GetValueOrDefault(tripId)?.Legs ?? [];
        await LoadWrites.Lock(w.Db, legs.Select(l => l.LoadId));

        if (await ItineraryStore.Trip(w.Db, tripId, locked: true) is not { } trip)
        {
            return Problem.Missing("This trip");
        }

        var crewed = trip.Crewed(await ItineraryStore.Paid(w.Db, tripId));
        var refused = Team.Check(crewed, request.DriverId, request.Share);
        if (refused.Any)
        {
            return refused;
        }

        var share = Team.ShareOf(request.Share);
        var checkedDriver = await Check(w, trip, legs, request);
        if (!checkedDriver.Ok)
        {
            return checkedDriver.Problems;
        }

        var driver = checkedDriver.Value.Driver;
        var visits = await TripSheets.Visits(w.Db, trip) ?? [];
        if (trip.EndedAt is null && visits.Count > 0)
        {
            // Booked for both before the co-driver is on it, so that a refusal names what they are booked for.
            var span = await TripCommands.When(w, trip with { CodriverId = driver?.Id }, visits);
            if (!span.Ok)
            {
                return span.Problems;
            }

            await TripCommands.Write(w, trip, span.Value, visits);
        }

        await ItineraryStore.SetCodriver(w.Db, tripId, driver is null ? null : (driver.Id, share));
        var summary = Team.Summary(crewed, trip.Codriver, driver?.Name, share);
        foreach (var leg in legs)
        {
            await LoadWrites.Settle(w, leg.LoadId);
            w.Record(
                EventKinds.TripCrewChanged,
                leg.LoadId,
                summary,
                loadId: leg.LoadId,
                driverId: trip.DriverId,
                before: new { trip.CodriverId, trip.CodriverShare }
            );
            if (trip.CodriverId is { } gone && gone != driver?.Id)
            {
                w.Record(EventKinds.LoadUnassigned, leg.LoadId, summary, loadId: leg.LoadId, driverId: gone);
            }
        }

        return new TripAnswer(tripId, trip.Number, Itinerary.Order(visits), summary);
    }

    /// <summary>Reads the co-driver to be, and checks them for each load of the trip; nobody when the co-driver is taken off it.</summary>
    private static async Task<Outcome<(DriverRow? Driver, string? Cabotage)>> Check(
        CommandContext w,
        TripRow trip,
        IReadOnlyList<TripLegRow> legs,
        CodriverRequest request
    )
    {
        if (request.DriverId is not { } id)
        {
            return (null, null);
        }

        var validation = new Validation();
        (DriverRow? Driver, string? Cabotage) found = default;
        foreach (var leg in legs)
        {
            var sheet = (await LoadReads.Sheet(w.Db, leg.LoadId))!;
            var ours = await CoverCommands.CheckOurs(
                w,
                sheet,
                sheet.Legs.First(l => l.Id == leg.LegId),
                new LegCrew(id, trip.TruckId, leg.TrailerId ?? trip.TrailerId),
                request.CabotageReason,
                validation
            );
            found = (ours.Driver, ours.Cabotage);
        }

        return validation.Ok ? found : validation.Problems;
    }

    /// <summary>A trip as its drivers are decided.</summary>
    /// <param name="paid">A driver whom a settlement paid for a leg of it.</param>
    internal static CrewedTrip Crewed(this TripRow trip, string? paid = null) =>
        new(trip.Number, trip.DriverId, trip.Driver, trip.CodriverId, trip.CanceledAt is not null, paid);
}
