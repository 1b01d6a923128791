using NodaTime;
using NodaTime.Text;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>A day in a query string, ISO 8601: <c>2026-11-23</c>.</summary>
public readonly record struct QueryDay(LocalDate Value)
{
    public static bool TryParse(string? text, out QueryDay day)
    {
        var parsed = LocalDatePattern.Iso.Parse(text ?? "");
        // Absurd dates would overflow the calendar when weeks and months are calculated from them.
        var isMeant = parsed.Success && parsed.Value.Year is > 1900 and < 2200;
        day = isMeant ? new QueryDay(parsed.Value) : default;
        return isMeant;
    }
}

/// <summary>An enum value in a query string, as the API writes it: <c>lumper_receipt</c>.</summary>
public readonly record struct QueryEnum<T>(T Value)
    where T : struct, Enum
{
    public static bool TryParse(string? text, out QueryEnum<T> word)
    {
        foreach (var value in Enum.GetValues<T>())
        {
            if (EnumCodec.Of(value) == text)
            {
                word = new QueryEnum<T>(value);
                return true;
            }
        }

        word = default;
        return false;
    }
}
