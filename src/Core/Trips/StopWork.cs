using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;

namespace SteadyLark.Core.Trips;

/// <summary>Stop events.</summary>
public enum StopEvent
{
    Arrived,
    Left,
    Delivered,
}

/// <summary>A stop after an event was recorded.</summary>
public sealed record StopChange(long StopId, Instant? Arrived, Instant? Left, Instant? Delivered, string? ReceivedBy);

/// <summary>Whether an event at a stop is possible, and its consequences.</summary>
public static class StopWork
{
    /// <summary>How far in the future a recorded time may be, because clocks differ.</summary>
    public static readonly Duration ClockDrift = Duration.FromMinutes(5);

    /// <param name="stops">All stops of the load in order, as they are.</param>
    /// <param name="stopId">The stop it is about.</param>
    /// <param name="word">The event.</param>
    /// <param name="at">When it happened.</param>
    /// <param name="receivedBy">Who took the freight; for a delivery only.</param>
    /// <param name="covered">Whether the load is covered.</param>
    /// <param name="now">The present.</param>
    public static Outcome<StopChange> Decide(
        IReadOnlyList<PlannedStop> stops,
        long stopId,
        StopEvent word,
        Instant at,
        string? receivedBy,
        bool covered,
        Instant now
    )
    {
        var index = stops.ToList().FindIndex(s => s.Id == stopId);
        if (index < 0)
        {
            return new Problem("stop.unknown", "This stop is not on the load.", "stopId");
        }

        var stop = stops[index];
        if (!covered)
        {
            return new Problem("load.uncovered", "This load is not covered yet: cover it first.");
        }

        if (at > now + ClockDrift)
        {
            return new Problem("time.future", "This time is in the future: enter when it happened.", "at");
        }

        if (word == StopEvent.Delivered && stop.Kind == StopKind.Pickup)
        {
            return new Problem("stop.kind", "This stop is a pickup: record the departure instead.", "event");
        }

        if (stop.Refused is not null && word != StopEvent.Left)
        {
            return new Problem(
                "stop.refused",
                "The freight was refused here: undo that first, or add a stop where it goes instead.",
                "event"
            );
        }

        for (var i = 0; i < index; i++)
        {
            if (!stops[i].Done)
            {
                return new Problem("stop.order", $"Stop {i + 1} is not complete yet: record its departure first.", "stopId");
            }
        }

        if (index > 0 && (stops[index - 1].Left ?? stops[index - 1].Delivered) is { } before && at < before)
        {
            return new Problem("time.order", $"The truck left stop {index} after that: check the time.", "at");
        }

        return word switch
        {
            StopEvent.Arrived when stop.Arrived is not null => new Problem(
                "stop.arrived",
                "The arrival here is already recorded.",
                "event"
            ),
            StopEvent.Arrived => new StopChange(stopId, at, stop.Left, stop.Delivered, null),
            StopEvent.Delivered when stop.Delivered is not null => new Problem(
                "stop.delivered",
                "The delivery here is already recorded.",
                "event"
            ),
            StopEvent.Left when stop.Left is not null => new Problem("stop.left", "The departure here is already recorded.", "event"),
            _ when stop.Arrived > at => new Problem("time.order", "The truck arrived here after that: check the time.", "at"),
            _ when stop.Delivered > at => new Problem("time.order", "It was delivered after that: check the time.", "at"),
            StopEvent.Delivered when stop.Left is { } left && left < at => new Problem(
                "time.order",
                "The truck had already left by then: check the time.",
                "at"
            ),
            StopEvent.Delivered => new StopChange(stopId, stop.Arrived ?? at, stop.Left, at, receivedBy),
            _ => new StopChange(
                stopId,
                stop.Arrived ?? at,
                at,
                stop.Kind == StopKind.Delivery && stop.Refused is null ? stop.Delivered ?? at : null,
                receivedBy
            ),
        };
    }

    /// <summary>Undoes the last event at a stop: departure, then delivery, then arrival; only when nothing later happened.</summary>
    public static Outcome<StopChange> Undo(IReadOnlyList<PlannedStop> stops, long stopId)
    {
        var index = stops.ToList().FindIndex(s => s.Id == stopId);
        if (index < 0)
        {
            return new Problem("stop.unknown", "This stop is not on the load.", "stopId");
        }

        if (stops.Skip(index + 1).Any(s => s.Arrived is not null || s.Done))
        {
            return new Problem("stop.order", "Something is recorded at a later stop: undo that first.", "stopId");
        }

        var stop = stops[index];
        return stop switch
        {
            // Departure and delivery recorded together are undone together.
            { Left: not null } when stop.Delivered == stop.Left => new StopChange(
                stopId,
                Before(stop.Arrived, stop.Left.Value),
                null,
                null,
                null
            ),
            { Left: not null } => new StopChange(
                stopId,
                stop.Kind == StopKind.Pickup ? Before(stop.Arrived, stop.Left.Value) : stop.Arrived,
                null,
                stop.Delivered,
                null
            ),
            { Delivered: not null } => new StopChange(stopId, Before(stop.Arrived, stop.Delivered.Value), null, null, null),
            { Arrived: not null } => new StopChange(stopId, null, null, null, null),
            _ => new Problem("stop.nothing", "Nothing is recorded at this stop.", "stopId"),
        };

        // An arrival inferred from a later event is undone with it.
        static Instant? Before(Instant? arrived, Instant word) => arrived < word ? arrived : null;
    }
}
