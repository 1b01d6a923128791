using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;

namespace SteadyLark.Core.Trips;

/// <summary>A trip that is to get a co-driver, or lose the one it has.</summary>
/// <param name="Canceled">Whether it was canceled. One that is over may still get the co-driver it had.</param>
/// <param name="Paid">A driver whom a settlement paid for a leg of it; null when nobody is paid yet.</param>
public sealed record CrewedTrip(string Number, long DriverId, string Driver, long? CodriverId, bool Canceled, string? Paid);

/// <summary>Teams: two drivers on a trip.</summary>
public static class Team
{
    /// <summary>Checks a co-driver for a trip, under <c>driverId</c> and <c>share</c>.</summary>
    /// <param name="codriver">Null to take the co-driver off the trip.</param>
    /// <param name="share">Their share of the work in percent, with at most two decimals; half when null.</param>
    public static Problems Check(CrewedTrip trip, long? codriver, decimal? share)
    {
        var validation = new Validation();
        if (trip.Canceled)
        {
            validation.Add("trip.over", $"Trip {trip.Number} is canceled: its drivers can no longer be changed.");
        }
        else if (trip.Paid is not null)
        {
            validation.Add("team.paid", $"{trip.Paid} is paid for trip {trip.Number} already: its drivers can no longer be changed.");
        }
        else if (codriver is null && trip.CodriverId is null)
        {
            validation.Add("team.none", $"Trip {trip.Number} has no co-driver.", "driverId");
        }
        else if (codriver == trip.DriverId)
        {
            validation.Add("team.same", $"{trip.Driver} drives trip {trip.Number} already: choose another driver.", "driverId");
        }
        else if (codriver is not null && share is { } s && (s is < 0 or > 100 || decimal.Round(s, 2) != s))
        {
            validation.Add("out.of.range", "The share is a percentage from 0 to 100 with at most two decimals.", "share");
        }

        return validation.Problems;
    }

    /// <summary>Why a trip does not go to another driver: they are its co-driver; null when they are not.</summary>
    public static Problem? MoveRefuses(CrewedTrip trip, long to, string name) =>
        to == trip.CodriverId
            ? new Problem(
                "team.same",
                $"{name} is the co-driver of trip {trip.Number}: take them off the trip first, or choose another driver.",
                "driverId"
            )
            : null;

    /// <summary>What is said of a change.</summary>
    /// <param name="was">The co-driver until now; null without one.</param>
    /// <param name="now">The co-driver from now on; null without one.</param>
    /// <param name="share">Their share of the work, in percent.</param>
    public static string Summary(CrewedTrip trip, string? was, string? now, decimal share) =>
        now is null ? $"{was} is off trip {trip.Number}; {trip.Driver} drives alone"
        : now == was ? $"{now} gets {share:0.##} % of the work of trip {trip.Number}"
        : was is null ? $"{now} is the co-driver of {trip.Driver} on trip {trip.Number}, with {share:0.##} % of the work"
        : $"{now} replaces {was} as co-driver of {trip.Driver} on trip {trip.Number}, with {share:0.##} % of the work";

    /// <summary>Drivers in an order in which a team's trip is planned for its driver before its co-driver needs to know. Drivers who wait for each
    /// other, each on the other's trip, come last.</summary>
    public static IReadOnlyList<long> InOrder(IReadOnlyCollection<long> drivers, IReadOnlyCollection<(long Driver, long Codriver)> teams)
    {
        var open = drivers.ToList();
        var order = new List<long>();
        while (open.Count > 0)
        {
            var ready = open.Where(d => !teams.Any(t => t.Codriver == d && open.Contains(t.Driver))).ToList();
            order.AddRange(ready.Count > 0 ? ready : open);
            open.RemoveAll(order.Contains);
        }

        return order;
    }

    /// <summary>Their share when nothing else is agreed.</summary>
    public static decimal ShareOf(decimal? share) => share ?? CrewPart.UsualShare;
}
