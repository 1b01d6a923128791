using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Core.Loads;

/// <summary>A part of a load that is divided.</summary>
/// <param name="Stops">Its stops, counted from 1, in order.</param>
/// <param name="Amounts">How much of each freight line it gets, in the unit of <see cref="Regrouping.UnitOf"/>; 0 for nothing.</param>
public sealed record DividedPart(IReadOnlyList<int> Stops, IReadOnlyList<decimal> Amounts);

/// <summary>A load to be combined with others.</summary>
/// <param name="Order">As it would be booked again.</param>
/// <param name="Opens">When each of its stops opens.</param>
/// <param name="Amounts">Of its charges, in order; below zero for a discount.</param>
public sealed record CombinedLoad(
    string Number,
    LoadWork Work,
    bool IsSplit,
    LoadOrder Order,
    IReadOnlyList<Instant> Opens,
    IReadOnlyList<Money> Amounts
);

/// <summary>Makes several loads of one, or one of several: an order for several products or destinations becomes loads of their own, and orders
/// that go the same way ride as one. Each keeps the customer's numbers.</summary>
public static class Regrouping
{
    /// <summary>The most parts of a load, and the most loads that become one.</summary>
    public const int Most = 12;

    /// <summary>What a freight line is divided by: gallons, pallets, pieces or else pounds; null when it has none of them and cannot be
    /// divided.</summary>
    public static (string Unit, decimal Total)? UnitOf(FreightOrder line) =>
        line.Bulk?.Volume is { } volume ? (line.Bulk.Unit == VolumeUnit.Liters ? "liters" : "gallons", volume)
        : line.Pallets is { } pallets ? ("pallets", pallets)
        : line.Pieces is { } pieces ? ("pieces", pieces)
        : line.WeightLb is { } pounds ? ("lb", pounds)
        : null;

    /// <summary>
    /// Divides a load. Each part has its stops and its share of the freight: what is not counted in the unit of a line is shared in proportion,
    /// with nothing lost. Flat charges are shared by weight to the cent; rates stay as they are. References of a stop go with it, all others and
    /// the customer's reference are on every part.
    /// </summary>
    /// <param name="work">The load's state.</param>
    /// <param name="isSplit">Whether it has several legs.</param>
    /// <returns>The orders of the parts, without numbers: see <see cref="NumberOf"/>.</returns>
    public static Outcome<IReadOnlyList<LoadOrder>> Divide(LoadWork work, bool isSplit, LoadOrder order, IReadOnlyList<DividedPart> parts)
    {
        if (Refused(work, isSplit, order, "divided") is { } refused)
        {
            return refused;
        }

        if (order.Cod is not null)
        {
            return new Problem(
                "divide.cod",
                $"Load {work.Number} has cash on delivery: remove it first, and enter it on the load it belongs to afterwards."
            );
        }

        if (parts.Count is < 2 or > Most)
        {
            return new Problem("divide.parts", $"A load is divided into 2 to {Most} loads.", "parts");
        }

        var validation = new Validation();
        for (var i = 0; i < parts.Count; i++)
        {
            CheckPart(order, parts[i], i, validation);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        foreach (var stop in Enumerable.Range(1, order.Stops.Count).Except(parts.SelectMany(p => p.Stops)))
        {
            validation.Add("divide.stop", $"Stop {stop} is on none of the new loads.", "parts");
        }

        for (var i = 0; i < order.Freight.Count; i++)
        {
            CheckLine(order.Freight[i], i, parts.Select(p => p.Amounts[i]).ToList(), validation);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var lines = order.Freight.Select((f, i) => Shared(f, parts.Select(p => p.Amounts[i]).ToList())).ToList();
        var weights = parts.Select((_, p) => lines.Sum(l => (decimal)(l[p]?.WeightLb ?? 0))).ToList();
        var charges = order.Charges.Select(c => Shared(c, weights)).ToList();
        return (Outcome<IReadOnlyList<LoadOrder>>)
            parts
                .Select(
                    (part, p) =>
                        order with
                        {
                            Number = null,
                            // A route override is of the way from the stop before.
                            Stops = part
                                .Stops.Select(
                                    (s, i) =>
                                        i > 0 && part.Stops[i - 1] == s - 1
                                            ? order.Stops[s - 1]
                                            : order.Stops[s - 1] with
                                            {
                                                RouteOverride = null,
                                            }
                                )
                                .ToList(),
                            Freight = lines.Select(l => l[p]).OfType<FreightOrder>().ToList(),
                            Charges = charges.Select(c => c[p]).ToList(),
                            References = order
                                .References.Where(r => r.Stop is null || part.Stops.Contains(r.Stop.Value))
                                .Select(r => r with { Stop = r.Stop is { } at ? part.Stops.ToList().IndexOf(at) + 1 : null })
                                .ToList(),
                        }
                )
                .ToList();
    }

    /// <summary>The number of a part, made of the load's own: 6151-1, 6151-2.</summary>
    public static string NumberOf(string number, int part) => $"{number}-{part}";

    /// <summary>
    /// Combines loads of one customer. Their stops are made in the order in which they open, each load's own in its order; stops at one place at
    /// one time become one. Charges keep their amounts, with the number of their load. The first load's customer reference is the new load's;
    /// those of the others are references of their stops.
    /// </summary>
    /// <param name="loads">In the order in which they were chosen.</param>
    public static Outcome<LoadOrder> Combine(IReadOnlyList<CombinedLoad> loads)
    {
        if (loads.Count is < 2 or > Most)
        {
            return new Problem("combine.loads", $"Choose 2 to {Most} loads to combine.", "loadIds");
        }

        var first = loads[0].Order;
        foreach (var load in loads)
        {
            if (Refused(load.Work, load.IsSplit, load.Order, "combined") is { } refused)
            {
                return refused with { Field = "loadIds" };
            }

            if (load.Work.State == LoadState.Draft)
            {
                return new Problem("load.state", $"Load {load.Number} is a draft: book it before it is combined.", "loadIds");
            }

            var other = load.Order;
            var differs =
                other.CustomerId != first.CustomerId ? "customer"
                : (other.BillToId ?? other.CustomerId) != (first.BillToId ?? first.CustomerId) ? "bill-to"
                : other.Currency != first.Currency ? "currency"
                : other.FreightTerms != first.FreightTerms ? "freight terms"
                : other.Equipment != first.Equipment ? "equipment"
                : other.OfficeId != first.OfficeId ? "office"
                : null;
            if (differs is not null)
            {
                return new Problem(
                    "combine.differs",
                    $"Loads {loads[0].Number} and {load.Number} differ in their {differs}: only loads with the same one can be combined.",
                    "loadIds"
                );
            }
        }

        var (stops, at) = Merged(loads);
        var references = loads.SelectMany(
            (l, i) => l.Order.References.Select(r => r with { Stop = r.Stop is { } s ? at[i][s - 1] : null })
        );
        var numbers = loads
            .Select((l, i) => (l.Order.Reference, Stop: at[i][^1]))
            .Skip(1)
            .Where(r => !string.IsNullOrWhiteSpace(r.Reference) && r.Reference != first.Reference)
            .Select(r => new ReferenceOrder(ReferenceKind.OrderNumber, r.Reference, r.Stop));
        return first with
        {
            Number = null,
            Stops = stops,
            Freight = loads.SelectMany(l => l.Order.Freight).ToList(),
            Charges = loads.SelectMany(l => l.Order.Charges.Select((c, i) => Kept(c, l.Amounts[i], l.Number))).ToList(),
            References = [.. numbers, .. references.Distinct()],
            Features = loads.SelectMany(l => l.Order.Features).Distinct().ToList(),
            Cod = loads.Any(l => l.Order.Cod is not null) ? loads.Sum(l => l.Order.Cod ?? 0) : null,
            DriverInstructions = Joined(loads.Select(l => l.Order.DriverInstructions)),
            CarrierInstructions = Joined(loads.Select(l => l.Order.CarrierInstructions)),
            CustomFields = loads
                .SelectMany(l => l.Order.CustomFields)
                .Where(f => !string.IsNullOrWhiteSpace(f.Value))
                .DistinctBy(f => f.Key)
                .ToDictionary(f => f.Key, f => f.Value),
        };
    }

    /// <summary>Why loads cannot be made again of those that replaced them; null when they can.</summary>
    /// <param name="replacements">The loads that replaced them, each with whether it is split or has been.</param>
    public static Problem? RestoreRefusal(string number, IReadOnlyList<(LoadWork Work, bool IsSplit)> replacements) =>
        replacements.Count == 0 ? new Problem("restore.none", $"Load {number} was not divided or combined.")
        : replacements.FirstOrDefault(r => r.Work.State is not (LoadState.Draft or LoadState.Booked)) is { Work: { } taken }
            ? new Problem(
                "restore.taken",
                taken.Who is { } who
                    ? $"Load {taken.Number} is assigned to {who}: unassign it first."
                    : $"Load {taken.Number} is {taken.State.Format()}: load {number} can no longer be restored."
            )
        : replacements.FirstOrDefault(r => r.IsSplit) is { Work: { } split }
            ? new Problem("restore.split", $"Load {split.Number} is split: join its legs first.")
        : null;

    private static Problem? Refused(LoadWork work, bool isSplit, LoadOrder order, string what) =>
        order.Move is not null ? new Problem("regroup.move", $"Load {work.Number} is a move: it cannot be {what}.")
        : work.State is not (LoadState.Draft or LoadState.Booked)
            ? new Problem(
                "load.state",
                work.Who is null
                    ? $"Load {work.Number} is {work.State.Format()} and can no longer be {what}."
                    : $"Load {work.Number} is assigned to {work.Who}: unassign it before it is {what}."
            )
        : isSplit ? new Problem("load.split", $"Load {work.Number} is split: join its legs before it is {what}.")
        : null;

    private static void CheckPart(LoadOrder order, DividedPart part, int index, Validation validation)
    {
        var (at, name) = ($"parts[{index}]", $"New load {index + 1}");
        var kinds = part.Stops.Where(s => s >= 1 && s <= order.Stops.Count).Select(s => order.Stops[s - 1].Kind).ToList();
        if (kinds.Count != part.Stops.Count || part.Stops.Zip(part.Stops.Skip(1)).Any(p => p.Second <= p.First))
        {
            validation.Add("divide.stop", $"{name}: name the load’s stops in their order.", $"{at}.stops");
        }
        else if (!order.Draft && (kinds.Count < 2 || kinds[0] != StopKind.Pickup || kinds[^1] != StopKind.Delivery))
        {
            validation.Add("divide.stops", $"{name} needs a pickup and a delivery after it.", $"{at}.stops");
        }

        if (part.Amounts.Count != order.Freight.Count)
        {
            validation.Add("divide.freight", $"{name}: enter an amount for each freight line, 0 for nothing.", $"{at}.amounts");
        }
        else if (part.Amounts.Any(a => a < 0))
        {
            validation.Add("divide.freight", $"{name}: an amount is below zero.", $"{at}.amounts");
        }
        else if (part.Amounts.All(a => a == 0))
        {
            validation.Add("divide.empty", $"{name} has no freight.", $"{at}.amounts");
        }
    }

    private static void CheckLine(FreightOrder line, int index, IReadOnlyList<decimal> amounts, Validation validation)
    {
        var name = string.IsNullOrWhiteSpace(line.Description) ? $"Freight line {index + 1}" : line.Description.Trim().Capitalized();
        if (UnitOf(line) is not { } unit)
        {
            if (amounts.Count(a => a > 0) != 1)
            {
                validation.Add("divide.freight", $"{name} has no quantity: it can go on one load only.", "parts");
            }
        }
        else if (line.Bulk is null && amounts.Any(a => decimal.Truncate(a) != a))
        {
            validation.Add("divide.freight", $"{name}: whole {unit.Unit} only.", "parts");
        }
        else if (amounts.Sum() is var sum && sum != unit.Total)
        {
            validation.Add(
                "divide.freight",
                $"{name}: {unit.Total:#,##0.##} {unit.Unit} to divide, and the new loads have {sum:#,##0.##}.",
                "parts"
            );
        }
    }

    /// <summary>A line shared by amounts; null where there is nothing of it.</summary>
    private static List<FreightOrder?> Shared(FreightOrder line, IReadOnlyList<decimal> amounts)
    {
        var (pieces, pallets, pounds) = (Whole(line.Pieces, amounts), Whole(line.Pallets, amounts), Whole(line.WeightLb, amounts));
        return amounts
            .Select(
                (a, i) =>
                    a == 0
                        ? null
                        : line with
                        {
                            Pieces = pieces[i],
                            Pallets = pallets[i],
                            WeightLb = pounds[i],
                            Bulk = line.Bulk is { Volume: not null } bulk ? bulk with { Volume = a } : line.Bulk,
                        }
            )
            .ToList();
    }

    /// <summary>A whole number shared in proportion; null where nothing is left, or it is not known.</summary>
    private static List<int?> Whole(int? total, IReadOnlyList<decimal> shares) =>
        total is { } all
            ? Shares(all, shares, 0).Select(s => s == 0 ? (int?)null : (int)s).ToList()
            : shares.Select(_ => (int?)null).ToList();

    private static List<ChargeOrder> Shared(ChargeOrder charge, IReadOnlyList<decimal> weights) =>
        charge is { Basis: ChargeBasis.Flat, Amount: { } amount }
            ? Shares(amount, weights, 2).Select(a => charge with { Amount = a }).ToList()
            : weights.Select(_ => charge).ToList();

    /// <summary>An amount in parts that are in proportion to shares, rounded, and add up to it. Without any share, in equal parts.</summary>
    /// <param name="places">Decimal places that the amount has at most.</param>
    internal static IReadOnlyList<decimal> Shares(decimal amount, IReadOnlyList<decimal> shares, int places)
    {
        var of = shares.Sum() == 0 ? shares.Select(_ => 1m).ToList() : shares;
        var (whole, before, given) = (of.Sum(), 0m, 0m);
        var parts = new List<decimal>();
        foreach (var share in of)
        {
            before += share;
            var until = Math.Round(amount * before / whole, places, MidpointRounding.AwayFromZero);
            parts.Add(until - given);
            given = until;
        }

        return parts;
    }

    /// <summary>The stops of all loads as they open, and where each load's stops are in it, counted from 1.</summary>
    private static (List<StopOrder> Stops, List<int[]> At) Merged(IReadOnlyList<CombinedLoad> loads)
    {
        var stops = new List<StopOrder>();
        var at = loads.Select(l => new int[l.Order.Stops.Count]).ToList();
        var next = new int[loads.Count];
        while (Enumerable.Range(0, loads.Count).Where(l => next[l] < at[l].Length).ToList() is { Count: > 0 } ahead)
        {
            var load = ahead.MinBy(l => (loads[l].Opens[next[l]], loads[l].Order.Stops[next[l]].Kind == StopKind.Pickup ? 0 : 1, l));
            var stop = loads[load].Order.Stops[next[load]];
            if (next[load] == 0 || at[load][next[load] - 1] != stops.Count)
            {
                stop = stop with { RouteOverride = null };
            }

            if (stops.Count > 0 && Together(stops[^1], stop) is { } both)
            {
                stops[^1] = both;
            }
            else
            {
                stops.Add(stop);
            }

            at[load][next[load]++] = stops.Count;
        }

        return (stops, at);
    }

    /// <summary>Two stops as one: the same place and kind, and a time that suits both; null when they are not.</summary>
    private static StopOrder? Together(StopOrder a, StopOrder b)
    {
        if (a.Kind != b.Kind || a.PlaceId is null || a.PlaceId != b.PlaceId || a.From is not { } from || b.From is not { } other)
        {
            return null;
        }

        var opens = LocalDateTime.Max(from, other);
        var closes = LocalDateTime.Min(a.Until ?? from, b.Until ?? other);
        return closes < opens ? null : a with { From = opens, Until = closes, Note = Joined([a.Note, b.Note]) };
    }

    /// <summary>A charge at the amount it has, with the load it is of.</summary>
    private static ChargeOrder Kept(ChargeOrder charge, Money amount, string number) =>
        charge with
        {
            Basis = ChargeBasis.Flat,
            Amount = Math.Abs(amount.Amount),
            Rate = null,
            Minimum = null,
            ByClass = null,
            Description = string.IsNullOrWhiteSpace(charge.Description) ? $"load {number}" : $"load {number}: {charge.Description}",
        };

    private static string? Joined(IEnumerable<string?> texts) =>
        string.Join('\n', texts.Where(t => !string.IsNullOrWhiteSpace(t)).Select(t => t!.Trim()).Distinct()) is { Length: > 0 } all
            ? all
            : null;
}
