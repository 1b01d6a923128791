using System.Globalization;
using NodaTime.Text;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>The type of a custom field.</summary>
public enum CustomFieldKind
{
    Text,
    Number,
    Date,
    Choice,
}

/// <summary>A field the company added to its loads.</summary>
/// <param name="Choices">The choices; empty for other types.</param>
public sealed record CustomField(long Id, string Name, CustomFieldKind Kind, IReadOnlyList<string> Choices, bool Required)
{
    /// <summary>The most characters of a value.</summary>
    public const int MaxText = 400;

    /// <summary>A definition that can be saved, or what is wrong with it.</summary>
    public static Outcome<CustomField> Define(long id, string? name, CustomFieldKind? kind, IReadOnlyList<string>? choices, bool required)
    {
        var validation = new Validation();
        var summary = validation.Text(name, "name", "The name", 40, required: true);
        if (kind is null)
        {
            validation.Add("missing", "Choose the field type: text, number, date or choice.", "kind");
        }

        var offered = (choices ?? []).Select(c => c.Trim()).Where(c => c.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase).ToList();
        if (kind == CustomFieldKind.Choice && offered.Count < 2)
        {
            validation.Add("missing", "A choice field needs at least two choices.", "choices");
        }

        if (offered.Count > 60 || offered.Any(c => c.Length > 80 || c.Any(char.IsControl)))
        {
            validation.Add("too.many", "At most 60 choices of at most 80 characters each.", "choices");
        }

        return validation.Ok
            ? new CustomField(id, summary!, kind!.Value, kind == CustomFieldKind.Choice ? offered : [], required)
            : validation.Problems;
    }

    /// <summary>A value in its stored form (invariant numbers, ISO 8601 dates), or null when empty.</summary>
    public string? Read(string? typed, string field, bool must, Validation validation)
    {
        var text = validation.Text(typed, field, Name, MaxText, required: must && Required);
        switch (text, Kind)
        {
            case (null, _):
                return null;
            case (_, CustomFieldKind.Number)
                when decimal.TryParse(
                    text,
                    NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint | NumberStyles.AllowThousands,
                    CultureInfo.InvariantCulture,
                    out var number
                ):
                return number.ToString(CultureInfo.InvariantCulture);
            case (_, CustomFieldKind.Number):
                validation.Add("number", $"{Name} must be a number.", field);
                return null;
            case (_, CustomFieldKind.Date):
                if (LocalDatePattern.Iso.Parse(text) is { Success: true, Value.Year: > 1900 and < 2200 } date)
                {
                    return LocalDatePattern.Iso.Format(date.Value);
                }

                validation.Add("date", $"{Name} must be a date.", field);
                return null;
            case (_, CustomFieldKind.Choice):
                var chosen = Choices.FirstOrDefault(c => string.Equals(c, text, StringComparison.OrdinalIgnoreCase));
                if (chosen is null)
                {
                    validation.Add("choice", $"{Name} must be one of: {string.Join(", ", Choices)}.", field);
                }

                return chosen;
            default:
                return text;
        }
    }
}
