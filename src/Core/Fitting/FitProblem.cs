using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Fitting;

/// <summary>What is placed somewhere.</summary>
/// <param name="Where">Compartment, deck and position, or inches from the nose.</param>
/// <param name="Amount">Gallons, vehicles or pieces.</param>
public sealed record FitPlace(string Id, string Where, decimal Amount);

/// <summary>What has no place, and why.</summary>
public sealed record FitLeft(string Id, string Why);

/// <summary>What is aboard once a stop is done.</summary>
public sealed record FitAfter(int Stop, IReadOnlyList<FitPlace> Aboard);

/// <summary>Whether everything fits, where it goes, what is aboard after each stop, and what does not fit.</summary>
public sealed record FitAnswer(bool Fits, IReadOnlyList<FitPlace> Placed, IReadOnlyList<FitAfter> After, IReadOnlyList<FitLeft> Left)
{
    /// <param name="stops">The stop at which each is unloaded, by its id.</param>
    internal static FitAnswer Of(IReadOnlyList<FitPlace> placed, IReadOnlyList<FitLeft> left, IReadOnlyDictionary<string, int> stops) =>
        new(
            left.Count == 0,
            placed,
            stops.Values.Distinct().Order().Select(s => new FitAfter(s, placed.Where(p => stops[p.Id] > s).ToList())).ToList(),
            left
        );
}

/// <summary>The floor of a trailer: inches and pounds.</summary>
public sealed record FitTrailer(decimal Length, decimal Width, decimal Height, decimal Payload);

/// <summary>Pieces of one kind for one stop.</summary>
/// <param name="Weight">Of one piece, in pounds.</param>
/// <param name="Stackable">Whether the same pieces may stand on each other.</param>
/// <param name="Turnable">Whether its length may lie across the trailer.</param>
public sealed record FitPiece(
    string? Id,
    int Count,
    decimal Length,
    decimal Width,
    decimal Height,
    decimal Weight,
    bool Stackable,
    bool Turnable,
    int Stop
);

/// <summary>Gallons of a product for one stop.</summary>
/// <param name="Exclusive">Whether it shares no compartment, not even with the same product.</param>
public sealed record FitOrder(string? Id, string? Product, decimal Gallons, int Stop, bool Exclusive);

/// <summary>A deck of a car hauler: inches and pounds.</summary>
public sealed record FitDeck(string? Id, decimal Length, decimal Height, decimal Payload);

/// <summary>A vehicle to haul: inches and pounds.</summary>
/// <param name="Runs">Whether it drives on and off; one that does not needs the winch.</param>
public sealed record FitVehicle(string? Id, decimal Length, decimal Height, decimal Weight, int Stop, bool Runs = true);

/// <summary>One question: <c>linear</c> with trailer and pieces, <c>tank</c> with compartments, orders and apart, or <c>deck</c> with decks, payload,
/// winch, gap and vehicles. Everything is loaded at the start.</summary>
/// <param name="Compartments">Gallons of each.</param>
/// <param name="Apart">Products that may not ride on one trailer, in pairs.</param>
/// <param name="Payload">Pounds on all decks together; no limit when omitted.</param>
/// <param name="Gap">Inches between vehicles on a deck.</param>
public sealed record FitRequest(
    string? Kind,
    FitTrailer? Trailer = null,
    IReadOnlyList<FitPiece?>? Pieces = null,
    IReadOnlyList<decimal>? Compartments = null,
    IReadOnlyList<FitOrder?>? Orders = null,
    IReadOnlyList<IReadOnlyList<string?>?>? Apart = null,
    IReadOnlyList<FitDeck?>? Decks = null,
    decimal? Payload = null,
    bool Winch = false,
    decimal Gap = 0,
    IReadOnlyList<FitVehicle?>? Vehicles = null
)
{
    /// <summary>The most compartments, decks and vehicles for which every placement is tried.</summary>
    public const int MaxCompartments = 12;

    /// <inheritdoc cref="MaxCompartments"/>
    public const int MaxVehicles = 12;

    /// <inheritdoc cref="MaxCompartments"/>
    public const int MaxDecks = 6;

    /// <summary>The most orders or kinds of pieces.</summary>
    public const int MaxLines = 60;

    private const decimal Most = 1_000_000m;

    /// <summary>The answer, or what is wrong with the question.</summary>
    public Outcome<FitAnswer> Answer()
    {
        var validation = new Validation();
        foreach (
            var (field, kind, given) in new[]
            {
                ("trailer", "linear", Trailer is not null),
                ("pieces", "linear", Pieces is not null),
                ("compartments", "tank", Compartments is not null),
                ("orders", "tank", Orders is not null),
                ("apart", "tank", Apart is not null),
                ("decks", "deck", Decks is not null),
                ("vehicles", "deck", Vehicles is not null),
            }
        )
        {
            if (given && Kind != kind)
            {
                validation.Add("kind", $"{field} belongs to kind {kind}.", field);
            }
        }

        switch (Kind)
        {
            case "linear":
                CheckLinear(validation);
                return validation.Ok ? FloorFit.Fit(Trailer!, Pieces!.Select(p => p!).ToList()) : validation.Problems;
            case "tank":
                CheckTank(validation);
                return validation.Ok
                    ? TankFit.Fit(Compartments!, Orders!.Select(o => o!).ToList(), (Apart ?? []).Select(p => (p![0]!, p[1]!)).ToList())
                    : validation.Problems;
            case "deck":
                CheckDeck(validation);
                return validation.Ok
                    ? DeckFit.Fit(Decks!.Select(d => d!).ToList(), Payload, Winch, Gap, Vehicles!.Select(v => v!).ToList())
                    : validation.Problems;
            default:
                return new Problem("missing", "Say what to fit: kind is linear, tank or deck.", "kind");
        }
    }

    private void CheckLinear(Validation validation)
    {
        if (Trailer is null)
        {
            validation.Add("missing", "Give the trailer: length, width and height in inches, payload in pounds.", "trailer");
        }
        else
        {
            Above(validation, "trailer", Trailer.Length, Trailer.Width, Trailer.Height, Trailer.Payload);
        }

        Named(validation, Pieces?.Select(p => p?.Id).ToList(), "pieces", MaxLines);
        for (var i = 0; i < Math.Min(Pieces?.Count ?? 0, MaxLines); i++)
        {
            if (Pieces![i] is { } p)
            {
                Above(validation, $"pieces[{i}]", p.Length, p.Width, p.Height);
                if (p.Count is < 1 or > 1000 || p.Weight is < 0 or > Most)
                {
                    validation.Add("out.of.range", $"{p.Id}: the count is 1 to 1,000 and the weight zero or more.", $"pieces[{i}].count");
                }
            }
        }
    }

    private void CheckTank(Validation validation)
    {
        if (Compartments is null or { Count: 0 or > MaxCompartments })
        {
            validation.Add("missing", $"Give the gallons of 1 to {MaxCompartments} compartments.", "compartments");
        }
        else
        {
            Above(validation, "compartments", [.. Compartments]);
        }

        Named(validation, Orders?.Select(o => o?.Id).ToList(), "orders", MaxLines);
        for (var i = 0; i < Math.Min(Orders?.Count ?? 0, MaxLines); i++)
        {
            if (Orders![i] is { } o)
            {
                Above(validation, $"orders[{i}].gallons", o.Gallons);
                validation.Text(o.Product, $"orders[{i}].product", "The product", 80, required: true);
            }
        }

        if (Apart?.Any(p => p is not { Count: 2 } || p.Any(string.IsNullOrWhiteSpace)) == true)
        {
            validation.Add("pairs", "Apart lists pairs of products, such as [\"soap\", \"syrup\"].", "apart");
        }
    }

    private void CheckDeck(Validation validation)
    {
        Named(validation, Decks?.Select(d => d?.Id).ToList(), "decks", MaxDecks);
        Named(validation, Vehicles?.Select(v => v?.Id).ToList(), "vehicles", MaxVehicles);
        for (var i = 0; i < Math.Min(Decks?.Count ?? 0, MaxDecks); i++)
        {
            if (Decks![i] is { } d)
            {
                Above(validation, $"decks[{i}]", d.Length, d.Height, d.Payload);
            }
        }

        for (var i = 0; i < Math.Min(Vehicles?.Count ?? 0, MaxVehicles); i++)
        {
            if (Vehicles![i] is { } v)
            {
                Above(validation, $"vehicles[{i}]", v.Length, v.Height, v.Weight);
            }
        }

        if (Gap is < 0 or > 1000 || Payload is < 0)
        {
            validation.Add("out.of.range", "The gap is 0 to 1,000 inches, and the payload zero or more.", "gap");
        }
    }

    private static void Named(Validation validation, IReadOnlyList<string?>? ids, string field, int most)
    {
        if (ids is null or { Count: 0 } || ids.Count > most)
        {
            validation.Add("missing", $"Give 1 to {most} {field}.", field);
        }
        else if (ids.Any(string.IsNullOrWhiteSpace))
        {
            validation.Add("missing", $"Each of the {field} needs an id.", field);
        }
        else if (ids.Distinct().Count() < ids.Count)
        {
            validation.Add("twice", $"Two of the {field} have one id.", field);
        }
    }

    private static void Above(Validation validation, string field, params decimal[] sizes)
    {
        if (sizes.Any(s => s is <= 0 or > Most))
        {
            validation.Add("not.positive", $"Sizes must be more than zero and at most {Most:#,##0}.", field);
        }
    }
}
