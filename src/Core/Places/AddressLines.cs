using System.Globalization;
using System.Text.RegularExpressions;

namespace SteadyLark.Core.Places;

/// <summary>A parsed line of an address list; the gazetteer decides what the address means.</summary>
/// <param name="Row">Row in the list, from 1.</param>
/// <param name="Address">Empty when there was none.</param>
/// <param name="Service">Minutes, or null when not given.</param>
/// <param name="Opens">Minutes from midnight, as is <paramref name="Closes"/>.</param>
/// <param name="Faults">What is wrong besides the address, in words.</param>
public sealed record AddressLine(
    int Row,
    string Address,
    string? Name,
    double? Service,
    double? Opens,
    double? Closes,
    long? Demand,
    IReadOnlyList<string> Faults
);

/// <summary>
/// Reads address lists: with a header that names the columns, or without one, telling windows, minutes and text apart by their form.
/// </summary>
public static partial class AddressLines
{
    private enum Column
    {
        Nothing,
        Address,
        Part,
        Latitude,
        Longitude,
        Name,
        Service,
        Window,
        Opens,
        Closes,
        Demand,
    }

    private static readonly Dictionary<string, Column> Heads = new(StringComparer.OrdinalIgnoreCase)
    {
        ["address"] = Column.Address,
        ["place"] = Column.Address,
        ["location"] = Column.Address,
        ["street"] = Column.Part,
        ["street address"] = Column.Part,
        ["city"] = Column.Part,
        ["town"] = Column.Part,
        ["state"] = Column.Part,
        ["province"] = Column.Part,
        ["region"] = Column.Part,
        ["zip"] = Column.Part,
        ["zip code"] = Column.Part,
        ["postal"] = Column.Part,
        ["postal code"] = Column.Part,
        ["postcode"] = Column.Part,
        ["latitude"] = Column.Latitude,
        ["lat"] = Column.Latitude,
        ["longitude"] = Column.Longitude,
        ["long"] = Column.Longitude,
        ["lon"] = Column.Longitude,
        ["lng"] = Column.Longitude,
        ["name"] = Column.Name,
        ["stop"] = Column.Name,
        ["customer"] = Column.Name,
        ["company"] = Column.Name,
        ["service"] = Column.Service,
        ["service minutes"] = Column.Service,
        ["service_minutes"] = Column.Service,
        ["minutes"] = Column.Service,
        ["window"] = Column.Window,
        ["time window"] = Column.Window,
        ["hours"] = Column.Window,
        ["from"] = Column.Opens,
        ["open"] = Column.Opens,
        ["opens"] = Column.Opens,
        ["earliest"] = Column.Opens,
        ["ready"] = Column.Opens,
        ["until"] = Column.Closes,
        ["to"] = Column.Closes,
        ["close"] = Column.Closes,
        ["closes"] = Column.Closes,
        ["latest"] = Column.Closes,
        ["due"] = Column.Closes,
        ["demand"] = Column.Demand,
        ["pieces"] = Column.Demand,
        ["pallets"] = Column.Demand,
        ["quantity"] = Column.Demand,
    };

    /// <summary>Reads rows of cells; the first is a header if it names an address or part of one.</summary>
    public static IReadOnlyList<AddressLine> Read(IReadOnlyList<IReadOnlyList<string>> rows)
    {
        if (rows.Count == 0)
        {
            return [];
        }

        var head = rows[0].Select(c => Heads.GetValueOrDefault(c.Trim().Replace('-', ' '))).ToList();
        return head.Any(c => c is Column.Address or Column.Part or Column.Latitude)
            ? rows.Skip(1).Select((r, i) => Headed(i + 2, r, head)).ToList()
            : rows.Select((r, i) => Estimated(i + 1, r)).ToList();
    }

    /// <summary>A time of day as minutes from midnight: 8, 0800, 8:00, 8am, 5:30 pm, 24:00; null when it is not one.</summary>
    public static double? Time(string text)
    {
        var m = OneTime().Match(text.Trim());
        if (!m.Success)
        {
            // Spreadsheets store a time of day as a fraction of a day.
            return double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var part) && part is > 0 and < 1
                ? Math.Round(part * 1440)
                : null;
        }

        var digits = m.Groups["h"].Value;
        var (hour, minute) =
            m.Groups["m"].Success
                ? (int.Parse(digits, CultureInfo.InvariantCulture), int.Parse(m.Groups["m"].Value, CultureInfo.InvariantCulture))
            : digits.Length > 2
                ? (int.Parse(digits[..^2], CultureInfo.InvariantCulture), int.Parse(digits[^2..], CultureInfo.InvariantCulture))
            : (int.Parse(digits, CultureInfo.InvariantCulture), 0);
        if (m.Groups["half"].Value is { Length: > 0 } half)
        {
            if (hour is < 1 or > 12)
            {
                return null;
            }

            hour = (hour % 12) + (half[0] is 'p' or 'P' ? 12 : 0);
        }

        return hour > 24 || minute > 59 || (hour == 24 && minute > 0) ? null : (hour * 60) + minute;
    }

    private static AddressLine Headed(int row, IReadOnlyList<string> cells, List<Column> head)
    {
        var (address, parts, faults) = ("", new List<string>(), new List<string>());
        string? name = null,
            latitude = null,
            longitude = null;
        double? service = null,
            opens = null,
            closes = null;
        long? demand = null;
        for (var i = 0; i < Math.Min(cells.Count, head.Count); i++)
        {
            var cell = cells[i].Trim();
            if (cell.Length == 0)
            {
                continue;
            }

            switch (head[i])
            {
                case Column.Address:
                    address = cell;
                    break;
                case Column.Part:
                    parts.Add(cell);
                    break;
                case Column.Latitude:
                    latitude = cell;
                    break;
                case Column.Longitude:
                    longitude = cell;
                    break;
                case Column.Name:
                    name = name is null ? cell : $"{name}, {cell}";
                    break;
                case Column.Service:
                    service = Number(cell, "service minutes", 10_000, faults);
                    break;
                case Column.Demand:
                    demand = Number(cell, "the demand", 1_000_000, faults) is { } d ? (long)Math.Round(d) : null;
                    break;
                case Column.Opens:
                    opens = Clock(cell, faults);
                    break;
                case Column.Closes:
                    closes = Clock(cell, faults);
                    break;
                case Column.Window:
                    (opens, closes) = Window(cell) ?? Fault(cell, faults);
                    break;
                default:
                    break;
            }
        }

        if (latitude is not null && longitude is not null)
        {
            // Coordinates are more exact than words.
            return Made(
                row,
                $"{latitude}, {longitude}",
                name ?? (address.Length > 0 ? address : null),
                service,
                opens,
                closes,
                demand,
                faults
            );
        }

        // A column of full addresses, or street, town, state and code in separate columns.
        address =
            parts.Count == 0 ? address
            : address.Length == 0 ? string.Join(", ", parts)
            : $"{address}, {string.Join(", ", parts)}";
        return Made(row, address, name, service, opens, closes, demand, faults);
    }

    private static AddressLine Estimated(int row, IReadOnlyList<string> cells)
    {
        var (texts, faults) = (new List<string>(), new List<string>());
        double? service = null,
            opens = null,
            closes = null;
        long? demand = null;
        string? point = null;
        var all = cells.Select(c => c.Trim()).Where(c => c.Length > 0).ToList();
        for (var i = 0; i < all.Count; i++)
        {
            // Latitude and longitude, in one cell or in two adjacent ones.
            var cell = all[i];
            if (point is null && Position().IsMatch(cell))
            {
                point = cell;
                continue;
            }

            if (point is null && i + 1 < all.Count && $"{cell}, {all[i + 1]}" is var pair && Position().IsMatch(pair))
            {
                (point, i) = (pair, i + 1);
                continue;
            }

            if (Window(cell) is { } window)
            {
                (opens, closes) = window;
            }
            else if (
                JustMinutes().Match(cell) is { Success: true } m
                && (texts.Count > 0 || m.Groups["unit"].Success)
                && !(m.Groups["n"].Length == 5 && !m.Groups["unit"].Success)
            )
            {
                if (service is null)
                {
                    service = Number(m.Groups["n"].Value, "service minutes", 10_000, faults);
                }
                else
                {
                    demand = Number(m.Groups["n"].Value, "the demand", 1_000_000, faults) is { } d ? (long)Math.Round(d) : null;
                }
            }
            else
            {
                texts.Add(cell);
            }
        }

        if (point is not null)
        {
            return Made(row, point, texts.Count > 0 ? string.Join(", ", texts) : null, service, opens, closes, demand, faults);
        }

        // Text ending in a state or a code is the address; text before it without a number is the name.
        var last = texts.FindLastIndex(IsPlace);
        if (last > 0 && PostalOnly().IsMatch(texts[last]) && IsPlace(texts[last - 1]))
        {
            // A code in a cell of its own comes after the state that ends the address.
            last--;
        }

        var (name, address) = texts.Count switch
        {
            0 => (null, ""),
            1 => (null, texts[0]),
            // Nothing looks like an address: use the documented order, name first.
            _ when last < 0 => (texts[0], string.Join(", ", texts.Skip(1))),
            _ => Split(texts, last),
        };
        return Made(row, address, name, service, opens, closes, demand, faults);
    }

    private static bool IsPlace(string text) => (text.Length == 2 && Regions.Of(text) is not null) || EndsInPlace().IsMatch(text);

    private static (string? Name, string Address) Split(List<string> texts, int last)
    {
        // Butte, MT in two cells; or a full address in one, and the name before or after it.
        var first = texts[last].Length == 2 && last > 0 ? last - 1 : last;
        if (first > 0 && texts[first - 1].Any(char.IsAsciiDigit) && char.IsAsciiDigit(texts[first - 1][0]))
        {
            first--;
        }

        var rest = texts.Take(first).Concat(texts.Skip(last + 1).Where(t => !PostalOnly().IsMatch(t))).ToList();
        var code = texts.Skip(last + 1).FirstOrDefault(t => PostalOnly().IsMatch(t));
        return (
            rest.Count > 0 ? string.Join(", ", rest) : null,
            string.Join(", ", texts.Skip(first).Take(last - first + 1)) + (code is null ? "" : $" {code}")
        );
    }

    private static AddressLine Made(
        int row,
        string address,
        string? name,
        double? service,
        double? opens,
        double? closes,
        long? demand,
        List<string> faults
    )
    {
        if (address.Length == 0)
        {
            faults.Add("the address is missing");
        }

        if (opens > closes)
        {
            faults.Add("the window closes before it opens");
        }

        return new AddressLine(row, address, name, service, opens, closes, demand, faults);
    }

    private static double? Number(string cell, string what, double max, List<string> faults)
    {
        if (
            JustMinutes().Match(cell) is { Success: true } m
            && double.TryParse(m.Groups["n"].Value, NumberStyles.Float, CultureInfo.InvariantCulture, out var n)
            && n <= max
        )
        {
            return n;
        }

        faults.Add($"{what}: “{cell}” is not a number from 0 to {max:#,##0}");
        return null;
    }

    private static double? Clock(string cell, List<string> faults)
    {
        var time = Time(cell);
        if (time is null)
        {
            faults.Add($"“{cell}” is not a time of day, such as 08:00");
        }

        return time;
    }

    private static (double? Opens, double? Closes) Fault(string cell, List<string> faults)
    {
        faults.Add($"“{cell}” is not a time window, such as 08:00-12:00");
        return (null, null);
    }

    private static (double? Opens, double? Closes)? Window(string cell)
    {
        var parts = WindowSplit().Split(cell.Trim());
        return
            parts.Length == 2
            && Time(parts[0]) is { } from
            && Time(parts[1]) is { } until
            && (cell.Contains(':') || parts.All(p => p.Trim().Length >= 1) && cell.Any(c => c is '-' or '–' or 't'))
            ? (from, until)
            : null;
    }

    [GeneratedRegex(@"^(?<h>\d{1,4})(?:[:.](?<m>\d{2}))?\s*(?<half>[ap])?\.?m?\.?$", RegexOptions.IgnoreCase)]
    private static partial Regex OneTime();

    /// <summary>Signed degrees north and east: 46.87, -113.99.</summary>
    [GeneratedRegex(@"^\d{1,2}\.\d+\s*[,/ ]\s*-\d{1,3}(\.\d+)?$")]
    private static partial Regex Position();

    [GeneratedRegex(@"\s*(?:-|–|\bto\b|\buntil\b)\s*")]
    private static partial Regex WindowSplit();

    [GeneratedRegex(@"^(?<n>\d+(?:\.\d+)?)\s*(?<unit>m|min|mins|minutes)?\.?$", RegexOptions.IgnoreCase)]
    private static partial Regex JustMinutes();

    [GeneratedRegex(@"(?:^|[\s,])(?:[A-Za-z]{2}\.?|\d{5}(?:-\d{4})?|[A-Za-z]\d[A-Za-z] ?\d[A-Za-z]\d)$")]
    private static partial Regex EndsInPlace();

    [GeneratedRegex(@"^(?:\d{5}(?:-\d{4})?|[A-Za-z]\d[A-Za-z] ?\d[A-Za-z]\d)$")]
    private static partial Regex PostalOnly();
}
