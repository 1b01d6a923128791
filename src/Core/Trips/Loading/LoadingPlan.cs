using System.Globalization;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips.Loading;

/// <summary>Freight that stays where it is loaded until it is delivered: an order in a compartment, or a vehicle on a deck.</summary>
/// <param name="Line">Its line of the load's freight, from 1.</param>
/// <param name="What">The product, or the vehicle.</param>
/// <param name="Place">Its compartment or deck, from 0.</param>
/// <param name="Amount">Gallons in this compartment; 1 for a vehicle.</param>
/// <param name="WeightLb">Of this amount, in pounds.</param>
/// <param name="LengthIn">Of a vehicle, in inches; 0 for an order.</param>
/// <param name="From">The visit at which it is loaded, from 0; <paramref name="Until"/> is the one at which it is delivered.</param>
public sealed record Placed(
    long LegId,
    string Load,
    int Line,
    string What,
    int Place,
    decimal Amount,
    decimal WeightLb,
    int LengthIn,
    int From,
    int Until
)
{
    /// <summary>Whether it is on board after a visit.</summary>
    public bool After(int visit) => From <= visit && visit < Until;
}

/// <summary>A compartment that has to be washed at a visit.</summary>
public sealed record Washed(int Visit, int Place);

/// <summary>What goes where on a trip's trailer.</summary>
/// <param name="Placed">Empty with problems.</param>
/// <param name="Washes">The fewest that do.</param>
/// <param name="Problems">Why it cannot all be loaded.</param>
/// <param name="Warnings">What has to be moved for a delivery.</param>
public sealed record LoadingPlan(
    IReadOnlyList<Placed> Placed,
    IReadOnlyList<Washed> Washes,
    Problems Problems,
    IReadOnlyList<string> Warnings
)
{
    public static readonly LoadingPlan Empty = new([], [], new Problems([]), []);

    /// <summary>Where a leg's freight goes, for its driver.</summary>
    /// <example>1,500 gal corn syrup in compartment 2</example>
    public IReadOnlyList<string> Of(long legId, TrailerLayout layout) =>
        Placed
            .Where(p => p.LegId == legId)
            .OrderBy(p => p.Place)
            .Select(p =>
                layout.Compartments.Count > 0
                    ? string.Create(CultureInfo.InvariantCulture, $"{p.Amount:#,##0.#} gal {p.What} in compartment {p.Place + 1}")
                    : $"{p.What.Capitalized()}: {layout.Decks[p.Place].Name}"
            )
            .ToList();

    internal static LoadingPlan Refused(string code, string message) => new([], [], new Problems([new Problem(code, message)]), []);
}

/// <summary>Where a part of a leg's freight was loaded.</summary>
/// <param name="Line">Its line of the load's freight, from 1.</param>
/// <param name="Place">Its compartment or deck, from 0.</param>
/// <param name="Amount">Gallons; 1 for a vehicle.</param>
public sealed record LoadedAt(long LegId, int Line, int Place, decimal Amount);

/// <summary>A leg's line of freight on a trip.</summary>
/// <param name="From">The visit at which it is loaded, from 0; <paramref name="Until"/> is the one at which it is delivered.</param>
/// <param name="Set">Where it was loaded; empty while it was not.</param>
internal sealed record LoadingLine(TripLeg Leg, int Line, CargoLine Cargo, int From, int Until, IReadOnlyList<LoadedAt> Set)
{
    public string Load => Leg.Number;

    public bool Overlaps(LoadingLine other) => From < other.Until && other.From < Until;
}
