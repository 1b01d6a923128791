using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;

namespace SteadyLark.Store.Basics;

/// <summary>A list: a database view with its columns.</summary>
/// <param name="View">The database view; it has the columns' ids, and <c>id</c>.</param>
/// <param name="Found">The kind of its rows in the search index (search_entries.kind); empty when it has none.</param>
/// <param name="First">The default order.</param>
public sealed record ListSource(string Name, string Title, string View, string Found, ListSort First, IReadOnlyList<ListColumn> Columns)
{
    /// <summary>Columns that need a right beyond the list's own, and which.</summary>
    public IReadOnlyDictionary<string, Right> Needs { get; init; } = new Dictionary<string, Right>();

    /// <summary>Time columns shown in a zone of their own, and the view's column with that zone.</summary>
    public IReadOnlyDictionary<string, string> Zones { get; init; } = new Dictionary<string, string>();

    /// <summary>Columns that are not in the view, and the SQL for each; the view's row is <c>r</c>.</summary>
    public IReadOnlyDictionary<string, string> Expressions { get; init; } = new Dictionary<string, string>();

    /// <summary>The columns with a fixed set of values that is known without asking the database.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<string>> Choices { get; init; } = new Dictionary<string, IReadOnlyList<string>>();

    /// <summary>A column and its value whose rows are left out unless a filter names the column; null for none.</summary>
    public (string Column, string Value)? LeavesOut { get; init; }

    /// <summary>The SQL for a column's value.</summary>
    public string Sql(string column) => Expressions.GetValueOrDefault(column) ?? $"r.{column}";

    /// <summary>SQL for a time column's wall-clock time in its own zone, where it has one; null for a column in the company's zone.</summary>
    public string? Local(string column) => Zones.GetValueOrDefault(column) is { } zone ? $"({Sql(column)} at time zone r.{zone})" : null;

    public ListColumn? Column(string? id) => Columns.FirstOrDefault(c => c.Id == id);

    /// <summary>The list as a user may see it: other columns do not exist for them, to show, filter, sort, sum or export.</summary>
    public ListSource For(Access access) =>
        Needs.Count == 0
            ? this
            : this with
            {
                Columns = Columns.Where(c => !Needs.TryGetValue(c.Id, out var right) || access.Has(right)).ToList(),
            };

    /// <summary>The list with the company's custom fields as columns.</summary>
    public ListSource With(IReadOnlyList<CustomField> fields)
    {
        string Id(CustomField f) => $"custom_{f.Id}";
        return this with
        {
            Columns = [.. Columns, .. fields.Select(f => new ListColumn(Id(f), f.Name, KindOf(f.Kind), false))],
            Expressions = fields.ToDictionary(Id, f =>
                $"(select v.value from custom_values v where v.load_id = r.id and v.field_id = {f.Id}){Cast(f.Kind)}"
            ),
            Choices = Choices
                .Concat(fields.Where(f => f.Kind == CustomFieldKind.Choice).Select(f => KeyValuePair.Create(Id(f), f.Choices)))
                .ToDictionary(),
        };
    }

    private static ColumnKind KindOf(CustomFieldKind kind) =>
        kind switch
        {
            CustomFieldKind.Number => ColumnKind.Number,
            CustomFieldKind.Date => ColumnKind.Date,
            CustomFieldKind.Choice => ColumnKind.Choice,
            _ => ColumnKind.Text,
        };

    private static string Cast(CustomFieldKind kind) =>
        kind switch
        {
            CustomFieldKind.Number => "::numeric",
            CustomFieldKind.Date => "::date",
            _ => "",
        };
}
