using System.Globalization;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;

namespace SteadyLark.Core.Pricing;

/// <summary>The rates of one freight class up to a distance.</summary>
/// <param name="UpToMiles">The longest haul they are for, above 0.</param>
/// <param name="Class">One of <see cref="FreightClass.All"/>.</param>
/// <param name="PerCwt">Dollars per hundredweight, one for each weight break of the table.</param>
public sealed record ClassRateRow(int UpToMiles, decimal Class, [property: SeenWith(Right.RatesSee)] IReadOnlyList<decimal> PerCwt);

/// <summary>Freight of a load to be rated by class.</summary>
/// <param name="Name">Which line it is, as in a message: "Freight line 1".</param>
/// <param name="Class">Entered, or by density; null when neither is known.</param>
public sealed record ClassFreight(string Name, decimal? Class, int? WeightLb)
{
    /// <summary>A line of a load; sizes and weight as in <see cref="FreightClass.Density"/>.</summary>
    /// <param name="index">Its place on the load, from 0.</param>
    /// <param name="entered">The class that was entered; null for that of its density.</param>
    public static ClassFreight Of(
        int index,
        decimal? entered,
        int? pallets,
        int? pieces,
        int? lengthIn,
        int? widthIn,
        int? heightIn,
        int? weightLb
    ) => new($"Freight line {index + 1}", FreightClass.Of(entered, pallets ?? pieces, lengthIn, widthIn, heightIn, weightLb), weightLb);
}

/// <summary>One class of a rated load.</summary>
/// <param name="WeightLb">Pounds charged.</param>
/// <param name="PerCwt">Dollars per hundredweight.</param>
/// <param name="IsDeficit">Whether it is weight that is not there, charged to reach the next weight break.</param>
public sealed record ClassRatingLine(decimal Class, int WeightLb, decimal PerCwt, decimal Amount, bool IsDeficit = false);

/// <summary>How a charge by class came about, kept with the charge. Amounts are in the currency of the load.</summary>
/// <param name="Table">The name of the rate table at the time.</param>
/// <param name="FromLb">The weight break that was used.</param>
/// <param name="Gross">Before the discount.</param>
/// <param name="DiscountPercent">0 to 99.99.</param>
/// <param name="Minimum">What is charged at least after the discount; null without a minimum.</param>
/// <param name="Net">What is charged.</param>
public sealed record ClassRating(
    long TableId,
    string Table,
    int UpToMiles,
    int FromLb,
    IReadOnlyList<ClassRatingLine> Lines,
    decimal Gross,
    decimal DiscountPercent,
    decimal? Minimum,
    decimal Net
)
{
    internal static string Figure(decimal number, string format) => number.ToString(format, CultureInfo.InvariantCulture);

    /// <summary>Pounds charged, with any deficit weight.</summary>
    public int ChargedLb => Lines.Sum(l => l.WeightLb);

    /// <summary>In words, as an invoice shows it.</summary>
    /// <example>class 70: 1,200 lb at 24.31; 62 % discount</example>
    public string Described =>
        string.Join(
            "; ",
            Lines
                .Select(l =>
                    $"{(l.IsDeficit ? "deficit weight, " : "")}class {Figure(l.Class, "0.#")}: {Figure(l.WeightLb, "#,##0")} lb at {Figure(l.PerCwt, "0.00##")}"
                )
                .Concat(DiscountPercent > 0 ? [$"{Figure(DiscountPercent, "0.##")} % discount"] : [])
                .Concat(Minimum is { } least && Net == least ? [$"minimum charge {Figure(least, "#,##0.00")}"] : [])
        );
}

/// <summary>
/// A table of less-than-truckload rates: dollars per hundredweight by distance, freight class and weight. The terms that go with it apply to
/// each load unless the load has its own.
/// </summary>
/// <param name="Breaks">Weight breaks in pounds, rising from 0: a load is rated at the highest one it reaches.</param>
/// <param name="DiscountPercent">Taken from the rates, 0 to 99.99.</param>
/// <param name="Minimum">What is charged at least after the discount, in dollars; null without a minimum.</param>
/// <param name="SurchargePercent">Fuel surcharge on the charge after the discount, 0 to 100; proposed for each load.</param>
/// <param name="IsActive">False once removed from the list; loads of the past still name it.</param>
public sealed record ClassRates(
    long Id,
    string Name,
    Currency Currency,
    decimal DiscountPercent,
    decimal? Minimum,
    decimal SurchargePercent,
    IReadOnlyList<int> Breaks,
    IReadOnlyList<ClassRateRow> Rows,
    bool IsActive = true
)
{
    /// <summary>The most weight breaks of a table.</summary>
    public const int MaxBreaks = 12;

    /// <summary>The most rows of a table: forty distances of eighteen classes.</summary>
    public const int MaxRows = 720;

    private const decimal MaxRate = 10_000m;

    /// <summary>
    /// Rates freight. The total weight decides the weight break; each class is charged its weight at its rate. Where the next weight break is
    /// cheaper even though the missing pounds are charged too (deficit weight, at the lowest rate of the classes on the load), it is used,
    /// as less-than-truckload tariffs provide. Amounts are rounded to the cent, half away from zero, line by line.
    /// </summary>
    /// <param name="miles">The load's miles, when known.</param>
    /// <param name="discount">Percent instead of the table's; null for the table's. Likewise the minimum, in dollars.</param>
    /// <returns>The rating, or why there is none; fields are relative to the charge.</returns>
    /// <example>900 lb at 40.00 are 360.00; with 30.00 from 1,000 lb, 900 lb and 100 lb of deficit weight at 30.00 are 300.00.</example>
    public Outcome<ClassRating> Rate(int? miles, IReadOnlyList<ClassFreight> freight, decimal? discount = null, decimal? minimum = null)
    {
        if (miles is not { } haul)
        {
            return new Problem("quantity", "the miles are unknown until both places are set", "classRatesId");
        }

        if (freight.FirstOrDefault(f => f.WeightLb is not > 0) is { } weightless)
        {
            return new Problem("quantity", $"the weight of {Lower(weightless.Name)} is needed to rate it by class", "classRatesId");
        }

        if (freight.FirstOrDefault(f => f.Class is null) is { } classless)
        {
            return new Problem(
                "class.unknown",
                $"{Lower(classless.Name)} has no freight class: choose it, or enter the size and count for its density",
                "classRatesId"
            );
        }

        var off = discount ?? DiscountPercent;
        if (!IsDiscount(off))
        {
            return new Problem(
                "discount",
                "the discount must be from 0 to 99.99 percent, with up to two decimal places",
                "discountPercent"
            );
        }

        var bands = Rows.Where(r => r.UpToMiles >= haul).ToList();
        if (freight.Count == 0 || bands.Count == 0)
        {
            return freight.Count == 0
                ? new Problem("quantity", "the freight is unknown: enter it first", "classRatesId")
                : new Problem(
                    "distance",
                    $"the rate table {Name} ends at {Rows.Max(r => r.UpToMiles):#,##0} miles, and this load goes {haul:#,##0}: use another table",
                    "classRatesId"
                );
        }

        var upTo = bands.Min(r => r.UpToMiles);
        var rates = bands.Where(r => r.UpToMiles == upTo).ToDictionary(r => r.Class, r => r.PerCwt);
        var classes = freight
            .GroupBy(f => f.Class!.Value)
            .OrderBy(g => g.Key)
            .Select(g => (Class: g.Key, Pounds: g.Sum(f => f.WeightLb!.Value)))
            .ToList();
        if (classes.FirstOrDefault(c => !rates.ContainsKey(c.Class)) is { Pounds: > 0 } missing)
        {
            return new Problem(
                "class.missing",
                $"the rate table {Name} has no rate for class {missing.Class:0.#} up to {upTo:#,##0} miles: add it, or use another table",
                "classRatesId"
            );
        }

        var total = classes.Sum(c => c.Pounds);
        var first = Breaks.ToList().FindLastIndex(b => b <= total);
        // The lowest charge; of equal ones, the one with the least deficit weight.
        var (at, lines, gross) = Enumerable
            .Range(first, Breaks.Count - first)
            .Select(i =>
            {
                var charged = Charged(classes, rates, i, Breaks[i] - total);
                return (At: i, Lines: charged, Gross: charged.Sum(l => l.Amount));
            })
            .MinBy(x => x.Gross);
        var net = gross - Cents(gross * off / 100);
        var least = minimum ?? Minimum;
        return new ClassRating(Id, Name, upTo, Breaks[at], lines, gross, off, least, Math.Max(net, least ?? 0));
    }

    private static List<ClassRatingLine> Charged(
        List<(decimal Class, int Pounds)> classes,
        Dictionary<decimal, IReadOnlyList<decimal>> rates,
        int at,
        int deficit
    )
    {
        var lines = classes
            .Select(c => new ClassRatingLine(c.Class, c.Pounds, rates[c.Class][at], Cents(c.Pounds * rates[c.Class][at] / 100)))
            .ToList();
        if (deficit > 0)
        {
            var lowest = lines.MinBy(l => l.PerCwt)!;
            lines.Add(new ClassRatingLine(lowest.Class, deficit, lowest.PerCwt, Cents(deficit * lowest.PerCwt / 100), IsDeficit: true));
        }

        return lines;
    }

    private static bool IsDiscount(decimal percent) => percent is >= 0 and < 100 && decimal.Round(percent, 2) == percent;

    private static decimal Cents(decimal amount) => Math.Round(amount, 2, MidpointRounding.AwayFromZero);

    private static string Lower(string name) => name.Length == 0 ? name : char.ToLowerInvariant(name[0]) + name[1..];

    /// <summary>A table as its file has it: titles (miles, class, and a weight break for each further column), then a row for each distance and
    /// class.</summary>
    public static IReadOnlyList<IReadOnlyList<string>> Cells(IReadOnlyList<int> breaks, IReadOnlyList<ClassRateRow> rows) =>
        [
            ["Up to miles", "Class", .. breaks.Select(b => ClassRating.Figure(b, "0"))],
            .. rows.Select(r =>
                (IReadOnlyList<string>)
                    [
                        ClassRating.Figure(r.UpToMiles, "0"),
                        ClassRating.Figure(r.Class, "0.#"),
                        .. r.PerCwt.Select(c => ClassRating.Figure(c, "0.00##")),
                    ]
            ),
        ];

    /// <summary>
    /// Reads a table's file, as <see cref="Cells"/> has it. The weight breaks may have words, such as "from 500 lb".
    /// </summary>
    /// <param name="rows">All rows as text, at least one.</param>
    /// <returns>The weight breaks and the rows by distance and class, or what is wrong, by row as a spreadsheet counts them.</returns>
    public static Outcome<(IReadOnlyList<int> Breaks, IReadOnlyList<ClassRateRow> Rows)> Read(IReadOnlyList<IReadOnlyList<string>> rows)
    {
        var validation = new Validation();
        var breaks = ReadBreaks(rows[0], validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        if (rows.Count < 2 || rows.Count - 1 > MaxRows)
        {
            return new Problem("rows", $"The table needs 1 to {MaxRows} rows of rates; this file has {rows.Count - 1}.", "file");
        }

        var read = new List<ClassRateRow>();
        for (var i = 1; i < rows.Count && validation.Problems.Count < 10; i++)
        {
            if (ReadRow(rows[i], i + 1, breaks, validation) is { } row)
            {
                read.Add(row);
            }
        }

        foreach (var twice in read.GroupBy(r => (r.UpToMiles, r.Class)).Where(g => g.Count() > 1).Take(3))
        {
            validation.Add("twice", $"Class {twice.Key.Class:0.#} up to {twice.Key.UpToMiles:#,##0} miles is in the file twice.", "file");
        }

        return validation.Ok
            ? (breaks, (IReadOnlyList<ClassRateRow>)read.OrderBy(r => r.UpToMiles).ThenBy(r => r.Class).ToList())
            : validation.Problems;
    }

    private static List<int> ReadBreaks(IReadOnlyList<string> titles, Validation validation)
    {
        var breaks = new List<int>();
        foreach (var title in titles.Skip(2).Where(t => t.Length > 0))
        {
            var digits = new string(title.Where(char.IsAsciiDigit).ToArray());
            if (!int.TryParse(digits, CultureInfo.InvariantCulture, out var pounds) || pounds > 100_000)
            {
                validation.Add("break", $"“{title}” is not a weight break: title each rate column by its pounds, such as 500.", "file");
                return [];
            }

            breaks.Add(pounds);
        }

        if (breaks.Count is 0 or > MaxBreaks || breaks[0] != 0 || breaks.Zip(breaks.Skip(1)).Any(p => p.Second <= p.First))
        {
            validation.Add(
                "break",
                $"The first row must be Up to miles, Class, and 1 to {MaxBreaks} weight breaks in pounds, rising from 0.",
                "file"
            );
        }

        return breaks;
    }

    private static ClassRateRow? ReadRow(IReadOnlyList<string> cells, int number, List<int> breaks, Validation validation)
    {
        var before = validation.Problems.Count;
        var miles = Number(cells, 0);
        if (miles is not (> 0 and <= 6_000) || decimal.Truncate(miles.Value) != miles)
        {
            validation.Add("miles", $"Row {number}: “{Cell(cells, 0)}” must be whole miles from 1 to 6,000.", "file");
        }

        var freightClass = Number(cells, 1);
        if (freightClass is not { } c || !FreightClass.All.Contains(c))
        {
            validation.Add("freight.class", $"Row {number}: “{Cell(cells, 1)}” is not a freight class.", "file");
        }

        var rates = new List<decimal>();
        for (var i = 0; i < breaks.Count; i++)
        {
            if (Number(cells, i + 2) is { } rate && rate is > 0 and <= MaxRate && decimal.Round(rate, 4) == rate)
            {
                rates.Add(rate);
            }
            else
            {
                validation.Add(
                    "rate",
                    $"Row {number}: “{Cell(cells, i + 2)}” must be dollars per hundredweight above 0, with up to four decimal places.",
                    "file"
                );
            }
        }

        return validation.Problems.Count == before ? new ClassRateRow((int)miles!.Value, freightClass!.Value, rates) : null;
    }

    private static string Cell(IReadOnlyList<string> cells, int i) => i < cells.Count ? cells[i] : "";

    private static decimal? Number(IReadOnlyList<string> cells, int i) =>
        decimal.TryParse(
            Cell(cells, i).Replace("$", "", StringComparison.Ordinal),
            NumberStyles.AllowDecimalPoint | NumberStyles.AllowThousands,
            CultureInfo.InvariantCulture,
            out var number
        )
            ? number
            : null;

    /// <summary>The name and terms of a table, checked.</summary>
    /// <param name="names">Of the other tables.</param>
    public static Outcome<ClassRates> Terms(
        string? name,
        decimal? discountPercent,
        decimal? minimum,
        decimal? surchargePercent,
        Currency currency,
        IReadOnlyList<string> names
    )
    {
        var validation = new Validation();
        var called = validation.Text(name, "name", "The name", 60, required: true);
        if (called is not null && names.Contains(called, StringComparer.OrdinalIgnoreCase))
        {
            validation.Add("name.taken", $"There is already a rate table {called}: choose another name.", "name");
        }

        if (!IsDiscount(discountPercent ?? 0))
        {
            validation.Add("discount", "The discount must be from 0 to 99.99 percent.", "discountPercent");
        }

        if (surchargePercent is < 0 or > 100 || decimal.Round(surchargePercent ?? 0, 2) != (surchargePercent ?? 0))
        {
            validation.Add("surcharge", "The fuel surcharge must be from 0 to 100 percent.", "surchargePercent");
        }

        validation.Amount(minimum, "minimum", "The minimum charge", required: false);
        return validation.Ok
            ? new ClassRates(0, called!, currency, discountPercent ?? 0, minimum, surchargePercent ?? 0, [], [])
            : validation.Problems;
    }
}
