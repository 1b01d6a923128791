using Google.OrTools.Sat;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips.Loading;

/// <summary>
/// Vehicles on the decks of a car hauler over a whole trip. A vehicle stays on its deck from its pickup to its delivery; on a deck the lengths with
/// the gap between them, the heights and the weights fit after every visit. A deck is loaded and unloaded from its rear: of what is possible, the
/// fewest vehicles have to be moved for others.
/// </summary>
internal sealed class DeckLoading
{
    private const long PerMove = 1_000;

    private readonly IReadOnlyList<LoadingLine> _vehicles;
    private readonly IReadOnlyList<Visit> _visits;
    private readonly TripLimits _limits;
    private readonly string _trailer;
    private readonly List<List<int>> _aboard;

    /// <summary>For each visit how many places the truck was in before: visits to one place in a row may be made in any order.</summary>
    private readonly List<int> _places = [];

    private DeckLoading(IReadOnlyList<LoadingLine> vehicles, IReadOnlyList<Visit> visits, TripLimits limits, string trailer)
    {
        (_vehicles, _visits, _limits, _trailer) = (vehicles, visits, limits, trailer);
        for (var i = 0; i < visits.Count; i++)
        {
            _places.Add(i == 0 ? 0 : _places[i - 1] + (visits[i].Stop.Point == visits[i - 1].Stop.Point ? 0 : 1));
        }

        _aboard = visits
            .Select((_, i) => Enumerable.Range(0, vehicles.Count).Where(v => vehicles[v].From <= i && i < vehicles[v].Until).ToList())
            .Where(a => a.Count > 0)
            .DistinctBy(a => string.Join(' ', a))
            .ToList();
    }

    private IReadOnlyList<TrailerDeck> Decks => _limits.Layout.Decks;

    /// <summary>Where vehicles go, or why they cannot.</summary>
    public static LoadingPlan Plan(IReadOnlyList<LoadingLine> vehicles, IReadOnlyList<Visit> visits, TripLimits limits, string trailer)
    {
        var hauler = new DeckLoading(vehicles, visits, limits, trailer);
        var alone = Enumerable.Range(0, vehicles.Count).Select(hauler.Refuses).OfType<Problem>().ToList();
        return alone.Count > 0 ? new LoadingPlan([], [], new Problems(alone), [])
            : hauler.Solve(all: true) is { } decks ? new LoadingPlan(hauler.Places(decks), [], new Problems([]), hauler.Moved(decks))
            : hauler.Why();
    }

    /// <summary>Why a vehicle fits on no deck even alone; null when it does.</summary>
    private Problem? Refuses(int vehicle)
    {
        var (cargo, name) = (_vehicles[vehicle].Cargo, Named(vehicle).Capitalized());
        var (length, height, weight) = (cargo.LengthIn ?? 0, cargo.HeightIn ?? 0, cargo.WeightLb ?? 0);
        return !cargo.Vehicle!.Runs && !_limits.Layout.Winch
                ? new Problem("deck.winch", $"{name} does not run, and trailer {_trailer} has no winch.")
            : Decks.Max(d => d.HeightIn) < height
                ? new Problem(
                    "deck.height",
                    $"{name} is {Capacity.Feet(height)} high, {Over(height - Decks.Max(d => d.HeightIn), "in")} too tall for every deck of trailer {_trailer}."
                )
            : Decks.Max(d => d.LengthIn) < length
                ? new Problem(
                    "deck.length",
                    $"{name} is {Capacity.Feet(length)} long, {Over(length - Decks.Max(d => d.LengthIn), "in")} too long for every deck of trailer {_trailer}."
                )
            : Decks.Max(d => d.PayloadLb) < weight
                ? new Problem(
                    "deck.weight",
                    $"{name} weighs {weight:#,##0} lb, {Over(weight - Decks.Max(d => d.PayloadLb), "lb")} too much for every deck of trailer {_trailer}."
                )
            : !Enumerable.Range(0, Decks.Count).Any(d => Takes(vehicle, d))
                ? new Problem("deck.size", $"No deck of trailer {_trailer} is long, high and strong enough for {Named(vehicle)}.")
            : null;

        static string Over(int by, string unit) => $"{by:#,##0} {unit}";
    }

    private bool Takes(int vehicle, int deck) =>
        _vehicles[vehicle].Cargo is var c
        && (c.LengthIn ?? 0) <= Decks[deck].LengthIn
        && (c.HeightIn ?? 0) <= Decks[deck].HeightIn
        && (c.WeightLb ?? 0) <= Decks[deck].PayloadLb;

    private LoadingPlan Why()
    {
        if (Solve(all: false) is not { } most)
        {
            return LoadingPlan.Refused(
                "deck.full",
                $"What is on board already does not leave trailer {_trailer} room for {Named(_vehicles.Count - 1)}."
            );
        }

        var problems = Enumerable
            .Range(0, _vehicles.Count)
            .Where(v => most[v] is null)
            .Select(v =>
            {
                var town = _visits[_vehicles[v].From].Town;
                // The busiest time while it is on board.
                var others = _aboard.Where(a => a.Contains(v)).Select(a => a.Where(o => most[o] is not null).ToList()).ToList();
                var heavy = others.Max(a => a.Sum(Weight)) + Weight(v) - _limits.MostLb;
                return heavy > 0
                    ? new Problem("capacity.weight", $"After {town}, {Named(v)} makes trailer {_trailer} {heavy:#,##0} lb too heavy.")
                    : new Problem(
                        "deck.full",
                        $"After {town}, {Named(v)} does not fit on trailer {_trailer} with the others: {Lacking(v, others, most)}."
                    );
            })
            .ToList();
        return new LoadingPlan([], [], new Problems(problems), []);
    }

    /// <summary>What a vehicle lacks on the decks that would take it alone: length, or pounds where there is length.</summary>
    /// <param name="others">The vehicles on board with it, after each visit.</param>
    private string Lacking(int vehicle, List<List<int>> others, IReadOnlyList<int?> decks)
    {
        var length = _vehicles[vehicle].Cargo.LengthIn ?? 0;
        var room = Enumerable
            .Range(0, Decks.Count)
            .Where(d => Takes(vehicle, d))
            .Select(d =>
                (
                    Inches: others.Min(a => Room(d, a, decks)),
                    Pounds: others.Min(a => Decks[d].PayloadLb - a.Where(o => decks[o] == d).Sum(Weight))
                )
            )
            .ToList();
        var longest = room.Max(r => r.Inches);
        return longest >= length
                ? $"it weighs {Weight(vehicle):#,##0} lb, and at most {room.Where(r => r.Inches >= length).Max(r => r.Pounds):#,##0} lb are left on a deck with room for it"
            : longest > 0 ? $"it needs {Capacity.Feet(length)}, and at most {Capacity.Feet(longest)} are left on a deck"
            : "no deck has room";
    }

    /// <summary>Inches of a deck beside the vehicles on it.</summary>
    private int Room(int deck, IEnumerable<int> aboard, IReadOnlyList<int?> decks) =>
        Decks[deck].LengthIn - aboard.Where(o => decks[o] == deck).Sum(o => (_vehicles[o].Cargo.LengthIn ?? 0) + TrailerLayout.GapIn);

    /// <summary>The deck of each vehicle.</summary>
    /// <param name="all">Whether each has to be loaded; otherwise as many as go.</param>
    private List<int?>? Solve(bool all)
    {
        var model = new CpModel();
        var on = new BoolVar[_vehicles.Count, Decks.Count];
        var aim = LinearExpr.NewBuilder();
        for (var v = 0; v < _vehicles.Count; v++)
        {
            for (var d = 0; d < Decks.Count; d++)
            {
                on[v, d] = model.NewBoolVar("");
                if (_vehicles[v].Set.Count == 0 && !Takes(v, d))
                {
                    model.Add(on[v, d] == 0);
                }

                // From the front of the trailer.
                aim.AddTerm(on[v, d], d);
            }

            var decks = Enumerable.Range(0, Decks.Count).Select(d => on[v, d]).ToList();
            if (_vehicles[v].Set is [var set, ..])
            {
                model.Add(on[v, set.Place] == 1);
            }

            if (all || _vehicles[v].Set.Count > 0)
            {
                model.AddExactlyOne(decks);
            }
            else
            {
                model.AddAtMostOne(decks);
                decks.ForEach(d => aim.AddTerm(d, -1_000 * PerMove));
            }
        }

        Limit(model, on);
        foreach (var (first, second) in Behind())
        {
            for (var d = 0; d < Decks.Count; d++)
            {
                var both = model.NewBoolVar("");
                model.AddBoolOr([on[first, d].Not(), on[second, d].Not(), both]);
                aim.AddTerm(both, PerMove);
            }
        }

        model.Minimize(aim);
        var solver = new CpSolver { StringParameters = "num_workers:1,random_seed:1,max_deterministic_time:2" };
        return solver.Solve(model) is CpSolverStatus.Optimal or CpSolverStatus.Feasible
            ? Enumerable
                .Range(0, _vehicles.Count)
                .Select(v =>
                    Enumerable.Range(0, Decks.Count).Where(d => solver.BooleanValue(on[v, d])).Select(d => (int?)d).FirstOrDefault()
                )
                .ToList()
            : null;
    }

    private void Limit(CpModel model, BoolVar[,] on)
    {
        // What was loaded already is not refused again.
        foreach (var aboard in _aboard.Where(a => a.Any(v => _vehicles[v].Set.Count == 0)))
        {
            var weight = LinearExpr.NewBuilder();
            for (var d = 0; d < Decks.Count; d++)
            {
                var (length, heavy) = (LinearExpr.NewBuilder(), LinearExpr.NewBuilder());
                foreach (var v in aboard)
                {
                    length.AddTerm(on[v, d], (_vehicles[v].Cargo.LengthIn ?? 0) + TrailerLayout.GapIn);
                    heavy.AddTerm(on[v, d], Weight(v));
                    weight.AddTerm(on[v, d], Weight(v));
                }

                model.Add(length <= Decks[d].LengthIn + TrailerLayout.GapIn);
                model.Add(heavy <= Decks[d].PayloadLb);
            }

            model.Add(weight <= _limits.MostLb);
        }
    }

    /// <summary>Pairs that are in each other's way on one deck: what is loaded first leaves first, while the other is behind it.</summary>
    private IEnumerable<(int First, int Second)> Behind() =>
        from a in Enumerable.Range(0, _vehicles.Count)
        from b in Enumerable.Range(0, _vehicles.Count)
        where From(a) < From(b) && From(b) < Until(a) && Until(a) < Until(b)
        select (a, b);

    private int From(int vehicle) => _places[_vehicles[vehicle].From];

    private int Until(int vehicle) => _vehicles[vehicle].Until < _places.Count ? _places[_vehicles[vehicle].Until] : int.MaxValue;

    private List<string> Moved(List<int?> decks) =>
        Behind()
            .Where(p => decks[p.First] == decks[p.Second] && !_visits[_vehicles[p.First].Until].Reached)
            .GroupBy(p => p.First)
            .Select(g =>
                $"In {_visits[_vehicles[g.Key].Until].Town}, {Named(g.Key)} is behind {string.Join(" and ", g.Select(p => Named(p.Second)))} on the {Decks[decks[g.Key]!.Value].Name} deck: plan time to move {(g.Count() == 1 ? "it" : "them")}."
            )
            .ToList();

    /// <summary>From the front of each deck: what is loaded first, and of that what is delivered last.</summary>
    private List<Placed> Places(List<int?> decks) =>
        _vehicles
            .Select((v, i) => (v, At: i, Deck: decks[i]!.Value, Name: v.Cargo.Vehicle!.Name is { Length: > 0 } name ? name : "vehicle"))
            .OrderBy(x => x.Deck)
            .ThenBy(x => From(x.At))
            .ThenByDescending(x => Until(x.At))
            .Select(x => new Placed(
                x.v.Leg.LegId,
                x.v.Load,
                x.v.Line,
                x.Name,
                x.Deck,
                1,
                x.v.Cargo.WeightLb ?? 0,
                x.v.Cargo.LengthIn ?? 0,
                x.v.From,
                x.v.Until
            ))
            .ToList();

    private int Weight(int vehicle) => _vehicles[vehicle].Cargo.WeightLb ?? 0;

    private string Named(int vehicle) =>
        $"the {(_vehicles[vehicle].Cargo.Vehicle!.Name is { Length: > 0 } name ? name : "vehicle")} (load {_vehicles[vehicle].Load})";
}
