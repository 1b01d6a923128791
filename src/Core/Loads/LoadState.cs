namespace SteadyLark.Core.Loads;

/// <summary>A load's state. It is never entered: <see cref="LoadStates.Derive"/> derives it.</summary>
public enum LoadState
{
    Draft,
    Quoted,
    Booked,

    /// <summary>Offered to a carrier that has not answered yet.</summary>
    Tendered,
    Covered,
    Rolling,
    Delivered,
    Billed,
    Closed,
    Cancelled,
}

public enum StopKind
{
    Pickup,
    Delivery,
}

/// <summary>What happened at a stop. A pickup is done when the truck left, a delivery when it was delivered or the truck left. A refused
/// one is never delivered.</summary>
public sealed record StopFacts(StopKind Kind, bool Arrived, bool Left, bool Delivered, bool Refused = false)
{
    public bool Done => Left || (Kind == StopKind.Delivery && Delivered);
}

/// <summary>How far a leg is assigned.</summary>
public enum LegCover
{
    Open,
    Tendered,
    Covered,
}

/// <summary>Everything that determines a load's state.</summary>
/// <param name="IsDraft">Saved without being booked.</param>
/// <param name="IsQuoted">Quoted to the customer, not yet accepted.</param>
/// <param name="IsCancelled">Canceled.</param>
/// <param name="Stops">In order.</param>
/// <param name="Legs">The leg in progress and those after it, in order.</param>
/// <param name="OnInvoice">On an invoice that was not voided.</param>
/// <param name="InvoicePaid">That invoice is paid in full.</param>
/// <param name="LegsPaid">Carriers or drivers of all legs were paid.</param>
/// <param name="BillsNobody">A move: there is nothing to invoice.</param>
public sealed record LoadFacts(
    bool IsDraft,
    bool IsQuoted,
    bool IsCancelled,
    IReadOnlyList<StopFacts> Stops,
    IReadOnlyList<LegCover> Legs,
    bool OnInvoice,
    bool InvoicePaid,
    bool LegsPaid,
    bool BillsNobody = false
);

public static class LoadStates
{
    /// <summary>The state as shown, such as <c>canceled</c>.</summary>
    public static string Format(this LoadState state) => state == LoadState.Cancelled ? "canceled" : state.ToString().ToLowerInvariant();

    /// <summary>Whether it waits to be covered: nobody has it, or a carrier has not answered.</summary>
    public static bool IsOpen(this LoadState state) => state is LoadState.Booked or LoadState.Tendered;

    /// <summary>
    /// Derives a load's state: the furthest that is true of it. Covered when the leg that moves next has a driver or a carrier that accepted,
    /// tendered while a carrier has not answered; rolling from the first departure to the last delivery; closed when the customer paid and the
    /// carrier or driver was paid; a move, which bills nobody, when these were. A later leg that nobody has yet does not change it: see <see cref="ToCover"/>.
    /// </summary>
    public static LoadState Derive(LoadFacts facts)
    {
        if (facts.IsCancelled)
        {
            return LoadState.Cancelled;
        }

        if (facts.IsDraft)
        {
            return LoadState.Draft;
        }

        if (facts.OnInvoice)
        {
            return facts.InvoicePaid && facts.LegsPaid ? LoadState.Closed : LoadState.Billed;
        }

        var deliveries = facts.Stops.Where(s => s.Kind == StopKind.Delivery && !s.Refused).ToList();
        if (deliveries.Count > 0 && deliveries.All(s => s.Done))
        {
            return facts.BillsNobody && facts.LegsPaid ? LoadState.Closed : LoadState.Delivered;
        }

        if (facts.Stops.Any(s => s.Left || (s.Kind == StopKind.Delivery && s.Done)))
        {
            return LoadState.Rolling;
        }

        return facts.Legs.FirstOrDefault(LegCover.Open) switch
        {
            LegCover.Covered => LoadState.Covered,
            LegCover.Tendered => LoadState.Tendered,
            _ => facts.IsQuoted ? LoadState.Quoted : LoadState.Booked,
        };
    }

    /// <summary>Whether its freight is on the way or still to be moved.</summary>
    public static bool IsAhead(this LoadState state) =>
        state is LoadState.Booked or LoadState.Tendered or LoadState.Covered or LoadState.Rolling;

    /// <summary>The first leg without a truck for certain, counted from the leg in progress at 0; null when none is to be covered.</summary>
    /// <param name="legs">The leg in progress and those after it.</param>
    public static int? ToCover(LoadState state, IReadOnlyList<LegCover> legs) =>
        state.IsAhead() && legs.ToList().FindIndex(c => c != LegCover.Covered) is >= 0 and var leg ? leg : null;

    /// <summary>The state a load would be in that had only this leg.</summary>
    /// <param name="begun">Whether the leg's truck has the freight.</param>
    /// <param name="ended">Whether it left the freight at a transfer.</param>
    public static LoadState OfLeg(LoadState load, LegCover cover, bool begun, bool ended) =>
        !load.IsAhead() ? load
        : ended ? LoadState.Delivered
        : cover switch
        {
            LegCover.Open => LoadState.Booked,
            LegCover.Tendered => LoadState.Tendered,
            _ => begun ? LoadState.Rolling : LoadState.Covered,
        };
}
