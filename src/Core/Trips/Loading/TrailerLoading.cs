using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;

namespace SteadyLark.Core.Trips.Loading;

/// <summary>What goes where on a trip's trailer: orders in compartments, vehicles on decks.</summary>
public static class TrailerLoading
{
    /// <summary>Plans one of a trip's trailers, with what is in it.</summary>
    /// <inheritdoc cref="Of(IReadOnlyList{Visit}, TripLimits, string, IReadOnlyList{LoadedAt}?, Predicate{TripLeg}?)"/>
    public static LoadingPlan Of(IReadOnlyList<Visit> visits, Rig rig, TripTrailer? trailer, IReadOnlyList<LoadedAt>? loaded = null) =>
        Of(visits, rig.Limits(trailer), trailer?.Unit ?? "", loaded, l => rig.Of(l) == trailer);

    /// <summary>Plans a trip's trailer. Freight of other kinds is left out, as are trailers without compartments or decks.</summary>
    /// <param name="trailer">Its unit number.</param>
    /// <param name="loaded">Where freight was loaded; it counts for legs that were picked up.</param>
    /// <param name="inside">Whether a leg's freight is in this trailer; all of it when null.</param>
    public static LoadingPlan Of(
        IReadOnlyList<Visit> visits,
        TripLimits limits,
        string trailer,
        IReadOnlyList<LoadedAt>? loaded = null,
        Predicate<TripLeg>? inside = null
    )
    {
        var lines = Lines(visits, limits.Layout, loaded ?? [], inside);
        return lines.Count == 0 ? LoadingPlan.Empty
            : limits.Layout.Compartments.Count > 0 && lines.Where(l => l.Cargo.Bulk is not null).ToList() is { Count: > 0 } orders
                ? TankLoading.Plan(orders, visits, limits, trailer)
            : limits.Layout.Decks.Count > 0 && lines.Where(l => l.Cargo.Vehicle is not null).ToList() is { Count: > 0 } vehicles
                ? DeckLoading.Plan(vehicles, visits, limits, trailer)
            : LoadingPlan.Empty;
    }

    /// <summary>Why one load alone does not go on a trailer; none when it does.</summary>
    /// <param name="cargo">Its freight, all of it on board at the same time.</param>
    public static Problems Alone(string load, IReadOnlyList<CargoLine> cargo, string town, TripLimits limits, string trailer)
    {
        if (!cargo.Any(c => c.Bulk is not null || c.Vehicle is not null))
        {
            return new Problems([]);
        }

        var (zone, window) = (NodaTime.DateTimeZone.Utc, new Span(NodaTime.Instant.MinValue, NodaTime.Instant.MaxValue));
        var stops = new[] { StopKind.Pickup, StopKind.Delivery }.Select((k, i) => new PlannedStop(i + 1, k, default, window)).ToList();
        var leg = new TripLeg(0, 0, load, stops, [town, town], [zone, zone], cargo);
        return Of([new Visit(leg, 0), new Visit(leg, 1)], limits, trailer).Problems;
    }

    /// <summary>What tells the plans of two orders of visits apart; null when nothing of a trip is placed.</summary>
    /// <param name="inside">Whether a leg's freight is in the trailer that is planned; all of it when null.</param>
    internal static string? Key(IReadOnlyList<Visit> visits, Predicate<TripLeg>? inside = null) =>
        visits.Any(v => inside?.Invoke(v.Leg) != false && v.Leg.Cargo.Any(c => c.Bulk is not null || c.Vehicle is not null))
            ? string.Join(
                ' ',
                visits
                    .Where(v => v.Leg.Own?.Kind == TripStopKind.Wash || ((v.Begins || v.Ends) && inside?.Invoke(v.Leg) != false))
                    .Select(v => v.Leg.Own is null ? $"{(v.Begins ? '+' : '-')}{v.Leg.LegId}" : "w")
            )
            : null;

    private static List<LoadingLine> Lines(
        IReadOnlyList<Visit> visits,
        TrailerLayout layout,
        IReadOnlyList<LoadedAt> loaded,
        Predicate<TripLeg>? inside
    )
    {
        var at = loaded.ToLookup(l => (l.LegId, l.Line));
        var lines = new List<LoadingLine>();
        for (var i = 0; i < visits.Count; i++)
        {
            if (!visits[i].Begins || visits[i].Leg.Empty || inside?.Invoke(visits[i].Leg) == false)
            {
                continue;
            }

            var leg = visits[i].Leg;
            var until = Enumerable.Range(i, visits.Count - i).FirstOrDefault(x => visits[x].Leg == leg && visits[x].Ends, visits.Count);
            var begun = visits[i].Reached;
            lines.AddRange(leg.Cargo.Select((c, n) => new LoadingLine(leg, n + 1, c, i, until, begun ? Set(c, n + 1) : [])));

            // What does not add up any more, as the load or the trailer was changed, does not count.
            IReadOnlyList<LoadedAt> Set(CargoLine cargo, int line)
            {
                var places = cargo.Bulk is null ? layout.Decks.Count : layout.Compartments.Count;
                var set = at[(leg.LegId, line)].ToList();
                return set.All(s => s.Place < places) && set.Sum(s => s.Amount) == (cargo.Bulk?.Gallons ?? 1) ? set : [];
            }
        }

        return lines;
    }
}
