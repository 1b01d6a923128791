using System.Text.RegularExpressions;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>A hazardous material as a shipping paper describes it.</summary>
/// <param name="UnNumber">Identification number, UN or NA and four digits (49 CFR 172.101).</param>
/// <param name="Name">Proper shipping name.</param>
/// <param name="Class">Hazard class or division, subsidiary ones in parentheses: <c>3</c>, <c>6.1 (3)</c>, <c>1.4S</c>.</param>
/// <param name="PackingGroup">I, II or III; null where there is none.</param>
/// <param name="EmergencyPhone">The emergency response number (49 CFR 172.604).</param>
public sealed partial record Hazmat(string? UnNumber, string? Name, string? Class, string? PackingGroup, string? EmergencyPhone)
{
    /// <summary>None of it known.</summary>
    public static readonly Hazmat Unknown = new(null, null, null, null, null);

    /// <summary>Class 1, class 2 and class 7 have no packing group (49 CFR 172.202(a)(4)).</summary>
    private bool HasNoGroup => Class is { } c && c[0] is '1' or '2' or '7';

    /// <summary>The description in the order of 49 CFR 172.202(b): identification number, proper shipping name, class, packing
    /// group.</summary>
    /// <example>UN1263, Paint, 3, PG II</example>
    public string Describe() =>
        string.Join(", ", new[] { UnNumber, Name, Class, PackingGroup is null ? null : $"PG {PackingGroup}" }.Where(p => p is not null));

    /// <summary>What a shipping paper needs and is not entered, in words; null when it is complete.</summary>
    /// <example>UN number, hazard class</example>
    public string? Lacks()
    {
        var lacks = string.Join(
            ", ",
            new[]
            {
                UnNumber is null ? "UN number" : null,
                Name is null ? "proper shipping name" : null,
                Class is null ? "hazard class" : null,
                PackingGroup is null && Class is "3" or "4.1" or "4.2" or "4.3" or "5.1" or "8" ? "packing group" : null,
                EmergencyPhone is null ? "emergency phone" : null,
            }.OfType<string>()
        );
        return lacks.Length == 0 ? null : lacks;
    }

    /// <summary>Checks a description as entered.</summary>
    /// <param name="marked">Whether the line is marked as hazmat.</param>
    /// <param name="at">The line's field, such as <c>freight[0]</c>.</param>
    /// <returns>In the regulations' form; valid only while <paramref name="validation"/> has no problems.</returns>
    public Hazmat Check(bool marked, string at, Validation validation)
    {
        var checkedOff = new Hazmat(
            Number(validation.Text(UnNumber, $"{at}.unNumber", "The hazmat ID number", 8), $"{at}.unNumber", validation),
            validation.Text(Name, $"{at}.hazmatName", "The proper shipping name", 120),
            ClassOf(validation.Text(Class, $"{at}.hazardClass", "The hazard class", 16), $"{at}.hazardClass", validation),
            Group(validation.Text(PackingGroup, $"{at}.packingGroup", "The packing group", 8), $"{at}.packingGroup", validation),
            validation.Text(EmergencyPhone, $"{at}.emergencyPhone", "The emergency phone", 40)
        );
        if (!marked && checkedOff != Unknown)
        {
            var field =
                checkedOff.UnNumber is not null ? "unNumber"
                : checkedOff.Name is not null ? "hazmatName"
                : checkedOff.Class is not null ? "hazardClass"
                : checkedOff.PackingGroup is not null ? "packingGroup"
                : "emergencyPhone";
            validation.Add("hazmat", "A hazmat description needs the line marked as hazmat.", $"{at}.{field}");
        }

        if (checkedOff is { HasNoGroup: true, PackingGroup: not null })
        {
            validation.Add("packing.group", $"Class {checkedOff.Class} has no packing group: leave it empty.", $"{at}.packingGroup");
        }

        return checkedOff;
    }

    private static string? Number(string? typed, string field, Validation validation)
    {
        var number = typed?.Replace(" ", "", StringComparison.Ordinal).ToUpperInvariant();
        if (number is { Length: 4 } && number.All(char.IsAsciiDigit))
        {
            number = "UN" + number;
        }

        if (number is not null && !UnNumbers().IsMatch(number))
        {
            validation.Add("un.number", "A hazmat ID number is UN or NA followed by four digits, such as UN1993.", field);
        }

        return number;
    }

    private static string? ClassOf(string? typed, string field, Validation validation)
    {
        var text = typed is null ? null : Spaces().Replace(typed.ToUpperInvariant().Replace("CLASS", "", StringComparison.Ordinal), "");
        if (text is null)
        {
            return null;
        }

        text = text.Replace("(", " (", StringComparison.Ordinal).Replace(",", ", ", StringComparison.Ordinal);
        if (!Classes().IsMatch(text))
        {
            validation.Add(
                "hazard.class",
                "A hazard class is 1 to 9 with its division, such as 3, 2.1, 1.4S or 6.1 (3) with a subsidiary class.",
                field
            );
        }

        return text;
    }

    private static string? Group(string? typed, string field, Validation validation)
    {
        if (typed is null)
        {
            return null;
        }

        var group = typed.ToUpperInvariant().Replace("PG", "", StringComparison.Ordinal).Trim() switch
        {
            "1" or "I" => "I",
            "2" or "II" => "II",
            "3" or "III" => "III",
            _ => null,
        };
        if (group is null)
        {
            validation.Add("packing.group", "A packing group is I, II or III.", field);
        }

        return group;
    }

    [GeneratedRegex("^(UN|NA)[0-9]{4}$")]
    private static partial Regex UnNumbers();

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();

    // Divisions of 49 CFR 173.50 to 173.140, compatibility groups of 173.52.
    private const string One = @"(1\.[1-6][A-HJ-LNS]?|2\.[1-3]|3|4\.[1-3]|5\.[12]|6\.[12]|7|8|9)";

    [GeneratedRegex($@"^{One}( \({One}(, {One})*\))?$")]
    private static partial Regex Classes();
}
