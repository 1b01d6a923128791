using SteadyLark.Core.Basics;

namespace SteadyLark.Core.People;

/// <summary>Our own company, as entered.</summary>
/// <param name="Usdot">USDOT number: digits (49 CFR 390.19).</param>
/// <param name="McNumber">Docket number of the operating authority: digits, with or without MC before them (49 CFR 365.101).</param>
/// <param name="Zone">A tz database name.</param>
public sealed record CompanyDraft(
    string? Name,
    string? Address,
    string? Phone,
    string? Email,
    string? Usdot,
    string? McNumber,
    string? Zone
);

/// <summary>Rules for our company's name, address and numbers.</summary>
public static class CompanyRules
{
    /// <param name="nameField">The name's field in the command.</param>
    /// <returns>The trimmed draft; valid only while <paramref name="validation"/> has no problems.</returns>
    public static CompanyDraft Check(CompanyDraft d, Validation validation, string nameField = "name")
    {
        var zone = validation.Text(d.Zone, "zone", "Time zone", 60, required: true);
        if (zone is not null && WallClock.Zone(zone) is null)
        {
            validation.Add("zone", "Choose a time zone from the list.", "zone");
        }

        return new CompanyDraft(
            validation.Text(d.Name, nameField, "Company name", 100, required: true),
            validation.Text(d.Address, "address", "Address", 300, required: true),
            validation.Text(d.Phone, "phone", "Phone", 40, required: true),
            UserRules.Email(validation, d.Email, required: true),
            Number(validation, d.Usdot, "usdot", "USDOT number", ""),
            Number(validation, d.McNumber, "mcNumber", "MC number", "MC"),
            zone
        );
    }

    private static string? Number(Validation validation, string? value, string field, string name, string prefix)
    {
        var text = validation.Text(value, field, name, 20)?.ToUpperInvariant();
        var digits = text is null
            ? null
            : (prefix.Length > 0 && text.StartsWith(prefix, StringComparison.Ordinal) ? text[prefix.Length..] : text).TrimStart(
                '-',
                ' ',
                '#'
            );
        if (digits is not null && (digits.Length is 0 or > 8 || !digits.All(char.IsAsciiDigit)))
        {
            validation.Add("number", $"A {name} has up to 8 digits, such as {prefix}{(prefix.Length > 0 ? "-" : "")}123456.", field);
        }

        return digits;
    }
}
