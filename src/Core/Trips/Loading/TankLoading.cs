using System.Globalization;
using Google.OrTools.Sat;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips.Loading;

/// <summary>
/// Orders in the compartments of a tank trailer over a whole trip. An order is in the same compartments from its pickup to its delivery, whole or
/// in parts. A compartment holds one product at a time; orders of one product share it unless one wants it to itself; a product follows one that
/// soils it only after a wash. Weight and axle groups stay legal after every visit. Of what is possible, the fewest washes, then the fewest
/// compartments.
/// </summary>
internal sealed class TankLoading
{
    /// <summary>Pounds in the solver, in millionths.</summary>
    private const double Millionths = 1_000_000;

    private const long PerWash = 1_000_000_000;
    private const long PerCompartment = 10_000_000;

    private readonly IReadOnlyList<LoadingLine> _orders;
    private readonly IReadOnlyList<Visit> _visits;
    private readonly TripLimits _limits;
    private readonly string _trailer;
    private readonly List<int> _washes;
    private readonly List<List<int>> _aboard;

    /// <summary>Parts of a gallon that are counted: whole gallons where all orders are, otherwise tenths.</summary>
    private readonly int _parts;

    private TankLoading(IReadOnlyList<LoadingLine> orders, IReadOnlyList<Visit> visits, TripLimits limits, string trailer)
    {
        (_orders, _visits, _limits, _trailer) = (orders, visits, limits, trailer);
        _parts = orders.All(o => o.Cargo.Bulk!.Gallons % 1 == 0 && o.Set.All(s => s.Amount % 1 == 0)) ? 1 : 10;
        _washes = Enumerable.Range(0, visits.Count).Where(i => visits[i].Leg.Own?.Kind == TripStopKind.Wash).ToList();
        _aboard = Enumerable
            .Range(0, visits.Count)
            .Select(i => Enumerable.Range(0, orders.Count).Where(o => orders[o].From <= i && i < orders[o].Until).ToList())
            .Where(a => a.Count > 0)
            .DistinctBy(a => string.Join(' ', a))
            .ToList();
    }

    /// <summary>What is asked of the solver.</summary>
    /// <param name="Wash">Whether washes are needed.</param>
    /// <param name="Axles">Whether axle groups are limited.</param>
    /// <param name="Parts">Whether orders may be loaded in part.</param>
    private sealed record Question(bool Wash = true, bool Axles = true, bool Parts = false);

    /// <summary>Gallons of each order in each compartment, and compartments washed at visits.</summary>
    private sealed record Answer(decimal[,] Gallons, IReadOnlyList<Washed> Washes);

    private IReadOnlyList<decimal> Compartments => _limits.Layout.Compartments;

    /// <summary>Where orders go, or why they cannot.</summary>
    public static LoadingPlan Plan(IReadOnlyList<LoadingLine> orders, IReadOnlyList<Visit> visits, TripLimits limits, string trailer)
    {
        var tank = new TankLoading(orders, visits, limits, trailer);
        return tank.Apart() is { } apart ? LoadingPlan.Refused("tank.apart", apart)
            : tank.Solve(new Question()) is { } answer ? new LoadingPlan(tank.Places(answer), answer.Washes, new Problems([]), [])
            : tank.Why();
    }

    /// <summary>Two orders on board together that may not be, in words.</summary>
    private string? Apart()
    {
        for (var a = 0; a < _orders.Count; a++)
        {
            for (var b = a + 1; b < _orders.Count; b++)
            {
                if (
                    _orders[a].Overlaps(_orders[b])
                    && (
                        _orders[a].Cargo.Bulk!.Apart.Contains(_orders[b].Cargo.Bulk!.ProductId)
                        || _orders[b].Cargo.Bulk!.Apart.Contains(_orders[a].Cargo.Bulk!.ProductId)
                    )
                )
                {
                    return $"{Named(a).Capitalized()} and {Named(b)} may not be on one trailer together.";
                }
            }
        }

        return null;
    }

    private LoadingPlan Why()
    {
        if (Solve(new Question(Wash: false, Axles: false)) is null)
        {
            return Solve(new Question(Wash: false, Axles: false, Parts: true)) is { } most
                ? TooMuch(most)
                : LoadingPlan.Refused(
                    "tank.full",
                    $"What is on board already does not leave trailer {_trailer} room for {Named(_orders.Count - 1)}."
                );
        }

        if (Solve(new Question(Axles: false)) is null && Unwashed() is { } pair)
        {
            var (a, b) = pair;
            return LoadingPlan.Refused(
                "tank.wash",
                $"{Product(b).Capitalized()} may not follow {Product(a)} without a wash, and no compartment of trailer {_trailer} is left for it: add a wash after {_visits[_orders[a].Until].Town} and before {_visits[_orders[b].From].Town}."
            );
        }

        var heavy = Solve(new Question(Axles: false)) ?? Solve(new Question(Wash: false, Axles: false))!;
        return LoadingPlan.Refused("tank.axles", Overweight(heavy));
    }

    /// <summary>The first two orders that share a compartment only after a wash, which is not on the trip, when everything else is allowed.</summary>
    private (int, int)? Unwashed()
    {
        var answer = Solve(new Question(Wash: false, Axles: false))!;
        for (var c = 0; c < Compartments.Count; c++)
        {
            for (var a = 0; a < _orders.Count; a++)
            {
                for (var b = 0; b < _orders.Count; b++)
                {
                    if (answer.Gallons[a, c] > 0 && answer.Gallons[b, c] > 0 && NeedsWash(a, b) && WashesBetween(a, b).Count == 0)
                    {
                        return (a, b);
                    }
                }
            }
        }

        return null;
    }

    private LoadingPlan TooMuch(Answer most)
    {
        var problems = new List<Problem>();
        for (var o = 0; o < _orders.Count; o++)
        {
            var (wanted, fits) = (_orders[o].Cargo.Bulk!.Gallons, Sum(most, o));
            if (fits < wanted)
            {
                var heavy = _aboard.Any(a => a.Contains(o) && a.Sum(x => Weight(x, Sum(most, x))) > _limits.MostLb - Weight(o, 1));
                problems.Add(
                    new Problem(
                        heavy ? "capacity.weight" : "tank.full",
                        $"After {_visits[_orders[o].From].Town}, {Gallons(wanted)} of {Product(o)} (load {_orders[o].Load}) {(heavy ? $"make trailer {_trailer} too heavy" : $"do not fit in trailer {_trailer}")}: {(fits > 0 ? $"{Gallons(fits)} would {(heavy ? "be legal" : "fit")}, {Gallons(wanted - fits)} less" : "no compartment is left")}."
                    )
                );
            }
        }

        return new LoadingPlan([], [], new Problems(problems), []);
    }

    private string Overweight(Answer answer)
    {
        foreach (var aboard in _aboard)
        {
            var w = Axles.Of(
                _limits,
                aboard.SelectMany(o => Enumerable.Range(0, Compartments.Count).Select(c => (c, Weight(o, answer.Gallons[o, c]))))
            );
            var groups = new[] { w.SteerLb, w.DriveLb, w.TrailerLb };
            for (var g = 0; g < groups.Length; g++)
            {
                if (groups[g] > Axles.Limits[g])
                {
                    return $"However it is loaded, trailer {_trailer} with {string.Join(" and ", aboard.Select(Named))} is over an axle limit: the {Axles.Names[g]} would carry {groups[g]:#,##0} lb, and {Axles.Limits[g]:#,##0} lb is legal (23 CFR 658.17).";
                }
            }
        }

        return $"However it is loaded, trailer {_trailer} is over an axle limit (23 CFR 658.17).";
    }

    private Answer? Solve(Question asked)
    {
        var model = new CpModel();
        var (n, m) = (_orders.Count, Compartments.Count);
        var (amount, used) = (new IntVar[n, m], new BoolVar[n, m]);
        var aim = LinearExpr.NewBuilder();
        for (var o = 0; o < n; o++)
        {
            var wanted = (long)(_orders[o].Cargo.Bulk!.Gallons * _parts);
            for (var c = 0; c < m; c++)
            {
                amount[o, c] = model.NewIntVar(0, Math.Min(wanted, (long)(Compartments[c] * _parts)), "");
                used[o, c] = model.NewBoolVar("");
                model.Add(amount[o, c] > 0).OnlyEnforceIf(used[o, c]);
                model.Add(amount[o, c] == 0).OnlyEnforceIf(used[o, c].Not());
                // From the middle, where the weight is shared by the axles, each compartment as full as it gets.
                aim.AddTerm(amount[o, c], (2 * Math.Abs((2 * c) - (m - 1))) + (2 * c < m ? 0 : 1));
            }

            var all = LinearExpr.Sum(Enumerable.Range(0, m).Select(c => amount[o, c]));
            Load(model, aim, o, all, wanted, asked.Parts && _orders[o].Set.Count == 0);
            foreach (var c in _orders[o].Set.Count > 0 ? Enumerable.Range(0, m) : [])
            {
                model.Add(amount[o, c] == (long)(_orders[o].Set.Where(s => s.Place == c).Sum(s => s.Amount) * _parts));
            }
        }

        Together(model, used);
        var washed = Follow(model, used, aim, asked.Wash);
        Limit(model, amount, asked.Axles);
        for (var c = 0; c < m; c++)
        {
            var any = model.NewBoolVar("");
            for (var o = 0; o < n; o++)
            {
                model.AddImplication(used[o, c], any);
            }

            aim.AddTerm(any, PerCompartment);
        }

        model.Minimize(aim);
        var solver = new CpSolver { StringParameters = "num_workers:1,random_seed:1,max_deterministic_time:2" };
        if (solver.Solve(model) is not (CpSolverStatus.Optimal or CpSolverStatus.Feasible))
        {
            return null;
        }

        var gallons = new decimal[n, m];
        for (var o = 0; o < n; o++)
        {
            for (var c = 0; c < m; c++)
            {
                gallons[o, c] = solver.Value(amount[o, c]) / (decimal)_parts;
            }
        }

        return new Answer(
            gallons,
            washed
                .Where(w => solver.BooleanValue(w.Value))
                .Select(w => new Washed(w.Key.Visit, w.Key.Place))
                .OrderBy(w => w.Visit)
                .ThenBy(w => w.Place)
                .ToList()
        );
    }

    /// <summary>An order is loaded whole or, where parts are asked for, as much of it as goes; then as many as go are whole.</summary>
    private static void Load(CpModel model, LinearExprBuilder aim, int order, LinearExpr all, long wanted, bool parts)
    {
        if (!parts)
        {
            model.Add(all == wanted);
            return;
        }

        var whole = model.NewBoolVar($"whole{order}");
        model.Add(all <= wanted);
        model.Add(all == wanted).OnlyEnforceIf(whole);
        aim.AddTerm(whole, -1_000 * PerWash);
        aim.Add(all * -PerCompartment);
    }

    /// <summary>What may be in a compartment at the same time.</summary>
    private void Together(CpModel model, BoolVar[,] used)
    {
        for (var a = 0; a < _orders.Count; a++)
        {
            for (var b = a + 1; b < _orders.Count; b++)
            {
                var (x, y) = (_orders[a].Cargo.Bulk!, _orders[b].Cargo.Bulk!);
                for (var c = 0; c < Compartments.Count; c++)
                {
                    if (_orders[a].Overlaps(_orders[b]) && (x.ProductId != y.ProductId || x.OwnCompartments || y.OwnCompartments))
                    {
                        model.AddBoolOr([used[a, c].Not(), used[b, c].Not()]);
                    }
                }
            }
        }
    }

    /// <summary>What may follow in a compartment: some products only after a wash.</summary>
    private Dictionary<(int Visit, int Place), BoolVar> Follow(CpModel model, BoolVar[,] used, LinearExprBuilder aim, bool asked)
    {
        var washed = new Dictionary<(int, int), BoolVar>();
        for (var a = 0; a < _orders.Count; a++)
        {
            for (var b = 0; b < _orders.Count; b++)
            {
                if (!asked || !NeedsWash(a, b))
                {
                    continue;
                }

                for (var c = 0; c < Compartments.Count; c++)
                {
                    var one = WashesBetween(a, b).Select(w => Wash(w, c)).ToList<ILiteral>();
                    model.AddBoolOr([used[a, c].Not(), used[b, c].Not(), .. one]);
                }
            }
        }

        return washed;

        BoolVar Wash(int visit, int place)
        {
            if (!washed.TryGetValue((visit, place), out var known))
            {
                washed[(visit, place)] = known = model.NewBoolVar("");
                aim.AddTerm(known, PerWash);
            }

            return known;
        }
    }

    /// <summary>Room, weight and axle groups whenever what is on board changes.</summary>
    private void Limit(CpModel model, IntVar[,] amount, bool axles)
    {
        var (shares, empty) = (Axles.Shares(Compartments), Axles.Empty(_limits));
        foreach (var aboard in _aboard)
        {
            // What was loaded already is not refused again.
            if (aboard.All(o => _orders[o].Set.Count > 0))
            {
                continue;
            }

            var (weight, groups) = (LinearExpr.NewBuilder(), Axles.Limits.Select(_ => LinearExpr.NewBuilder()).ToList());
            for (var c = 0; c < Compartments.Count; c++)
            {
                model.Add(LinearExpr.Sum(aboard.Select(o => amount[o, c])) <= (long)(Compartments[c] * _parts));
                foreach (var o in aboard)
                {
                    var lb = (double)Weight(o, 1) * Millionths / _parts;
                    weight.AddTerm(amount[o, c], (long)Math.Ceiling(lb));
                    for (var g = 0; g < groups.Count; g++)
                    {
                        groups[g].AddTerm(amount[o, c], (long)Math.Ceiling(lb * shares[c][g]));
                    }
                }
            }

            model.Add(weight <= (long)(_limits.MostLb * Millionths));
            for (var g = 0; axles && g < groups.Count; g++)
            {
                model.Add(groups[g] <= (long)((Axles.Limits[g] - empty[g]) * Millionths));
            }
        }
    }

    private List<Placed> Places(Answer answer) =>
        _orders
            .SelectMany(
                (o, i) =>
                    Enumerable
                        .Range(0, Compartments.Count)
                        .Where(c => answer.Gallons[i, c] > 0)
                        .Select(c => new Placed(
                            o.Leg.LegId,
                            o.Load,
                            o.Line,
                            Product(i),
                            c,
                            answer.Gallons[i, c],
                            Math.Round(Weight(i, answer.Gallons[i, c])),
                            0,
                            o.From,
                            o.Until
                        ))
            )
            .ToList();

    private bool NeedsWash(int before, int after) =>
        _orders[before].Until <= _orders[after].From && _orders[after].Cargo.Bulk!.NotAfter.Contains(_orders[before].Cargo.Bulk!.ProductId);

    private List<int> WashesBetween(int before, int after) =>
        _washes.Where(w => w > _orders[before].Until && w < _orders[after].From).ToList();

    /// <summary>Pounds of so many gallons of an order.</summary>
    private decimal Weight(int order, decimal gallons) =>
        _orders[order].Cargo is { WeightLb: { } lb, Bulk: { } bulk } ? lb * gallons / bulk.Gallons : 0;

    private decimal Sum(Answer answer, int order) => Enumerable.Range(0, Compartments.Count).Sum(c => answer.Gallons[order, c]);

    private string Product(int order) => _orders[order].Cargo.Bulk!.Product;

    private string Named(int order) => $"{Product(order)} (load {_orders[order].Load})";

    private static string Gallons(decimal gallons) => string.Create(CultureInfo.InvariantCulture, $"{gallons:#,##0.#} gal");
}
