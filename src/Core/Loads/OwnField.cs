using System.Globalization;
using NodaTime.Text;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>What a field of the business's own takes.</summary>
public enum OwnFieldKind
{
    Text,
    Number,
    Date,
    Choice,
}

/// <summary>A field that the business added to its loads.</summary>
/// <param name="Choices">What may be chosen; empty but for a choice.</param>
public sealed record OwnField(long Id, string Name, OwnFieldKind Kind, IReadOnlyList<string> Choices, bool Required)
{
    /// <summary>Most characters of a value.</summary>
    public const int MostText = 400;

    /// <summary>A definition that can be kept, or what is wrong with it.</summary>
    public static Outcome<OwnField> Define(long id, string? name, OwnFieldKind? kind, IReadOnlyList<string>? choices, bool required)
    {
        var checks = new Checks();
        var said = checks.Text(name, "name", "The name", 40, required: true);
        if (kind is null)
        {
            checks.Add("missing", "Say what the field takes: text, a number, a date or a choice.", "kind");
        }

        var offered = (choices ?? []).Select(c => c.Trim()).Where(c => c.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase).ToList();
        if (kind == OwnFieldKind.Choice && offered.Count < 2)
        {
            checks.Add("missing", "A choice needs at least two things to choose from.", "choices");
        }

        if (offered.Count > 60 || offered.Any(c => c.Length > 80 || c.Any(char.IsControl)))
        {
            checks.Add("too.many", "At most 60 choices of at most 80 characters each.", "choices");
        }

        return checks.Ok ? new OwnField(id, said!, kind!.Value, kind == OwnFieldKind.Choice ? offered : [], required) : checks.Problems.ToList();
    }

    /// <summary>A value in the form in which it is kept (numbers invariant, dates ISO 8601), or null when nothing was written.</summary>
    public string? Read(string? typed, string field, bool must, Checks checks)
    {
        var text = checks.Text(typed, field, Name, MostText, required: must && Required);
        switch (text, Kind)
        {
            case (null, _):
                return null;
            case (_, OwnFieldKind.Number) when decimal.TryParse(text, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint | NumberStyles.AllowThousands, CultureInfo.InvariantCulture, out var number):
                return number.ToString(CultureInfo.InvariantCulture);
            case (_, OwnFieldKind.Number):
                checks.Add("number", $"{Name} must be a number.", field);
                return null;
            case (_, OwnFieldKind.Date):
                if (LocalDatePattern.Iso.Parse(text) is { Success: true, Value.Year: > 1900 and < 2200 } date)
                {
                    return LocalDatePattern.Iso.Format(date.Value);
                }

                checks.Add("date", $"{Name} must be a date.", field);
                return null;
            case (_, OwnFieldKind.Choice):
                var chosen = Choices.FirstOrDefault(c => string.Equals(c, text, StringComparison.OrdinalIgnoreCase));
                if (chosen is null)
                {
                    checks.Add("choice", $"{Name} must be one of: {string.Join(", ", Choices)}.", field);
                }

                return chosen;
            default:
                return text;
        }
    }
}
