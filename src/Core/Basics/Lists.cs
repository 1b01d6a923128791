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

/// <summary>
/// What stands under a column for many rows: the sum of <paramref name="Of"/>, or, with <paramref name="Per"/>, that sum times
/// <paramref name="Scale"/> divided by the sum of another column, rounded half to even to two places (revenue per mile, margin in percent).
/// Rows that lack either part count in neither sum.
/// </summary>
/// <example>Revenue 1,000.00 over 400 miles: 2.50 per mile. Margin 150.00 of revenue 1,000.00, scale 100: 15.00 %.</example>
public sealed record ColumnTotal(string Of, string? Per = null, int Scale = 1)
{
    /// <summary>The total from the two sums; null when nothing was summed, or when the divisor is zero.</summary>
    public decimal? Value(decimal? of, decimal? per) =>
        Per is null ? of
        : of is null || per is null or 0 ? null
        : Math.Round(of.Value * Scale / per.Value, 2, MidpointRounding.ToEven);
}

/// <param name="Id">Its name in the API and in the database's view.</param>
/// <param name="Shown">Whether it is shown by default.</param>
/// <param name="Total">What the list's footer and subtotals show; null for columns that do not add up.</param>
public sealed record ListColumn(string Id, string Title, ColumnKind Kind, bool Shown = true, ColumnTotal? Total = null)
{
    /// <summary>The same column, with its sum in the footer.</summary>
    public ListColumn Summed() => this with { Total = new ColumnTotal(Id) };

    /// <summary>The same column, with the ratio of two other columns' sums in the footer.</summary>
    public ListColumn Ratio(string of, string per, int scale = 1) => this with { Total = new ColumnTotal(of, per, scale) };
}

/// <summary>How a filter compares.</summary>
public enum FilterOp
{
    /// <summary>Equal to one of the values, or in one of the periods.</summary>
    Is,

    /// <summary>Equal to none of the values.</summary>
    Not,

    /// <summary>Contains one of the texts.</summary>
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

/// <param name="Values">What to compare with; several mean any of them. None for empty and not empty, one for at least and at most.</param>
public sealed record ListFilter(string? Column, FilterOp? Op, IReadOnlyList<string>? Values);

public sealed record ListSort(string? Column, bool Descending);

/// <summary>How days and times are grouped.</summary>
public enum GroupPeriod
{
    Day,

    /// <summary>Weeks begin on Monday (ISO 8601).</summary>
    Week,
    Month,
    Quarter,
    Year,
}

/// <summary>One level of grouping: rows with the same value, or in the same period, stand together under a subtotal.</summary>
/// <param name="Period">For days and times only; a month when omitted.</param>
public sealed record ListGroup(string? Column, GroupPeriod? Period);

/// <summary>A list query: text found anywhere, filters that must all match, an order, and groups that come before it.</summary>
public sealed record ListQuery(
    string? Text,
    IReadOnlyList<ListFilter> Filters,
    IReadOnlyList<ListSort> Sorts,
    IReadOnlyList<ListGroup> Groups
)
{
    public const int MaxFilters = 20;
    public const int MaxValues = 50;
    public const int MaxSorts = 4;
    public const int MaxGroups = 2;

    /// <summary>Everything wrong with a list query; empty when it is valid.</summary>
    public Problems Check(IReadOnlyList<ListColumn> columns)
    {
        var validation = new Validation();
        validation.Text(Text, "text", "The filter", 200);
        TooMany(validation, "filters", Filters.Count, MaxFilters);
        TooMany(validation, "sorts", Sorts.Count, MaxSorts);
        TooMany(validation, "groups", Groups.Count, MaxGroups);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        for (var i = 0; i < Filters.Count; i++)
        {
            CheckFilter(validation, Filters[i], $"filters[{i}]", columns);
        }

        for (var i = 0; i < Sorts.Count; i++)
        {
            if (columns.All(c => c.Id != Sorts[i].Column))
            {
                validation.Add("unknown", "This list has no such column to sort by.", $"sorts[{i}].column");
            }
        }

        for (var i = 0; i < Groups.Count; i++)
        {
            CheckGroup(validation, Groups[i], $"groups[{i}]", columns);
        }

        return validation.Problems;
    }

    private static void TooMany(Validation validation, string field, int count, int most)
    {
        if (count > most)
        {
            validation.Add("too.many", $"Use at most {most} {field}.", field);
        }
    }

    private static void CheckFilter(Validation validation, ListFilter filter, string at, IReadOnlyList<ListColumn> columns)
    {
        var bare = filter.Op is FilterOp.Empty or FilterOp.Filled;
        var values = filter.Values ?? [];
        var most =
            bare ? 0
            : filter.Op is FilterOp.From or FilterOp.Until ? 1
            : MaxValues;
        if (columns.FirstOrDefault(c => c.Id == filter.Column) is not { } column)
        {
            validation.Add("unknown", "This list has no such column.", $"{at}.column");
        }
        else if (filter.Op is not { } op)
        {
            validation.Add("missing", "Choose how the filter compares.", $"{at}.op");
        }
        else if (values.Count == 0 && !bare)
        {
            validation.Add("missing", $"{column.Title} has nothing to compare with: enter {Wanted(column.Kind)}.", $"{at}.values");
        }
        else if (values.Count > most)
        {
            validation.Add("too.many", $"{column.Title} takes {(most == 0 ? "no value" : $"at most {most}")} here.", $"{at}.values");
        }
        else
        {
            for (var i = 0; i < values.Count; i++)
            {
                var value = validation.Text(values[i], $"{at}.values[{i}]", "The filter value", 400, required: true);
                if (value is not null && !Fits(column.Kind, op, value))
                {
                    var shown = value.Length > 40 ? value[..40] : value;
                    validation.Add(
                        "value",
                        $"{column.Title} cannot be compared with “{shown}”: enter {Wanted(column.Kind)}.",
                        $"{at}.values[{i}]"
                    );
                }
            }
        }
    }

    private static void CheckGroup(Validation validation, ListGroup group, string at, IReadOnlyList<ListColumn> columns)
    {
        if (columns.FirstOrDefault(c => c.Id == group.Column) is not { } column)
        {
            validation.Add("unknown", "This list has no such column to group by.", $"{at}.column");
        }
        else if (group.Period is not null && column.Kind is not (ColumnKind.Date or ColumnKind.Time))
        {
            validation.Add("value", $"{column.Title} has no periods to group by.", $"{at}.period");
        }
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
