using SteadyLark.Core.Basics;
using SteadyLark.Core.People;

namespace SteadyLark.Core.Trips;

/// <summary>An expense as a trip's cost counts it.</summary>
/// <param name="LoadId">The load it is for; null when all loads of the trip share it.</param>
/// <param name="Amount">In US dollars.</param>
/// <param name="Gallons">US gallons, of fuel; null when unknown.</param>
public sealed record SpentOnTrip(CostKind Kind, long? LoadId, Money Amount, decimal? Gallons);

/// <summary>What was planned and spent of one kind on a trip, in US dollars.</summary>
/// <param name="Spent">Null when no expense was entered.</param>
/// <param name="Gallons">US gallons bought, of fuel; null when none.</param>
public sealed record SpendingLine(
    CostKind Kind,
    [property: SeenWith(Right.MarginsSee)] Money Planned,
    [property: SeenWith(Right.MarginsSee)] Money? Spent,
    decimal? Gallons
);

/// <summary>What was planned for a trip next to what was spent on it.</summary>
public static class TripSpending
{
    /// <summary>Fuel and tolls, and every other kind of which something was planned or spent.</summary>
    /// <param name="fuel">Planned, of all legs.</param>
    /// <param name="tolls">Planned, of all legs.</param>
    /// <param name="others">What else was planned.</param>
    public static IReadOnlyList<SpendingLine> Lines(
        Money fuel,
        Money tolls,
        IEnumerable<EnteredCost> others,
        IReadOnlyList<SpentOnTrip> spent
    )
    {
        var plans = others.ToLookup(c => c.Kind, c => c.Amount);
        return Enum.GetValues<CostKind>()
            .Select(kind =>
            {
                var of = spent.Where(s => s.Kind == kind).ToList();
                return new SpendingLine(
                    kind,
                    kind == CostKind.Fuel ? fuel
                        : kind == CostKind.Toll ? tolls
                        : Money.Sum(plans[kind]),
                    of.Count == 0 ? null : Money.Sum(of.Select(s => s.Amount)),
                    kind.IsFuel() && of.Any(s => s.Gallons is not null) ? of.Sum(s => s.Gallons ?? 0) : null
                );
            })
            .Where(l => l.Kind is CostKind.Fuel or CostKind.Toll || l.Spent is not null || l.Planned.Amount > 0)
            .ToList();
    }

    /// <summary>Dollars a gallon, on average of the truck's fuel bought on a trip; null when none was, or not all gallons are
    /// known.</summary>
    /// <example>100 gallons for $380 and 50 for $200: $3.8667.</example>
    public static decimal? FuelPaid(IEnumerable<SpentOnTrip> spent)
    {
        var fuel = spent.Where(s => s.Kind == CostKind.Fuel).ToList();
        return fuel.Count > 0 && fuel.All(s => s.Gallons > 0) ? fuel.Sum(s => s.Amount.Amount) / fuel.Sum(s => s.Gallons!.Value) : null;
    }

    /// <summary>A leg's share of what was spent on its trip; the shares of all legs add up.</summary>
    public static IEnumerable<EnteredCost> OfLeg(IEnumerable<SpentOnTrip> spent, IReadOnlyList<ExpenseLeg> legs, long legId) =>
        spent.SelectMany(s =>
            TripExpense.Shares(s.Amount, s.LoadId, legs).Where(x => x.Leg.LegId == legId).Select(x => new EnteredCost(s.Kind, x.Amount))
        );
}
