using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>The usual size of a vehicle of a body style: inches and pounds.</summary>
public sealed record BodyStyle(string Name, int LengthIn, int WidthIn, int HeightIn, int WeightLb);

/// <summary>The same, as entered.</summary>
public sealed record BodyStyleOrder(string? Name, int? LengthIn, int? WidthIn, int? HeightIn, int? WeightLb);

/// <summary>The company's table of body styles.</summary>
public static class BodyStyles
{
    /// <summary>The most styles a company lists.</summary>
    public const int Most = 60;

    /// <summary>The most characters of a name.</summary>
    public const int MaxName = 30;

    /// <summary>Checks the table as edited: names are unique and each size is possible.</summary>
    public static Outcome<IReadOnlyList<BodyStyle>> CheckList(IReadOnlyList<BodyStyleOrder?>? styles)
    {
        var rows = styles ?? [];
        if (rows.Count > Most)
        {
            return new Problem("too.many", $"At most {Most} body styles can be listed.", "styles");
        }

        var validation = new Validation();
        var list = new List<BodyStyle>();
        for (var i = 0; i < rows.Count; i++)
        {
            var (row, at) = (rows[i], $"styles[{i}]");
            var name = validation.Text(row?.Name, $"{at}.name", "The name of the body style", MaxName, required: true);
            if (name is not null && list.Any(l => string.Equals(l.Name, name, StringComparison.OrdinalIgnoreCase)))
            {
                validation.Add("name.taken", $"There are two body styles named {name}.", $"{at}.name");
            }

            foreach (
                var (value, least, most, field, what) in new[]
                {
                    (row?.LengthIn, 40, 600, "lengthIn", "The length in inches"),
                    (row?.WidthIn, 20, 140, "widthIn", "The width in inches"),
                    (row?.HeightIn, 20, 170, "heightIn", "The height in inches"),
                    (row?.WeightLb, 50, 40_000, "weightLb", "The weight in pounds"),
                }
            )
            {
                if (value is null)
                {
                    validation.Add("missing", $"{what} is required.", $"{at}.{field}");
                }

                validation.Between(value, least, most, $"{at}.{field}", what);
            }

            list.Add(new BodyStyle(name ?? "", row?.LengthIn ?? 0, row?.WidthIn ?? 0, row?.HeightIn ?? 0, row?.WeightLb ?? 0));
        }

        return validation.Ok ? list : validation.Problems;
    }
}

/// <summary>A vehicle to be hauled.</summary>
/// <param name="Vin">Vehicle identification number, as checked by <see cref="Loads.Vin"/>.</param>
/// <param name="Body">Its body style; null when it is not of the table.</param>
/// <param name="Runs">Whether it drives on and off; one that does not needs a winch.</param>
/// <param name="Keys">Whether its keys are with it.</param>
public sealed record Vehicle(int? Year, string? Make, string? Model, string? Vin, string? Body, bool Runs, bool Keys)
{
    /// <summary>As people name it: 2019 Larkspur Ridge wagon.</summary>
    public string Name =>
        string.Join(' ', new[] { Year?.ToString(System.Globalization.CultureInfo.InvariantCulture), Make, Model, Body }.OfType<string>());

    /// <summary>Its name with what matters for loading it.</summary>
    public string Described =>
        string.Join(
            ", ",
            new[]
            {
                Name.Length > 0 ? Name : "vehicle",
                Vin is null ? null : $"VIN {Vin}",
                Runs ? null : "does not run",
                Keys ? null : "no keys",
            }.OfType<string>()
        );
}

/// <summary>A vehicle as ordered; its size and weight are those of its freight line, or of its body style.</summary>
public sealed record VehicleOrder(int? Year, string? Make, string? Model, string? Vin, string? Body, bool Runs = true, bool Keys = true)
{
    /// <summary>Reads an order, or says what is wrong with it.</summary>
    /// <param name="at">The path of its fields.</param>
    /// <param name="styles">The company's table.</param>
    public (Vehicle Vehicle, BodyStyle? Style) Read(
        IReadOnlyList<BodyStyle> styles,
        LocalDate today,
        string at,
        string line,
        Validation validation
    )
    {
        validation.Between(Year, 1886, today.Year + 2, $"{at}.year", $"{line}: the model year");
        var body = validation.Text(Body, $"{at}.body", $"{line}: the body style", BodyStyles.MaxName);
        var style = styles.FirstOrDefault(s => string.Equals(s.Name, body, StringComparison.OrdinalIgnoreCase));
        if (body is not null && style is null)
        {
            validation.Add(
                "unknown",
                $"{line}: {body} is not on the list of body styles: choose from the list, or add it in Setup.",
                $"{at}.body"
            );
        }

        return (
            new Vehicle(
                Year,
                validation.Text(Make, $"{at}.make", $"{line}: the make", 40),
                validation.Text(Model, $"{at}.model", $"{line}: the model", 40),
                Loads.Vin.Read(Vin, Year, $"{at}.vin", line, validation),
                style?.Name,
                Runs,
                Keys
            ),
            style
        );
    }
}

/// <summary>Vehicle identification numbers (49 CFR part 565).</summary>
public static class Vin
{
    /// <summary>Vehicles of this model year and later have 17 characters with a check digit (49 CFR 565.13, 565.15; before it, numbers of other
    /// lengths).</summary>
    public const int FirstYear = 1981;

    /// <summary>The weight of each position (49 CFR 565.15, table IV).</summary>
    private static readonly int[] Weights = [8, 7, 6, 5, 4, 3, 2, 10, 0, 9, 8, 7, 6, 5, 4, 3, 2];

    /// <summary>The values of A to Z (table III); I, O and Q are not used.</summary>
    private const string Values = "12345678.12345.7.923456789";

    /// <summary>The check digit of 17 characters: 0 to 9 or X; null when a character cannot be in such a number.</summary>
    /// <example>Seventeen ones have the check digit 1.</example>
    public static char? CheckDigit(string vin)
    {
        var sum = 0;
        for (var i = 0; i < 17; i++)
        {
            var c = vin[i];
            var value =
                char.IsAsciiDigit(c) ? c - '0'
                : char.IsAsciiLetterUpper(c) && Values[c - 'A'] != '.' ? Values[c - 'A'] - '0'
                : -1;
            if (value < 0 && i != 8)
            {
                return null;
            }

            sum += Math.Max(0, value) * Weights[i];
        }

        return sum % 11 == 10 ? 'X' : (char)('0' + (sum % 11));
    }

    /// <summary>Reads a number as typed: in capitals, without spaces and hyphens. From 1981 on it is checked; of an older vehicle any 1 to 17
    /// letters and digits will do.</summary>
    /// <param name="year">The model year; null when unknown.</param>
    /// <returns>Null when none is given, or with problems.</returns>
    public static string? Read(string? typed, int? year, string field, string line, Validation validation)
    {
        if (validation.Text(typed, field, $"{line}: the VIN", 40) is not { } text)
        {
            return null;
        }

        var vin = text.Replace(" ", "", StringComparison.Ordinal).Replace("-", "", StringComparison.Ordinal).ToUpperInvariant();
        var problem =
            vin.Length > 17 || !vin.All(char.IsAsciiLetterOrDigit) ? $"{line}: a VIN has 17 letters and digits."
            : year < FirstYear ? null
            : vin.Length < 17
                ? $"{line}: a VIN has 17 characters, this one {vin.Length}. Only vehicles before {FirstYear} have shorter ones: enter the year."
            : CheckDigit(vin) is not { } digit ? $"{line}: a VIN has no I, O or Q; it may be a 1 or a 0."
            : digit != vin[8]
                ? $"{line}: check the VIN; its check digit, the 9th character, should be {digit} for these characters and is {vin[8]}."
            : null;
        if (problem is not null)
        {
            validation.Add("vin", problem, field);
        }

        return problem is null ? vin : null;
    }
}
