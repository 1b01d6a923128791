using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Core.Trips;

/// <summary>The driver, truck and trailer of a leg.</summary>
public sealed record LegCrew(long? DriverId, long? TruckId, long? TrailerId);

/// <summary>What a handover makes of a leg.</summary>
/// <param name="Transfer">Where the leg ends and the next one begins, without an identity.</param>
/// <param name="MilesDone">Whole road miles of the leg that ends: from where it began, over the stops it made, to the handover.</param>
/// <param name="MilesAhead">Whole road miles of the leg that begins: from the handover over the stops ahead.</param>
/// <param name="Booking">The time for which the new driver and truck are booked.</param>
public sealed record HandoverPlan(Transfer Transfer, int MilesDone, int MilesAhead, Span Booking);

/// <summary>A load that changes trucks on the way: one leg ends and the next begins. Either may be ours or a carrier's, as when a carrier
/// breaks down and another one delivers.</summary>
public static class Handover
{
    /// <summary>Why a load cannot be handed over; null when it can.</summary>
    /// <param name="byCarrier">Whether a carrier moves it. It is replaced only once it has freight; before, it is unassigned.</param>
    public static Problem? Refuses(LoadWork load, bool byCarrier, IReadOnlyList<PlannedStop> stops)
    {
        if (load.State is not (LoadState.Covered or LoadState.Rolling))
        {
            return new Problem("load.state", $"Load {load.Number} is {load.State.Format()}: it is not on the way.");
        }

        return byCarrier && !stops.Any(s => s is { Kind: StopKind.Pickup, Left: not null })
                ? new Problem("load.state", $"{load.Who} has not picked up load {load.Number} yet: reassign it instead.")
            : !byCarrier && !stops.Any(s => s.Arrived is not null)
                ? new Problem("load.state", "The trip has not started: reassign the load instead.")
            : null;
    }

    /// <summary>What the carrier that gives up a load is still paid: unchanged, or one amount between nothing and what was agreed.</summary>
    /// <param name="pay">As entered; null to leave it.</param>
    /// <returns>Its charges from now on; null when they stay.</returns>
    public static IReadOnlyList<FlatCharge>? PayOfReplaced(
        Money? pay,
        IReadOnlyList<FlatCharge> charges,
        string carrier,
        string town,
        Validation validation
    )
    {
        if (pay is null)
        {
            return null;
        }

        var agreed = CarrierPay.Sum(charges);
        validation.Dollars(pay, "payBefore", $"What {carrier} is still paid", above: false, currency: agreed.Currency);
        var still = new Money(pay.Value.Amount, agreed.Currency);
        if (validation.Ok && still > agreed)
        {
            validation.Add(
                "over.agreed",
                $"{carrier} agreed to {agreed.Formatted}: enter at most that, or change its pay afterwards.",
                "payBefore"
            );
        }

        return !validation.Ok || still == agreed ? null
            : still.Amount == 0 ? []
            : [new FlatCharge(ChargeKind.LineHaul, $"to {town}", still)];
    }

    /// <summary>Checks the time of a handover: not in the future, and not before anything recorded at a stop or transfer.</summary>
    public static void CheckTime(Instant at, LoadPath path, Instant now, Validation validation)
    {
        if (at > now + StopWork.ClockDrift)
        {
            validation.Add("time.future", "This time is in the future: enter when it happened.", "at");
        }
        else if (path.Stops.Any(s => at < (s.Left ?? s.Delivered ?? s.Arrived)) || path.Transfers.Any(t => at < (t.TakenAt ?? t.LeftAt)))
        {
            validation.Add("time.order", "Something was recorded after that: check the time.", "at");
        }
    }

    /// <summary>Checks that the handover changes something.</summary>
    public static void CheckChange(LegCrew before, LegCrew after, Validation validation)
    {
        if (before == after)
        {
            validation.Add("same", "This driver and truck already have the load.", "driverId");
        }
    }

    /// <summary>The transfer where the leg in progress ends now, the miles of both legs, and the time the new crew is booked for.</summary>
    /// <param name="path">The load before it.</param>
    /// <param name="place">Where the handover takes place.</param>
    public static HandoverPlan Plan(IRoads roads, LoadPath path, GeoPoint place, string town, Instant at, Instant now)
    {
        var leg = path.Current;
        var done = path.Stops.TakeWhile(s => s.Done).Count();
        var over = path.With(leg, new Transfer(0, done, place, town, null, at, at, TransferMethod.Transload));
        var ahead = over.OfLeg(roads, leg + 1).Skip(1).ToList();
        var visits = Expectations.Of(roads, ahead, now, new ComingFrom(place, Instant.Max(at, now)));
        return new HandoverPlan(
            over.Transfers[leg],
            over.Miles(roads, leg),
            over.Miles(roads, leg + 1),
            new Span(at, visits.Count > 0 ? visits[^1].Leaves : at + TripPlan.ServiceTime)
        );
    }

    /// <summary>Why a handover cannot be undone; null when it can: nothing was recorded since, and neither leg is settled, billed or
    /// claimed on.</summary>
    /// <param name="who">The driver or carrier that has the load now.</param>
    /// <param name="since">The place of a stop at which something was recorded after the handover, or null.</param>
    /// <param name="settled">The driver whose approved settlement includes one of the two legs, or null.</param>
    /// <param name="billed">The number of a carrier's bill for one of the two legs, or null.</param>
    /// <param name="claim">The number of a claim on the leg that began, or null.</param>
    public static Problem? UndoRefuses(string? who, string? since, string? settled, string? billed = null, string? claim = null) =>
        since is not null ? new Problem("stop.order", $"{who} has since been at {since}: undo that first.")
        : billed is not null ? new Problem("bill.entered", $"Bill {billed} for this is entered: void it first.")
        : claim is not null ? new Problem("claim.open", $"Claim {claim} is against {who}: withdraw it before undoing the handover.")
        : settled is not null
            ? new Problem("settlement.approved", $"{settled}'s approved settlement includes this: reverse its approval first.")
        : null;

    /// <summary>Whether anything happened at a stop after <paramref name="at"/>.</summary>
    public static bool After(PlannedStop stop, Instant at) =>
        stop.Arrived > at || stop.Left > at || stop.Delivered > at || stop.Refused > at;
}
