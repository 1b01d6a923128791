using System.Globalization;
using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Store.Basics;

/// <summary>One level of grouping, as SQL: the value, and its order.</summary>
public sealed record GroupSql(string Sql, string Order);

/// <summary>A list's query as SQL. Column names come from the list's own catalog, everything typed is a parameter.</summary>
public sealed class ListQuerySql
{
    private readonly List<(string, object?)> _parameters = [];
    private readonly DateTimeZone _zone;
    private readonly LocalDate _today;

    /// <param name="query">Already validated against the list's columns.</param>
    /// <param name="only">Only these rows; all when null.</param>
    /// <param name="zone">The company's zone; <paramref name="today"/> in it, for periods such as last month.</param>
    public ListQuerySql(ListSource list, ListQuery query, IReadOnlyList<long>? only, DateTimeZone zone, LocalDate today)
    {
        (List, _zone, _today) = (list, zone, today);
        var where = Words(query.Text).ToList();
        where.AddRange(query.Filters.Select((f, i) => Where(list.Column(f.Column)!, f, $"f{i}")));
        if (list.LeavesOut is { } hidden && only is null && query.Filters.All(f => f.Column != hidden.Column))
        {
            _parameters.Add(("hidden", hidden.Value));
            where.Add($"{list.Sql(hidden.Column)} <> @hidden");
        }

        if (only is not null)
        {
            _parameters.Add(("only", only.ToArray()));
            where.Add("r.id = any(@only)");
        }

        From = $"{list.View} r{(where.Count == 0 ? "" : $" where {string.Join(" and ", where)}")}";
        Groups = query.Groups.Select(g => Group(list.Column(g.Column)!, g.Period ?? GroupPeriod.Month)).ToList();
        var sorts = query.Sorts.Count > 0 ? query.Sorts : [list.First];
        Order = string.Join(
            ", ",
            [
                .. Groups.Select(g => g.Order),
                .. sorts.Select(s => $"{list.Sql(s.Column!)} {(s.Descending ? "desc" : "asc")} nulls last"),
                $"r.id {(sorts[0].Descending ? "desc" : "asc")}",
            ]
        );
    }

    public ListSource List { get; }

    /// <summary>The view as <c>r</c>, with its conditions.</summary>
    public string From { get; }

    /// <summary>The order of the rows: groups first. It is total, so that positions mean something.</summary>
    public string Order { get; }

    public IReadOnlyList<GroupSql> Groups { get; }

    public (string, object?)[] Parameters => [.. _parameters];

    private IEnumerable<string> Words(string? text)
    {
        var words = (text ?? "").ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries).Take(8).ToList();
        _parameters.AddRange(words.Select((w, i) => ($"w{i}", (object?)$"%{Find.Escape(w)}%")));
        if (words.Count > 0 && List.Found.Length > 0)
        {
            var all = string.Join(" and ", words.Select((_, i) => $"words like @w{i}"));
            return [$"r.id in (select ref_id from search_entries where kind = '{List.Found}' and {all})"];
        }

        var texts = List.Columns.Where(c => c.Kind is ColumnKind.Text or ColumnKind.Choice).Select(c => List.Sql(c.Id)).ToList();
        return words.Select((_, i) => $"({string.Join(" or ", texts.Select(t => $"{t} ilike @w{i}"))})");
    }

    /// <summary>Days and times by the first day of their period, newest first; anything else by value.</summary>
    private GroupSql Group(ListColumn column, GroupPeriod period)
    {
        if (column.Kind is not (ColumnKind.Date or ColumnKind.Time))
        {
            return new GroupSql(List.Sql(column.Id), $"{List.Sql(column.Id)} asc nulls last");
        }

        var local =
            column.Kind == ColumnKind.Date
                ? $"{List.Sql(column.Id)}::timestamp"
                : List.Local(column.Id) ?? $"({List.Sql(column.Id)} at time zone '{_zone.Id}')";
        var first = $"date_trunc('{period.ToString().ToLowerInvariant()}', {local})::date";
        return new GroupSql(first, $"{first} desc nulls last");
    }

    private string Where(ListColumn column, ListFilter filter, string name)
    {
        var (sql, values) = (List.Sql(column.Id), (filter.Values ?? []).Select(v => v.Trim()).ToList());
        var not = filter.Op == FilterOp.Not ? "not " : "";
        if (filter.Op is FilterOp.Empty or FilterOp.Filled)
        {
            return $"{sql} is {(filter.Op == FilterOp.Empty ? "" : "not ")}null";
        }

        switch (column.Kind)
        {
            case ColumnKind.Number or ColumnKind.Money:
                var numbers = values.Select(v => decimal.Parse(v, NumberStyles.Number, CultureInfo.InvariantCulture)).ToArray();
                _parameters.Add((name, filter.Op is FilterOp.From or FilterOp.Until ? numbers[0] : numbers));
                return filter.Op switch
                {
                    FilterOp.From => $"{sql} >= @{name}",
                    FilterOp.Until => $"{sql} <= @{name}",
                    _ => $"{not}coalesce({sql} = any(@{name}), false)",
                };
            case ColumnKind.Date or ColumnKind.Time:
                var spans = values.Select((v, i) => During(column, filter.Op ?? FilterOp.Is, DateSpan.Parse(v, _today)!, $"{name}_{i}"));
                return $"{not}coalesce({string.Join(" or ", spans)}, false)";
            case ColumnKind.YesNo:
                return $"{not}({string.Join(" or ", values.Select(v => $"{sql} is {(v == "yes" ? "true" : "not true")}"))})";
            case var _ when filter.Op == FilterOp.Has:
                _parameters.Add((name, values.Select(v => $"%{Find.Escape(v)}%").ToArray()));
                return $"{sql} ilike any(@{name})";
            default:
                _parameters.Add((name, values.Select(v => v.ToLowerInvariant()).ToArray()));
                return $"{not}coalesce(lower({sql}) = any(@{name}), false)";
        }
    }

    /// <summary>The condition that a day or time is in a span of days.</summary>
    private string During(ListColumn column, FilterOp op, DateSpan span, string name)
    {
        var (from, until) = (op == FilterOp.Until ? null : span.From, op == FilterOp.From ? null : span.Until);
        var (sql, local, isDate) = (List.Sql(column.Id), List.Local(column.Id), column.Kind == ColumnKind.Date);
        var parts = new List<string>();
        if (from is { } first)
        {
            _parameters.Add((name, isDate ? first : _zone.AtStartOfDay(first).ToInstant()));
            // Wall-clock days; the instants a day around them let the index help.
            parts.Add(local is null ? $"{sql} >= @{name}" : $"{sql} >= @{name} - interval '1 day' and {local} >= @{name}d");
            _parameters.AddRange(local is null ? [] : [($"{name}d", first)]);
        }

        if (until is { } last)
        {
            _parameters.Add(($"{name}b", isDate ? last : _zone.AtStartOfDay(last.PlusDays(1)).ToInstant()));
            parts.Add(
                isDate ? $"{sql} <= @{name}b"
                : local is null ? $"{sql} < @{name}b"
                : $"{sql} < @{name}b + interval '1 day' and {local} < @{name}e + 1"
            );
            _parameters.AddRange(local is null ? [] : [($"{name}e", last)]);
        }

        return $"({string.Join(" and ", parts)})";
    }
}
