namespace SteadyLark.Core.Loads;

/// <summary>Where a load stands. Nobody types one: it is derived by <see cref="LoadStates.Derive"/>.</summary>
public enum LoadState
{
    Draft,
    Quoted,
    Booked,
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

/// <summary>What happened at a stop. A pickup is done when the truck left it, a delivery when it was delivered or left. One that was refused never delivers.</summary>
public sealed record StopFacts(StopKind Kind, bool Arrived, bool Left, bool Delivered, bool Refused = false)
{
    public bool Done => Left || (Kind == StopKind.Delivery && Delivered);
}

/// <summary>All that decides a load's state.</summary>
/// <param name="IsDraft">Kept without being booked.</param>
/// <param name="IsQuoted">Priced to the customer, not yet accepted.</param>
/// <param name="IsCancelled">Called off.</param>
/// <param name="Stops">In order.</param>
/// <param name="LegsCovered">One per leg: whether someone has it.</param>
/// <param name="OnInvoice">Stands on an invoice that was not voided.</param>
/// <param name="InvoicePaid">That invoice is paid in full.</param>
/// <param name="MoverPaid">Every leg's carrier or driver was paid.</param>
public sealed record LoadFacts(
    bool IsDraft,
    bool IsQuoted,
    bool IsCancelled,
    IReadOnlyList<StopFacts> Stops,
    IReadOnlyList<bool> LegsCovered,
    bool OnInvoice,
    bool InvoicePaid,
    bool MoverPaid);

public static class LoadStates
{
    /// <summary>The state as a person reads it, such as <c>canceled</c>.</summary>
    public static string Format(this LoadState state) => state == LoadState.Cancelled ? "canceled" : state.ToString().ToLowerInvariant();

    /// <summary>
    /// The one function that says where a load stands: the furthest thing that is true of it. Covered when every leg has
    /// someone; rolling from the first departure to the last delivery; closed when the customer paid and the carrier or driver was paid.
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
            return facts.InvoicePaid && facts.MoverPaid ? LoadState.Closed : LoadState.Billed;
        }

        var deliveries = facts.Stops.Where(s => s.Kind == StopKind.Delivery && !s.Refused).ToList();
        if (deliveries.Count > 0 && deliveries.All(s => s.Done))
        {
            return LoadState.Delivered;
        }

        if (facts.Stops.Any(s => s.Left || (s.Kind == StopKind.Delivery && s.Done)))
        {
            return LoadState.Rolling;
        }

        if (facts.LegsCovered.Count > 0 && facts.LegsCovered.All(c => c))
        {
            return LoadState.Covered;
        }

        return facts.IsQuoted ? LoadState.Quoted : LoadState.Booked;
    }
}
