using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Covering;

/// <summary>A driver, truck or trailer, which is booked for one trip at a time.</summary>
public enum CommitmentKind
{
    Driver,
    Truck,
    Trailer,
}

/// <summary>A booking that stands, or a driver's time off.</summary>
/// <param name="TripNumber">Null for time off.</param>
public sealed record Commitment(CommitmentKind Kind, long Id, string Name, string? TripNumber, string LoadNumber, Span Span)
{
    /// <summary>Whether a driver is off then.</summary>
    public bool Off => TripNumber is null;
}

public static class Availability
{
    /// <summary>
    /// The earliest time for which someone can be booked: from the opening of the pickup, or from the end of a booking while the pickup is
    /// still open.
    /// </summary>
    /// <param name="booked">Bookings that stand, in any order.</param>
    /// <param name="wanted">The time booked when the pickup begins at an instant.</param>
    /// <param name="opens">The pickup's window</param>
    /// <param name="closes">and its end.</param>
    /// <returns>Null when no time fits.</returns>
    /// <example>Booked until 10:00, a pickup open from 8:00 to 16:00: booked from 10:00.</example>
    public static Span? Earliest(IReadOnlyCollection<Span> booked, Func<Instant, Span> wanted, Instant opens, Instant closes)
    {
        for (var start = opens; start <= closes; )
        {
            var span = wanted(start);
            var busy = booked.Where(b => b.Overlaps(span)).ToList();
            if (busy.Count == 0)
            {
                return span;
            }

            // A booking that ends when it would begin does not overlap, so this is always later.
            start = busy.Max(b => b.Until);
        }

        return null;
    }

    /// <summary>The time for which a driver, truck and trailer are booked to run stops, or why they cannot be.</summary>
    /// <param name="outlook">Existing bookings of these three through <see cref="Latest"/>.</param>
    /// <param name="zone">Zone in which times are shown.</param>
    public static Outcome<Span> Book(
        IRoads roads,
        IReadOnlyList<PlannedStop> stops,
        IReadOnlyCollection<Commitment> outlook,
        DateTimeZone zone
    )
    {
        var window = stops[0].Window;
        var span = Earliest(
            outlook.Select(c => c.Span).ToList(),
            at => TripPlan.Build(roads, stops, at).Commitment,
            window.From,
            window.Until
        );
        return span is { } found ? found : Check(outlook, TripPlan.Build(roads, stops).Commitment, zone);
    }

    /// <summary>The time for which a driver, truck and trailer are booked when their trip changes, or why they cannot be.</summary>
    /// <param name="started">Their booking so far when they are under way: it begins when it did, and ends no earlier than they are expected to.</param>
    /// <param name="outlook">Their other bookings through <see cref="Latest"/>. Time off does not stop a trip that is under way.</param>
    public static Outcome<Span> Rebook(
        IRoads roads,
        IReadOnlyList<PlannedStop> stops,
        Span? started,
        IReadOnlyCollection<Commitment> outlook,
        Instant now,
        DateTimeZone zone
    )
    {
        if (started is not { } booked)
        {
            return Book(roads, stops, outlook, zone);
        }

        var expected = Expectations.Of(roads, stops, now)[^1].Leaves;
        var until = Instant.Max(expected, TripPlan.Build(roads, stops, booked.From).Commitment.Until);
        var span = new Span(booked.From, Instant.Max(until, booked.From + TripPlan.ServiceTime));
        var busy = Check(outlook.Where(c => !c.Off), span, zone);
        return busy.Any ? busy : span;
    }

    /// <summary>From the opening of the pickup to the end of the trip when it begins as late as the pickup allows.</summary>
    public static Span Latest(IRoads roads, IReadOnlyList<PlannedStop> stops) =>
        new(stops[0].Window.From, TripPlan.Build(roads, stops, stops[0].Window.Until).Commitment.Until);

    /// <summary>Why a driver, truck or trailer cannot be booked for <paramref name="wanted"/>: one problem per overlapping
    /// booking.</summary>
    /// <param name="outlook">Existing bookings of these three.</param>
    /// <param name="wanted">The time they are wanted for.</param>
    /// <param name="zone">Zone in which times are shown.</param>
    public static Problems Check(IEnumerable<Commitment> outlook, Span wanted, DateTimeZone zone) =>
        new(
            outlook
                .Where(p => p.Span.Overlaps(wanted))
                .OrderBy(p => p.Kind)
                .Select(p =>
                    p.Off
                        ? Off(p, zone)
                        : new Problem(
                            $"{p.Kind.ToString().ToLowerInvariant()}.busy",
                            $"{p.Name} is assigned to load {p.LoadNumber} (trip {p.TripNumber}) from {p.Span.From.Format(zone)} to {p.Span.Until.Format(zone)}. Choose another {p.Kind.ToString().ToLowerInvariant()}.",
                            $"{p.Kind.ToString().ToLowerInvariant()}Id"
                        )
                )
        );

    private static Problem Off(Commitment c, DateTimeZone zone) =>
        new(
            "driver.off",
            $"{c.Name} is off from {c.Span.From.Format(zone)} to {c.Span.Until.Format(zone)}. Choose another driver, or change the time off.",
            "driverId"
        );
}
