using System.Globalization;
using NodaTime.Text;

namespace SteadyLark.Core.Basics;

/// <summary>What a column of a list holds.</summary>
public enum ColumnKind
{
    Text,

    /// <summary>One of a few words.</summary>
    Word,
    Number,

    /// <summary>US dollars.</summary>
    Money,
    Date,

    /// <summary>A moment.</summary>
    Moment,
    Flag,
}

/// <param name="Id">Its name in the API and in the database's view.</param>
/// <param name="Shown">Whether it is shown until somebody chooses otherwise.</param>
public sealed record ListColumn(string Id, string Title, ColumnKind Kind, bool Shown = true);

/// <summary>How a filter compares.</summary>
public enum FilterOp
{
    /// <summary>Equal, or one of several with commas between.</summary>
    Is,
    Not,

    /// <summary>Holds the text.</summary>
    Has,

    /// <summary>At least, or from a day on.</summary>
    From,

    /// <summary>At most, or up to a day's end.</summary>
    Until,

    /// <summary>Holds nothing.</summary>
    Empty,

    /// <summary>Holds something.</summary>
    Filled,
}

public sealed record ListFilter(string? Column, FilterOp? Op, string? Value);

public sealed record ListSort(string? Column, bool Descending);

/// <summary>A list as it is asked for: words that stand anywhere, filters that all hold, and an order.</summary>
public sealed record ListQuery(string? Text, IReadOnlyList<ListFilter> Filters, IReadOnlyList<ListSort> Sorts)
{
    public const int MostFilters = 20;
    public const int MostSorts = 4;

    /// <summary>Everything that is wrong with a query on a list; empty when it can be asked.</summary>
    public IReadOnlyList<Problem> Check(IReadOnlyList<ListColumn> columns)
    {
        var checks = new Checks();
        checks.Text(Text, "text", "The filter", 200);
        if (Filters.Count > MostFilters || Sorts.Count > MostSorts)
        {
            checks.Add("too.many", $"At most {MostFilters} filters and {MostSorts} columns to sort by.", Filters.Count > MostFilters ? "filters" : "sorts");
            return checks.Problems;
        }

        for (var i = 0; i < Filters.Count; i++)
        {
            var (filter, at) = (Filters[i], $"filters[{i}]");
            var column = columns.FirstOrDefault(c => c.Id == filter.Column);
            var value = checks.Text(filter.Value, $"{at}.value", "The filter's value", 400, required: filter.Op is not (FilterOp.Empty or FilterOp.Filled));
            if (column is null)
            {
                checks.Add("unknown", "There is no such column in this list.", $"{at}.column");
            }
            else if (filter.Op is not { } op)
            {
                checks.Add("missing", "Say how the filter compares.", $"{at}.op");
            }
            else if (value is not null && !Fits(column.Kind, op, value))
            {
                checks.Add("value", $"{column.Title} cannot be compared so with “{(value.Length > 40 ? value[..40] : value)}”: write {Wanted(column.Kind)}.", $"{at}.value");
            }
        }

        for (var i = 0; i < Sorts.Count; i++)
        {
            if (columns.All(c => c.Id != Sorts[i].Column))
            {
                checks.Add("unknown", "There is no such column to sort by.", $"sorts[{i}].column");
            }
        }

        return checks.Problems;
    }

    private static bool Fits(ColumnKind kind, FilterOp op, string value) => op is FilterOp.Empty or FilterOp.Filled || kind switch
    {
        ColumnKind.Number or ColumnKind.Money => op != FilterOp.Has && decimal.TryParse(value, NumberStyles.Number, CultureInfo.InvariantCulture, out var n) && Math.Abs(n) < 1_000_000_000_000m,
        ColumnKind.Date or ColumnKind.Moment => op is not FilterOp.Has && LocalDatePattern.Iso.Parse(value) is { Success: true, Value.Year: > 1900 and < 2200 },
        ColumnKind.Flag => op is FilterOp.Is or FilterOp.Not && value is "yes" or "no",
        _ => op is FilterOp.Is or FilterOp.Not or FilterOp.Has,
    };

    private static string Wanted(ColumnKind kind) => kind switch
    {
        ColumnKind.Number or ColumnKind.Money => "a number",
        ColumnKind.Date or ColumnKind.Moment => "a day such as 2026-11-23",
        ColumnKind.Flag => "yes or no",
        _ => "words, with is, is not or has",
    };
}
