using SteadyLark.Core.Basics;
using SteadyLark.Core.Fitting;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips.Loading;

namespace SteadyLark.Core.Trips;

/// <summary>A trailer's inside in inches, the freight it may carry and its own weight in pounds.</summary>
public sealed record TrailerSize(int LengthIn, int WidthIn, int HeightIn, int PayloadLb, int TareLb)
{
    /// <summary>Typical sizes of 53-foot vans and reefers, 48-foot flatbeds, and tank and car trailers, for trailers without figures of their
    /// own. Assumptions, not a rule.</summary>
    public static TrailerSize Typical(Equipment equipment) =>
        equipment switch
        {
            Equipment.Van => new(636, 98, 108, 45_000, 14_800),
            Equipment.Reefer => new(630, 97, 104, 43_000, 16_500),
            Equipment.Flatbed => new(576, 102, 102, 48_000, 11_500),
            Equipment.Tanker => new(504, 96, 96, 47_000, 12_500),
            _ => new(636, 102, 108, 44_000, 16_500),
        };

    /// <summary>Checks figures as entered: inches inside and pounds; null leaves a typical one.</summary>
    public static void Check(int? lengthIn, int? widthIn, int? heightIn, int? payloadLb, int? tareLb, Validation validation)
    {
        validation.Between(lengthIn, 60, 900, "lengthIn", "The inside length in inches");
        validation.Between(widthIn, 40, 140, "widthIn", "The inside width in inches");
        validation.Between(heightIn, 40, 180, "heightIn", "The inside height in inches");
        validation.Between(payloadLb, 1, 200_000, "payloadLb", "The payload in pounds");
        CheckTare(tareLb, validation);
    }

    /// <summary>Checks a truck's or trailer's own weight in pounds.</summary>
    public static void CheckTare(int? tareLb, Validation validation) =>
        validation.Between(tareLb, 1, 100_000, "tareLb", "The empty weight in pounds");

    /// <summary>A trailer's own figures, typical ones where null.</summary>
    public static TrailerSize Of(Equipment equipment, int? lengthIn, int? widthIn, int? heightIn, int? payloadLb, int? tareLb)
    {
        var typical = Typical(equipment);
        return new TrailerSize(
            lengthIn ?? typical.LengthIn,
            widthIn ?? typical.WidthIn,
            heightIn ?? typical.HeightIn,
            payloadLb ?? typical.PayloadLb,
            tareLb ?? typical.TareLb
        );
    }
}

/// <summary>Truck and trailer as they limit the freight.</summary>
/// <param name="TruckTareLb">The truck's own weight with fuel and driver.</param>
public sealed record TripLimits(TrailerSize Trailer, int TruckTareLb)
{
    /// <summary>A sleeper tractor with fuel and driver, for trucks without a figure of their own. An assumption.</summary>
    public const int TypicalTruckTareLb = 18_500;

    /// <summary>Gross weight on the Interstate System: 23 U.S.C. 127(a)(2), 23 CFR 658.17(b).</summary>
    public const int GrossLb = 80_000;

    /// <summary>The trailer's compartments or decks.</summary>
    public TrailerLayout Layout { get; init; } = TrailerLayout.None;

    /// <summary>The heaviest freight: by the trailer's payload and the gross weight.</summary>
    public int MostLb => Math.Min(Trailer.PayloadLb, GrossLb - TruckTareLb - Trailer.TareLb);
}

/// <summary>Hazardous material on board.</summary>
public sealed record HazardousLine(string? Class, string? PackingGroup);

/// <summary>A line of freight.</summary>
/// <param name="LengthIn">Of one pallet or piece, as are width and height.</param>
/// <param name="WeightLb">Of the whole line.</param>
/// <param name="Stackable">Whether its pieces may stand on each other.</param>
public sealed record CargoLine(
    int? Pieces,
    int? Pallets,
    int? WeightLb,
    int? TemperatureF,
    int? LengthIn,
    int? WidthIn,
    int? HeightIn,
    bool Stackable,
    HazardousLine? Hazard
)
{
    /// <summary>Liquid in bulk; null for other freight.</summary>
    public BulkFreight? Bulk { get; init; }

    /// <summary>A vehicle; null for other freight.</summary>
    public Vehicle? Vehicle { get; init; }

    /// <summary>Whether it goes into a compartment or onto a deck, not on the floor.</summary>
    internal bool IsPlaced(TripLimits limits) => Bulk is not null || (Vehicle is not null && limits.Layout.Decks.Count > 0);

    /// <summary>A GMA pallet: 48 by 40 inches.</summary>
    private const int PalletLengthIn = 48;
    private const int PalletWidthIn = 40;

    /// <summary>What it takes of the floor; null when neither its pallets nor its pieces with dimensions are known.</summary>
    internal FitPiece? OnFloor(string load, int line, int stop, TrailerSize trailer)
    {
        var count = Pallets ?? (LengthIn is null || WidthIn is null ? null : Pieces);
        return count is not { } n || n == 0
            ? null
            : new FitPiece(
                $"{load}/{line}",
                n,
                LengthIn ?? PalletLengthIn,
                WidthIn ?? PalletWidthIn,
                HeightIn ?? trailer.HeightIn,
                (decimal)(WeightLb ?? 0) / n,
                Stackable && HeightIn is not null,
                Turnable: true,
                stop
            );
    }
}

/// <summary>What is on board after a visit.</summary>
/// <param name="Loads">Numbers of the loads on board, in the order they were picked up.</param>
/// <param name="WholeTrailer">The load that needs the trailer for itself, as its size is not known; null when none does.</param>
/// <param name="FloorIn">Inches of the trailer's length that the freight takes; null when a size is not known or too large, and for freight in
/// compartments or on decks.</param>
/// <param name="RoomIn">Inches left; below zero when it is too long. Null with <paramref name="FloorIn"/>.</param>
/// <param name="RoomLb">Pounds left; below zero when it is too heavy.</param>
public sealed record OnBoard(
    IReadOnlyList<string> Loads,
    string? WholeTrailer,
    int Pieces,
    int Pallets,
    int WeightLb,
    int? FloorIn,
    int? RoomIn,
    int RoomLb
);

/// <summary>One of the trailers behind a truck after a visit, and what is in it.</summary>
/// <param name="LengthIn">Inside.</param>
/// <param name="MostLb">The heaviest freight, by its payload and the gross weight of the truck with this trailer alone.</param>
public sealed record InTrailer(long TrailerId, string Unit, int LengthIn, int MostLb, OnBoard On);

/// <summary>Whether loads can share a trailer.</summary>
public static class Capacity
{
    /// <summary>Temperatures within so many degrees Fahrenheit are one setting of a trailer. An assumption.</summary>
    public const int SameTemperatureF = 5;

    /// <summary>What is on board, and what it leaves of the trailer.</summary>
    /// <param name="legs">On board, in the order they were picked up.</param>
    public static OnBoard Of(IReadOnlyList<TripLeg> legs, TripLimits limits)
    {
        var lines = legs.SelectMany(l => l.Cargo).ToList();
        var pieces = legs.SelectMany(
                (l, at) => l.Cargo.Where(c => !c.IsPlaced(limits)).Select((c, i) => c.OnFloor(l.Number, i, legs.Count - at, limits.Trailer))
            )
            .ToList();
        var whole = legs.FirstOrDefault(l =>
            l.Cargo.Count == 0 || l.Cargo.Any(c => !c.IsPlaced(limits) && c.OnFloor("", 0, 0, limits.Trailer) is null)
        )?.Number;
        var weight = lines.Sum(c => c.WeightLb ?? 0);
        var length =
            whole is null && !lines.Exists(c => c.IsPlaced(limits))
                ? FloorFit.Length(Floor(limits.Trailer), pieces.OfType<FitPiece>().ToList())
                : null;
        int? floor = length is { } inches ? (int)Math.Ceiling(inches) : null;
        return new OnBoard(
            legs.Select(l => l.Number).ToList(),
            whole,
            lines.Sum(c => c.Pieces ?? 0),
            lines.Sum(c => c.Pallets ?? 0),
            weight,
            floor,
            limits.Trailer.LengthIn - floor,
            limits.MostLb - weight
        );
    }

    /// <summary>What is in each of the hooked trailers, and what it leaves of them.</summary>
    public static IReadOnlyList<InTrailer> Behind(IReadOnlyList<TripLeg> aboard, IReadOnlyList<TripTrailer> hooked, Rig rig) =>
        hooked
            .Select(t =>
            {
                var limits = rig.Limits(t);
                return new InTrailer(t.Id, t.Unit, t.Size.LengthIn, limits.MostLb, Of(aboard.Where(l => rig.Of(l) == t).ToList(), limits));
            })
            .ToList();

    /// <summary>What is on board of a truck that has several trailers on its trip, all together: no floor, and the room to the gross weight.</summary>
    public static OnBoard Together(IReadOnlyList<TripLeg> aboard, IReadOnlyList<TripTrailer> hooked, Rig rig)
    {
        var all = Of(aboard, rig.Limits(rig.First));
        return all with
        {
            WholeTrailer = null,
            FloorIn = null,
            RoomIn = null,
            RoomLb = TripLimits.GrossLb - rig.TruckTareLb - hooked.Sum(t => t.Size.TareLb) - all.WeightLb,
        };
    }

    /// <summary>Why what is on board after a visit cannot be: too heavy, too long, another load in a trailer that one needs whole, different
    /// temperatures, hazardous materials that may not ride together. One load alone is never refused: its size was agreed with its
    /// customer.</summary>
    /// <param name="after">The town of the visit.</param>
    public static Problems Check(IReadOnlyList<TripLeg> legs, TripLimits limits, string trailer, string after)
    {
        var problems = new List<Problem>();
        if (legs.Count < 2)
        {
            return new Problems(problems);
        }

        var aboard = Of(legs, limits);
        var all = aboard.Loads.Listed();
        if (aboard.WholeTrailer is { } alone)
        {
            var other = aboard.Loads.First(l => l != alone);
            problems.Add(
                new(
                    "capacity.unknown",
                    $"Load {alone} takes the whole trailer, as it has no pallets or dimensions: enter them to haul it with {other}."
                )
            );
        }
        else if (legs.Any(l => l.Cargo.Any(c => c.Bulk is not null)) && limits.Layout.Compartments.Count == 0)
        {
            problems.Add(new("capacity.compartments", $"Enter the compartments of trailer {trailer} in Setup to haul {all} together."));
        }
        else if (aboard.FloorIn is null && !legs.Any(l => l.Cargo.Any(c => c.IsPlaced(limits))))
        {
            problems.Add(new("capacity.piece", $"{all} have pieces that are larger than trailer {trailer}: they cannot share it."));
        }

        if (aboard.RoomLb < 0)
        {
            problems.Add(
                new(
                    "capacity.weight",
                    $"After {after}, {all} weigh {aboard.WeightLb:#,##0} lb together: {-aboard.RoomLb:#,##0} lb more than trailer {trailer} may carry."
                )
            );
        }

        if (aboard.RoomIn < 0)
        {
            problems.Add(
                new(
                    "capacity.floor",
                    $"After {after}, {all} need {Feet(aboard.FloorIn!.Value)} of floor: {Feet(-aboard.RoomIn.Value)} more than trailer {trailer} has."
                )
            );
        }

        for (var i = 0; i < legs.Count; i++)
        {
            for (var j = i + 1; j < legs.Count; j++)
            {
                if (Together(legs[i], legs[j]) is { } refused)
                {
                    problems.Add(refused);
                }
            }
        }

        return new Problems(problems);
    }

    /// <summary>Why a truck with several trailers is too heavy with what is on board after a visit; null when it is not, or has one load.</summary>
    /// <param name="after">The town of the visit.</param>
    public static Problem? GrossRefuses(IReadOnlyList<TripLeg> aboard, IReadOnlyList<TripTrailer> hooked, int truckTareLb, string after)
    {
        var gross = truckTareLb + hooked.Sum(t => t.Size.TareLb) + aboard.SelectMany(l => l.Cargo).Sum(c => c.WeightLb ?? 0);
        return aboard.Count < 2 || gross <= TripLimits.GrossLb
            ? null
            : new Problem(
                "capacity.gross",
                $"After {after}, the truck with trailers {hooked.Select(t => t.Unit).ToList().Listed()} and loads {aboard.Select(l => l.Number).ToList().Listed()} weighs {gross:#,##0} lb: {gross - TripLimits.GrossLb:#,##0} lb over the gross limit of {TripLimits.GrossLb:#,##0} lb."
            );
    }

    /// <summary>Feet and inches: <c>52 ft 6 in</c>.</summary>
    public static string Feet(int inches) =>
        inches % 12 == 0 ? $"{inches / 12} ft"
        : inches < 12 ? $"{inches} in"
        : $"{inches / 12} ft {inches % 12} in";

    /// <summary>Pairs that ride together only if kept apart, in words.</summary>
    public static IReadOnlyList<string> KeptApart(IReadOnlyList<TripLeg> legs) =>
        legs.SelectMany((a, i) => legs.Skip(i + 1).Select(b => (a, b, Worst: Hazards(a, b))))
            .Where(p => p.Worst.How == Segregated.Apart && p.a.TrailerId == p.b.TrailerId)
            .Select(p => $"{p.a.Number} (class {p.Worst.A}) and {p.b.Number} (class {p.Worst.B}) must be kept apart (49 CFR 177.848).")
            .ToList();

    private static FitTrailer Floor(TrailerSize t) => new(t.LengthIn, t.WidthIn, t.HeightIn, decimal.MaxValue);

    private static Problem? Together(TripLeg a, TripLeg b)
    {
        var hazards = Hazards(a, b);
        if (hazards.How == Segregated.Never)
        {
            return new Problem(
                "hazmat.segregation",
                $"Load {a.Number} (class {hazards.A}) and load {b.Number} (class {hazards.B}) may not ride on one trailer (49 CFR 177.848)."
            );
        }

        foreach (var x in a.Cargo.Where(c => c.TemperatureF is not null))
        {
            foreach (var y in b.Cargo.Where(c => c.TemperatureF is not null))
            {
                if (Math.Abs(x.TemperatureF!.Value - y.TemperatureF!.Value) > SameTemperatureF)
                {
                    return new Problem(
                        "temperature.mixed",
                        $"Load {a.Number} needs {x.TemperatureF} °F and load {b.Number} {y.TemperatureF} °F: a trailer has one temperature."
                    );
                }
            }
        }

        return null;
    }

    /// <param name="A">The class of the first load that decides; null when nothing does.</param>
    private sealed record Mix(Segregated How, string? A, string? B);

    /// <summary>The strictest rule among the hazardous materials of two loads.</summary>
    private static Mix Hazards(TripLeg a, TripLeg b) =>
        a
            .Cargo.Select(c => c.Hazard)
            .OfType<HazardousLine>()
            .SelectMany(x => b.Cargo.Select(c => c.Hazard).OfType<HazardousLine>().Select(y => (x, y)))
            .Select(p => new Mix(Segregation.Between(p.x.Class, p.x.PackingGroup, p.y.Class, p.y.PackingGroup), p.x.Class, p.y.Class))
            .Append(new Mix(Segregated.Together, null, null))
            .MaxBy(m => m.How)!;
}
