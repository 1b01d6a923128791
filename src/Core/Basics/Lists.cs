using System.Globalization;
using NodaTime;

namespace SteadyLark.Core.Basics;

/// <summary>What a column of a list holds.</summary>
public enum ColumnKind
{
    Text,

    /// <summary>One of a fixed set of values.</summary>
    Choice,
    Number,

    /// <summary>US dollars.</summary>
    Money,
    Date,

    /// <summary>An instant.</summary>
    Time,
    YesNo,
}

/// <param name="Id">Its name in the API and in the database's view.</param>
/// <param name="Shown">Whether it is shown by default.</param>
public sealed record ListColumn(string Id, string Title, ColumnKind Kind, bool Shown = true);

/// <summary>How a filter compares.</summary>
public enum FilterOp
{
    /// <summary>Equal, or one of several with commas between.</summary>
    Is,
    Not,

    /// <summary>Contains the text.</summary>
    Has,

    /// <summary>Greater than or equal, or on or after a day.</summary>
    From,

    /// <summary>Less than or equal, or through the end of a day.</summary>
    Until,

    /// <summary>Is empty.</summary>
    Empty,

    /// <summary>Is not empty.</summary>
    Filled,
}

public sealed record ListFilter(string? Column, FilterOp? Op, string? Value);

public sealed record ListSort(string? Column, bool Descending);

/// <summary>A list query: text found anywhere, filters that must all match, and an order.</summary>
public sealed record ListQuery(string? Text, IReadOnlyList<ListFilter> Filters, IReadOnlyList<ListSort> Sorts)
{
    public const int MaxFilters = 20;
    public const int MaxSorts = 4;

    /// <summary>Everything wrong with a list query; empty when it is valid.</summary>
    public IReadOnlyList<Problem> Check(IReadOnlyList<ListColumn> columns)
    {
        var validation = new Validation();
        validation.Text(Text, "text", "The filter", 200);
        if (Filters.Count > MaxFilters || Sorts.Count > MaxSorts)
        {
            validation.Add(
                "too.many",
                $"Use at most {MaxFilters} filters and {MaxSorts} sort columns.",
                Filters.Count > MaxFilters ? "filters" : "sorts"
            );
            return validation.Problems;
        }

        for (var i = 0; i < Filters.Count; i++)
        {
            var (filter, at) = (Filters[i], $"filters[{i}]");
            var column = columns.FirstOrDefault(c => c.Id == filter.Column);
            var value = validation.Text(
                filter.Value,
                $"{at}.value",
                "The filter value",
                400,
                required: filter.Op is not (FilterOp.Empty or FilterOp.Filled)
            );
            if (column is null)
            {
                validation.Add("unknown", "This list has no such column.", $"{at}.column");
            }
            else if (filter.Op is not { } op)
            {
                validation.Add("missing", "Choose how the filter compares.", $"{at}.op");
            }
            else if (value is not null && !Fits(column.Kind, op, value))
            {
                validation.Add(
                    "value",
                    $"{column.Title} cannot be compared with “{(value.Length > 40 ? value[..40] : value)}”: enter {Wanted(column.Kind)}.",
                    $"{at}.value"
                );
            }
        }

        for (var i = 0; i < Sorts.Count; i++)
        {
            if (columns.All(c => c.Id != Sorts[i].Column))
            {
                validation.Add("unknown", "This list has no such column to sort by.", $"sorts[{i}].column");
            }
        }

        return validation.Problems;
    }

    private static bool Fits(ColumnKind kind, FilterOp op, string value) =>
        op is FilterOp.Empty or FilterOp.Filled
        || kind switch
        {
            ColumnKind.Number or ColumnKind.Money => op != FilterOp.Has
                && decimal.TryParse(value, NumberStyles.Number, CultureInfo.InvariantCulture, out var n)
                && Math.Abs(n) < 1_000_000_000_000m,
            ColumnKind.Date or ColumnKind.Time => op is not FilterOp.Has
                && DateSpan.Parse(value, AnyDay) is { } span
                && (op != FilterOp.From || span.From is not null),
            ColumnKind.YesNo => op is FilterOp.Is or FilterOp.Not && value is "yes" or "no",
            _ => op is FilterOp.Is or FilterOp.Not or FilterOp.Has,
        };

    /// <summary>Whether a text is a period does not depend on the day.</summary>
    private static readonly LocalDate AnyDay = new(2026, 1, 1);

    private static string Wanted(ColumnKind kind) =>
        kind switch
        {
            ColumnKind.Number or ColumnKind.Money => "a number",
            ColumnKind.Date or ColumnKind.Time =>
                "a date such as 2026-11-23, or a period such as last month, this quarter, last 30 days or older than 30 days",
            ColumnKind.YesNo => "yes or no",
            _ => "text, with is, is not or contains",
        };
}
