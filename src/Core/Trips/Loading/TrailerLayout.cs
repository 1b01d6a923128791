using SteadyLark.Core.Basics;
using SteadyLark.Core.Fitting;
using SteadyLark.Core.Loads;

namespace SteadyLark.Core.Trips.Loading;

/// <summary>A deck of a car hauler: inches and pounds.</summary>
/// <param name="Name">As the driver calls it, such as upper.</param>
public sealed record TrailerDeck(string Name, int LengthIn, int HeightIn, int PayloadLb);

/// <summary>A deck as entered.</summary>
public sealed record DeckOrder(string? Name, int? LengthIn, int? HeightIn, int? PayloadLb);

/// <summary>The usual decks of a hauler for so many vehicles.</summary>
public sealed record DeckTemplate(int Vehicles, IReadOnlyList<TrailerDeck> Decks);

/// <summary>The compartments of a tank trailer, from the front, in US gallons, or the decks of a car hauler. Empty lists where none are entered.</summary>
/// <param name="Winch">Whether a vehicle that does not run can be loaded.</param>
public sealed record TrailerLayout(IReadOnlyList<decimal> Compartments, IReadOnlyList<TrailerDeck> Decks, bool Winch)
{
    /// <summary>The most compartments, as in <see cref="FitRequest"/>.</summary>
    public const int MostCompartments = FitRequest.MaxCompartments;

    /// <summary>The most decks, as in <see cref="FitRequest"/>.</summary>
    public const int MostDecks = FitRequest.MaxDecks;

    /// <summary>Between vehicles on a deck, in inches. An assumption.</summary>
    public const int GapIn = 6;

    public static readonly TrailerLayout None = new([], [], false);

    /// <summary>Usual decks of haulers for 1, 3, 5, 7 and 9 vehicles, to start from. Assumptions, not a rule: vehicles of 190 inches, the
    /// heights that 13 ft 6 in leave above a deck.</summary>
    public static readonly IReadOnlyList<DeckTemplate> Templates =
    [
        new(1, [new("bed", 260, 110, 10_000)]),
        new(3, [new("bed", 640, 108, 20_000)]),
        new(5, [new("upper", 600, 72, 14_000), new("lower", 420, 76, 14_000)]),
        new(7, [new("head rack", 210, 70, 5_500), new("upper", 620, 70, 17_000), new("lower", 640, 76, 19_000)]),
        new(9, [new("head rack", 210, 70, 5_500), new("upper", 800, 70, 22_000), new("lower", 810, 76, 24_000)]),
    ];

    /// <summary>Checks compartments as entered.</summary>
    /// <returns>Gallons, to a tenth.</returns>
    public static IReadOnlyList<decimal> CheckCompartments(
        IReadOnlyList<decimal?>? entered,
        VolumeUnit unit,
        Equipment? equipment,
        Validation validation
    )
    {
        var rows = entered ?? [];
        if (rows.Count > 0 && equipment != Equipment.Tanker)
        {
            validation.Add("compartments.tanker", "Only a tanker has compartments.", "compartments");
        }
        else if (rows.Count > MostCompartments)
        {
            validation.Add("too.many", $"A trailer has at most {MostCompartments} compartments.", "compartments");
        }
        else
        {
            for (var i = 0; i < rows.Count; i++)
            {
                if (rows[i] is not { } size || Volume.Gallons(size, unit) is < 10 or > 12_000)
                {
                    validation.Add("out.of.range", $"Compartment {i + 1}: enter its size, 10 to 12,000 gallons.", $"compartments[{i}]");
                }
            }
        }

        return validation.Ok ? rows.Select(r => Volume.Gallons(r!.Value, unit)).ToList() : [];
    }

    /// <summary>Checks decks as entered: each with a name of its own, length, height and payload.</summary>
    public static IReadOnlyList<TrailerDeck> CheckDecks(IReadOnlyList<DeckOrder?>? entered, Equipment? equipment, Validation validation)
    {
        var rows = entered ?? [];
        if (rows.Count > 0 && equipment != Equipment.CarHauler)
        {
            validation.Add("decks.hauler", "Only a car hauler has decks.", "decks");
        }
        else if (rows.Count > MostDecks)
        {
            validation.Add("too.many", $"A car hauler has at most {MostDecks} decks.", "decks");
        }
        else
        {
            for (var i = 0; i < rows.Count; i++)
            {
                var (row, at) = (rows[i], $"decks[{i}]");
                var name = validation.Text(row?.Name, $"{at}.name", $"The name of deck {i + 1}", 20, required: true);
                if (name is not null && rows.Take(i).Any(r => string.Equals(r?.Name?.Trim(), name, StringComparison.OrdinalIgnoreCase)))
                {
                    validation.Add("name.taken", $"There are two decks named {name}.", $"{at}.name");
                }

                Size(row?.LengthIn, 60, 1_200, $"{at}.lengthIn", $"Deck {i + 1}: the length in inches");
                Size(row?.HeightIn, 40, 180, $"{at}.heightIn", $"Deck {i + 1}: the height in inches");
                Size(row?.PayloadLb, 500, 80_000, $"{at}.payloadLb", $"Deck {i + 1}: the payload in pounds");
            }
        }

        return validation.Ok
            ? rows.Select(r => new TrailerDeck(r!.Name!.Trim(), r.LengthIn!.Value, r.HeightIn!.Value, r.PayloadLb!.Value)).ToList()
            : [];

        void Size(int? value, int min, int max, string field, string name)
        {
            if (value is null)
            {
                validation.Add("missing", $"{name} is required.", field);
            }

            validation.Between(value, min, max, field, name);
        }
    }
}
