namespace SteadyLark.Core.Trips.Loading;

/// <summary>A compartment or deck of a trip's trailer, from the front.</summary>
/// <param name="Gallons">Of a compartment; null for a deck.</param>
/// <param name="LengthIn">Of a deck; null for a compartment, as are <paramref name="HeightIn"/> and <paramref name="PayloadLb"/>.</param>
public sealed record LoadingPlace(string Name, decimal? Gallons, int? LengthIn, int? HeightIn, int? PayloadLb);

/// <summary>Freight in a compartment or on a deck.</summary>
/// <param name="Amount">Gallons; 1 for a vehicle.</param>
/// <param name="LengthIn">Of a vehicle; 0 for an order.</param>
public sealed record LoadedFreight(string Load, string What, decimal Amount, decimal WeightLb, int LengthIn);

/// <summary>What is in a compartment or on a deck after a visit.</summary>
/// <param name="Freight">On a deck from the front.</param>
/// <param name="Room">Gallons or inches left; on a deck beside the gap to the last vehicle.</param>
/// <param name="RoomLb">Pounds left on a deck; null for a compartment.</param>
/// <param name="Wash">Whether it has to be washed at this visit.</param>
public sealed record PlaceAfter(IReadOnlyList<LoadedFreight> Freight, decimal Room, decimal? RoomLb, bool Wash);

/// <summary>A trailer after a visit.</summary>
/// <param name="Axles">What the axle groups carry, for a tank trailer; null for a car hauler.</param>
public sealed record LoadingAfter(IReadOnlyList<PlaceAfter> Places, AxleWeights? Axles);

/// <summary>What is where on one of a trip's trailers after each of its visits.</summary>
/// <param name="Trailer">Its unit number.</param>
/// <param name="Problems">Why not all of it can be loaded, in sentences; then the places are empty.</param>
public sealed record TripLoading(
    string Trailer,
    IReadOnlyList<LoadingPlace> Places,
    IReadOnlyList<LoadingAfter> After,
    IReadOnlyList<string> Problems
)
{
    /// <summary>Of a plan; null for a trailer without compartments and decks.</summary>
    /// <param name="visits">How many the trip makes.</param>
    public static TripLoading? Of(LoadingPlan plan, int visits, TripLimits limits, string trailer)
    {
        var (compartments, decks) = (limits.Layout.Compartments, limits.Layout.Decks);
        return compartments.Count + decks.Count == 0
            ? null
            : new TripLoading(
                trailer,
                [
                    .. compartments.Select((c, i) => new LoadingPlace($"{i + 1}", c, null, null, null)),
                    .. decks.Select(d => new LoadingPlace(d.Name, null, d.LengthIn, d.HeightIn, d.PayloadLb)),
                ],
                Enumerable.Range(0, visits).Select(After).ToList(),
                plan.Problems.Select(p => p.Message).ToList()
            );

        LoadingAfter After(int visit)
        {
            var aboard = plan.Placed.Where(p => p.After(visit)).ToList();
            return new LoadingAfter(
                Enumerable.Range(0, compartments.Count + decks.Count).Select(p => Place(p, aboard, visit)).ToList(),
                compartments.Count > 0 ? Axles.Of(limits, aboard.Select(p => (p.Place, p.WeightLb))) : null
            );
        }

        PlaceAfter Place(int place, List<Placed> aboard, int visit)
        {
            var here = aboard.Where(p => p.Place == place).ToList();
            var deck = compartments.Count == 0 ? decks[place] : null;
            return new PlaceAfter(
                here.Select(p => new LoadedFreight(p.Load, p.What, p.Amount, p.WeightLb, p.LengthIn)).ToList(),
                deck is null
                    ? compartments[place] - here.Sum(p => p.Amount)
                    : Math.Max(0, deck.LengthIn - here.Sum(p => p.LengthIn + TrailerLayout.GapIn)),
                deck?.PayloadLb - here.Sum(p => p.WeightLb),
                plan.Washes.Contains(new Washed(visit, place))
            );
        }
    }
}
