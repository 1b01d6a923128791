using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>Where a leg is to end and the next one to begin.</summary>
/// <param name="AfterStops">How many stops come before; null for the position with the fewest extra miles.</param>
/// <param name="At">When the next truck takes the freight.</param>
/// <param name="Zone">The zone of the place, in which times are shown.</param>
public sealed record SplitOrder(GeoPoint Point, string Town, int? AfterStops, Instant At, TransferMethod Method, DateTimeZone Zone);

/// <summary>Who has a leg.</summary>
/// <param name="Who">The driver or carrier; null when nobody has it.</param>
/// <param name="Dispatched">Whether the carrier's driver and truck are recorded; true for our own.</param>
public sealed record LegHolder(string? Who, LegCover Cover, bool ByCarrier, bool Dispatched);

/// <summary>What can happen at a transfer.</summary>
public enum TransferEvent
{
    /// <summary>The truck before left the freight there.</summary>
    Left,

    /// <summary>The next truck took it.</summary>
    Taken,
}

/// <summary>The trailer that a leg's truck has to pull.</summary>
/// <param name="Town">Where the freight changes trucks in it; null when the trailer itself is moved.</param>
public sealed record RequiredTrailer(long Id, string Unit, string? Town);

/// <summary>Splitting a load's leg at a planned transfer, joining two legs, and what happens at the transfer.</summary>
public static class Splits
{
    /// <summary>Why a leg cannot be split, or a transfer at its end be moved; null when it can: its freight is not delivered or left, and no
    /// carrier has agreed to it as it is.</summary>
    public static Problem? Refuses(LoadState load, string number, LoadPath path, int leg, LegHolder holder) =>
        load is LoadState.Draft or LoadState.Quoted ? new Problem("load.state", $"Load {number} is {load.Format()}: book it first.")
        : load is not (LoadState.Booked or LoadState.Tendered or LoadState.Covered or LoadState.Rolling)
            ? new Problem("load.state", $"Load {number} is {load.Format()}: its legs can no longer be changed.")
        : leg < path.Current
            ? new Problem("leg.done", $"This leg was driven to {path.End(leg)!.Town}: it can no longer be changed.", "legId")
        : holder.ByCarrier
            ? new Problem(
                "leg.carrier",
                $"{holder.Who} has this leg as it is: unassign it first, or replace it once it has the freight.",
                "legId"
            )
        : null;

    /// <summary>Checks that a transfer is planned within a year of today.</summary>
    public static void CheckDate(LocalDateTime at, LocalDate today, Validation validation)
    {
        if (at.Date < today.PlusYears(-1) || at.Date > today.PlusYears(1))
        {
            validation.Add("out.of.range", "Enter a date within a year of today.", "at");
        }
    }

    /// <summary>Checks where and when a leg is to be split.</summary>
    /// <param name="path">The load without the new transfer.</param>
    /// <param name="towns">The towns of its stops.</param>
    /// <returns>The transfer, without an identity.</returns>
    public static Outcome<Transfer> Split(IRoads roads, LoadPath path, IReadOnlyList<string> towns, int leg, SplitOrder order)
    {
        var (begin, end) = (path.Begin(leg), path.End(leg));
        var first = Math.Max(Math.Max(1, begin?.AfterStops ?? 0), path.Stops.TakeWhile(s => s.Done).Count());
        var last = Math.Min(path.Stops.Count - 1, end?.AfterStops ?? int.MaxValue);
        if (first > last)
        {
            return new Problem("split.none", "No stop of this leg is left to split it before.", "afterStops");
        }

        if (order.AfterStops is { } asked && (asked < first || asked > last))
        {
            return new Problem(
                "split.place",
                asked > last
                    ? $"The freight is delivered in {towns[^1]}: choose a place before that."
                    : $"The freight is already past that: choose a place after {towns[first - 1]}.",
                "afterStops"
            );
        }

        var after = order.AfterStops
            ?? Enumerable
                .Range(first, last - first + 1)
                .MinBy(n =>
                    roads.Between(Before(n).Point, order.Point).Miles
                    + roads.Between(order.Point, Next(n).Point).Miles
                    - roads.Between(Before(n).Point, Next(n).Point).Miles
                );
        var (before, next) = (Before(after), Next(after));
        var validation = new Validation();
        if (order.Point == before.Point || order.Point == next.Point)
        {
            validation.Add("same", "The load stops there anyway: choose another place.", "placeId");
        }

        if (order.At <= before.From)
        {
            validation.Add(
                "time.order",
                $"The freight leaves {before.Town} after {before.From.Format(order.Zone)}: enter a later time.",
                "at"
            );
        }

        if (order.At >= next.Until)
        {
            validation.Add(
                "time.order",
                $"The freight is due in {next.Town} by {next.Until.Format(order.Zone)}: enter an earlier time.",
                "at"
            );
        }

        return validation.Ok ? new Transfer(0, after, order.Point, order.Town, order.At, null, null, order.Method) : validation.Problems;

        (GeoPoint Point, string Town, Instant From) Before(int stops) =>
            begin is { } b && b.AfterStops == stops
                ? (b.Point, b.Town, b.TakenAt ?? b.Ready)
                : (path.Stops[stops - 1].Point, towns[stops - 1], path.Stops[stops - 1].Left ?? path.Stops[stops - 1].Window.From);

        (GeoPoint Point, string Town, Instant Until) Next(int stops) =>
            end is { } e && e.AfterStops == stops
                ? (e.Point, e.Town, e.Ready)
                : (path.Stops[stops].Point, towns[stops], path.Stops[stops].Window.Until);
    }

    /// <summary>Why two loads cannot swap trucks where they meet; null when they can: each has a driver of ours, and not the same.</summary>
    /// <param name="other">Who has the other load's leg.</param>
    public static Problem? RelayRefuses(string number, LegHolder own, string otherNumber, LegHolder? other) =>
        number == otherNumber ? new Problem("relay.same", "Choose another load to swap with.", "swapWithLoadId")
        : own.ByCarrier || own.Who is null
            ? new Problem("relay.own", $"Load {number} needs a driver of ours to swap trailers: assign one first.", "swapWithLoadId")
        : other is null or { ByCarrier: true } or { Who: null }
            ? new Problem("relay.other", $"Load {otherNumber} has no driver of ours to swap trailers with.", "swapWithLoadId")
        : other.Who == own.Who ? new Problem("relay.same", $"{own.Who} has both loads: choose another.", "swapWithLoadId")
        : null;

    /// <summary>Why two legs cannot be joined at the transfer between them; null when they can: nobody has the second one, and no carrier the
    /// first.</summary>
    /// <param name="leg">The leg that ends there, from 0.</param>
    public static Problem? JoinRefuses(LoadState load, string number, LoadPath path, int leg, LegHolder before, LegHolder after)
    {
        var town = path.Transfers[leg].Town;
        return path.Transfers[leg].LeftAt is not null
                ? new Problem("leg.done", $"The leg to {town} was driven, and stays: only legs ahead can be joined.")
            : Refuses(load, number, path, leg, before) is { } refused ? refused
            : after.Who is not null ? new Problem("leg.assigned", $"{after.Who} is assigned to the leg from {town}: unassign it first.")
            : null;
    }

    /// <summary>The trailer that a leg's truck has to pull: the one that comes loaded to where it begins, or that the next truck is to hook where
    /// it ends; null when any will do. Unless freight is transloaded it stays in its trailer.</summary>
    /// <param name="leg">From 0.</param>
    /// <param name="trailers">Of each leg; null when nobody of ours has it.</param>
    public static RequiredTrailer? Trailer(LoadPath path, int leg, IReadOnlyList<(long Id, string Unit)?> trailers) =>
        path.Begin(leg) is { Method: not TransferMethod.Transload } begin && trailers[leg - 1] is { } dropped
            ? new RequiredTrailer(dropped.Id, dropped.Unit, begin.Town)
        : path.End(leg) is { Method: not TransferMethod.Transload } end && trailers[leg + 1] is { } hooked
            ? new RequiredTrailer(hooked.Id, hooked.Unit, end.Town)
        : null;

    /// <summary>Checks that a leg's truck pulls the trailer it has to.</summary>
    public static void CheckTrailer(RequiredTrailer? required, long? trailerId, Validation validation)
    {
        if (required is { } r && trailerId is not null && trailerId != r.Id)
        {
            validation.Add(
                "trailer.dropped",
                r.Town is null
                    ? $"Trailer {r.Unit} is what is moved: choose that one."
                    : $"The freight changes trucks in {r.Town} in trailer {r.Unit}: choose that one.",
                "trailerId"
            );
        }
    }

    /// <summary>What was left at a transfer or taken there.</summary>
    /// <param name="towns">The towns of the stops.</param>
    /// <param name="legs">Who has each leg.</param>
    /// <param name="index">The transfer, from 0; leg <paramref name="index"/> ends there.</param>
    public static Outcome<Transfer> Record(
        LoadPath path,
        IReadOnlyList<string> towns,
        IReadOnlyList<LegHolder> legs,
        int index,
        TransferEvent what,
        Instant at,
        Instant now
    )
    {
        var transfer = path.Transfers[index];
        if (what == TransferEvent.Left ? transfer.LeftAt is not null : transfer.TakenAt is not null)
        {
            return new Problem("transfer.done", "This is already recorded.", "event");
        }

        if (at > now + StopWork.ClockDrift)
        {
            return new Problem("time.future", "This time is in the future: enter when it happened.", "at");
        }

        if (transfer.LeftAt is null && LeftRefuses(path, towns, legs[index], index, at) is { } refused)
        {
            return refused;
        }

        if (what == TransferEvent.Left)
        {
            return transfer with { LeftAt = at };
        }

        var taker = legs[index + 1];
        return taker.Cover == LegCover.Open
                ? new Problem("leg.open", $"The leg from {transfer.Town} is not covered: assign a driver or carrier first.")
            : taker.Cover == LegCover.Tendered
                ? new Problem("leg.tendered", $"{taker.Who} has not accepted the leg from {transfer.Town} yet: record the answer first.")
            : !taker.Dispatched
                ? new Problem("carrier.dispatch", $"Enter {taker.Who}’s driver, phone and truck before it takes the freight.")
            : transfer.LeftAt > at ? new Problem("time.order", "The freight was left there after that: check the time.", "at")
            : transfer with { LeftAt = transfer.LeftAt ?? at, TakenAt = at };
    }

    /// <summary>Undoes the last thing recorded at a transfer, while nothing was recorded after it.</summary>
    public static Outcome<Transfer> Undo(LoadPath path, IReadOnlyList<string> towns, int index)
    {
        var transfer = path.Transfers[index];
        if (transfer.LeftAt is null)
        {
            return new Problem("transfer.none", $"Nothing is recorded in {transfer.Town}.");
        }

        if (transfer.PlannedAt is null)
        {
            return new Problem("transfer.handover", "This handover was not planned: undo the handover.");
        }

        for (var i = transfer.AfterStops; i < path.Stops.Count; i++)
        {
            if (path.Stops[i] is { Arrived: not null } or { Done: true })
            {
                return new Problem("stop.order", $"The freight has since been in {towns[i]}: undo that first.");
            }
        }

        if (path.Transfers.Skip(index + 1).FirstOrDefault(t => t.LeftAt is not null) is { } later)
        {
            return new Problem("stop.order", $"The freight has since been left in {later.Town}: undo that first.");
        }

        return transfer.TakenAt is not null && transfer.TakenAt != transfer.LeftAt
            ? transfer with
            {
                TakenAt = null,
            }
            : transfer with
            {
                LeftAt = null,
                TakenAt = null,
            };
    }

    /// <summary>Why nothing can be recorded at a stop until a transfer before it has happened, or any more once one after it has; null when
    /// something can.</summary>
    /// <param name="stop">The stop, from 0; negative when it is not on the load, which is not for this to say.</param>
    /// <param name="at">When it happened; null to undo something.</param>
    public static Problem? StopRefuses(LoadPath path, int stop, Instant? at)
    {
        foreach (var t in stop < 0 ? [] : path.Transfers)
        {
            if (t.AfterStops <= stop && t.TakenAt is null)
            {
                return new Problem(
                    "transfer.ahead",
                    $"The freight changes trucks in {t.Town} before that: record there that it was taken first.",
                    "stopId"
                );
            }

            if (t.AfterStops <= stop && at < t.TakenAt)
            {
                return new Problem("time.order", $"The freight changed trucks in {t.Town} after that: check the time.", "at");
            }

            if (t.AfterStops > stop && t.LeftAt is not null && at is null)
            {
                return new Problem("stop.order", $"The freight has since been left in {t.Town}: undo that first.");
            }
        }

        return null;
    }

    /// <summary>By when a truck has to take freight at a transfer to be on time at the leg's next point.</summary>
    public static Instant Deadline(IRoads roads, LoadPath path, int leg) => path.OfLeg(roads, leg)[0].Window.Until;

    private static Problem? LeftRefuses(LoadPath path, IReadOnlyList<string> towns, LegHolder holder, int index, Instant at)
    {
        var transfer = path.Transfers[index];
        if (index > 0 && path.Transfers[index - 1] is { TakenAt: null } ahead)
        {
            return new Problem("transfer.ahead", $"Record in {ahead.Town} first that the freight was taken.");
        }

        if (holder.Cover != LegCover.Covered)
        {
            return new Problem("leg.open", $"The leg to {transfer.Town} is not covered: assign a driver or carrier first.");
        }

        for (var i = 0; i < transfer.AfterStops; i++)
        {
            if (!path.Stops[i].Done)
            {
                return new Problem("stop.order", $"Stop {i + 1}, {towns[i]}, is not complete yet: record its departure first.", "event");
            }
        }

        var before = path.Stops[transfer.AfterStops - 1];
        Instant?[] earlier = [before.Left, before.Delivered, index > 0 ? path.Transfers[index - 1].TakenAt : null];
        return earlier.Any(t => t > at) ? new Problem("time.order", "Something was recorded after that: check the time.", "at") : null;
    }
}
